"""The cuts of a lot along its hanks, cutting them all, and the sheet to print."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QProgressBar, QWidget

from bruiser.figures.plan_charts import cuts_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.plan.cuts_presenter import CutsPresenter
from bruiser.ui.theme.tokens import SPACE


class CutsPanel(Card):
    """The cuts of a lot along its hanks, cutting them all, and the sheet to print."""

    def __init__(self, presenter: CutsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.lot = ChoiceField("Lot", "plan.cuts.lot")
        self.figure = FigureView("plan.cuts.figure")
        self.words = Words("", "body")
        self.words.setObjectName("plan.cuts.words")
        self.trouble = Words("", "strong-small", "ochre")
        self.trouble.setObjectName("plan.cuts.trouble")
        self.stop = button("Stop, take the best so far", "plan.cuts.stop")
        self.progress = QProgressBar()
        self.progress.setObjectName("plan.cuts.progress")
        self.progress.setAccessibleName("Planning the cuts")
        self.progress.setRange(0, 100)
        self._look = QTimer(self)
        self._look.setInterval(100)
        self._look.timeout.connect(lambda: self.progress.setValue(round(100 * presenter.progress)))
        self.sheet = button("Write the cut sheet", "plan.cuts.sheet")
        self.cut = button("Cut them all", "plan.cuts.cut", "primary")
        self.column.setSpacing(SPACE["s"])
        row = QHBoxLayout()
        row.addWidget(self.lot, 2)
        row.addStretch(3)
        self.column.addLayout(row)
        self.column.addWidget(self.figure, 1)
        self.filler = QWidget()
        self.column.addWidget(self.words)
        self.column.addWidget(self.trouble)
        self.column.addWidget(self.filler, 1)
        self.column.addWidget(
            Words(
                "Longest piece first along each hank; lots are never mixed. Cut only what the "
                "sheet says, and write the code on every piece.",
                "small",
                "muted",
            )
        )
        below = QHBoxLayout()
        below.addWidget(self.stop)
        below.addWidget(self.progress, 1)
        below.addStretch(1)
        below.addWidget(self.sheet)
        below.addWidget(self.cut)
        self.column.addLayout(below)
        presenter.changed.connect(self._on_cuts)
        self.lot.chosen.connect(presenter.plan)
        self.stop.clicked.connect(presenter.stop)
        self.cut.clicked.connect(presenter.cut_all)
        self.sheet.clicked.connect(self._on_sheet)
        self.figure.resized.connect(self._draw)

    def _on_cuts(self) -> None:
        p = self._presenter
        self.lot.offer(p.lots())
        self.lot.fill(p.lot_id)
        words, trouble = p.words()
        self.words.say(words)
        self.trouble.say(trouble)
        ready = p.cuts is not None and p.cuts.plan is not None
        self.figure.setVisible(ready)
        self.filler.setVisible(not ready)
        busy = bool(p.lot_id) and p.cuts is None
        self.stop.setVisible(busy)
        self.progress.setVisible(busy)
        if busy:
            self._look.start()
        else:
            self._look.stop()
        self.sheet.setEnabled(ready)
        self.cut.setEnabled(ready and not p.workshop.read_only)
        self._draw()

    def _draw(self) -> None:
        hanks = self._presenter.hanks()
        if hanks:
            width, height = self.figure.page_mm()
            pitch = min(15.0, max(9.0, height / len(hanks)))
            self.figure.show_figure(cuts_figure(hanks, width, pitch))

    def _on_sheet(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Write the cut sheet", "cut-sheet.html", "Web page (*.html)"
        )
        if name:
            self._presenter.write_sheet(Path(name))
