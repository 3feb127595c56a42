"""Small parts every station is made of: cards, labels, buttons, readouts."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.kit.storing import StoringButton, stores
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE


class Words(QLabel):
    """A label in a text style and tone; a long line elides with a tooltip when asked to."""

    def __init__(
        self, text: str = "", style: str = "body", tone: str = "ink", *, elide: bool = False
    ) -> None:
        super().__init__()
        self._style, self._elide, self._full = style, elide, ""
        # A name that somebody typed is never markup.
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setProperty("tone", tone)
        self.setFont(theme().font(style))
        theme().changed.connect(self._take_font)
        if elide:
            self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        else:
            self.setWordWrap(True)
        self.say(text)

    def say(self, text: str, tone: str | None = None) -> None:
        """Show a text, in another tone if given."""
        self._full = text
        if tone is not None and tone != self.property("tone"):
            self.setProperty("tone", tone)
            style = self.style()
            if style is not None:
                style.polish(self)
        self._show()

    def _take_font(self) -> None:
        self.setFont(theme().font(self._style))

    @property
    def words(self) -> str:
        """The whole text, also when it is elided on screen."""
        return self._full

    def _show(self) -> None:
        if not self._elide:
            self.setText(self._full)
            return
        cut = QFontMetricsF(self.font()).elidedText(
            self._full, Qt.TextElideMode.ElideRight, max(self.width() - 2, 10)
        )
        self.setText(cut)
        self.setToolTip(self._full if cut != self._full else "")

    @override
    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        if self._elide:
            self._show()


class Card(QFrame):
    """A surface with a small heading and a column of content."""

    def __init__(self, heading: str = "", *, caution: bool = False) -> None:
        super().__init__()
        self.setProperty("card", "caution" if caution else "true")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(SPACE["m"], SPACE["s"], SPACE["m"], SPACE["s"])
        self.column.setSpacing(SPACE["xs"])
        if heading:
            self.column.addWidget(Words(heading, "label", "ochre" if caution else "muted"))


def button(text: str, name: str, role: str = "", *, bench: bool = False) -> QPushButton:
    """A push button with its role and accessible name; locked where it stores and nobody may."""
    made = StoringButton(text, name) if stores(name) else QPushButton(text)
    made.setObjectName(name)
    made.setAccessibleName(text)
    if role:
        made.setProperty("role", role)
    if bench:
        made.setProperty("reach", "bench")
    return made


class Readout(QWidget):
    """A number to be read from two metres away: large, tabular, in a place that never moves."""

    def __init__(self, heading: str, name: str, tone: str = "ink") -> None:
        super().__init__()
        self.setObjectName(name)
        self._heading, self._tone = heading, tone
        self._number, self._unit = "–", ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        theme().changed.connect(self.update)
        self.setAccessibleName(heading)

    @property
    def number(self) -> str:
        """The number shown."""
        return self._number

    def show_number(self, number: str, unit: str) -> None:
        """Show a number with its unit."""
        if (number, unit) != (self._number, self._unit):
            self._number, self._unit = number, unit
            self.setAccessibleDescription(f"{number} {unit}")
            self.update()

    @override
    def sizeHint(self) -> QSize:
        tall = QFontMetricsF(theme().font("reading")).height()
        return QSize(120, round(tall + QFontMetricsF(theme().font("label")).height()))

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(90, self.sizeHint().height())

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        label, reading, unit = (theme().font(s) for s in ("label", "reading", "unit"))
        painter.setFont(label)
        painter.setPen(theme().colour("muted"))
        first = QFontMetricsF(label).ascent()
        painter.drawText(0, round(first), self._heading)
        painter.setFont(reading)
        painter.setPen(theme().colour(self._tone))
        base = round(self.height() - QFontMetricsF(reading).descent() * 0.6)
        painter.drawText(0, base, self._number)
        wide = QFontMetricsF(reading).horizontalAdvance(self._number)
        painter.setFont(unit)
        painter.setPen(theme().colour("muted"))
        painter.drawText(round(wide + 6), base, self._unit)
        painter.end()


def lead_with(control: QAbstractButton, first: bool) -> None:
    """Mark a control as the one that leads on, or no more."""
    wanted = "primary" if first else ""
    if control.property("role") != wanted:
        control.setProperty("role", wanted)
        style = control.style()
        if style is not None:
            style.unpolish(control)
            style.polish(control)


class StationPage(QWidget):
    """A station: what is this, what is waiting, and a place for its own work.

    `first` is where the keyboard goes when the station is shown; `sides` holds its work, and in
    its place what stands there while there is nothing to show.
    """

    def __init__(self, key: str) -> None:
        super().__init__()
        self.setObjectName(key)
        self.first: QWidget = self
        self.title = Words("", "title", elide=True)
        self.title.setObjectName(f"{key}.title")
        self.subtitle = Words("", "body", "muted", elide=True)
        self.subtitle.setObjectName(f"{key}.subtitle")
        self.corner_box = QWidget()
        self.corner = QHBoxLayout(self.corner_box)
        self.corner.setContentsMargins(0, 0, 0, 0)
        self.corner.setSpacing(SPACE["s"])
        heading = QVBoxLayout()
        heading.setSpacing(0)
        heading.addWidget(self.title)
        heading.addWidget(self.subtitle)
        top = QHBoxLayout()
        top.setSpacing(SPACE["l"])
        top.addLayout(heading, 1)
        top.addWidget(self.corner_box)
        self.way_on = button("", f"{key}.way_on", "primary")
        self.way_on.hide()
        top.addWidget(self.way_on)
        work = QWidget()
        self.body = QVBoxLayout(work)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(SPACE["s"])
        self.sides = ShownStack()
        self.sides.addWidget(work)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(SPACE["l"], SPACE["m"], SPACE["l"], SPACE["m"])
        whole.setSpacing(SPACE["s"])
        whole.addLayout(top)
        whole.addWidget(self.sides, 1)

    def begin(self) -> None:
        """Begin what is done here first; a page with more to do than to show says how."""
        self.first.setFocus()
