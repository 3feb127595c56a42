"""Findings that two benches made of one pull: both, and which of them holds."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.findings.presenter import FindingsPresenter
from bruiser.ui.theme.tokens import SPACE


class SettlingCard(Card):
    """Shown only where findings stand against one another."""

    def __init__(self, presenter: FindingsPresenter) -> None:
        super().__init__("FOUND DIFFERENTLY ON TWO BENCHES: SAY WHICH HOLDS. BOTH ARE KEPT.")
        self.setObjectName("findings.settling")
        self._presenter = presenter
        self._lines: list[QWidget] = []
        presenter.specimen_changed.connect(self._show)
        presenter.photos_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        for line in self._lines:
            self.column.removeWidget(line)
            line.deleteLater()
        versions = self._presenter.versions
        self._lines = [self._line(n, *version) for n, version in enumerate(versions)]
        for line in self._lines:
            self.column.addWidget(line)
        self.setVisible(bool(versions))

    def _line(self, number: int, finding_id: str, words: str) -> QWidget:
        line = QWidget()
        across = QHBoxLayout(line)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["m"])
        holds = button("This one holds", f"findings.holds.{number}", "chip")
        holds.setAccessibleName(f"This one holds: {words}")
        holds.setEnabled(not self._presenter.workshop.read_only)
        holds.clicked.connect(lambda: self._presenter.settle(finding_id))
        across.addWidget(Words(words, "small", elide=True), 1)
        across.addWidget(holds, 0, Qt.AlignmentFlag.AlignRight)
        return line
