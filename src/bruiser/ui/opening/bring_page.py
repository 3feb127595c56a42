"""A table of pulls brought in: what each column means, how rows are read, what would come of it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from bruiser.core.words import count
from bruiser.formats.table_templates import TEMPLATES
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.opening.bring_desk import BringDesk
from bruiser.ui.opening.bring_lines import ColumnLine, NameLine, WordLine
from bruiser.ui.theme.tokens import SPACE

KINDS = "Tables (*.csv *.tsv *.txt *.xlsx *.xlsm *.xls *.ods);;Every file (*)"
MARKS = {".": "point: 9.25", ",": "comma: 9,25", "ask": "not clear: say which"}
ORDERS = {
    "ymd": "year first",
    "dmy": "day first: 13/4/2024",
    "mdy": "month first: 4/13/2024",
    "ask": "not clear: say which",
}
FOR_ALL = {
    "cordage": ("Cordage", "P8-B"),
    "condition": ("Condition", "new"),
    "diameter_mm": ("Diameter", "8 mm"),
    "technician": ("Technician", "initials"),
}
READ_AS = ("pull", "cordage", "knot", "peak", "gave", "untied", "date", "by")
READ_WIDTHS = (0.5, 1.0, 1.4, 1.2, 1.2, 0.8, 1.4, 0.6)
EXAMPLE = (
    *("pull", "role", "cordage", "condition", "knot", "ends", "peak", "unit", "finding"),
    *("jam_level", "note"),
)
EXAMPLE_WIDTHS = (0.6, 0.9, 1.0, 0.8, 1.0, 0.5, 0.6, 0.5, 1.7, 0.9, 2.0)
WRONG = ("row", "column", "what is not right", "what to do")
WRONG_WIDTHS = (0.4, 1.1, 3.0, 2.0)
_MOST_WRONG = 200


class BringPage(StationPage):
    """Left what columns and words mean; right how rows are read and what stands in the way."""

    leave = pyqtSignal()

    def __init__(self, desk: BringDesk) -> None:
        super().__init__("bring")
        self._desk = desk
        self.choose = button("Choose a file …", "bring.choose", "primary")
        self.paste = button("From the clipboard", "bring.paste")
        self.sheet = ChoiceField("Sheet", "bring.sheet")
        self.mark = ChoiceField("Decimal sign", "bring.mark", MARKS)
        self.dates = ChoiceField("Dates", "bring.dates", ORDERS)
        self.rows = ChoiceField(
            "Headings", "bring.rows", {"0": "none", "1": "one row", "2": "two rows", "3": "three"}
        )
        self.fixed = {k: Field(w, f"bring.all.{k}", hint=h) for k, (w, h) in FOR_ALL.items()}
        self.columns = Scrolled("bring.columns", spacing="xs")
        self.read_as = RowsTable(
            "bring.read_as", "The first rows as they are read", READ_AS, READ_WIDTHS
        )
        self.wrong = RowsTable(
            "bring.wrong", "What is not right, by row and column", WRONG, WRONG_WIDTHS
        )
        self.makes = Words("", "body")
        self.makes.setObjectName("bring.makes")
        self.wrong_words = Words("", "small", "muted")
        self.wrong_words.setObjectName("bring.problems")
        self.store = button("Bring in", "bring.store", "primary")
        self.keep = button("Save the mapping …", "bring.keep")
        self.load = button("Take a mapping …", "bring.load")
        self.cancel = button("Let go of it", "bring.cancel")
        self.first = self.choose
        self._shown: tuple[object, ...] = ()
        self._build()
        desk.changed.connect(self._refresh)
        desk.looked.connect(self._refresh)
        self._refresh()

    def _build(self) -> None:
        self.corner.addWidget(self.paste)
        self.corner.addWidget(self.choose)
        top = QHBoxLayout()
        top.setSpacing(SPACE["s"])
        for one in (self.sheet, self.rows, self.mark, self.dates):
            top.addWidget(one, 1)
        for field in self.fixed.values():
            top.addWidget(field, 1)
        self.head = QWidget()
        self.head.setLayout(top)
        top.setContentsMargins(0, 0, 0, 0)
        left = Card("What each column means")
        left.column.addWidget(self.columns, 1)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        read = Card("The first rows as they are read")
        read.column.addWidget(self.read_as, 1)
        wrong = Card("What stands in the way")
        wrong.column.addWidget(self.wrong_words)
        wrong.column.addWidget(self.wrong, 1)
        right.addWidget(read, 3)
        right.addWidget(wrong, 2)
        middle = QHBoxLayout()
        middle.setSpacing(SPACE["s"])
        middle.addWidget(left, 5)
        middle.addLayout(right, 7)
        below = QHBoxLayout()
        below.addWidget(self.makes, 1)
        for made in (self.load, self.keep, self.cancel, self.store):
            below.addWidget(made, 0, Qt.AlignmentFlag.AlignBottom)
        self.work = QWidget()
        column = QVBoxLayout(self.work)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(self.head)
        column.addLayout(middle, 1)
        column.addLayout(below)
        self.nothing = Words(
            "CSV, TSV, XLSX and ODS are read in any encoding, under headings of your own; a file "
            "can be dropped here. Nothing is stored before you have seen what would come of it, a "
            "copy of the campaign is kept first, and one undo takes all of it back.",
            "body",
            "muted",
        )
        self.empty = self._example()
        self.body.addWidget(self.empty, 1)
        self.body.addWidget(self.work, 1)
        self._connect()

    def _example(self) -> QWidget:
        """What stands here before there is a table: one to start from."""
        self.start = button("Save this table to start from …", "bring.start")
        self.start.clicked.connect(self._on_start)
        template = TEMPLATES[0]
        places = [template.headings.index(h) for h in EXAMPLE]
        shown = RowsTable("bring.example", "A table to start from", EXAMPLE, EXAMPLE_WIDTHS)
        shown.show_rows(
            [
                (str(n), tuple("" if row[at] is None else str(row[at]) for at in places))
                for n, row in enumerate(template.rows)
            ]
        )
        example = Card("A table to start from: one heading for each column, one row for each pull")
        example.column.addWidget(shown, 1)
        row = QHBoxLayout()
        row.addWidget(self.start)
        row.addStretch(1)
        example.column.addLayout(row)
        empty = QWidget()
        column = QVBoxLayout(empty)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["m"])
        column.addWidget(self.nothing)
        column.addWidget(example, 1)
        return empty

    def _on_start(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save a table to start from", "pulls.xlsx", "Workbook (*.xlsx);;CSV (*.csv)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if name:
            self._desk.save_template(Path(name))

    def _connect(self) -> None:
        self.choose.clicked.connect(self.ask_file)
        self.paste.clicked.connect(self.take_clipboard)
        self.sheet.chosen.connect(lambda key: self._desk.choose_sheet(int(key)))
        self.mark.chosen.connect(self._desk.mark_tenths)
        self.dates.chosen.connect(self._desk.order_dates)
        self.rows.chosen.connect(lambda key: self._desk.set_headings(int(key)))
        for key, field in self.fixed.items():
            field.entry.editingFinished.connect(partial(self._fix, key))
        self.store.clicked.connect(self._on_store)
        self.cancel.clicked.connect(self._desk.forget)
        self.keep.clicked.connect(self._on_keep)
        self.load.clicked.connect(self._on_load)

    def _fix(self, key: str) -> None:
        self._desk.fix(key, self.fixed[key].text)

    def ask_file(self) -> None:
        """Ask which table."""
        name, _ = QFileDialog.getOpenFileName(self, "Bring in a table", "", KINDS)
        if name:
            self._desk.read_file(Path(name))

    def take_clipboard(self) -> None:
        """Take what was copied in a spreadsheet."""
        board = QApplication.clipboard()
        self._desk.read_text("" if board is None else board.text())

    def _on_store(self) -> None:
        self._desk.bring()

    def _on_keep(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the mapping", "mapping.json", "Mapping (*.json)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if name:
            self._desk.save_mapping(Path(name))

    def _on_load(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Take a mapping", "", "Mapping (*.json)")
        if name:
            self._desk.load_mapping(Path(name))

    def _refresh(self) -> None:
        desk = self._desk
        there = desk.sheet is not None
        self.work.setVisible(there)
        self.empty.setVisible(not there)
        self.corner_box.setVisible(not there)
        self.title.say("Pulls from a table" if not there else f"Pulls from {desk.source}")
        if not there:
            self.subtitle.say("Years of pulls in a spreadsheet become pulls of this campaign")
            self._shown = ()
            return
        mapping, plan = desk.mapping, desk.plan
        known = "its columns are known from before" if desk.remembered else "columns recognised"
        lines = 0 if desk.table is None else len(desk.table)
        self.subtitle.say(f"{count(lines, 'row')}, {known}; correct what is not right")
        self.sheet.offer([(str(n), s.name or "the only one") for n, s in enumerate(desk.sheets)])
        self.sheet.setVisible(len(desk.sheets) > 1)
        self.mark.fill(mapping.decimal.value)
        self.dates.fill(mapping.dates.value)
        self.dates.setVisible("day" in mapping.columns)
        self.rows.fill(str(mapping.heading_rows))
        for key, field in self.fixed.items():
            if not field.entry.hasFocus():
                field.fill(mapping.fixed.get(key, ""))
            field.setVisible(key not in mapping.columns)
        if desk.busy:
            self.store.setEnabled(False)
            return
        self._show_lines()
        self.read_as.show_rows([(str(n), tuple(row)) for n, row in enumerate(desk.preview())])
        problems = () if plan is None else plan.problems[:_MOST_WRONG]
        self.wrong.show_rows(
            [
                (str(n), (str(p.line or ""), p.column, p.said, p.remedy))
                for n, p in enumerate(problems)
            ]
        )
        self._say_what_comes()

    def _show_lines(self) -> None:
        """The lines of columns, words, lots and knots; built anew only where they changed."""
        desk = self._desk
        unknown = {} if desk.table is None else desk.table.unknown_words
        told = {k: tuple(v) for k, v in desk.mapping.words.items()}
        lots, knots = desk.names("cordage"), desk.names("knot")
        shown = (tuple(desk.headings), desk.mapping, str(unknown), lots, knots, desk.plan)
        if shown == self._shown:
            return
        self._shown = shown
        widgets: list[QWidget] = [ColumnLine(desk, h) for h in desk.headings if h]
        both = {k: (*unknown.get(k, ()), *told.get(k, ())) for k in {**unknown, **told}}
        words = [(key, word) for key, found in both.items() for word in found]
        if words:
            widgets.append(Words("Words of the table", "label", "muted"))
            widgets += [WordLine(desk, key, word) for key, word in dict.fromkeys(words)]
        if lots:
            widgets.append(Words("Cordage the table names", "label", "muted"))
            widgets += [NameLine(desk, "cordage", name) for name in lots[:40]]
        if knots:
            widgets.append(Words("Knots the table names", "label", "muted"))
            widgets += [NameLine(desk, "knot", name) for name in knots[:80]]
        focus = QApplication.focusWidget()
        name = "" if focus is None else focus.objectName()
        at = self.columns.verticalScrollBar()
        place = 0 if at is None else at.value()
        self.columns.replace(widgets)
        again = self.columns.findChild(QWidget, name) if name else None
        if again is not None:
            again.setFocus()
        if at is not None:
            at.setValue(place)

    def _say_what_comes(self) -> None:
        plan = self._desk.plan
        if plan is None:
            self.makes.say("")
            self.store.setEnabled(False)
            return
        if plan.problems:
            self.wrong_words.say(
                f"{count(plan.count, 'cell')} cannot be read yet. Correct the file, or say on the "
                "left what is meant; everything comes in, or nothing.",
                "brick",
            )
        else:
            self.wrong_words.say("Nothing. Every row can be read.", "moss")
        said = [count(len(plan.rows), "pull")]
        said += [f"{count(len(plan.lots), 'new lot')}"] if plan.lots else []
        said += [f"{count(len(plan.knots), 'knot')} brought into play"] if plan.knots else []
        said += (
            [f"{count(len(plan.structures), 'knot')} of which only the name is known"]
            if plan.structures
            else []
        )
        already = f" {count(plan.already, 'row')} came in before." if plan.already else ""
        self.makes.say(f"Would come in: {', '.join(said)}.{already}")
        self.store.setText(f"Bring in {count(len(plan.rows), 'pull')}")
        self.store.setEnabled(self._desk.ready)
