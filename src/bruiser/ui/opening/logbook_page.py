"""The logbook: every specimen of the campaign, filtered, sorted, and led on from."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout

from bruiser.core.errors import StoreError
from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.formats.table_files import SUFFIXES, table_bytes
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import StationPage, Words, button
from bruiser.ui.kit.rows_table import MadeRows, RowsTable
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.course.pull_list import (
    COLUMNS,
    ListFilter,
    cells_of,
    find_lines,
    ids_of,
    list_table,
    technicians,
)
from bruiser.workshop.logbook.entries import State
from bruiser.workshop.logbook.lines import SpecimenLine
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

WIDTHS = (0.95, 1.2, 2.3, 0.8, 1.4, 0.9, 1.55, 1.0, 1.5, 0.9)


class LogbookDesk(Desk):
    """What is listed, and in which order; found and sorted off the interface thread."""

    listed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.lines: Sequence[SpecimenLine] = ()
        self.whole = 0

    def take_up(self, logbook: Logbook) -> None:
        """The logbook was read again."""
        self.logbook = logbook
        self.changed.emit()

    def look(self, wanted: ListFilter, column: str, *, falling: bool) -> None:
        """Find what is asked for; `listed` says when it is there."""
        logbook, units = self.logbook, self.units
        if logbook is None:
            return

        def find() -> tuple[Sequence[SpecimenLine], int]:
            found = find_lines(logbook, wanted, column, units, falling=falling)
            return found, logbook.tally.count()

        self._tasks.run("logbook", find, self._show, self.work_failed)

    def _show(self, found: tuple[Sequence[SpecimenLine], int]) -> None:
        self.lines, self.whole = found
        self.listed.emit()

    def export(self, path: Path) -> bool:
        """Write what is listed as a table, CSV or XLSX by the ending; whether that could be."""
        suffix = path.suffix.lower()
        headings, cells = list_table(self.lines, self.units)
        try:
            path.write_bytes(
                table_bytes(suffix if suffix in SUFFIXES else ".csv", headings, cells, "logbook")
            )
        except OSError as error:
            self.failed.emit(StoreError(f"{path.name} was not written: {error.strerror}."))
            return False
        return True


class LogbookPage(StationPage):
    """Builds the list; says where somebody wants to go from a row."""

    trace_wanted = pyqtSignal(str)
    pull_wanted = pyqtSignal(str)
    finding_wanted = pyqtSignal(str)
    history_wanted = pyqtSignal(str)

    def __init__(self, desk: LogbookDesk) -> None:
        super().__init__("logbook")
        self._desk = desk
        self._column, self._falling = 0, False
        self._select_first = False
        self._shown: tuple[Sequence[SpecimenLine], UnitChoice] | None = None
        self.words = Field("Find", "logbook.find", hint="code, knot, lot, note …")
        self.lot = ChoiceField("Lot", "logbook.lot")
        self.state = ChoiceField("State", "logbook.state")
        self.outcome = ChoiceField("What gave", "logbook.outcome")
        self.who = ChoiceField("Technician", "logbook.who")
        self.table = RowsTable("logbook.table", "Every specimen", COLUMNS, WIDTHS)
        self.trace = button("Trace", "logbook.trace")
        self.finding = button("Findings", "logbook.finding")
        self.history = button("History", "logbook.history")
        self.result = button("In Results", "logbook.result")
        self.export = button("Save as a table …", "logbook.export")
        self.none = Words("", "body", "muted")
        self.first = self.words.entry
        self._build()
        desk.changed.connect(self._refresh)
        desk.listed.connect(self._show)
        self._refresh()

    def _build(self) -> None:
        filters = QHBoxLayout()
        filters.setSpacing(SPACE["s"])
        filters.addWidget(self.words, 2)
        for one in (self.lot, self.state, self.outcome, self.who):
            filters.addWidget(one, 1)
            one.box.currentIndexChanged.connect(self._look)
        self.words.entry.textChanged.connect(self._look)
        self.body.addLayout(filters)
        self.body.addWidget(self.none)
        self.body.addWidget(self.table, 1)
        below = QHBoxLayout()
        for made in (self.trace, self.finding, self.history, self.result):
            below.addWidget(made)
        below.addStretch(1)
        below.addWidget(self.export)
        self.body.addLayout(below)
        header = self.table.horizontalHeader()
        if header is not None:
            header.setSectionsClickable(True)
            header.sectionClicked.connect(self._sort)
        self.table.chosen.connect(self._on_chosen)
        self.table.doubleClicked.connect(lambda _: self._lead(self.finding_wanted))
        self.trace.clicked.connect(lambda: self._lead(self.trace_wanted))
        self.finding.clicked.connect(lambda: self._lead(self.finding_wanted))
        self.history.clicked.connect(lambda: self._lead(self.history_wanted))
        self.result.clicked.connect(lambda: self._lead(self.pull_wanted))
        self.export.clicked.connect(self._on_export)

    def _refresh(self) -> None:
        logbook = self._desk.logbook
        if logbook is None:
            return
        every = [("", "all")]
        self.lot.offer([*every, *((lot.id, lot.name) for lot in logbook.lots)])
        self.state.offer([*every, *((s.value, s.value) for s in State)])
        self.outcome.offer([*every, *((g.value, g.value.replace("_", " ")) for g in Gave)])
        self.who.offer([*every, *((t, t) for t in technicians(logbook))])
        self._look()

    @property
    def wanted(self) -> ListFilter:
        """What is asked for."""
        return ListFilter(
            words=self.words.text,
            lot_id=self.lot.text,
            technician=self.who.text,
            outcome=self.outcome.text,
            state=self.state.text,
        )

    def _look(self) -> None:
        self._desk.look(self.wanted, COLUMNS[self._column], falling=self._falling)

    def _show(self) -> None:
        lines, whole, units = self._desk.lines, self._desk.whole, self._desk.units
        if (lines, units) != self._shown:
            self._shown = lines, units
            self.table.show_rows(MadeRows(lines, ids_of(lines), lambda line: cells_of(line, units)))
        self.title.say("Every specimen, from planned to inspected")
        shown = count(len(lines), "specimen")
        self.subtitle.say(shown if len(lines) == whole else f"{shown} of {whole}")
        nothing = "Nothing is like that. Take a filter away." if whole else "No specimens yet."
        self.none.say("" if lines else nothing)
        self.none.setVisible(not lines)
        self.export.setEnabled(bool(lines))
        if self._select_first and lines:
            self.table.selectRow(0)
        self._select_first = False
        self._on_chosen()

    def _sort(self, column: int) -> None:
        self._falling = column == self._column and not self._falling
        self._column = column
        self._look()

    @property
    def chosen(self) -> SpecimenLine | None:
        """The line that is selected, if it is one."""
        at = self.table.numbers
        return self._desk.lines[at[0]] if len(at) == 1 else None

    def list_with(self, words: str) -> None:
        """List what has these words, and select the first."""
        for one in (self.lot, self.state, self.outcome, self.who):
            one.fill("")
        self.words.fill(words)
        self._select_first = True
        self._look()

    def _on_chosen(self) -> None:
        row = self.chosen
        pulled = row is not None and bool(row.pull_id)
        for one in (self.trace, self.finding, self.history, self.result):
            one.setEnabled(pulled)

    def _lead(self, signal: object) -> None:
        row = self.chosen
        if row is not None and row.pull_id:
            signal.emit(row.pull_id)  # type: ignore[attr-defined]

    def _on_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the list", "logbook.csv", "CSV (*.csv);;Workbook (*.xlsx);;TSV (*.tsv)"
        )
        if name:
            self._desk.export(Path(name))
