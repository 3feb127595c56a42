"""Lowest and highest of ever longer stretches, so that any part of a long trace draws at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
FACTOR = 8


class Pyramid:
    """A trace with its levels of minima and maxima.

    Parameters
    ----------
    values : ndarray, shape (n,)
        NaN is skipped within a stretch.

    Notes
    -----
    Level k holds the extremes of stretches of 8^k samples: one pass to build, 1/7 of the trace in
    memory, and a window of any width is drawn from at most 8 times the columns asked for.
    """

    def __init__(self, values: Floats) -> None:
        self.values = values
        low, high = values, values
        self._levels = [(low, high)]
        while len(low) > 4 * FACTOR:
            whole = len(low) // FACTOR * FACTOR
            edges = np.arange(0, len(low), FACTOR)
            if whole == len(low):
                low = np.fmin.reduce(low.reshape(-1, FACTOR), axis=1)
                high = np.fmax.reduce(high.reshape(-1, FACTOR), axis=1)
            else:
                low = np.fmin.reduceat(low, edges)
                high = np.fmax.reduceat(high, edges)
            self._levels.append((low, high))

    def __len__(self) -> int:
        return len(self.values)

    def window(self, first: int, after: int, columns: int) -> tuple[NDArray[np.intp], Floats]:
        """What a stretch of samples looks like in so many columns.

        Returns
        -------
        index, value : ndarray
            The samples themselves while there are few, else the lowest and highest of every
            stretch, at its first sample and its middle.
        """
        first, after = max(0, first), min(len(self.values), after)
        count = after - first
        if count <= 2 * columns:
            return np.arange(first, after), self.values[first:after]
        level = 0
        while level + 1 < len(self._levels) and count // FACTOR ** (level + 1) >= columns:
            level += 1
        size = FACTOR**level
        low, high = self._levels[level]
        a, b = first // size, min(len(low), -(-after // size))
        index = np.empty(2 * (b - a), dtype=np.intp)
        index[0::2] = np.arange(a, b) * size
        index[1::2] = np.minimum(index[0::2] + size // 2, len(self.values) - 1)
        value = np.empty(2 * (b - a))
        value[0::2], value[1::2] = low[a:b], high[a:b]
        return index, value
