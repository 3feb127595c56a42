"""Paints a figure and says what is pointed at."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget
from typing_extensions import override

from bruiser.figures.display import Box, Disc, Figure, Line, Shape, Spot, Text
from bruiser.ui.canvas.tiles import MANY, Place, Tiles
from bruiser.ui.theme.theme import theme

_STILL_PX, _RING_MM = 6.0, 2.1
_ANCHORS = {"start": 0.0, "middle": 0.5, "end": 1.0}


def paint_figure(painter: QPainter, figure: Figure, scale: float) -> None:
    """Paint a figure at `scale` pixels a millimetre."""
    for shape in figure.shapes:
        paint_shape(painter, shape, scale)


def _pen(token: str | None, width: float, scale: float) -> QPen:
    if token is None:
        return QPen(Qt.PenStyle.NoPen)
    pen = QPen(theme().colour(token), max(width * scale, 0.8))
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return pen


def _fill(token: str | None) -> QColor | Qt.BrushStyle:
    return Qt.BrushStyle.NoBrush if token is None else theme().colour(token)


def paint_shape(painter: QPainter, shape: Shape, scale: float) -> None:
    """Paint one shape of a figure."""
    if isinstance(shape, Line):
        pen = _pen(shape.stroke, shape.width, scale)
        if shape.dash:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(_fill(shape.fill))
        points = QPolygonF([QPointF(x * scale, y * scale) for x, y in shape.points])
        if shape.closed or shape.fill is not None:
            painter.drawPolygon(points)
        else:
            painter.drawPolyline(points)
    elif isinstance(shape, Disc):
        painter.setPen(_pen(shape.stroke, shape.width, scale))
        painter.setBrush(_fill(shape.fill))
        painter.drawEllipse(
            QPointF(shape.x * scale, shape.y * scale), shape.radius * scale, shape.radius * scale
        )
    elif isinstance(shape, Box):
        painter.setPen(_pen(shape.stroke, shape.line, scale))
        painter.setBrush(_fill(shape.fill))
        area = QRectF(shape.x * scale, shape.y * scale, shape.width * scale, shape.height * scale)
        if shape.stroke is not None:
            half = max(shape.line * scale, 1.0) / 2
            area.adjust(half, half, -half, -half)
        painter.drawRoundedRect(area, shape.radius * scale, shape.radius * scale)
    else:
        _paint_text(painter, shape, scale)


def _paint_text(painter: QPainter, shape: Text, scale: float) -> None:
    font = theme().font(shape.style)
    metrics = QFontMetricsF(font)
    text = shape.text
    if shape.max_width > 0:
        text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, shape.max_width * scale)
    painter.setFont(font)
    painter.setPen(theme().colour(shape.colour))
    x = shape.x * scale - _ANCHORS[shape.anchor] * metrics.horizontalAdvance(text)
    painter.drawText(QPointF(x, shape.y * scale), text)


class FigureView(QWidget):
    """Shows one figure; its spots can be hovered, tapped, and walked with the arrow keys."""

    spot_tapped = pyqtSignal(str)
    spot_dragged = pyqtSignal(str, float)
    resized = pyqtSignal()

    def __init__(self, name: str, *, tappable: bool = False, fit: bool = False) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setMouseTracking(True)
        self._figure: Figure | None = None
        self._tappable = tappable
        self._fit = fit
        self._pointed: str | None = None
        self._dragged: Spot | None = None
        self._pressed_at: QPointF | None = None
        self._picked: str | None = None
        self._tiles: Tiles | None = None
        self.paint_aside: Callable[[Tiles, list[Place]], None] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        if tappable:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        theme().changed.connect(self._on_theme_changed)

    def _on_theme_changed(self) -> None:
        self._tiles = None
        self.update()

    @property
    def figure(self) -> Figure | None:
        """The figure shown."""
        return self._figure

    def show_figure(self, figure: Figure, tiles: Tiles | None = None) -> None:
        """Show a figure, with what of it was painted already."""
        if figure is not self._figure:
            self._tiles = tiles
        self._figure = figure
        self.setAccessibleName(figure.title)
        self.update()

    def point_at(self, key: str | None) -> None:
        """Let the keyboard stand at a spot, or at none until an arrow goes to one."""
        self._pointed = key
        self.update()

    def pick(self, key: str | None) -> None:
        """Ring the spot that is looked at."""
        if key != self._picked:
            self._picked = key
            self.update()

    def page_mm(self) -> tuple[float, float]:
        """The widget's size in millimetre, for laying out a figure."""
        return self.width() / theme().px(1), self.height() / theme().px(1)

    def spot_centre(self, key: str) -> QPointF:
        """Where a spot lies in the widget; ``ValueError`` if there is none."""
        for spot in self._figure.spots if self._figure else ():
            if spot.key == key:
                scale = self._scale()
                return QPointF(
                    (spot.x + spot.width / 2) * scale, (spot.y + spot.height / 2) * scale
                )
        raise ValueError(f"no spot {key!r}")

    def _scale(self) -> float:
        if self._fit and self._figure is not None:
            return min(self.width() / self._figure.width, self.height() / self._figure.height)
        return theme().px(1)

    def _spot_at(self, point: QPointF) -> Spot | None:
        """The topmost spot at a point; of several marks alike that overlap, the nearest."""
        scale = self._scale()
        x, y = point.x() / scale, point.y() / scale
        there = [
            spot
            for spot in reversed(self._figure.spots if self._figure else ())
            if spot.x <= x <= spot.x + spot.width and spot.y <= y <= spot.y + spot.height
        ]
        if not there:
            return None
        size = there[0].width, there[0].height
        alike = [s for s in there if (s.width, s.height) == size]
        return min(alike, key=lambda s: math.dist((s.x + s.width / 2, s.y + s.height / 2), (x, y)))

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(40, 20)

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        if self._figure is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = self._scale()
        if len(self._figure.shapes) > MANY and a0 is not None:
            self._paint_tiles(painter, self._tiled(scale), a0.rect())
        else:
            paint_figure(painter, self._figure, scale)
        for spot in self._figure.spots if self._picked else ():
            if spot.key == self._picked:
                painter.setPen(_pen("plum", 0.5, scale))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                centre = QPointF(spot.x + spot.width / 2, spot.y + spot.height / 2) * scale
                painter.drawEllipse(centre, _RING_MM * scale, _RING_MM * scale)
        if self._tappable and self.hasFocus():
            pointed = next((s for s in self._figure.spots if s.key == self._pointed), None)
            stands = QRectF(self.rect())
            if pointed is not None:
                stands = QRectF(pointed.x, pointed.y, pointed.width, pointed.height)
                stands = QRectF(stands.topLeft() * scale, stands.size() * scale)
            painter.setPen(_pen("plum", 0.5, scale))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(stands.adjusted(2, 2, -2, -2), 5, 5)
        painter.end()

    def _paint_tiles(self, painter: QPainter, tiles: Tiles, exposed: QRect) -> None:
        """Paint squares; those that are missing now, or when they come from a worker."""
        missing = tiles.missing(exposed)
        if missing and self.paint_aside is None:
            tiles.take(tiles.painted(missing))
        elif missing and self.paint_aside is not None:
            self.paint_aside(tiles, missing)
        tiles.paint(painter, exposed)

    def _tiled(self, scale: float) -> Tiles:
        """The figure in pieces at this scale."""
        ratio = self.devicePixelRatioF()
        known = self._tiles
        if known is None or (known.scale, known.ratio) != (scale, ratio):
            assert self._figure is not None
            known = self._tiles = Tiles(self._figure, scale, ratio, paint_shape)
        return known

    @override
    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self.resized.emit()

    @override
    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        super().mousePressEvent(a0)
        self._pressed_at = None if a0 is None else a0.globalPosition()
        spot = None if a0 is None or not self._tappable else self._spot_at(a0.position())
        self._dragged = spot if spot is not None and spot.drags else None

    def _drag_to(self, point: QPointF) -> None:
        spot = self._dragged
        if spot is not None:
            share = (point.x() / self._scale() - spot.x) / spot.width
            self.spot_dragged.emit(spot.key, min(1.0, max(0.0, share)))

    @override
    def mouseMoveEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None:
            return
        if self._dragged is not None:
            self._drag_to(a0.position())
            return
        if a0.buttons() & Qt.MouseButton.LeftButton:
            a0.ignore()  # what holds the figure may move it
            return
        spot = self._spot_at(a0.position())
        if self._tappable:
            shape = Qt.CursorShape.PointingHandCursor if spot else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
        if spot is not None:
            QToolTip.showText(a0.globalPosition().toPoint(), spot.label, self)

    @override
    def mouseReleaseEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None or not self._tappable:
            return
        if self._dragged is not None:
            self._drag_to(a0.position())
            self._dragged = None
            return
        a0.ignore()
        began, self._pressed_at = self._pressed_at, None
        if began is None or (a0.globalPosition() - began).manhattanLength() > _STILL_PX:
            return
        spot = self._spot_at(a0.position())
        if spot is not None and not spot.drags:
            self._pointed = spot.key
            self.spot_tapped.emit(spot.key)

    @override
    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None or not self._tappable or self._figure is None or not self._figure.spots:
            super().keyPressEvent(a0)
            return
        keys = [s.key for s in self._figure.spots if not s.drags]
        at = keys.index(self._pointed) if self._pointed in keys else -1
        if a0.key() in (Qt.Key.Key_Right, Qt.Key.Key_Down):
            self._pointed = keys[(at + 1) % len(keys)]
        elif a0.key() in (Qt.Key.Key_Left, Qt.Key.Key_Up):
            self._pointed = keys[max(at, 0) - 1]
        elif a0.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and at >= 0:
            if not a0.isAutoRepeat():
                self.spot_tapped.emit(keys[at])
        else:
            super().keyPressEvent(a0)
            return
        self.update()

    @override
    def focusInEvent(self, a0: QFocusEvent | None) -> None:
        super().focusInEvent(a0)
        self.update()
