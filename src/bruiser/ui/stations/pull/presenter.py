"""Decides what the pull station shows, and puts specimens on the bench."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import islice
from pathlib import Path

import numpy as np
from PyQt6.QtCore import pyqtSignal

from bruiser.core.errors import BruiserError, Refused
from bruiser.core.records.layouts import End
from bruiser.core.records.programme import runs_latched
from bruiser.core.records.readings import Sheath
from bruiser.core.records.records import JamLevel
from bruiser.core.trace import Floats
from bruiser.core.units import si_factor
from bruiser.rig.instrument import Instrument
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.pull.asked import (
    Question,
    answer_refusal,
    answer_with,
    asked_of,
    felt_words,
    read_untying,
)
from bruiser.ui.stations.pull.bench_at_hand import BenchAtHand, BenchFor
from bruiser.ui.stations.pull.decided import DecidedDesk
from bruiser.ui.stations.pull.directions_presenter import DirectionsPresenter
from bruiser.ui.stations.pull.driver import BenchDriver
from bruiser.ui.stations.pull.instrument_presenter import InstrumentPresenter
from bruiser.ui.stations.pull.prepare_presenter import PreparePresenter
from bruiser.ui.stations.pull.shown import (
    PullControls,
    Readings,
    controls_of,
    programme_words,
    readings_of,
    strip_notes,
)
from bruiser.ui.stations.pull.siblings import sibling_band, sibling_traces
from bruiser.workshop.bench.handing_out import hand_out, kept_here
from bruiser.workshop.bench.instruments import InstrumentKind
from bruiser.workshop.bench.live_pull import Live
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.recording import record_by_hand, record_from_file
from bruiser.workshop.bench.running import reference_n
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.lot_results import baseline_median_n

_MOST_SIBLINGS = 5


class PullPresenter(Desk):
    """One specimen at the bench after another."""

    specimen_changed = pyqtSignal()
    moved = pyqtSignal()
    pull_recorded = pyqtSignal(str)
    instrument_chosen = pyqtSignal()
    trace_wanted = pyqtSignal(str)
    look_again = pyqtSignal()

    def __init__(
        self, workshop: Workshop, bench_for: BenchFor, tasks: TaskRunner | None = None
    ) -> None:
        super().__init__(workshop)
        self.driver = BenchDriver(workshop)
        self.instrument = InstrumentPresenter(workshop, tasks or TaskRunner(), self._on_bench)
        self.instrument.chosen.connect(self.instrument_chosen)
        self.bench = BenchAtHand(workshop, self.instrument, self.driver, bench_for)
        self.prepare = PreparePresenter(workshop, tasks)
        self.prepare.wanted.connect(self.put_on)
        self.directions = DirectionsPresenter(workshop)
        self.directions.trace_wanted.connect(self.trace_wanted)
        self.decided = DecidedDesk(workshop, tasks or TaskRunner())
        for desk in (self.instrument, self.prepare, self.directions, self.decided):
            desk.failed.connect(self.failed)
        self.driver.failed.connect(self.failed)
        self.driver.moved.connect(self.moved)
        self.driver.look_again.connect(self.look_again)
        self.driver.recorded.connect(self._on_recorded)
        self.entry: Entry | None = None
        self.next_codes: tuple[str, ...] = ()
        self.technician = self._wanted = ""
        self._login = workshop.file.worker.who
        self._baseline_n: float | None = None
        self._reference = (0.0, "")
        self.energy, self.against_time = "", False
        self._siblings: tuple[Entry, ...] = ()
        self._kept_here: set[str] = set()
        self.driver.kept_here.connect(self._on_kept_here)

    @property
    def session(self) -> PullSession | None:
        """The pull under way, if any."""
        return self.driver.session

    @property
    def live(self) -> Live | None:
        """What the bench showed last."""
        return self.driver.live

    @property
    def lane_clear(self) -> bool:
        """Whether the lane was looked at for this arming."""
        return self.driver.lane_clear

    def take_up(self, logbook: Logbook) -> None:
        """Put the next specimen of the queue on the bench, unless one is being pulled."""
        if self.session is not None and self.session.pull_id is not None:
            return
        self.logbook = self.instrument.logbook = logbook
        self.decided.take_up(logbook)
        taken = {*self.workshop.claims.others, *self._kept_here}
        entry, refused = hand_out(self.workshop, logbook, self._wanted, self._kept_here)
        if refused:
            self._wanted = ""
            self.failed.emit(Refused(refused))
        code = "" if entry is None else entry.specimen.code
        free = (q.code for q in logbook.queued if q.specimen_id not in taken and q.code != code)
        self.next_codes = tuple(islice(free, 3))
        if entry is not None and self.entry and entry.specimen == self.entry.specimen:
            self.entry = entry
            self.prepare.take_up_entry(logbook, entry)
            return
        self.driver.forget()
        self.entry = entry
        self._siblings = ()
        if entry is not None:
            lot = entry.specimen.lot
            self._baseline_n = baseline_median_n(logbook, lot)
            self._reference = reference_n(logbook, lot)
            self.energy = self.bench.energy_words(entry.specimen)
            self._siblings = logbook.siblings(entry.specimen)[-_MOST_SIBLINGS:]
        self.prepare.take_up_entry(logbook, entry)
        self.specimen_changed.emit()

    @property
    def latched(self) -> bool:
        """Whether the method of the specimen at the bench runs by itself."""
        return self.entry is not None and runs_latched(self.entry.specimen.method)

    def work_as(self, initials: str) -> None:
        """Who pulls from now on; stands with every pull."""
        self.technician = initials.strip()
        file = self.workshop.file
        file.worker = replace(file.worker, who=self.technician or self._login)

    def show_panel(self, key: str) -> None:
        """Another part of the station is shown; the directions are read when they are looked at."""
        if key == "directions" and self.logbook is not None:
            knot = None if self.entry is None else self.entry.specimen.knot_a
            self.directions.take_up(self.logbook, "" if knot is None else knot.id)

    def put_on(self, specimen_id: str) -> None:
        """Bring a specimen of the queue to the bench before its turn."""
        if self.loaded or self.logbook is None:
            return
        self._wanted = specimen_id
        self.take_up(self.logbook)

    def sibling_traces(self) -> list[tuple[Floats, Floats]]:
        """Travel and load of the siblings, in the units shown."""
        return sibling_traces(self.workshop, self._siblings)

    def sibling_band(self) -> tuple[float, float] | None:
        """Lowest and highest load at which the siblings gave, in the unit shown."""
        return sibling_band(self._siblings, self.units)

    def confirm_lane(self, clear: bool) -> None:
        """The person says that the lane is clear and the guard shut, or takes it back."""
        self.driver.lane_clear = clear
        if not clear and self.armed:
            self.stop()
        self.moved.emit()

    def arm(self) -> None:
        """Allow the bench to move, or note a pull that no line records."""
        entry, choice = self.entry, self.instrument.choice
        if entry is None or not self.lane_clear or self.workshop.read_only:
            return
        try:
            if choice.kind is InstrumentKind.BY_HAND:
                rules = self.bench.rules()
                self._on_recorded(
                    record_by_hand(
                        self.workshop,
                        entry.specimen,
                        rules.rate_m_s,
                        rules.capacity_n,
                        self.technician,
                    )
                )
                return
            if self.session is None:
                self.bench.open(entry.specimen, self._reference[0], self.technician)
            self.driver.arm()
        except BruiserError as error:
            self.failed.emit(error)

    def take_file(self, path: Path) -> None:
        """Store a logger's file as the pull of the specimen at the bench."""
        entry = self.entry
        if entry is None or not self.lane_clear or self.workshop.read_only:
            return
        rules = self.bench.rules()
        try:
            self._on_recorded(
                record_from_file(
                    self.workshop,
                    entry.specimen,
                    path,
                    rules.rate_m_s,
                    rules.capacity_n,
                    self.technician,
                )
            )
        except BruiserError as error:
            self.failed.emit(error)

    def _on_kept_here(self, specimen_id: str, code: str) -> None:
        """A pull ended while the server is away."""
        self._kept_here.add(specimen_id)
        self.entry, self._wanted = None, ""
        self.driver.lane_clear = False
        self.specimen_changed.emit()
        self.failed.emit(kept_here(code))

    def _on_recorded(self, pull_id: str) -> None:
        self.entry = None
        self._wanted = ""
        self.driver.lane_clear = False
        self.pull_recorded.emit(pull_id)

    def _on_bench(self) -> Instrument | None:
        return None if self.session is None else self.session.instrument

    def press(self, direction: str) -> None:
        """A control went down: ``pull`` or ``slack``."""
        self.driver.press(direction)

    def release(self) -> None:
        """The held control was let go."""
        self.driver.release()

    def interrupt(self) -> None:
        """The window lost the focus, or the station was left: stop the travel."""
        if self.armed:
            self.driver.interrupt()

    def stop(self) -> None:
        """Stop at once, from anywhere."""
        self.driver.stop()

    @property
    def armed(self) -> bool:
        """Whether the bench may move."""
        return self.driver.armed

    @property
    def loaded(self) -> bool:
        """Whether a pull is under way."""
        return self.session is not None and self.session.pull_id is not None

    def end_here(self) -> None:
        """End the pull once the load is off."""
        self.driver.end_here()

    def save_elsewhere(self, path: Path) -> bool:
        """Write the samples in memory to a file; says whether it was done."""
        return self.driver.save_elsewhere(path)

    def save_again(self) -> None:
        """Try once more to store the samples in memory."""
        self.driver.save_again()

    @property
    def unsaved(self) -> int:
        """Samples that are in memory only, after storing them failed."""
        return self.driver.unsaved

    def drop(self) -> None:
        """Let go of a pull whose samples were saved elsewhere."""
        self.driver.drop()

    @property
    def may_save_elsewhere(self) -> bool:
        """Whether samples wait in memory that the campaign did not take."""
        live = self.live
        return self.driver.not_stored is not None or (live is not None and bool(live.fault))

    def abandon(self) -> None:
        """The window closes: stop the bench, keep what was recorded; raises what refuses it."""
        self.driver.abandon()

    def asked(self) -> Question | None:
        """What the method asks the technician now."""
        return asked_of(self.driver, self.units)

    def felt_words(self) -> str:
        """What lies on the simulated bench at this step, as one would feel it."""
        return felt_words(self.driver, self.units)

    def answer_untying(
        self, levels: Mapping[End, JamLevel], seconds: Mapping[End, str]
    ) -> dict[End, str]:
        """Keep what it took to untie each knot; returns what is wrong by knot."""
        found, wrong = read_untying(self.asked(), levels, seconds)
        if not wrong and found:
            self.driver.answer_untying(found)
        return wrong

    def answer_load(self, text: str, *, sure: bool = False) -> str:
        """Keep a load or a length that was read; returns what is wrong with it."""
        return answer_with(self.driver, self.units, text, sure=sure)

    def answer_look(self, look: Sheath) -> None:
        """Keep how the sheaths look where it gripped."""
        self.driver.answer_value(None, look.value)

    def answer_refused(self, text: str) -> str:
        """Keep that it would not free, slide or pass; the force tried may be left out."""
        return answer_refusal(self.driver, self.units, text)

    def trace(self) -> tuple[Floats, Floats]:
        """Travel and load so far, in the units shown."""
        if self.session is None:
            return np.empty(0), np.empty(0)
        force, length = self._factors()
        trace = self.session.recorder.recorded()
        along = trace.time_s if self.against_time else trace.travel_m / length
        return along, (trace.load_n - self.session.zero_n) / force

    def slip_samples(self) -> list[int]:
        """The samples at which something slipped."""
        return [] if self.live is None else [at for at, _ in self.live.slips]

    def show_against(self, time: bool) -> None:
        """Show the load against time, or against travel."""
        self.against_time = time
        self.specimen_changed.emit()

    @property
    def along(self) -> tuple[str, float]:
        """What the load is shown against, and how much of it at least."""
        return ("time (s)", 20.0) if self.against_time else (f"travel ({self.units.length})", 60.0)

    def programme_words(self) -> str:
        """What comes next in words; before the pull, what the method is and how it ends."""
        return (
            ""
            if self.entry is None
            else programme_words(self.driver, self.entry, self._reference[1])
        )

    @property
    def progress(self) -> float:
        """Share of the method that is done."""
        return 0.0 if self.driver.run is None else self.driver.run.progress

    def method_words(self) -> str:
        """What will be done to the specimen."""
        return "" if self.entry is None else self.bench.method_words(self.entry.specimen)

    def slip_words(self) -> str:
        """The slips seen so far; the analysis afterwards decides."""
        slips = () if self.live is None else self.live.slips
        if not slips:
            return ""
        times = "once" if len(slips) == 1 else f"{len(slips)} times"
        return f"Moved {times}, first at {self.units.force_text(slips[0][1])}."

    def strip_notes(self) -> tuple[dict[str, str], float]:
        """What stands under each tail, and how far the specimen is drawn out, 0 to 1."""
        specimen = None if self.entry is None else self.entry.specimen
        return strip_notes(specimen, self.live, self.units)

    def readings(self) -> Readings:
        """The large numbers now."""
        return readings_of(self.live, self.units, self._baseline_n)

    def controls(self) -> PullControls:
        """What can be done now."""
        if self.workshop.read_only:
            return PullControls(
                words=f"Read-only. {self.workshop.file.why_read_only}", tone="ochre"
            )
        if self.session is None and self.entry is None:
            return PullControls(words="The queue is empty.", tone="muted")
        return controls_of(self.driver)

    def _factors(self) -> tuple[float, float]:
        return si_factor(self.units.force, "force"), si_factor(self.units.length, "length")
