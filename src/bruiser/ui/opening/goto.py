"""Go to: one line to type in, and what it may mean below."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListView, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.course.finder import FoundPlace, FoundPlaces

_SIZE = (560, 420)


class PlacesModel(QAbstractListModel):
    """What was found, a row each."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: list[FoundPlace] = []

    def show(self, found: list[FoundPlace]) -> None:
        """Show other places."""
        self.beginResetModel()
        self.found = found
        self.endResetModel()

    @override
    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.found)

    @override
    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> str | None:
        place = self.found[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{place.words}   ·   {place.kind}"
        return None


class GoToDialog(QDialog):
    """Emits the place that was chosen.

    Parameters
    ----------
    index : FoundPlaces
        What is offered at once.
    whole : callable, optional
        Asked once the dialog is seen for the index of everything, which it hands over when it is
        made. Who has pressed Enter by then is taken to the first place found in it.
    """

    chosen = pyqtSignal(object)

    def __init__(
        self,
        index: FoundPlaces,
        recent: Sequence[str],
        parent: QWidget | None = None,
        whole: Callable[[Callable[[FoundPlaces], None]], None] | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("goto")
        self.setWindowTitle("Go to")
        self.resize(*_SIZE)
        self._index, self._recent, self._whole = index, tuple(recent), whole
        self._entered = False
        self.line = QLineEdit()
        self.line.setObjectName("goto.line")
        self.line.setAccessibleName("Go to")
        self.line.setPlaceholderText("A station, sheet, knot, lot, specimen, action …")
        self.model = PlacesModel(self)
        self.list = QListView()
        self.list.setObjectName("goto.list")
        self.list.setAccessibleName("What was found")
        self.list.setUniformItemSizes(True)
        self.list.setModel(self.model)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.line)
        column.addWidget(self.list, 1)
        self.line.textChanged.connect(self._find)
        self.line.returnPressed.connect(self._enter)
        self.list.clicked.connect(lambda _: self._take())
        self._find("")

    @override
    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        if self._whole is not None:
            self._whole(self._take_whole)

    def _take_whole(self, index: FoundPlaces) -> None:
        self._whole, self._index = None, index
        at, entered = self.list.currentIndex().row(), self._entered
        self._find(self.line.text())
        if entered and self.isVisible():
            self._take()
        elif 0 < at < len(self.model.found):
            self.list.setCurrentIndex(self.model.index(at))

    def _find(self, words: str) -> None:
        self._entered = False
        self.model.show(self._index.find(words, self._recent))
        if self.model.found:
            self.list.setCurrentIndex(self.model.index(0))

    def _enter(self) -> None:
        """Take what is marked; what is typed waits until everything can be found."""
        if self._whole is not None and self.line.text():
            self._entered = True
        else:
            self._take()

    def _take(self) -> None:
        at = self.list.currentIndex().row()
        if 0 <= at < len(self.model.found):
            place = self.model.found[at]
            self.accept()
            self.chosen.emit(place)

    @override
    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is not None and a0.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if a0.key() == Qt.Key.Key_Down else -1
            rows = max(1, len(self.model.found))
            at = (self.list.currentIndex().row() + step) % rows
            self.list.setCurrentIndex(self.model.index(at))
            return
        super().keyPressEvent(a0)
