"""The trace bench: a pull's trace to look into, read by settings that can be changed."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.ui.kit.fields import Chips, Field, Form, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.trace_desk import TraceDesk
from bruiser.ui.kit.trace_plot import TraceMark, TracePlot
from bruiser.ui.theme.tokens import SIDE_WIDTH, SPACE

AGAINST = {"travel": "Against travel", "time": "Against time"}


class TraceBench(QDialog):
    """Builds the trace bench over its desk."""

    def __init__(self, desk: TraceDesk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("trace")
        self.setWindowTitle(f"Trace of {desk.entry.specimen.code}")
        self._desk = desk
        self.plot = TracePlot("trace.plot")
        self.against = Chips("trace.against", AGAINST)
        self.whole = button("Show it whole", "trace.whole", "chip")
        self.readout = Words(
            "Point at the curve to read a sample. Drag to zoom.", "body", elide=True
        )
        self.readout.setObjectName("trace.readout")
        self.summary = Words("", "body")
        self.summary.setObjectName("trace.summary")
        self.doubts = Words("", "strong-small", "ochre")
        self.doubts.setObjectName("trace.doubts")
        self.form = Form(
            {
                "onset": Field("Slip: travel without a new record", "trace.onset", hint="3 mm"),
                "slip": Field("Smallest drop, %", "trace.slip", hint="0.4"),
                "bedding": Field("Bedding below, %", "trace.bedding", hint="30"),
                "break": Field("A break drops, %", "trace.break", hint="27"),
                "capsize": Field("Form change, %", "trace.capsize", hint="19"),
                "mean": Field("Running mean, ms", "trace.mean", hint="5"),
            }
        )
        self.kept = Words("", "small", "muted")
        self.kept.setObjectName("trace.kept")
        self.keep = button("Keep this reading", "trace.keep", "primary")
        self.others = Ticks("Lay beside it, aligned at first load", "trace.others")
        self.close_it = button("Close", "trace.close")
        self._build()
        self._connect()
        self.resize(1180, 720)
        self._on_changed()

    def _build(self) -> None:
        top = QHBoxLayout()
        top.addWidget(Words(self._desk.title(), "title", elide=True), 1)
        top.addWidget(self.against)
        top.addWidget(self.whole)
        chart = Card()
        chart.column.addWidget(self.plot, 1)
        chart.column.addWidget(self.readout)
        chart.column.addWidget(self.summary)
        chart.column.addWidget(self.doubts)
        side = Card("READ BY")
        side.setFixedWidth(SIDE_WIDTH)
        f = self.form.fields
        side.column.addWidget(f["onset"])
        side.column.addLayout(side_by_side((f["slip"], 1), (f["bedding"], 1)))
        side.column.addLayout(side_by_side((f["break"], 1), (f["capsize"], 1)))
        side.column.addWidget(f["mean"])
        side.column.addWidget(self.keep)
        side.column.addWidget(self.kept)
        side.column.addWidget(self.others, 1)
        side.column.addWidget(self.close_it, 0, Qt.AlignmentFlag.AlignRight)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addWidget(chart, 1)
        across.addWidget(side)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addLayout(across, 1)
        self.form.fill(self._desk.texts())
        self.others.offer(self._desk.others())

    def _connect(self) -> None:
        d = self._desk
        d.changed.connect(self._on_changed)
        d.reading_changed.connect(self._on_reading)
        self.against.chosen.connect(d.show_against)
        self.whole.clicked.connect(self.plot.show_whole)
        self.keep.clicked.connect(d.keep)
        self.close_it.clicked.connect(self.accept)
        self.plot.read.connect(lambda index: self.readout.say(d.sample_words(index)))
        self.others.list.itemChanged.connect(lambda _: d.lay_beside(self.others.keys))
        for field in self.form.fields.values():
            if isinstance(field, Field):
                field.entry.editingFinished.connect(self._on_typed)

    def _on_typed(self) -> None:
        errors = self._desk.read(self.form.texts())
        for name, field in self.form.fields.items():
            field.complain(errors.get(name, ""))

    def _on_changed(self) -> None:
        d = self._desk
        self.plot.show_trace(*d.curve(), *d.axis())
        self.plot.show_others(d.beside_curves())
        self._on_reading()

    def _on_reading(self) -> None:
        d = self._desk
        self.plot.show_marks(tuple(TraceMark(*m) for m in d.marks()))
        self.summary.say(d.summary())
        doubts = d.doubts()
        self.doubts.say(doubts)
        self.doubts.setVisible(bool(doubts))
        self.keep.setEnabled(d.may_keep)
        self.kept.say(d.kept_words())
