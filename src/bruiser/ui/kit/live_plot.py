"""Load against travel while it happens, over the siblings' traces."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bruiser.figures.trace_chart import thin_out
from bruiser.ui.kit.plots import dress_plot
from bruiser.ui.theme.theme import theme

Floats = NDArray[np.float64]
_COLUMNS = 600


class LivePlot(QWidget):
    """The plot of the pull station; takes values in the units it shows."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName("Load against travel")
        pg.setConfigOptions(antialias=True)
        self._plot = pg.PlotWidget()
        self._plot.setObjectName(f"{name}.plot")
        self._plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._plot.setMenuEnabled(False)
        self._plot.hideButtons()
        self._plot.setMouseEnabled(x=False, y=False)
        self._band = pg.LinearRegionItem(orientation="horizontal", movable=False)
        self._band.setZValue(-10)
        self._band.hide()
        self._plot.addItem(self._band, ignoreBounds=True)
        self._words = pg.TextItem("", anchor=(0, 1))
        self._plot.addItem(self._words, ignoreBounds=True)
        self._ghosts: list[pg.PlotDataItem] = []
        self._line = self._plot.plot([], [], antialias=False)
        self._tip = pg.ScatterPlotItem(size=9)
        self._plot.addItem(self._tip, ignoreBounds=True)
        self._slips = pg.ScatterPlotItem(size=7, symbol="t")
        self._plot.addItem(self._slips, ignoreBounds=True)
        self._floor = (50.0, 2.0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self._plot)
        theme().changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        look = theme()
        dress_plot(self._plot)
        # A wider pen takes ten times as long to paint, and the screen must keep up.
        pen = QPen(look.colour("plum"), 1.0)
        pen.setCosmetic(True)
        self._line.setPen(pen)
        self._tip.setBrush(look.colour("plum"))
        self._tip.setPen(None)
        self._slips.setBrush(look.colour("ochre"))
        self._slips.setPen(None)
        wash = look.colour("ochre")
        wash.setAlpha(34)
        self._band.setBrush(wash)
        for line in self._band.lines:
            line.setPen(pg.mkPen(None))
        self._words.setColor(look.colour("ochre"))
        self._words.setFont(look.font("small"))
        ghost = look.colour("muted")
        ghost.setAlpha(90)
        for item in self._ghosts:
            item.setPen(pg.mkPen(ghost, width=1.0))

    def prepare(self, x_title: str, y_title: str, floor: tuple[float, float]) -> None:
        """Name the axes and set the smallest range shown."""
        self._floor = floor
        self._plot.setLabel("bottom", x_title)
        self._plot.setLabel("left", y_title)
        self._dress()
        self.show_trace(np.empty(0), np.empty(0))
        self.show_slips(np.empty(0), np.empty(0), [])

    def show_siblings(
        self, traces: list[tuple[Floats, Floats]], band: tuple[float, float] | None
    ) -> None:
        """Ghost the siblings' traces, and the band where they gave."""
        for item in self._ghosts:
            self._plot.removeItem(item)
        self._ghosts = [self._plot.plot(*thin_out(x, y, 300), ignoreBounds=True) for x, y in traces]
        tops = [float(np.nanmax(y)) for _, y in traces if np.isfinite(y).any()]
        rights = [float(np.nanmax(x)) for x, _ in traces if np.isfinite(x).any()]
        if tops:
            self._floor = (max(self._floor[0], *rights), max(self._floor[1], 1.1 * max(tops)))
        self._band.setVisible(band is not None)
        self._words.setText("")
        if band is not None:
            self._band.setRegion(band)
            self._words.setText("where its siblings gave")
            self._words.setPos(0.01 * self._floor[0], band[0])
        self._dress()
        self._fit(0.0, 0.0)

    def show_trace(self, x: Floats, y: Floats) -> None:
        """Show the trace so far."""
        self._line.setData(*thin_out(x, y, _COLUMNS), connect="finite")
        read = np.isfinite(x) & np.isfinite(y)
        x, y = x[read], y[read]
        self._tip.setData(x[-1:], y[-1:])
        self._fit(float(x.max()) if len(x) else 0.0, float(y.max()) if len(y) else 0.0)

    def show_slips(self, x: Floats, y: Floats, samples: list[int]) -> None:
        """Mark the samples at which something slipped."""
        at = np.array([n for n in samples if n < len(x)], dtype=int)
        self._slips.setData(x[at], y[at])

    def _fit(self, right: float, top: float) -> None:
        self._plot.setXRange(0, max(self._floor[0], right * 1.02), padding=0.01)
        self._plot.setYRange(0, max(self._floor[1], top * 1.1), padding=0.01)
