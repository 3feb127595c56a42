"""Light things read of many specimens at once, and then followed by what was touched."""

from __future__ import annotations

import threading
from collections.abc import Callable, Collection
from contextlib import AbstractContextManager
from typing import Generic, TypeVar

from bruiser.store.open_campaign import Connection
from bruiser.store.progress import Touched
from bruiser.workshop.logbook.books import Books

T = TypeVar("T")
NAMED = 2_000
"""So many that changed are read again by their ids; of more, all are read."""
WITHIN = frozenset({"lot", "knot", "fixture", "campaign", "own_structure"})
"""Tables whose records stand within those of a specimen."""


class Followed(Generic[T]):
    """One thing of each of many specimens, by their ids.

    Parameters
    ----------
    read : callable
        Reads it of some specimens, or of all for None.
    lock : RLock
        What the reader of the logbook changes its revision under.
    """

    def __init__(
        self,
        read: Callable[[Connection, Books, Collection[str] | None], dict[str, T]],
        lock: threading.RLock,
    ) -> None:
        self._read, self._lock = read, lock
        self._known: dict[str, T] | None = None
        self._due: set[str] = set()

    def touch(self, touched: Touched) -> None:
        """Note what changed."""
        if touched.tables & WITHIN:
            self._known = None
        self._due |= touched.specimens

    def now(
        self,
        reading: Callable[[], AbstractContextManager[Connection]],
        books: Books,
        is_newest: Callable[[], bool],
    ) -> dict[str, T]:
        """It of all that have it; the same mapping while none of it changed.

        What somebody reads who still looks at an older revision is not kept.
        """
        with self._lock:
            known, due = self._known, set(self._due)
        if known is not None and not due:
            return known
        of = None if known is None or len(due) > NAMED else due
        with reading() as connection:
            found = self._read(connection, books, of)
        if known is not None and of is not None:
            if found or not known.keys().isdisjoint(of):
                found |= {key: known[key] for key in known.keys() - of}
            else:
                found = known
        with self._lock:
            if is_newest():
                self._known, self._due = found, set()
        return found
