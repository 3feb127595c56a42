"""The keys, in a list."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from bruiser.ui.theme.theme import theme


class KeysDialog(QDialog):
    """What each key does."""

    def __init__(self, keys: Sequence[tuple[str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("window.keys")
        self.setWindowTitle("Keys")
        column = QVBoxLayout(self)
        for names, what in keys:
            row = QHBoxLayout()
            left = QLabel(names)
            left.setFont(theme().font("strong"))
            left.setMinimumWidth(190)
            row.addWidget(left)
            row.addWidget(QLabel(what), 1)
            column.addLayout(row)
        close = QPushButton("Close")
        close.setAccessibleName("Close")
        close.clicked.connect(self.accept)
        column.addWidget(close, alignment=Qt.AlignmentFlag.AlignRight)
