"""The load-direction matrix: which pair of legs was pulled, held or not, and at which load."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from bruiser.figures.direction_chart import direction_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField
from bruiser.ui.kit.parts import Card, Words
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.pull.directions_presenter import DirectionsPresenter
from bruiser.ui.theme.tokens import PX_PER_MM

_HOW = (
    "Each row is a way of pulling: the thick legs are the ones that were loaded. A disc broke, a "
    "square came out or let go, an open triangle still held when the bench was stopped. An empty "
    "place was not tested: it says nothing about that direction."
)


class DirectionsPanel(QWidget):
    """Shows one knot's directions; a mark opens its trace."""

    def __init__(self, presenter: DirectionsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.knot = ChoiceField("Knot", "pull.directions.knot")
        self.matrix = FigureView("pull.directions.matrix", tappable=True)
        self.room = Scrolled("pull.directions.scroll")
        self.room.column.addWidget(self.matrix)
        self.room.column.addStretch(1)
        self.said = Words("", "body")
        self.said.setObjectName("pull.directions.words")
        card = Card("WHICH LEGS IT HOLDS")
        row = QHBoxLayout()
        row.addWidget(self.knot, 2)
        row.addWidget(self.said, 5, Qt.AlignmentFlag.AlignBottom)
        card.column.addLayout(row)
        card.column.addWidget(self.room, 1)
        card.column.addWidget(Words(_HOW, "small", "muted"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card)
        presenter.changed.connect(self._on_changed)
        self.knot.chosen.connect(presenter.pick)
        self.matrix.resized.connect(self._draw)
        self.matrix.spot_tapped.connect(presenter.trace_wanted)

    def _on_changed(self) -> None:
        p = self._presenter
        self.knot.offer(p.knots())
        self.knot.fill(p.knot_id)
        self.said.say(p.words())
        self._draw()

    def _draw(self) -> None:
        lots, rows = self._presenter.rows()
        width, _ = self.matrix.page_mm()
        if rows and width > 80:
            figure = direction_figure(lots, rows, width, self._presenter.most())
            self.matrix.setFixedHeight(round(figure.height * PX_PER_MM) + 4)
            self.matrix.show_figure(figure)
        self.matrix.setVisible(bool(rows))
