"""Opening, creating, locking and closing a campaign file."""

from __future__ import annotations

import fcntl
import logging
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import IO

import sqlalchemy as sa
from sqlalchemy.engine import Connection, Engine
from sqlalchemy.exc import DatabaseError

from bruiser.core.errors import Busy, Damaged, Full, ReadOnly, StoreError, TooNew
from bruiser.store.schema import APPLICATION_ID, HEAD

__all__ = [
    "CampaignFile",
    "Connection",
    "check_header",
    "create_campaign",
    "looks_like_a_database",
    "open_campaign",
]

log = logging.getLogger(__name__)

_HEADER = b"SQLite format 3\x00"


def _translate(error: Exception) -> StoreError:
    text = str(error).lower()
    if "full" in text:
        return Full("The disk is full.", "Make room; what was stored before is safe.")
    if "locked" in text or "busy" in text:
        return Busy("The campaign file is in use.", "Close the other program and try again.")
    if "readonly" in text:
        return ReadOnly("The campaign file cannot be written.", "It may be write-protected.")
    if "malformed" in text or "not a database" in text or "corrupt" in text:
        return Damaged("The campaign file is damaged.", "It was left untouched.")
    return StoreError(f"The campaign file answered: {error}")


def looks_like_a_database(path: Path) -> bool:
    """Whether the file begins like a campaign; a file that cannot be read does not."""
    try:
        with path.open("rb") as file:
            return file.read(len(_HEADER)) == _HEADER
    except OSError:
        return False


def check_header(path: Path) -> None:
    """Refuse what is no campaign, reading 100 bytes and touching nothing.

    Raises
    ------
    StoreError
        If there is no such file.
    Damaged
        If it is no SQLite file, or not one of ours.
    """
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except FileNotFoundError as error:
        raise StoreError(f"There is no file {path.name}.") from error
    except OSError as error:
        raise StoreError(f"{path.name} cannot be read: {error.strerror}.") from error
    if len(head) < 100 or not head.startswith(_HEADER):
        raise Damaged(f"{path.name} is not a campaign file.", "It was left untouched.")
    if int.from_bytes(head[68:72], "big") != APPLICATION_ID:
        raise Damaged(
            f"{path.name} is a database, but not a Bruiser campaign.", "It was left untouched."
        )


class CampaignFile:
    """An open campaign. Use :func:`open_campaign` or :func:`create_campaign`."""

    def __init__(self, path: Path, engine: Engine, lock: IO[bytes] | None) -> None:
        self.path = path
        self._engine = engine
        self._lock = lock
        self._writing = threading.RLock()

    @property
    def read_only(self) -> bool:
        """Whether another window holds it for writing."""
        return self._lock is None

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection that sees one state of the file."""
        try:
            with self._engine.connect() as connection, connection.begin():
                yield connection
        except DatabaseError as error:
            raise _translate(error) from error

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction: all or nothing.

        Raises
        ------
        ReadOnly
            If the campaign was opened for reading only.
        """
        if self._lock is None:
            raise ReadOnly(
                "This window shows the campaign read-only.",
                "Another window has it open; work there, or close it.",
            )
        try:
            with (
                self._writing,
                self._engine.connect().execution_options(write=True) as connection,
                connection.begin(),
            ):
                yield connection
        except DatabaseError as error:
            raise _translate(error) from error

    def close(self) -> None:
        """Release the file and its lock."""
        self._engine.dispose()
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    def __enter__(self) -> CampaignFile:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        value: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()


def _make_engine(path: Path, mode: str) -> Engine:
    def connect() -> sqlite3.Connection:
        connection = sqlite3.connect(
            f"{path.absolute().as_uri()}?mode={mode}",
            uri=True,
            isolation_level=None,
            check_same_thread=False,
            timeout=5.0,
        )
        connection.execute("PRAGMA foreign_keys = ON")
        if mode != "ro":
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = NORMAL")
        return connection

    engine = sa.create_engine("sqlite://", creator=connect, poolclass=sa.pool.QueuePool)

    @sa.event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        write = connection.get_execution_options().get("write", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if write else "BEGIN")

    return engine


def _take_lock(path: Path) -> IO[bytes] | None:
    """Hold the file for writing; the lock goes with the process, however it ends."""
    lock = Path(f"{path}.lock").open("ab")  # noqa: SIM115  (held until close)
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.close()
        return None
    return lock


def _revision(connection: Connection) -> str | None:
    if not sa.inspect(connection).has_table("alembic_version"):
        return None
    row = connection.exec_driver_sql("SELECT version_num FROM alembic_version").first()
    return None if row is None else str(row[0])


def _upgrade(engine: Engine) -> None:
    """Run the migrations up to HEAD, each with its version mark in one transaction."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.connect().execution_options(write=True) as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _known_revisions() -> set[str]:
    return {p.stem for p in (Path(__file__).parent / "migrations" / "versions").glob("0*.py")}


def create_campaign(path: Path) -> CampaignFile:
    """Make a new, empty campaign file.

    Raises
    ------
    StoreError
        If a file of that name exists or cannot be made.
    """
    if path.exists():
        raise StoreError(f"{path.name} already exists.", "Choose another name.")
    try:
        lock = _take_lock(path)
    except OSError as error:
        raise StoreError(f"{path.name} cannot be made: {error.strerror}.") from error
    if lock is None:
        raise Busy(f"{path.name} is being made by another window.")
    engine = _make_engine(path, "rwc")
    with engine.connect() as connection, connection.begin():
        connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
    _upgrade(engine)
    with engine.raw_connection() as raw:
        raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return CampaignFile(path, engine, lock)


def open_campaign(path: Path, *, read_only: bool = False) -> CampaignFile:
    """Open a campaign; read-only when another window holds it.

    Raises
    ------
    StoreError
        If there is no such file.
    Damaged, TooNew
        If it is no campaign, cannot be read, or is newer than this program. The file is left
        as it was.
    """
    check_header(path)
    lock = None
    if not read_only:
        try:
            lock = _take_lock(path)
        except OSError:
            log.warning("cannot make a lock beside %s; opening read-only", path.name)
    probe = _make_engine(path, "ro")
    try:
        with probe.connect() as connection, connection.begin():
            verdict = str(connection.exec_driver_sql("PRAGMA quick_check(1)").scalar())
            if verdict != "ok":
                raise Damaged(f"{path.name} is damaged: {verdict}.", "It was left untouched.")
            revision = _revision(connection)
    except DatabaseError as error:
        if lock is not None:
            lock.close()
        raise _translate(error) from error
    except StoreError:
        if lock is not None:
            lock.close()
        raise
    finally:
        probe.dispose()
    if revision != HEAD:
        if revision is not None and revision not in _known_revisions():
            if lock is not None:
                lock.close()
            raise TooNew(
                f"{path.name} was written by a newer Bruiser.",
                "Open it with that version; it was left untouched.",
            )
        if lock is None:
            raise Busy(f"{path.name} needs upgrading and is open elsewhere.", "Close it there.")
        _back_up(path, revision or "empty")
        engine = _make_engine(path, "rw")
        _upgrade(engine)
        engine.dispose()
    return CampaignFile(path, _make_engine(path, "rw" if lock is not None else "ro"), lock)


def _back_up(path: Path, revision: str) -> Path:
    target = path.with_name(f"{path.name}.before-{revision}")
    with sqlite3.connect(path) as source, sqlite3.connect(target) as copy:
        source.backup(copy)
    source.close()
    copy.close()
    return target
