"""The line under a sheet: what no result may be taken for, how far long work is, and a stop."""

from __future__ import annotations

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from bruiser.ui.kit.parts import Words, button

NO_APPROVAL = (
    "Comparisons from small samples on one bench. No approval for lifting, rescue, fall "
    "protection or climbing: that follows the local code, the maker and a licensed person."
)
PATIENCE_MS = 250


class WorkingLine(QWidget):
    """A caution, a notice, and, for work that takes longer than a moment, its progress."""

    stopped = pyqtSignal()

    def __init__(self, station: str) -> None:
        super().__init__()
        self.notice = Words("", "small", "muted", elide=True)
        self.notice.setObjectName(f"{station}.notice")
        self.progress = QProgressBar()
        self.progress.setObjectName(f"{station}.progress")
        self.progress.setAccessibleName("How far it is")
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.cancel = button("Stop", f"{station}.cancel", "chip")
        self.cancel.clicked.connect(self.stopped)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.addWidget(Words(NO_APPROVAL, "small", "muted", elide=True), 4)
        self.row.addWidget(self.notice, 2)
        self.row.addWidget(self.progress, 1)
        self.row.addWidget(self.cancel)
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(PATIENCE_MS)
        self._late.timeout.connect(self._show_progress)
        self.tell("")
        self.work(1, 1)

    def tell(self, words: str) -> None:
        """Say something beside the caution."""
        self.notice.say(words)
        self.notice.setVisible(bool(words))

    def work(self, done: int, whole: int) -> None:
        """Say how far work is; all of it puts the line away."""
        if done >= whole:
            self._late.stop()
            self.progress.hide()
            self.cancel.hide()
            return
        self.progress.setRange(0, whole)
        self.progress.setValue(done)
        if not self.progress.isVisible() and not self._late.isActive():
            self._late.start()

    def _show_progress(self) -> None:
        self.progress.show()
        self.cancel.show()
