"""Decides what the pull station shows, and drives the bench."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bruiser.core.errors import BruiserError, RigError, StoreError
from bruiser.core.records import PullEnd, Specimen
from bruiser.core.trace import Floats
from bruiser.core.units import UnitChoice, si_factor
from bruiser.formats.trace_file import TraceFile, write_trace_file
from bruiser.rig.instrument import Instrument, Stop
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.pull.instrument_presenter import InstrumentPresenter
from bruiser.ui.stations.pull.shown import Controls, Readings
from bruiser.workshop.bench_entry import energy_words
from bruiser.workshop.instruments import KIND_WORDS, InstrumentKind, open_instrument
from bruiser.workshop.journal import Entry, Journal, Stage, read_trace
from bruiser.workshop.pulling import Live, Phase, PullSession
from bruiser.workshop.results import baseline_median_n
from bruiser.workshop.simulation import SIMULATED_BENCH, TRAVEL_RATE_M_S
from bruiser.workshop.workshop import Workshop

log = logging.getLogger(__name__)

POLL_MS = 33
KEEP_ALIVE_MS = 100
_MOST_SIBLINGS = 5

BenchFor = Callable[[Specimen], Instrument]


class PullPresenter(QObject):
    """One specimen at the bench after another."""

    specimen_changed = pyqtSignal()
    moved = pyqtSignal()
    pull_recorded = pyqtSignal(str)
    failed = pyqtSignal(object)

    def __init__(
        self, workshop: Workshop, bench_for: BenchFor, tasks: TaskRunner | None = None
    ) -> None:
        super().__init__()
        self.instrument = InstrumentPresenter(workshop, tasks or TaskRunner(), self._on_bench)
        self.instrument.failed.connect(self.failed)
        self._workshop = workshop
        self._bench_for = bench_for
        self.entry: Entry | None = None
        self.next_codes: tuple[str, ...] = ()
        self.session: PullSession | None = None
        self.live: Live | None = None
        self.lane_clear = False
        self._baseline_n: float | None = None
        self._journal: Journal | None = None
        self.energy = ""
        self._holding = False
        self._not_stored: PullEnd | None = None
        self._siblings: tuple[Entry, ...] = ()
        self._poll = QTimer(self)
        self._poll.setInterval(POLL_MS)
        self._poll.timeout.connect(self._on_poll)
        self._alive = QTimer(self)
        self._alive.setInterval(KEEP_ALIVE_MS)
        self._alive.timeout.connect(self._on_keep_alive)

    @property
    def units(self) -> UnitChoice:
        """The units the campaign shows."""
        return self._workshop.units

    def take_up(self, journal: Journal) -> None:
        """Put the next specimen of the queue on the bench, unless one is being pulled."""
        if self.session is not None and self.session.pull_id is not None:
            return
        self._journal = self.instrument.journal = journal
        entry = journal.next_to_pull(self._workshop.now())
        planned = journal.at(Stage.PLANNED)
        self.next_codes = tuple(e.specimen.code for e in planned[1:4])
        if entry is not None and self.entry is not None and entry.specimen == self.entry.specimen:
            return
        if self.session is not None:
            self.session.leave()
        self.entry = entry
        self.session = self.live = None
        self._siblings = ()
        self.lane_clear = False
        if entry is not None:
            lot = entry.specimen.lot
            self._baseline_n = baseline_median_n(journal, lot)
            self.energy = self._energy_of(entry.specimen, journal)
            self._siblings = journal.siblings(entry.specimen)[-_MOST_SIBLINGS:]
        self.specimen_changed.emit()

    def sibling_traces(self) -> list[tuple[Floats, Floats]]:
        """Travel and load of the siblings, in the units shown."""
        force, length = self._factors()
        found = []
        for entry in self._siblings:
            if entry.pull is None or entry.analysis is None:
                continue
            trace = read_trace(self._workshop, entry.pull)
            stop = entry.analysis.peak_index + 1
            found.append(
                (
                    trace.travel_m[:stop] / length,
                    (trace.load_n[:stop] - entry.analysis.zero_n) / force,
                )
            )
        return found

    def sibling_band(self) -> tuple[float, float] | None:
        """Lowest and highest load at which the siblings gave, in the unit shown."""
        loads = [
            e.finding.peak_load_n
            for e in self._siblings
            if e.finding is not None and e.finding.place is not None
        ]
        if len(loads) < 2:
            return None
        force, _ = self._factors()
        return min(loads) / force, max(loads) / force

    def confirm_lane(self, clear: bool) -> None:
        """The person says that the lane is clear and the guard shut, or takes it back."""
        self.lane_clear = clear
        if not clear:
            self.stop()
        self.moved.emit()

    def arm(self) -> None:
        """Allow the bench to move."""
        if self.entry is None or not self.lane_clear or self._workshop.read_only:
            return
        try:
            if self.session is None:
                choice, specimen = self.instrument.choice, self.entry.specimen
                instrument = open_instrument(choice, specimen, self._bench_for)
                self.session = PullSession(
                    self._workshop, self.entry.specimen, instrument, TRAVEL_RATE_M_S
                )
            self.session.arm()
        except BruiserError as error:
            self.failed.emit(error)
            return
        self._poll.start()
        self._on_poll()

    def _on_bench(self) -> Instrument | None:
        return None if self.session is None else self.session.instrument

    def press(self, direction: str) -> None:
        """A held control went down: ``pull`` or ``slack``."""
        if self.session is None:
            return
        try:
            started = self.session.pull() if direction == "pull" else self.session.slack()
        except BruiserError as error:
            self.stop()
            self.failed.emit(error)
            return
        if started:
            self._holding = True
            self._alive.start()
        self._on_poll()

    def release(self) -> None:
        """The held control was let go."""
        self._holding = False
        self._alive.stop()
        if self.session is not None:
            self.session.release()
            self._on_poll()

    def stop(self) -> None:
        """Stop at once, from anywhere."""
        self._holding = False
        self._alive.stop()
        if self.session is not None:
            self.session.stop()
            self._on_poll()

    @property
    def armed(self) -> bool:
        """Whether the bench may move."""
        return self.session is not None and self.session.armed

    @property
    def loaded(self) -> bool:
        """Whether a pull is under way."""
        return self.session is not None and self.session.pull_id is not None

    def end_here(self) -> None:
        """End the pull as stopped, once the load is off; or store again what was refused."""
        if self._not_stored is not None:
            self._finish(self._not_stored)
        elif self.session is not None and self.session.may_end:
            lost = isinstance(self.session.recorder.fault, RigError)
            self._finish(PullEnd.LINK_LOST if lost else PullEnd.STOPPED)

    def save_elsewhere(self, path: Path) -> None:
        """Write the samples in memory to a file, when the campaign cannot take them."""
        session = self.session
        if session is None:
            return
        c, rate = session.recorder.columns(), session.instrument_info.sample_rate_hz
        time_s = np.arange(len(c.load_n)) / rate
        text = write_trace_file(TraceFile(time_s, c.load_n, c.travel_m, c.load2_n, c.tail_m))
        try:
            path.write_text(text, encoding="utf-8")
        except OSError as error:
            self.failed.emit(StoreError(f"{path.name} cannot be written: {error.strerror}."))

    @property
    def may_save_elsewhere(self) -> bool:
        """Whether samples wait in memory that the campaign did not take."""
        live = self.live
        return self._not_stored is not None or (live is not None and bool(live.fault))

    def abandon(self) -> None:
        """The window closes: stop the bench, keep what was recorded."""
        self.stop()
        self._poll.stop()
        if self.session is not None:
            self.session.leave()
            self.session = None

    def trace(self) -> tuple[Floats, Floats]:
        """Travel and load so far, in the units shown."""
        if self.session is None:
            return np.empty(0), np.empty(0)
        force, length = self._factors()
        load, travel = self.session.recorder.snapshot()
        return travel / length, (load - self.session.zero_n) / force

    def method_words(self) -> str:
        """What will be done to the specimen."""
        return f"ramp {1000 * TRAVEL_RATE_M_S:g} mm/s to failure"

    def bench_words(self) -> str:
        """What the bench is, and whether samples were lost."""
        choice = self.instrument.choice
        if self.session is None and choice.kind is not InstrumentKind.SIMULATED:
            return f"{KIND_WORDS[choice.kind].capitalize()}, {choice.path}."
        info = SIMULATED_BENCH if self.session is None else self.session.instrument_info
        lost = 0 if self.live is None else self.live.samples_lost
        words = "none lost" if not lost else f"{lost} lost"
        name = info.name.capitalize()
        synthetic = " Synthetic data." if info.simulated else ""
        return f"{name}, {info.sample_rate_hz:g} samples a second, {words}.{synthetic}"

    def _energy_of(self, specimen: Specimen, journal: Journal) -> str:
        """What it stores when it parts; by the rating where the lot has no pulls to go by."""
        benches = journal.bench_book.benches
        compliance = benches[0].compliance_m_per_n if benches else 0.0
        found = energy_words(specimen, None, compliance)
        return "" if found is None else str(found)

    def rule_words(self) -> str:
        """The keep-away rule of the bench book, and the dates that matter before arming."""
        book = None if self._journal is None else self._journal.bench_book
        name = SIMULATED_BENCH.name if self.session is None else self.session.instrument_info.name
        bench = next((b for b in book.benches if b.name == name), None) if book else None
        if bench is None or not bench.keep_away:
            return "The bench book has no keep-away rule for this bench: write it down first."
        today = self._workshop.now()[:10]
        said = [f"Keep-away rule: {bench.keep_away}."]
        if not bench.calibration_due or bench.calibration_due < today:
            said.append("The load cell's calibration is out of date.")
        if bench.estop_checked_on != today:
            said.append("The emergency stop was not tried today.")
        return " ".join(said)

    def readings(self) -> Readings:
        """The large numbers now."""
        units, live = self.units, self.live
        if live is None:
            return Readings("–", "–", units.force, "–", units.length, "–")
        share = "–"
        if self._baseline_n:
            share = f"{100 * live.highest_n / self._baseline_n:.0f}"
        travel = live.travel_m / si_factor(units.length, "length")
        shown = 0.0 if abs(live.load_n) < 10 else live.load_n
        return Readings(
            units.force_number(shown),
            units.force_number(live.highest_n),
            units.force,
            f"{travel:.1f}",
            units.length,
            share,
        )

    def controls(self) -> Controls:
        """What can be done now."""
        if self._workshop.read_only:
            return Controls("Read-only: another window has this campaign.", "ochre")
        if self._not_stored is not None:
            words = "Not stored yet; the samples are kept in memory. Make room, then end the pull."
            return Controls(words, "brick", may_end=True)
        live, session = self.live, self.session
        if session is None or live is None or live.phase is Phase.READY:
            if self.entry is None:
                return Controls("The queue is empty.", "muted")
            words = "Ready to arm." if self.lane_clear else "Lane clear? Tick both, then arm."
            return Controls(words, "ink", may_arm=self.lane_clear)
        if live.phase is Phase.ARMED:
            ready = session.zero_taken
            words = "Armed. Hold Space to pull." if ready else "Armed. Taking the zero …"
            return Controls(words, "plum", may_pull=ready, may_stop=True)
        if live.phase is Phase.PULLING:
            words = "Pulling. Let go to stop."
            return Controls(words, "plum", may_pull=True, may_stop=True)
        if live.phase is Phase.SLACKING:
            return Controls("Slacking off.", "plum", may_slack=True, may_stop=True)
        if live.phase in (Phase.GAVE, Phase.ENDED):
            return Controls("It gave. Go and look.", "moss", done=True)
        words, tone = self._held_words(live)
        armed = session.armed
        return Controls(
            words,
            tone,
            may_arm=self.lane_clear and not armed,
            may_pull=armed,
            may_slack=armed,
            may_end=session.may_end,
            may_stop=armed,
        )

    def _held_words(self, live: Live) -> tuple[str, str]:
        if live.fault:
            return f"{live.fault} The samples are kept in memory.", "brick"
        reason = {
            Stop.LOAD_LIMIT: "Load limit reached. ",
            Stop.TRAVEL_LIMIT: "End of travel reached. ",
            Stop.WATCHDOG: "The control went silent. ",
            Stop.PRESSED: "The bench's own stop was pressed. ",
            Stop.OVERLOAD: "The bench stopped at overload. ",
            Stop.NONE: "",
        }[live.stopped_by]
        if live.load_is_on:
            return f"{reason}Stopped. The load is still on.", "brick"
        return f"{reason}Stopped, the load is off.", "ink"

    def _factors(self) -> tuple[float, float]:
        return si_factor(self.units.force, "force"), si_factor(self.units.length, "length")

    def _on_keep_alive(self) -> None:
        if self.session is not None and self._holding:
            self.session.keep_alive()

    def _on_poll(self) -> None:
        session = self.session
        if session is None:
            return
        self.live = session.poll()
        self.moved.emit()
        # Showing it may have let go of the held control, and so have come by here already.
        if session is self.session and session.phase is Phase.GAVE:
            self._finish(PullEnd.GAVE)

    def _finish(self, end: PullEnd) -> None:
        session = self.session
        if session is None:
            return
        self._poll.stop()
        self._alive.stop()
        self._holding = False
        try:
            session.finish(end)
        except BruiserError as error:
            log.exception("the pull could not be stored")
            self._not_stored = end
            self.moved.emit()
            self.failed.emit(error)
            return
        self._not_stored = None
        self.live = session.poll()
        self.moved.emit()
        pull_id = session.pull_id
        self.session = None
        self.entry = None
        self.lane_clear = False
        if pull_id is not None:
            self.pull_recorded.emit(pull_id)
