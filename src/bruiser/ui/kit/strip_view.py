"""The specimen strip as a widget."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QShowEvent
from typing_extensions import override

from bruiser.core.records.layouts import Layout
from bruiser.figures.strip import StripState, strip_figure
from bruiser.ui.canvas.figure_view import FigureView


class StripView(FigureView):
    """Shows a specimen end to end; tapping names the place."""

    def __init__(self, name: str, *, tappable: bool = False) -> None:
        super().__init__(name, tappable=tappable)
        self._layout: Layout | None = None
        self._state = StripState()
        self._drawn: object = None
        self.setAccessibleName("Specimen strip")
        self.resized.connect(self._draw)

    def show_strip(self, layout: Layout, state: StripState) -> None:
        """Show a specimen; one that looks the same already is not drawn again."""
        if layout == self._layout and state == self._state:
            return
        self._layout, self._state = layout, state
        self._draw()

    @property
    def state(self) -> StripState:
        """What is marked on it."""
        return self._state

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self._draw()

    def _draw(self) -> None:
        """Draw it where it can be seen, and once for its size: the knots take some reckoning."""
        if self._layout is None or not self.isVisible():
            return
        drawn = self._layout, self.page_mm(), self._state
        if drawn != self._drawn:
            self._drawn = drawn
            self.show_figure(strip_figure(self._layout, *self.page_mm(), self._state))

    @override
    def sizeHint(self) -> QSize:
        return QSize(600, 150)
