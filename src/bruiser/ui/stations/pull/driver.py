"""Holds the bench: arm, hold to run, confirm and run latched, stop; and ends what was begun."""

from __future__ import annotations

import logging
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal

from bruiser.core.errors import BruiserError, StoreError
from bruiser.core.records.layouts import End
from bruiser.core.records.programme import Act, runs_latched
from bruiser.core.records.records import JamLevel, PullEnd, Specimen
from bruiser.formats.trace_file import write_trace_file
from bruiser.rig.instrument import Instrument
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.bench.instruments import BenchRules
from bruiser.workshop.bench.live_pull import Limits, Live, Phase
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.running import MethodRun, RunState
from bruiser.workshop.logbook.workshop import Workshop

log = logging.getLogger(__name__)

POLL_MS = 33
KEEP_ALIVE_MS = 100
CONFIRM_S = 8.0
_LOAD_SHARE, _STROKE_SHARE, _TIME_SHARE, _TIME_S = 0.95, 0.98, 2.0, 1200.0


class BenchDriver(Desk):
    """Drives one pull after another; keep-alives come from its timer on the interface thread.

    A frozen window sends none, so the bench stops by itself. Letting go, losing the focus or
    leaving the station stops the travel; Esc and STOP disarm as well. Every arming needs the
    lane looked at anew.
    """

    moved = pyqtSignal()
    recorded = pyqtSignal(str)
    kept_here = pyqtSignal(str, str)
    look_again = pyqtSignal()

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.session: PullSession | None = None
        self.run: MethodRun | None = None
        self.live: Live | None = None
        self.lane_clear = False
        self.not_stored: PullEnd | None = None
        self._moving = False
        self._was_armed = False
        self._reported: Exception | None = None
        self._confirm_until = 0.0
        self._poll = QTimer(self)
        self._poll.setInterval(POLL_MS)
        self._poll.timeout.connect(self.look)
        self._alive = QTimer(self)
        self._alive.setInterval(KEEP_ALIVE_MS)
        self._alive.timeout.connect(self._on_keep_alive)
        self._confirm = QTimer(self)
        self._confirm.setSingleShot(True)
        self._confirm.setInterval(round(1000 * CONFIRM_S) + 50)
        self._confirm.timeout.connect(self.moved)

    @property
    def armed(self) -> bool:
        """Whether the bench may move."""
        return self.session is not None and self.session.armed

    @property
    def latched(self) -> bool:
        """Whether the method runs by itself once it was confirmed twice."""
        return self.session is not None and runs_latched(self.session.specimen.method)

    @property
    def act(self) -> Act | None:
        """The act of the method that is under way or next."""
        return None if self.run is None else self.run.act

    @property
    def asks(self) -> bool:
        """Whether the method waits for a reading of the technician's."""
        return self.run is not None and self.run.state is RunState.ASKING

    @property
    def confirming(self) -> bool:
        """Whether a latched run was asked for once and waits for the second time."""
        return time.monotonic() < self._confirm_until

    def begin(
        self,
        specimen: Specimen,
        instrument: Instrument,
        acts: Sequence[Act],
        rules: BenchRules,
        technician: str,
    ) -> None:
        """Put a specimen on an instrument, to be pulled by the acts of its method."""
        planned = sum(a.seconds for a in acts) + 10.0 * len(acts)
        limits = Limits(
            _LOAD_SHARE * rules.capacity_n,
            _STROKE_SHARE * rules.stroke_m if rules.stroke_m else float("inf"),
            _TIME_S + _TIME_SHARE * planned,
        )
        self._reported = None
        self.session = PullSession(
            self.workshop,
            specimen,
            instrument,
            rules.rate_m_s,
            technician,
            limits=limits,
            programmed=runs_latched(specimen.method),
        )
        self.run = MethodRun(self.workshop, self.session, acts)

    def arm(self) -> None:
        """Allow the bench to move; raises :class:`BruiserError` when it does not answer."""
        if self.session is None or not self.lane_clear:
            return
        self.session.forget_limit()
        self.session.arm()
        self.not_stored = None
        self._was_armed = self.session.armed
        self._poll.start()
        self.look()

    def press(self, direction: str) -> None:
        """A control went down: ``pull`` runs the method, ``slack`` takes the load off."""
        session, run = self.session, self.run
        if session is None or run is None:
            return
        if direction == "pull" and self.latched and not self._confirmed():
            self.moved.emit()
            return
        try:
            started = run.start() if direction == "pull" else session.slack()
        except BruiserError as error:
            self.stop()
            self.failed.emit(error)
            return
        if started:
            self._moving = True
            self._alive.start()
        self.look()

    def _confirmed(self) -> bool:
        """Whether this is the second of two presses; the first opens the time for it."""
        if self.run is not None and self.run.state in (RunState.MOVING, RunState.HOLDING):
            return False
        if self.confirming:
            self._confirm_until = 0.0
            return True
        if self.armed and self.session is not None and self.session.zero_taken:
            self._confirm_until = time.monotonic() + CONFIRM_S
            self._confirm.start()
        return False

    def release(self) -> None:
        """A held control was let go; a latched run goes on."""
        if self.latched and self.run is not None and self.run.state is not RunState.PAUSED:
            slacking = self.session is not None and self.session.phase is Phase.SLACKING
            if self.run.state in (RunState.MOVING, RunState.HOLDING) or not slacking:
                return
        self.interrupt()

    def interrupt(self) -> None:
        """Stop the travel where it is; the bench stays armed and the load on."""
        self._halt(PullSession.release)
        self.look()

    def stop(self) -> None:
        """Stop at once and disarm, from anywhere."""
        self._confirm_until = 0.0
        self._halt(PullSession.stop)
        self.look()

    def _halt(self, act: Callable[[PullSession], None]) -> None:
        """Let go of the controls; a bench that does not answer is told of, not raised."""
        self._moving = False
        self._alive.stop()
        if self.session is None:
            return
        try:
            act(self.session)
        except BruiserError as error:
            self.failed.emit(error)
        if self.run is not None:
            self.run.pause()

    def look(self) -> None:
        """Take in what the bench did, go on with the method, and say that things moved."""
        session, run = self.session, self.run
        if session is None or run is None:
            return
        try:
            self.live = session.poll()
            run.tick(self.live)
        except BruiserError as error:
            self._halt(PullSession.stop)
            self.failed.emit(error)
        self._look_at_faults(session)
        armed = session.armed
        if self._was_armed and not armed:
            self.lane_clear = False
            self.look_again.emit()
        self._was_armed = armed
        if self._moving and run.state in (RunState.ASKING, RunState.DONE, RunState.PAUSED):
            slacking = session.phase is Phase.SLACKING
            self._moving = slacking
            if not slacking:
                self._alive.stop()
        self.moved.emit()
        # Showing it may have let go of the held control, and so have come by here already.
        if session is self.session and session.phase is Phase.GAVE:
            self.finish(PullEnd.GAVE)

    def _look_at_faults(self, session: PullSession) -> None:
        """A fault of the recording has stopped the bench; one that is a bug goes into a report."""
        fault = session.recorder.fault
        if fault is None or fault is self._reported:
            return
        self._reported = fault
        self._halt(PullSession.stop)
        if not isinstance(fault, BruiserError):
            sys.excepthook(type(fault), fault, fault.__traceback__)

    @property
    def unsaved(self) -> int:
        """Samples of the pull under way that are in memory only, after storing them failed."""
        session = self.session
        if session is None or session.recorder.save_fault is None:
            return 0
        return session.unsaved

    def save_again(self) -> None:
        """Try once more to store the samples in memory; the pull can then go on."""
        session = self.session
        if self.not_stored is not None:
            self.finish(self.not_stored)
        elif session is not None:
            try:
                session.save_again()
            except BruiserError as error:
                self.failed.emit(error)
            self.look()

    def answer_untying(self, found: Mapping[End, tuple[JamLevel, float | None]]) -> None:
        """What it took to untie each knot at this step."""
        if self.run is not None:
            self.run.answer_untying(found)
            self.look()

    def answer_value(self, value: float | None, note: str = "") -> None:
        """The load that was read at this step."""
        if self.run is not None:
            self.run.answer_value(value, note)
            self._moving = self.latched and self.run.state in (RunState.MOVING, RunState.HOLDING)
            if self._moving:
                self._alive.start()
            self.look()

    @property
    def may_end(self) -> bool:
        """Whether the pull can be ended by hand: something was recorded and the load is off."""
        return self.session is not None and self.session.may_end

    def end_here(self) -> None:
        """End the pull once the load is off; or store again what was refused."""
        session, run = self.session, self.run
        if self.not_stored is not None:
            self.finish(self.not_stored)
        elif session is not None and run is not None and session.may_end:
            lost = session.recorder.read_fault is not None
            run.end_early()
            self.finish(PullEnd.LINK_LOST if lost else run.ends_as)

    def finish(self, end: PullEnd) -> None:
        """End the pull and store what is left of it."""
        session, run = self.session, self.run
        if session is None:
            return
        self._poll.stop()
        self._alive.stop()
        self._moving = False
        try:
            session.finish(end)
        except BruiserError as error:
            log.exception("the pull could not be stored")
            self.not_stored = end
            self.moved.emit()
            self.failed.emit(error)
            return
        self.not_stored = None
        self.live = session.poll()
        self.moved.emit()
        pull_id, specimen = session.pull_id, session.specimen
        if run is not None and run.readings:
            run.announce()
        self.session = self.run = None
        self.lane_clear = False
        if pull_id is not None and session.waits:
            self.kept_here.emit(specimen.id, specimen.code)
        elif pull_id is not None:
            self.recorded.emit(pull_id)

    def save_elsewhere(self, path: Path) -> bool:
        """Write all samples of the pull to a file, when the campaign cannot take them."""
        session = self.session
        if session is None:
            return False
        text = write_trace_file(session.recorder.recorded())
        try:
            path.write_text(text, encoding="utf-8")
        except OSError as error:
            path.unlink(missing_ok=True)
            self.failed.emit(
                StoreError(f"{path.name} cannot be written: {error.strerror}.", "Try another disk.")
            )
            return False
        return True

    def abandon(self) -> None:
        """The window closes: stop the bench, keep what was recorded.

        Raises
        ------
        StoreError
            If it cannot be stored: the window must not close over it.
        """
        self._halt(PullSession.stop)
        self._poll.stop()
        if self.session is not None:
            try:
                self.session.leave()
            except BruiserError:
                self.not_stored = PullEnd.STOPPED
                self.moved.emit()
                raise
            self.session = self.run = None

    def drop(self) -> None:
        """Let go of a pull whose samples were saved elsewhere; what was stored stays."""
        self._poll.stop()
        if self.session is not None:
            self.session.drop()
        self.session = self.run = self.not_stored = None

    def forget(self) -> None:
        """Another specimen comes to the bench: nothing is carried over."""
        if self.session is not None:
            try:
                self.session.leave()
            except BruiserError as error:
                self.failed.emit(error)
        self.session = self.run = self.live = None
        self.lane_clear = False

    def _on_keep_alive(self) -> None:
        if self.session is None or not self._moving:
            return
        try:
            self.session.keep_alive()
        except BruiserError as error:
            self._halt(PullSession.stop)
            self.failed.emit(error)
