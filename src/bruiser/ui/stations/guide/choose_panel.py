"""The short list as a board, and what stands behind the knot or gauge that was pointed at."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from bruiser.figures.display import Figure
from bruiser.figures.gauges import LEAST_ROW_MM, ROW_MM, board_figure
from bruiser.formats.guide_figures import short_list_board
from bruiser.ui.kit.chart_frame import ChartFrame
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.guide.presenter import MOST_BESIDE, GuidePresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.results.lot_facts import knot_loads

BEHIND_PX = 196
_BESIDE_ROWS_MM, _BRIEF_MM = 20.0, 250.0
_HINT = (
    "Tap a knot for why it stands there, a gauge for what it rests on. The pulls behind it stand "
    "at the right; tap one for its trace."
)


MOST_EXPECTED = 8
_EXPECTED = (
    "What they let expect of a cordage nobody pulled; no band, no place and no working load "
    "follows from it:"
)


class ChoosePanel(QWidget):
    """Board above, words and pulls below."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.chart = ChartFrame("guide.board")
        self.empty = Words("", "body", "muted")
        self.empty.setObjectName("guide.empty")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.caution = Words("", "small", "ochre", elide=True)
        self.caution.setObjectName("guide.caution")
        self.heading = Words("", "strong", elide=True)
        self.heading.setObjectName("guide.behind.heading")
        self.words = Words(_HINT, "small")
        self.words.setObjectName("guide.behind.words")
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.loads = Words("", "small", "muted")
        self.loads.setObjectName("guide.behind.loads")
        self.beside = button("Put beside", "guide.beside.put", "chip")
        self.table = RowsTable(
            "guide.pulls", "The pulls behind it", ("Pull", "Found", "Load"), (1.0, 2.6, 1.2)
        )
        self._lay_out()
        self.chart.tapped.connect(presenter.tap)
        self.beside.clicked.connect(lambda: presenter.put_beside(presenter.chosen))
        self.table.clicked.connect(lambda _: self._look())
        self.table.activated.connect(lambda _: self._look())
        presenter.opened_changed.connect(self.show_opened)

    def _lay_out(self) -> None:
        board = Card()
        board.column.addWidget(self.chart, 1)
        board.column.addWidget(self.empty, 1)
        board.column.addWidget(self.caution)
        self.behind = Card()
        said = Scrolled("guide.behind", spacing="xs")
        for part in (self.words, self.loads):
            said.column.addWidget(part)
        said.column.addStretch(1)
        top = QHBoxLayout()
        top.addWidget(self.heading, 1)
        top.addWidget(self.beside)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        column.addLayout(top)
        column.addWidget(said, 1)
        across = QHBoxLayout()
        across.setSpacing(SPACE["l"])
        across.addWidget(left, 11)
        across.addWidget(self.table, 8)
        self.behind.column.addLayout(across, 1)
        self.behind.setFixedHeight(BEHIND_PX)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(SPACE["s"])
        whole.addWidget(board, 1)
        whole.addWidget(self.behind)

    def show_list(self) -> None:
        """Show the short list as it stands."""
        p = self._presenter
        facts, profile, choice = p.facts(), p.profile, p.choice
        nothing = facts is None or profile is None or choice is None or not choice.tested
        self.chart.setVisible(not nothing)
        self.empty.setVisible(nothing)
        self.behind.setVisible(not nothing)
        self.caution.say("" if profile is None else profile.caution)
        self.caution.setVisible(bool(self.caution.words))
        if facts is None or profile is None or choice is None or not choice.tested:
            self.empty.say(self._why_empty())
            self.chart.show_chart(None)
            return
        title = f"{profile.name} in {choice.lot.name}, {choice.lot.condition}"
        weights, bands = profile.weights, p.book.limits.bands

        def draw(width: float, height: float) -> Figure:
            brief = width < _BRIEF_MM
            board = short_list_board(facts, weights, bands, title, brief=brief, chosen=p.chosen)
            room = height - _BESIDE_ROWS_MM - 7.4 * len(board.turned)
            row = room / max(1, len(board.rows))
            return board_figure(board, width, min(ROW_MM, max(LEAST_ROW_MM, row)))

        self.chart.show_chart(draw)
        self.show_opened()

    def _why_empty(self) -> str:
        p = self._presenter
        near = p.near()
        if p.logbook is not None and not p.logbook.lots:
            return "No cordage yet. The short list stands here once knots were pulled."
        if p.found is None:
            return "Working it out …"
        if p.wish.lot_id == "other" and p.other is None:
            return "Describe the cordage above; the nearest tested ones are named here."
        lines = ["Not tested, so no numbers are given for it."]
        if near:
            lines.append("The nearest tested cordages, and in what they differ:")
            lines += [
                f"{n.cordage.name}, {n.cordage.condition}: "
                f"{', '.join(n.differs) if n.differs else 'alike in all that is known'}"
                for n in near
            ]
        else:
            lines.append("Nothing was tested in any cordage yet. Plan some pulls first.")
        expected = p.predicted()
        if expected:
            lines += ["", _EXPECTED]
            lines += expected[:MOST_EXPECTED]
            if len(expected) > MOST_EXPECTED:
                more = len(expected) - MOST_EXPECTED
                lines.append(f"{more} more on the sheet Across cordages of Results.")
        return "\n".join(lines)

    def show_opened(self) -> None:
        """Show what was pointed at, and its pulls."""
        p = self._presenter
        opened = p.opened
        self.heading.say(opened.heading or "Nothing pointed at yet")
        self.words.say(opened.words or _HINT, "ink" if opened.words else "muted")
        self.loads.say(self._load_words())
        self.loads.setVisible(bool(self.loads.words))
        self.beside.setVisible(bool(p.chosen))
        taken = p.chosen in p.beside
        self.beside.setText("Take away" if taken else f"Put beside ({len(p.beside)})")
        self.beside.setEnabled(taken or len(p.beside) < MOST_BESIDE)
        self.table.blockSignals(True)
        self.table.show_rows(p.pulls())
        self.table.clearSelection()
        self.table.blockSignals(False)

    def _load_words(self) -> str:
        """Working loads of the knot chosen by all four schools."""
        p = self._presenter
        one = p.listed(p.chosen)
        if one is None or p.logbook is None or p.opened.heading != one.rated.name:
            return ""
        found = knot_loads(p.logbook, one.rated.lot, one.rated.row, p.units)
        if found.loads is None:
            return "Working load: none, no design factor is entered in Cordage."
        lines = []
        for school in found.loads.schools:
            load = "none" if school.load_n is None else p.units.force_text(school.load_n)
            mark = ", taken by default" if school is found.loads.default else ""
            lines.append(f"{school.school}: {load}{mark} ({'; '.join(school.steps)})")
        text = "Working load. " + "  ·  ".join(lines)
        return f"{text}  ·  {found.warning}" if found.warning else text

    def _look(self) -> None:
        keys = self.table.keys
        if len(keys) == 1:
            self.trace_wanted.emit(keys[0])
