"""The rail: a rope down the window with a turn for every station of the work."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import RAIL_WIDTH

_ROPE_X = 33.0


@dataclass(frozen=True)
class RailStop:
    """One station on the rail."""

    key: str
    name: str
    shortcut: str


class _Turn(QAbstractButton):
    """One turn tied round the rope."""

    def __init__(self, stop: RailStop) -> None:
        super().__init__()
        self.setObjectName(f"rail.{stop.key}")
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setText(stop.name)
        self.setToolTip(f"{stop.name} ({stop.shortcut})")
        self.setAccessibleName(stop.name)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.waiting = ""
        self.reached = False

    def wait_for(self, words: str, reached: bool) -> None:
        self.waiting, self.reached = words, reached
        self.setAccessibleDescription(words)
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(RAIL_WIDTH, 60)

    @override
    def paintEvent(self, e: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        middle = self.height() / 2
        if self.isChecked() or self.underMouse() or self.hasFocus():
            painter.setPen(Qt.PenStyle.NoPen)
            if self.hasFocus() and not self.isChecked():
                painter.setPen(QPen(look.colour("hemp"), 1.5))
            painter.setBrush(look.colour("rail-lit"))
            painter.drawRoundedRect(QRectF(52, 6, self.width() - 60, self.height() - 12), 6, 6)
        token = "hemp" if self.reached else "rope-dim"
        for k in (-1, 0, 1):
            left = QPointF(_ROPE_X - 9, middle + k * 7.5 + 3.5)
            right = QPointF(_ROPE_X + 9, middle + k * 7.5 - 3.5)
            for colour, width in (("rail", 8.5), (token, 5.5)):
                pen = QPen(look.colour(colour), width)
                pen.setCapStyle(Qt.PenCapStyle.RoundCap)
                painter.setPen(pen)
                painter.drawLine(left, right)
        strong, small = look.font("strong"), look.font("small")
        rise = QFontMetricsF(strong).height()
        fall = QFontMetricsF(small).height()
        top = middle - (rise + fall) / 2
        room = self.width() - 62 - 14
        painter.setFont(strong)
        painter.setPen(
            look.colour("rail-strong" if self.reached or self.isChecked() else "rail-ink")
        )
        painter.drawText(QPointF(62, top + QFontMetricsF(strong).ascent()), self.text())
        painter.setFont(small)
        painter.setPen(look.colour("rail-ink"))
        words = QFontMetricsF(small).elidedText(self.waiting, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(62, top + rise + QFontMetricsF(small).ascent()), words)
        painter.end()


class RailHead(QAbstractButton):
    """The program's name, and the campaign's: a button that opens the menu."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rail.menu")
        self.setAccessibleName("Menu of the campaign")
        self.setFixedHeight(74)

    @override
    def paintEvent(self, e: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        if self.underMouse() or self.hasFocus() or self.isDown():
            painter.setPen(QPen(look.colour("hemp"), 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("rail-lit"))
            painter.drawRoundedRect(QRectF(8, 6, self.width() - 16, 58), 6, 6)
        painter.setFont(look.font("brand"))
        painter.setPen(look.colour("rail-strong"))
        painter.drawText(QPointF(18, 36), "Bruiser")
        small = look.font("small")
        painter.setFont(small)
        painter.setPen(look.colour("rail-ink"))
        room = RAIL_WIDTH - 50
        text = QFontMetricsF(small).elidedText(self.text(), Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(18, 56), text)
        wide = QFontMetricsF(small).horizontalAdvance(text)
        x, y = 24 + wide, 51.0
        painter.setPen(QPen(look.colour("rail-ink"), 1.6))
        for end in (x, x + 8):
            painter.drawLine(QPointF(x + 4, y + 4), QPointF(end, y))
        painter.end()


class RailStep(QAbstractButton):
    """The rope's end: a knot tied in it, and the step the whole campaign waits for."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rail.step")
        self.setFixedHeight(54)

    @override
    def setText(self, text: str) -> None:  # type: ignore[override]
        super().setText(text)
        self.setAccessibleName(f"Next: {text}")

    @override
    def paintEvent(self, e: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, middle = theme(), self.height() / 2
        if self.underMouse() or self.hasFocus():
            painter.setPen(QPen(look.colour("hemp"), 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("rail-lit"))
            painter.drawRoundedRect(QRectF(52, 4, self.width() - 60, self.height() - 10), 6, 6)
        for colour, width in (("rail", 9.0), ("hemp", 5.5)):
            pen = QPen(look.colour(colour), width)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QRectF(_ROPE_X - 9, middle - 9, 18, 18))
        small = look.font("small")
        painter.setFont(small)
        painter.setPen(look.colour("rail-ink"))
        high = QFontMetricsF(small).height()
        painter.drawText(QPointF(62, middle - 2), "next")
        painter.setFont(look.font("strong-small"))
        painter.setPen(look.colour("rail-strong"))
        room = self.width() - 62 - 12
        metrics = QFontMetricsF(look.font("strong-small"))
        text = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(62, middle - 2 + high), text)
        painter.end()


class Rail(QWidget):
    """The way through the work; emits the key of the station wanted."""

    station_wanted = pyqtSignal(str)
    menu_wanted = pyqtSignal()
    step_wanted = pyqtSignal()

    def __init__(self, stops: tuple[RailStop, ...]) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setFixedWidth(RAIL_WIDTH)
        self.head = RailHead()
        self.head.clicked.connect(self.menu_wanted)
        self.step = RailStep()
        self.step.clicked.connect(self.step_wanted)
        self._turns: dict[str, _Turn] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.head)
        column.setSpacing(0)
        for stop in stops:
            turn = _Turn(stop)
            turn.clicked.connect(lambda _=False, key=stop.key: self.station_wanted.emit(key))
            self._turns[stop.key] = turn
            column.addWidget(turn, 1)
        column.addWidget(self.step)
        theme().changed.connect(self.update)

    def caption(self, text: str) -> None:
        """Name the campaign under the program's name."""
        self.head.setText(text)
        self.head.setToolTip(text)

    def next_step(self, words: str, does: str, short: str) -> None:
        """Say what the whole campaign waits for, at the end of the rope."""
        self.step.setText(short)
        self.step.setToolTip(f"{words} {does}.")
        self.step.setAccessibleDescription(f"{words} {does}.")

    def select(self, key: str) -> None:
        """Light up the station shown; none where something else is shown."""
        for name, turn in self._turns.items():
            turn.setAutoExclusive(False)
            turn.setChecked(name == key)
            turn.setAutoExclusive(True)

    def wait_for(self, key: str, words: str, reached: bool) -> None:
        """Say what waits at a station, and whether the campaign has got there."""
        self._turns[key].wait_for(words, reached)
        self.update()

    def waiting_at(self, key: str) -> str:
        """What the rail says waits at a station."""
        return self._turns[key].waiting

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = theme()
        painter.fillRect(self.rect(), look.colour("rail"))
        top = self.head.height() - 4.0
        reached = [t for t in self._turns.values() if t.reached]
        light_to = max((t.geometry().center().y() for t in reached), default=top)
        end = self.step.geometry().center().y()
        self._rope(painter, top, light_to, "hemp")
        self._rope(painter, light_to, end, "rope-dim")
        painter.end()

    def _rope(self, painter: QPainter, top: float, bottom: float, token: str) -> None:
        painter.setPen(QPen(theme().colour(token), 5.0))
        painter.drawLine(QPointF(_ROPE_X, top), QPointF(_ROPE_X, bottom))
        painter.setPen(QPen(theme().colour("rail"), 1.2))
        y = top + 2
        while y < bottom - 3:
            painter.drawLine(QPointF(_ROPE_X - 2.5, y + 3), QPointF(_ROPE_X + 2.5, y))
            y += 5
