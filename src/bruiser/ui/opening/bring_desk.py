"""What is brought in from a table: the sheet, what its columns mean, and what would come of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import pyqtSignal

from bruiser.core.decimal_sign import DecimalMark
from bruiser.core.errors import InputError
from bruiser.formats.column_mapping import (
    DateOrder,
    TableMapping,
    heading_key,
    headings_of,
    mapping_text,
    read_mapping,
    unit_said,
)
from bruiser.formats.mapped_table import MappedTable, read_mapped
from bruiser.formats.sheets import SheetRows, read_sheets, text_sheet
from bruiser.formats.table_files import table_bytes, write_new_file
from bruiser.formats.table_templates import TEMPLATES
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.kept_mappings import keep_mapping, kept_mapping
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.exchange.bring_in_command import bring_in, recognised
from bruiser.workshop.exchange.bringing_in import ImportPlan, plan_import
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

SHOWN_ROWS = 8
CLIPBOARD = "clipboard"


class BringDesk(Desk):
    """Reads a table by a mapping that the person corrects; looks again after each change."""

    looked = pyqtSignal()
    brought = pyqtSignal(int)

    def __init__(self, workshop: Workshop, tasks: TaskRunner) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.sheets: list[SheetRows] = []
        self.sheet: SheetRows | None = None
        self.source = ""
        self.mapping = TableMapping()
        self.headings: list[str] = []
        self.remembered = False
        self._lent: dict[str, tuple[str, str]] = {}
        self.table: MappedTable | None = None
        self.plan: ImportPlan | None = None
        self.busy = False

    def take_up(self, logbook: Logbook) -> None:
        """The logbook was read again."""
        self.logbook = logbook
        if self.sheet is not None and not self.busy:
            self._look()

    def read_file(self, path: Path) -> bool:
        """Read a file and recognise its columns; says whether it could be read."""
        return self.attempt(lambda: self._take(read_sheets(path), path.name))

    def read_text(self, text: str) -> bool:
        """Read what was copied in a spreadsheet."""

        def take() -> None:
            if not text.strip():
                raise InputError("The clipboard holds no table.", "Copy cells with their headings.")
            self._take([text_sheet(text, CLIPBOARD)], CLIPBOARD)

        return self.attempt(take)

    def _take(self, sheets: list[SheetRows], source: str) -> None:
        self.sheets, self.source = sheets, source
        self.choose_sheet(0)

    def choose_sheet(self, at: int) -> None:
        """Take one of the sheets; its columns are recognised, or remembered by their headings."""
        if self.logbook is None:
            return
        self.sheet = self.sheets[at]
        found = recognised(self.sheet, self.logbook)
        self.headings = headings_of(self.sheet, found)
        kept = kept_mapping(heading_key(self.headings))
        self.remembered = kept is not None
        if kept is not None:
            found = replace(kept, sheet=found.sheet, skip=found.skip, decimal=found.decimal)
        self.mapping = found
        self._lent.clear()
        self._look()

    def mean(self, heading: str, key: str) -> None:
        """Say what a column is; empty for nothing.

        What another column was goes back to that one as soon as this is something else: arrow keys
        pass by every choice.
        """
        before = self.mapping.columns
        columns = {k: h for k, h in before.items() if h != heading}
        lent, owner = self._lent.pop(heading, ("", ""))
        if lent and lent not in columns and owner not in columns.values():
            columns[lent] = owner
        if key in columns:
            self._lent[heading] = (key, columns.pop(key))
        units = dict(self.mapping.units)
        if key:
            columns[key] = heading
            said = unit_said(key, heading, self.headings)
            if said and key not in units:
                units[key] = said
        self._change(columns=columns, units=units)

    def measure(self, key: str, unit: str) -> None:
        """Say in which unit a column is."""
        self._change(units={**self.mapping.units, key: unit})

    def translate(self, key: str, word: str, meaning: str) -> None:
        """Say what a word of the table means."""
        words = {k: dict(v) for k, v in self.mapping.words.items()}
        words.setdefault(key, {})[word] = meaning
        if not meaning:
            words[key].pop(word)
        self._change(words=words)

    def fix(self, key: str, text: str) -> None:
        """Say what holds for every row."""
        fixed = {k: v for k, v in self.mapping.fixed.items() if k != key}
        if text.strip():
            fixed[key] = text.strip()
        if fixed != self.mapping.fixed:
            self._change(fixed=fixed)

    def mean_knot(self, name: str, meant: str) -> None:
        """Say which knot a name of the table is; empty: as it was found."""
        knots = {k: v for k, v in self.mapping.knots.items() if k != name}
        self._change(knots={**knots, name: meant} if meant else knots)

    def mean_lot(self, name: str, lot: str) -> None:
        """Say which lot a name of the table is; empty: as it was found, or a new one."""
        lots = {k: v for k, v in self.mapping.lots.items() if k != name}
        self._change(lots={**lots, name: lot} if lot else lots)

    def mark_tenths(self, mark: str) -> None:
        """Say which mark stands before the tenths."""
        self._change(decimal=DecimalMark(mark))

    def order_dates(self, order: str) -> None:
        """Say in which order dates are written."""
        self._change(dates=DateOrder(order))

    def set_headings(self, rows: int) -> None:
        """Say how many rows the headings take, below what is skipped."""
        self._change(heading_rows=rows)
        if self.sheet is not None:
            self.headings = headings_of(self.sheet, self.mapping)
            columns = {k: h for k, h in self.mapping.columns.items() if h in self.headings}
            self._change(columns=columns)

    def _change(self, **changes: object) -> None:
        self.mapping = replace(self.mapping, **changes)  # type: ignore[arg-type]
        self._look()

    def _look(self) -> None:
        """Read the table again, off the interface thread."""
        sheet, mapping, logbook = self.sheet, self.mapping, self.logbook
        if sheet is None or logbook is None:
            return
        self.busy = True
        source, now = self.source, self.workshop.now()

        def work() -> tuple[MappedTable, ImportPlan]:
            table = read_mapped(sheet, mapping)
            return table, plan_import(logbook, table, mapping, source, now)

        self._tasks.run("bring", work, self._on_looked, self._on_failed)
        self.changed.emit()

    def _on_looked(self, found: tuple[MappedTable, ImportPlan]) -> None:
        self.table, self.plan = found
        self.busy = False
        self.looked.emit()

    def _on_failed(self, error: Exception) -> None:
        self.busy = False
        self.plan = None
        self.work_failed(error)
        self.looked.emit()

    @property
    def ready(self) -> bool:
        """Whether everything can come in as it stands."""
        if self.busy or self.workshop.read_only or self.plan is None:
            return False
        return bool(self.plan.rows) and not self.plan.problems

    def samples(self, heading: str) -> str:
        """The first cells under a heading."""
        if self.sheet is None or heading not in self.headings:
            return ""
        at = self.headings.index(heading)
        start = self.mapping.skip + self.mapping.heading_rows
        cells = (row[at].strip() for row in self.sheet.rows[start : start + 40])
        return "  ·  ".join(list(dict.fromkeys(c[:30] for c in cells if c))[:4])

    def names(self, key: str) -> tuple[str, ...]:
        """What the table names in a field, each once, in the order it comes."""
        if self.table is None:
            return ()
        return tuple(dict.fromkeys(str(v) for v in self.table.values.get(key, ()) if v))

    def preview(self) -> list[Sequence[str]]:
        """The first rows as they would be read."""
        plan, force = self.plan, self.units.force_text
        if plan is None:
            return []
        return [
            (
                row.specimen.code,
                row.specimen.lot.name,
                row.specimen.title,
                force(row.finding.peak_load_n),
                row.finding.gave.value.replace("_", " "),
                ", ".join(x.jam_level.value for x in row.finding.inspections),
                row.pull.started_at[:10],
                row.pull.technician,
            )
            for row in plan.rows[:SHOWN_ROWS]
        ]

    def bring(self) -> bool:
        """Store everything as one step, and remember the mapping; says whether it was stored."""
        plan = self.plan
        if plan is None or not self.ready:
            return False
        if not self.attempt(lambda: bring_in(self.workshop, plan, self.source)):
            return False
        keep_mapping(heading_key(self.headings), self.mapping)
        count = len(plan.rows)
        self.forget()
        self.brought.emit(count)
        return True

    def forget(self) -> None:
        """Let go of the table."""
        self.sheets, self.sheet, self.table, self.plan = [], None, None, None
        self.source, self.headings, self.mapping = "", [], TableMapping()
        self.looked.emit()

    def save_mapping(self, path: Path) -> bool:
        """Write the mapping into a new file, for the command line and for others."""
        return self.attempt(lambda: write_new_file(path, mapping_text(self.mapping).encode()))

    def save_template(self, path: Path) -> bool:
        """Write a table to start from."""
        template = TEMPLATES[0]

        def write() -> None:
            content = table_bytes(path.suffix.lower(), template.headings, template.rows)
            write_new_file(path, content)

        return self.attempt(write)

    def load_mapping(self, path: Path) -> bool:
        """Take a mapping from a file."""

        def take() -> None:
            try:
                text = path.read_text(encoding="utf-8")
            except (OSError, UnicodeDecodeError) as error:
                raise InputError(f"{path.name} cannot be read.") from error
            self.mapping = read_mapping(text)
            self._look()

        return self.attempt(take)
