"""Pages of which one is shown, and which ask for no more room than that one."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QStackedWidget
from typing_extensions import override


class ShownStack(QStackedWidget):
    """Only the page that is shown counts for the least size: what is hidden may still be filled."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(self.updateGeometry)

    @override
    def minimumSizeHint(self) -> QSize:
        shown = self.currentWidget()
        return super().minimumSizeHint() if shown is None else shown.minimumSizeHint()
