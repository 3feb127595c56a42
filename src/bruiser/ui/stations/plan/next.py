"""What to pull next for a use: bars, the next block with its reasons, and one button for it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from bruiser.core.words import count
from bruiser.figures.next_chart import worth_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField, Field, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.plan.next_presenter import NextPresenter
from bruiser.ui.theme.tokens import PX_PER_MM, SHELF_WIDTH, SPACE
from bruiser.workshop.course.next_words import (
    aside_words,
    block_words,
    doubt_words,
    pick_words,
    room_words,
    stage_words,
)

HINT = (
    "Bars say which knot's pulls are worth most beside the others; they are no points. The rule "
    "ranks rightly, and promises two to four times too much."
)


class NextPanel(QWidget):
    """Builds the panel and connects it to its presenter."""

    def __init__(self, presenter: NextPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.use = ChoiceField("What it is for", "plan.next.use")
        self.lot = ChoiceField("In which cordage", "plan.next.lot")
        self.budget = Field("Pulls in all", "plan.next.budget", hint="8 of each")
        self.hours = Field("Bench hours left", "plan.next.hours", hint="no limit")
        self.knots = Ticks("In the running", "plan.next.knots")
        self.chart = FigureView("plan.next.chart")
        self.room = Scrolled("plan.next.scroll")
        self.stage = Words("", "body")
        self.stage.setObjectName("plan.next.stage")
        self.more = Words("", "small", "muted")
        self.more.setObjectName("plan.next.more")
        self.why = Words("", "small")
        self.why.setObjectName("plan.next.why")
        self.block = RowsTable("plan.next.block", "The next block", ("pull", "why"), (1.0, 2.4))
        self.jam = button("Jam ladder of …", "plan.next.jam", "chip")
        self.jam.setAccessibleName("Begin a jam ladder, or go on with it")
        self._jams = QMenu(self.jam)
        self.jam.setMenu(self._jams)
        self._jams.aboutToShow.connect(self._offer_jams)
        self.queue = button("Queue this block", "plan.next.queue", "primary")
        self.first = self.use.box
        self._lay_out()
        p = presenter
        p.changed.connect(self._on_changed)
        self.use.chosen.connect(lambda key: p.pick(use=key))
        self.lot.chosen.connect(lambda key: p.pick(lot_id=key))
        self.budget.entry.editingFinished.connect(
            lambda: self.budget.complain(p.read_budget(self.budget.text))
        )
        self.hours.entry.editingFinished.connect(
            lambda: self.hours.complain(p.read_hours(self.hours.text))
        )
        self.knots.list.itemChanged.connect(lambda _: self._on_ticked())
        self.queue.clicked.connect(p.queue)
        self.chart.resized.connect(self._draw)

    def _lay_out(self) -> None:
        left = Card()
        left.setFixedWidth(SHELF_WIDTH)
        left.column.addWidget(self.use)
        left.column.addWidget(self.lot)
        left.column.addLayout(side_by_side((self.budget, 1), (self.hours, 1)))
        left.column.addWidget(self.knots, 1)
        bars = Card("WHAT A FEW MORE PULLS ARE WORTH, BY THE HOUR")
        self.room.column.addWidget(self.chart)
        self.room.column.addStretch(1)
        bars.column.addWidget(self.room, 1)
        bars.column.addWidget(Words(HINT, "small", "muted"))
        block = Card("THE NEXT BLOCK, IN ITS ORDER")
        block.column.addWidget(self.stage)
        block.column.addWidget(self.why)
        block.column.addWidget(self.block, 1)
        below = QHBoxLayout()
        below.addWidget(self.more, 1)
        below.addWidget(self.jam, 0, Qt.AlignmentFlag.AlignBottom)
        below.addWidget(self.queue, 0, Qt.AlignmentFlag.AlignBottom)
        block.column.addLayout(below)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        right.addWidget(bars, 5)
        right.addWidget(block, 6)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["m"])
        across.addWidget(left)
        across.addLayout(right, 1)

    def _offer_jams(self) -> None:
        self._jams.clear()
        for key, name in self._presenter.jams:
            action = self._jams.addAction(name)
            if action is not None:
                action.triggered.connect(lambda _=False, k=key: self._presenter.begin_ladder(k))

    def _on_ticked(self) -> None:
        p = self._presenter
        ticked = self.knots.keys
        out = frozenset(key for key, _ in p.knots() if ticked and key not in ticked)
        p.pick(aside=out, usual=p.wish.usual)

    def _on_changed(self) -> None:
        p = self._presenter
        up, wish = p.up, p.wish
        self.use.offer(list(p.uses().items()))
        self.use.fill(wish.use)
        self.lot.offer(p.lots())
        self.lot.fill(wish.lot_id)
        if not self.budget.complaint:
            self.budget.fill("" if wish.budget is None else str(wish.budget))
        options = p.knots()
        self.knots.list.blockSignals(True)
        self.knots.offer(options, tuple(key for key, _ in options if key not in wish.aside))
        self.knots.list.blockSignals(False)
        self.queue.setEnabled(p.can_queue)
        self.jam.setEnabled(bool(p.jams))
        if up is None:
            self.stage.say("Receive cordage and put knots in play first: then it is worked out.")
            for words in (self.why, self.more):
                words.say("")
            self.block.show_rows(())
            self._draw()
            return
        number = len(up.found.picks)
        verb = "Confirm with" if p.confirms else "Queue"
        self.queue.setText(f"{verb} these {number}" if number else "Queue this block")
        self.stage.say(stage_words(up), "brick" if p.refused else "ink")
        self.why.say("" if up.waiting else block_words(up))
        said = [doubt_words(up), room_words(up)]
        aside = aside_words(up)
        if aside:
            said.append(f"{count(len(aside), 'knot')} not in the running: {'; '.join(aside[:2])}.")
        self.more.say(" ".join(part for part in said if part))
        rows = () if up.waiting else up.found.picks
        self.block.show_rows(tuple((str(n), pick_words(up, x)) for n, x in enumerate(rows)))
        self._draw()

    def _draw(self) -> None:
        width, _ = self.chart.page_mm()
        figure = worth_figure(self._presenter.rows(), width)
        self.chart.setMinimumHeight(round(figure.height * PX_PER_MM))
        self.chart.show_figure(figure)
