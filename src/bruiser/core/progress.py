"""How long work tells how far it is, and how it is told to stop."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[int, int], None]


class Cancelled(Exception):
    """Raised by a progress call to end work that is no longer wanted."""


def no_progress(done: int, whole: int) -> None:
    """Nobody is watching."""
    del done, whole
