"""The drawing to tap, the word to type and the verdict: a tie laid as it lies on the bench."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout
from typing_extensions import override

from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.tie_desk import TieDesk
from bruiser.ui.theme.tokens import SPACE

_HOW = (
    "Tap a crossing that lies the other way on the bench, or follow the rope and write o where "
    "it goes over and u where it goes under."
)


class TieBench(Card):
    """Shows a tie desk; what knot it is is only looked up while this can be seen."""

    def __init__(self, desk: TieDesk, name: str) -> None:
        super().__init__("AS IT LIES ON THE BENCH")
        self._desk = desk
        self.view = FigureView(f"{name}.drawing", tappable=True)
        self.verdict = Words("", "strong")
        self.verdict.setObjectName(f"{name}.verdict")
        self.word = Field("Followed from its start", f"{name}.word", hint="ououuo")
        self.read = button("Read it", f"{name}.read")
        self.again = button("As drawn", f"{name}.again")
        self.column.addWidget(Words(_HOW, "small", "muted"))
        self.column.addWidget(self.verdict)
        self.column.addWidget(self.view, 1)
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
        self.column.addLayout(row)
        desk.changed.connect(self._show)
        self.view.spot_tapped.connect(lambda key: desk.turn(int(key.rpartition(":")[2])))
        self.view.resized.connect(self._draw)
        self.read.clicked.connect(self._on_read)
        self.word.entry.returnPressed.connect(self._on_read)
        self.again.clicked.connect(desk.leave)

    def _on_read(self) -> None:
        self.word.complain(self._desk.spell(self.word.text))

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        desk = self._desk
        self.verdict.say(*desk.verdict())
        self.word.fill(desk.word())
        self.word.complain("")
        for part in (self.word, self.read):
            part.setEnabled(desk.may_spell)
        self.again.setEnabled(desk.changed_by_hand)
        self._draw()

    def _draw(self) -> None:
        figure = self._desk.figure(self.view.page_mm())
        self.view.setVisible(figure is not None)
        if figure is not None:
            self.view.show_figure(figure)
