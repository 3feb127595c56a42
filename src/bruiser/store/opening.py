"""Making a campaign file, and opening one: examined, held, upgraded if it is older."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Busy, StoreError
from bruiser.store.backups import BackupWhy, keep_backup
from bruiser.store.campaign_file import CampaignFile
from bruiser.store.connections import connector, make_engine
from bruiser.store.copies import copied_with_journal, upgraded_copy
from bruiser.store.driver_errors import translate
from bruiser.store.expected_schema import check_whole_schema
from bruiser.store.headers import check_header, check_untouched
from bruiser.store.identity import FileHold, Held, real_path, set_foreign_journal_aside
from bruiser.store.schema import APPLICATION_ID
from bruiser.store.upgrading import examine, upgrade

_NO_JOURNAL = (sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_IOERR)


def create_campaign(path: Path) -> CampaignFile:
    """Make a new, empty campaign file.

    Raises
    ------
    StoreError
        If a file of that name exists or cannot be made; no half file stays.
    """
    try:
        path.open("xb").close()
    except FileExistsError as error:
        raise StoreError(f"{path.name} already exists.", "Choose another name.") from error
    except OSError as error:
        raise StoreError(f"{path.name} cannot be made: {error.strerror}.") from error
    engine = make_engine(connector(path, "rw"))
    try:
        with engine.connect() as connection, connection.begin():
            connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
        upgrade(engine)
        engine.dispose()
        hold = FileHold.take(path)
        if hold.held is not Held.WRITING:
            raise Busy(f"{path.name} is being made by another window.")
        return CampaignFile(path, hold)
    except (DBAPIError, sqlite3.Error, StoreError) as error:
        engine.dispose()
        for tail in ("", "-wal", "-shm", "-open"):
            path.with_name(f"{path.name}{tail}").unlink(missing_ok=True)
        if isinstance(error, StoreError):
            raise
        raise translate(error) from error


def open_campaign(path: Path, *, read_only: bool = False) -> CampaignFile:
    """Open a campaign; read-only when another window holds it, or it cannot be written.

    Raises
    ------
    StoreError
        If there is no such file.
    Damaged, TooNew
        If it is no campaign, cannot be read, or is newer than this program. The file is left
        as it was.

    Notes
    -----
    A symbolic link is followed first: journal and note stand beside the file itself. On a medium
    that cannot be written the file is read as it is, or a copy with its journal where one is left;
    an older one is upgraded in a copy.
    """
    check_header(path)
    check_untouched(path)
    try:
        path = real_path(path)
        hold = FileHold.take(path, writing=not read_only)
    except OSError as error:
        raise StoreError(f"{path.name} cannot be read: {error.strerror}.") from error
    try:
        return _open_held(path, hold)
    except (sqlite3.Error, DBAPIError) as error:
        hold.close()
        raise translate(error) from error
    except BaseException:
        hold.close()
        raise


def _try_upgrade(path: Path, name: str) -> None:
    """Upgrade a copy: only a file whose tables become ours is written to."""
    copy, folder = upgraded_copy(path, immutable=False)
    with folder, closing(sqlite3.connect(copy)) as plain:
        check_whole_schema(plain, name)


def _open_held(path: Path, hold: FileHold) -> CampaignFile:
    notes = []
    writes = hold.held is Held.WRITING
    aside = set_foreign_journal_aside(path) if writes else None
    if aside is not None:
        notes.append(
            f"Another file was copied over {path.name} while a journal of the earlier one was "
            f"left. It is shown as copied; the journal is kept as {aside.name}."
        )
    source, immutable, copy = path, False, None
    try:
        found = examine(path)
    except sqlite3.OperationalError as error:
        if writes or error.sqlite_errorcode & 0xFF not in _NO_JOURNAL:
            raise
        # No journal can be made here: read it as it stands, or a copy with the journal there is.
        journal = path.with_name(f"{path.name}-wal")
        if journal.exists() and journal.stat().st_size:
            source, copy = copied_with_journal(path)
        else:
            immutable = True
        found = examine(source, immutable=immutable)
    if not found.older:
        with closing(connector(source, "ro", immutable=immutable)()) as plain:
            check_whole_schema(plain, path.name)
    if found.older and writes:
        try:
            keep_backup(path, BackupWhy.UPGRADE)
        except StoreError as error:
            raise StoreError(
                f"{path.name} is older and has to be copied before it is upgraded. {error}"
            ) from error
        _try_upgrade(source, path.name)
        engine = make_engine(connector(path, "rw"))
        try:
            upgrade(engine)
        finally:
            engine.dispose()
    elif found.older:
        source, copy = upgraded_copy(source, immutable=immutable)
        immutable = False
        notes.append(f"{path.name} is of an older version: a copy of it, upgraded, is shown.")
    try:
        opened = CampaignFile(path, hold, source, immutable=immutable, copy=copy)
    except BaseException:
        if copy is not None:
            copy.cleanup()
        raise
    opened.notes = notes
    opened.unchecked = found.unchecked
    return opened
