"""All that happened to a specimen, as a list."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QVBoxLayout, QWidget

from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.plain_table import PlainTable


class HistoryDialog(QDialog):
    """When, who, at which bench, what and why; nothing that was corrected is left out."""

    def __init__(
        self, title: str, rows: list[tuple[str, ...]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("findings.history.dialog")
        self.setWindowTitle(f"History of {title}")
        self.table = PlainTable(
            "findings.history.table", "History", ("when (UTC)", "who", "what", "why", "bench")
        )
        self.table.show_rows(rows)
        self.table.setWordWrap(True)
        widths = (150, 50, 400, 160)
        across = self.table.horizontalHeader()
        if across is not None:
            across.setSectionResizeMode(across.ResizeMode.Interactive)
            across.setStretchLastSection(True)
        for n, width in enumerate(widths):
            self.table.setColumnWidth(n, width)
        self.table.resizeRowsToContents()
        column = QVBoxLayout(self)
        column.addWidget(Words("Corrections stand beside what they correct.", "small", "muted"))
        column.addWidget(self.table, 1)
        self.resize(880, 460)
