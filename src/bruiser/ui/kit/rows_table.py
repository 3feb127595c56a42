"""A table of many rows to read and select from; only what is seen is painted."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Generic, TypeVar

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView
from typing_extensions import override

from bruiser.core.records.records import Specimen
from bruiser.ui.kit.strip_delegate import ROW_PX, StripDelegate

Row = tuple[str, tuple[str, ...]]
_NOWHERE = QModelIndex()

T = TypeVar("T")


class MadeRows(Sequence[Row], Generic[T]):
    """Rows whose texts are only made of their items when they are seen.

    Parameters
    ----------
    keys : sequence of str
        The key of each item, so that none is looked at to find where a key stands.
    """

    def __init__(
        self, items: Sequence[T], keys: Sequence[str], texts_of: Callable[[T], tuple[str, ...]]
    ) -> None:
        self.items, self.keys, self._texts_of = items, keys, texts_of

    @override
    def __len__(self) -> int:
        return len(self.items)

    @override
    def __getitem__(self, at: Any) -> Any:
        return self.keys[at], self._texts_of(self.items[at])


def _keys_of(rows: Sequence[Row]) -> Sequence[str]:
    return rows.keys if isinstance(rows, MadeRows) else [key for key, _ in rows]


class RowsModel(QAbstractTableModel):
    """Rows of texts, each with its key."""

    def __init__(self, columns: Sequence[str]) -> None:
        super().__init__()
        self._columns = tuple(columns)
        self.rows: Sequence[Row] = ()

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Show these rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    @override
    def rowCount(self, parent: QModelIndex = _NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    @override
    def columnCount(self, parent: QModelIndex = _NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._columns)

    @override
    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return self.rows[index.row()][1][index.column()]
        return None

    @override
    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation is Qt.Orientation.Horizontal:
            return self._columns[section]
        return None


class RowsTable(QTableView):
    """Rows to select, by key; `widths` are shares of the table's width."""

    chosen = pyqtSignal()

    def __init__(
        self, name: str, what: str, columns: Sequence[str], widths: Sequence[float] = ()
    ) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName(what)
        self._model = RowsModel(columns)
        self._widths = tuple(widths) or (1.0,) * len(columns)
        self.setModel(self._model)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setTabKeyNavigation(False)
        self.setWordWrap(False)
        self.setShowGrid(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        across, down = self.horizontalHeader(), self.verticalHeader()
        if across is not None and down is not None:
            across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
            across.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            across.setStretchLastSection(True)
            down.hide()
        selection = self.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(lambda *_: self.chosen.emit())

    def draw_strips(self, column: int, specimen_of: Callable[[str], Specimen | None]) -> None:
        """Draw a small specimen strip under the words of a column, by the row's key."""

        def at(row: int) -> Specimen | None:
            keys = _keys_of(self._model.rows)
            return specimen_of(keys[row]) if row < len(keys) else None

        self.setItemDelegateForColumn(column, StripDelegate(at, self))
        down = self.verticalHeader()
        if down is not None:
            down.setDefaultSectionSize(ROW_PX)

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Show these rows; what was selected stays selected where it still is, and in view."""
        if rows == self._model.rows:
            return
        kept, bar = set(self.keys), self.verticalScrollBar()
        seen = 0 if bar is None else bar.value()
        self._model.show_rows(rows)
        if kept:
            for n in (n for n, key in enumerate(_keys_of(rows)) if key in kept):
                self.selectRow(n)
        if bar is not None:
            bar.setValue(seen)

    def look_again(self) -> None:
        """Paint what is seen anew: its texts may say how late it is."""
        view = self.viewport()
        if view is not None:
            view.update()

    def select_key(self, key: str) -> None:
        """Select the row of a key alone, where it is; a row already selected is left alone."""
        if self.keys == (key,):
            return
        keys = _keys_of(self._model.rows)
        if key in keys:
            self.selectRow(keys.index(key))

    @property
    def numbers(self) -> tuple[int, ...]:
        """The rows selected, from the top, by number."""
        selection = self.selectionModel()
        if selection is None:
            return ()
        return tuple(sorted({index.row() for index in selection.selectedRows()}))

    @property
    def keys(self) -> tuple[str, ...]:
        """Keys of the rows selected, from the top."""
        keys = _keys_of(self._model.rows)
        return tuple(keys[n] for n in self.numbers)

    @override
    def resizeEvent(self, e):  # type: ignore[no-untyped-def]
        super().resizeEvent(e)
        view = self.viewport()
        if view is None:
            return
        room, whole = view.width(), sum(self._widths)
        for n, share in enumerate(self._widths):
            self.setColumnWidth(n, round(room * share / whole))
