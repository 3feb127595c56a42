"""How a trace ends, and when: break, run-out, stop, or loss of the signal."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bruiser.core.trace.record import Bools, Floats, TraceEnd, TraceSettings
from bruiser.core.trace.smoothing import blocks

BREAK_S, SLOW_S, SLOW_AFTER_SLIP_S = 0.004, 0.014, 0.006
RING_S, LEDGE_S, SILENT_S = 0.030, 0.010, 0.004
_RECOVERS = 0.90
_FLOOR = 0.08


@dataclass(frozen=True, kw_only=True)
class Ending:
    """How it ended.

    Parameters
    ----------
    index : int
        Last sample before the load fell for good, or the last of all.
    time_s : float
        When it parted, between samples where that can be told.
    top_n : float
        Load just before.
    strands : bool
        Whether it went on to part in steps.
    """

    end: TraceEnd
    index: int
    time_s: float
    top_n: float
    strands: bool = False


def _sharp_falls(load: Floats, lag: int, share: float, floor_n: float) -> NDArray[np.intp]:
    """First samples of stretches in which the load falls by a share within `lag` samples."""
    if len(load) <= lag:
        return np.empty(0, dtype=np.intp)
    found = [np.empty(0, dtype=np.intp)]
    for part in blocks(len(load) - lag):
        before = load[:-lag][part]
        hit = load[lag:][part] < (1.0 - share) * before
        if hit.any():
            hit &= before > floor_n
            found.append(part.start + np.flatnonzero(hit))
    at = np.concatenate(found)
    if not len(at):
        return at
    first = np.concatenate([[True], np.diff(at) > lag])
    return np.asarray(at[first])


def _fall_s(load: Floats, top: int, stop: int, rate_hz: float) -> tuple[float, int]:
    """Time from 90 to 30 % of the load at `top`, and the sample at which 30 % is reached."""
    high = load[top]
    part = load[top : stop + 1]
    low = np.flatnonzero(part < 0.3 * high)
    if not len(low):
        return np.inf, stop
    bottom = int(low[0])
    above = np.flatnonzero(part[: bottom + 1] > 0.9 * high)
    start = int(above[-1]) if len(above) else 0
    # Between samples, as far as straight lines tell.
    early = start
    if bottom > start:
        a, b = part[start], part[start + 1]
        early = start + (a - 0.9 * high) / (a - b) if a > b else start
        c, d = part[bottom - 1], part[bottom]
        late = bottom - 1 + (c - 0.3 * high) / (c - d) if c > d else bottom
    else:
        late = bottom
    return max(0.0, float(late - early)) / rate_hz, top + bottom


def break_instant(load: Floats, time_s: Floats, index: int, rate_hz: float) -> tuple[float, float]:
    """When it parted and at which load, from the samples about the break.

    Notes
    -----
    A line through the last samples gives the load it would have gone on to. A sample shows the mean
    over its interval, so the one that straddles the break is short of the line by the part of the
    interval that came after: below 400 Hz that part is the instant. Above, the bench swings down as
    D (1 - cos w t); the phases of two samples on the flank, taken at the middle of their intervals,
    give w and with it the instant, if the third sample goes on as they say.
    """
    dt = 1.0 / rate_hz
    width = int(np.clip(round(0.02 * rate_hz), 3, 40))
    first = max(0, index - width + 1)
    before = np.arange(first, index + 1)
    if len(before) >= 3:
        slope, level = np.polyfit(before - index, load[first : index + 1], 1)
        slope = max(float(slope), 0.0)
    else:
        slope, level = 0.0, float(load[index])
    top = max(float(level), 1e-9)
    after = load[index + 1 : index + 4]
    if not len(after):
        return float(time_s[index]), top
    short = (top + slope * np.arange(1, len(after) + 1) - after) / top
    t0 = float(time_s[index])
    if rate_hz < 400 or len(short) < 2:
        part = float(np.clip(short[0], 0.0, 1.0))
        # Short by the whole: it parted at the start of the interval.
        at = t0 + dt * (1.0 - part)
        return at, top + slope * (at - t0) / dt
    phases = np.arccos(np.clip(1.0 - short, -1.0, 1.0))
    rise = float(phases[1] - phases[0])
    swings = phases[0] > 0.05 and rise > 0.15 and phases[1] < 3.0
    if swings and len(short) > 2:
        # What swings goes on swinging; what fell at once does not.
        swings = abs(float(short[2]) - (1.0 - np.cos(phases[1] + rise))) < 0.35
    if swings:
        back = float(phases[0]) / rise * dt
        at = t0 + dt - 0.5 * dt - back
    else:
        whole = max(float(short[1]), float(short[0]), 1e-6)
        at = t0 + dt * (1.0 - float(np.clip(short[0] / whole, 0.0, 1.0)))
    at = float(np.clip(at, t0 - dt, t0 + dt))
    return at, top + slope * max(0.0, (at - t0) / dt)


def last_good(load: Floats, index: int, rate_hz: float, noise_n: float) -> int:
    """The last sample that is still on the way up, near a fall that begins about `index`."""
    window = max(2, round(0.010 * rate_hz))
    low, high = max(0, index - window), min(len(load) - 1, index + window)
    part = load[low : high + 1]
    best = low + int(np.argmax(part))
    limit = max(5.0 * noise_n, 0.02 * float(part.max()))
    k = best
    while k < high and load[k + 1] > load[best] - limit:
        k += 1
    return k


def find_ending(
    time_s: Floats,
    load: Floats,
    smooth: Floats,
    travel_m: Floats,
    rate_hz: float,
    noise_n: float,
    slipped_before: bool,
    lost: bool,
    settings: TraceSettings,
    frozen: Bools | None = None,
) -> Ending:
    """Say how a trace ends.

    Parameters
    ----------
    load, smooth : ndarray, shape (n,)
        Load without zero and spikes, and its running mean.
    slipped_before : bool
        Whether slips are to be seen: what then falls slower than 6 ms has run out.
    lost : bool
        Whether the signal goes away at the end of these samples.
    frozen : ndarray of bool, optional
        Where the reading stood still: a jump out of such a stretch is no break.

    Notes
    -----
    A break is the first drop of 27 % within 4 ms from the local top after which 90 % of that top is
    never seen again (but for the bench's ringing), and which takes no longer than 14 ms plus a
    sample interval from 90 to 30 %; 6 ms where slips came before; 4 ms where the sampling would
    show ringing and there is none. Laid cord that parts in steps is a break at the first. A slower
    fall for good is a run-out, unless the bench went back.
    """
    n = len(load)
    peak_at = int(np.argmax(smooth))
    peak = float(smooth[peak_at])
    stopped = Ending(
        end=TraceEnd.LOST if lost else TraceEnd.STOPPED,
        index=n - 1,
        time_s=float(time_s[n - 1]),
        top_n=peak,
    )
    if peak <= max(8.0 * noise_n, 1e-9):
        return stopped
    lag = max(2, int(np.ceil(BREAK_S * rate_hz)) + 1)
    for at in _sharp_falls(load, lag, settings.break_share, max(_FLOOR * peak, 10.0 * noise_n)):
        top = last_good(load, int(at) + lag // 2, rate_hz, noise_n)
        recent = float(smooth[max(0, top - max(lag, round(0.25 * rate_hz))) : top + 1].max())
        if float(load[top]) < 0.75 * recent:
            continue  # it was falling already
        rest = smooth[min(n, top + lag + round(RING_S * rate_hz)) :]
        if len(rest) and float(rest.max()) >= _RECOVERS * float(load[top]):
            continue
        if travel_m[min(n - 1, top + lag)] < travel_m[top] - 2e-4:
            continue
        if frozen is not None and frozen[top] and load[min(n - 1, top + lag)] > 0.1 * peak:
            continue  # the reading came back from standing still
        took, _ = _fall_s(load, top, min(n - 1, top + max(2, round(0.15 * rate_hz))), rate_hz)
        steps = _parts_in_steps(load, top, rate_hz)
        rings = _rings(load, top, rate_hz, noise_n)
        limit = SLOW_AFTER_SLIP_S if slipped_before else SLOW_S
        if not rings and rate_hz >= 400:
            limit = SILENT_S
        if took <= limit + 1.2 / rate_hz or steps or rings:
            when, level = break_instant(load, time_s, top, rate_hz)
            return Ending(end=TraceEnd.BROKE, index=top, time_s=when, top_n=level, strands=steps)
        later = smooth[min(n - 1, top + round(0.15 * rate_hz)) :]
        if float(later.max()) < 0.15 * float(load[top]):
            return Ending(
                end=TraceEnd.RAN_OUT, index=top, time_s=float(time_s[top]), top_n=float(smooth[top])
            )
    return _slow_ending(time_s, smooth, travel_m, rate_hz, peak_at, peak, stopped)


def _rings(load: Floats, top: int, rate_hz: float, noise_n: float) -> bool:
    """Whether the bench swings back up within 25 ms of a fall, as it does when something parts.

    A slip is made good by travel, which takes longer.
    """
    if rate_hz < 400:
        return False
    part = load[top : top + max(6, round(0.025 * rate_hz))]
    lowest = np.minimum.accumulate(part)
    drop = float(part[0]) - float(lowest[-1])
    back = float(np.max(part - lowest))
    return drop > 0.2 * float(part[0]) and back > max(0.2 * drop, 8.0 * noise_n)


def _parts_in_steps(load: Floats, top: int, rate_hz: float) -> bool:
    """Whether a sharp drop is followed by a rest on a lower level, and by another sharp drop.

    What separates it from a tail that runs out is the rest: the level stands still between.
    """
    high = float(load[top])
    lag = max(1, int(np.ceil(BREAK_S * rate_hz)))
    after = load[top + lag + 1 : top + lag + 1 + max(6, round(0.35 * rate_hz))]
    if len(after) < 5 or high - float(after[0]) < 0.2 * high:
        return False
    drops = after[:-lag] - after[lag:] > 0.12 * high
    drops[: min(2, 2 * lag)] = False
    later = np.flatnonzero(drops)
    if not len(later):
        return False
    ledge = after[: int(later[0])]
    ledge = ledge[min(lag, max(0, len(ledge) - 3)) :]
    if len(ledge) < max(2, round(LEDGE_S * rate_hz)):
        return False
    half = len(ledge) // 2
    first, second = float(np.mean(ledge[:half])), float(np.mean(ledge[half:]))
    level = 0.5 * (first + second)
    return 0.12 * high < level < 0.8 * high and abs(first - second) < 0.12 * (high - level)


def _slow_ending(
    time_s: Floats,
    smooth: Floats,
    travel_m: Floats,
    rate_hz: float,
    peak_at: int,
    peak: float,
    stopped: Ending,
) -> Ending:
    """A fall for good that is not sharp: a run-out, or the bench going back."""
    tail = smooth[-max(3, len(smooth) // 200) :]
    final = float(np.median(tail))
    if final > 0.35 * peak:
        return stopped
    # The last time it stood clearly above where it came to rest, and the top it then fell from.
    high = np.flatnonzero(smooth >= max(final, 0.0) + 0.15 * peak)
    last = int(high[-1]) if len(high) else peak_at
    back = max(0, last - max(2, round(0.08 * rate_hz)))
    top = back + int(np.argmax(smooth[back : last + 1]))
    step = max(1, round(0.04 * rate_hz))
    while top > 0:
        earlier = smooth[max(0, top - step) : top]
        if float(earlier.max()) < 1.05 * float(smooth[top]):
            break
        top = max(0, top - step) + int(np.argmax(earlier))
    after = min(len(smooth) - 1, last + max(2, round(0.02 * rate_hz)))
    if travel_m[after] < travel_m[top] - 5e-5:
        return stopped
    return Ending(
        end=TraceEnd.RAN_OUT, index=top, time_s=float(time_s[top]), top_n=float(smooth[top])
    )
