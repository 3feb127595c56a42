"""A notebook typed in: a line a specimen, checked while it is typed, stored in one step."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from bruiser.core.errors import BruiserError, InputError
from bruiser.core.units import parse_quantity
from bruiser.core.words import count
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.course.typed_series import SeriesHead, TypedLine, read_line, store_series
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

HINT = "bowline; 6.7; broke; hand"
HELP = (
    "knot; peak; what gave; untied how. “plain” is the rope without a knot, “both” after a loop "
    "means one at each end. What gave: broke, span, drum, came out, capsized, stopped."
)
_SIZE = (640, 560)


class SeriesDialog(QDialog):
    """Enter takes a line; an empty line and Enter stores them all."""

    stored = pyqtSignal(int)

    def __init__(self, workshop: Workshop, logbook: Logbook, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("series")
        self.setWindowTitle("Type a series")
        self.resize(*_SIZE)
        self._workshop, self._logbook = workshop, logbook
        self.lines: list[TypedLine] = []
        lots = [(lot.id, f"{lot.name}, {lot.condition}") for lot in logbook.lots_in_use]
        self.lot = ChoiceField("Lot", "series.lot")
        self.lot.offer(lots)
        self.capacity = Field("The scale reads up to", "series.capacity", hint="20 kN")
        self.pin = Field("Pins, across", "series.pin", hint="12 mm")
        self.by = Field("Who pulled", "series.by", hint="initials")
        self.line = QLineEdit()
        self.line.setObjectName("series.line")
        self.line.setAccessibleName("A line: knot; peak; what gave; untied how")
        self.line.setPlaceholderText(HINT)
        self.said = Words(HELP, "small", "muted")
        self.said.setObjectName("series.said")
        self.list = QListWidget()
        self.list.setObjectName("series.list")
        self.list.setAccessibleName("Lines taken")
        self.drop = button("Take the line back", "series.drop", "chip")
        self.store = button("Store", "series.store", "primary")
        self.cancel = button("Cancel", "series.cancel")
        self._build()
        self._tell()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words("A finished series, from a notebook", "title"))
        head = QHBoxLayout()
        for one in (self.lot, self.capacity, self.pin, self.by):
            head.addWidget(one, 1)
        column.addLayout(head)
        column.addWidget(self.line)
        column.addWidget(self.said)
        column.addWidget(self.list, 1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.drop)
        buttons.addStretch(1)
        buttons.addWidget(self.cancel)
        buttons.addWidget(self.store)
        column.addLayout(buttons)
        for made in (self.drop, self.store, self.cancel):
            made.setAutoDefault(False)
        self.line.textChanged.connect(self._look)
        self.line.returnPressed.connect(self._on_enter)
        self.drop.clicked.connect(self._on_drop)
        self.store.clicked.connect(self._on_store)
        self.cancel.clicked.connect(self.reject)
        if len(self._logbook.lots_in_use) == 1:
            self.capacity.entry.setFocus()

    def _read(self, text: str) -> TypedLine:
        return read_line(text, self._logbook, self._workshop.units)

    def _look(self, text: str) -> None:
        """Say what a line is understood as, or what is wrong or missing in it."""
        if not text.strip():
            self.said.say(HELP, "muted")
            return
        try:
            line = self._read(text)
        except InputError as error:
            self.said.say(str(error), "ochre")
        else:
            said = line.say(self._workshop.campaign.trade, self._workshop.units)
            self.said.say(f"{said}   (Enter takes it)", "moss")

    def _on_enter(self) -> None:
        text = self.line.text().strip()
        if not text:
            self._on_store()
            return
        try:
            line = self._read(text)
        except InputError as error:
            self.said.say(str(error), "brick")
            return
        self.lines.append(line)
        self.list.addItem(line.say(self._workshop.campaign.trade, self._workshop.units))
        self.list.setCurrentRow(self.list.count() - 1)
        self.line.clear()
        self._tell()

    def _on_drop(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.lines):
            gone = self.lines.pop(at)
            self.list.takeItem(at)
            self.line.setText(gone.text)
        self.line.setFocus(Qt.FocusReason.OtherFocusReason)
        self._tell()

    def _tell(self) -> None:
        self.store.setText(f"Store {count(len(self.lines), 'pull')}")
        self.store.setEnabled(bool(self.lines))
        self.drop.setEnabled(bool(self.lines))

    def _head(self) -> SeriesHead | None:
        """What holds for all lines; None where something is wrong, which is said at its field."""
        units, right = self._workshop.units, True
        values: dict[str, float] = {}
        for name, field, dimension, unit, default in (
            ("capacity", self.capacity, "force", units.force, None),
            ("pin", self.pin, "length", units.length, 0.0),
        ):
            text = field.text.strip()
            field.complain("")
            if not text and default is not None:
                values[name] = default
                continue
            try:
                if not text:
                    raise InputError("What does it read up to?")
                values[name] = parse_quantity(text, dimension, unit)
            except InputError as error:
                field.complain(str(error))
                right = False
        if not right or not self.lot.text:
            return None
        return SeriesHead(
            lot=self._logbook.lot(self.lot.text),
            capacity_n=values["capacity"],
            technician=self.by.text.strip(),
            pin_m=values["pin"],
        )

    def _on_store(self) -> None:
        head = self._head()
        if head is None or not self.lines:
            return
        try:
            ids = store_series(self._workshop, self._logbook, head, self.lines)
        except BruiserError as error:
            self.said.say(str(error), "brick")
            return
        self.accept()
        self.stored.emit(len(ids))
