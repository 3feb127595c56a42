"""The results station: a sheet of charts, what it says in words, and the pulls behind it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.kit.chart_frame import ChartFrame
from bruiser.ui.kit.fields import Chips
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.working_line import WorkingLine
from bruiser.ui.stations.results.controls import SheetControls
from bruiser.ui.stations.results.presenter import ResultsPresenter
from bruiser.ui.stations.results.pulls_panel import PullsPanel
from bruiser.ui.stations.results.sheet import Part, ResultLine, Sheet
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.ui.theme.tokens import SPACE

NARROW_PX = 960
MOST_LINES = 8
"""So many lines under a chart are seen at once."""


class SaidLine(Words):
    """A line of words; one with pulls behind it can be tapped for them."""

    tapped = pyqtSignal(str)

    def __init__(self, number: int) -> None:
        super().__init__("", "small", "ink", elide=True)
        self.setObjectName(f"results.line.{number}")
        self._behind = ""

    def show_line(self, line: ResultLine) -> None:
        """Show a line."""
        self._behind = line.behind
        self.say(line.text, line.tone)
        hand = Qt.CursorShape.PointingHandCursor if line.behind else Qt.CursorShape.ArrowCursor
        self.setCursor(hand)
        focus = Qt.FocusPolicy.TabFocus if line.behind else Qt.FocusPolicy.NoFocus
        self.setFocusPolicy(focus)
        self.setAccessibleName(line.text)

    @override
    def mouseReleaseEvent(self, ev: QMouseEvent | None) -> None:
        del ev
        if self._behind:
            self.tapped.emit(self._behind)

    @override
    def keyPressEvent(self, ev):  # type: ignore[no-untyped-def]
        if self._behind and ev.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.tapped.emit(self._behind)
            return
        super().keyPressEvent(ev)


class SaidLines(QScrollArea):
    """Lines under a chart: as high as they are, but no more than leaves room for the chart."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("results.lines")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidgetResizable(True)
        inside = QWidget()
        self.rows = QVBoxLayout(inside)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(2)
        self.setWidget(inside)
        for part in (inside, self.viewport()):
            if part is not None:
                part.setAutoFillBackground(False)

    def fit(self, lines: Sequence[QWidget]) -> None:
        """Take the height of these lines; the rest is scrolled to."""
        heights = [line.sizeHint().height() + self.rows.spacing() for line in lines]
        self.setFixedHeight(sum(heights[:MOST_LINES]))
        self.setVisible(bool(lines))


