"""Slips as they happen: a rough look at the load while it is recorded.

The analysis after the pull decides; this only tells the person at the bench that something moved.
"""

from __future__ import annotations

import numpy as np

from bruiser.core.trace.record import Floats

SLIP_SHARE = 0.03
_STEPS = 8.0
_LEAST_SHARE = 0.004


class LiveSlips:
    """Finds drops of load in samples that come piece by piece.

    Parameters
    ----------
    capacity_n, resolution_n : float
        Of the load cell: a drop counts from 3 % of the load, 8 steps of the cell and 0.4 % of its
        capacity on.

    Notes
    -----
    A slip is a fall of the load below its running maximum by more than the limit; the maximum is
    then taken anew from the bottom, and the next slip is counted once the load has risen again by
    half the limit.
    """

    def __init__(self, capacity_n: float, resolution_n: float) -> None:
        self._least_n = max(_STEPS * resolution_n, _LEAST_SHARE * capacity_n)
        self._top_n = 0.0
        self._bottom_n = 0.0
        self._falling = False
        self._top_at = 0
        self._found: list[tuple[int, float]] = []

    @property
    def slips(self) -> tuple[tuple[int, float], ...]:
        """Sample and load in newton at each slip so far."""
        return tuple(self._found)

    @property
    def loads(self) -> tuple[float, ...]:
        """Load at each slip so far, in newton."""
        return tuple(load for _, load in self._found)

    def begin_anew(self) -> None:
        """Travel starts again: what the load relaxed by meanwhile is no slip."""
        self._top_n, self._falling = 0.0, False

    def feed(self, load_n: Floats, first: int = 0) -> None:
        """Take in more samples, shape (n,), after the zero was taken off; `first` numbers them."""
        for n, value in enumerate(np.asarray(load_n, dtype=np.float64), start=first):
            limit = max(self._least_n, SLIP_SHARE * self._top_n)
            if self._falling:
                self._bottom_n = min(self._bottom_n, value)
                if value > self._bottom_n + 0.5 * limit:
                    self._falling, self._top_n, self._top_at = False, value, n
            elif value > self._top_n:
                self._top_n, self._top_at = value, n
            elif self._top_n - value > limit:
                self._found.append((self._top_at, float(self._top_n)))
                self._falling, self._bottom_n = True, value
