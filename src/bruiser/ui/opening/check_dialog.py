"""What a look through the campaign found, and the way to rescue what reads."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.core.words import count
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.exchange.rescuing import CheckUp

COLUMNS = ("table", "row", "field", "why")
_WIDTHS = (1.0, 1.6, 1.0, 3.0)
_SIZE = (760, 460)
_MOST_SHOWN = 500


class CheckDialog(QDialog):
    """Lists the rows that cannot be read; everything else is unharmed."""

    rescue_wanted = pyqtSignal()

    def __init__(self, found: CheckUp, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("check")
        self.setWindowTitle("Look for damage")
        self.resize(*_SIZE)
        self.rows = RowsTable("check.rows", "Rows that cannot be read", COLUMNS, _WIDTHS)
        self.says = Words("", "body")
        self.says.setObjectName("check.says")
        self.rescue = button("Put what reads into a new campaign …", "check.rescue", "primary")
        self.close_it = button("Done", "check.done")
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        sound = "Sound: every row and every trace can be read."
        column.addWidget(Words("Look for damage", "title"))
        column.addWidget(self.says)
        column.addWidget(self.rows, 1)
        if found.sound:
            self.says.say(sound, "moss")
        elif found.unreadable:
            self.says.say(found.unreadable, "brick")
        else:
            rows = count(len(found.rows), "row")
            self.says.say(f"{rows} cannot be read and set aside. Everything else is here.", "brick")
        self.rows.setVisible(bool(found.rows))
        self.rescue.setVisible(not found.sound)
        shown = found.rows[:_MOST_SHOWN]
        self.rows.show_rows(
            [(str(n), (r.table, r.row, r.field, r.why)) for n, r in enumerate(shown)]
        )
        below = QHBoxLayout()
        below.addStretch(1)
        for made in (self.rescue, self.close_it):
            made.setAutoDefault(False)
            below.addWidget(made)
        column.addLayout(below)
        self.rescue.clicked.connect(self._on_rescue)
        self.close_it.clicked.connect(self.reject)

    def _on_rescue(self) -> None:
        self.accept()
        self.rescue_wanted.emit()
