"""Results kept by what they rest on, so that a changed pull recomputes its own groups only."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

import numpy as np

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


class Memory:
    """Results by their content: the same readings under the same rules give the same result.

    Parameters
    ----------
    room : int
        How many are kept; beyond that the oldest are forgotten.

    `computed` counts what had to be worked out, for the tests and the curious.
    """

    def __init__(self, room: int = ROOM) -> None:
        self._kept: dict[Hashable, Any] = {}
        self._room = room
        self.computed = 0

    def __len__(self) -> int:
        return len(self._kept)

    def recall(self, key: Hashable) -> Any | None:
        """What is known under a key."""
        return self._kept.get(key)

    def keep(self, key: Hashable, value: T) -> T:
        """Remember something that was just computed."""
        self.computed += 1
        self._kept[key] = value
        while len(self._kept) > self._room:
            del self._kept[next(iter(self._kept))]
        return value

    def once(self, key: Hashable, work: Callable[[], T]) -> T:
        """What is known under a key, worked out if it is not."""
        found = self._kept.get(key)
        if found is not None:
            known: T = found
            return known
        return self.keep(key, work())
