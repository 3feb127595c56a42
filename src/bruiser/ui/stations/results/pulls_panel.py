"""The pulls behind a number: their list, the specimen, what was found, the trace, leaving out."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from bruiser.figures.silhouette import knots_of
from bruiser.figures.strip import StripState
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.kit.trace_view import TraceView
from bruiser.ui.stations.results.presenter import ResultsPresenter
from bruiser.ui.theme.tokens import SPACE

HEIGHT, NOTHING_OPEN = 190, 56
_HINT = "Tap a mark for its pull, or a number for all the pulls behind it."


class PullsPanel(Card):
    """Shows what stands behind the number that was tapped."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: ResultsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.heading = Words("THE PULLS BEHIND IT", "label", "muted", elide=True)
        self.heading.setObjectName("results.behind.heading")
        self.table = RowsTable(
            "results.pulls",
            "The pulls behind the number",
            ("Pull", "Found", "Load"),
            (1.1, 2.2, 1.5),
        )
        self.strip = StripView("results.strip")
        self.strip.setFixedHeight(40)
        self.words = Words(_HINT, "small", "muted")
        self.words.setObjectName("results.behind")
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.trace = TraceView("results.trace")
        self.look = button("Look into the trace", "results.trace.open", "chip")
        self.leave_out = button("Leave out …", "results.exclude", "chip")
        self.take_in = button("Take in again", "results.restore", "chip")
        self.reason = QLineEdit()
        self.reason.setObjectName("results.exclude.reason")
        self.reason.setAccessibleName("Why this pull is left out")
        self.reason.setPlaceholderText("why it is left out, then Enter")
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName("results.exclude.reason.wrong")
        self._lay_out()
        self._connect()
        self.setFixedHeight(NOTHING_OPEN)

    def _lay_out(self) -> None:
        said = Scrolled("results.behind.scroll", spacing="xs")
        said.column.addWidget(self.words)
        said.column.addStretch(1)
        chips = QHBoxLayout()
        chips.setSpacing(SPACE["xs"])
        for widget in (self.look, self.leave_out, self.take_in, self.reason):
            chips.addWidget(widget)
        chips.addStretch(1)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        for part in (self.strip, said, self.wrong):
            column.addWidget(part)
        column.addLayout(chips)
        across = QHBoxLayout()
        across.setSpacing(SPACE["l"])
        across.addWidget(self.table, 6)
        across.addWidget(middle, 6)
        across.addWidget(self.trace, 7)
        self.column.addWidget(self.heading)
        self.column.addLayout(across, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.pulls_changed.connect(self.show_pulls)
        p.selection_changed.connect(self.show_selected)
        p.results_ready.connect(self._on_results_ready)
        self.table.chosen.connect(self._on_row_chosen)
        self.look.clicked.connect(self._on_look)
        self.leave_out.clicked.connect(self._on_leave_out)
        self.take_in.clicked.connect(p.restore)
        self.reason.returnPressed.connect(self._on_reason)

    def _on_results_ready(self) -> None:
        self.show_pulls()
        self.show_selected()

    def show_pulls(self) -> None:
        """List the pulls behind the number."""
        p = self._presenter
        rows = p.pulls()
        many = len(rows) > 1 or bool(p.opened.heading)
        self.table.setVisible(many and bool(rows))
        self.table.blockSignals(True)
        self.table.show_rows(rows)
        self.table.blockSignals(False)
        self._mark_row()
        heading = p.opened.heading.replace("\n", "  ·  ")
        self.heading.say(f"BEHIND IT  ·  {heading}" if heading else "THE PULL BEHIND THE MARK")

    def _mark_row(self) -> None:
        """Let the list stand at the pull looked at."""
        p = self._presenter
        at = next((n for n, (key, _) in enumerate(p.pulls()) if key == p.selected), -1)
        if at >= 0 and self.table.keys != (p.selected,):
            self.table.blockSignals(True)
            self.table.selectRow(at)
            self.table.blockSignals(False)

    def show_selected(self) -> None:
        """Show the pull looked at."""
        p = self._presenter
        self._mark_row()
        entry = p.selected_entry()
        there = entry is not None and entry.pull is not None and entry.finding is not None
        for part in (self.strip, self.trace, self.look):
            part.setVisible(there)
        self.setFixedHeight(HEIGHT if there or p.opened.pulls else NOTHING_OPEN)
        out = entry is not None and entry.excluded is not None
        self.leave_out.setVisible(there and not out and not p.read_only)
        self.take_in.setVisible(there and out and not p.read_only)
        self.reason.hide()
        self.wrong.hide()
        if entry is None or entry.finding is None:
            self.words.say(_HINT)
            return
        finding = entry.finding
        state = StripState(
            place=finding.place,
            gave=finding.gave,
            compact=True,
            knots=knots_of(entry.specimen),
        )
        self.strip.show_strip(entry.specimen.layout, state)
        self.words.say(p.entry_words())
        self.trace.show_trace(p.trace(), entry.analysis, p.units)

    def _on_row_chosen(self) -> None:
        keys = self.table.keys
        if len(keys) == 1 and keys[0] != self._presenter.selected:
            self._presenter.select(keys[0])

    def _on_look(self) -> None:
        entry = self._presenter.selected_entry()
        if entry is not None and entry.pull is not None:
            self.trace_wanted.emit(entry.pull.id)

    def _on_leave_out(self) -> None:
        self.leave_out.hide()
        self.reason.clear()
        self.reason.show()
        self.reason.setFocus()

    def _on_reason(self) -> None:
        wrong = self._presenter.exclude(self.reason.text())
        self.wrong.say(wrong)
        self.wrong.setVisible(bool(wrong))
