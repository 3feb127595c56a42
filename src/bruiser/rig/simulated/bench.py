"""The simulated bench: crosshead, load cell and clock around a simulated specimen."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from bruiser.core.trace import Trace, trace_of
from bruiser.rig.instrument import (
    BenchStatus,
    InstrumentInfo,
    Motion,
    Remains,
    Stop,
)
from bruiser.rig.simulated.sensor import Sensor
from bruiser.rig.simulated.specimen import SimulatedSpecimen

WATCHDOG_S = 0.5
_COAST_S = 0.6
_BREATH_S, _MOST_AT_ONCE = 0.001, 500
_BACK_SPEED = 2.5


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
    watchdog_s : float
        Time without a keep-alive after which it stops.
    channels : int
        2 for load and travel, 3 with the hand line's load, 4 with the tail gauge too.

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
        watchdog_s: float = WATCHDOG_S,
        channels: int = 2,
    ) -> None:
        self.info = info
        self._specimen = specimen
        self._rate = rate_mm_s
        self._speed = speed
        self._clock = clock
        self._limit_n = 0.98 * info.capacity_n if load_limit_n is None else load_limit_n
        self._watchdog_s = watchdog_s
        if watchdog_s != WATCHDOG_S:
            self.info = replace(self.info, silence_s=watchdog_s)
        self._channels = channels
        rng = np.random.default_rng([specimen.setup.seed, 5])
        self.sensor = Sensor(
            capacity_n=info.capacity_n,
            resolution_n=info.resolution_n,
            rate_hz=info.sample_rate_hz,
            rng=rng,
        )
        self._lock = threading.Lock()
        self._armed = False
        self._motion = Motion.STILL
        self._stopped_by = Stop.NONE
        self._travel_mm = 0.0
        self._tare_n = 0.0
        self._target_n: float | None = None
        self._target_mm: float | None = None
        self._at_target = False
        self._produced = 0
        self._began = clock()
        self._alive = clock()
        self._gave_at: int | None = None

    @property
    def specimen(self) -> SimulatedSpecimen:
        """What is on it, with its truth."""
        return self._specimen

    @property
    def samples(self) -> int:
        """Samples produced so far."""
        return self._produced

    def zero(self) -> None:
        """Take the present load as zero."""
        with self._lock:
            self._tare_n = self._specimen.load_n + self.sensor.offset_n

    def set_rate(self, rate_m_s: float) -> None:
        """Travel this fast from now on."""
        with self._lock:
            self._rate = 1000.0 * rate_m_s

    def set_sample_rate(self, sample_rate_hz: float) -> None:
        """Sample this often, counting from now."""
        with self._lock:
            self.info = replace(self.info, sample_rate_hz=sample_rate_hz)
            self.sensor.rate_hz = sample_rate_hz
            self._produced, self._began = 0, self._clock()

    def arm(self) -> None:
        """Allow motion."""
        with self._lock:
            self._armed = True
            self._stopped_by = Stop.NONE
            self._alive = self._clock()

    def pull(self) -> None:
        """Start travel."""
        self._move(Motion.PULLING)

    def slack(self) -> None:
        """Travel back."""
        self._move(Motion.SLACKING)

    def to_load(self, load_n: float) -> None:
        """Travel, either way, until a load is reached."""
        forward = load_n > self._specimen.load_n
        self._move(Motion.PULLING if forward else Motion.SLACKING, target_n=load_n)

    def to_travel(self, travel_m: float) -> None:
        """Travel, either way, to a position."""
        mm = 1000.0 * travel_m
        self._move(Motion.PULLING if mm > self._travel_mm else Motion.SLACKING, target_mm=mm)

    def _move(
        self, motion: Motion, target_n: float | None = None, target_mm: float | None = None
    ) -> None:
        with self._lock:
            if self._armed:
                self._motion = motion
                self._target_n, self._target_mm = target_n, target_mm
                self._at_target = False
                self._stopped_by = Stop.NONE
                self._alive = self._clock()

    def hold(self) -> None:
        """Stop travel; the load stays on."""
        with self._lock:
            self._motion = Motion.STILL

    def lock_off(self) -> None:
        """The hand line of a tensioning system is made fast, and runs back into its lock-off."""
        with self._lock:
            self._specimen.lock_off()

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
            return BenchStatus(
                armed=self._armed,
                motion=self._motion,
                stopped_by=self._stopped_by,
                specimen_gave=gave,
                at_target=self._at_target,
            )

    def remains(self, attempt: int = 0) -> Remains:
        """What lies on the bench."""
        with self._lock:
            return self._specimen.remains(attempt)

    def close(self) -> None:
        """Stop; there is no line to let go of."""
        self.stop()

    def read(self, timeout_s: float) -> Trace:
        """Samples due since the last call."""
        if 1.0 < self._speed < math.inf:
            # Whoever commands the bench must come by the lock, also when the model lags behind.
            time.sleep(_BREATH_S)
        due = self._due()
        if due <= 0:
            time.sleep(min(timeout_s, 4.0 / self.info.sample_rate_hz))
            due = self._due()
        with self._lock:
            return self._produce(min(max(0, due), _MOST_AT_ONCE))

    def _due(self) -> int:
        if math.isinf(self._speed):
            return 250
        elapsed = (self._clock() - self._began) * self._speed
        return int(elapsed * self.info.sample_rate_hz) - self._produced

    def _produce(self, count: int) -> Trace:
        dt = 1.0 / self.info.sample_rate_hz
        load, travel = np.empty(count), np.empty(count)
        hand, tail = np.empty(count), np.empty(count)
        late = not math.isinf(self._speed) and self._clock() - self._alive > self._watchdog_s
        if late and self._motion is not Motion.STILL:
            self._motion, self._stopped_by = Motion.STILL, Stop.WATCHDOG
        specimen = self._specimen
        for i in range(count):
            if self._motion is not Motion.STILL:
                self._step(dt)
            load[i] = specimen.advance(self._travel_mm, dt)
            travel[i] = self._travel_mm
            if self._channels > 2:
                hand[i], tail[i] = specimen.hand_n, specimen.tail_mm
            if self._motion is not Motion.STILL:
                self._guard(load[i], self._produced + i)
        first = self._produced
        self._produced += count
        seen = self.sensor.sense(load, first) - self._tare_n
        step = self.info.resolution_n
        return trace_of(
            seen,
            np.round(travel, 2) / 1000.0,
            load2_n=np.round(hand / step) * step if self._channels > 2 else None,
            tail_m=np.round(tail, 1) / 1000.0 if self._channels > 3 else None,
            first=first,
            rate_hz=self.info.sample_rate_hz,
        )

    def _step(self, dt: float) -> None:
        if self._motion is Motion.PULLING:
            self._travel_mm += self._rate * dt
            if self._target_mm is not None and self._travel_mm >= self._target_mm:
                self._travel_mm = self._target_mm
                self._arrive()
        else:
            self._travel_mm = max(0.0, self._travel_mm - _BACK_SPEED * self._rate * dt)
            if self._target_mm is not None and self._travel_mm <= self._target_mm:
                self._travel_mm = self._target_mm
                self._arrive()
            elif self._travel_mm <= 0.0:
                self._arrive()

    def _arrive(self) -> None:
        self._motion = Motion.STILL
        self._at_target = True

    def _guard(self, load_n: float, sample: int) -> None:
        """Stop at targets and limits, and a moment after the specimen gave."""
        if self._specimen.gave is not None and self._gave_at is None:
            self._gave_at = sample
        coasted = (
            self._gave_at is not None
            and sample - self._gave_at > _COAST_S * self.info.sample_rate_hz
        )
        pulling = self._motion is Motion.PULLING
        if self._target_n is not None and (
            (pulling and load_n >= self._target_n) or (not pulling and load_n <= self._target_n)
        ):
            self._arrive()
        if not pulling or self._motion is Motion.STILL:
            return
        if coasted:
            self._motion = Motion.STILL
        elif load_n >= self._limit_n:
            self._motion, self._stopped_by = Motion.STILL, Stop.LOAD_LIMIT
        elif self._travel_mm >= 1000.0 * self.info.stroke_m:
            self._motion, self._stopped_by = Motion.STILL, Stop.TRAVEL_LIMIT
