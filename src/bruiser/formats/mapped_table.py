"""A sheet read as pulls by a mapping: column by column, with every problem by row and column."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from bruiser.catalogue.finding import fold
from bruiser.core.decimal_sign import DecimalMark, may_be_two, reads_as
from bruiser.core.units import si_factor
from bruiser.formats.column_mapping import (
    DateOrder,
    TableMapping,
    body_of,
    headings_of,
    unit_said,
    units_of,
)
from bruiser.formats.package_tables import no_collection
from bruiser.formats.sheets import SheetRows
from bruiser.formats.table_fields import FIELDS, PLAIN_WORDS, FieldKind, word_meant

MOST_PROBLEMS = 500
LONGEST_TEXT = 200
LONGEST_NOTE = 2000
_UNIT_AFTER = re.compile(r"(.*[\d.,])\s*([A-Za-z\"]+)")
_UNITS = {
    "n": ("N", "force"), "kn": ("kN", "force"), "dan": ("daN", "force"), "kgf": ("kgf", "force"),
    "kg": ("kgf", "force"), "lbf": ("lbf", "force"), "lb": ("lbf", "force"),
    "lbs": ("lbf", "force"),
    "mm": ("mm", "length"), "cm": ("cm", "length"), "m": ("m", "length"), "in": ("in", "length"),
    "s": ("s", "time"), "min": ("min", "time"),
}  # fmt: skip
_DIGITS = set("0123456789.")


@dataclass(frozen=True, kw_only=True)
class TableProblem:
    """What is not right in a cell, and what to do; line 0 is the table as a whole."""

    line: int
    column: str
    said: str
    remedy: str = ""

    def __str__(self) -> str:
        where = f"Row {self.line}, column {self.column}" if self.line else self.column
        return f"{where}: {self.said} {self.remedy}".strip()


@dataclass(frozen=True, kw_only=True)
class MappedTable:
    """A table as read: the values of every field that is mapped, row by row, in SI.

    Parameters
    ----------
    values : dict
        Field to its values: texts (empty where nothing stands), numbers in newton, metre and
        second (None where nothing stands), dates, or words of :data:`FIELDS`.
    problems : tuple of TableProblem
        The first of them; `count` says how many there are.
    """

    lines: Sequence[int]
    values: dict[str, Sequence[Any]]
    headings: dict[str, str]
    problems: tuple[TableProblem, ...] = ()
    count: int = 0
    unknown_words: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.lines)


class _Reader(dict[str, Any]):
    """Texts of a column to values; each text is read once, what is wrong is kept by it."""

    def __init__(self, read: Callable[[str], object]) -> None:
        super().__init__()
        self._read, self.wrong = read, dict[str, str]()

    def __missing__(self, text: str) -> object:
        try:
            value = self._read(text.strip())
        except ValueError as error:
            self.wrong[text] = str(error)
            value = None
        self[text] = value
        return value


def read_figure(text: str, decimal: DecimalMark) -> float:
    """A number as a table writes it.

    Raises
    ------
    ValueError
        If it is none, or may be two; in words.
    """
    if decimal is DecimalMark.ASK:
        both = may_be_two(text)
        if both is not None:
            small, large = both
            raise ValueError(
                f"“{text[:40]}” may be {small:g} or {large:.0f}: say which the decimal sign is"
            )
        values = [reads_as(text, mark) for mark in (DecimalMark.POINT, DecimalMark.COMMA)]
        value = next((v for v in values if v is not None), None)
    else:
        value = reads_as(text, decimal)
        if value is None:
            other = DecimalMark.COMMA if decimal is DecimalMark.POINT else DecimalMark.POINT
            if reads_as(text, other) is not None:
                raise ValueError(f"“{text[:40]}” does not go with “{decimal}” as decimal sign")
    if value is None:
        raise ValueError(f"“{text[:40]}” is no number")
    if not math.isfinite(value):
        raise ValueError(f"“{text[:40]}” is no finite number")
    return value


def read_mapped(sheet: SheetRows, mapping: TableMapping) -> MappedTable:
    """Read a sheet by a mapping; what cannot be read is a problem, and nothing is guessed."""
    with no_collection():
        return _read_mapped(sheet, mapping)


def _read_mapped(sheet: SheetRows, mapping: TableMapping) -> MappedTable:
    headings = headings_of(sheet, mapping)
    rows, lines = body_of(sheet, mapping)
    said = {key: unit_said(key, h, headings) for key, h in mapping.columns.items()}
    work = _Work(mapping, list(lines), {**{k: u for k, u in said.items() if u}, **mapping.units})
    columns = list(zip(*rows, strict=True)) if rows else []
    cells: dict[str, Sequence[str]] = {}
    for key, heading in mapping.columns.items():
        if heading not in headings:
            work.add(0, heading, "this column is not there.", "Choose another.")
        elif columns:
            cells[key] = columns[headings.index(heading)]
    for key, text in mapping.fixed.items():
        if key not in cells:
            cells[key] = (text,) * len(rows)
    if not rows:
        work.add(0, "The table", "there is no row below the headings.")
    work.read(cells)
    return work.finish()


class _Work:
    """Reads the columns of one table."""

    def __init__(self, mapping: TableMapping, lines: list[int], units: dict[str, str]) -> None:
        self.mapping, self.lines, self.units = mapping, lines, units
        self.values: dict[str, Sequence[Any]] = {}
        self.problems: list[TableProblem] = []
        self.count = 0
        self.unknown: dict[str, dict[str, None]] = {}

    def add(self, line: int, column: str, said: str, remedy: str = "") -> None:
        """Keep a problem; only the first few hundred are kept, all are counted."""
        self.count += 1
        if len(self.problems) < MOST_PROBLEMS:
            self.problems.append(TableProblem(line=line, column=column, said=said, remedy=remedy))

    def heading(self, key: str) -> str:
        """What the table calls a field."""
        return self.mapping.columns.get(key, key)

    def read(self, cells: dict[str, Sequence[str]]) -> None:
        """Read every column; roles first, for words mean something else in plain rope."""
        size = len(self.lines)
        for key in ("role", "knot", *(k for k in cells if k not in ("role", "knot"))):
            if key in cells:
                self.values[key] = self._column(key, cells[key])
        knots = self.values.get("knot", ("",) * size)
        said = self.values.get("role", ("",) * size)
        self.values["role"] = [
            r or ("baseline" if k == "" else "knot") for r, k in zip(said, knots, strict=True)
        ]
        for key, column in cells.items():
            self._ask_unit(key, column, own="unit" in cells)
        if "finding" in cells:
            self.values["finding"] = self._findings(cells["finding"])
        if "unit" in self.values:
            self._own_units(cells)

    def _ask_unit(self, key: str, cells: Sequence[str], *, own: bool) -> None:
        """A problem of the whole column where nothing says in which unit its numbers are."""
        kind = FIELDS[key].kind
        if not units_of(kind) or self.units.get(key) or key in self.mapping.fixed:
            return
        if own and kind is FieldKind.FORCE and all(self.values["unit"]):
            return
        bare = any(c and c[-1].isdigit() for c in map(str.strip, cells))
        if bare:
            like = "kN" if kind is FieldKind.FORCE else "mm"
            heading = self.heading(key)
            self.add(
                0, heading, "its unit is not said.", f"Say it, or head it “{heading} ({like})”."
            )

    def _column(self, key: str, cells: Sequence[str]) -> Sequence[Any]:
        quick = self._quick(key, cells)
        if quick is not None:
            return quick
        reader = _Reader(self._how(key))
        values = [reader[cell] for cell in cells]
        self._complain(key, cells, reader.wrong)
        return values

    def _quick(self, key: str, cells: Sequence[str]) -> list[Any] | None:
        """A column of plain numbers or short texts, which need not be looked at one by one."""
        kind = FIELDS[key].kind
        if kind is FieldKind.TEXT and key != "knot":
            texts = [cell.strip() for cell in cells]
            longest = LONGEST_NOTE if key == "note" else LONGEST_TEXT
            return texts if max(map(len, texts), default=0) <= longest else None
        if kind is not FieldKind.FORCE or self.mapping.decimal is not DecimalMark.POINT:
            return None
        if not set("".join(cells)) <= _DIGITS:
            return None
        try:
            factor = si_factor((self.units.get(key) or "kN"), "force")
            return [None if not cell else float(cell) * factor for cell in cells]
        except ValueError:
            return None

    def _complain(self, key: str, cells: Sequence[str], wrong: dict[str, str]) -> None:
        if not wrong:
            return
        word = FIELDS[key].kind is FieldKind.WORD
        if word:
            self.unknown.setdefault(key, {}).update(dict.fromkeys(w.strip() for w in wrong))
        remedy = "Say what the word means." if word else ""
        for line, cell in zip(self.lines, cells, strict=True):
            if cell in wrong:
                self.add(line, self.heading(key), f"{wrong[cell]}.", remedy)

    def _how(self, key: str) -> Callable[[str], object]:
        kind = FIELDS[key].kind
        if key == "knot":
            return _knot_text
        if kind is FieldKind.TEXT:
            longest = LONGEST_NOTE if key == "note" else LONGEST_TEXT
            return lambda text: _text(text, longest)
        if kind is FieldKind.WORD:
            return lambda text: self._word(key, text)
        if kind is FieldKind.DATE:
            return self._date
        return lambda text: self._quantity(key, kind, text)

    def _word(self, key: str, text: str, *, baseline: bool | None = None) -> str:
        if not text:
            return ""
        own = self.mapping.words.get(key, {})
        meant = own.get(text) or own.get(fold(text)) or word_meant(key, text, baseline=baseline)
        if not meant:
            raise ValueError(f"“{text[:40]}” is no word for {FIELDS[key].words} that is known")
        return meant

    def _findings(self, cells: Sequence[str]) -> list[str]:
        readers = {
            "baseline": _Reader(lambda text: self._word("finding", text, baseline=True)),
            "knot": _Reader(lambda text: self._word("finding", text, baseline=False)),
        }
        return [
            readers[role][cell] or "" for role, cell in zip(self.values["role"], cells, strict=True)
        ]

    def _quantity(self, key: str, kind: FieldKind, text: str) -> float | int | None:
        if not text or text.lower() in ("-", "n/a", "na", "nan"):
            return None
        number, unit, dimension = text, self.units.get(key, ""), ""
        if kind is FieldKind.FORCE:
            unit, dimension = unit or "kN", "force"
        elif kind is FieldKind.LENGTH:
            unit, dimension = unit or "mm", "length"
        elif kind is FieldKind.SECONDS:
            unit, dimension = "s", "time"
        said = _UNIT_AFTER.fullmatch(text)
        if said is not None and dimension:
            known = _UNITS.get(said[2].lower())
            if known is None or known[1] != dimension:
                raise ValueError(f"“{text[:40]}” is no number in a unit of {dimension}")
            number, unit = said[1], known[0]
        value = read_figure(number, self.mapping.decimal)
        if kind is FieldKind.WHOLE:
            if value != int(value) or not 0 <= value <= 1_000_000:
                raise ValueError(f"“{text[:40]}” is no whole number up to a million")
            return int(value)
        if dimension:
            if value < 0:
                raise ValueError(f"“{text[:40]}” is below zero")
            return value * si_factor(unit, dimension)
        return value

    def _date(self, text: str) -> date | float | None:
        if not text:
            return None
        found = re.match(r"(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?:$|[T ])", text)
        if found is None:
            return read_figure(text, self.mapping.decimal)
        a, b, c = int(found[1]), int(found[2]), int(found[3])
        order = DateOrder.YEAR if len(found[1]) == 4 else self.mapping.dates
        if order is DateOrder.ASK:
            raise ValueError(
                f"“{text[:20]}” may be two dates: say whether the day or month is first"
            )
        if order is DateOrder.YEAR:
            year, month, day = a, b, c
        else:
            day, month = (a, b) if order is DateOrder.DAY else (b, a)
            year = c + 2000 if c < 100 else c
        try:
            when = date(year, month, day)
        except ValueError:
            raise ValueError(f"“{text[:20]}” is no date") from None
        if not 1900 <= when.year <= 2200:
            raise ValueError(f"“{text[:20]}” is no date of a pull")
        return when

    def _own_units(self, cells: dict[str, Sequence[str]]) -> None:
        """Loads of rows that name their unit themselves."""
        units = self.values["unit"]
        for key in (k for k in self.values if FIELDS[k].kind is FieldKind.FORCE):
            usual = si_factor((self.units.get(key) or "kN"), "force")
            factors = {u: si_factor(u, "force") / usual for u in set(units) if u}
            self.values[key] = [
                value
                if value is None or not unit or _UNIT_AFTER.fullmatch(cell.strip())
                else value * factors[unit]
                for value, unit, cell in zip(self.values[key], units, cells[key], strict=True)
            ]

    def finish(self) -> MappedTable:
        """The table with its problems, those of a row together."""
        return MappedTable(
            lines=self.lines,
            values=self.values,
            headings=dict(self.mapping.columns),
            problems=tuple(sorted(self.problems, key=lambda p: p.line)),
            count=self.count,
            unknown_words={k: tuple(v) for k, v in self.unknown.items()},
        )


def _text(text: str, longest: int) -> str:
    if len(text) > longest:
        raise ValueError(f"{len(text)} characters are too long; up to {longest}")
    return text


def _knot_text(text: str) -> str:
    plain = text in ("", "-") or (fold(text) and fold(text) in PLAIN_WORDS)
    return "" if plain else _text(text, LONGEST_TEXT)
