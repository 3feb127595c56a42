"""Results kept by what they rest on, so that a changed pull recomputes its own groups only."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any, Protocol, TypeVar

import numpy as np

from bruiser.core.lasting import digest_of, read_lasting, write_lasting

T = TypeVar("T")
ROOM = 20_000


def content_of(value: Any) -> Hashable:
    """All that a value holds, as a key: two values with the same key give the same result.

    Records are taken apart field by field, so that none can be forgotten; arrays by their bytes.
    """
    if isinstance(value, np.ndarray):
        return value.dtype.str, value.shape, value.tobytes()
    if is_dataclass(value) and not isinstance(value, type):
        return type(value), *(content_of(getattr(value, f.name)) for f in fields(value))
    if isinstance(value, (tuple, list)):
        return tuple(content_of(v) for v in value)
    if isinstance(value, dict):
        return tuple((k, content_of(v)) for k, v in value.items())
    if isinstance(value, Hashable):
        return value
    raise TypeError(f"{type(value).__name__} cannot be a key")


class LastingResults(Protocol):
    """Where results last from one start to the next, as bytes under the digest of their key."""

    rules: bytes

    def recall(self, digest: bytes) -> bytes | None:
        """What is known under a digest."""

    def keep(self, digest: bytes, value: bytes) -> None:
        """Remember it."""

    def flush(self) -> None:
        """Write what was remembered."""


class Memory:
    """Results by their content: the same readings under the same rules give the same result.

    Parameters
    ----------
    room : int
        How many are kept; beyond that the oldest are forgotten.
    behind : LastingResults, optional
        Where those that last are kept besides, for the next start.

    `computed` counts what had to be worked out, for the tests and the curious.
    """

    def __init__(self, room: int = ROOM, behind: LastingResults | None = None) -> None:
        self._kept: dict[Hashable, Any] = {}
        self._room = room
        self._behind = behind
        self.computed = 0

    def __len__(self) -> int:
        return len(self._kept)

    def recall(self, key: Hashable, *, lasts: bool = False) -> Any | None:
        """What is known under a key; of what `lasts`, also from earlier starts."""
        found = self._kept.get(key)
        if found is None and lasts and self._behind is not None:
            found = self._recall_behind(self._behind, key)
        return found

    def _recall_behind(self, behind: LastingResults, key: Hashable) -> Any | None:
        text = behind.recall(digest_of(key, behind.rules))
        if text is None:
            return None
        try:
            found = read_lasting(text)
        except ValueError:
            return None
        self._put(key, found)
        return found

    def _put(self, key: Hashable, value: Any) -> None:
        self._kept[key] = value
        while len(self._kept) > self._room:
            del self._kept[next(iter(self._kept))]

    def keep(self, key: Hashable, value: T, *, lasts: bool = False) -> T:
        """Remember something that was just computed; what `lasts`, also for the next start."""
        self.computed += 1
        self._put(key, value)
        if lasts and self._behind is not None:
            self._behind.keep(digest_of(key, self._behind.rules), write_lasting(value))
        return value

    def flush(self) -> None:
        """Write what is to last."""
        if self._behind is not None:
            self._behind.flush()

    def once(self, key: Hashable, work: Callable[[], T], *, lasts: bool = False) -> T:
        """What is known under a key, worked out if it is not."""
        found = self.recall(key, lasts=lasts)
        if found is not None:
            known: T = found
            return known
        return self.keep(key, work(), lasts=lasts)
