"""The plan station: what is pulled and how often, and what it is cut from."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.figures.plan_charts import matrix_figure, precision_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import Chips, ChoiceField, Field, Form, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.stations.plan.bench import BenchBookPanel
from bruiser.ui.stations.plan.cuts import CutsPanel
from bruiser.ui.stations.plan.next import NextPanel
from bruiser.ui.stations.plan.on_purpose import OnPurposePage
from bruiser.ui.stations.plan.presenter import PlanPresenter
from bruiser.ui.stations.plan.queue import QueuePanel
from bruiser.ui.stations.plan.states import StatesPage
from bruiser.ui.theme.tokens import PX_PER_MM, SHELF_WIDTH, SPACE

PANELS = {
    "matrix": "What and how often",
    "queue": "In which order",
    "cuts": "Cut from what",
    "bench": "On which bench",
    "next": "What next",
}
PICKS = {"what": "Which", "how": "Loaded how", "purpose": "On purpose"}
SHARING = {"turns": "taking turns", "round": "each pulls every knot"}
ENDS = {"both": "at both ends", "one": "at one end"}


class MatrixPanel(QWidget):
    """Knots and lots picked on the axes, what each cell buys, and what it all costs."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.lots = Ticks("Lots, each in its condition", "plan.lots")
        self.knots = Ticks("Knots in play", "plan.knots")
        self.fields = {
            "pulls": Field("Pulls each", "plan.pulls", hint="5"),
            "ends": ChoiceField("Loops are tied", "plan.ends", ENDS),
            "span": Field("Span", "plan.span", hint="400 mm"),
            "pin": Field("Pin", "plan.pin", hint="12 mm"),
            "hours": Field("Hours a day", "plan.hours", hint="6"),
            "wanted": Field("Wanted ±, pts", "plan.wanted", hint="3"),
            "tell": Field("Apart by, pts", "plan.tell", hint="5"),
            "seed": Field("Order seed", "plan.seed", hint="1"),
            "sharing": ChoiceField("They share it", "plan.sharing", SHARING),
            "technicians": Field("Technicians", "plan.technicians", hint="TV, OQ"),
        }
        self.form = Form(self.fields)
        self.picks = Chips("plan.picks", PICKS)
        self.states = StatesPage(presenter)
        self.on_purpose = OnPurposePage(presenter)
        self.pages = ShownStack()
        self.matrix = FigureView("plan.matrix", tappable=True)
        self.rows_room = Scrolled("plan.matrix.scroll")
        self.rows_room.column.addWidget(self.matrix)
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
        left = Card()
        left.setFixedWidth(SHELF_WIDTH)
        left.column.addWidget(self.picks)
        left.column.addWidget(self.pages, 1)
        what = QWidget()
        column = QVBoxLayout(what)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.lots, 2)
        column.addWidget(self.knots, 3)
        f = self.fields
        column.addLayout(side_by_side((f["pulls"], 1), (f["ends"], 2)))
        column.addLayout(side_by_side((f["span"], 1), (f["pin"], 1), (f["seed"], 1)))
        column.addLayout(side_by_side((f["wanted"], 1), (f["tell"], 1), (f["hours"], 1)))
        column.addLayout(side_by_side((f["technicians"], 2), (f["sharing"], 3)))
        self.pages.addWidget(what)
        self.pages.addWidget(self.states)
        self.pages.addWidget(self.on_purpose)
        matrix = Card("THE MATRIX: THERE + PLANNED")
        matrix.column.addWidget(self.rows_room, 1)
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
        self.picks.chosen.connect(lambda key: self.pages.setCurrentIndex(list(PICKS).index(key)))
        for ticks in (self.lots, self.knots):
            ticks.list.itemChanged.connect(lambda _: p.pick(self.lots.keys, self.knots.keys))
        for field in self.fields.values():
            if isinstance(field, Field):
                field.entry.editingFinished.connect(self._on_typed)
            elif isinstance(field, ChoiceField):
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
        p, logbook = self._presenter, self._presenter.logbook
        if logbook is None:
            return
        lots = [(x.id, x.name) for x in logbook.lots_in_use]
        knots = [(x.id, x.title) for x in logbook.knots_in_play]
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
        self.states.offer()
        self.on_purpose.offer()
        if not any(f.complaint for f in self.fields.values()):
            self.form.fill(p.texts())
        found = p.outlook()
        cost, short = ("", "") if found is None else p.outlook_words(found)
        refused = p.refused()
        said = " ".join([*refused[:2], short, *p.doubts()[:1]]).strip()
        self.cost.say(cost or p.queued_words())
        self.short.say(said, "brick" if refused else "ochre")
        self.short.setVisible(bool(said))
        count = 0 if found is None else found.specimens
        self.queue.setEnabled(count > 0 and not refused)
        self.queue.setText(f"Queue {count} specimens" if count else "Put into the queue")
        self._draw_matrix()
        self._draw_curve()

    def _draw_matrix(self) -> None:
        p = self._presenter
        lots, rows = p.matrix()
        some = bool(lots and rows)
        self.rows_room.setVisible(some)
        self.empty.setVisible(not some)
        if some:
            width, _ = self.matrix.page_mm()
            height = self.rows_room.height() / PX_PER_MM - 1.0
            figure = matrix_figure(lots, rows, width, height, p.selected)
            self.matrix.setMinimumHeight(round(figure.height * PX_PER_MM))
            self.matrix.show_figure(figure)

    def _draw_curve(self) -> None:
        p = self._presenter
        lines = p.lines()
        self.curve.setVisible(bool(lines))
        self.filler.setVisible(not lines)
        self.curve_words.say(p.curve_words())
        if lines:
            page = self.curve.page_mm()
            self.curve.show_figure(precision_figure(lines, *page, p.draft.pulls))


class PlanView(StationPage):
    """Builds the plan station and connects it to its presenter."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__("plan")
        self._presenter = presenter
        self.panels = Chips("plan.panel", PANELS, tight=True)
        self.matrix = MatrixPanel(presenter)
        self.cuts = CutsPanel(presenter.cutting)
        self.stack = ShownStack()
        self.queue = QueuePanel(presenter.queue_desk)
        self.stack.addWidget(self.matrix)
        self.stack.addWidget(self.queue)
        self.stack.addWidget(self.cuts)
        self.bench = BenchBookPanel(presenter.bench)
        self.stack.addWidget(self.bench)
        self.next = NextPanel(presenter.next)
        self.stack.addWidget(self.next)
        self.first = self.matrix.lots.list
        self.corner.addWidget(self.panels)
        self.body.addWidget(self.stack, 1)
        self.panels.chosen.connect(self._on_panel)
        presenter.changed.connect(self._on_changed)

    @override
    def begin(self) -> None:
        """Pick every lot and knot that is in play; the rest is taking some away again."""
        self.panels.pick("matrix")
        logbook = self._presenter.logbook
        if logbook is not None and not self._presenter.draft.knot_ids:
            self._presenter.pick(
                tuple(lot.id for lot in logbook.lots_in_use),
                tuple(knot.id for knot in logbook.knots_in_play),
            )
        self.matrix.queue.setFocus()

    def _on_panel(self, key: str) -> None:
        self.stack.setCurrentIndex(list(PANELS).index(key))
        self._presenter.show_panel(key)

    def _on_changed(self) -> None:
        self.title.say("The pulls to come")
        self.subtitle.say(self._presenter.queued_words())
