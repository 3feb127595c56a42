"""Whether readings can be believed: a channel that says nothing, stands, or cannot be."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bruiser.core.errors import RigError
from bruiser.core.trace import Floats, Trace
from bruiser.rig.instrument import InstrumentInfo

NOTHING_S = 0.2
"""A channel without a reading for this long has failed; with the way to the screen under 0.3 s."""

STANDING_S = 0.25
_LONGER = 6.0
_LOADED_SHARE = 0.02
_BEYOND, _STROKE_BEYOND_M = 1.5, 0.05
_FEW = 3
_BELOW_SHARE, _BELOW_S = 0.02, 0.1
_OFF_STEP = 0.1
_DEAD_S, _DEAD_SHARE, _WAVERS_STEPS = 0.2, 0.1, 0.5
_WAY_S, _LEAST_WAY, _MOST_WAY, _ENCODER_M = 0.15, 0.1, 5.0, 2e-3


class NoReading(RigError):
    """A channel gives no reading that can be believed; `channel` names it."""

    def __init__(self, channel: str, what: str) -> None:
        super().__init__(
            f"The {channel} {what}. The travel was stopped.",
            "Take the load off by the bench's own means, and look at the cable and the cell.",
        )
        self.channel = channel


def off_steps(load_n: Floats, step_n: float) -> np.ndarray:
    """Which loads lie between the steps of a cell, shape (n,) as the loads."""
    parts = load_n / step_n
    return np.asarray(np.abs(parts - np.round(parts)) > _OFF_STEP)


class ChannelWatch:
    """Looks at every block of a recording while the crosshead moves.

    Parameters
    ----------
    info : InstrumentInfo
        Rate, capacity and stroke; a bench without stroke gives no travel that could be watched.

    Notes
    -----
    A channel has failed when it read nothing for 0.2 s, or three readings in a row that cannot be:
    infinite, beyond one and a half times the cell's capacity, or 50 mm off the bench's stroke. The
    load stands when it is the same to the last step for 0.25 s, and six times as long as it ever
    was before under load, although the crosshead moved on: a cell has noise, a dead one has none.
    """

    def __init__(self, info: InstrumentInfo) -> None:
        self._info = info
        self._nothing = {"load cell": 0, "travel": 0}
        self._odd = {"load cell": 0, "travel": 0}
        self.begin_anew()
        self._longest = 0
        self.wavers_n = self.rate_m_s = 0.0
        self.in_steps = False

    def begin_anew(self, *, forward: bool = False) -> None:
        """Travel starts again; `forward` where it pulls."""
        self._forward = forward
        self._set_off = False
        self._below = 0
        self._recent_n = np.empty(0)
        self._way_m = np.empty(0)
        for counts in (self._nothing, self._odd):
            for channel in counts:
                counts[channel] = 0
        self._run = 0
        self._value = np.nan
        self._run_from_m = np.nan

    def look(self, block: Trace, *, stands: bool = False) -> NoReading | None:
        """Take in a block recorded in motion; what has failed, if anything.

        Parameters
        ----------
        stands : bool
            Whether the bench says that it was stopped meanwhile.
        """
        if stands:
            self._set_off, self._way_m = False, np.empty(0)
        limit = max(2, round(NOTHING_S * self._info.sample_rate_hz))
        for channel, values, odd in self._channels(block):
            failed = self._count(self._nothing, channel, np.isnan(values), limit)
            if failed:
                return NoReading(channel, "reads nothing")
            if self._count(self._odd, channel, odd, _FEW):
                return NoReading(channel, "reads what cannot be")
        found = self._look_below(block) or self._look_dead(block)
        return found or self._look_standing(block) or self._look_way(block, stands)

    def _look_way(self, block: Trace, stands: bool) -> NoReading | None:
        """Travel that does not go the way it was sent, at about the rate it was sent with."""
        if stands or not self._forward or self._info.stroke_m <= 0 or self.rate_m_s <= 0:
            return None
        wanted = self._samples(_WAY_S)
        read = block.travel_m[np.isfinite(block.travel_m)]
        self._way_m = np.concatenate((self._way_m, read))[-wanted:]
        if len(self._way_m) < wanted:
            return None
        way = float(self._way_m[-1] - self._way_m[0])
        sent = self.rate_m_s * wanted / self._info.sample_rate_hz
        if abs(way) <= _LEAST_WAY * sent:
            if not self._set_off:
                return None  # It is on its way to move off.
            return NoReading("travel", "stands while the bench pulls")
        self._set_off = True
        if way < 0:
            return NoReading("travel", "runs backward while the bench pulls")
        if way > _MOST_WAY * sent + _ENCODER_M:
            return NoReading("travel", "leaps: it may have changed its unit")
        return None

    def _look_below(self, block: Trace) -> NoReading | None:
        """A cord cannot be pressed: a load far below zero is a cell wired the other way."""
        with np.errstate(invalid="ignore"):
            hit = block.load_n < -_BELOW_SHARE * self._info.capacity_n
        counts = {"load cell": self._below}
        found = self._count(counts, "load cell", hit, self._samples(_BELOW_S))
        self._below = counts["load cell"]
        if not found:
            return None
        return NoReading("load cell", "reads far below zero: it may be wired the other way")

    def _look_dead(self, block: Trace) -> NoReading | None:
        """A cell that wavered at rest and does so no more is dead, or speaks another unit."""
        wanted = self._samples(_DEAD_S)
        load = block.load_n[np.isfinite(block.load_n)]
        self._recent_n = np.concatenate((self._recent_n, load))[-wanted:]
        if len(self._recent_n) < wanted:
            return None
        step = self._info.resolution_n
        if self.in_steps and bool(off_steps(self._recent_n, step).all()):
            return NoReading("load cell", "reads between its own steps: it may show another unit")
        coarse = self.wavers_n <= _WAVERS_STEPS * step
        if coarse or np.std(self._recent_n) > _DEAD_SHARE * self.wavers_n:
            return None
        return NoReading("load cell", "wavers no more: it may be dead, or show another unit")

    def _samples(self, seconds: float) -> int:
        return max(_FEW, round(seconds * self._info.sample_rate_hz))

    def _channels(self, block: Trace) -> Iterator[tuple[str, Floats, np.ndarray]]:
        load, travel = block.load_n, block.travel_m
        with np.errstate(invalid="ignore"):
            yield "load cell", load, np.abs(load) > _BEYOND * self._info.capacity_n
            if self._info.stroke_m > 0:
                last = self._info.stroke_m + _STROKE_BEYOND_M
                yield "travel", travel, (travel < -_STROKE_BEYOND_M) | (travel > last)

    @staticmethod
    def _count(counts: dict[str, int], channel: str, hit: np.ndarray, limit: int) -> bool:
        """Count how many in a row are so, over blocks; whether the limit was reached."""
        if not len(hit):
            return False
        ends = np.flatnonzero(~hit)
        edges = np.concatenate(([-1], ends, [len(hit)]))
        runs = np.diff(edges) - 1
        runs[0] += counts[channel]
        counts[channel] = int(runs[-1])
        return bool((runs >= limit).any())

    def _look_standing(self, block: Trace) -> NoReading | None:
        if self._info.stroke_m <= 0:
            return None
        needed = max(STANDING_S * self._info.sample_rate_hz, _LONGER * self._longest)
        loaded = _LOADED_SHARE * self._info.capacity_n
        for load, travel in zip(block.load_n.tolist(), block.travel_m.tolist(), strict=True):
            if load == self._value:
                self._run += 1
            else:
                if self._value > loaded:
                    self._longest = max(self._longest, self._run)
                self._run, self._value, self._run_from_m = 1, load, travel
            moved = abs(travel - self._run_from_m) > 5e-4
            if load > loaded and moved and self._longest and self._run > needed:
                return NoReading("load cell", "stands still while the crosshead moves")
        return None
