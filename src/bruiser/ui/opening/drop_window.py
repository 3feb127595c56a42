"""A window that a file can be dropped on."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QMainWindow
from typing_extensions import override


class DropWindow(QMainWindow):
    """Emits the path of the one file that was dropped on it."""

    path_dropped = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)

    @override
    def dragEnterEvent(self, a0: QDragEnterEvent | None) -> None:
        if a0 is not None and dropped_path(a0):
            a0.acceptProposedAction()

    @override
    def dropEvent(self, a0: QDropEvent | None) -> None:
        if a0 is not None and (path := dropped_path(a0)):
            self.path_dropped.emit(path)


def dropped_path(event: QDropEvent) -> str:
    """The one file that is dropped; empty for anything else."""
    data = event.mimeData()
    urls = [] if data is None else data.urls()
    path = urls[0].toLocalFile() if len(urls) == 1 else ""
    return path if path and Path(path).exists() else ""
