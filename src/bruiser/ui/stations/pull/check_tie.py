"""The tie of a specimen laid out and checked: kept with its preparation, or put to an inspector."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.tie_bench import TieBench
from bruiser.ui.kit.tie_desk import TieDesk
from bruiser.ui.theme.tokens import SPACE

_SIDE_WIDTH = 240
_KEEP = "A second person lays out what was tied; it is kept with the preparation, right or not."
_ASK = (
    "Or let an inspector say what the drawing shows, without being told. Put the specimen away "
    "first."
)
_NOT_RIGHT = "Tie it again first: what is laid out is not this knot."


class TieDialog(QDialog):
    """Over the station: the tie to lay, and what becomes of it.

    Parameters
    ----------
    keep : callable
        Takes initials; returns what is wrong with them, or nothing.
    ask : callable
        Puts what is laid out to an inspector.
    """

    def __init__(
        self,
        desk: TieDesk,
        title: str,
        keep: Callable[[str], str],
        ask: Callable[[], None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("pull.tie")
        self.setWindowTitle("Check the tie")
        self._desk, self._keep, self._ask = desk, keep, ask
        self.bench = TieBench(desk, "pull.tie")
        self.by = Field("Checked by (initials)", "pull.tie.by", hint="OQ")
        self.keep = button("Keep the check", "pull.tie.keep", "primary")
        self.inspect = button("Ask an inspector", "pull.tie.ask")
        self.not_right = Words(_NOT_RIGHT, "small", "ochre")
        self.shut = button("Close", "pull.tie.close")
        side = Card("KEEP IT")
        side.setFixedWidth(_SIDE_WIDTH)
        for part in (Words(_KEEP, "small", "muted"), self.by, self.keep):
            side.column.addWidget(part)
        side.column.addSpacing(SPACE["m"])
        for part in (Words(_ASK, "small", "muted"), self.inspect, self.not_right):
            side.column.addWidget(part)
        side.column.addStretch(1)
        side.column.addWidget(self.shut)
        across = QHBoxLayout()
        across.setSpacing(SPACE["s"])
        across.addWidget(self.bench, 1)
        across.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(*(SPACE["m"],) * 4)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words(title, "title"))
        column.addLayout(across, 1)
        desk.changed.connect(self._show)
        self.keep.clicked.connect(self._on_keep)
        self.inspect.clicked.connect(self._on_ask)
        self.shut.clicked.connect(self.reject)
        self.by.entry.returnPressed.connect(self._on_keep)
        for control in (self.keep, self.inspect, self.shut, self.bench.read, self.bench.again):
            control.setAutoDefault(False)
        window = parent.window()
        if window is not None:
            self.resize(window.size() * 0.86)
        self._show()

    def _show(self) -> None:
        told, tone = self._desk.verdict()
        right = bool(told) and tone == "moss"
        self.inspect.setEnabled(right)
        self.not_right.setVisible(not right and tone != "muted")
        self.keep.setEnabled(tone != "muted")

    def _on_keep(self) -> None:
        wrong = self._keep(self.by.text)
        self.by.complain(wrong)
        if not wrong:
            self.accept()

    def _on_ask(self) -> None:
        self.accept()
        self._ask()
