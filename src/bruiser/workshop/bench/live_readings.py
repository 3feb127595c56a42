"""The readings of a pull as they come: what is shown, and whether the specimen gave."""

from __future__ import annotations

import math

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from bruiser.core.trace import Floats
from bruiser.core.trace.live import LiveSlips
from bruiser.rig.channel_watch import off_steps
from bruiser.rig.instrument import Instrument

GAVE_SHARE = 0.15
"""A load that stays under this share of the highest, without travelling back: it gave."""

OFF_SHARE, OFF_CAPACITY = 0.03, 0.002
"""The load is off under this share of the highest, or of the cell's capacity."""

ZERO_S = 0.3
BLANK_S = 0.25
"""A number without a reading for this long goes blank."""

_SMOOTH_S, _WIDEST, _SLOW_HZ = 0.02, 25, 50.0
_COAST_S = 0.3
_ALIVE, _LIVELY = 10, 0.2


class LiveReadings:
    """Load and travel of one pull, sample by sample.

    Parameters
    ----------
    instrument : Instrument
        Its rate, capacity and resolution; the rate may become known while samples come.
    gave_way_m : float or None
        Under a programme: way without load after which a specimen gave, for a loosened knot feeds
        cord. None where the load alone says so.

    Notes
    -----
    What decides is the running median over 20 ms (3 to 25 readings), so that one wild reading
    neither sets the highest load nor ends the pull. Below 50 readings a second the highest shown is
    the highest reading: an indicator so slow has smoothed it already. A load that is on, or not
    known, is never taken for a specimen that gave.
    """

    def __init__(self, instrument: Instrument, gave_way_m: float | None) -> None:
        self._instrument = instrument
        self._gave_way_m = gave_way_m
        self._zero_n: float | None = None
        self.wavers_n = 0.0
        self.in_steps = False
        self.now_n = self.last_n = 0.0
        self.highest_n = 0.0
        self.shown_highest_n = 0.0
        self.travel_m = 0.0
        self.seen = 0
        self._highest_at = 0.0
        self._smooth_n = 0.0
        self._before_n = np.empty(0)
        self._low_since: int | None = None
        self._slips = LiveSlips(instrument.info.capacity_n, instrument.info.resolution_n)

    @property
    def zero_n(self) -> float:
        """The zero taken before travel."""
        return self._zero_n or 0.0

    @property
    def zero_unknown(self) -> bool:
        """Whether the zero is still to be taken."""
        return self._zero_n is None

    @property
    def slips(self) -> tuple[tuple[int, float], ...]:
        """Sample and load at each slip so far."""
        return self._slips.slips

    @property
    def load_is_off(self) -> bool:
        """Whether the load is known to be off; a load that is not read may be on.

        Off means small either way, and read by a cell that lives: one wired the other way reads
        far below zero under load, and one that died or changed its unit has not the noise it had.
        """
        capacity_n = self._instrument.info.capacity_n
        small = abs(self.now_n) <= max(OFF_SHARE * self.highest_n, OFF_CAPACITY * capacity_n)
        return small and self._cell_lives

    def begin_anew(self) -> None:
        """Travel starts again: what the load relaxed by meanwhile is no slip."""
        self._slips.begin_anew()

    def blank(self) -> None:
        """Nothing is read: no number stands."""
        if math.isfinite(self.now_n):
            self.last_n = self.now_n
        self.now_n = self._smooth_n = self.travel_m = math.nan

    def take_zero(self, at_rest: Floats) -> None:
        """Take the zero, and how much the cell wavers, from the first samples as far as read."""
        still = at_rest[: max(5, int(ZERO_S * self._instrument.info.sample_rate_hz))]
        still = still[np.isfinite(still)]
        if len(still):
            self._zero_n = float(np.median(still))
            self.wavers_n = float(np.std(still))
            self.in_steps = not off_steps(still, self._instrument.info.resolution_n).any()

    @property
    def _cell_lives(self) -> bool:
        """Whether what is read now wavers as the cell did at rest.

        One so coarse that it stood at rest stands on the very reading it had then, or beside it.
        """
        read = self._before_n[np.isfinite(self._before_n)]
        if self.highest_n <= OFF_CAPACITY * self._instrument.info.capacity_n or len(read) < _ALIVE:
            return True
        step = self._instrument.info.resolution_n
        if self.in_steps and off_steps(read + self.zero_n, step).all():
            return False
        if self.wavers_n > 0.5 * step:
            return float(np.std(read)) > _LIVELY * self.wavers_n
        return abs(float(np.median(read))) <= 2.0 * step + 6.0 * self.wavers_n

    def take_in(self, load: Floats, travel: Floats, *, pulling: bool) -> None:
        """Take in new samples, shape (n,), as recorded; NaN where nothing was read."""
        self.seen += len(load)
        read = travel[np.isfinite(travel)]
        if len(read):
            self.travel_m = float(read[-1])
        elif len(travel) > self._blank_samples:
            self.travel_m = math.nan
        self._take_in_load(load - self.zero_n, pulling)

    @property
    def _blank_samples(self) -> int:
        """So many samples without a reading, and the number goes blank."""
        return max(5, round(BLANK_S * self._instrument.info.sample_rate_hz))

    def _take_in_load(self, load: Floats, pulling: bool) -> None:
        """The running median is shown and decides; before there is one, the mean of five."""
        rate_hz = self._instrument.info.sample_rate_hz
        window = min(_WIDEST, max(3, round(_SMOOTH_S * rate_hz) | 1))
        recent = np.concatenate((self._before_n, load))
        self._before_n = recent[-max(self._blank_samples, window) :]
        known = self._before_n[np.isfinite(self._before_n)]
        if not len(known):
            self.now_n = self._smooth_n = math.nan
            return
        self.now_n = float(np.mean(known[-5:]))
        read = recent[np.isfinite(recent)]
        if len(read) >= window:
            smooth = np.median(sliding_window_view(read, window), axis=1)
            # The same median is shown: the load never stands above the highest.
            self.now_n = self._smooth_n = float(smooth[-1])
            if smooth.max() > self.highest_n:
                self.highest_n, self._highest_at = float(smooth.max()), self.travel_m
        fresh = load[np.isfinite(load)]
        if len(fresh):
            top = float(fresh.max()) if rate_hz < _SLOW_HZ else self.highest_n
            self.shown_highest_n = max(self.shown_highest_n, top)
            if pulling:
                self._slips.feed(fresh, self.seen - len(fresh))

    def gave(self, *, watched: bool, pulling: bool) -> bool:
        """Whether the load has been off for long enough without having been taken off.

        Parameters
        ----------
        watched : bool
            False while the load is being taken off, or the pull is over.
        pulling : bool
            Whether the crosshead pulls now.
        """
        meant = self.highest_n > 0.01 * self._instrument.info.capacity_n
        forward = not self.travel_m < self._highest_at - 1e-4
        low = self._smooth_n < GAVE_SHARE * self.highest_n and self.load_is_off
        if not (watched and meant and forward and low):
            self._low_since = None
            return False
        if self._low_since is None:
            self._low_since = self.seen
        if self._gave_way_m is not None and pulling:
            return self.travel_m - self._highest_at > self._gave_way_m
        return self.seen - self._low_since > _COAST_S * self._instrument.info.sample_rate_hz
