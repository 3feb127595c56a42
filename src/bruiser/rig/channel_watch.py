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


class NoReading(RigError):
    """A channel gives no reading that can be believed; `channel` names it."""

    def __init__(self, channel: str, what: str) -> None:
        super().__init__(
            f"The {channel} {what}. The travel was stopped.",
            "Take the load off by the bench's own means, and look at the cable and the cell.",
        )
        self.channel = channel


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

    def begin_anew(self) -> None:
        """Travel starts again."""
        for counts in (self._nothing, self._odd):
            for channel in counts:
                counts[channel] = 0
        self._run = 0
        self._value = np.nan
        self._run_from_m = np.nan

    def look(self, block: Trace) -> NoReading | None:
        """Take in a block recorded in motion; what has failed, if anything."""
        limit = max(2, round(NOTHING_S * self._info.sample_rate_hz))
        for channel, values, odd in self._channels(block):
            failed = self._count(self._nothing, channel, np.isnan(values), limit)
            if failed:
                return NoReading(channel, "reads nothing")
            if self._count(self._odd, channel, odd, _FEW):
                return NoReading(channel, "reads what cannot be")
        return self._look_standing(block)

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
