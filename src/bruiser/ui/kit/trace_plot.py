"""A trace to look into: brushed, compared, read to the sample, with what the analysis saw."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bruiser.figures.pyramid import Pyramid
from bruiser.ui.kit.plots import dress_plot
from bruiser.ui.theme.theme import theme

Floats = NDArray[np.float64]
_COLUMNS = 1000


@dataclass(frozen=True)
class TraceMark:
    """A sample named on the curve, with its tone."""

    index: int
    words: str
    tone: str


class TracePlot(QWidget):
    """One trace over fainter ones, in the units it is given.

    The curve is drawn from minima and maxima of stretches, so that a million samples move as
    easily as a thousand; zoomed in far enough it shows the samples themselves.
    """

    read = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName("The trace")
        self._plot = pg.PlotWidget()
        self._plot.setMenuEnabled(False)
        self._plot.hideButtons()
        box = self._plot.getViewBox()
        box.setMouseMode(pg.ViewBox.RectMode)
        self._line = pg.PlotDataItem()
        self._plot.addItem(self._line)
        self._others: list[pg.PlotDataItem] = []
        self._words: list[pg.TextItem] = []
        self._dots = pg.ScatterPlotItem(size=9)
        self._plot.addItem(self._dots, ignoreBounds=True)
        self._zero = pg.InfiniteLine(angle=0, movable=False)
        self._plot.addItem(self._zero, ignoreBounds=True)
        self._at = pg.InfiniteLine(angle=90, movable=False)
        self._at.hide()
        self._plot.addItem(self._at, ignoreBounds=True)
        self._x = np.empty(0)
        self._pyramid = Pyramid(np.empty(0))
        self._marks: tuple[TraceMark, ...] = ()
        self._drawing = False
        box.sigXRangeChanged.connect(lambda *_: self._redraw())
        self._plot.scene().sigMouseMoved.connect(self._on_moved)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self._plot)
        theme().changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        look = theme()
        dress_plot(self._plot)
        self._line.setPen(pg.mkPen(look.colour("plum"), width=1))
        self._zero.setPen(pg.mkPen(look.colour("muted"), style=Qt.PenStyle.DashLine))
        self._at.setPen(pg.mkPen(look.colour("storm")))
        ghost = look.colour("muted")
        ghost.setAlpha(120)
        for item in self._others:
            item.setPen(pg.mkPen(ghost, width=1.0))
        self._show_marks()

    def show_trace(self, x: Floats, y: Floats, x_title: str, y_title: str) -> None:
        """Show a trace whole; `x` need not rise."""
        self._x, self._pyramid = x, Pyramid(y)
        self._plot.setLabel("bottom", x_title)
        self._plot.setLabel("left", y_title)
        self.show_whole()

    def show_whole(self) -> None:
        """Zoom out to everything."""
        y = self._pyramid.values
        if not (np.isfinite(self._x).any() and np.isfinite(y).any()):
            return
        index, value = self._pyramid.window(0, len(y), _COLUMNS)
        self._drawing = True
        self._line.setData(self._x[index], value, connect="finite")
        high = float(np.nanmax(value))
        low = max(float(np.nanmin(value)), -0.08 * high)  # the bench's ringing may go far below
        self._plot.setXRange(float(np.nanmin(self._x)), float(np.nanmax(self._x)), padding=0.02)
        self._plot.setYRange(low, high + 0.08 * (high - low), padding=0.02)
        self._drawing = False
        self._show_marks()

    def show_others(self, traces: list[tuple[Floats, Floats]]) -> None:
        """Lay fainter traces under it, aligned by who gives them."""
        for item in self._others:
            self._plot.removeItem(item)
        self._others = []
        for x, y in traces:
            index, value = Pyramid(y).window(0, len(y), 400)
            item = pg.PlotDataItem(x[index], value, connect="finite")
            item.setZValue(-5)
            self._plot.addItem(item, ignoreBounds=True)
            self._others.append(item)
        self._dress()

    def show_marks(self, marks: tuple[TraceMark, ...]) -> None:
        """Name samples on the curve."""
        self._marks = marks
        self._show_marks()

    def _show_marks(self) -> None:
        for item in self._words:
            self._plot.removeItem(item)
        self._words = []
        y, look = self._pyramid.values, theme()
        here = [m for m in self._marks if 0 <= m.index < len(y)]
        self._dots.setData(
            x=[float(self._x[m.index]) for m in here],
            y=[float(y[m.index]) for m in here],
            brush=[pg.mkBrush(look.colour(m.tone)) for m in here],
            size=[9 if m.words else 4 for m in here],
            pen=None,
        )
        for k, mark in enumerate(m for m in here if m.words):
            x = float(self._x[mark.index])
            left, right = float(np.nanmin(self._x)), float(np.nanmax(self._x))
            early = x < left + 0.2 * (right - left)
            anchor = (0 if early else 1, 1 + 0.9 * (k % 2))
            surface = look.colour("surface")
            surface.setAlpha(225)
            item = pg.TextItem(
                mark.words, color=look.colour(mark.tone), anchor=anchor, fill=pg.mkBrush(surface)
            )
            item.setFont(look.font("small"))
            item.setPos(float(self._x[mark.index]), float(y[mark.index]))
            self._plot.addItem(item, ignoreBounds=True)
            self._words.append(item)

    def _redraw(self) -> None:
        """Draw the part that is seen, as finely as the screen can show."""
        if self._drawing or not len(self._pyramid):
            return
        first, after = self.seen()
        index, value = self._pyramid.window(first, after, _COLUMNS)
        self._line.setData(self._x[index], value, connect="finite")

    def seen(self) -> tuple[int, int]:
        """The samples whose x lies in the range shown, as (first, after the last)."""
        low, high = self._plot.viewRange()[0]
        if len(self._x) and self._x[-1] >= self._x[0] and self._rises:
            a, b = np.searchsorted(self._x, (low, high))
            return max(0, int(a) - 1), min(len(self._x), int(b) + 1)
        inside = np.flatnonzero((self._x >= low) & (self._x <= high))
        if not len(inside):
            return 0, 0
        return max(0, int(inside[0]) - 1), min(len(self._x), int(inside[-1]) + 2)

    @property
    def _rises(self) -> bool:
        step = max(1, len(self._x) // 2000)
        return bool(np.all(np.diff(self._x[::step]) >= 0))

    def zoom_to(self, low: float, high: float) -> None:
        """Show a stretch of the x axis, the load to fit."""
        self._plot.setXRange(low, high, padding=0)
        first, after = self.seen()
        part = self._pyramid.values[first:after]
        if len(part):
            a, b = float(np.nanmin(part)), float(np.nanmax(part))
            self._plot.setYRange(a, b + 0.05 * (b - a) + 1e-9, padding=0.02)

    def drawn(self) -> tuple[Floats, Floats]:
        """What is drawn now."""
        x, y = self._line.getData()
        return (np.empty(0), np.empty(0)) if x is None or y is None else (x, y)

    def sample_at(self, x: float, y: float) -> int:
        """The sample nearest to a point of the plot, measured on the screen."""
        first, after = self.seen()
        if after <= first:
            return -1
        (x0, x1), (y0, y1) = self._plot.viewRange()
        dx = (self._x[first:after] - x) / max(x1 - x0, 1e-12)
        dy = (self._pyramid.values[first:after] - y) / max(y1 - y0, 1e-12)
        return first + int(np.nanargmin(dx * dx + 0.05 * dy * dy))

    def point_at(self, index: int) -> None:
        """Put the line on a sample and say it."""
        if 0 <= index < len(self._x):
            self._at.setPos(float(self._x[index]))
            self._at.show()
            self.read.emit(index)

    def _on_moved(self, place: QPointF) -> None:
        if not len(self._pyramid):
            return
        point = self._plot.getViewBox().mapSceneToView(place)
        self.point_at(self.sample_at(float(point.x()), float(point.y())))
