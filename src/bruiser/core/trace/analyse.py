"""The analysis of a trace, from the clock to the last flag."""

from __future__ import annotations

import numpy as np

from bruiser.core.errors import TooFewPulls
from bruiser.core.trace.channels import Channel, Trace
from bruiser.core.trace.doubts import is_spiked, is_undersampled, jumps_like_a_load
from bruiser.core.trace.drawing import draw_by_load
from bruiser.core.trace.ending import Ending, find_ending, last_good
from bruiser.core.trace.record import Floats, TraceEnd, TraceResult, TraceSettings
from bruiser.core.trace.repair import Repaired, repair
from bruiser.core.trace.slipping import (
    Drop,
    find_capsize,
    find_drops,
    find_onset,
    is_bedding,
    slips_of,
)
from bruiser.core.trace.smoothing import (
    blocks,
    find_noise,
    first_above,
    median_of_three,
    running_mean,
    take_out_hum,
)

_MOVED_M = 5e-5


def analyse_trace(
    trace: Trace, *, capacity_n: float | None = None, settings: TraceSettings | None = None
) -> TraceResult:
    """Read a pull.

    Parameters
    ----------
    trace : Trace
        As it was recorded, with its time. Without travel there is no stiffness, energy or rate,
        and slips are told by time; a second load gives the advantage, a tail gauge the draw.
    capacity_n : float, optional
        Capacity of the load cell; readings at it are flagged ``clipped``.
    settings : TraceSettings, optional
        What to go by.

    Returns
    -------
    TraceResult

    Raises
    ------
    TooFewPulls
        If there are fewer than 10 samples.
    ValueError
        If the trace has no time.

    Notes
    -----
    In this order: the clock, frozen and missing stretches, zero (median before travel starts),
    noise and hum there, median of three and 5 ms mean, drops, the ending, slips with their onset,
    a change of form, secant stiffness from 10 to 50 %, energy, rate from 10 to 90 %, doubts.
    """
    by = TraceSettings() if settings is None else settings
    if len(trace) < 10:
        raise TooFewPulls("The trace has fewer than 10 samples.", "Nothing can be read off it.")
    travel_m = trace.get(Channel.TRAVEL)
    known = travel_m is not None and _moves(travel_m)
    travel = travel_m if travel_m is not None and known else np.zeros(len(trace))
    r = repair(
        np.asarray(trace.time_s, dtype=np.float64),
        np.array(trace.load_n, dtype=np.float64),
        np.asarray(travel, dtype=np.float64),
    )
    if not known:
        r.flags.add("no_travel")
    return _Reading(r, by, known, capacity_n, trace).result()


