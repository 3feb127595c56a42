"""The queue: what waits, in which order, when it comes to the bench, and what is done with it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from bruiser.core.records.preparation import PrepStep
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.stations.plan.queue_presenter import COLUMNS, QueuePresenter
from bruiser.ui.theme.tokens import SPACE

_WIDTHS = (1.0, 3.6, 1.4, 1.5, 1.4, 1.4, 1.4)
_STEPS = {
    PrepStep.TIED: "Tied",
    PrepStep.CHECKED: "Checked",
    PrepStep.SOAKING: "Soak begins",
}


class QueuePanel(Card):
    """The queue as a table, with the steps to record and the order to change."""

    def __init__(self, presenter: QueuePresenter) -> None:
        super().__init__("WAITING, IN THE ORDER OF THE PULLS")
        self._presenter = presenter
        self.table = RowsTable("plan.queue.table", "Specimens that wait", COLUMNS, _WIDTHS)
        self.counts = Words("", "body")
        self.counts.setObjectName("plan.queue.counts")
        self.void = Words("", "strong-small", "ochre")
        self.void.setObjectName("plan.queue.void")
        self.by = Field("By (initials)", "plan.queue.by", hint="TV")
        self.seed = Field("Order seed", "plan.queue.seed", hint="1")
        self.steps = {
            step: button(words, f"plan.queue.{step.value}") for step, words in _STEPS.items()
        }
        self.drop = button("Drop", "plan.queue.drop")
        self.shuffle = button("Shuffle the rest anew", "plan.queue.shuffle")
        self.replace = button("Replace what is void", "plan.queue.replace")
        self._build()
        self._connect()

    def _build(self) -> None:
        self.column.setSpacing(SPACE["s"])
        self.column.addWidget(self.table, 1)
        self.column.addWidget(self.counts)
        row = QHBoxLayout()
        row.addWidget(self.by, 1)
        for made in (*self.steps.values(), self.drop):
            row.addWidget(made, 0, Qt.AlignmentFlag.AlignBottom)
        row.addStretch(1)
        row.addWidget(self.seed, 1)
        row.addWidget(self.shuffle, 0, Qt.AlignmentFlag.AlignBottom)
        self.column.addLayout(row)
        voids = QHBoxLayout()
        words = QVBoxLayout()
        words.addWidget(self.void)
        words.addWidget(
            Words(
                "Select rows, then say what was done. A specimen is checked by somebody who did "
                "not tie it. What was begun stays, also when the rest is planned anew.",
                "small",
                "muted",
            )
        )
        voids.addLayout(words, 1)
        voids.addWidget(self.replace)
        self.column.addLayout(voids)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        for step, made in self.steps.items():
            made.clicked.connect(lambda _=False, s=step: p.record(self.table.keys, s, self.by.text))
        self.drop.clicked.connect(lambda: p.drop(self.table.keys))
        self.shuffle.clicked.connect(lambda: p.shuffle(self.seed.text))
        self.replace.clicked.connect(p.replace_void)
        self.table.chosen.connect(self._on_chosen)

    def _on_changed(self) -> None:
        p = self._presenter
        self.table.show_rows(p.rows())
        self.counts.say(p.counts())
        void = p.void_words()
        self.void.say(void)
        self.void.setVisible(bool(void))
        self.replace.setVisible(bool(void))
        self._on_chosen()

    def _on_chosen(self) -> None:
        some = bool(self.table.keys) and not self._presenter.workshop.read_only
        for made in (*self.steps.values(), self.drop):
            made.setEnabled(some)
