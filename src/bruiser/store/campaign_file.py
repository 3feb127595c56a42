"""Opening, creating, holding and closing a campaign file."""

from __future__ import annotations

import logging
import sqlite3
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType

from sqlalchemy.engine import Connection
from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Busy, ReadOnly, StoreError
from bruiser.store.backups import BackupWhy, keep_backup
from bruiser.store.checked_rows import OPTION, SetAside
from bruiser.store.connections import connector, make_engine
from bruiser.store.copies import copied_with_journal, copy_whole, upgraded_copy
from bruiser.store.driver_errors import translate
from bruiser.store.headers import check_header, check_schema, check_untouched
from bruiser.store.identity import (
    FileHold,
    Held,
    new_mark,
    note_path,
    real_path,
    set_foreign_journal_aside,
    write_note,
)
from bruiser.store.schema import APPLICATION_ID
from bruiser.store.undo_log import watch
from bruiser.store.upgrading import examine, upgrade

__all__ = [
    "CampaignFile",
    "Connection",
    "create_campaign",
    "open_campaign",
]

log = logging.getLogger(__name__)

_LARGEST_JOURNAL = 4 * 2**20
_NO_JOURNAL = (sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_IOERR)
READ_ONLY_WHY = {
    Held.ASKED: "It was opened for reading only.",
    Held.ELSEWHERE: "Another window has this campaign open; work there, or close it.",
    Held.FORBIDDEN: "The file or its folder cannot be written: copy it to a place of your own.",
}


