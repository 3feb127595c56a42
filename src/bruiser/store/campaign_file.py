"""A campaign file that is open: read, written in transactions, copied, let go of."""

from __future__ import annotations

import logging
import sqlite3
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy.engine import Connection

from bruiser.core.errors import StoreError
from bruiser.core.progress import Progress, no_progress
from bruiser.store.checked_rows import SetAside
from bruiser.store.connections import connector, make_engine
from bruiser.store.copies import copy_whole
from bruiser.store.driver_errors import translate
from bruiser.store.expected_schema import check_whole_schema
from bruiser.store.headers import check_schema
from bruiser.store.identity import (
    FileHold,
    Held,
    new_mark,
    note_path,
    write_note,
)
from bruiser.store.open_campaign import OpenCampaign
from bruiser.store.progress import settle, watch_touched
from bruiser.store.ranges import guard
from bruiser.store.undo_log import watch
from bruiser.store.upgrading import look_through_pages

log = logging.getLogger(__name__)

_LARGEST_JOURNAL = 4 * 2**20
READ_ONLY_WHY = {
    Held.ASKED: "It was opened for reading only.",
    Held.ELSEWHERE: "Another window has this campaign open; work there, or close it.",
    Held.FORBIDDEN: "The file or its folder cannot be written: copy it to a place of your own.",
}


class CampaignFile(OpenCampaign):
    """A campaign in a file; :mod:`bruiser.store.opening` makes and opens them.

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
        super().__init__()
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
        try:
            check_schema(self._anchor, path.name)
            check_whole_schema(self._anchor, path.name)
        except BaseException:
            self._anchor.close()
            raise
        self._engine = make_engine(self._connect_same(connect))
        self._engine.connect().close()  # Kept open as well, so that all can still be read.
        # Who writes has the triggers; they would only make every other connection slower.
        self._writer = make_engine(self._connect_same(connect, watched=True))
        guard(self._writer)
        if hold.held is Held.WRITING:
            self._mark()

    def _connect_same(
        self, connect: Callable[[], sqlite3.Connection], *, watched: bool = False
    ) -> Callable[[], sqlite3.Connection]:
        def connect_same() -> sqlite3.Connection:
            if self._hold.held is Held.WRITING:
                self._hold.look()
            connection = connect()
            if watched:
                watch(connection)
                watch_touched(connection)
            return connection

        return connect_same

    @property
    def name(self) -> str:
        """Its file's name."""
        return self.path.name

    @property
    def place(self) -> str:
        """The file's path."""
        return str(self.path)

    def is_same(self, other: OpenCampaign) -> bool:
        """Whether the other is this very file."""
        return isinstance(other, CampaignFile) and self.path.samefile(other.path)

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

    def _begin_reading(self) -> Connection:
        return self._engine.connect().execution_options(**self._how)

    @contextmanager
    def _begin_writing(self) -> Iterator[Connection]:
        with self._writing:
            self._hold.look()
            with (
                self._writer.connect().execution_options(write=True, **self._how) as connection,
                connection.begin(),
            ):
                yield connection
                settle(connection)
            self._tidy()

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

    def look_through_pages(self, progress: Progress = no_progress) -> str:
        """Look through every page of the file; what is wrong, or nothing."""
        found = look_through_pages(self.path, progress)
        self.unchecked = False
        return found

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
            fresh = CampaignFile(target, FileHold.take(target))
        except (StoreError, OSError, sqlite3.Error) as error:
            target.unlink(missing_ok=True)
            raise StoreError(
                f"The campaign could not be saved as {target.name}. {error}",
                "Try another place; this window still has it.",
            ) from error
        with self._writing:
            self._let_go()
            self.path, self._hold, self._copy = fresh.path, fresh._hold, fresh._copy
            self._anchor = fresh._anchor
            self._engine, self._writer = fresh._engine, fresh._writer

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
        self._writer.dispose()
        self._anchor.close()
        self._hold.close()
        self._hold = FileHold(path=self.path, held=Held.FORBIDDEN, descriptor=-1)
        if self._copy is not None:
            self._copy.cleanup()
            self._copy = None
