"""Results kept from one start to the next, in a file of the user's cache folder.

It holds nothing that cannot be worked out again: whatever is wrong with it, it is done without.
"""

from __future__ import annotations

import hashlib
import logging
import sqlite3
import threading
from contextlib import closing
from functools import cache
from importlib.metadata import version
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path

log = logging.getLogger(__name__)

ROOM = 256 * 2**20
"""So many bytes of results are kept; those not asked for longest go first."""
_AT_ONCE = 64
_MADE = """
    CREATE TABLE IF NOT EXISTS kept (
        digest BLOB PRIMARY KEY, used INTEGER NOT NULL, value BLOB NOT NULL
    ) STRICT
"""


class ResultsCache:
    """Results as bytes, by the digest of what they rest on; used from one thread at a time.

    Parameters
    ----------
    path : Path
        The file; made when something is kept first.
    room : int
        How many bytes of results are kept.
    """

    def __init__(self, path: Path, room: int = ROOM) -> None:
        self.path, self._room = path, room
        self.rules = rules_digest()
        self._lock = threading.Lock()
        self._waiting: dict[bytes, bytes] = {}
        self._usable = True

    def recall(self, digest: bytes) -> bytes | None:
        """What is known under a digest."""
        with self._lock:
            waiting = self._waiting.get(digest)
            if waiting is not None or not self._usable or not self.path.exists():
                return waiting
            try:
                with closing(self._connect()) as connection:
                    row = connection.execute(
                        "SELECT value FROM kept WHERE digest = ?", (digest,)
                    ).fetchone()
            except sqlite3.Error as error:
                self._give_up(error)
                return None
            return None if row is None else bytes(row[0])

    def keep(self, digest: bytes, value: bytes) -> None:
        """Remember a result; it is written with others, or by :meth:`flush`."""
        with self._lock:
            self._waiting[digest] = value
            full = len(self._waiting) >= _AT_ONCE
        if full:
            self.flush()

    def flush(self) -> None:
        """Write what waits."""
        with self._lock:
            waiting, self._waiting = self._waiting, {}
            if not waiting or not self._usable:
                return
            try:
                self.path.parent.mkdir(parents=True, exist_ok=True)
                with closing(self._connect()) as connection, connection:
                    connection.execute(_MADE)
                    last = connection.execute("SELECT max(used) FROM kept").fetchone()[0] or 0
                    connection.executemany(
                        "INSERT OR REPLACE INTO kept VALUES (?, ?, ?)",
                        [(digest, last + 1, value) for digest, value in waiting.items()],
                    )
                    self._make_room(connection)
            except (sqlite3.Error, OSError) as error:
                self._give_up(error)

    def _connect(self) -> sqlite3.Connection:
        return sqlite3.connect(self.path, timeout=1.0)

    def _make_room(self, connection: sqlite3.Connection) -> None:
        """Forget the oldest results beyond the room there is."""
        connection.execute(
            "DELETE FROM kept WHERE digest IN (SELECT digest FROM (SELECT digest, "
            "sum(length(value)) OVER (ORDER BY used DESC, digest) AS so_far FROM kept) "
            "WHERE so_far > ?)",
            (self._room,),
        )

    def _give_up(self, error: Exception) -> None:
        """Do without for the rest of this start; a file that is none of ours makes way."""
        log.warning("results are not kept in %s: %s", self.path, error)
        self._usable = False
        if isinstance(error, sqlite3.DatabaseError) and not isinstance(
            error, sqlite3.OperationalError
        ):
            self.path.unlink(missing_ok=True)


@cache
def rules_digest() -> bytes:
    """A name of the calculations: it changes with any line of them, and with their libraries."""
    found = hashlib.sha256(f"{version('numpy')} {version('scipy')}".encode())
    for name, text in sorted(_sources(files("bruiser.core"), "core")):
        found.update(name.encode())
        found.update(text)
    return found.digest()


def _sources(folder: Traversable, name: str) -> list[tuple[str, bytes]]:
    found = []
    for inside in folder.iterdir():
        path = f"{name}/{inside.name}"
        if inside.is_dir():
            found += _sources(inside, path)
        elif inside.name.endswith(".py"):
            found.append((path, inside.read_bytes()))
    return found
