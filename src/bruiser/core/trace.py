"""What a recorded pull shows: zero, peak, slips, and whether it broke, ran out or was stopped.

Arrays are one-dimensional and equally long: ``time_s``, ``load_n``, ``travel_m``.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from bruiser.core.errors import TooFewPulls

Floats = NDArray[np.float64]


_ONSET_TRAVEL_M = 0.003


class TraceEnd(StrEnum):
    """How the trace itself ends, in the analysis' opinion."""

    BROKE = "broke"
    RAN_OUT = "ran_out"
    STOPPED = "stopped"
    LOST = "lost"


TRACE_END_WORDS: dict[TraceEnd, str] = {
    TraceEnd.BROKE: "broke",
    TraceEnd.RAN_OUT: "ran out",
    TraceEnd.STOPPED: "was stopped, still holding",
    TraceEnd.LOST: "ended in a lost signal",
}


@dataclass(frozen=True)
class Slip:
    """A sudden loss of load that the specimen recovered from."""

    index: int
    time_s: float
    load_n: float
    drop_n: float


@dataclass(frozen=True)
class TraceResult:
    """What the analysis read off a trace; loads are after the zero is taken off."""

    zero_n: float
    noise_n: float
    peak_n: float
    peak_index: int
    peak_time_s: float
    end: TraceEnd
    end_index: int
    end_time_s: float
    slips: tuple[Slip, ...]
    first_slip_n: float | None
    travel_to_peak_m: float
    energy_j: float
    rate_m_s: float
    flags: tuple[str, ...]


