"""Paints a small specimen strip under the words of a table's cell."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QWidget
from typing_extensions import override

from bruiser.core.records.records import Specimen
from bruiser.figures.silhouette import knots_of
from bruiser.figures.strip import StripState, strip_figure
from bruiser.ui.canvas.figure_view import paint_figure
from bruiser.ui.theme.theme import theme

ROW_PX, _STRIP_PX, _MARGIN_PX = 58, 24, 6


class StripDelegate(QStyledItemDelegate):
    """Words above, strip below; strips are drawn once for what is tied and every width."""

    def __init__(self, specimen_at: Callable[[int], Specimen | None], parent: QWidget) -> None:
        super().__init__(parent)
        self._specimen_at = specimen_at
        self._drawn: dict[tuple[object, ...], QPixmap] = {}
        theme().changed.connect(self._drawn.clear)

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(super().sizeHint(option, index).width(), ROW_PX)

    @override
    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        words = QStyleOptionViewItem(option)
        self.initStyleOption(words, index)
        words.displayAlignment = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop
        area = option.rect
        words.rect = QRect(area.left(), area.top(), area.width(), area.height())
        super().paint(painter, words, index)
        specimen = self._specimen_at(index.row())
        width = area.width() - 2 * _MARGIN_PX
        if specimen is not None and width > 60:
            top = area.bottom() - _STRIP_PX - 4
            painter.drawPixmap(area.left() + _MARGIN_PX, top, self._strip(specimen, width))

    def _strip(self, specimen: Specimen, width: int) -> QPixmap:
        layout, knots = specimen.layout, knots_of(specimen)
        key = (layout.key, len(layout.places), *sorted(knots.items()), width)
        if key not in self._drawn:
            scale = theme().px(1)
            figure = strip_figure(
                layout,
                width / scale,
                _STRIP_PX / scale,
                StripState(compact=True, knots=knots),
            )
            pixmap = QPixmap(width, _STRIP_PX)
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_figure(painter, figure, scale)
            painter.end()
            self._drawn[key] = pixmap
        return self._drawn[key]
