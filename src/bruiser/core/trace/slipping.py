"""Slips, the load at which they begin, and a change of form."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bruiser.core.trace.record import Floats, Slip, TraceSettings
from bruiser.core.trace.smoothing import blocks

SLIP_S = 0.020
_SHARP_FROM_HZ = 500.0


@dataclass(frozen=True, kw_only=True)
class Drop:
    """A drop of load that came back: its top, its bottom, and where the top was reached again."""

    top: int
    bottom: int
    again: int
    load_n: float
    drop_n: float

    @property
    def share(self) -> float:
        """Drop over load."""
        return self.drop_n / max(self.load_n, 1e-9)


def find_drops(
    smooth: Floats, stop: int, rate_hz: float, noise_n: float, step_n: float, peak_n: float,
    travel_m: Floats, settings: TraceSettings,
) -> list[Drop]:  # fmt: skip
    """Every drop within 20 ms of more than max(6 sqrt(2) sigma, 0.4 % of peak, 3 counts).

    A load that falls because the bench goes back is none.
    """
    lag = max(1, round(SLIP_S * rate_hz))
    if stop <= lag:
        return []
    averaged = max(1.0, settings.mean_s * rate_hz)
    sigma = noise_n / np.sqrt(averaged)
    limit = max(6.0 * np.sqrt(2.0) * sigma, settings.slip_share * peak_n, 3.0 * step_n)
    head = smooth[: stop + 1]
    parts = [np.empty(0, dtype=np.intp)]
    for part in blocks(len(head) - lag):
        gone = head[:-lag][part] - head[lag:][part]
        if gone.max() > limit:
            parts.append(part.start + np.flatnonzero(gone > limit))
    fallen = np.concatenate(parts)
    if not len(fallen):
        return []
    found: list[Drop] = []
    for run in np.split(fallen, np.flatnonzero(np.diff(fallen) > 1) + 1):
        first, last = int(run[0]), int(run[-1]) + lag
        stretch = head[first : last + 1]
        top = first + int(np.argmax(stretch))
        bottom = _bottom(head, top, max(last, top + lag), rate_hz, limit)
        if bottom <= top or travel_m[bottom] < travel_m[top] - 2e-5:
            continue
        found.append(
            Drop(
                top=top,
                bottom=bottom,
                again=0,
                load_n=float(head[top]),
                drop_n=float(head[top] - head[bottom]),
            )
        )
    return [_reach_again(d, head) for d in found]


def _bottom(head: Floats, top: int, last: int, rate_hz: float, limit: float) -> int:
    """Where a drop ends: the lowest sample before the load comes back by a quarter of it."""
    part = head[top : max(last, top + round(0.25 * rate_hz)) + 1]
    lowest = np.minimum.accumulate(part)
    back = (part - lowest > 0.25 * (part[0] - lowest)) & (part[0] - lowest > limit)
    stop = int(np.argmax(back)) if back.any() else len(part)
    return top + int(np.argmin(part[: max(stop, 1)]))


def _reach_again(drop: Drop, head: Floats) -> Drop:
    """A drop with the sample at which its load is reached again, the end where it never is."""
    at, n = drop.bottom, len(head)
    # A block at a time: most drops are made good soon.
    while at < n:
        block = head[at : at + 2_000]
        higher = np.flatnonzero(block > drop.load_n)
        if len(higher):
            return Drop(
                top=drop.top,
                bottom=drop.bottom,
                again=at + int(higher[0]),
                load_n=drop.load_n,
                drop_n=drop.drop_n,
            )
        at += 2_000
    return Drop(
        top=drop.top, bottom=drop.bottom, again=n - 1, load_n=drop.load_n, drop_n=drop.drop_n
    )


def is_bedding(drop: Drop, peak_n: float, settings: TraceSettings) -> bool:
    """Whether a drop is bedding in: early and small."""
    return drop.load_n < settings.bedding_share * peak_n and drop.share < settings.bedding_size


def reload_stiffness(drop: Drop, smooth: Floats, travel_m: Floats) -> float:
    """Stiffness with which the load came back after a drop; 0 where it cannot be told."""
    up = min(drop.again, len(smooth) - 1)
    travelled = float(travel_m[up] - travel_m[drop.bottom])
    gained = float(smooth[up] - smooth[drop.bottom])
    return gained / travelled if travelled > 1e-6 and gained > 0 else 0.0


def slips_of(
    drops: list[Drop],
    smooth: Floats,
    travel_m: Floats,
    time_s: Floats,
    peak_n: float,
    settings: TraceSettings,
) -> tuple[Slip, ...]:
    """Drops that are no bedding in, with the length each released."""
    found = []
    for drop in drops:
        if is_bedding(drop, peak_n, settings):
            continue
        stiffness = reload_stiffness(drop, smooth, travel_m)
        released = drop.drop_n / stiffness if stiffness > 0 else 0.0
        found.append(
            Slip(
                index=drop.top,
                time_s=float(time_s[drop.top]),
                load_n=drop.load_n,
                drop_n=drop.drop_n,
                released_m=released,
            )
        )
    return tuple(found)


def find_onset(
    drops: list[Drop],
    travel_m: Floats,
    stop: int,
    peak_n: float,
    capsize: Drop | None,
    settings: TraceSettings,
) -> Drop | None:
    """The drop with which slipping begins.

    Notes
    -----
    Slipping is a drop after which no new load record comes over max(3 mm, 0.6 d) of travel. From
    the first such drop the chain is followed back over drops of the same kind: at least a third
    as large, at nearly the same load, and within twice that travel of the next. A single one well
    below the peak, small or early, with no other in four times that travel, is a late tick.
    """
    real = [d for d in drops if not is_bedding(d, peak_n, settings) and not _same(d, capsize)]
    far = settings.onset_m
    for k, drop in enumerate(real):
        again = min(drop.again, stop)
        if float(travel_m[again] - travel_m[drop.top]) < far:
            continue
        reach = float(travel_m[drop.top]) + 4.0 * far
        company = any(float(travel_m[d.top]) < reach for d in real[k + 1 :])
        alone = drop.load_n < 0.4 * peak_n or drop.share < 0.05
        if drop.load_n < 0.8 * peak_n and alone and not company:
            continue  # one late tick of seating
        first = k
        while first > 0:
            earlier, later = real[first - 1], real[first]
            near = float(travel_m[later.top] - travel_m[earlier.top]) < 2.0 * far
            alike = earlier.share > later.share / 3.0 and earlier.load_n > 0.93 * later.load_n
            if not (near and alike):
                break
            first -= 1
        return real[first]
    return None


def _same(drop: Drop, other: Drop | None) -> bool:
    return other is not None and drop.top == other.top


def _is_sharp(drop: Drop, load: Floats, rate_hz: float) -> bool:
    """Whether a drop is over from one sample to the next: a seating tick, not a knot that turns.

    Below 500 Hz this cannot be seen.
    """
    if rate_hz < _SHARP_FROM_HZ:
        return False
    width = max(2, round(0.004 * rate_hz))
    part = load[max(0, drop.top - width) : drop.bottom + 1]
    low = float(part.min())
    high = part > low + 0.85 * drop.drop_n
    under = part < low + 0.15 * drop.drop_n
    if not high.any() or not under.any():
        return False
    first_under = int(np.argmax(under))
    last_high = int(np.flatnonzero(high[: first_under + 1])[-1]) if high[:first_under].any() else 0
    return first_under - last_high <= 1


def find_capsize(
    drops: list[Drop],
    load: Floats,
    travel_m: Floats,
    rate_hz: float,
    stop: int,
    peak_n: float,
    settings: TraceSettings,
) -> Drop | None:
    """A change of form: an isolated drop over 19 % from a rising load, slow to be made good.

    No train of slips came before, hardly any other drop is as large, and over 0.2 d of travel are
    needed until the load is reached again.
    """
    # Where a tick cannot be told by its sharpness, the drop has to be larger.
    least = settings.capsize_share * (1.0 if rate_hz >= _SHARP_FROM_HZ else 1.25)
    for k, drop in enumerate(drops):
        if drop.share < least or drop.load_n < 0.15 * peak_n:
            continue
        if (drop.bottom - drop.top) / rate_hz > 0.25 or _is_sharp(drop, load, rate_hz):
            continue
        travelled = float(travel_m[min(drop.again, stop)] - travel_m[drop.top])
        if travelled < settings.capsize_m:
            continue
        before = [d for d in drops[:k] if d.drop_n > 0.1 * drop.drop_n]
        train = [d for d in before if d.load_n > 0.85 * drop.load_n]
        record = all(d.load_n <= 1.02 * drop.load_n for d in before)
        near = [d for d in drops if d is not drop and 0.7 < d.load_n / drop.load_n < 1.3]
        alike = [d for d in near if d.drop_n > 0.6 * drop.drop_n]
        if record and len(train) < 2 and len(alike) <= 1:
            return drop
    return None