def smooth_load(load_n: Floats, sample_rate_hz: float) -> Floats:
    """Median of three, then a mean over 5 ms: spikes go, the peak stays.

    The raw maximum of a noisy trace is a spike, not a strength.
    """
    if len(load_n) < 3:
        return load_n.astype(np.float64)
    middle = np.median(np.stack([load_n[:-2], load_n[1:-1], load_n[2:]]), axis=0)
    cleaned = np.concatenate([load_n[:1], middle, load_n[-1:]])
    width = max(1, round(0.005 * sample_rate_hz))
    if width == 1:
        return cleaned
    kernel = np.full(width, 1.0 / width)
    padded = np.pad(cleaned, (width // 2, width - 1 - width // 2), mode="edge")
    return np.convolve(padded, kernel, mode="valid")


def analyse_trace(
    time_s: Floats, load_n: Floats, travel_m: Floats, *, capacity_n: float | None = None
) -> TraceResult:
    """Read a pull.

    Parameters
    ----------
    time_s, load_n, travel_m : ndarray, shape (n,)
        Time in second, load in newton as the cell gave it, crosshead travel in metre.
    capacity_n : float, optional
        Capacity of the load cell; readings at it are flagged ``clipped``.

    Returns
    -------
    TraceResult

    Raises
    ------
    TooFewPulls
        If there are fewer than 10 samples.
    ValueError
        If the arrays differ in length.

    Notes
    -----
    Zero is the median before travel starts; noise comes from the median absolute deviation of
    differences. First slip is the load at the first drop after which no new load record came
    over 3 mm of travel or more. A *break* is a fall to under 30 % of the peak, never recovered,
    that takes less than 6 ms after visible slip or 14 ms without it, plus two sample intervals; a
    slower fall is a *run-out*. A slip is a drop inside 20 ms of more than max(6 sqrt(2) noise,
    0.4 % of peak); below 30 % of the peak and under 10 % in size it is bedding in and does not
    count.
    """
    if not len(time_s) == len(load_n) == len(travel_m):
        raise ValueError("time, load and travel differ in length")
    if len(load_n) < 10:
        raise TooFewPulls("The trace has fewer than 10 samples.", "Nothing can be read off it.")
    rate_hz = (len(time_s) - 1) / max(float(time_s[-1] - time_s[0]), 1e-9)
    flags: list[str] = []
    moving = np.flatnonzero(travel_m > travel_m[0] + 5e-5)
    start = int(moving[0]) if len(moving) else len(load_n)
    if start < max(5, int(0.05 * rate_hz)):
        flags.append("no_zero")
        zero = float(load_n[:5].min())
    else:
        zero = float(np.median(load_n[:start]))
    noise = 1.4826 * float(np.median(np.abs(np.diff(load_n[: max(start, 20)])))) / np.sqrt(2.0)
    load = load_n - zero
    smooth = smooth_load(load, rate_hz)
    peak_index = int(np.argmax(smooth))
    peak = float(smooth[peak_index])
    if capacity_n is not None and np.count_nonzero(load_n >= 0.999 * capacity_n) > 2:
        flags.append("clipped")
    slips = _find_slips(time_s, smooth, peak_index, rate_hz, noise, peak)
    end, end_index = _find_end(time_s, load, smooth, travel_m, peak_index, peak, bool(slips))
    onset = next((s for s in slips if _gives_way(s, smooth, travel_m, peak)), None)
    energy = float(np.trapezoid(load[: peak_index + 1], travel_m[: peak_index + 1]))
    band = np.flatnonzero(smooth[: peak_index + 1] > 0.1 * peak)
    first = int(band[0]) if len(band) else 0
    duration = float(time_s[peak_index] - time_s[first])
    rate = float(travel_m[peak_index] - travel_m[first]) / duration if duration > 0 else 0.0
    return TraceResult(
        zero_n=zero,
        noise_n=noise,
        peak_n=peak,
        peak_index=peak_index,
        peak_time_s=float(time_s[peak_index]),
        end=end,
        end_index=end_index,
        end_time_s=float(time_s[end_index]),
        slips=tuple(slips),
        first_slip_n=None if onset is None else onset.load_n,
        travel_to_peak_m=float(travel_m[peak_index] - travel_m[min(start, peak_index)]),
        energy_j=energy,
        rate_m_s=rate,
        flags=tuple(flags),
    )


def _gives_way(slip: Slip, smooth: Floats, travel_m: Floats, peak: float) -> bool:
    """Whether a drop is a slip that cost travel, rather than bedding in."""
    if slip.load_n < 0.3 * peak and slip.drop_n < 0.1 * slip.load_n:
        return False
    higher = np.flatnonzero(smooth[slip.index + 1 :] > slip.load_n)
    again = slip.index + 1 + int(higher[0]) if len(higher) else len(smooth) - 1
    return float(travel_m[again] - travel_m[slip.index]) >= _ONSET_TRAVEL_M


def _find_slips(
    time_s: Floats, smooth: Floats, stop: int, rate_hz: float, noise: float, peak: float
) -> list[Slip]:
    lag = max(2, round(0.020 * rate_hz))
    if stop <= lag:
        return []
    limit = max(6.0 * np.sqrt(2.0) * noise, 0.004 * peak)
    head = smooth[: stop + 1]
    fallen = np.flatnonzero(head[:-lag] - head[lag:] > limit)
    slips: list[Slip] = []
    if not len(fallen):
        return slips
    for run in np.split(fallen, np.flatnonzero(np.diff(fallen) > 1) + 1):
        stretch = head[run[0] : run[-1] + lag + 1]
        top = int(run[0] + np.argmax(stretch))
        drop = float(head[top] - stretch[top - run[0] :].min())
        slips.append(Slip(top, float(time_s[top]), float(head[top]), drop))
    return slips


def _find_end(
    time_s: Floats,
    load: Floats,
    smooth: Floats,
    travel_m: Floats,
    peak_index: int,
    peak: float,
    slipped: bool,
) -> tuple[TraceEnd, int]:
    after = smooth[peak_index:]
    low = np.flatnonzero(after < 0.3 * peak)
    if peak <= 0 or not len(low):
        return TraceEnd.STOPPED, len(load) - 1
    down = peak_index + int(low[0])
    if travel_m[down] < travel_m[peak_index] - 1e-4:
        return TraceEnd.STOPPED, len(load) - 1
    top = down
    while top > peak_index and load[top] < 0.9 * load[max(peak_index, top - 60) : top + 1].max():
        top -= 1
    bottom = top + int(np.argmax(load[top:] < 0.3 * load[top]))
    interval = float(time_s[-1] - time_s[0]) / (len(time_s) - 1)
    took = float(time_s[bottom] - time_s[top])
    limit = (0.006 if slipped else 0.014) + 2 * interval
    return (TraceEnd.BROKE if took <= limit else TraceEnd.RAN_OUT), top
