"""The knots station: find a structure, know it, tie it, choose its variant, compare two."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.catalogue import Need
from bruiser.ui.kit.fields import Chips, ChoiceField, Field
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.kit.two_lines import KEY, TwoLineList
from bruiser.ui.stations.knots.drawing_sheet import DrawingSheet
from bruiser.ui.stations.knots.own import OwnSheet
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.knots.sheets import BesideSheet, KnowSheet
from bruiser.ui.stations.knots.tie import TieSheet
from bruiser.ui.stations.knots.tie_presenter import TiePresenter
from bruiser.ui.stations.knots.variant import VariantSheet
from bruiser.ui.theme.tokens import SHELF_WIDTH, SPACE

SHEETS = {
    "know": "Know it, tie it",
    "variant": "Variant and cord",
    "beside": "Side by side",
    "tie": "Check my tie",
    "own": "Your own",
}


NEED_WORDS = {
    Need.NO_END: "without an end",
    Need.CLOSED_RING: "on a closed ring",
    Need.MIDLINE: "in mid-line",
    Need.SLIPPERY: "in slippery cord",
    Need.SEVERAL: "several directions",
    Need.OPENS: "open after load",
}


class KnotsView(StationPage):
    """Builds the knots station and connects it to its presenter."""

    def __init__(self, presenter: KnotsPresenter) -> None:
        super().__init__("knots")
        self._presenter = presenter
        self.search = Field("Find by any name, in any trade", "knots.search", hint="becket")
        self.first = self.search.entry
        self.family = ChoiceField("Family", "knots.family")
        self.needs = {
            need: button(words, f"knots.need.{need.name.lower()}", "chip")
            for need, words in NEED_WORDS.items()
        }
        self.found = TwoLineList("knots.found", "Knots found")
        self.count = Words("", "small", "muted", elide=True)
        self.as_sheet = button("As drawings", "knots.as_drawings", "chip")
        self.as_sheet.setCheckable(True)
        self.drawings = DrawingSheet()
        self.sheets = Chips("knots.sheet", SHEETS, tight=True)
        self.know = KnowSheet(presenter)
        self.variant = VariantSheet(presenter)
        self.beside = BesideSheet(presenter)
        self.tie = TieSheet(TiePresenter(presenter))
        self.own = OwnSheet(presenter)
        self.stack = ShownStack()
        for sheet in (self.know, self.variant, self.beside, self.tie, self.own):
            self.stack.addWidget(sheet)
        self.stack.addWidget(self.drawings)
        self._build()
        self._connect()

    def _build(self) -> None:
        left = Card()
        left.setFixedWidth(SHELF_WIDTH)
        left.column.setSpacing(SPACE["s"])
        left.column.addWidget(self.search)
        left.column.addWidget(self.family)
        left.column.addWidget(Words("It must work", "small", "muted"))
        grid = QGridLayout()
        grid.setSpacing(SPACE["xs"])
        for number, chip in enumerate(self.needs.values()):
            chip.setCheckable(True)
            grid.addWidget(chip, number // 2, number % 2)
        left.column.addLayout(grid)
        left.column.addWidget(self.found, 1)
        under = QHBoxLayout()
        under.addWidget(self.count, 1)
        under.addWidget(self.as_sheet)
        left.column.addLayout(under)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        right.addWidget(self.sheets)
        right.addWidget(self.stack, 1)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addWidget(left)
        holder = QWidget()
        holder.setLayout(right)
        right.setContentsMargins(0, 0, 0, 0)
        across.addWidget(holder, 1)
        self.body.addLayout(across, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.found_changed.connect(self._on_found)
        p.shown_changed.connect(self._on_shown)
        self.search.entry.textChanged.connect(p.search)
        self.family.chosen.connect(p.choose_family)
        for need, chip in self.needs.items():
            chip.clicked.connect(lambda on, n=need: p.need(n, on))
        self.found.currentItemChanged.connect(self._on_picked)
        self.sheets.chosen.connect(self._on_sheet)
        self.as_sheet.clicked.connect(self._on_as_sheet)
        self.drawings.currentItemChanged.connect(self._on_card)
        self.drawings.itemActivated.connect(lambda _: self.sheets.pick("know"))
        self.know.compare_wanted.connect(self._on_compare)

    @override
    def begin(self) -> None:
        """Show how a knot is brought into play, and search."""
        self.sheets.pick("variant")
        if self._presenter.structure is None:
            self.found.setCurrentRow(0)
        self.search.focus()

    def _on_sheet(self, key: str) -> None:
        self.as_sheet.setChecked(False)
        self.stack.setCurrentIndex(list(SHEETS).index(key))

    def _on_as_sheet(self, on: bool) -> None:
        if on:
            self.sheets.show_none()
            self.stack.setCurrentWidget(self.drawings)
            self.drawings.setFocus()
        else:
            self.sheets.pick(self.sheets.key)

    def _on_card(self) -> None:
        item = self.drawings.currentItem()
        if item is not None:
            self._presenter.show(str(item.data(KEY)))

    def _on_picked(self) -> None:
        item = self.found.currentItem()
        if item is not None:
            self._presenter.show(str(item.data(KEY)))

    def _on_compare(self, key: str) -> None:
        self._presenter.compare_with(key)
        self.sheets.pick("beside")

    def _on_found(self) -> None:
        p = self._presenter
        self.family.offer(p.families())
        rows = p.found()
        self.found.offer(rows, p.key)
        self.drawings.offer(rows, p.key)
        self.count.say(p.found_words())

    def _on_shown(self) -> None:
        title, about = self._presenter.title()
        self.found.select(self._presenter.key)
        self.drawings.select(self._presenter.key)
        self.title.say(title)
        self.subtitle.say(about)
