"""Check my tie: lay the drawing's crossings as they lie on the bench, and practise inspecting."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.tie_bench import TieBench
from bruiser.ui.stations.knots.tie_presenter import TiePresenter
from bruiser.ui.theme.tokens import SPACE

_SIDE_WIDTH = 208
_TRIALS = (
    "Whether an inspector knows a tied specimen is asked at Pull, Prepare: there it is kept with "
    "their initials."
)


class TieSheet(QWidget):
    """The tie to lay, and practice beside it."""

    def __init__(self, presenter: TiePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.bench = TieBench(presenter, "knots.tie")
        self.view, self.verdict = self.bench.view, self.bench.verdict
        self.word, self.read, self.again = self.bench.word, self.bench.read, self.bench.again
        self.ask = button("Ask me", "knots.tie.ask")
        self.right = button("Right", "knots.tie.right")
        self.wrong = button("Wrong", "knots.tie.wrong")
        self.score = Words("", "small", "muted")
        self.score.setObjectName("knots.tie.score")
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(self.bench, 1)
        across.addWidget(self._practice())
        presenter.changed.connect(self._show)
        self.ask.clicked.connect(presenter.ask)
        self.right.clicked.connect(lambda: presenter.answer(True))
        self.wrong.clicked.connect(lambda: presenter.answer(False))

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
        practice.column.addWidget(Words(_TRIALS, "small", "muted"))
        return practice

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        asking = self._presenter.question is not None
        self.score.say(self._presenter.score())
        for control in (self.right, self.wrong):
            control.setEnabled(asking)
