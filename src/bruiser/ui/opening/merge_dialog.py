"""What merging another campaign would bring, and whose word holds where the two differ."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.core.words import count
from bruiser.ui.kit.fields import Ticks
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.steady import ChoiceBox
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.exchange.merging import DifferingFact, Merged, MergeSide

_SIZE = (820, 600)
_MOST_SHOWN = 200


class FactLine(QWidget):
    """One fact that the two tell differently."""

    def __init__(self, fact: DifferingFact, number: int) -> None:
        super().__init__()
        self.fact = fact
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(SPACE["s"])
        what, mine, theirs = fact_words(fact)
        row.addWidget(Words(f"{fact.about}: {what}", "body", elide=True), 3)
        for said, side in ((f"here {mine}", MergeSide.MINE), (f"there {theirs}", MergeSide.THEIRS)):
            tone = "ink" if side is fact.taken else "muted"
            row.addWidget(Words(said, "body", tone, elide=True), 2)
        self.box = ChoiceBox()
        self.box.setObjectName(f"merge.fact.{number}")
        self.box.setAccessibleName(f"Whose word holds: {fact.about}, {what}")
        self.box.addItem("take here", MergeSide.MINE)
        self.box.addItem("take there", MergeSide.THEIRS)
        self.box.setCurrentIndex(0 if fact.taken is MergeSide.MINE else 1)
        row.addWidget(self.box)

    @property
    def chosen(self) -> MergeSide:
        """Whose word holds."""
        return MergeSide(self.box.currentData())


def fact_words(fact: DifferingFact) -> tuple[str, str, str]:
    """A fact's name and its two values, as people say them."""
    name, scale, unit = fact.field, 1.0, ""
    for suffix, factor, said in (("_kg_m", 1e3, "g/m"), ("_m", 1e3, "mm"), ("_n", 1.0, "N")):
        if name.endswith(suffix):
            name, scale, unit = name.removesuffix(suffix), factor, f" {said}"
            break

    def words(value: object) -> str:
        if isinstance(value, (int, float)) and unit:
            return f"{scale * value:g}{unit}"
        return str(value)

    return name.replace("_", " "), words(fact.mine), words(fact.theirs)


class MergeDialog(QDialog):
    """Shows what would come in; nothing is stored before it is accepted."""

    wanted = pyqtSignal(object, object)

    def __init__(self, merged: Merged, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("merge")
        self.setWindowTitle("Merge")
        self.resize(*_SIZE)
        self.facts = [FactLine(f, n) for n, f in enumerate(merged.differing[:_MOST_SHOWN])]
        self.apart = Ticks("These are two lots, though called alike", "merge.apart")
        same = sorted({f.about for f in merged.differing if f.table == "lot"})
        self.apart.offer([(lot, lot) for lot in same])
        self.store = button("Merge", "merge.store", "primary")
        self.cancel = button("Cancel", "merge.cancel")
        self._build(merged, name, bool(same))

    def _build(self, merged: Merged, name: str, lots: bool) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words(f"Merge {name} into this campaign", "title"))
        same = merged.same.get("lot", 0), merged.same.get("knot", 0), merged.same.get("pull", 0)
        column.addWidget(Words(f"Comes in: {merged.words}.", "body"))
        column.addWidget(
            Words(
                f"The same in both: {count(same[0], 'lot')}, {count(same[1], 'knot')}, "
                f"{count(same[2], 'pull')}. No pull comes twice, and corrections of both are kept.",
                "small",
                "muted",
            )
        )
        card = Card("Told differently: whose word holds?")
        lines = Scrolled("merge.facts", spacing="xs")
        if self.facts:
            more = len(merged.differing) - len(self.facts)
            extra = [Words(f"and {more} more, as proposed", "small", "muted")] if more else []
            lines.replace([*self.facts, *extra])
        else:
            lines.replace([Words("Nothing: what both know, they say alike.", "body", "moss")])
        card.column.addWidget(lines, 1)
        column.addWidget(card, 3)
        self.apart.setVisible(lots)
        column.addWidget(self.apart, 1)
        if merged.renamed:
            said = ", ".join(f"{before} becomes {after}" for _, before, after in merged.renamed[:4])
            column.addWidget(Words(f"Called alike, and not the same: {said}.", "small", "ochre"))
        if merged.corrected_twice:
            codes = ", ".join(merged.corrected_twice[:6])
            text = f"Corrected on both sides, the later holds: {codes}."
            column.addWidget(Words(text, "small", "ochre"))
        below = QHBoxLayout()
        below.addWidget(Words("A copy of this campaign is kept first.", "small", "muted"), 1)
        for made in (self.cancel, self.store):
            made.setAutoDefault(False)
            below.addWidget(made)
        column.addLayout(below)
        self.cancel.clicked.connect(self.reject)
        self.store.clicked.connect(self._on_store)

    def _on_store(self) -> None:
        choices = {line.fact.key: line.chosen for line in self.facts}
        self.accept()
        self.wanted.emit(choices, self.apart.keys)
