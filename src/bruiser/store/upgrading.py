"""Bringing an older file up to date: what it is, a copy first, then step by step."""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import sqlalchemy as sa
from sqlalchemy.engine import Connection, Engine
from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Damaged, TooNew
from bruiser.core.progress import Cancelled, Progress, no_progress
from bruiser.store.connections import connector
from bruiser.store.driver_errors import translate
from bruiser.store.schema import HEAD

if TYPE_CHECKING:
    from alembic.config import Config

_LARGE = 32 * 2**20
"""Looking through so many bytes takes a few hundredths of a second."""
_STEPS = 100_000
_ONE_AT_A_TIME = threading.Lock()
"""The library of the migrations holds its state by the process."""
_MIGRATIONS = Path(__file__).parent / "migrations"


def revision_of(connection: Connection) -> str | None:
    """The version a file was written by; None where it holds nothing yet."""
    if not sa.inspect(connection).has_table("alembic_version"):
        return None
    row = connection.exec_driver_sql("SELECT version_num FROM alembic_version").first()
    return None if row is None else str(row[0])


def is_older(name: str, revision: str | None) -> bool:
    """Whether a file of this version needs upgrading.

    Raises
    ------
    TooNew
        If this program does not know the version.
    """
    known = {p.stem for p in (_MIGRATIONS / "versions").glob("0*.py")}
    if revision is not None and revision not in known:
        raise TooNew(
            f"{name} was written by a newer Bruiser.",
            "Open it with that version; it was left untouched.",
        )
    return revision != HEAD


class Examined(NamedTuple):
    """Whether a file is older than this program, and whether its pages were not looked through."""

    older: bool
    unchecked: bool


def examine(path: Path, *, immutable: bool = False) -> Examined:
    """Look whether a file is older; raises where it is damaged or newer.

    The pages of a large file of this version are not looked through: that is done beside the work.
    """
    with closing(connector(path, "ro", immutable=immutable)()) as plain:
        if path.stat().st_size > _LARGE and (revision := _revision(plain)) == HEAD:
            return Examined(older=is_older(path.name, revision), unchecked=True)
        verdict = str(plain.execute("PRAGMA quick_check(1)").fetchone()[0])
        if verdict != "ok":
            raise Damaged(f"{path.name} is damaged: {verdict}.", "It was left untouched.")
        return Examined(older=is_older(path.name, _revision(plain)), unchecked=False)


def look_through_pages(path: Path, progress: Progress = no_progress) -> str:
    """Look through every page of a file; what is wrong with the first bad one, or nothing.

    Parameters
    ----------
    progress : callable
        Told now and then that it goes on; may raise ``Cancelled``, which ends it.
    """
    cancelled: list[Cancelled] = []

    def go_on() -> int:
        try:
            progress(0, 0)
        except Cancelled as error:
            cancelled.append(error)
        return len(cancelled)

    with closing(connector(path, "ro")()) as plain:
        plain.set_progress_handler(go_on, _STEPS)
        try:
            verdict = str(plain.execute("PRAGMA quick_check(1)").fetchone()[0])
        except sqlite3.DatabaseError as error:
            if cancelled:
                raise cancelled[0] from error
            return str(error)
    return "" if verdict == "ok" else verdict


def _revision(plain: sqlite3.Connection) -> str | None:
    engine = sa.create_engine("sqlite://", creator=lambda: plain, poolclass=sa.pool.StaticPool)
    with engine.connect() as connection:
        return revision_of(connection)


def alembic_config() -> Config:
    """Where the migrations are."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    return config


def upgrade(engine: Engine) -> None:
    """Run the migrations up to HEAD, each with its version mark in one transaction.

    Raises
    ------
    StoreError
        If one fails; the file is then of the version before it.
    """
    try:
        with engine.connect().execution_options(write=True) as connection:
            upgrade_on(connection)
    except DBAPIError as error:
        said = translate(error)
        raise type(said)(f"The file could not be upgraded. {said.headline}", said.remedy) from error


def upgrade_on(connection: Connection) -> None:
    """Run the migrations over a connection: in its transaction where it is in one."""
    from alembic import command

    config = alembic_config()
    config.attributes["connection"] = connection
    with _ONE_AT_A_TIME:
        command.upgrade(config, "head")


def copy_database(path: Path, target: Path) -> None:
    """Copy a database with what its journal holds; raises what the driver raises."""
    with (
        closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as source,
        closing(sqlite3.connect(target)) as copy,
    ):
        source.backup(copy)
