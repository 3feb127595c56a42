"""What is wrong with a record before anything is read: clock, gaps, frozen or lost signal."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from bruiser.core.trace.record import Bools, Floats
from bruiser.core.trace.smoothing import blocks

_STUCK_S, _STUCK_SAMPLES = 0.030, 12
_GAP, _SAMPLE = 2.6, 20_000


@dataclass(kw_only=True)
class Repaired:
    """A record made fit to be analysed.

    Parameters
    ----------
    length : int
        Samples that carry a signal; what follows is lost.
    missing : ndarray of bool
        Samples that were filled in.
    frozen : ndarray of bool
        Samples in which the reading stood still while the bench moved.
    """

    time_s: Floats
    load_n: Floats
    travel_m: Floats
    rate_hz: float
    length: int
    missing: Bools
    frozen: Bools
    flags: set[str] = field(default_factory=set)


def fit_clock(time_s: Floats, flags: set[str]) -> tuple[Floats, float]:
    """Time and rate: least squares on the count where stamps are coarse or go back.

    Notes
    -----
    The rate is that of the middle half of the intervals, so that gaps and collisions do not count.
    Stamps that go back are rebuilt from the count. A rate above 50 kHz, or one below 5 Hz in a long
    record, is no rate of a load cell: the unit of time is then in doubt.
    """
    count = len(time_s)
    lowest, highest = _step_range(time_s)
    if lowest < 0:
        flags.add("clock")
        steps = np.diff(time_s)
        good = steps[steps > 0]
        dt = float(np.median(good)) if len(good) else 1.0
        time_s = time_s[0] + dt * np.arange(count)
        highest = dt
    span = float(time_s[-1] - time_s[0])
    some = np.arange(0, count - 1, max(1, count // _SAMPLE))
    middle = float(np.median(time_s[some + 1] - time_s[some]))
    dt = span / (count - 1)
    longest = _GAP * max(middle, 0.2 * dt) + 1e-9
    if middle > 0 and highest > longest:
        flags.add("dropout")
        steps = np.diff(time_s)
        kept = steps[steps <= longest]
        dt = float(kept.mean()) if len(kept) else dt
    rate = 1.0 / dt if dt > 0 else 1.0
    if rate > 50_000 or rate < 0.2 or (rate < 5.0 and count > 1_500):
        flags.add("implausible_rate")
    return time_s, rate


def _step_range(time_s: Floats) -> tuple[float, float]:
    """Shortest and longest interval between stamps."""
    lowest, highest = np.inf, -np.inf
    for part in blocks(len(time_s) - 1):
        steps = time_s[part.start + 1 : part.stop + 1] - time_s[part]
        lowest, highest = min(lowest, float(steps.min())), max(highest, float(steps.max()))
    return lowest, highest


def runs_of_equal(values: Floats, shortest: int) -> list[tuple[int, int]]:
    """Stretches of at least `shortest` equal values, as (first, after the last)."""
    same = np.flatnonzero(values[1:] == values[:-1])
    if not len(same):
        return []
    breaks = np.flatnonzero(np.diff(same) > 1)
    starts = same[np.concatenate([[0], breaks + 1])]
    lengths = same[np.concatenate([breaks, [len(same) - 1]])] - starts + 2
    return [
        (int(starts[k]), int(starts[k] + lengths[k])) for k in np.flatnonzero(lengths >= shortest)
    ]


def repair(time_s: Floats, load_n: Floats, travel_m: Floats) -> Repaired:
    """Find and mend what can be mended in a record."""
    flags: set[str] = set()
    time_s, rate = fit_clock(time_s, flags)
    missing = np.isnan(load_n)
    frozen = np.zeros(len(load_n), dtype=np.bool_)
    length = len(load_n)
    if missing.any():
        good = np.flatnonzero(~missing)
        if len(good) == 0:
            return Repaired(
                time_s=time_s,
                load_n=np.zeros_like(load_n),
                travel_m=travel_m,
                rate_hz=rate,
                length=0,
                missing=missing,
                frozen=frozen,
                flags={"dropout"},
            )
        length = int(good[-1]) + 1
        if len(load_n) - length >= max(2, 0.01 * rate):
            flags.add("disconnected")
        if missing[:length].any():
            flags.add("dropout")
        load_n = np.interp(np.arange(len(load_n)), good, load_n[good])
    if np.isnan(travel_m).any():
        good = np.flatnonzero(~np.isnan(travel_m))
        held = travel_m[good] if len(good) else np.zeros(1)
        travel_m = np.interp(np.arange(len(travel_m)), good if len(good) else [0], held)
    made = Repaired(
        time_s=time_s,
        load_n=load_n,
        travel_m=travel_m,
        rate_hz=rate,
        length=length,
        missing=missing,
        frozen=frozen,
        flags=flags,
    )
    _find_frozen(made)
    return made


def _find_frozen(r: Repaired) -> None:
    """Stretches of one value: a signal that is lost, missing, stuck or at the cell's limit."""
    load, n = r.load_n[: r.length], r.length
    shortest = max(_STUCK_SAMPLES, round(_STUCK_S * r.rate_hz))
    found = runs_of_equal(load, shortest)
    if not found or n < 3 * shortest:
        return
    part = load[: min(n, 200_000)]
    still = np.diff(part) == 0
    lively = float(still.mean()) < 0.3
    if still.mean() > 0.5:
        # A coarse cell stands still by itself: only what is far longer than usual counts.
        shortest = max(shortest, round(0.25 * r.rate_hz))
        found = [f for f in found if f[1] - f[0] >= shortest]
    high = float(np.max(load))
    scale = max(float(np.quantile(np.abs(load[:: max(1, n // 5_000)]), 0.98)), 1e-9)
    for first, after in found:
        value = float(load[first])
        moved = float(np.ptp(r.travel_m[first:after]))
        before = float(load[first - 1]) if first else value
        later = float(load[after]) if after < n else value
        jump_in, jump_out = abs(value - before), abs(later - value)
        jumped = first > 0 and jump_in > max(0.1 * scale, 5.0 * _usual_step(load, first))
        if value >= high - 1e-9 and value > 0.2 * scale and not jumped:
            r.flags.add("clipped")
        elif after >= n - 1:
            _lost_at_end(r, first, value, scale)
        elif jump_in > 0.1 * scale and jump_out > 0.1 * scale:
            r.flags.add("dropout")
            r.missing[first:after] = True
            r.load_n[first:after] = np.linspace(before, later, after - first + 2)[1:-1]
        elif lively or moved > 2e-4 or jump_out > 0.05 * scale:
            r.flags.add("stuck")
            r.frozen[first:after] = True


def _usual_step(load: Floats, first: int) -> float:
    """How far the reading goes from sample to sample just before a stretch."""
    steps = np.abs(np.diff(load[max(0, first - 20) : first]))
    return float(np.median(steps)) if len(steps) else 0.0


def _lost_at_end(r: Repaired, first: int, value: float, scale: float) -> None:
    """Whether a record that ends in one value has lost its signal, rather than come to rest."""
    rest = r.load_n[: max(20, min(first, round(0.2 * r.rate_hz)))]
    lively = float(np.mean(np.diff(rest) != 0)) > 0.3 if len(rest) > 5 else False
    before = r.load_n[max(0, first - round(0.02 * r.rate_hz)) : first]
    loaded = len(before) > 0 and float(np.median(before)) - float(np.median(rest)) > 0.1 * scale
    off_zero = abs(value - float(np.median(rest))) > max(3.0 * float(np.std(rest)), 0.002 * scale)
    no_cell_rests_at = value == 0.0 or abs(value) > 1.5 * scale
    odd = off_zero or (lively and no_cell_rests_at)
    if (loaded and odd) or (lively and off_zero):
        r.flags.add("disconnected")
        r.length = max(first, 1)
