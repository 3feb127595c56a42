"""A structure of one's own: adapted from the one shown, or new beside it."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from bruiser.catalogue.structure import Answer
from bruiser.core.records.families import FAMILIES
from bruiser.core.records.layouts import LAYOUTS
from bruiser.ui.kit.fields import ChoiceField, Field, Form, Labelled, LongField
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.knots.path_preview import PathPreview
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.theme.tokens import SPACE

_LONG = (
    ("names", "Names, a line each, as “name: trade”", 3),
    ("directions", "Loaded, a line each", 3),
    ("front", "Dressed, one face", 3),
    ("back", "The other face", 3),
    ("dressing", "Dressed when, a line each", 4),
    ("setting", "Set, a step a line", 4),
    ("opening", "How it is opened after load", 3),
    ("weaknesses", "Weak where, a line each", 3),
    ("never", "Never, a line each", 3),
    ("opinions", "Opinions differ, a line each", 3),
)
_ANSWERS = (
    ("needs_end", "Needs an end"),
    ("in_the_bight", "Tied in the bight"),
    ("closed_ring", "Round a closed ring"),
    ("slippery", "Holds in slippery cord, by repute"),
    ("opens", "Opens after load, by repute"),
)
_NUMBERS = (
    ("cord_use_d", "Cord, in d"),
    ("tail_usual_d", "Tail, in d"),
    ("tail_floor_d", "Tail at least, in d"),
    ("ends", "Rope ends"),
    ("legs", "Legs that can be loaded"),
)


class OwnSheet(Card):
    """Everything the catalogue says of a structure, to be changed for this campaign."""

    def __init__(self, presenter: KnotsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        fields: dict[str, Labelled] = {}
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(SPACE["s"])
        for column in range(6):
            grid.setColumnStretch(column, 1)

        def put(name: str, made: Labelled, row: int, column: int, span: int) -> None:
            fields[name] = made
            grid.addWidget(made, row, column, 1, span)

        for n, (name, label, lines) in enumerate(_LONG):
            put(name, LongField(label, f"knots.own.{name}", lines=lines), n // 2, 3 * (n % 2), 3)
        row = (len(_LONG) + 1) // 2
        families = {f: f for f in FAMILIES}
        put("family", ChoiceField("Family", "knots.own.family", families), row, 0, 3)
        layouts = {key: layout.title for key, layout in LAYOUTS.items() if key != "baseline"}
        put("layout", ChoiceField("Lies on the bench as", "knots.own.layout", layouts), row, 3, 3)
        answers = {a.value: a.value for a in Answer}
        for n, (name, label) in enumerate(_ANSWERS):
            made = ChoiceField(label, f"knots.own.{name}", answers)
            put(name, made, row + 1 + n // 3, 2 * (n % 3), 2)
        for n, (name, label) in enumerate(_NUMBERS):
            put(name, Field(label, f"knots.own.{name}"), row + 3 + n // 3, 2 * (n % 3), 2)
        self.preview = PathPreview()
        put("drawing", self.preview.field, row + 5, 0, 3)
        grid.addWidget(self.preview, row + 5, 3, 1, 3)
        self.form = Form(fields)
        self.said = Words(
            "Kept in this campaign only; the catalogue that ships stays as it is. Variants and "
            "look-alikes are taken over from the structure shown.",
            "small",
            "muted",
        )
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName("knots.own.wrong")
        self.adapt = button("Keep the change", "knots.own.adapt")
        self.make = button("Keep as a new knot", "knots.own.make")
        self.drop = button("Take it back", "knots.own.drop")
        self.anyway = button("It is right, keep it", "knots.own.anyway")
        self._adapt = True
        scroll = Scrolled("knots.own")
        scroll.replace([inner])
        self.column.addWidget(self.said)
        self.column.addWidget(scroll, 1)
        self.column.addWidget(self.wrong)
        across = QHBoxLayout()
        across.addWidget(self.drop)
        across.addStretch(1)
        across.addWidget(self.anyway)
        across.addWidget(self.make)
        across.addWidget(self.adapt)
        self.column.addLayout(across)
        presenter.shown_changed.connect(self._on_shown)
        self.adapt.clicked.connect(lambda: self._on_store(adapt=True))
        self.make.clicked.connect(lambda: self._on_store(adapt=False))
        self.drop.clicked.connect(presenter.drop_own)
        self.anyway.clicked.connect(lambda: self._on_store(adapt=self._adapt, anyway=True))
        self.anyway.hide()

    def _on_shown(self) -> None:
        self.form.fill(self._presenter.own_texts())
        self.drop.setVisible(self._presenter.is_own)
        self.wrong.say("")
        self.anyway.hide()

    def _on_store(self, *, adapt: bool, anyway: bool = False) -> None:
        self._adapt = adapt
        checked = self._presenter.store_own(self.form.texts(), adapt=adapt, anyway=anyway)
        self.anyway.setVisible(bool(checked.asks) and not checked.errors)
        if checked.stored:
            return
        self.form.complain(checked.errors, checked.asks)
        rest = [m for name, m in checked.errors.items() if name not in self.form.fields]
        self.wrong.say(" ".join(rest))
