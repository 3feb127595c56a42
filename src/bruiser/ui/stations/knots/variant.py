"""Choosing a variant, the cord and tails it takes in each lot, and bringing it into play."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout

from bruiser.catalogue.drawings import variant_drawn
from bruiser.core.records.layouts import LAYOUTS, End
from bruiser.figures.silhouette import TiedKnot
from bruiser.figures.strip import StripState
from bruiser.ui.kit.fields import ChoiceField, Field, Form
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.plain_table import PlainTable
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.theme.tokens import SPACE

_COLUMNS = ("Lot", "d", "Cord, catalogue", "Cord, measured", "Tail", "Tail, at least")


class VariantSheet(Card):
    """One choice an axis; nothing is retyped."""

    def __init__(self, presenter: KnotsPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.axes: dict[str, ChoiceField] = {}
        self.grid = QGridLayout()
        self.grid.setSpacing(SPACE["s"])
        for column in range(3):
            self.grid.setColumnStretch(column, 1)
        self.title = Words("", "title")
        self.title.setObjectName("knots.variant")
        self.notes = Words("", "small", "muted")
        self.cord = Words("", "body")
        self.cord.setObjectName("knots.cord")
        self.table = PlainTable("knots.cords", "Cord and tails in each lot", _COLUMNS)
        self.strip = StripView("knots.strip")
        self.strip.setFixedHeight(118)
        self.lot = ChoiceField("Tied in", "knots.reading.lot")
        self.length = Field("Cord it took", "knots.reading.cord", hint="292 mm")
        self.reading = Form({"lot": self.lot, "cord": self.length})
        self.note = button("Note the cord", "knots.reading.store")
        self.play = button("Bring into play", "knots.play", "primary")
        self.archive = button("Archive", "knots.archive")
        self.delete = button("Delete", "knots.delete")
        self.state = Words("", "small", "muted", elide=True)
        self.state.setObjectName("knots.state")
        self._build()
        presenter.shown_changed.connect(self._on_shown)
        presenter.variant_changed.connect(self._on_variant)
        self.play.clicked.connect(presenter.bring_into_play)
        self.archive.clicked.connect(presenter.archive)
        self.delete.clicked.connect(presenter.delete)
        self.note.clicked.connect(self._on_note)

    def _build(self) -> None:
        column = self.column
        column.setSpacing(SPACE["s"])
        column.addLayout(self.grid)
        for part in (self.title, self.notes, self.cord):
            column.addWidget(part)
        column.addWidget(self.table, 1)
        column.addWidget(Words("As it lies on the bench", "small", "muted"))
        column.addWidget(self.strip)
        measured = side_by_side((self.lot, 2), (self.length, 2))
        measured.addWidget(self.note, 0, Qt.AlignmentFlag.AlignBottom)
        measured.addStretch(2)
        column.addLayout(measured)
        row = QHBoxLayout()
        row.addWidget(self.archive)
        row.addWidget(self.delete)
        row.addWidget(self.state, 1)
        row.addWidget(self.play)
        column.addLayout(row)

    def _on_shown(self) -> None:
        s = self._presenter.structure
        if s is None:
            return
        for old in self.axes.values():
            self.grid.removeWidget(old)
            old.setParent(None)
            old.deleteLater()
        self.axes = {}
        for number, axis in enumerate(s.axes):
            choice = ChoiceField(
                axis.name, f"knots.axis.{axis.key}", [(o.key, o.name) for o in axis.options]
            )
            choice.fill(self._presenter.choices.get(axis.key, ""))
            choice.chosen.connect(lambda key, a=axis.key: self._presenter.choose(a, key))
            self.axes[axis.key] = choice
            self.grid.addWidget(choice, number // 3, number % 3)
        self.lot.offer(self._presenter.lots())
        self._on_variant()

    def _show_strip(self) -> None:
        s = self._presenter.structure
        if s is None:
            return
        tied = TiedKnot(s.key, tuple(sorted(s.differing(self._presenter.choices).items())))
        there = variant_drawn(s.key, dict(tied.choices)) is not None
        knots = dict.fromkeys(End, tied) if there else {}
        self.strip.show_strip(LAYOUTS[s.layout], StripState(knots=knots))

    def _on_variant(self) -> None:
        p = self._presenter
        self.title.say(p.variant_title())
        self._show_strip()
        self.notes.say(p.option_notes())
        self.notes.setVisible(bool(p.option_notes()))
        self.cord.say(p.cord_words())
        self.table.show_rows(p.cord_table())
        knot = p.knot
        played = knot is not None and not knot.archived
        self.play.setEnabled(not played)
        back = knot is not None and knot.archived
        self.play.setText("Bring back into play" if back else "Bring into play")
        self.archive.setVisible(played)
        self.delete.setVisible(knot is not None)
        self.note.setEnabled(knot is not None)
        words = "In play: it can be planned and pulled." if played else ""
        self.state.say("Archived: on record, out of the way." if knot and not played else words)

    def _on_note(self) -> None:
        checked = self._presenter.store_cord(self.reading.texts())
        if checked.stored:
            self.length.fill("")
        self.reading.complain(checked.errors)
