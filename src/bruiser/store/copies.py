"""Copies to read from, where a file itself can be neither opened nor upgraded."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path

from bruiser.core.errors import Damaged, StoreError
from bruiser.store.connections import connector, make_engine
from bruiser.store.driver_errors import translate
from bruiser.store.headers import check_header
from bruiser.store.upgrading import copy_database, upgrade


def copied_with_journal(path: Path) -> tuple[Path, tempfile.TemporaryDirectory[str]]:
    """A copy of a file with its journal, where it can be opened, and the folder it is in."""
    folder = tempfile.TemporaryDirectory(prefix="bruiser-reading-")
    try:
        for tail in ("", "-wal"):
            shutil.copyfile(
                path.with_name(f"{path.name}{tail}"), Path(folder.name, path.name + tail)
            )
    except OSError as error:
        folder.cleanup()
        raise StoreError(
            f"{path.name} can only be read from a copy, and none could be made: {error.strerror}."
        ) from error
    return Path(folder.name, path.name), folder


def upgraded_copy(path: Path, *, immutable: bool) -> tuple[Path, tempfile.TemporaryDirectory[str]]:
    """A copy of an older file, brought up to date, and the folder it is in."""
    folder = tempfile.TemporaryDirectory(prefix="bruiser-reading-")
    target = Path(folder.name, path.name)
    try:
        if immutable:
            shutil.copyfile(path, target)
        else:
            copy_database(path, target)
        engine = make_engine(connector(target, "rw"))
        try:
            upgrade(engine)
        finally:
            engine.dispose()
    except (OSError, sqlite3.Error) as error:
        folder.cleanup()
        raise StoreError(
            f"{path.name} is of an older version and no copy could be upgraded: {error}.",
            "Copy it to a place with room, and open it there.",
        ) from error
    except BaseException:
        folder.cleanup()
        raise
    return target, folder


def copy_whole(source: sqlite3.Connection, target: Path) -> None:
    """Write a database into a new file, and look whether it holds together there.

    Raises
    ------
    StoreError
        If a file of that name exists, it cannot be written, or does not hold together; nothing is
        left of it then.
    """
    if target.exists():
        raise StoreError(f"{target.name} already exists.", "Choose another name.")
    try:
        with closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
            whole = copy.execute("PRAGMA quick_check(1)").fetchone()[0]
        check_header(target)
        if whole != "ok":
            raise Damaged("What is left of the campaign does not hold together.")
    except (sqlite3.Error, StoreError) as error:
        target.unlink(missing_ok=True)
        said = translate(error) if isinstance(error, sqlite3.Error) else error
        raise StoreError(
            f"The campaign could not be saved as {target.name}. {said}",
            "Try another place; this window still has it.",
        ) from error
