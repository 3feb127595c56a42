"""Choosing the instrument: its line tried live, a known load, and faults to train with."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.rig.serial.line import BAUDS
from bruiser.ui.kit.fields import ChoiceField, Field, Form
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.plain_table import PlainTable
from bruiser.ui.stations.pull.instrument_presenter import InstrumentPresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.bench.instruments import KIND_WORDS
from bruiser.workshop.bench.simulation import TRAINING_FAULTS

_UNITS = ("N", "daN", "kN", "kgf", "lbf")


class InstrumentDialog(QDialog):
    """Builds the instrument's form over its presenter."""

    def __init__(self, presenter: InstrumentPresenter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("instrument")
        self.setWindowTitle("Instrument")
        self._presenter = presenter
        self.form = Form(
            {
                "kind": ChoiceField(
                    "Recorded with", "instrument.kind", [(f"{k}", w) for k, w in KIND_WORDS.items()]
                ),
                "path": Field("Line", "instrument.path", hint="/dev/ttyUSB0"),
                "baud": ChoiceField(
                    "Baud rate", "instrument.baud", {str(b): str(b) for b in BAUDS}
                ),
                "rate": Field("Samples a second", "instrument.rate", hint="200"),
                "capacity": Field("Cell's capacity", "instrument.capacity", hint="50 kN"),
                "unit": ChoiceField("Unit of its lines", "instrument.unit", {u: u for u in _UNITS}),
                "mark": ChoiceField(
                    "Decimal mark", "instrument.mark", {".": "point", ",": "comma"}
                ),
                "pattern": Field("Pattern of an indicator's lines", "instrument.pattern"),
            }
        )
        self.cell = ChoiceField("Bench of the bench book", "instrument.cell", presenter.cells())
        self.bears = Words("", "small", "muted")
        self.bears.setObjectName("instrument.bears")
        self.listen = button("Listen to the line", "instrument.listen")
        self.every = button("Try every baud rate", "instrument.try")
        self.heard = PlainTable(
            "instrument.heard", "What came", ("line as it came", "understood as")
        )
        self.heard_words = Words("", "small", "muted")
        self.heard_words.setObjectName("instrument.heard.words")
        self.known = Field("Known load hanging on it", "instrument.known", hint="250 N")
        self.reads = Field("It reads", "instrument.reads", hint="from the line")
        self.by = Field("By (initials)", "instrument.by", hint="TV")
        self.check = button("Keep this check", "instrument.check")
        self.checked = Words("", "small", "muted")
        self.checked.setObjectName("instrument.checked")
        self.use = button("Use it", "instrument.use", "primary")
        self.faults = {
            key: button(words, f"instrument.fault.{key}", "chip")
            for key, words in TRAINING_FAULTS.items()
        }
        self._build()
        self._connect()
        self.resize(880, 640)
        self.form.fill(presenter.texts())
        self._on_changed()

    def _build(self) -> None:
        f = self.form.fields
        line = Card("THE LINE")
        line.column.addLayout(side_by_side((f["kind"], 3), (f["path"], 3), (f["baud"], 2)))
        line.column.addLayout(
            side_by_side((f["rate"], 2), (f["capacity"], 2), (f["unit"], 2), (f["mark"], 2))
        )
        line.column.addLayout(side_by_side((f["pattern"], 3), (self.cell, 3)))
        line.column.addWidget(self.bears)
        row = QHBoxLayout()
        row.addWidget(self.listen)
        row.addWidget(self.every)
        row.addWidget(self.heard_words, 1)
        line.column.addLayout(row)
        line.column.addWidget(self.heard, 1)
        load = Card("A KNOWN LOAD")
        across = side_by_side((self.known, 2), (self.reads, 2), (self.by, 1))
        across.addWidget(self.check)
        load.column.addLayout(across)
        load.column.addWidget(self.checked)
        training = Card("FAULTS TO TRAIN WITH (SIMULATED BENCH ONLY)")
        chips = QHBoxLayout()
        for chip in self.faults.values():
            chips.addWidget(chip)
        chips.addStretch(1)
        training.column.addLayout(chips)
        below = QHBoxLayout()
        below.addStretch(1)
        below.addWidget(self.use)
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(line, 1)
        column.addWidget(load)
        column.addWidget(training)
        column.addLayout(below)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        self.listen.clicked.connect(lambda: self._complain(p.listen(self.form.texts())))
        self.every.clicked.connect(lambda: self._complain(p.try_all(self.form.texts())))
        self.check.clicked.connect(self._on_check)
        self.use.clicked.connect(self._on_use)
        self.cell.chosen.connect(self._on_cell)
        for name in ("kind", "baud"):
            field = self.form.fields[name]
            if isinstance(field, ChoiceField):
                field.chosen.connect(lambda _: self._on_changed())
        for key, chip in self.faults.items():
            chip.clicked.connect(lambda _=False, k=key: p.inject(k))

    def _complain(self, errors: dict[str, str]) -> None:
        self.form.complain(errors)

    def _on_cell(self, bench_id: str) -> None:
        self._presenter.take_cell(bench_id)
        self.form.fields["capacity"].fill(self._presenter.texts()["capacity"])

    def _on_check(self) -> None:
        texts = {"known": self.known.text, "reads": self.reads.text, "by": self.by.text}
        errors = self._presenter.check(texts)
        for name, field in (("known", self.known), ("reads", self.reads)):
            field.complain(errors.get(name, ""))

    def _on_use(self) -> None:
        errors = self._presenter.use(self.form.texts())
        self.form.complain(errors)
        if not errors:
            self.accept()

    def _on_changed(self) -> None:
        p = self._presenter
        self.bears.say(p.bears(self.form.fields["baud"].text))
        self.heard.show_rows(p.heard())
        self.heard_words.say(p.heard_words())
        if p.found_baud:
            self.form.fields["baud"].fill(p.found_baud)
        if p.last_read and not self.reads.text:
            self.reads.fill(p.last_read)
        self.checked.say(p.checked_words())
        for chip in self.faults.values():
            chip.setEnabled(p.may_inject)
