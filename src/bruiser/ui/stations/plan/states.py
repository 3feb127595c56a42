"""How knots are tied and loaded: the axes of the matrix beyond lots and knots."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from bruiser.core.records.methods import METHOD_LIST, STRAIGHT
from bruiser.core.records.records import CROSSED, DRESSED
from bruiser.ui.kit.fields import ChoiceField, Field, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Words
from bruiser.ui.stations.plan.presenter import PlanPresenter
from bruiser.ui.theme.tokens import SPACE

_METHODS = [(m.key, m.key) for m in METHOD_LIST if m.key != STRAIGHT]
_DRESSINGS = [(DRESSED, "dressed"), (CROSSED, "crossed on purpose")]
_MOST_NUMBERS = 4
ROW_HEIGHT = 26


class StatesPage(QWidget):
    """Ticks for methods, dressing, hosts, the other end and the other line; a method's numbers."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.methods = Ticks("Loaded how (none: ramp to failure)", "plan.methods")
        self.of = ChoiceField("Numbers of", "plan.numbers.of")
        self.numbers = [Field(f"Number {n + 1}", f"plan.numbers.{n}") for n in range(_MOST_NUMBERS)]
        self.dressings = Ticks("Dressing", "plan.dressings")
        self.fixtures = Ticks("Host, edge or plate", "plan.hosts")
        self.others = Ticks("Also with this at the other end", "plan.others")
        self.lots_b = Ticks("Other line, or host rope", "plan.lots_b")
        self.pair = QCheckBox("States of a knot from the same hank")
        self.pair.setObjectName("plan.pair")
        self.pair.setAccessibleName(self.pair.text())
        self.ends_when = Words("", "small", "muted")
        self._offered: tuple[object, ...] = ()
        self._build()
        self._connect()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.methods, 4)
        self.methods.list.setMinimumHeight(4 * ROW_HEIGHT)
        for short in (self.fixtures, self.lots_b, self.others):
            short.list.setMaximumHeight(4 * ROW_HEIGHT)
        self.dressings.list.setFixedHeight(2 * ROW_HEIGHT + 4)
        column.addWidget(self.of)
        first, second = self.numbers[:2], self.numbers[2:]
        column.addLayout(side_by_side(*((f, 1) for f in first)))
        column.addLayout(side_by_side(*((f, 1) for f in second)))
        column.addWidget(self.ends_when)
        column.addWidget(self.dressings)
        column.addLayout(side_by_side((self.fixtures, 1), (self.lots_b, 1)))
        column.addWidget(self.others, 2)
        column.addWidget(self.pair)
        self.methods.offer(_METHODS)
        self.dressings.offer(_DRESSINGS, (DRESSED,))

    def _connect(self) -> None:
        for ticks in (self.methods, self.dressings, self.fixtures, self.others, self.lots_b):
            ticks.list.itemChanged.connect(lambda _: self._on_picked())
        self.pair.toggled.connect(lambda _: self._on_picked())
        self.of.chosen.connect(lambda _: self._show_numbers())
        for field in self.numbers:
            field.entry.editingFinished.connect(self._on_numbers)

    def _on_picked(self) -> None:
        self._presenter.pick_states(
            self.methods.keys,
            self.dressings.keys,
            self.fixtures.keys,
            self.others.keys,
            self.lots_b.keys,
            self.pair.isChecked(),
        )
        picked = [m.key for m in self._presenter.draft.methods if m.method.parameters]
        self.of.offer([(k, k) for k in picked])
        self._show_numbers()

    def _show_numbers(self) -> None:
        found = self._presenter.method_parameters(self.of.text)
        self.of.setVisible(bool(found))
        for n, field in enumerate(self.numbers):
            field.setVisible(n < len(found))
            if n < len(found):
                parameter, text = found[n]
                field.label.say(parameter.label)
                field.entry.setAccessibleName(parameter.label)
                field.fill(text)
                field.complain("")
        method = next((m for m in METHOD_LIST if m.key == self.of.text), None)
        self.ends_when.say("" if method is None else f"Ends when {method.ends_when}.")
        self.ends_when.setVisible(method is not None and bool(found))

    def _on_numbers(self) -> None:
        key = self.of.text
        found = self._presenter.method_parameters(key)
        texts = {p.key: self.numbers[n].text for n, (p, _) in enumerate(found)}
        errors = self._presenter.read_parameters(key, texts)
        for n, (p, _) in enumerate(found):
            self.numbers[n].complain(errors.get(p.key, ""))

    def offer(self) -> None:
        """Offer what the campaign has to pick from."""
        p, logbook = self._presenter, self._presenter.logbook
        if logbook is None:
            return
        knots = [(x.id, x.title) for x in logbook.knots_in_play]
        wanted = (tuple(p.fixtures()), tuple(p.second_lines()), tuple(knots))
        if wanted == self._offered:
            return
        self._offered = wanted
        for ticks, options, picked in (
            (self.fixtures, p.fixtures(), p.draft.fixture_ids),
            (self.lots_b, p.second_lines(), p.draft.lot_b_ids),
            (self.others, knots, p.draft.others),
        ):
            ticks.list.blockSignals(True)
            ticks.offer(options, picked)
            ticks.list.blockSignals(False)
        self._show_numbers()