def _moves(travel_m: Floats) -> bool:
    """Whether a travel channel ever moves; a sample in every few hundred tells."""
    some = travel_m[:: max(1, len(travel_m) // 4_000)]
    some = some[np.isfinite(some)]
    return len(some) > 0 and float(np.ptp(some)) > _MOVED_M


class _Reading:
    """One trace being read; every step leaves what the next ones need."""

    def __init__(
        self,
        r: Repaired,
        by: TraceSettings,
        has_travel: bool,
        capacity_n: float | None,
        trace: Trace,
    ) -> None:
        self.r, self.by, self.has_travel = r, by, has_travel
        self.n = max(r.length, min(10, len(r.load_n)))
        self.time, self.travel = r.time_s[: self.n], r.travel_m[: self.n]
        self.load2, self.tail = trace.get(Channel.LOAD2), trace.get(Channel.TAIL)
        self._crossings: dict[float, int] = {}
        raw = r.load_n[: self.n]
        if not has_travel:
            # Slips are then told by time, as if the bench went 8 mm a second.
            self.travel = 0.008 * (self.time - self.time[0])
        self.start = self._find_start(raw)
        self.noise = find_noise(raw, self.start, r.rate_hz)
        self.zero = self._find_zero(raw)
        self.load = take_out_hum(raw, self.noise, r.rate_hz) - self.zero
        self.clean = median_of_three(self.load)
        self.smooth = running_mean(self.clean, max(1, round(by.mean_s * r.rate_hz)))
        if capacity_n is not None and np.count_nonzero(raw >= 0.999 * capacity_n) > 2:
            r.flags.add("clipped")

    def _find_start(self, raw: Floats) -> int:
        """The first sample of the pull."""
        if self.has_travel:
            for part in blocks(self.n):
                moving = np.abs(self.travel[part] - self.travel[0]) > _MOVED_M
                at = int(np.argmax(moving))
                if moving[at]:
                    return int(part.start) + at
            return self.n
        head = raw[: max(10, round(0.2 * self.r.rate_hz))]
        level = float(np.median(head))
        spread = 1.4826 * float(np.median(np.abs(head - level)))
        wide = running_mean(raw, max(3, round(0.02 * self.r.rate_hz)))
        above = np.flatnonzero(wide > level + max(6.0 * spread, 0.01 * float(np.ptp(wide))))
        return int(above[0]) if len(above) else self.n

    def _find_zero(self, raw: Floats) -> float:
        """The load at rest, before the pull; after a break where there was no rest before."""
        self.has_zero = self.start >= max(5, round(0.05 * self.r.rate_hz))
        if self.has_zero:
            return float(np.median(raw[: min(self.start, 200_000)]))
        self.r.flags.add("no_zero")
        first = float(np.median(raw[: max(3, min(self.start, 5))]))
        top = float(raw.max())
        last = raw[-max(5, min(self.n // 20, round(0.3 * self.r.rate_hz))) :]
        level = float(np.median(last))
        if abs(level - first) < 0.05 * max(top - first, 1e-9):
            return level
        return min(first, float(np.quantile(raw[:: max(1, self.n // 20_000)], 0.001)))

    def result(self) -> TraceResult:
        """Everything that can be read off."""
        r, by, rate = self.r, self.by, self.r.rate_hz
        lost = "disconnected" in r.flags
        sigma, step = self.noise.sigma_n, self.noise.step_n
        first_peak = float(self.smooth.max())
        drops = find_drops(self.smooth, self.n - 1, rate, sigma, step, first_peak, self.travel, by)
        ending = self._end(drops, lost)
        stop = ending.index
        drops = [d for d in drops if d.top < stop - max(1, round(0.004 * rate))]
        drops = [self._until(d, stop) for d in drops]
        peak, peak_at = self._peak(ending)
        capsize = find_capsize(drops, self.clean, self.travel, rate, stop, peak, by)
        capsize_n = None if capsize is None else capsize.load_n
        onset = find_onset(drops, self.travel, stop, peak, capsize, by)
        self._flag(ending, peak, peak_at, capsize_n is not None)
        if "drift" in r.flags:
            began = float(self.time[min(self.start, peak_at)])
            peak -= self._drift(ending) * float(self.time[peak_at] - began)
        seated = [d.load_n for d in drops if is_bedding(d, peak, by)]
        first_slip = None if onset is None else onset.load_n
        if first_slip is None and ending.end is TraceEnd.RAN_OUT and capsize_n is None:
            first_slip = ending.top_n
        return TraceResult(
            zero_n=self.zero,
            noise_n=sigma,
            peak_n=peak,
            peak_index=peak_at,
            peak_time_s=float(self.time[peak_at]),
            end=ending.end,
            end_index=ending.index,
            end_time_s=ending.time_s,
            slips=slips_of(drops, self.smooth, self.travel, self.time, peak, by),
            first_slip_n=first_slip,
            travel_to_peak_m=self._travelled(peak_at),
            energy_j=self._energy(peak_at),
            rate_m_s=self._rate(peak, peak_at),
            flags=tuple(sorted(r.flags)),
            capsized=capsize_n is not None,
            capsize_n=capsize_n,
            preload_n=max(seated, default=0.0),
            stiffness_n_per_m=self._stiffness(peak, peak_at),
            sample_rate_hz=rate,
            start_index=min(self.start, self.n - 1),
            tail_draw_m=self._tail_draw(),
            advantage=self._advantage(peak_at),
            draw_by_load_m=()
            if self.tail is None
            else draw_by_load(self.smooth, self.tail, peak, peak_at),
        )

    def _end(self, drops: list[Drop], lost: bool) -> Ending:
        slipped = [d for d in drops if not is_bedding(d, float(self.smooth.max()), self.by)]
        # The fall itself is a drop too: what counts as slipping came well before the last top.
        last = int(np.argmax(self.smooth))
        before = [d for d in slipped if d.again < self.n - 1 or d.top < last]
        return find_ending(
            self.time,
            self.clean,
            self.smooth,
            self.travel,
            self.r.rate_hz,
            self.noise.sigma_n,
            len(before) >= 2,
            lost,
            self.by,
            self.r.frozen[: self.n] if self.r.frozen.any() else None,
        )

    def _until(self, drop: Drop, stop: int) -> Drop:
        if drop.again <= stop:
            return drop
        return Drop(
            top=drop.top, bottom=drop.bottom, again=stop, load_n=drop.load_n, drop_n=drop.drop_n
        )

    def _peak(self, ending: Ending) -> tuple[float, int]:
        """The highest load, and its sample.

        The running mean is short of a top that is cut off by a slip or a break: the line through
        the last samples before it is taken, where it says little more.
        """
        head = self.smooth[: ending.index + 1]
        at = int(np.argmax(head))
        peak = float(head[at])
        if ending.end is TraceEnd.BROKE and peak < ending.top_n < 1.03 * peak:
            return ending.top_n, ending.index
        top = last_good(self.clean, at, self.r.rate_hz, self.noise.sigma_n)
        width = int(np.clip(round(0.015 * self.r.rate_hz), 3, 30))
        back = np.arange(max(0, top - width + 1), top + 1)
        if top > at and len(back) >= 3:
            _, level = np.polyfit(back - top, self.clean[back], 1)
            if peak < level < 1.02 * peak:
                return float(level), top
        return peak, at

    def _drift(self, ending: Ending) -> float:
        """How fast the zero moved, in newton a second.

        From before the pull to after its end; where the load did not go, from the rest before it.
        """
        if not self.has_zero:
            return 0.0
        moved, took, _ = self._rest_moved()
        before = moved / took if took > 0 else 0.0
        after = self._after(ending)
        if not len(after):
            return before
        rest = min(self.start, self.n - 1)
        apart = float(self.time[-1] - self.time[rest])
        found = float(np.median(after)) / apart if apart > 0 else 0.0
        # What a tail that ran out still drags is no drift, unless the rest before says the same;
        # nothing drags upwards.
        dragged = found > 0 and not 0.5 < found / (before or 1e-12) < 2.0
        return before if ending.end is TraceEnd.RAN_OUT and dragged else found

    def _after(self, ending: Ending) -> Floats:
        """The load at rest after it gave; empty where there is none, or too little."""
        if ending.end not in (TraceEnd.BROKE, TraceEnd.RAN_OUT):
            return np.empty(0)
        after = self.load[ending.index + max(5, round(0.3 * self.r.rate_hz)) :]
        return after if len(after) >= max(20, round(0.1 * self.r.rate_hz)) else np.empty(0)

    def _rest_moved(self) -> tuple[float, float, float]:
        """How far the zero moved before the pull, in how long, and how sure that is (one sigma)."""
        if self.start < 40 or self.start > self.n:
            return 0.0, 0.0, 0.0
        rest = self.r.load_n[: min(self.start, self.n)]
        third = max(10, len(rest) // 3)
        moved = float(np.mean(rest[-third:]) - np.mean(rest[:third]))
        took = (len(rest) - third) / self.r.rate_hz
        return moved, took, self.noise.sigma_n * float(np.sqrt(2.0 / third))

    def _travelled(self, at: int) -> float:
        if not self.has_travel:
            return 0.0
        return float(self.travel[at] - self.travel[min(self.start, at)])

    def _energy(self, at: int) -> float:
        if not self.has_travel or at < 1:
            return 0.0
        load, travel = self.load[: at + 1], self.travel[: at + 1]
        # The trapezoid rule multiplied out: its like terms cancel but for the two ends.
        ends = float(load[-1] * travel[-1] - load[0] * travel[0])
        crossed = float(np.dot(load[:-1], travel[1:]) - np.dot(load[1:], travel[:-1]))
        return 0.5 * (ends + crossed)

    def _crossing(self, level: float, stop: int) -> int:
        if level not in self._crossings:
            self._crossings[level] = first_above(self.smooth, level)
        first = self._crossings[level]
        return first if 0 <= first <= stop else stop

    def _stiffness(self, peak: float, at: int) -> float:
        if not self.has_travel:
            return 0.0
        low, high = self._crossing(0.1 * peak, at), self._crossing(0.5 * peak, at)
        moved = float(self.travel[high] - self.travel[low])
        return float(self.smooth[high] - self.smooth[low]) / moved if moved > 1e-7 else 0.0

    def _rate(self, peak: float, at: int) -> float:
        if not self.has_travel:
            return 0.0
        low, high = self._crossing(0.1 * peak, at), self._crossing(0.9 * peak, at)
        took = float(self.time[high] - self.time[low])
        return float(self.travel[high] - self.travel[low]) / took if took > 0 else 0.0

    def _tail_draw(self) -> float | None:
        if self.tail is None:
            return None
        seen = self.tail[: self.n][np.isfinite(self.tail[: self.n])]
        return float(seen[-1] - seen[0]) if len(seen) else None

    def _advantage(self, peak_at: int) -> float | None:
        if self.load2 is None or peak_at < 10:
            return None
        high = self.smooth[: peak_at + 1] > 0.5 * self.smooth[peak_at]
        hand = np.asarray(self.load2[: peak_at + 1])[high]
        load = self.smooth[: peak_at + 1][high]
        good = np.isfinite(hand) & (np.abs(hand) > 1e-9)
        return float(np.median(load[good] / hand[good])) if good.any() else None

    def _flag(self, ending: Ending, peak: float, peak_at: int, capsized: bool) -> None:
        flags = self.r.flags
        if ending.strands:
            flags.add("strands")
        if capsized:
            flags.add("capsize")
        limit = max(9.0 * self.noise.sigma_n, 0.01 * peak, 4.0 * self.noise.step_n)
        if is_spiked(self.load, self.clean, ending.index, limit, self.r.rate_hz):
            flags.add("spikes")
        if is_undersampled(self.smooth, peak_at, peak, self.r.rate_hz):
            flags.add("undersampled")
        if self._drifts(ending, peak):
            flags.add("drift")
        if self.has_travel and self._reversed(peak_at, peak):
            flags.add("reversed_columns")

    def _drifts(self, ending: Ending, peak: float) -> bool:
        """Whether the zero moved: at rest before the pull, or from before it to after the end."""
        if not self.has_zero:
            return False
        moved, took, sigma = self._rest_moved()
        step = self.noise.step_n
        if took > 0 and abs(moved) > 8.0 * sigma + 0.2 * step:
            whole = abs(moved) / took * float(self.time[-1] - self.time[0])
            if whole > 0.004 * peak:
                return True
        after = self._after(ending)
        if not len(after):
            return False
        floor = max(2.0 * self.noise.sigma_n, 0.004 * peak, 2.0 * step)
        level = float(np.median(after))
        # Friction may be left on what ran out: only a level below zero tells there.
        return level < -floor or (ending.end is TraceEnd.BROKE and level > floor)

    def _reversed(self, peak_at: int, peak: float) -> bool:
        """Travel that falls while load rises, or that jumps as only a load can."""
        low, high = self._crossing(0.1 * peak, peak_at), self._crossing(0.9 * peak, peak_at)
        reach = float(np.ptp(self.travel[:: max(1, self.n // 4_000)]))
        if high > low and float(self.travel[high] - self.travel[low]) < -0.1 * reach:
            return True
        return jumps_like_a_load(self.travel, self.clean, reach, peak, self.r.rate_hz)
