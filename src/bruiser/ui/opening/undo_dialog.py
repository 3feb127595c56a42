"""What can be undone and done again, as a list; going back to one undoes all above it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from bruiser.ui.kit.parts import Words, button

_SIZE = (440, 420)
HERE = "as it is now"


class UndoDialog(QDialog):
    """Emits how many steps to go back; fewer than none is forward.

    Parameters
    ----------
    done, undone : sequence of str
        What can be undone, the last first; what can be done again, the next first.
    """

    back_to = pyqtSignal(int)

    def __init__(
        self, done: Sequence[str], undone: Sequence[str], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("history")
        self.setWindowTitle("What can be undone")
        self.resize(*_SIZE)
        self.list = QListWidget()
        self.list.setObjectName("history.list")
        self.list.setAccessibleName("Steps, the latest first")
        for n in range(len(undone), 0, -1):
            self._add(f"again: {undone[n - 1]}", -n)
        self._add(HERE, 0)
        for n, title in enumerate(done, start=1):
            self._add(f"undo: {title}", n)
        self.list.setCurrentRow(len(undone))
        self.go = button("Go there", "history.go", "primary")
        cancel = button("Cancel", "history.cancel")
        column = QVBoxLayout(self)
        said = "Each step above the one chosen is undone with it, the latest first."
        column.addWidget(Words(said, "small", "muted"))
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(cancel)
        row.addWidget(self.go)
        column.addLayout(row)
        self.go.clicked.connect(self._on_go)
        self.list.itemActivated.connect(lambda _: self._on_go())
        self.list.currentRowChanged.connect(lambda _: self.go.setEnabled(self._steps() != 0))
        cancel.clicked.connect(self.reject)
        self.go.setEnabled(False)

    def _add(self, words: str, steps: int) -> None:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, steps)
        self.list.addItem(item)

    def _steps(self) -> int:
        item = self.list.currentItem()
        return 0 if item is None else int(item.data(Qt.ItemDataRole.UserRole))

    def _on_go(self) -> None:
        steps = self._steps()
        self.accept()
        if steps:
            self.back_to.emit(steps)
