"""Doubts that come of the shape of a record: spikes, too few samples, columns swapped."""

from __future__ import annotations

import numpy as np

from bruiser.core.trace.record import Floats
from bruiser.core.trace.smoothing import blocks

_LOW_RATE_HZ = 50.0


def is_spiked(load: Floats, clean: Floats, stop: int, limit_n: float, rate_hz: float) -> bool:
    """Whether single samples before `stop` stand out by more than a limit, alone.

    Parameters
    ----------
    load, clean : ndarray, shape (n,)
        Load, and its median of three.
    """
    x = load[: stop + 1]
    if len(x) < 5:
        return False
    found = [np.empty(0, dtype=np.intp)]
    for part in blocks(len(x) - 2):
        off = x[1:-1][part] - clean[1:stop][part]
        if off.max() > limit_n or off.min() < -limit_n:
            found.append(part.start + 1 + np.flatnonzero(np.abs(off) > limit_n))
    wild = np.concatenate(found)
    wild = wild[wild < stop - max(2, round(0.003 * rate_hz))]
    alone = np.abs(x[wild - 1] - x[wild + 1]) < 0.35 * np.abs(x[wild] - x[wild - 1])
    return bool(np.any(alone))


def is_undersampled(smooth: Floats, peak_at: int, peak_n: float, rate_hz: float) -> bool:
    """Whether a peak may lie between samples: under 50 Hz, or over 1 % of it in one interval."""
    if rate_hz < _LOW_RATE_HZ:
        return True
    back = max(0, peak_at - max(2, round(0.05 * rate_hz)))
    rise = float(smooth[peak_at] - smooth[back]) / max(1, peak_at - back)
    return peak_n > 0 and rise > 0.01 * peak_n


def jumps_like_a_load(
    travel_m: Floats, load_n: Floats, reach_m: float, peak_n: float, rate_hz: float
) -> bool:
    """Whether the travel falls at once by a third of its range while the load does not."""
    lag = max(1, round(0.02 * rate_hz))
    if len(travel_m) <= 4 * lag or reach_m <= 0:
        return False
    step = max(1, lag // 2)
    travel, load = travel_m[::step], load_n[::step]
    jump = float(np.max(travel[:-2] - travel[2:]))
    falls = float(np.max(load[:-2] - load[2:]))
    return jump > 0.3 * reach_m and falls < 0.05 * max(peak_n, 1e-9)
