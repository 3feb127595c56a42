"""The logbook: every specimen of the campaign, filtered, sorted, and led on from."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout

from bruiser.core.errors import StoreError
from bruiser.core.records.records import Gave
from bruiser.core.words import count
from bruiser.formats.table_files import SUFFIXES, table_bytes
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import StationPage, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.course.pull_list import (
    COLUMNS,
    ListFilter,
    ListRow,
    list_table,
    rows_of,
    sorted_rows,
    technicians,
)
from bruiser.workshop.logbook.entries import Logbook, State

WIDTHS = (1.0, 1.1, 2.5, 1.0, 1.4, 1.0, 1.6, 1.2, 2.0)


class LogbookDesk(Desk):
    """What is listed, and in which order."""

    def take_up(self, logbook: Logbook) -> None:
        """The logbook was read again."""
        self.logbook = logbook
        self.changed.emit()

    def rows(self, wanted: ListFilter, column: int, falling: bool) -> list[ListRow]:
        """The specimens listed."""
        if self.logbook is None:
            return []
        return sorted_rows(rows_of(self.logbook, wanted, self.units), column, falling=falling)

    def export(self, rows: list[ListRow], path: Path) -> bool:
        """Write rows as a table, CSV or XLSX by the ending; whether that could be done."""
        suffix = path.suffix.lower()
        headings, cells = list_table(rows, self.units)
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
        self._rows: list[ListRow] = []
        self._column, self._falling = 0, False
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
        self._refresh()

    def _build(self) -> None:
        filters = QHBoxLayout()
        filters.setSpacing(SPACE["s"])
        filters.addWidget(self.words, 2)
        for one in (self.lot, self.state, self.outcome, self.who):
            filters.addWidget(one, 1)
            one.box.currentIndexChanged.connect(self._show)
        self.words.entry.textChanged.connect(self._show)
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
        self._show()

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

    def _show(self) -> None:
        self._rows = self._desk.rows(self.wanted, self._column, self._falling)
        self.table.show_rows([(r.specimen_id, r.cells) for r in self._rows])
        whole = 0 if self._desk.logbook is None else len(self._desk.logbook.entries)
        self.title.say("Every specimen, from planned to inspected")
        shown = count(len(self._rows), "specimen")
        self.subtitle.say(shown if len(self._rows) == whole else f"{shown} of {whole}")
        nothing = "Nothing is like that. Take a filter away." if whole else "No specimens yet."
        self.none.say("" if self._rows else nothing)
        self.none.setVisible(not self._rows)
        self.export.setEnabled(bool(self._rows))
        self._on_chosen()

    def _sort(self, column: int) -> None:
        self._falling = column == self._column and not self._falling
        self._column = column
        self._show()

    @property
    def chosen(self) -> ListRow | None:
        """The row that is selected, if it is one."""
        keys = self.table.keys
        return next((r for r in self._rows if keys == (r.specimen_id,)), None)

    def list_with(self, words: str) -> None:
        """List what has these words, and select the first."""
        for one in (self.lot, self.state, self.outcome, self.who):
            one.fill("")
        self.words.fill(words)
        self._show()
        if self._rows:
            self.table.selectRow(0)

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
            self._desk.export(self._rows, Path(name))
