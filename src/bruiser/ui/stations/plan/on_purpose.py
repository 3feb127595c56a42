"""What is done on purpose: legs that are loaded, tails, eyes, damage, closed slings."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bruiser.ui.kit.fields import ChoiceField, Field, Form, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Words
from bruiser.ui.stations.plan.presenter import PlanPresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.plan.state_entry import BENDS

_NOTE = (
    "Legs: for “cross and reverse”, and the other way also for grips. Each list makes a row of its "
    "own for every number; 0 and “usual” are the plain way. A cut lies in the eye of a midline "
    "loop; plain rope cut as deep is planned beside it."
)


class OnPurposePage(QWidget):
    """Ticks for the legs; fields for tails, eyes, damage and slings."""

    def __init__(self, presenter: PlanPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.legs = Ticks("Legs (none: those a knot is meant for)", "plan.legs")
        self.fields = {
            "tails": Field("Tails, d or widths", "plan.tails", hint="usual, 6, 10"),
            "longer": Field("Second eye longer, %", "plan.longer", hint="0, 20"),
            "cut": Field("Rope cut through, %", "plan.cut", hint="0, 50"),
            "bends": ChoiceField("Bends are pulled", "plan.bends", BENDS),
            "around": Field("Sling, all round", "plan.around", hint="800 mm"),
            "joint": Field("Joint from the pin", "plan.joint", hint="mid leg"),
        }
        self.form = Form(self.fields)
        self._offered: tuple[object, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.legs, 1)
        f = self.fields
        column.addWidget(f["tails"])
        column.addLayout(side_by_side((f["longer"], 1), (f["cut"], 1)))
        column.addWidget(f["bends"])
        column.addLayout(side_by_side((f["around"], 1), (f["joint"], 1)))
        column.addWidget(Words(_NOTE, "small", "muted"))
        self.form.fill(presenter.on_purpose_texts())
        self.legs.list.itemChanged.connect(lambda _: presenter.pick_legs(self.legs.keys))
        for field in f.values():
            if isinstance(field, Field):
                field.entry.editingFinished.connect(self._on_typed)
            elif isinstance(field, ChoiceField):
                field.chosen.connect(lambda _: self._on_typed())

    def _on_typed(self) -> None:
        errors = self._presenter.read_on_purpose(self.form.texts())
        for name, field in self.fields.items():
            field.complain(errors.get(name, ""))

    def offer(self) -> None:
        """Offer the legs that the knots picked have."""
        p = self._presenter
        wanted = tuple(p.legs())
        if wanted == self._offered:
            return
        self._offered = wanted
        self.legs.list.blockSignals(True)
        self.legs.offer([(name, name) for name in wanted], p.draft.legs)
        self.legs.list.blockSignals(False)
