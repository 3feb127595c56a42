"""Large figures in pieces: what was painted once is only copied when the chart is moved."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping

from PyQt6.QtCore import QPoint, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from bruiser.figures.display import Box, Disc, Figure, Line, Shape

TILE_PX = 384
MANY = 400
_KEPT = 120
_LETTER_MM = 2.6
_MARGIN_MM = 3.0

Paint = Callable[[QPainter, Shape, float], None]
Place = tuple[int, int]


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
    """A figure at one scale, cut into squares that are painted when they are first seen.

    Making them and :meth:`painted` may be done on a worker: they touch nothing that is shown.
    """

    def __init__(self, figure: Figure, scale: float, ratio: float, paint: Paint) -> None:
        self.figure, self.scale, self.ratio = figure, scale, ratio
        self._paint = paint
        self._images: dict[Place, QImage] = {}
        self._seen = 0  # As many as were ever seen at once stay, however many that is.
        self._shapes: dict[Place, list[Shape]] = {}
        across = math.ceil(figure.width * scale / TILE_PX) + 1
        down = math.ceil(figure.height * scale / TILE_PX) + 1
        for shape in figure.shapes:
            left, top, right, bottom = (v * scale / TILE_PX for v in reach_of(shape))
            for i in range(max(0, int(left)), min(across, int(right) + 1)):
                for j in range(max(0, int(top)), min(down, int(bottom) + 1)):
                    self._shapes.setdefault((i, j), []).append(shape)

    def _within(self, exposed: QRect) -> Iterator[Place]:
        """The squares with anything in them that lie in `exposed`."""
        first_i, last_i = exposed.left() // TILE_PX, exposed.right() // TILE_PX
        first_j, last_j = exposed.top() // TILE_PX, exposed.bottom() // TILE_PX
        for i in range(max(0, first_i), last_i + 1):
            for j in range(max(0, first_j), last_j + 1):
                if (i, j) in self._shapes:
                    yield i, j

    def missing(self, exposed: QRect) -> list[Place]:
        """The squares in `exposed` that have still to be painted."""
        seen = list(self._within(exposed))
        self._seen = max(self._seen, len(seen))
        return [place for place in seen if place not in self._images]

    def painted(self, places: Iterable[Place]) -> dict[Place, QImage]:
        """Some squares, painted."""
        return {place: self._painted(*place) for place in places}

    def take(self, images: Mapping[Place, QImage]) -> None:
        """Keep painted squares; those not seen for longest go."""
        self._images |= images
        while len(self._images) > max(_KEPT, self._seen):
            del self._images[next(iter(self._images))]

    def paint(self, painter: QPainter, exposed: QRect) -> None:
        """Paint what of the figure lies in `exposed`, as far as its squares are painted."""
        for place in self._within(exposed):
            image = self._images.pop(place, None)
            if image is not None:
                self._images[place] = image
                painter.drawImage(QPoint(place[0] * TILE_PX, place[1] * TILE_PX), image)

    def _painted(self, i: int, j: int) -> QImage:
        side = round(TILE_PX * self.ratio)
        image = QImage(side, side, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(self.ratio)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, TILE_PX, TILE_PX))
        painter.translate(-i * TILE_PX, -j * TILE_PX)
        for shape in self._shapes[i, j]:
            self._paint(painter, shape, self.scale)
        painter.end()
        return image
