"""Lists and sliders that a turning wheel passes over: only a key or a click changes them."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QComboBox, QSlider
from typing_extensions import override


class ChoiceBox(QComboBox):
    """A list to choose from; the wheel goes on to the page under it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @override
    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            e.ignore()


class SteadySlider(QSlider):
    """A slider along the line; the wheel goes on to the page under it."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @override
    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            e.ignore()
