"""What was found at one knot: draws, lengths, a change of form, and what it took to untie."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton

from bruiser.core.records.layouts import End
from bruiser.core.records.readings import never_untied
from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.findings.keys import LEVEL_KEYS
from bruiser.ui.theme.tokens import SPACE

FieldWords = tuple[str, str, str]


class KnotCard(Card):
    """One knot's card; `draws` and `lengths` are its fields by the layout's key."""

    jam_chosen = pyqtSignal(object, object)
    clock_turned = pyqtSignal(object)
    typed = pyqtSignal()

    def __init__(self, end: End) -> None:
        super().__init__()
        self.end = end
        self.heading = Words("", "strong", elide=True)
        self.clock = button("Start the clock", f"findings.clock.{end}", "chip")
        self.clock.setToolTip("key U")
        self.clock.clicked.connect(lambda: self.clock_turned.emit(self.end))
        above = QHBoxLayout()
        above.addWidget(self.heading, 1)
        above.addWidget(self.clock)
        self.column.addLayout(above)
        self.draws: dict[str, Field] = {}
        self.lengths: dict[str, Field] = {}
        self._row = QHBoxLayout()
        self._row.setSpacing(SPACE["s"])
        self.column.addLayout(self._row)
        self.form = Field("Changed form at", f"findings.form.{end}", hint="no")
        self._row.addWidget(self.form)
        self.levels = QButtonGroup(self)
        self.levels.setExclusive(True)
        grid = QGridLayout()
        grid.setSpacing(SPACE["xs"])
        for half in (0, 1):
            grid.setColumnStretch(half, 1)
        self._buttons: dict[JamLevel, QPushButton] = {}
        for number, level in enumerate(JamLevel):
            chip = button(JAM_WORDS[level], f"findings.jam.{end}.{level}", "chip", bench=True)
            chip.setToolTip(f"key {LEVEL_KEYS[level]}")
            chip.setAccessibleName(f"Knot {end}: {JAM_WORDS[level]}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False, lv=level: self.jam_chosen.emit(self.end, lv))
            self.levels.addButton(chip)
            self._buttons[level] = chip
            grid.addWidget(chip, number // 2, number % 2)
        self.column.addLayout(grid)
        self.untie = Field("Seconds to untie", f"findings.untie.{end}", hint="12 s, or > 90 s")
        self.untie.entry.setToolTip("“> 90 s” where you gave up after that: a time not reached")
        grid.addWidget(self.untie, 3, 1, 2, 1)
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName(f"findings.jam.{end}.wrong")
        self.column.addWidget(self.wrong)
        self.column.addStretch(1)
        for field in (self.form, self.untie):
            field.entry.textChanged.connect(self.typed)

    def set_up(self, name: str, tails: Sequence[FieldWords], lengths: Sequence[FieldWords]) -> None:
        """Show a knot's name, its tails and its other lengths: key, label, hint."""
        self.heading.say(name)
        for field in (*self.draws.values(), *self.lengths.values()):
            self._row.removeWidget(field)
            field.setParent(None)
            field.deleteLater()
        self.draws = {k: Field(label, f"findings.draw.{k}", hint=hint) for k, label, hint in tails}
        self.lengths = {
            k: Field(label, f"findings.length.{k}", hint=hint) for k, label, hint in lengths
        }
        for field in (*self.draws.values(), *self.lengths.values()):
            field.entry.textChanged.connect(self.typed)
        for n, field in enumerate((*self.draws.values(), *self.lengths.values())):
            self._row.insertWidget(n, field)
        self.show_level(None)
        self.untie.entry.clear()
        self.form.entry.clear()
        self.clear_complaints()

    def show_level(self, level: JamLevel | None) -> None:
        """Mark the level chosen, or none; of what was not untied the time is that of giving up."""
        given_up = level is not None and never_untied(level)
        self.untie.rename("Given up after" if given_up else "Seconds to untie")
        if level is not None:
            self._buttons[level].setChecked(True)
            return
        self.levels.setExclusive(False)
        for chip in self._buttons.values():
            chip.setChecked(False)
        self.levels.setExclusive(True)

    def show_clock(self, runs: bool) -> None:
        """Say whether an attempt is being timed."""
        self.clock.setText(f"{'Stop' if runs else 'Start'} the clock")

    @property
    def fields(self) -> list[Field]:
        """Its fields, in the order they are read."""
        return [*self.draws.values(), *self.lengths.values(), self.form, self.untie]

    def complain(self, errors: dict[str, str]) -> None:
        """Say what is wrong next to its field."""
        self.wrong.say(errors.get(f"jam.{self.end}", ""))
        self.untie.complain(errors.get(f"untie.{self.end}", ""))
        self.form.complain(errors.get(f"form.{self.end}", ""))
        for kind, fields in (("draw", self.draws), ("length", self.lengths)):
            for key, field in fields.items():
                field.complain(errors.get(f"{kind}.{key}", ""))

    def clear_complaints(self) -> None:
        """Take back what was said to be wrong."""
        self.complain({})
