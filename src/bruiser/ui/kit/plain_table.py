"""A table to read: columns share the width, nothing in it is edited or selected."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem


class PlainTable(QTableWidget):
    """Rows of texts under fixed headings."""

    def __init__(self, name: str, what: str, columns: Sequence[str]) -> None:
        super().__init__(0, len(columns))
        self.setObjectName(name)
        self.setAccessibleName(what)
        self.setHorizontalHeaderLabels(list(columns))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setTabKeyNavigation(False)
        across, down = self.horizontalHeader(), self.verticalHeader()
        if across is not None and down is not None:
            across.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
            down.hide()

    def show_rows(self, rows: Sequence[Sequence[str]]) -> None:
        """Show these rows; what is cut off is read in its tooltip."""
        self.setRowCount(len(rows))
        for n, row in enumerate(rows):
            for k, text in enumerate(row):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.setItem(n, k, item)
