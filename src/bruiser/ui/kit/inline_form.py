"""A form that takes the place of a list, and widgets side by side."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from bruiser.ui.kit.parts import button
from bruiser.ui.theme.tokens import SPACE


def side_by_side(*parts: tuple[QWidget, int]) -> QHBoxLayout:
    """Widgets in a row with their shares of the width, tops in line."""
    row = QHBoxLayout()
    row.setSpacing(SPACE["s"])
    for widget, share in parts:
        row.addWidget(widget, share)
    return row


class InlineForm(QWidget):
    """A form in the place of a list, with a button that stores and one that leaves it."""

    left = pyqtSignal()

    def __init__(self, name: str, store_words: str, on_store: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName(name)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(SPACE["s"])
        self.store = button(store_words, f"{name}.store", "primary")
        self.cancel = button("Cancel", f"{name}.cancel")
        self.cancel.clicked.connect(self.left.emit)
        self.store.clicked.connect(on_store)

    def finish(self) -> None:
        """Add the buttons under everything else."""
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.cancel)
        row.addWidget(self.store)
        self.column.addLayout(row)
