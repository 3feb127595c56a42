"""The shelf as a sheet of small drawings: every structure found, one card each."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt, QTimer
from PyQt6.QtGui import QFontMetricsF, QPainter, QPixmap, QResizeEvent
from PyQt6.QtWidgets import (
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)
from typing_extensions import override

from bruiser.catalogue.drawings import drawn
from bruiser.figures.knot_drawing import knot_figure
from bruiser.ui.canvas.figure_view import paint_figure
from bruiser.ui.kit.two_lines import KEY, MARK, TwoLineList
from bruiser.ui.theme.theme import theme

CARD = QSize(164, 150)
_PAD, _EDGE = 6, 4


class _Cards(QStyledItemDelegate):
    """Paints a card; a drawing that is not there yet is made when nothing else waits."""

    def __init__(self, sheet: DrawingSheet) -> None:
        super().__init__(sheet)
        self._sheet = sheet
        self._drawn: dict[str, QPixmap] = {}
        self._wanted: list[str] = []
        self._next = QTimer(self)
        self._next.setInterval(0)
        self._next.timeout.connect(self._draw_one)
        theme().changed.connect(self._forget)

    def _forget(self) -> None:
        self._drawn.clear()
        self._sheet.update_cards()

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return self._sheet.gridSize()

    @override
    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        t, key = theme(), str(index.data(KEY))
        card = option.rect.adjusted(_EDGE, _EDGE, -_EDGE, -_EDGE)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(t.colour("plum" if chosen else "line"))
        painter.setBrush(t.colour("plum-wash" if chosen else "surface"))
        painter.drawRoundedRect(card, 6, 6)
        small = t.font("small")
        metrics = QFontMetricsF(small)
        words = QRect(card.left() + _PAD, card.bottom() - round(metrics.height()) - 3,
                      card.width() - 2 * _PAD, round(metrics.height()) + 2)  # fmt: skip
        mark = str(index.data(MARK) or "")
        painter.setFont(small)
        taken = 0.0
        if mark:
            taken = metrics.horizontalAdvance(mark) + _PAD
            painter.setPen(t.colour("plum"))
            painter.drawText(words, Qt.AlignmentFlag.AlignRight, mark)
        painter.setPen(t.colour("ink"))
        name = metrics.elidedText(
            str(index.data()), Qt.TextElideMode.ElideRight, words.width() - taken
        )
        painter.drawText(words, Qt.AlignmentFlag.AlignLeft, name)
        room = QRect(card.left() + _PAD, card.top() + _PAD, card.width() - 2 * _PAD,
                     words.top() - card.top() - 2 * _PAD)  # fmt: skip
        picture = self._drawn.get(key)
        if picture is not None:
            across = round(picture.width() / picture.devicePixelRatio())
            painter.drawPixmap(room.left() + (room.width() - across) // 2, room.top(), picture)
        elif drawn(key) is None:
            painter.setPen(t.colour("muted"))
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, "no drawing yet")
        elif key not in self._wanted:
            self._wanted.append(key)
            self._next.start()
        painter.restore()

    def _draw_one(self) -> None:
        """Draw the card that was asked for last: it is where the reader is now."""
        if not self._wanted:
            self._next.stop()
            return
        key = self._wanted.pop()
        found = drawn(key)
        if found is None:
            return
        small = QFontMetricsF(theme().font("small")).height()
        wide = CARD.width() - 2 * (_EDGE + _PAD)
        tall = CARD.height() - 2 * (_EDGE + _PAD) - round(small) - 3
        scale = theme().px(1)
        ratio = self._sheet.devicePixelRatioF()
        picture = QPixmap(round(wide * ratio), round(tall * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_figure(painter, knot_figure(found.layout, wide / scale, tall / scale, key), scale)
        painter.end()
        self._drawn[key] = picture
        self._sheet.update_cards()


class DrawingSheet(TwoLineList):
    """Cards in rows that are walked with the arrow keys; Enter or a double click opens one."""

    def __init__(self) -> None:
        super().__init__("knots.drawings", "Knots found, drawn")
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setMovement(QListView.Movement.Static)
        self.setGridSize(CARD)
        self.setSpacing(0)
        self.setItemDelegate(_Cards(self))

    @override
    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        port = self.viewport()
        if port is not None:
            columns = max(1, port.width() // CARD.width())
            self.setGridSize(QSize(port.width() // columns, CARD.height()))

    def update_cards(self) -> None:
        """Paint again what is in sight."""
        port = self.viewport()
        if port is not None:
            port.update()
