"""The plan station: what is pulled and how often, and what it is cut from."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from bruiser.figures.plan_charts import cuts_figure, matrix_figure, precision_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Chips, Choice, Field, Form, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.stations.plan.bench import BenchPanel
from bruiser.ui.stations.plan.presenter import PlanPresenter
from bruiser.ui.theme.tokens import SHELF_WIDTH, SPACE

PANELS = {"matrix": "What and how often", "cuts": "Cut from what", "bench": "On which bench"}
ENDS = {"both": "at both ends", "one": "at one end"}


class MatrixPanel(QWidget):
    """Knots and lots picked on the axes, what each cell buys, and what it all costs."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.lots = Ticks("Lots", "plan.lots")
        self.knots = Ticks("Knots in play", "plan.knots")
        self.fields = {
            "pulls": Field("Pulls each", "plan.pulls", hint="5"),
            "ends": Choice("Loops are tied", "plan.ends", ENDS),
            "span": Field("Span", "plan.span", hint="400 mm"),
            "pin": Field("Pin", "plan.pin", hint="12 mm"),
            "hours": Field("Hours a day", "plan.hours", hint="6"),
            "wanted": Field("Wanted, ± points", "plan.wanted", hint="3"),
            "tell": Field("Tell apart by, points", "plan.tell", hint="5"),
            "seed": Field("Order seed", "plan.seed", hint="1"),
            "technicians": Field("Technicians, taking turns", "plan.technicians", hint="TV, OQ"),
        }
        self.form = Form(self.fields)
        self.matrix = FigureView("plan.matrix", tappable=True)
        self.empty = Words("Tick lots and knots; the matrix comes here.", "body", "muted")
        self.curve = FigureView("plan.curve")
        self.filler = QWidget()
        self.curve_words = Words("", "small", "muted")
        self.curve_words.setObjectName("plan.curve.words")
        self.cost = Words("", "body")
        self.cost.setObjectName("plan.cost")
        self.short = Words("", "strong-small", "ochre")
        self.short.setObjectName("plan.short")
        self.queue = button("Put into the queue", "plan.queue", "primary")
        self._offered: tuple[object, ...] = ()
        self._build()
        self._connect()

    def _build(self) -> None:
        left = Card("PICK")
        left.setFixedWidth(SHELF_WIDTH)
        left.column.setSpacing(SPACE["s"])
        left.column.addWidget(self.lots, 2)
        left.column.addWidget(self.knots, 3)
        f = self.fields
        left.column.addLayout(side_by_side((f["pulls"], 1), (f["ends"], 2)))
        left.column.addLayout(side_by_side((f["span"], 1), (f["pin"], 1), (f["seed"], 1)))
        left.column.addLayout(side_by_side((f["wanted"], 1), (f["tell"], 1)))
        left.column.addLayout(side_by_side((f["hours"], 1), (f["technicians"], 2)))
        matrix = Card("THE MATRIX: THERE + PLANNED")
        matrix.column.addWidget(self.matrix, 1)
        matrix.column.addWidget(self.empty, 1, Qt.AlignmentFlag.AlignTop)
        curve = Card("WHAT THE PULLS WOULD BUY")
        curve.column.addWidget(self.curve, 1)
        curve.column.addWidget(self.curve_words)
        curve.column.addWidget(self.filler, 1)
        cost = Card()
        row = QHBoxLayout()
        words = QVBoxLayout()
        words.addWidget(self.cost)
        words.addWidget(self.short)
        row.addLayout(words, 1)
        row.addWidget(self.queue, 0, Qt.AlignmentFlag.AlignBottom)
        cost.column.addLayout(row)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        right.addWidget(matrix, 5)
        right.addWidget(curve, 4)
        right.addWidget(cost)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["m"])
        across.addWidget(left)
        across.addLayout(right, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        p.curve_changed.connect(self._draw_curve)
        for ticks in (self.lots, self.knots):
            ticks.list.itemChanged.connect(lambda _: p.pick(self.lots.keys, self.knots.keys))
        for field in self.fields.values():
            if isinstance(field, Field):
                field.entry.editingFinished.connect(self._on_typed)
            elif isinstance(field, Choice):
                field.chosen.connect(lambda _: self._on_typed())
        self.matrix.spot_tapped.connect(p.toggle)
        self.matrix.resized.connect(self._draw_matrix)
        self.curve.resized.connect(self._draw_curve)
        self.queue.clicked.connect(p.queue)
        self.form.fill(p.texts())

    def _on_typed(self) -> None:
        errors = self._presenter.read(self.form.texts())
        for name, field in self.fields.items():
            field.complain(errors.get(name, ""))

    def _on_changed(self) -> None:
        p, journal = self._presenter, self._presenter.journal
        if journal is None:
            return
        lots = [(x.id, x.name) for x in journal.lots_in_use]
        knots = [(x.id, x.title) for x in journal.knots_in_play]
        wanted = (tuple(lots), tuple(knots), p.draft.lot_ids, p.draft.knot_ids)
        if wanted != self._offered:
            self._offered = wanted
            for ticks, options, picked in (
                (self.lots, lots, p.draft.lot_ids),
                (self.knots, knots, p.draft.knot_ids),
            ):
                if ticks.keys != picked or ticks.list.count() != len(options):
                    ticks.list.blockSignals(True)
                    ticks.offer(options, picked)
                    ticks.list.blockSignals(False)
        if not any(f.complaint for f in self.fields.values()):
            self.form.fill(p.texts())
        found = p.outlook()
        cost, short = ("", "") if found is None else p.outlook_words(found)
        self.cost.say(cost or p.queued_words())
        self.short.say(short)
        self.short.setVisible(bool(short))
        count = 0 if found is None else found.specimens
        self.queue.setEnabled(count > 0)
        self.queue.setText(f"Queue {count} specimens" if count else "Put into the queue")
        self._draw_matrix()
        self._draw_curve()

    def _draw_matrix(self) -> None:
        p = self._presenter
        lots, rows = p.matrix()
        some = bool(lots and rows)
        self.matrix.setVisible(some)
        self.empty.setVisible(not some)
        if some:
            picked = "" if p.selected is None else "|".join(p.selected)
            page = self.matrix.page_mm()
            self.matrix.show_figure(matrix_figure(lots, rows, *page, picked))

    def _draw_curve(self) -> None:
        p = self._presenter
        lines = p.lines()
        self.curve.setVisible(bool(lines))
        self.filler.setVisible(not lines)
        self.curve_words.say(p.curve_words())
        if lines:
            page = self.curve.page_mm()
            self.curve.show_figure(precision_figure(lines, *page, p.draft.pulls))


class CutsPanel(Card):
    """The cuts of a lot along its hanks, cutting them all, and the sheet to print."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.lot = Choice("Lot", "plan.cuts.lot")
        self.figure = FigureView("plan.cuts.figure")
        self.words = Words("", "body")
        self.words.setObjectName("plan.cuts.words")
        self.trouble = Words("", "strong-small", "ochre")
        self.trouble.setObjectName("plan.cuts.trouble")
        self.stop = button("Stop, take the best so far", "plan.cuts.stop")
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
        below.addStretch(1)
        below.addWidget(self.sheet)
        below.addWidget(self.cut)
        self.column.addLayout(below)
        presenter.changed.connect(self._on_changed)
        presenter.cuts_changed.connect(self._on_cuts)
        self.lot.chosen.connect(presenter.plan_cuts)
        self.stop.clicked.connect(presenter.stop_cuts)
        self.cut.clicked.connect(presenter.cut_all)
        self.sheet.clicked.connect(self._on_sheet)
        self.figure.resized.connect(self._draw)

    def _on_changed(self) -> None:
        self.lot.offer(self._presenter.cut_lots())

    def _on_cuts(self) -> None:
        p = self._presenter
        self.lot.offer(p.cut_lots())
        self.lot.fill(p.cut_lot_id)
        words, trouble = p.cut_words()
        self.words.say(words)
        self.trouble.say(trouble)
        ready = p.cuts is not None and p.cuts.plan is not None
        self.figure.setVisible(ready)
        self.filler.setVisible(not ready)
        self.stop.setVisible(bool(p.cut_lot_id) and p.cuts is None)
        self.sheet.setEnabled(ready)
        self.cut.setEnabled(ready and not p.workshop.read_only)
        self._draw()

    def _draw(self) -> None:
        hanks = self._presenter.cut_hanks()
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


class PlanView(StationPage):
    """Builds the plan station and connects it to its presenter."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__("plan")
        self._presenter = presenter
        self.panels = Chips("plan.panel", PANELS)
        self.matrix = MatrixPanel(presenter)
        self.cuts = CutsPanel(presenter)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.matrix)
        self.stack.addWidget(self.cuts)
        self.bench = BenchPanel(presenter.bench)
        self.stack.addWidget(self.bench)
        self.first = self.matrix.lots.list
        self.corner.addWidget(self.panels)
        self.body.addWidget(self.stack, 1)
        self.panels.chosen.connect(self._on_panel)
        presenter.changed.connect(self._on_changed)

    def _on_panel(self, key: str) -> None:
        self.stack.setCurrentIndex(list(PANELS).index(key))
        self._presenter.show_panel(key)

    def _on_changed(self) -> None:
        self.title.say("How many, cut from what, in which order")
        self.subtitle.say(self._presenter.queued_words())
