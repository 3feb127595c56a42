"""One pull at the bench: arm, hold to run, watch, stop; and what is stored of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict

from bruiser.core.records.records import Pull, PullEnd, Specimen
from bruiser.core.trace import Channel, Floats, TraceSettings
from bruiser.rig.instrument import Instrument, InstrumentInfo, Motion, Stop
from bruiser.rig.recorder import Beyond, Recorder
from bruiser.workshop.bench.live_pull import Limits, Live, Phase
from bruiser.workshop.bench.live_readings import BLANK_S, ZERO_S, LiveReadings
from bruiser.workshop.bench.pull_end import close_pull
from bruiser.workshop.bench.pull_storage import (
    PullStorage,
    fault_words,
    not_stored,
    travel_rate_m_s,
)
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.workshop import Workshop

GAVE_D = 4.0
_BEYOND = {Beyond.LOAD: PullEnd.LOAD_LIMIT, Beyond.TRAVEL: PullEnd.TRAVEL_LIMIT}


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
        self._workshop = workshop
        self._instrument = instrument
        self._rate = rate_m_s
        self._technician = technician
        self._threaded = threaded
        self._storage = PullStorage(
            workshop,
            specimen,
            lambda: instrument.info.sample_rate_hz,
            lambda: self._recorder.recorded(),
        )
        self._recorder = Recorder(instrument, self._storage.take)
        self._limits = limits or Limits()
        self._recorder.set_limits(self._limits.load_n, self._limits.travel_m)
        self._phase = Phase.READY
        self._recording = False
        self._readings = LiveReadings(
            instrument, GAVE_D * specimen.lot.diameter_m if programmed else None
        )
        self._backs = False
        self._limit: PullEnd | None = None
        self._last_limit: PullEnd | None = None
        self._stopped_at = Stop.NONE
        self._under_load = 0

    @property
    def pull_id(self) -> str | None:
        """The pull, once it was stored with its first travel."""
        return self._storage.pull_id

    @property
    def waits(self) -> bool:
        """Whether the pull is kept on this machine because the server is away."""
        return self._storage.waits

    def store(self, deed: Callable[[Workshop], None]) -> None:
        """Store something of this pull where its samples are stored."""
        self._storage.run(deed)

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
        return self._readings.zero_n

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
        return self._recorder.count >= ZERO_S * self._instrument.info.sample_rate_hz

    def pull(self) -> bool:
        """Travel while the control is held; False when the bench is not armed."""
        if self._phase not in (Phase.ARMED, Phase.HELD) or not self._instrument.status().armed:
            return False
        if self.pull_id is None:
            if not self.zero_taken:
                return False
            self._begin()
        self._readings.begin_anew()
        self._backs, self._last_limit = False, None
        self._instrument.set_rate(self._rate)
        self._recorder.know_rate(self._rate)
        self._recorder.set_moving(True, forward=True)
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
        back = self._backs = load_n < self._readings.now_n
        self._readings.begin_anew()
        self._instrument.set_rate(rate * self._rate)
        self._recorder.know_rate(0.0)
        self._recorder.set_moving(True, forward=not back)
        self._instrument.to_load(max(load_n, 0.0))
        self._phase = Phase.SLACKING if back else Phase.PULLING
        return True

    def slack(self) -> bool:
        """Travel back while the control is held."""
        if self._phase is not Phase.HELD or not self._instrument.status().armed:
            return False
        self._backs = True
        self._instrument.set_rate(self._rate)
        self._recorder.set_moving(True)
        self._instrument.slack()
        self._phase = Phase.SLACKING
        return True

    def release(self) -> None:
        """The control was let go: travel stops where it is, the load stays on."""
        self._recorder.set_moving(False)
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._phase = Phase.HELD
        self._instrument.hold()

    def stop(self) -> None:
        """Stop at once and disarm."""
        self._recorder.set_moving(False)
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._phase = Phase.HELD
        elif self._phase is Phase.ARMED:
            self._phase = Phase.READY
        self._instrument.stop()

    def keep_alive(self) -> None:
        """The held control says it is still held."""
        if self._phase in (Phase.PULLING, Phase.SLACKING):
            self._recorder.heard()
            self._instrument.keep_alive()

    @property
    def armed(self) -> bool:
        """Whether the bench may move."""
        return self._instrument.status().armed

    def poll(self) -> Live:
        """Take in the new samples and say where things stand; call at screen rate."""
        new = self._recorder.recorded(self._readings.seen)
        if len(new):
            self._take_in(new.load_n, new.travel_m)
        elif (
            self._recording
            and self._phase not in (Phase.READY, Phase.GAVE, Phase.ENDED)
            and self._recorder.has_fallen_silent(BLANK_S)
        ):
            self._readings.blank()
        status = self._instrument.status()
        if self._phase in (Phase.PULLING, Phase.SLACKING) and status.motion is Motion.STILL:
            self._phase = Phase.HELD
            self._recorder.set_moving(False)
        if status.stopped_by is not Stop.NONE:
            self._stopped_at = status.stopped_by
        if self._recorder.fault is not None and self._phase is not Phase.ENDED:
            self._phase = Phase.HELD
        fault = self._recorder.fault or self._recorder.trouble or self._recorder.overrange
        self._watch_limits()
        return Live(
            phase=self._phase,
            load_n=self._readings.now_n,
            last_n=self._readings.last_n,
            highest_n=self._readings.shown_highest_n,
            travel_m=self._readings.travel_m,
            samples=self._readings.seen,
            samples_lost=self._recorder.samples_lost,
            load_is_on=not self._readings.load_is_off,
            stopped_by=status.stopped_by,
            fault="" if fault is None else fault_words(fault),
            rate_m_s=travel_rate_m_s(self._recorder, self._readings.seen),
            at_target=status.at_target,
            limit=self._limit,
            slips=self._readings.slips,
            drawn_m=self._recorder.now(Channel.TAIL),
        )

    def _watch_limits(self) -> None:
        """Stop at the application's own limits; the load stays on, and the screen says so.

        Load and travel count while it pulls: beyond a limit the load can still be taken off.
        """
        if self._limit is not None or self.pull_id is None or self._backs:
            return
        time_s = self._under_load / self._instrument.info.sample_rate_hz
        pulls = self._phase is Phase.PULLING
        load_n, travel_m = (self._readings.now_n, self._readings.travel_m) if pulls else (0.0, 0.0)
        beyond = self._recorder.beyond
        by_recorder = None if beyond is None else _BEYOND[beyond]
        self._limit = by_recorder or self._limits.reached(load_n, travel_m, time_s)
        if self._limit is not None:
            self.stop()

    def it_gave(self) -> None:
        """The bench stopped short of its target without load: the specimen gave."""
        if self._phase not in (Phase.GAVE, Phase.ENDED):
            self._recorder.set_moving(False)
            self._phase = Phase.GAVE
            self._instrument.hold()

    def forget_limit(self) -> None:
        """The person goes on after a limit stopped it; the time is counted anew."""
        self._last_limit = self._limit or self._last_limit
        self._limit = self._recorder.beyond = None
        self._under_load = 0

    def _take_in(self, load: Floats, travel: Floats) -> None:
        readings, phase = self._readings, self._phase
        if readings.zero_unknown and self.zero_taken:
            readings.take_zero(self._recorder.recorded().load_n)
            self._recorder.know_rest(readings.zero_n, readings.wavers_n, in_steps=readings.in_steps)
        if phase in (Phase.PULLING, Phase.HELD, Phase.SLACKING):
            self._under_load += len(load)
        readings.take_in(load, travel, pulling=phase is Phase.PULLING)
        over = self._backs or phase in (Phase.GAVE, Phase.ENDED)
        if readings.gave(watched=not over, pulling=phase is Phase.PULLING):
            self.it_gave()

    @property
    def may_end(self) -> bool:
        """Whether the pull can be ended by hand: something was recorded and the load is off."""
        if self.pull_id is None or self._phase is not Phase.HELD:
            return False
        live = self.poll()
        blind = self._recorder.fault is not None or self._recorder.trouble is not None
        return not live.load_is_on or blind

    @property
    def unsaved(self) -> int:
        """Samples of a pull that was begun which are in memory only."""
        return 0 if self.pull_id is None else self._recorder.unsaved

    @property
    def why_ended(self) -> PullEnd:
        """Why a pull that is ended by hand had stopped before."""
        by = {Stop.TRAVEL_LIMIT: PullEnd.TRAVEL_LIMIT, Stop.LOAD_LIMIT: PullEnd.LOAD_LIMIT}
        own = by.get(self._stopped_at)
        return self._limit or self._last_limit or own or PullEnd.STOPPED

    def _begin(self) -> None:
        info = self._instrument.info
        self._storage.begin(
            Pull(
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
        )

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
        if self._recorder.unsaved:
            raise not_stored(self._recorder)
        if self.pull_id is None:
            self._phase = Phase.ENDED
            self._instrument.close()
            return
        remains = self._instrument.remains()
        pull_id = self.pull_id

        def close(shop: Workshop) -> None:
            close_pull(
                shop,
                pull_id,
                end,
                None if remains is None else asdict(remains),
                self._instrument.info.sample_rate_hz,
                self._instrument.info.capacity_n,
                samples_lost=self._recorder.samples_lost,
                settings=TraceSettings(diameter_m=self.specimen.lot.diameter_m),
            )

        self._storage.run(close)
        self._storage.close()
        self._phase = Phase.ENDED
        self._instrument.close()
        if not self.waits:
            self._workshop.announce(Changes(frozenset({"pull"}), (pull_id,)))

    def save_again(self) -> None:
        """Hand the samples in memory to the campaign once more, as after room was made.

        Raises
        ------
        StoreError
            If it refuses again; they stay in memory.
        """
        self._recorder.save_again()
        if self._recorder.unsaved:
            raise not_stored(self._recorder)

    def drop(self) -> None:
        """Let go of the bench and of what is in memory: it was saved elsewhere."""
        self._phase = Phase.ENDED
        self._recorder.finish()
        self._instrument.close()

    def leave(self) -> None:
        """Let go of the bench: ends a pull that was begun as stopped, forgets one that was not."""
        self.finish(PullEnd.STOPPED)
