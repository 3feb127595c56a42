"""A column that scrolls when its card is too small for it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from bruiser.ui.theme.tokens import SPACE


class Scrolled(QScrollArea):
    """Holds a column of widgets; only the column scrolls, never the window."""

    def __init__(self, name: str, *, spacing: str = "s") -> None:
        super().__init__()
        self.setObjectName(name)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        inner.setObjectName("scrolled")
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(0, 0, SPACE["xs"], 0)
        self.column.setSpacing(SPACE[spacing])
        self.setWidget(inner)
        port = self.viewport()
        if port is not None:
            port.setAutoFillBackground(False)
        inner.setAutoFillBackground(False)

    def replace(self, widgets: list[QWidget]) -> None:
        """Show these instead of what was there."""
        while self.column.count():
            item = self.column.takeAt(0)
            gone = None if item is None else item.widget()
            if gone is not None:
                gone.setParent(None)
                gone.deleteLater()
        for widget in widgets:
            self.column.addWidget(widget)
        self.column.addStretch(1)
