"""One pull at the bench: arm, hold to run, watch, stop; and what is stored of it."""

from __future__ import annotations

import threading
from dataclasses import asdict

import numpy as np

from bruiser.core.records import Pull, PullEnd, Specimen
from bruiser.core.trace import TraceSettings
from bruiser.core.trace.live import LiveSlips
from bruiser.rig.instrument import Instrument, InstrumentInfo, Motion, SampleBlock, Stop
from bruiser.rig.recorder import Recorder
from bruiser.store import pulls
from bruiser.store.traces import Floats
from bruiser.workshop.closing import close_pull
from bruiser.workshop.commands import Changes
from bruiser.workshop.live import Limits, Live, Phase
from bruiser.workshop.workshop import Workshop

GAVE_SHARE = 0.15
"""A load that stays under this share of the highest, without travelling back: it gave."""

GAVE_D = 4.0
_COAST_S = 0.3
_ZERO_S = 0.3


class PullSession:
    """Runs one pull of one specimen.

    Parameters
    ----------
    workshop : Workshop
        Where it is stored.
    specimen : Specimen
        What is on the bench.
    instrument : Instrument
        The bench it is on.
    rate_m_s : float
        Travel rate.
    limits : Limits
        Where the application stops it.
    programmed : bool
        Whether a method's programme drives it: cord that runs out of a loosened knot is then no
        sign that it gave until more than four diameters went by without load.
    threaded : bool
        Record on a thread of its own; without, the caller steps the recorder.

    Notes
    -----
    The recorder starts when the bench is armed, so that the zero is in the trace; the pull is
    stored from the first travel on. :meth:`keep_alive` is called by the control that is held down
    and by nothing else, so that a frozen window stops the bench.
    """

    def __init__(
        self,
        workshop: Workshop,
        specimen: Specimen,
        instrument: Instrument,
        rate_m_s: float,
        technician: str = "",
        *,
        limits: Limits | None = None,
        programmed: bool = False,
        threaded: bool = True,
    ) -> None:
        self.specimen = specimen
        self.pull_id: str | None = None
        self._workshop = workshop
        self._instrument = instrument
        self._rate = rate_m_s
        self._technician = technician
        self._threaded = threaded
        self._recorder = Recorder(instrument, self._store_block)
        self._phase = Phase.READY
        self._recording = False
        self._held_back: list[SampleBlock] = []
        self._store_lock = threading.Lock()
        self._zero_n: float | None = None
        self._highest_n = 0.0
        self._highest_at = 0.0
        self._seen = 0
        self._now_n = 0.0
        self._travel_m = 0.0
        self._low_since: int | None = None
        self._backs = False
        self._limits = limits or Limits()
        self._limit: PullEnd | None = None
        self._last_limit: PullEnd | None = None
        self._stopped_at = Stop.NONE
        self._programmed = programmed
        self._under_load = 0
        self._slips = LiveSlips(instrument.info.capacity_n, instrument.info.resolution_n)

    @property
    def instrument(self) -> Instrument:
        """The bench it is on."""
        return self._instrument

    @property
    def instrument_info(self) -> InstrumentInfo:
        """What the bench is."""
        return self._instrument.info

    @property
    def phase(self) -> Phase:
        """Where it stands."""
        return self._phase

    @property
    def recorder(self) -> Recorder:
        """The samples so far."""
        return self._recorder

    @property
    def zero_n(self) -> float:
        """The zero taken before travel."""
        return self._zero_n or 0.0

    def arm(self) -> None:
        """Make the bench ready to move; the lane must have been found clear."""
        if self._phase not in (Phase.READY, Phase.HELD):
            return
        self._instrument.arm()
        if not self._recording and self._threaded:
            self._recorder.start()
        self._recording = True
        self._phase = Phase.ARMED if self.pull_id is None else Phase.HELD

    @property
    def zero_taken(self) -> bool:
        """Whether enough samples at rest were recorded to know the zero."""
        return self._recorder.count >= _ZERO_S * self._instrument.info.sample_rate_hz

    def pull(self) -> bool:
        """Travel while the control is held; False when the bench is not armed."""
        if self._phase not in (Phase.ARMED, Phase.HELD) or not self._instrument.status().armed:
            return False
        if self.pull_id is None:
            if not self.zero_taken:
                return False
            self._begin()
        self._slips.begin_anew()
        self._backs, self._last_limit = False, None
        self._instrument.set_rate(self._rate)
        self._instrument.pull()
        self._phase = Phase.PULLING
        return True

    def drive(self, load_n: float, rate: float = 1.0) -> bool:
        """Travel to a load, either way, at a multiple of the rate; False when not armed.

        Loads are those shown, after the zero taken before travel.
        """
        if self._phase in (Phase.GAVE, Phase.ENDED, Phase.READY):
            return False
        if not self._instrument.status().armed or not self.zero_taken:
            return False
        if self.pull_id is None:
            self._begin()
        back = self._backs = load_n < self._now_n
        self._slips.begin_anew()
        self._instrument.set_rate(rate * self._rate)
        self._instrument.to_load(max(load_n, 0.0))
        self._phase = Phase.SLACKING if back else Phase.PULLING
        return True

    def slack(self) -> bool:
        """Travel back while the control is held."""
        if self._phase is not Phase.HELD or not self._instrument.status().armed:
            return False
        self._backs = True
        self._instrument.set_rate(self._rate)
        self._instrument.slack()
        self._phase = Phase.SLACKING
        return True

    def release(self) -> None:
        """The control was let go: travel stops where it is, the load stays on."""
        self._instrument.hold()
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._phase = Phase.HELD

    def stop(self) -> None:
        """Stop at once and disarm."""
        self._instrument.stop()
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._phase = Phase.HELD
        elif self._phase is Phase.ARMED:
            self._phase = Phase.READY

    def keep_alive(self) -> None:
        """The held control says it is still held."""
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._instrument.keep_alive()

    @property
    def armed(self) -> bool:
        """Whether the bench may move."""
        return self._instrument.status().armed

    def poll(self) -> Live:
        """Take in the new samples and say where things stand; call at screen rate."""
        load, travel = self._recorder.latest(self._seen)
        if len(load):
            self._take_in(load, travel)
        status = self._instrument.status()
        if self._phase in (Phase.PULLING, Phase.SLACKING) and status.motion is Motion.STILL:
            self._phase = Phase.HELD
        if status.stopped_by is not Stop.NONE:
            self._stopped_at = status.stopped_by
        if self._recorder.fault is not None and self._phase is not Phase.ENDED:
            self._phase = Phase.HELD
        fault = self._recorder.fault or self._recorder.overrange
        self._watch_limits()
        return Live(
            self._phase,
            self._now_n,
            self._highest_n,
            self._travel_m,
            self._seen,
            self._recorder.samples_lost,
            self._now_n > max(0.03 * self._highest_n, 0.002 * self._instrument.info.capacity_n),
            status.stopped_by,
            "" if fault is None else str(fault),
            self._rate_now(),
            status.at_target,
            self._limit,
            self._slips.slips,
            self._recorder.tail_now(),
        )

    def _rate_now(self) -> float:
        """Travel rate over the last half second."""
        rate_hz = self._instrument.info.sample_rate_hz
        _, travel = self._recorder.latest(max(0, self._seen - max(2, int(0.5 * rate_hz))))
        travel = travel[np.isfinite(travel)]
        if len(travel) < 2:
            return 0.0
        return float(travel[-1] - travel[0]) * rate_hz / (len(travel) - 1)

    def _watch_limits(self) -> None:
        """Stop at the application's own limits; the load stays on, and the screen says so.

        Load and travel count while it pulls: beyond a limit the load can still be taken off.
        """
        if self._limit is not None or self.pull_id is None or self._backs:
            return
        time_s = self._under_load / self._instrument.info.sample_rate_hz
        pulls = self._phase is Phase.PULLING
        load_n, travel_m = (self._now_n, self._travel_m) if pulls else (0.0, 0.0)
        self._limit = self._limits.reached(load_n, travel_m, time_s)
        if self._limit is not None:
            self.stop()

    def it_gave(self) -> None:
        """The bench stopped short of its target without load: the specimen gave."""
        if self._phase is not Phase.ENDED:
            self._instrument.hold()
            self._phase = Phase.GAVE

    def forget_limit(self) -> None:
        """The person goes on after a limit stopped it; the time is counted anew."""
        self._last_limit = self._limit or self._last_limit
        self._limit, self._under_load = None, 0

    def _take_in(self, load: Floats, travel: Floats) -> None:
        if self._zero_n is None and self.zero_taken:
            at_rest, _ = self._recorder.snapshot()
            still = max(5, int(_ZERO_S * self._instrument.info.sample_rate_hz))
            self._zero_n = float(np.nanmedian(at_rest[:still]))
        zero = self.zero_n
        self._seen += len(load)
        read = np.isfinite(load) & np.isfinite(travel)
        if not read.any():
            return
        load, travel = load[read], travel[read]
        top = int(np.argmax(load))
        if load[top] - zero > self._highest_n:
            self._highest_n = float(load[top] - zero)
            self._highest_at = float(travel[top])
        self._now_n = float(np.mean(load[-5:])) - zero
        self._travel_m = float(travel[-1])
        if self._phase in (Phase.PULLING, Phase.HELD, Phase.SLACKING):
            self._under_load += len(load)
        if self._phase is Phase.PULLING:
            self._slips.feed(load - zero, self._seen - len(load))
        if self._backs:
            self._low_since = None
            return
        meant = self._highest_n > 0.01 * self._instrument.info.capacity_n
        forward = self._travel_m >= self._highest_at - 1e-4
        if not (meant and forward and self._now_n < GAVE_SHARE * self._highest_n):
            self._low_since = None
            return
        if self._low_since is None:
            self._low_since = self._seen
        low_for = self._seen - self._low_since
        coasted = low_for > _COAST_S * self._instrument.info.sample_rate_hz
        if self._programmed and self._phase is Phase.PULLING:
            coasted = self._travel_m - self._highest_at > GAVE_D * self.specimen.lot.diameter_m
        if coasted and self._phase is not Phase.ENDED:
            self._instrument.hold()
            self._phase = Phase.GAVE

    @property
    def may_end(self) -> bool:
        """Whether the pull can be ended by hand: something was recorded and the load is off."""
        if self.pull_id is None or self._phase is not Phase.HELD:
            return False
        return not self.poll().load_is_on or self._recorder.fault is not None

    @property
    def why_ended(self) -> PullEnd:
        """Why a pull that is ended by hand had stopped before."""
        by = {Stop.TRAVEL_LIMIT: PullEnd.TRAVEL_LIMIT, Stop.LOAD_LIMIT: PullEnd.LOAD_LIMIT}
        own = by.get(self._stopped_at)
        return self._limit or self._last_limit or own or PullEnd.STOPPED

    def _begin(self) -> None:
        info = self._instrument.info
        pull = Pull(
            id=self._workshop.new_id(),
            specimen_id=self.specimen.id,
            started_at=self._workshop.now(),
            instrument=info.name,
            sample_rate_hz=info.sample_rate_hz,
            rate_m_s=self._rate,
            capacity_n=info.capacity_n,
            resolution_n=info.resolution_n,
            technician=self._technician,
        )
        with self._workshop.file.writing() as connection:
            pulls.insert_pull(connection, pull)
        with self._store_lock:
            self.pull_id = pull.id
            held, self._held_back = self._held_back, []
        for block in held:
            self._write(block)
        self._workshop.announce(Changes(frozenset({"pull"}), (pull.id,)))

    def _store_block(self, block: SampleBlock) -> None:
        with self._store_lock:
            if self.pull_id is None:
                self._held_back.append(block)
                return
        self._write(block)

    def _write(self, block: SampleBlock) -> None:
        if self.pull_id is None:
            raise ValueError("no pull to write to")
        with self._workshop.file.writing() as connection:
            samples = pulls.Samples(block.load_n, block.travel_m, block.load2_n, block.tail_m)
            pulls.append_samples(connection, self.pull_id, block.first_seq, samples)

    def finish(self, end: PullEnd) -> None:
        """End the pull: stop, store the last samples, what remains, and the analysis.

        Raises
        ------
        StoreError
            If it could not be stored; the samples stay in memory and it may be tried again.
        """
        if self._phase is Phase.ENDED:
            return
        self._instrument.stop()
        self._recorder.finish()
        if self._recorder.fault is not None:
            raise self._recorder.fault
        if self.pull_id is None:
            self._phase = Phase.ENDED
            self._instrument.close()
            return
        remains = self._instrument.remains()
        close_pull(
            self._workshop,
            self.pull_id,
            end,
            None if remains is None else asdict(remains),
            self._instrument.info.sample_rate_hz,
            self._instrument.info.capacity_n,
            samples_lost=self._recorder.samples_lost,
            settings=TraceSettings(diameter_m=self.specimen.lot.diameter_m),
        )
        self._phase = Phase.ENDED
        self._instrument.close()
        self._workshop.announce(Changes(frozenset({"pull"}), (self.pull_id,)))

    def leave(self) -> None:
        """Let go of the bench: ends a pull that was begun as stopped, forgets one that was not."""
        self.finish(PullEnd.STOPPED)
