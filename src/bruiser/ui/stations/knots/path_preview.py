"""The path of a knot of one's own, typed, and its drawing as it grows."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bruiser.catalogue.drawings import looked_over
from bruiser.core.errors import InputError
from bruiser.core.topology.crossings import Diagram
from bruiser.core.words import count
from bruiser.figures.knot_drawing import knot_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import LongField
from bruiser.ui.kit.parts import Words
from bruiser.ui.theme.tokens import SPACE

_WAIT_MS, _HEIGHT, _NARROW, _LINES = 250, 150, 120, 8
_LABEL = "Drawing, as a path"
_EMPTY = (
    "No drawing. Type points x,y in cord diameters, and between two points o or u for each "
    "crossing met there; it is drawn here."
)
_MOST_DOUBTS = 3


class PathPreview(QWidget):
    """Shows what `field` draws, or what is wrong with it, shortly after it was typed."""

    def __init__(self) -> None:
        super().__init__()
        self.field = LongField(_LABEL, "knots.own.drawing", lines=_LINES)
        self.view = FigureView("knots.own.preview")
        self.view.setMinimumSize(_NARROW, _HEIGHT)
        self.words = Words(_EMPTY, "small", "muted")
        self.words.setObjectName("knots.own.preview.words")
        self.words.setMinimumWidth(_NARROW)
        self.field.setMinimumWidth(_NARROW)
        self._layout: Diagram | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        column.addWidget(self.words)
        column.addWidget(self.view, 1)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_WAIT_MS)
        self._wait.timeout.connect(self._read)
        self.field.entry.textChanged.connect(self._wait.start)
        self.view.resized.connect(self._draw)
        self.view.hide()

    def _read(self) -> None:
        text = self.field.text.strip()
        try:
            self._layout, doubts = looked_over("Your own", text) if text else (None, ())
        except InputError as error:
            # The last drawing that could be read stays, so that what was typed is seen beside it.
            self.words.say(str(error), "brick")
            return
        self.view.setVisible(self._layout is not None)
        if self._layout is None:
            self.words.say(_EMPTY, "muted")
            return
        said = f"{count(len(self._layout.crossings), 'crossing')}, every one over and under."
        more = len(doubts) - _MOST_DOUBTS
        rest = f" And {more} more." if more > 0 else ""
        odd = "; ".join(doubts[:_MOST_DOUBTS])
        self.words.say(
            f"{said} Look again: {odd}.{rest}" if odd else said, "ochre" if odd else "moss"
        )
        self._draw()

    def _draw(self) -> None:
        if self._layout is not None:
            width, height = self.view.page_mm()
            self.view.show_figure(knot_figure(self._layout, width, height, "Your own"))
