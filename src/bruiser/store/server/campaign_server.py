"""A campaign on a PostgreSQL server that is open."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.engine import Connection
from sqlalchemy.exc import DBAPIError
from typing_extensions import override

from bruiser.core.errors import Busy, StoreError, Unreachable
from bruiser.core.progress import Progress, no_progress
from bruiser.store.checked_rows import SetAside
from bruiser.store.open_campaign import OpenCampaign, Worker
from bruiser.store.opening import create_campaign
from bruiser.store.progress import settle
from bruiser.store.ranges import guard
from bruiser.store.server.address import ServerAddress
from bruiser.store.server.connecting import Connect, make_server_engine, watched
from bruiser.store.server.listening import CHANNEL, Listener
from bruiser.store.whole_copies import copy_campaign

WRITE_KEY = 0x42525531
"""The advisory lock of this database that one writer holds at a time, and who migrates."""
_LOCK = sa.text("SELECT pg_advisory_xact_lock(:key)")
_HOLDER = sa.text(
    "SELECT a.usename, a.application_name, a.pid "
    "FROM pg_locks l JOIN pg_stat_activity a USING (pid) "
    "WHERE l.locktype = 'advisory' AND l.granted AND l.objid = :key "
    "AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())"
)
_TELL = sa.text("SELECT pg_notify(:channel, :words)")
_READS_ONLY = "Your role on the server only reads: whoever keeps the server gives others."
_NO_RELEASE = "Only a checker's role checks and releases a guide; yours does not."


@dataclass(frozen=True, kw_only=True)
class Rights:
    """What the database lets this user do."""

    writes: bool
    releases: bool


class CampaignServer(OpenCampaign):
    """A campaign on a server; :mod:`bruiser.store.server.opening` makes and opens them.

    Parameters
    ----------
    address : ServerAddress
        Where it is.
    connect : callable
        Opens a connection.
    rights : Rights
        What this user may do.
    worker : Worker
        Who works here, and from which bench.
    path : Path
        Where its local copies are kept, and what was recorded while the server was away.
    read_only : bool
        Whether only reading was asked for.

    Notes
    -----
    Transactions that write follow one another: each holds an advisory lock of the database, so
    that revisions are numbered in the order in which they are seen.
    """

    shared = True

    def __init__(
        self,
        address: ServerAddress,
        connect: Connect,
        rights: Rights,
        worker: Worker,
        path: Path,
        *,
        read_only: bool = False,
    ) -> None:
        super().__init__()
        self.address = address
        self.path = path
        self.worker = worker
        self.token = str(uuid.uuid4())
        self.notes: list[str] = []
        self.set_aside: dict[tuple[str, str], SetAside] = {}
        self._rights = rights
        self._asked_to_read = read_only
        self._engine = make_server_engine(connect)
        self._writer = make_server_engine(watched(connect), 2)
        guard(self._writer)
        self._listener = Listener(connect, self.token)

    @override
    def listen(self) -> None:
        """Hear of what others store, and of the server going and coming; keeps claims alive."""
        self._listener.begin()

    @property
    @override
    def name(self) -> str:
        return self.address.name

    @property
    @override
    def place(self) -> str:
        return str(self.address)

    @property
    @override
    def why_read_only(self) -> str:
        if self._asked_to_read:
            return "It was opened for reading only."
        return "" if self._rights.writes else _READS_ONLY

    @property
    @override
    def why_no_release(self) -> str:
        return self.why_read_only or ("" if self._rights.releases else _NO_RELEASE)

    @property
    @override
    def online(self) -> bool:
        return self._listener.online

    @override
    def may_have_changed(self) -> bool:
        return self._listener.take_news()

    @contextmanager
    def _begin_reading(self) -> Iterator[Connection]:
        self._need_server()
        how = {"isolation_level": "REPEATABLE READ", "postgresql_readonly": True, **self._how}
        with self._engine.connect().execution_options(**how) as connection:
            yield connection

    @contextmanager
    def _begin_writing(self) -> Iterator[Connection]:
        self._need_server()
        with (
            self._writer.connect().execution_options(**self._how) as connection,
            connection.begin(),
        ):
            connection.execute(_LOCK, {"key": WRITE_KEY})
            yield connection
            number = settle(connection)
            if number:
                self._tell(connection, str(number))

    @contextmanager
    @override
    def claiming(self) -> Iterator[Connection]:
        """A short transaction beside those that write, for claims alone.

        Raises
        ------
        Unreachable
            If the server does not answer.
        """
        self._need_server()
        try:
            with self._engine.begin() as connection:
                yield connection
                self._tell(connection, "hold")
        except DBAPIError as error:
            raise self._said(error) from error

    def _tell(self, connection: Connection, words: str) -> None:
        connection.execute(_TELL, {"channel": CHANNEL, "words": f"{words} {self.token}"})

    def _need_server(self) -> None:
        """Fail at once while the server is known to be away, rather than wait for it again."""
        if not self.online:
            raise Unreachable(
                f"{self.name} does not answer.", "It is asked again every second; wait for it."
            )

    @override
    def _said(self, error: DBAPIError) -> StoreError:
        said = super()._said(error)
        if isinstance(said, Unreachable):
            self._listener.was_lost()
        return self._held_by() or said if isinstance(said, Busy) else said

    def _held_by(self) -> Busy | None:
        """Who holds the writers' lock, in words; None where nobody does any more."""
        try:
            with self._engine.connect() as connection:
                holder = connection.execute(_HOLDER, {"key": WRITE_KEY}).first()
        except DBAPIError:
            return None
        if holder is None:
            return None
        who, what, number = holder
        return Busy(
            f"“{who}” ({what or 'another program'}, connection {number}) lets nobody else write.",
            "Try again in a moment. Whoever keeps the server ends it: "
            f"SELECT pg_terminate_backend({number}).",
        )

    @override
    def look(self) -> None:
        """A server's campaign cannot be moved away while it is open."""

    @override
    def look_through_pages(self, progress: Progress = no_progress) -> str:
        """Whoever keeps the server looks after its pages."""
        return ""

    @override
    def copy_to(self, target: Path) -> None:
        with create_campaign(target) as made:
            try:
                with self.reading() as theirs, made.writing() as mine:
                    copy_campaign(theirs, mine)
            except BaseException:
                made.close()
                target.unlink(missing_ok=True)
                raise

    @override
    def close(self) -> None:
        self._listener.end()
        self._engine.dispose()
        self._writer.dispose()
