"""Up to four knots beside one another: ratings, loads, tails, cues, and what they are not for."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bruiser.core.words import tail_words
from bruiser.figures.gauges import gauge_list
from bruiser.formats.guide_figures import gauge_bar
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.guide.knot_pages import gauge_facts, knot_facts
from bruiser.workshop.guide.rating_knots import RatedKnot
from bruiser.workshop.results.lot_facts import knot_loads

_ROW_MM = 16.0


class BesidePanel(QWidget):
    """Columns of knots, side by side."""

    knot_wanted = pyqtSignal(str)

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(SPACE["s"])

    def show_knots(self) -> None:
        """Show the knots put beside one another, or the first of the list."""
        while self._row.count():
            item = self._row.takeAt(0)
            gone = None if item is None else item.widget()
            if gone is not None:
                gone.setParent(None)
                gone.deleteLater()
        knots = self._presenter.rated_beside()
        for n, one in enumerate(knots):
            self._row.addWidget(self._column(one, n), 1)
        if not knots:
            self._row.addWidget(Words("No knot on the short list to put side by side.", "body"))

    def _column(self, one: RatedKnot, number: int) -> QWidget:
        p = self._presenter
        card = Card()
        scroll = Scrolled(f"guide.beside.{number}", spacing="xs")
        top = QHBoxLayout()
        top.addWidget(Words(one.name, "strong", elide=True), 1)
        pulls = button("Pulls", f"guide.beside.pulls.{number}", "chip")
        pulls.setAccessibleName(f"The pulls behind {one.name}")
        pulls.clicked.connect(lambda: self.knot_wanted.emit(one.key))
        top.addWidget(pulls)
        card.column.addLayout(top)
        gauges = FigureView(f"guide.beside.gauges.{number}")
        bars = [gauge_bar(gauge_facts(g)) for g in one.gauges.values()]
        width = (self.width() or 1000) / max(1, len(p.rated_beside())) / theme().px(1) - 14
        figure = gauge_list(bars, dict(p.book.limits.bands), max(34.0, width), row_mm=_ROW_MM)
        gauges.show_figure(figure)
        gauges.setFixedHeight(round(theme().px(figure.height)))
        scroll.column.addWidget(gauges)
        for heading, lines in self._said(one):
            if lines:
                scroll.column.addWidget(Words(heading, "label", "muted"))
                tone = "brick" if heading == "NEVER" else "ink"
                scroll.column.addWidget(Words("\n".join(lines), "small", tone))
        scroll.column.addStretch(1)
        card.column.addWidget(scroll, 1)
        return card

    def _said(self, one: RatedKnot) -> list[tuple[str, list[str]]]:
        p = self._presenter
        shelf, logbook = p.shelf, p.logbook
        if shelf is None or logbook is None:
            return []
        facts = knot_facts(shelf, one.knot, (), p.units)
        loads = knot_loads(logbook, one.lot, one.row, p.units)
        schools = () if loads.loads is None else loads.loads.schools
        default = None if loads.loads is None else loads.loads.default
        work = [
            f"{s.school}: {'none' if s.load_n is None else p.units.force_text(s.load_n)}"
            + (" (default)" if s is default else "")
            for s in schools
        ]
        tail = tail_words(facts.tail_usual_d, facts.tail_floor_d)
        return [
            ("WORKING LOAD", work or ["no design factor entered"]),
            ("TAIL AND CORD", [tail, f"cord {facts.cord_d:g} d"]),
            ("FRONT", [facts.front] if facts.front else []),
            ("BACK", [facts.back] if facts.back else []),
            ("TAKEN FOR", [f"{x.name}: {x.tell}" for x in facts.look_alikes]),
            ("WEAKNESSES", list(facts.weaknesses)),
            ("NEVER", list(facts.never)),
        ]
