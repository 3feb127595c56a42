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
        self._found: list[float] = []

    @property
    def loads(self) -> tuple[float, ...]:
        """Load at each slip so far, in newton."""
        return tuple(self._found)

    def begin_anew(self) -> None:
        """Travel starts again: what the load relaxed by meanwhile is no slip."""
        self._top_n, self._falling = 0.0, False

    def feed(self, load_n: Floats) -> None:
        """Take in more samples, shape (n,), after the zero was taken off."""
        for value in np.asarray(load_n, dtype=np.float64):
            limit = max(self._least_n, SLIP_SHARE * self._top_n)
            if self._falling:
                self._bottom_n = min(self._bottom_n, value)
                if value > self._bottom_n + 0.5 * limit:
                    self._falling, self._top_n = False, value
            elif value > self._top_n:
                self._top_n = value
            elif self._top_n - value > limit:
                self._found.append(float(self._top_n))
                self._falling, self._bottom_n = True, value
