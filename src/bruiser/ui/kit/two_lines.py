"""List rows of two lines with a mark at the right."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter
from PyQt6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)
from typing_extensions import override

from bruiser.ui.theme.theme import theme

KEY = Qt.ItemDataRole.UserRole
_UNDER = Qt.ItemDataRole.UserRole + 1
MARK = Qt.ItemDataRole.UserRole + 2
_PAD = 6


class _TwoLines(QStyledItemDelegate):
    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        tall = sum(QFontMetricsF(theme().font(s)).height() for s in ("strong", "small"))
        return QSize(100, round(tall) + _PAD)

    @override
    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        area = option.rect
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, theme().colour("plum-wash"))
        mark = str(index.data(MARK) or "")
        strong, small = theme().font("strong"), theme().font("small")
        first, second = QFontMetricsF(strong), QFontMetricsF(small)
        left, room = area.left() + _PAD, area.width() - 2 * _PAD
        base = area.top() + _PAD / 2 + first.ascent()
        taken = second.horizontalAdvance(mark) + _PAD if mark else 0.0
        painter.setFont(strong)
        painter.setPen(theme().colour("ink"))
        name = first.elidedText(str(index.data()), Qt.TextElideMode.ElideRight, room - taken)
        painter.drawText(round(left), round(base), name)
        painter.setFont(small)
        painter.setPen(theme().colour("plum"))
        if mark:
            painter.drawText(round(left + room - taken + _PAD), round(base), mark)
        painter.setPen(theme().colour("muted"))
        under = second.elidedText(str(index.data(_UNDER)), Qt.TextElideMode.ElideRight, room)
        painter.drawText(round(left), round(base + first.descent() + second.ascent()), under)
        painter.restore()


class TwoLineList(QListWidget):
    """A list whose rows have a name, a line under it and a mark."""

    def __init__(self, name: str, what: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName(what)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setItemDelegate(_TwoLines(self))
        self.setUniformItemSizes(True)

    def offer(self, rows: list[tuple[str, str, str, str]], selected: str) -> None:
        """Show rows of key, name, line under it, mark; nothing is said to be chosen."""
        self.blockSignals(True)
        self.clear()
        for key, name, under, mark in rows:
            item = QListWidgetItem(name)
            for role, value in ((KEY, key), (_UNDER, under), (MARK, mark)):
                item.setData(role, value)
            item.setToolTip(under)
            self.addItem(item)
            if key == selected:
                self.setCurrentItem(item)
        self.blockSignals(False)

    def select(self, key: str) -> None:
        """Mark a row without saying that it was chosen."""
        for n in range(self.count()):
            item = self.item(n)
            if item is not None and item.data(KEY) == key:
                self.blockSignals(True)
                self.setCurrentItem(item)
                self.blockSignals(False)

    def keys(self) -> list[str]:
        """The keys shown, in order."""
        items = [self.item(n) for n in range(self.count())]
        return [str(i.data(KEY)) for i in items if i is not None]
