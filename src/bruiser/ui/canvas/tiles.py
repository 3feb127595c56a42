"""Large figures in pieces: what was painted once is only copied when the chart is moved."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from bruiser.figures.display import Box, Disc, Figure, Line, Shape

TILE_PX = 384
MANY = 400
_KEPT = 120
_LETTER_MM = 2.6
_MARGIN_MM = 3.0

Paint = Callable[[QPainter, Shape, float], None]


def reach_of(shape: Shape) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of a shape in millimetre, with some room for its line."""
    if isinstance(shape, Line):
        xs, ys = [p[0] for p in shape.points], [p[1] for p in shape.points]
        box = min(xs), min(ys), max(xs), max(ys)
    elif isinstance(shape, Disc):
        r = shape.radius
        box = shape.x - r, shape.y - r, shape.x + r, shape.y + r
    elif isinstance(shape, Box):
        box = shape.x, shape.y, shape.x + shape.width, shape.y + shape.height
    else:
        # How wide a text is depends on the font; a letter is taken wider than any.
        long = _LETTER_MM * len(shape.text)
        before = {"start": 0.0, "middle": 0.5, "end": 1.0}[shape.anchor] * long
        box = shape.x - before, shape.y - 6.0, shape.x - before + long, shape.y + 3.0
    return box[0] - _MARGIN_MM, box[1] - _MARGIN_MM, box[2] + _MARGIN_MM, box[3] + _MARGIN_MM


class Tiles:
    """A figure at one scale, cut into squares that are painted when they are first seen."""

    def __init__(self, figure: Figure, scale: float, ratio: float, paint: Paint) -> None:
        self.figure, self.scale, self.ratio = figure, scale, ratio
        self._paint = paint
        self._pixmaps: dict[tuple[int, int], QPixmap] = {}
        self._shapes: dict[tuple[int, int], list[Shape]] = {}
        across = math.ceil(figure.width * scale / TILE_PX) + 1
        down = math.ceil(figure.height * scale / TILE_PX) + 1
        for shape in figure.shapes:
            left, top, right, bottom = (v * scale / TILE_PX for v in reach_of(shape))
            for i in range(max(0, int(left)), min(across, int(right) + 1)):
                for j in range(max(0, int(top)), min(down, int(bottom) + 1)):
                    self._shapes.setdefault((i, j), []).append(shape)

    def paint(self, painter: QPainter, exposed: QRect) -> None:
        """Paint what of the figure lies in `exposed`."""
        first_i, last_i = exposed.left() // TILE_PX, exposed.right() // TILE_PX
        first_j, last_j = exposed.top() // TILE_PX, exposed.bottom() // TILE_PX
        for i in range(max(0, first_i), last_i + 1):
            for j in range(max(0, first_j), last_j + 1):
                pixmap = self._tile(i, j)
                if pixmap is not None:
                    painter.drawPixmap(i * TILE_PX, j * TILE_PX, pixmap)

    def _tile(self, i: int, j: int) -> QPixmap | None:
        if (i, j) not in self._shapes:
            return None
        known = self._pixmaps.pop((i, j), None)
        if known is None:
            known = self._painted(i, j)
        self._pixmaps[i, j] = known
        while len(self._pixmaps) > _KEPT:
            del self._pixmaps[next(iter(self._pixmaps))]
        return known

    def _painted(self, i: int, j: int) -> QPixmap:
        side = round(TILE_PX * self.ratio)
        pixmap = QPixmap(side, side)
        pixmap.setDevicePixelRatio(self.ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, TILE_PX, TILE_PX))
        painter.translate(-i * TILE_PX, -j * TILE_PX)
        for shape in self._shapes[i, j]:
            self._paint(painter, shape, self.scale)
        painter.end()
        return pixmap
