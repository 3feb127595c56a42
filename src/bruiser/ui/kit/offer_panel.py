"""What stands in a station's place while it has nothing to show: drawing, sentence, button."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

_SIZE = QSize(300, 110)


class RopeDrawing(QWidget):
    """A length of rope between two pins; what is missing at this station is left out of it."""

    def __init__(self, station: str) -> None:
        super().__init__()
        self._station = station
        self.setFixedSize(_SIZE)
        theme().changed.connect(self.update)

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, middle = theme(), self.height() * 0.52
        left, right = 34.0, self.width() - 34.0
        gap = 0.5 * (left + right)
        dim = look.colour("line")
        rope, edge = look.colour("hemp"), look.colour("hemp-edge")
        drawn = {
            "cordage": (),
            "knots": ((left, right),),
            "plan": ((left, gap - 34), (gap + 34, right)),
            "pull": ((left, right),),
            "findings": ((left, gap - 16), (gap + 16, right)),
        }.get(self._station, ((left, right),))
        for x0, x1 in ((left, right),):
            pen = QPen(dim, 2.0, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawLine(QPointF(x0, middle), QPointF(x1, middle))
        for x0, x1 in drawn:
            for colour, width in ((edge, 11.0), (rope, 8.5)):
                pen = QPen(colour, width)
                pen.setCapStyle(Qt.PenCapStyle.RoundCap)
                painter.setPen(pen)
                painter.drawLine(QPointF(x0, middle), QPointF(x1, middle))
            painter.setPen(QPen(edge, 1.2))
            x = x0
            while x < x1 - 4:
                painter.drawLine(QPointF(x, middle + 3.5), QPointF(x + 4.0, middle - 3.5))
                x += 8.0
        painter.setPen(QPen(look.colour("steel"), 2.0))
        painter.setBrush(look.colour("surface"))
        for x in (left - 10, right + 10):
            painter.drawEllipse(QRectF(x - 12, middle - 12, 24, 24))
        painter.end()


class OfferPanel(QWidget):
    """Emits `taken` when its button is pressed."""

    taken = pyqtSignal()

    def __init__(self, station: str) -> None:
        super().__init__()
        self.setObjectName(f"{station}.offer")
        self.drawing = RopeDrawing(station)
        self.words = Words("", "body", "muted")
        self.words.setObjectName(f"{station}.offer.words")
        self.words.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.words.setFixedWidth(460)
        self.button = button("", f"{station}.offer.go", "primary", bench=True)
        self.button.clicked.connect(self.taken)
        self.button.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["l"])
        column.addStretch(2)
        for part in (self.drawing, self.words, self.button):
            column.addWidget(part, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(3)

    def offer(self, what: str, does: str) -> None:
        """Say what goes here, and what the button does."""
        self.words.say(what)
        self.words.setMinimumHeight(self.words.heightForWidth(self.words.width()))
        self.button.setText(does)
        self.button.setAccessibleName(does)
