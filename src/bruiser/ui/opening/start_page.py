"""The start page: a new campaign, one of those open lately, the demo, and what Bruiser is for."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

FOR = (
    "For pulling knots, bends and hitches to pieces and saying honestly what they keep.",
    "It plans the pulls, records them, works out the numbers with how sure they are, and prints "
    "a guide from them.",
    "It is no approval: whatever carries a load, a person or a right follows the code that is in "
    "force and the judgement of whoever is licensed for it.",
)
_PICTURE = QSize(120, 54)


@dataclass(frozen=True, kw_only=True)
class ListedCampaign:
    """A campaign as the start page lists it.

    Parameters
    ----------
    words : str
        Pulls, and when it was last used; or that its file is not there.
    rungs : tuple of (float, float, float)
        Typical share, low and high of some knots, for the picture.
    """

    path: str
    title: str
    question: str
    words: str
    there: bool
    rungs: tuple[tuple[float, float, float], ...] = ()


class RungStrip(QWidget):
    """A small strip of intervals, one a knot."""

    def __init__(self, rungs: tuple[tuple[float, float, float], ...]) -> None:
        super().__init__()
        self._rungs = rungs
        self.setFixedSize(_PICTURE)
        theme().changed.connect(self.update)

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, wide = theme(), self.width() - 12.0
        painter.setPen(QPen(look.colour("line"), 1.0))
        for share in (0.0, 0.5, 1.0):
            x = 6 + share * wide
            painter.drawLine(QPointF(x, 2), QPointF(x, self.height() - 2))
        pitch = (self.height() - 6) / max(6, len(self._rungs))
        for n, (value, low, high) in enumerate(self._rungs):
            y = 4 + (n + 0.5) * pitch
            left, right = 6 + max(0.0, low) * wide, 6 + min(1.05, high) * wide
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("plum-soft"))
            painter.drawRoundedRect(QRectF(left, y - 2.5, max(2.0, right - left), 5), 2, 2)
            painter.setPen(QPen(look.colour("plum"), 2.0))
            x = 6 + min(1.05, value) * wide
            painter.drawLine(QPointF(x, y - 3.5), QPointF(x, y + 3.5))
        painter.end()


class StartPage(QWidget):
    """Emits what is wanted: a new campaign, one from a dialog, a path, the demo, or to forget."""

    new_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    path_wanted = pyqtSignal(str)
    server_wanted = pyqtSignal()
    demo_wanted = pyqtSignal()
    forget_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("start")
        self.notice = Words("", "strong-small", "ochre")
        self.notice.setObjectName("start.notice")
        self.notice.hide()
        self.new = button("New campaign", "start.new", "primary", bench=True)
        self.open = button("Open a campaign …", "start.open", bench=True)
        self.server = button("Open one on a server …", "start.server", bench=True)
        self.demo = button("Look at the demo", "start.demo", bench=True)
        self.new.clicked.connect(self.new_wanted)
        self.open.clicked.connect(self.open_wanted)
        self.server.clicked.connect(self.server_wanted)
        self.demo.clicked.connect(self.demo_wanted)
        self._rows = Scrolled("start.recent", spacing="xs")
        self._build()

    def _build(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(SPACE["m"])
        left.addWidget(Words("Bruiser", "title"))
        for words in FOR:
            left.addWidget(Words(words, "body", "muted"))
        left.addSpacing(SPACE["m"])
        for one in (self.new, self.open, self.server, self.demo):
            left.addWidget(one)
        left.addStretch(1)
        side = QWidget()
        side.setLayout(left)
        side.setFixedWidth(330)
        card = Card("CAMPAIGNS OPEN LATELY")
        card.column.addWidget(self._rows, 1)
        across = QHBoxLayout()
        across.setSpacing(SPACE["xl"])
        across.addWidget(side)
        across.addWidget(card, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(*(SPACE["xl"],) * 4)
        column.setSpacing(SPACE["m"])
        column.addWidget(self.notice)
        column.addLayout(across, 1)

    def say(self, text: str) -> None:
        """Say what went wrong, above everything."""
        self.notice.say(text)
        self.notice.setVisible(bool(text))

    def list(self, rows: tuple[ListedCampaign, ...]) -> None:
        """List the campaigns open lately."""
        shown = [self._row(number, row) for number, row in enumerate(rows)]
        nothing = "None yet. A campaign is a question, its cordage and its pulls, in one file."
        self._rows.replace(shown or [Words(nothing, "body", "muted")])

    def _row(self, number: int, row: ListedCampaign) -> QWidget:
        frame = QFrame()
        across = QHBoxLayout(frame)
        across.setContentsMargins(0, SPACE["s"], 0, SPACE["s"])
        across.setSpacing(SPACE["m"])
        across.addWidget(RungStrip(row.rungs))
        said = QVBoxLayout()
        said.setSpacing(0)
        said.addWidget(Words(row.title, "strong", elide=True))
        if row.question:
            said.addWidget(Words(row.question, "small", "muted", elide=True))
        said.addWidget(Words(row.words, "small", "muted" if row.there else "ochre", elide=True))
        across.addLayout(said, 1)
        if row.there:
            go = button("Open", f"start.recent.{number}", "chip")
            go.setAccessibleName(f"Open {row.title}")
            go.setToolTip(row.path)
            go.clicked.connect(lambda: self.path_wanted.emit(row.path))
        else:
            go = button("Forget it", f"start.forget.{number}", "chip")
            go.setAccessibleName(f"Forget {row.title}")
            go.clicked.connect(lambda: self.forget_wanted.emit(row.path))
        across.addWidget(go)
        return frame
