"""How far a tail had drawn at which load, read off the tail gauge."""

from __future__ import annotations

import numpy as np

from bruiser.core.trace.record import Floats
from bruiser.core.trace.smoothing import first_above

DRAW_STEPS = 20


def draw_by_load(smooth: Floats, tail_m: Floats, peak_n: float, peak_at: int) -> tuple[float, ...]:
    """Draw of a tail when the load first reached 1/20, 2/20, ... of the peak.

    Parameters
    ----------
    smooth : ndarray, shape (n,)
        Load in newton, zero taken off, smoothed.
    tail_m : ndarray, shape (n,) or longer
        Tail gauge in metre; NaN where a reading is missing.
    peak_n, peak_at : float, int
        The peak and its sample.

    Returns
    -------
    tuple of float
        ``DRAW_STEPS`` draws in metre, the last one at the peak; empty without readings.
    """
    n = min(len(smooth), len(tail_m))
    good = np.flatnonzero(np.isfinite(tail_m[:n]))
    if peak_n <= 0 or not len(good):
        return ()
    zero = float(np.median(tail_m[good[: max(1, min(20, len(good) // 50))]]))
    at = np.array(
        [first_above(smooth, peak_n * k / DRAW_STEPS) for k in range(1, DRAW_STEPS)] + [peak_at]
    )
    at = np.clip(np.where(at < 0, peak_at, at), 0, peak_at)
    drawn = np.interp(at, good, tail_m[good]) - zero
    return tuple(round(float(v), 6) for v in drawn)
