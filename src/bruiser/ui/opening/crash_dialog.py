"""What is shown of a bug: that the data is safe, and a report to look at, copy and send."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE

_SIZE = (620, 440)
SAID = (
    "Something unexpected happened. What was stored is safe, and you can go on. A report was "
    "written; it says where in the program it happened, and holds none of your readings."
)


class CrashDialog(QDialog):
    """Shows a report.

    Parameters
    ----------
    text, path : str, Path or None
        The report, and where it was saved.
    add_readings : callable
        Puts a copy of the open campaign beside the report; returns its path, or None.
    """

    def __init__(
        self,
        text: str,
        path: Path | None,
        add_readings: Callable[[], Path | None] | None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("crash")
        self.setWindowTitle("Unexpected")
        self.resize(*_SIZE)
        self._add = add_readings
        self.words = Words(SAID)
        where = "No report could be written." if path is None else str(path)
        self.where = Words(where, "small", "muted")
        self.report = QPlainTextEdit(text)
        self.report.setObjectName("crash.report")
        self.report.setAccessibleName("The report")
        self.report.setReadOnly(True)
        self.tick = QCheckBox("Put a copy of the campaign with its readings beside the report")
        self.tick.setObjectName("crash.readings")
        self.tick.setEnabled(add_readings is not None and path is not None)
        self.copy = button("Copy the report", "crash.copy")
        self.close_it = button("Go on", "crash.close", "primary")
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        for part in (self.words, self.where):
            column.addWidget(part)
        column.addWidget(self.report, 1)
        column.addWidget(self.tick)
        row = QHBoxLayout()
        row.addWidget(self.copy)
        row.addStretch(1)
        row.addWidget(self.close_it)
        column.addLayout(row)
        self.copy.clicked.connect(self._on_copy)
        self.close_it.clicked.connect(self.accept)
        self.tick.toggled.connect(self._on_tick)

    def _on_copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.report.toPlainText())

    def _on_tick(self, on: bool) -> None:
        if on and self._add is not None:
            copy = self._add()
            self.where.say("The copy could not be made." if copy is None else f"Copied to {copy}")
            self.tick.setEnabled(False)
