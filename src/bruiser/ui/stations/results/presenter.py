"""Decides what the results station shows."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from PyQt6.QtCore import pyqtSignal

from bruiser.core.choice.rating import RatingLimits
from bruiser.core.errors import BruiserError, InputError
from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Against
from bruiser.core.progress import Progress
from bruiser.core.trace import Trace
from bruiser.core.units import UnitChoice, parse_quantity
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.results.across import chosen_set, set_key
from bruiser.ui.stations.results.sheet import Behind, Sheet
from bruiser.ui.stations.results.sheets import SHEETS, Chosen, Material
from bruiser.workshop.findings.excluding import exclude_pull, restore_pull
from bruiser.workshop.findings.pull_words import pull_rows, pull_words
from bruiser.workshop.groups.gathering import Group
from bruiser.workshop.guide.book import lay_beside, leave_out_lot, read_limits
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.results.across_words import alike_words
from bruiser.workshop.results.lot_results import LotResults
from bruiser.workshop.results.overview import Filters, Overview, SheetQuery, overview, row_key

ALL_LOTS = "all"
TASK = "results"
LARGE = 100
"""A sheet of more rows than this is built and drawn off the interface thread."""


class _How(NamedTuple):
    """How a sheet is shown."""

    sheet: str
    chosen: Chosen
    units: UnitChoice
    stopped: bool


def _build(found: Overview | None, logbook: Logbook | None, how: _How) -> Sheet:
    """A sheet of what was worked out; what is said in its place while that is not there."""
    if found is None or logbook is None or found.asked.sheet != how.sheet:
        waits = "" if found is None else "Working it out …"
        return Sheet(
            about="", main=None, sentence="", empty="Not worked out." if how.stopped else waits
        )
    row = how.chosen.row(found.asked.sheet)
    return SHEETS[found.asked.sheet].build(
        Material(found=found, logbook=logbook, row=row, chosen=how.chosen, units=how.units)
    )


class ResultsPresenter(Desk):
    """What the pulls say, one sheet at a time, and the pulls behind every number."""

    results_ready = pyqtSignal()
    selection_changed = pyqtSignal()
    pulls_changed = pyqtSignal()
    working = pyqtSignal(int, int)

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self.tasks = tasks
        self._memory = Memory() if memory is None else memory
        self.asked = SheetQuery(sheet="strength", lot_ids=())
        self.lot_id = ""
        self.found: Overview | None = None
        self.shown = Chosen()
        self.selected: str | None = None
        self.opened = Behind("", ())
        self.stopped = False
        self._built: tuple[Overview | None, _How, Sheet] | None = None

    @property
    def read_only(self) -> bool:
        """Whether nothing can be stored from here."""
        return self.workshop.read_only

    @property
    def results(self) -> LotResults | None:
        """Results of the lot shown; of the first where several are."""
        return self.found.shown[0] if self.found is not None and self.found.shown else None

    def take_up(self, logbook: Logbook) -> None:
        """The logbook changed: compute anew what is shown, off the interface thread."""
        self.logbook = logbook
        ids = [lot.id for lot in logbook.lots]
        if self.lot_id not in (*ids, ALL_LOTS):
            self.lot_id = self._busiest() if ids else ""
        limits: RatingLimits | None = None

        def read() -> None:
            nonlocal limits
            limits = read_limits(self.workshop)

        self.attempt(read)
        if limits is None:
            self._ask(lot_ids=self._lot_ids())
        else:
            self._ask(lot_ids=self._lot_ids(), security=limits.security, across=limits.across)

    def _busiest(self) -> str:
        logbook = self.logbook
        assert logbook is not None
        pulled = logbook.tally.lots(Stage.INSPECTED)
        return max((lot.id for lot in logbook.lots), key=lambda lot_id: pulled[lot_id])

    def lots(self) -> list[tuple[str, str]]:
        """Lots in which something was planned or pulled, and all of them side by side."""
        logbook = self.logbook
        if logbook is None:
            return []
        there = logbook.tally.lots()
        own = [(lot.id, f"{lot.name}, {lot.condition}") for lot in logbook.lots if lot.id in there]
        if not own and logbook.lots:
            own = [(logbook.lots[0].id, logbook.lots[0].name)]
        return [*own, (ALL_LOTS, "All lots, side by side")] if len(own) > 1 else own

    def _lot_ids(self) -> tuple[str, ...]:
        if self.lot_id != ALL_LOTS:
            return (self.lot_id,) if self.lot_id else ()
        return tuple(key for key, _ in self.lots() if key != ALL_LOTS)

    def show_lot(self, lot_id: str) -> None:
        """Show another lot, or all of them."""
        self.lot_id = lot_id
        self.selected, self.opened = None, Behind("", ())
        self._ask(lot_ids=self._lot_ids(), compared=())

    def show_sheet(self, sheet: str) -> None:
        """Show another sheet."""
        self.opened = Behind("", ())
        self._ask(sheet=sheet, work=SHEETS[sheet].work)

    def point_out(self, pull_id: str) -> None:
        """Show the lot of a pull and select it."""
        entry = self.logbook.by_pull.get(pull_id) if self.logbook is not None else None
        if entry is not None:
            self.lot_id = entry.specimen.lot.id
            self.selected = pull_id
            self.opened = Behind("", (pull_id,))
            first = SHEETS["strength"]
            self._ask(lot_ids=self._lot_ids(), sheet=first.key, work=first.work, filters=Filters())

    def filter(self, **changes: object) -> None:
        """Look at some of the groups or pulls only."""
        self._ask(filters=replace(self.asked.filters, **changes))  # type: ignore[arg-type]

    def measure_against(self, against: str) -> None:
        """Take another definition of efficiency."""
        self._ask(against=Against(against))

    def ask_floor(self, share: float, confidence: float) -> None:
        """Take another lower tolerance bound."""
        self._ask(floor_share=share, confidence=confidence)

    def compare(self, keys: tuple[str, ...]) -> None:
        """Compare these rows with one another."""
        self._ask(compared=keys)

    def alike_sets(self) -> list[tuple[str, str]]:
        """The sets of groups that compare across cordages."""
        sets = () if self.found is None else self.found.across
        return [(set_key(one), alike_words(one.alike)) for one in sets]

    def alike_key(self) -> str:
        """The set looked at."""
        one = None if self.found is None else chosen_set(self.found, self.shown.alike)
        return "" if one is None else set_key(one)

    def lots_across(self) -> list[tuple[str, str]]:
        """Lots that may enter where something is predicted from all of them."""
        one = None if self.found is None else chosen_set(self.found, self.shown.alike)
        mine = set(self.asked.across.left_out) | set(() if one is None else one.lots.values())
        return [(key, name) for key, name in self.lots() if key in mine]

    def leave_out_lot(self, lot_id: str) -> None:
        """Leave a lot out of what is predicted across cordages, or take it in again: for good."""
        self.attempt(lambda: leave_out_lot(self.workshop, lot_id))

    def lay_beside(self, path: Path) -> None:
        """Lay another campaign beside, or take it away again."""
        self.attempt(lambda: lay_beside(self.workshop, path))

    def hold(self, text: str) -> str:
        """Judge wraps against another load; returns what is wrong with it."""
        try:
            wanted = parse_quantity(text, "force", self.units.force) if text.strip() else None
        except InputError as error:
            return str(error)
        if wanted is not None and wanted <= 0:
            return "A load above zero, please."
        self._ask(target_n=wanted)
        return ""

    def show(self, **changes: object) -> None:
        """Change how the sheet is shown; a large one is built off the interface thread."""
        self.shown = replace(self.shown, **changes)  # type: ignore[arg-type]
        found, logbook, how = self.found, self.logbook, self._how()
        if not self.large:
            self.results_ready.emit()
            return

        def received(sheet: Sheet) -> None:
            self._built = found, how, sheet
            self.results_ready.emit()

        self.tasks.run("sheet", lambda: _build(found, logbook, how), received, self.work_failed)

    def _ask(self, **changes: object) -> None:
        self.asked = replace(self.asked, **changes)  # type: ignore[arg-type]
        logbook, asked = self.logbook, self.asked
        self.stopped = False
        if logbook is None:
            return

        how = self._how()

        def work(progress: Progress) -> tuple[Overview, Sheet]:
            found = overview(logbook, asked, self._memory, progress)
            return found, _build(found, logbook, how)

        def received(made: tuple[Overview, Sheet]) -> None:
            self.found = made[0]
            self._built = made[0], how, made[1]
            self.working.emit(1, 1)
            self.results_ready.emit()

        def failed(error: Exception) -> None:
            self._end_waiting()
            self.work_failed(error)

        self.working.emit(0, 1)
        self.tasks.run_watched(TASK, work, received, failed, self.working.emit)

    def _end_waiting(self) -> None:
        """Nothing more comes: what was there before stays shown, and says that it is older."""
        self.stopped = True
        self.working.emit(1, 1)
        self.results_ready.emit()

    def cancel(self) -> None:
        """Stop working."""
        self.tasks.cancel(TASK)
        self._end_waiting()

    def again(self) -> None:
        """Work out what was stopped."""
        self._ask()

    def title(self) -> str:
        """The question of the sheet."""
        return SHEETS[self.asked.sheet].question

    @property
    def large(self) -> bool:
        """Whether so much is shown that it is built and drawn off the interface thread."""
        return self.found is not None and len(self.found.rows) > LARGE

    def _how(self) -> _How:
        return _How(self.asked.sheet, self.shown, self.units, self.stopped)

    def sheet(self) -> Sheet:
        """The sheet as it stands; built once for what was worked out and chosen."""
        how, built = self._how(), self._built
        if built is None or built[0] is not self.found or built[1] != how:
            built = self._built = self.found, how, _build(self.found, self.logbook, how)
        return built[2]

    def tap(self, key: str) -> None:
        """Something in a chart, a table or a line was pointed at."""
        if key.startswith("row:"):
            rows = dict(self.shown.rows)
            name = key.removeprefix("row:")
            rows[self.asked.sheet] = "" if rows.get(self.asked.sheet) == name else name
            self.show(rows=tuple(rows.items()))
            return
        behind = self.sheet().behind.get(key)
        if behind is not None:
            self.open(behind)
        elif self.logbook is not None and key in self.logbook.by_pull:
            self.select(key)

    def open(self, behind: Behind) -> None:
        """Show the pulls behind a number; the first of them is looked at."""
        self.opened = behind
        if behind.pulls and self.selected not in behind.pulls:
            self.selected = behind.pulls[0]
        self.pulls_changed.emit()
        self.selection_changed.emit()

    def select(self, pull_id: str) -> None:
        """Look at one pull; a list it does not stand in is put away."""
        self.selected = pull_id or None
        if pull_id not in self.opened.pulls:
            self.opened = Behind("", (pull_id,) if pull_id else ())
            self.pulls_changed.emit()
        self.selection_changed.emit()

    def pulls(self) -> list[tuple[str, tuple[str, ...]]]:
        """The pulls behind the number opened: code, outcome (or that it is left out), and load."""
        if self.logbook is None:
            return []
        return pull_rows(self.logbook, self.opened.pulls, self.units)

    def selected_entry(self) -> Entry | None:
        """The pull whose trace is open."""
        if self.logbook is None or self.selected is None:
            return None
        return self.logbook.by_pull.get(self.selected)

    def entry_words(self) -> str:
        """The open pull in words."""
        entry = self.selected_entry()
        return "" if entry is None else pull_words(entry, self.units)

    def trace(self) -> Trace | None:
        """Samples of the open pull."""
        entry = self.selected_entry()
        if entry is None or entry.pull is None:
            return None
        return read_trace(self.workshop, entry.pull)

    def exclude(self, reason: str) -> str:
        """Leave the open pull out; returns what is wrong with the reason."""
        entry = self.selected_entry()
        if entry is None or entry.excluded is not None:
            return ""
        try:
            exclude_pull(self.workshop, entry, reason)
        except InputError as error:
            return str(error)
        except BruiserError as error:
            self.failed.emit(error)
            return "Not stored."
        return ""

    def restore(self) -> None:
        """Take the open pull in again."""
        entry = self.selected_entry()
        if entry is None or entry.excluded is None:
            return
        try:
            restore_pull(self.workshop, entry)
        except BruiserError as error:
            self.failed.emit(error)

    def filter_options(self) -> dict[str, list[tuple[str, str]]]:
        """What can be filtered by, in the lots shown."""
        groups = [] if self.found is None else self._groups(self.found)
        variants = {g.knot.variant for g in groups if g.knot is not None}
        hosts = {str(g.key.host) for g in groups if g.key is not None}
        dressings = {g.key.dressing for g in groups if g.key is not None}
        logbook = self.logbook
        people = set() if logbook is None else set(logbook.technicians())
        said = {
            "variant": ("every variant", variants),
            "host": ("every pin and host", hosts),
            "dressing": ("every dressing", dressings),
            "technician": ("every technician", people),
        }
        return {
            key: [("", word), *((v, v) for v in sorted(values) if v)]
            for key, (word, values) in said.items()
        }

    @staticmethod
    def _groups(found: Overview) -> list[Group]:
        return [
            g
            for lot_id in found.asked.lot_ids
            for g in found.gathered.tied.get(lot_id, {}).values()
        ]

    def comparable(self) -> list[tuple[str, str]]:
        """Rows that can be compared, by key."""
        rows = () if self.found is None else self.found.rows
        many = self.lot_id == ALL_LOTS
        return [
            (row_key(r), f"{r.name}, {r.lot.name}" if many else r.name)
            for r in rows
            if r.efficiency.counts.specimens
        ]

    def compared(self) -> tuple[str, ...]:
        """Keys of the rows that are compared."""
        compared = None if self.found is None else self.found.compared
        return () if compared is None else tuple(row_key(r) for r in compared.rows)
