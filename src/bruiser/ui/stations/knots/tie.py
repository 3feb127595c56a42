"""Check my tie: lay the drawing's crossings as they lie on the bench, and be told what it is."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.knots.tie_presenter import TiePresenter
from bruiser.ui.theme.tokens import SPACE

_HOW = (
    "Tap a crossing that lies the other way on the bench, or follow the rope and write o where "
    "it goes over and u where it goes under."
)
_SIDE_WIDTH = 208


class TieSheet(QWidget):
    """The drawing to tap, the word to type, the verdict, and practice beside it."""

    def __init__(self, presenter: TiePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.view = FigureView("knots.tie.drawing", tappable=True)
        self.verdict = Words("", "strong")
        self.verdict.setObjectName("knots.tie.verdict")
        self.word = Field("Followed from its start", "knots.tie.word", hint="ououuo")
        self.read = button("Read it", "knots.tie.read")
        self.again = button("As drawn", "knots.tie.again")
        self.ask = button("Ask me", "knots.tie.ask")
        self.right = button("Right", "knots.tie.right")
        self.wrong = button("Wrong", "knots.tie.wrong")
        self.score = Words("", "small", "muted")
        self.score.setObjectName("knots.tie.score")
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(self._bench(), 1)
        across.addWidget(self._practice())
        self._connect()

    def _bench(self) -> Card:
        bench = Card("AS IT LIES ON THE BENCH")
        bench.column.addWidget(Words(_HOW, "small", "muted"))
        bench.column.addWidget(self.verdict)
        bench.column.addWidget(self.view, 1)
        row = QHBoxLayout()
        row.setSpacing(SPACE["s"])
        row.addWidget(self.word, 1)
        for control in (self.read, self.again):
            holder = QVBoxLayout()
            holder.setSpacing(0)
            holder.addWidget(Words(" ", "small"))
            holder.addWidget(control)
            holder.addStretch(1)
            row.addLayout(holder)
        bench.column.addLayout(row)
        return bench

    def _practice(self) -> Card:
        practice = Card("PRACTISE INSPECTING")
        practice.setFixedWidth(_SIDE_WIDTH)
        practice.column.addWidget(
            Words("A knot in play is drawn, tied right or with one crossing wrong.", "small")
        )
        practice.column.addWidget(self.ask)
        row = QHBoxLayout()
        row.addWidget(self.right)
        row.addWidget(self.wrong)
        practice.column.addLayout(row)
        practice.column.addWidget(self.score)
        practice.column.addStretch(1)
        return practice

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._show)
        self.view.spot_tapped.connect(lambda key: p.turn(int(key.rpartition(":")[2])))
        self.view.resized.connect(self._draw)
        self.read.clicked.connect(self._on_read)
        self.word.entry.returnPressed.connect(self._on_read)
        self.again.clicked.connect(p.leave)
        self.ask.clicked.connect(p.ask)
        self.right.clicked.connect(lambda: p.answer(True))
        self.wrong.clicked.connect(lambda: p.answer(False))

    def _on_read(self) -> None:
        self.word.complain(self._presenter.spell(self.word.text))

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._show()

    def _show(self) -> None:
        """Show the tie where it can be seen; what it is takes some reckoning."""
        if not self.isVisible():
            return
        p = self._presenter
        asking = p.question is not None
        self.verdict.say(*p.verdict())
        self.word.fill(p.word())
        self.word.complain("")
        self.score.say(p.score())
        for control in (self.right, self.wrong):
            control.setEnabled(asking)
        for part in (self.word, self.read):
            part.setEnabled(p.can_check and not asking and p.answered is None)
        self.again.setEnabled(asking or bool(p.turned) or p.answered is not None)
        self._draw()

    def _draw(self) -> None:
        figure = self._presenter.figure(self.view.page_mm())
        self.view.setVisible(figure is not None)
        if figure is not None:
            self.view.show_figure(figure)
