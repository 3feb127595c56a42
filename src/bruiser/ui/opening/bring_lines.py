"""Lines of the page that brings a table in: a column, a word, a cordage or knot that is named."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from bruiser.catalogue.finding import fold
from bruiser.formats.column_mapping import units_of
from bruiser.formats.table_fields import FIELDS
from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.steady import ChoiceBox
from bruiser.ui.opening.bring_desk import BringDesk
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.exchange.made_structures import FAMILIES_MADE


def _box(name: str, what: str, options: list[tuple[str, str]], chosen: str) -> QComboBox:
    box = ChoiceBox()
    box.setObjectName(name)
    box.setAccessibleName(what)
    for key, words in options:
        box.addItem(words, key)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    box.ensurePolished()
    box.setMinimumHeight(box.sizeHint().height())
    box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    return box


class _Line(QWidget):
    """Words on the left, what they mean on the right."""

    def __init__(self, said: str, below: str, *, tone: str = "ink") -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(SPACE["s"])
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(Words(said, "body", tone, elide=True))
        if below:
            words.addWidget(Words(below, "small", "muted", elide=True))
        row.addLayout(words, 5)
        self.row = row
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)


class ColumnLine(_Line):
    """A column: its heading and first cells, the field it is, and its unit."""

    def __init__(self, desk: BringDesk, heading: str) -> None:
        key = next((k for k, h in desk.mapping.columns.items() if h == heading), "")
        super().__init__(heading, desk.samples(heading), tone="ink" if key else "muted")
        slot = fold(heading).replace(" ", "_") or "column"
        options = [("", "not used"), *((f.key, f.words) for f in FIELDS.values())]
        self.field = _box(f"bring.column.{slot}", f"What “{heading}” is", options, key)
        self.field.activated.connect(
            lambda _: desk.mean(heading, str(self.field.currentData() or ""))
        )
        units = units_of(FIELDS[key].kind) if key else ()
        self.row.addWidget(self.field, 6)
        if units:
            chosen = desk.mapping.units.get(key, "")
            said = [] if chosen else [("", "unit?")]
            self.unit = _box(
                f"bring.unit.{slot}",
                f"Unit of “{heading}”",
                [*said, *((u, u) for u in units)],
                chosen,
            )
            self.unit.activated.connect(lambda _: desk.measure(key, str(self.unit.currentData())))
            self.unit.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
            self.row.addWidget(self.unit)


class WordLine(_Line):
    """A word that is not known, and what it means."""

    def __init__(self, desk: BringDesk, key: str, word: str) -> None:
        told = desk.mapping.words.get(key, {}).get(word, "")
        super().__init__(f"“{word}”", FIELDS[key].words, tone="ink" if told else "brick")
        options = [("", "say what it means …")]
        options += [(c, c.replace("_", " ")) for c in FIELDS[key].choices]
        slot = fold(word).replace(" ", "_") or "word"
        self.box = _box(f"bring.word.{key}.{slot}", f"What “{word}” means", options, told)
        self.box.activated.connect(
            lambda _: desk.translate(key, word, str(self.box.currentData() or ""))
        )
        self.row.addWidget(self.box, 6)


class NameLine(_Line):
    """A cordage or knot as the table names it, and which of the campaign it is."""

    def __init__(self, desk: BringDesk, key: str, name: str) -> None:
        plan, logbook = desk.plan, desk.logbook
        found = {} if plan is None else (plan.knots_as if key == "knot" else plan.lots_as)
        meant = found.get(fold(name), "")
        made = {lot.name for lot in plan.lots} if plan is not None else set()
        names = {s.key for s in plan.structures} if plan is not None else set()
        new = meant in made or (key == "knot" and fold(name).replace(" ", "-") in names)
        if key == "knot":
            below = "not known: only its name comes in" if new else f"is {meant}"
        else:
            below = "would be a new lot" if new else f"is {meant}"
        unclear = not meant
        super().__init__(
            name,
            "cannot be made yet" if unclear else below,
            tone="brick" if unclear else "ink",
        )
        options = [("", "as found" if meant and not new else "as new")]
        if logbook is None:
            chosen = ""
        elif key == "knot":
            chosen = desk.mapping.knots.get(name, "")
            options += [(f, f"a new {f}") for f in FAMILIES_MADE]
            ordered = sorted(logbook.catalogue.values(), key=lambda s: s.name_in(logbook.trade))
            options += [(s.key, s.name_in(logbook.trade)) for s in ordered]
        else:
            chosen = desk.mapping.lots.get(name, "")
            options += [(lot.name, lot.name) for lot in logbook.lots]
        slot = fold(name).replace(" ", "_") or "name"
        self.box = _box(f"bring.{key}.{slot}", f"Which one “{name}” is", options, chosen)
        self.box.activated.connect(lambda _: self._chosen(desk, key, name))
        self.row.addWidget(self.box, 6)

    def _chosen(self, desk: BringDesk, key: str, name: str) -> None:
        said = str(self.box.currentData() or "")
        (desk.mean_knot if key == "knot" else desk.mean_lot)(name, said)