class CampaignFile:
    """An open campaign. Use :func:`open_campaign` or :func:`create_campaign`.

    Parameters
    ----------
    path : Path
        Where the campaign is.
    hold : FileHold
        The file held, and whether it may be written.
    source : Path, optional
        What is read instead: a copy, where the file itself cannot be opened or upgraded.
    immutable : bool
        Whether nothing can change the file while it is read.

    Attributes
    ----------
    notes : list of str
        What a person should be told about how it was opened.
    set_aside : dict
        Rows that could not be read so far, by table and key.
    """

    def __init__(
        self,
        path: Path,
        hold: FileHold,
        source: Path | None = None,
        *,
        immutable: bool = False,
        copy: tempfile.TemporaryDirectory[str] | None = None,
    ) -> None:
        self.path = path
        self.notes: list[str] = []
        self.set_aside: dict[tuple[str, str], SetAside] = {}
        self._hold = hold
        self._copy = copy
        self._writing = threading.RLock()
        self._longest_journal = _LARGEST_JOURNAL
        mode = "rw" if hold.held is Held.WRITING else "ro"
        connect = connector(source or path, mode, immutable=immutable)
        # One connection stays: what it holds open is the campaign, wherever its path leads.
        self._anchor = connect()
        self._anchor.execute("PRAGMA busy_timeout = 200")
        # What a journal beside it brings is seen only here.
        check_schema(self._anchor, path.name)
        self._engine = make_engine(self._connect_same(connect))
        if hold.held is Held.WRITING:
            self._mark()

    def _connect_same(
        self, connect: Callable[[], sqlite3.Connection]
    ) -> Callable[[], sqlite3.Connection]:
        def connect_same() -> sqlite3.Connection:
            if self._hold.held is Held.WRITING:
                self._hold.look()
            connection = connect()
            if self._hold.held is Held.WRITING:
                watch(connection)
            return connection

        return connect_same

    @property
    def read_only(self) -> bool:
        """Whether nothing can be written from here."""
        return self._hold.held is not Held.WRITING

    @property
    def why_read_only(self) -> str:
        """Why nothing can be written, and what to do; empty where it can."""
        return READ_ONLY_WHY.get(self._hold.held, "")

    def look(self) -> None:
        """Say whether the file is still the one that was opened.

        Raises
        ------
        Gone
            If it was moved, deleted or replaced.
        """
        if not self.read_only:
            self._hold.look()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection that sees one state of the file."""
        try:
            with (
                self._engine.connect().execution_options(**{OPTION: self.set_aside}) as connection,
                connection.begin(),
            ):
                yield connection
        except DBAPIError as error:
            raise translate(error) from error

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction: all or nothing.

        Raises
        ------
        ReadOnly
            If the campaign was opened for reading only.
        Gone
            If the file was moved, deleted or replaced; nothing is written then.
        """
        if self.read_only:
            raise ReadOnly("This window shows the campaign read-only.", self.why_read_only)
        how = {"write": True, OPTION: self.set_aside}
        try:
            with self._writing:
                self._hold.look()
                with (
                    self._engine.connect().execution_options(**how) as connection,
                    connection.begin(),
                ):
                    yield connection
                self._tidy()
        except DBAPIError as error:
            raise translate(error) from error

    def _tidy(self) -> None:
        """Write the journal back once it is long; what is stored is stored without it."""
        journal = self.path.with_name(f"{self.path.name}-wal")
        try:
            length = journal.stat().st_size
            if length > self._longest_journal:
                self._longest_journal = length + _LARGEST_JOURNAL
                if self._mark():
                    self._longest_journal = _LARGEST_JOURNAL
        except (OSError, sqlite3.Error, StoreError):
            log.warning("the journal of %s could not be written back", self.path.name)

    def _mark(self) -> bool:
        """Put a new mark into the head of the file and write the journal back.

        Returns whether all of it could be: somebody who reads may stand in the way, and the head
        then keeps one of the earlier marks.
        """
        mark = new_mark()
        try:
            earlier = self._hold.marks or (
                self._anchor.execute("PRAGMA user_version").fetchone()[0],
            )
            self._hold.marks = (*earlier, mark)
            write_note(self.path, self._hold.marks)
            self._anchor.execute(f"PRAGMA user_version = {mark}")
            busy, _, _ = self._anchor.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
            if not busy:
                self._hold.marks = (mark,)
                write_note(self.path, self._hold.marks)
            return not busy
        except sqlite3.Error as error:
            raise translate(error) from error
        except OSError as error:
            raise StoreError(
                f"Nothing can be written beside {self.path.name}: {error.strerror}.",
                "Make room; what was stored before is safe.",
            ) from error

    def copy_to(self, target: Path) -> None:
        """Write all that is open here into a new file.

        Raises
        ------
        StoreError
            If a file of that name exists, it cannot be written, or does not hold together.
        """
        copy_whole(self._anchor, target)

    def save_as(self, target: Path) -> None:
        """Write all that is open here into a new file, and go on there.

        Raises
        ------
        StoreError
            If a file of that name exists, it cannot be written, or what is left of a file that
            another was copied over does not hold together.
        """
        self.copy_to(target)
        try:
            fresh = open_campaign(target)
        except StoreError as error:
            target.unlink(missing_ok=True)
            raise StoreError(
                f"The campaign could not be saved as {target.name}. {error}",
                "Try another place; this window still has it.",
            ) from error
        with self._writing:
            self._let_go()
            self.path, self._hold, self._copy = fresh.path, fresh._hold, fresh._copy
            self._anchor, self._engine = fresh._anchor, fresh._engine

    def close(self) -> None:
        """Release the file and its lock; the journal is written back and goes."""
        if not self.read_only:
            try:
                self._hold.look()
                self._anchor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            except (StoreError, sqlite3.Error):
                log.warning("%s was closed without writing its journal back", self.path.name)
            else:
                self._let_go()
                note_path(self.path).unlink(missing_ok=True)
                return
        self._let_go()

    def _let_go(self) -> None:
        self._engine.dispose()
        self._anchor.close()
        self._hold.close()
        self._hold = FileHold(path=self.path, held=Held.FORBIDDEN, descriptor=-1)
        if self._copy is not None:
            self._copy.cleanup()
            self._copy = None

    def __enter__(self) -> CampaignFile:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        value: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()


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
    older = False
    try:
        older = examine(path)
    except sqlite3.OperationalError as error:
        if writes or error.sqlite_errorcode & 0xFF not in _NO_JOURNAL:
            raise
        # No journal can be made here: read it as it stands, or a copy with the journal there is.
        journal = path.with_name(f"{path.name}-wal")
        if journal.exists() and journal.stat().st_size:
            source, copy = copied_with_journal(path)
        else:
            immutable = True
        older = examine(source, immutable=immutable)
    if older and writes:
        try:
            keep_backup(path, BackupWhy.UPGRADE)
        except StoreError as error:
            raise StoreError(
                f"{path.name} is older and has to be copied before it is upgraded. {error}"
            ) from error
        engine = make_engine(connector(path, "rw"))
        try:
            upgrade(engine)
        finally:
            engine.dispose()
    elif older:
        source, copy = upgraded_copy(source, immutable=immutable)
        immutable = False
        notes.append(f"{path.name} is of an older version: a copy of it, upgraded, is shown.")
    opened = CampaignFile(path, hold, source, immutable=immutable, copy=copy)
    opened.notes = notes
    return opened
