"""The window of the start page."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QCloseEvent
from typing_extensions import override

from bruiser.app.menu import CampaignMenu
from bruiser.ui.opening.drop_window import DropWindow
from bruiser.ui.opening.start_page import StartPage


class StartWindow(DropWindow):
    """The start page in its window."""

    closed = pyqtSignal()

    def __init__(self, act: Callable[[str], None]) -> None:
        super().__init__()
        self.setWindowTitle("Bruiser")
        self.setMinimumSize(1000, 660)
        self.resize(1280, 800)
        self.page = StartPage()
        self.menu = CampaignMenu(self, act, open_campaign=False)
        self.setCentralWidget(self.page)

    @override
    def closeEvent(self, a0: QCloseEvent | None) -> None:
        """Say that it is gone."""
        super().closeEvent(a0)
        self.closed.emit()

    def say(self, text: str) -> None:
        """Say something above the page."""
        self.page.say(text)
