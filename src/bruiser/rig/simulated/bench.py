"""The simulated bench: crosshead, load cell and clock around a simulated specimen."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable

import numpy as np

from bruiser.rig.instrument import (
    BenchStatus,
    InstrumentInfo,
    Motion,
    Remains,
    SampleBlock,
    Stop,
)
from bruiser.rig.simulated.specimen import SimulatedSpecimen

WATCHDOG_S = 0.5
_COAST_S = 0.6


class SimulatedBench:
    """A bench with one specimen on it.

    Parameters
    ----------
    specimen : SimulatedSpecimen
        What is on the pins.
    info : InstrumentInfo
        Capacity, resolution, sample rate and stroke.
    rate_mm_s : float
        Travel rate.
    speed : float
        1 is real time; larger is faster; infinite gives blocks as fast as they are read and
        needs no keep-alive.
    clock : callable
        Monotonic time in second.

    Notes
    -----
    The model advances when it is read, by as many samples as the clock says are due, so that one
    seed and one sequence of commands at the same samples gives the same readings.
    """

    def __init__(
        self,
        specimen: SimulatedSpecimen,
        info: InstrumentInfo,
        rate_mm_s: float,
        *,
        speed: float = 1.0,
        clock: Callable[[], float] = time.monotonic,
        load_limit_n: float | None = None,
    ) -> None:
        self.info = info
        self._specimen = specimen
        self._rate = rate_mm_s
        self._speed = speed
        self._clock = clock
        self._limit_n = 0.98 * info.capacity_n if load_limit_n is None else load_limit_n
        self._rng = np.random.default_rng([specimen.setup.seed, 5])
        self._lock = threading.Lock()
        self._armed = False
        self._motion = Motion.STILL
        self._stopped_by = Stop.NONE
        self._travel_mm = 0.0
        self._tare_n = 0.0
        self._offset_n = float(self._rng.normal(0, 0.001)) * info.capacity_n
        self._produced = 0
        self._began = clock()
        self._alive = clock()
        self._gave_at: int | None = None

    def zero(self) -> None:
        """Take the present load as zero."""
        with self._lock:
            self._tare_n = self._specimen.load_n + self._offset_n

    def arm(self) -> None:
        """Allow motion."""
        with self._lock:
            self._armed = True
            self._stopped_by = Stop.NONE

    def pull(self) -> None:
        """Start travel."""
        self._move(Motion.PULLING)

    def slack(self) -> None:
        """Travel back."""
        self._move(Motion.SLACKING)

    def _move(self, motion: Motion) -> None:
        with self._lock:
            if self._armed:
                self._motion = motion
                self._stopped_by = Stop.NONE
                self._alive = self._clock()

    def hold(self) -> None:
        """Stop travel; the load stays on."""
        with self._lock:
            self._motion = Motion.STILL

    def stop(self) -> None:
        """Stop at once and disarm."""
        with self._lock:
            self._motion = Motion.STILL
            self._armed = False

    def keep_alive(self) -> None:
        """The control is still held."""
        with self._lock:
            self._alive = self._clock()

    def status(self) -> BenchStatus:
        """The state now."""
        with self._lock:
            gave = self._specimen.gave is not None
            return BenchStatus(self._armed, self._motion, self._stopped_by, gave)

    def remains(self) -> Remains:
        """What lies on the bench."""
        with self._lock:
            return self._specimen.remains()

    def read(self, timeout_s: float) -> SampleBlock:
        """Samples due since the last call."""
        due = self._due()
        if due <= 0:
            time.sleep(min(timeout_s, 4.0 / self.info.sample_rate_hz))
            due = self._due()
        with self._lock:
            return self._produce(max(0, due))

    def _due(self) -> int:
        if math.isinf(self._speed):
            return 250
        elapsed = (self._clock() - self._began) * self._speed
        return int(elapsed * self.info.sample_rate_hz) - self._produced

    def _produce(self, count: int) -> SampleBlock:
        dt = 1.0 / self.info.sample_rate_hz
        load, travel = np.empty(count), np.empty(count)
        late = not math.isinf(self._speed) and self._clock() - self._alive > WATCHDOG_S
        if late and self._motion is not Motion.STILL:
            self._motion, self._stopped_by = Motion.STILL, Stop.WATCHDOG
        for i in range(count):
            self._step(dt)
            load[i] = self._specimen.load_n
            travel[i] = self._travel_mm
            self._guard(load[i], self._produced + i)
        first = self._produced
        self._produced += count
        return SampleBlock(first, self._sense(load), np.round(travel, 2) / 1000.0)

    def _step(self, dt: float) -> None:
        if self._motion is Motion.PULLING:
            self._travel_mm += self._rate * dt
        elif self._motion is Motion.SLACKING:
            self._travel_mm = max(0.0, self._travel_mm - 2.5 * self._rate * dt)
        self._specimen.advance(self._travel_mm, dt)

    def _guard(self, load_n: float, sample: int) -> None:
        """Stop at the limits, and a moment after the specimen gave."""
        if self._specimen.gave is not None and self._gave_at is None:
            self._gave_at = sample
        coasted = (
            self._gave_at is not None
            and sample - self._gave_at > _COAST_S * self.info.sample_rate_hz
        )
        if self._motion is not Motion.PULLING:
            return
        if coasted:
            self._motion = Motion.STILL
        elif load_n >= self._limit_n:
            self._motion, self._stopped_by = Motion.STILL, Stop.LOAD_LIMIT
        elif self._travel_mm >= 1000.0 * self.info.stroke_m:
            self._motion, self._stopped_by = Motion.STILL, Stop.TRAVEL_LIMIT

    def _sense(self, load: np.ndarray) -> np.ndarray:
        """The load cell: offset, noise, resolution, capacity."""
        noise = 1.5e-4 * self.info.capacity_n * self._rng.standard_normal(len(load))
        seen = load + self._offset_n - self._tare_n + noise
        counts = np.round(seen / self.info.resolution_n) * self.info.resolution_n
        return np.asarray(np.clip(counts, -self.info.capacity_n, self.info.capacity_n))
