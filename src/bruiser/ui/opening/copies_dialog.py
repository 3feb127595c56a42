"""Copies kept of a campaign: which there are, what differs, and one put back."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.store.backups import WHY_WORDS, Backup, BackupSchedule, clock_words
from bruiser.ui.kit.fields import ChoiceField
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.theme.tokens import SPACE

EVERY = {"1": "every day", "7": "every week", "30": "every month", "0": "never"}
COLUMNS = ("made", "why", "size")
_WIDTHS = (1.4, 2.4, 0.8)
_SIZE = (680, 520)


class CopiesDialog(QDialog):
    """Lists the copies; what differs is asked for when one is chosen.

    Parameters
    ----------
    compare : callable
        Is handed the path of a copy, and what takes the words that say how it differs.
    """

    keep_wanted = pyqtSignal()
    restore_wanted = pyqtSignal(str)
    schedule_chosen = pyqtSignal(int)

    def __init__(
        self,
        backups: list[Backup],
        schedule: BackupSchedule,
        compare: Callable[[Path, Callable[[str], None]], None],
        *,
        read_only: bool = False,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("copies")
        self.setWindowTitle("Copies kept")
        self.resize(*_SIZE)
        self._compare = compare
        self._asked = ""
        self.backups: dict[str, Backup] = {}
        self.list = RowsTable("copies.list", "Copies of this campaign", COLUMNS, _WIDTHS)
        self.says = Words("", "body", "muted")
        self.says.setObjectName("copies.says")
        self.every = ChoiceField("A copy is made by itself", "copies.every", EVERY)
        self.every.fill(str(schedule.every_days))
        self.keep = button("Keep a copy now", "copies.keep")
        self.restore = button("Put it back …", "copies.restore", "primary")
        self.close_it = button("Done", "copies.done")
        self._build()
        self.keep.setEnabled(not read_only)
        self._may = not read_only
        self.show_backups(backups)

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words("Copies kept of this campaign", "title"))
        column.addWidget(
            Words(
                "The last ten stay, the oldest of each month, and those before a merge or an "
                "upgrade of the last month, in a folder beside the campaign. "
                "Putting one back keeps a copy of what is there now.",
                "small",
                "muted",
            )
        )
        column.addWidget(self.list, 1)
        column.addWidget(self.says)
        below = QHBoxLayout()
        below.addWidget(self.every, 2)
        below.addStretch(1)
        for made in (self.keep, self.restore, self.close_it):
            made.setAutoDefault(False)
            below.addWidget(made)
        column.addLayout(below)
        self.list.chosen.connect(self._on_chosen)
        self.every.chosen.connect(lambda days: self.schedule_chosen.emit(int(days)))
        self.keep.clicked.connect(self.keep_wanted)
        self.restore.clicked.connect(self._on_restore)
        self.close_it.clicked.connect(self.reject)

    def show_backups(self, backups: list[Backup]) -> None:
        """Show these copies, the newest first."""
        self.backups = {str(b.path): b for b in backups}
        self.list.show_rows(
            [
                (
                    key,
                    (
                        f"{b.made_at.astimezone():%Y-%m-%d %H:%M %Z}",
                        WHY_WORDS[b.why],
                        f"{b.size / 1e6:.1f} MB",
                    ),
                )
                for key, b in self.backups.items()
            ]
        )
        self._on_chosen()

    @property
    def chosen(self) -> str:
        """The copy that is chosen, by its path; empty for none or several."""
        keys = self.list.keys
        return keys[0] if len(keys) == 1 else ""

    def _on_chosen(self) -> None:
        key = self.chosen
        self.restore.setEnabled(bool(key) and self._may)
        if not key:
            some = "Choose one to see what differs."
            odd = clock_words(list(self.backups.values()), datetime.now(UTC))
            words = f"{odd} {some}".strip() if self.backups else "No copy is kept yet."
            self.says.say(words, "ochre" if odd else "muted")
            return
        self._asked = key
        self.says.say("Working out what differs …", "muted")
        self._compare(Path(key), lambda words: self._said(key, words))

    def _said(self, key: str, words: str) -> None:
        if key == self._asked == self.chosen:
            self.says.say(f"Put back: {words}.", "ink")

    def _on_restore(self) -> None:
        key = self.chosen
        if key:
            self.accept()
            self.restore_wanted.emit(key)
