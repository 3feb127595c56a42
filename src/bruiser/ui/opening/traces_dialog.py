"""Records of a logger, one or a folder, given to the specimens they are of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.core.decimal_sign import DecimalMark
from bruiser.core.errors import BruiserError
from bruiser.core.words import count
from bruiser.formats.logger_file import LOADS, LoggerHints
from bruiser.formats.table_rows import read_number
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.steady import ChoiceBox
from bruiser.ui.runtime.desk import said_of
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.exchange.trace_files import TraceMatch, files_in, match_files, store_traces
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

_SIZE = (860, 600)
_KINDS = "Records (*.csv *.tsv *.txt *.dat *.asc *.log);;Every file (*)"
_MOST_SHOWN = 300


class MatchLine(QWidget):
    """A record: its name, what it says, and whose it is."""

    def __init__(self, match: TraceMatch, said: str, options: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self.match = match
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(SPACE["s"])
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(Words(match.path.name, "body", elide=True))
        words.addWidget(Words(said, "small", "brick" if match.wrong else "muted", elide=True))
        row.addLayout(words, 5)
        self.box = ChoiceBox()
        self.box.setObjectName(f"traces.of.{match.path.name}")
        self.box.setAccessibleName(f"Whose record {match.path.name} is")
        for key, name in options:
            self.box.addItem(name, key)
        self.box.setCurrentIndex(max(0, self.box.findData(match.specimen_id)))
        self.box.setEnabled(match.record is not None)
        self.box.setMinimumContentsLength(16)
        row.addWidget(self.box, 4)

    @property
    def chosen(self) -> TraceMatch:
        """The record with the specimen that is chosen."""
        return replace(self.match, specimen_id=str(self.box.currentData() or ""))


class TracesDialog(QDialog):
    """Matches records by the code in their names; what is not clear is asked for."""

    stored = pyqtSignal(int)

    def __init__(
        self, workshop: Workshop, logbook: Logbook, tasks: TaskRunner, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("traces")
        self.setWindowTitle("Bring in records of a logger")
        self.resize(*_SIZE)
        self._workshop, self._logbook, self._tasks = workshop, logbook, tasks
        self._paths: list[Path] = []
        self.lines: list[MatchLine] = []
        self.files = button("Choose files …", "traces.files")
        self.folder = button("Choose a folder …", "traces.folder")
        self.unit = ChoiceField(
            "Loads without a unit are in",
            "traces.unit",
            [("", "say which"), *((u, u) for u in LOADS)],
        )
        self.travel = ChoiceField(
            "Travel without a unit is in",
            "traces.travel",
            [("", "say which"), *((u, u) for u in ("mm", "cm", "m", "in"))],
        )
        self.decimal = ChoiceField(
            "Decimal sign",
            "traces.decimal",
            [("ask", "as the record shows"), (".", "point"), (",", "comma")],
        )
        self.rate = Field("Samples a second, without a time", "traces.rate", hint="500")
        self.list = Scrolled("traces.list", spacing="xs")
        self.says = Words("", "body", "muted")
        self.says.setObjectName("traces.says")
        self.store = button("Bring in", "traces.store", "primary")
        self.cancel = button("Cancel", "traces.cancel")
        self._build()
        self._tell()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(SPACE["s"])
        column.addWidget(Words("Records of a logger", "title"))
        column.addWidget(
            Words(
                "CSV, TSV or plain columns, with any head above them. A record belongs to the "
                "specimen whose code stands in its name; one that waits is pulled by it, one whose "
                "pull came in without a trace gets it. It is analysed like a live one.",
                "small",
                "muted",
            )
        )
        top = QHBoxLayout()
        top.setSpacing(SPACE["s"])
        for one in (self.files, self.folder):
            top.addWidget(one)
        top.addStretch(1)
        column.addLayout(top)
        said = QHBoxLayout()
        said.setSpacing(SPACE["s"])
        for field in (self.unit, self.travel, self.decimal, self.rate):
            said.addWidget(field, 1)
        column.addLayout(said)
        card = Card("Whose they are")
        card.column.addWidget(self.list, 1)
        column.addWidget(card, 1)
        below = QHBoxLayout()
        below.addWidget(self.says, 1)
        below.addWidget(self.cancel)
        below.addWidget(self.store)
        column.addLayout(below)
        for made in (self.files, self.folder, self.store, self.cancel):
            made.setAutoDefault(False)
        self.files.clicked.connect(self._on_files)
        self.folder.clicked.connect(self._on_folder)
        for choice in (self.unit, self.travel, self.decimal):
            choice.chosen.connect(lambda _: self._look())
        self.rate.entry.editingFinished.connect(self._look)
        self.store.clicked.connect(self._on_store)
        self.cancel.clicked.connect(self.reject)

    def _on_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Records of a logger", "", _KINDS)
        if names:
            self.take([Path(name) for name in names])

    def _on_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "A folder of records")
        if not name:
            return
        try:
            self.take(files_in(Path(name)))
        except BruiserError as error:
            self.says.say(str(error), "brick")

    def take(self, paths: list[Path]) -> None:
        """Look at these records."""
        self._paths = paths
        self._look()

    def _hints(self) -> LoggerHints | None:
        self.rate.complain("")
        text = self.rate.text.strip()
        try:
            rate = read_number(text) if text else None
        except ValueError as error:
            self.rate.complain(f"{error}.")
            return None
        return LoggerHints(
            rate_hz=rate,
            load_unit=self.unit.text,
            travel_unit=self.travel.text,
            decimal=DecimalMark(self.decimal.text),
        )

    def _look(self) -> None:
        hints = self._hints()
        if not self._paths or hints is None:
            return
        self.says.say(f"Reading {count(len(self._paths), 'record')} …", "muted")
        self.store.setEnabled(False)
        paths, logbook = self._paths, self._logbook
        self._tasks.run(
            "traces", lambda: match_files(logbook, paths, hints), self._show, self._fail
        )

    def _fail(self, error: Exception) -> None:
        self.says.say(str(said_of(error)), "brick")

    def _show(self, matches: list[TraceMatch]) -> None:
        force = self._workshop.units.force_text
        options = [
            ("", "nobody's"),
            *((e.specimen.id, _named(e)) for e in self._logbook.entries),
        ]
        self.lines = []
        for match in matches[:_MOST_SHOWN]:
            said = match.wrong or f"peak {force(match.peak_n)}, {match.end.replace('_', ' ')}"
            line = MatchLine(match, said, options)
            line.box.activated.connect(lambda _: self._tell())
            self.lines.append(line)
        self.list.replace(list(self.lines))
        self._tell()

    def _tell(self) -> None:
        ready = [
            line.chosen for line in self.lines if line.chosen.specimen_id and line.match.record
        ]
        wrong = sum(bool(line.match.wrong) for line in self.lines)
        nobody = len(self.lines) - len(ready) - wrong
        parts = [f"{count(len(ready), 'record')} would come in"]
        parts += [f"{nobody} belong to nobody yet"] if nobody else []
        parts += [f"{wrong} cannot be read"] if wrong else []
        self.says.say(", ".join(parts) + "." if self.lines else "", "muted")
        self.store.setText(f"Bring in {count(len(ready), 'record')}")
        self.store.setEnabled(bool(ready))

    def _on_store(self) -> None:
        chosen = [line.chosen for line in self.lines]
        twice = len({m.specimen_id for m in chosen if m.specimen_id}) < sum(
            bool(m.specimen_id) for m in chosen
        )
        if twice:
            self.says.say("Two records are given to one specimen: choose another.", "brick")
            return
        try:
            done = store_traces(self._workshop, self._logbook, chosen)
        except BruiserError as error:
            self.says.say(str(error), "brick")
            return
        self.accept()
        self.stored.emit(done)


def _named(entry: Entry) -> str:
    waits = "waits" if entry.pull is None else "pulled"
    return f"{entry.specimen.code}, {entry.specimen.title} ({waits})"