class ResultsView(StationPage):
    """Builds the results station and connects it to its presenter."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: ResultsPresenter) -> None:
        super().__init__("results")
        self._presenter = presenter
        self.sheets = Chips("results.sheet", {k.key: k.name for k in SHEETS.values()}, tight=True)
        self.controls = SheetControls(presenter)
        self.chart = ChartFrame("results.chart", presenter.tasks)
        self.side = ChartFrame("results.side")
        self.turn = button("This knot", "results.turn", "chip")
        self.turn.setCheckable(True)
        self.turn.setAccessibleName("Show the charts of the knot chosen")
        self.turn.hide()
        self.first = self.chart.view
        self.empty = Words("", "body", "muted")
        self.empty.setObjectName("results.empty")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.sentence = Words("", "body")
        self.sentence.setObjectName("results.sentence")
        self.lines: list[SaidLine] = []
        self._said = SaidLines()
        self.panel = PullsPanel(presenter)
        self.line = WorkingLine("results")
        self.again = button("Work it out", "results.again", "chip")
        self._part_keys: tuple[str, ...] = ()
        self._part = ""
        self._chips: Chips | None = None
        self._lay_out()
        self._connect()
        self.again.hide()

    def _lay_out(self) -> None:
        card = Card()
        self._across = QHBoxLayout()
        self._across.setSpacing(SPACE["m"])
        self._across.addWidget(self.chart, 13)
        beside = QWidget()
        column = QVBoxLayout(beside)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.side)
        self._beside = beside
        self._across.addWidget(beside, 8)
        card.column.addLayout(self._across, 1)
        card.column.addWidget(self.empty, 1)
        below = QHBoxLayout()
        below.setSpacing(SPACE["s"])
        below.addWidget(self.sentence, 1)
        below.addWidget(self.chart.tools, 0, Qt.AlignmentFlag.AlignTop)
        card.column.addLayout(below)
        card.column.addWidget(self._said)
        self.line.row.addWidget(self.again)
        heads = QHBoxLayout()
        heads.addWidget(self.sheets, 1)
        heads.addWidget(self.turn)
        self.body.addLayout(heads)
        self.body.addWidget(self.controls)
        self.body.addWidget(card, 1)
        self.body.addWidget(self.panel)
        self.body.addWidget(self.line)

    def _connect(self) -> None:
        p = self._presenter
        p.results_ready.connect(self._on_results_ready)
        p.selection_changed.connect(self._on_selection_changed)
        p.working.connect(self.line.work)
        self.sheets.chosen.connect(p.show_sheet)
        self.turn.toggled.connect(lambda _: self._fit())
        self.panel.trace_wanted.connect(self.trace_wanted)
        self.line.stopped.connect(p.cancel)
        self.again.clicked.connect(p.again)
        for frame in (self.chart, self.side):
            frame.tapped.connect(p.tap)
            frame.told.connect(self.line.tell)

    def _on_results_ready(self) -> None:
        p = self._presenter
        sheet = p.sheet()
        if self.sheets.key != p.asked.sheet:
            self.sheets.blockSignals(True)
            self.sheets.pick(p.asked.sheet)
            self.sheets.blockSignals(False)
        self.title.say(p.title())
        self.subtitle.say(sheet.about)
        self.controls.take_up()
        self.again.setVisible(p.stopped)
        self.line.tell("Stopped: what is shown is older." if p.stopped else "")
        self._show(sheet)
        self._on_selection_changed()

    def _on_selection_changed(self) -> None:
        for frame in (self.chart, self.side):
            frame.view.pick(self._presenter.selected)

    def _show(self, sheet: Sheet) -> None:
        drawn = sheet.main is not None
        self.chart.tools.setEnabled(drawn)
        self.empty.setVisible(not drawn)
        self.empty.say(sheet.empty)
        self.chart.show_chart(sheet.main, large=self._presenter.large)
        self._show_parts(sheet.parts)
        self.sentence.say(sheet.sentence)
        self.sentence.setVisible(bool(sheet.sentence))
        while len(self.lines) < len(sheet.lines):
            line = SaidLine(len(self.lines))
            line.tapped.connect(self._presenter.tap)
            self.lines.append(line)
            self._said.rows.addWidget(line)
        for n, shown in enumerate(self.lines):
            shown.setVisible(n < len(sheet.lines))
            if n < len(sheet.lines):
                shown.show_line(sheet.lines[n])
        self._said.fit(self.lines[: len(sheet.lines)])

    def _show_parts(self, parts: tuple[Part, ...]) -> None:
        keys = tuple(p.key for p in parts)
        if keys != self._part_keys:
            self._part_keys = keys
            if self._chips is not None:
                self.side.top.removeWidget(self._chips)
                self._chips.setParent(None)
                self._chips.deleteLater()
                self._chips = None
            if len(parts) > 1:
                self._chips = Chips("results.part", {p.key: p.title for p in parts})
                if self._part in keys:
                    self._chips.pick(self._part)
                self._chips.chosen.connect(self._on_part)
                self.side.top.insertWidget(0, self._chips)
            if self._part not in keys:
                self._part = keys[0] if keys else ""
        self._fit()
        chosen = next((p for p in parts if p.key == self._part), None)
        self.side.show_chart(None if chosen is None else chosen.draw)

    def _fit(self) -> None:
        """Where there is no room for two charts side by side, show one of them."""
        parts, drawn = bool(self._part_keys), self._presenter.sheet().main is not None
        narrow = self.width() < NARROW_PX
        self.turn.setVisible(parts and narrow)
        alone = parts and narrow and self.turn.isChecked()
        self._beside.setVisible(parts and (alone or not narrow))
        self.chart.setVisible(drawn and not alone)

    @override
    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._fit()

    def _on_part(self, key: str) -> None:
        self._part = key
        self._show_parts(self._presenter.sheet().parts)
