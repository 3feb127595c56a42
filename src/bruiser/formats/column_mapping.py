"""Which column of a sheet means what: recognised from headings and contents, kept as a record."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from bruiser.catalogue.finding import fold
from bruiser.core.decimal_sign import (
    LOADS_ANYWHERE_N,
    DecimalMark,
    Range,
    decimal_sign_of,
    loads_about,
)
from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record, write_document
from bruiser.core.units import si_factor
from bruiser.formats.sheets import SheetRows, plain_heading
from bruiser.formats.table_fields import (
    FIELDS,
    FORCE_UNITS,
    LENGTH_UNITS,
    PLAIN_WORDS,
    FieldKind,
    field_called,
    unit_in_heading,
    word_meant,
)

FORMAT = "bruiser-mapping-1"
_FIGURES = (FieldKind.FORCE, FieldKind.LENGTH, FieldKind.SECONDS, FieldKind.NUMBER)
_SAMPLED = 400
_MOST_HEADING = 20
_NUMBER = re.compile(r"[+-]?\d[\d.,'\u00a0\u202f ]*(?:[eE][+-]?\d+)?")
_WITH_UNIT = re.compile(r"([+-]?\d[\d.,'\u00a0\u202f ]*)\s*([A-Za-z]+)")
_DATE = re.compile(r"\d{4}-\d\d?-\d\d?|\d\d?[./]\d\d?[./]\d{2,4}")


class DateOrder(StrEnum):
    """In which order a date such as 3/4/2026 is written."""

    YEAR = "ymd"
    DAY = "dmy"
    MONTH = "mdy"
    ASK = "ask"


@dataclass(frozen=True, kw_only=True)
class TableMapping:
    """What the columns of a table mean.

    Parameters
    ----------
    sheet : str
        Name of the sheet; empty for the first.
    heading_rows : int
        How many rows the headings take; none where it is 0 and columns go by number, from 1.
    skip : int
        Rows above the headings.
    columns : dict
        Field to heading; a heading that stands there twice is followed by ``#2``.
    units : dict
        Field to unit, of force or length.
    words : dict
        Field to what the table's own words mean, as ``{"finding": {"popped": "broke_at_knot"}}``.
    fixed : dict
        What holds for every row, by field: ``{"cordage": "P8-B", "diameter_mm": "8"}``.
    knots : dict
        What the table calls a knot, to its key in the catalogue, or to the family as which it is
        made: ``{"pig tail": "overhand-loop", "our loop": "end loop"}``.
    lots : dict
        What the table calls a cordage, to the name of a lot that is there.
    """

    format: str = FORMAT
    sheet: str = ""
    skip: int = 0
    heading_rows: int = 1
    decimal: DecimalMark = DecimalMark.POINT
    dates: DateOrder = DateOrder.YEAR
    columns: dict[str, str] = field(default_factory=dict)
    units: dict[str, str] = field(default_factory=dict)
    words: dict[str, dict[str, str]] = field(default_factory=dict)
    fixed: dict[str, str] = field(default_factory=dict)
    knots: dict[str, str] = field(default_factory=dict)
    lots: dict[str, str] = field(default_factory=dict)


def mapping_text(mapping: TableMapping) -> str:
    """A mapping as JSON, for a file."""
    return write_document(mapping) + "\n"


def read_mapping(text: str) -> TableMapping:
    """A mapping from its JSON.

    Raises
    ------
    InputError
        Naming what is wrong: no such field, unit or word.
    """
    try:
        mapping = read_record(TableMapping, text)
    except RecursionError as error:
        raise InputError("The mapping is no JSON that can be read.") from error
    if mapping.format != FORMAT:
        raise InputError(f"The mapping is of format {mapping.format[:40]}, not {FORMAT}.")
    for name in (*mapping.columns, *mapping.fixed, *mapping.units, *mapping.words):
        if name not in FIELDS:
            known = ", ".join(FIELDS)
            raise InputError(f"The mapping names a field “{name}”.", f"There are: {known}.")
    for name, unit in mapping.units.items():
        allowed = units_of(FIELDS[name].kind)
        if unit not in allowed:
            raise InputError(f"Unit of {name}: “{unit}” is none of {', '.join(allowed)}.")
    for name, words in mapping.words.items():
        wrong = [w for w in words.values() if w not in FIELDS[name].choices]
        if wrong:
            raise InputError(f"Word of {name}: “{wrong[0]}” is none that is known.")
    if not 0 <= mapping.heading_rows <= 5 or not 0 <= mapping.skip <= 1000:
        raise InputError("The mapping's headings lie beyond any table's.")
    return mapping


def units_of(kind: FieldKind) -> tuple[str, ...]:
    """The units a kind of field may be in."""
    if kind is FieldKind.FORCE:
        return FORCE_UNITS
    return LENGTH_UNITS if kind is FieldKind.LENGTH else ()


def headings_of(sheet: SheetRows, mapping: TableMapping) -> list[str]:
    """The heading of every column, several rows joined; one that is there twice is numbered."""
    width = len(sheet.rows[0])
    if not mapping.heading_rows:
        return [str(n) for n in range(1, width + 1)]
    rows = sheet.rows[mapping.skip : mapping.skip + mapping.heading_rows]
    found = []
    for at in range(width):
        parts = [plain_heading(row[at]) for row in rows]
        found.append(" ".join(dict.fromkeys(p for p in parts if p)))
    seen: Counter[str] = Counter()
    numbered = []
    for heading in found:
        seen[heading] += 1
        again = f"{heading}#{seen[heading]}" if heading and seen[heading] > 1 else heading
        numbered.append(again)
    return numbered


def heading_key(headings: Sequence[str]) -> str:
    """What a layout of columns is remembered by."""
    return "|".join(fold(heading) for heading in headings)


def body_of(
    sheet: SheetRows, mapping: TableMapping
) -> tuple[Sequence[Sequence[str]], Sequence[int]]:
    """The rows below the headings, and their lines."""
    start = mapping.skip + mapping.heading_rows
    return sheet.rows[start:], sheet.lines[start:]


def recognise(
    sheet: SheetRows,
    is_knot: Callable[[str], bool],
    is_lot: Callable[[str], bool],
    ratings_n: Mapping[str, float] | None = None,
) -> TableMapping:
    """What the columns of a sheet most likely mean.

    Parameters
    ----------
    is_knot, is_lot : callable
        Whether a text is the name of a knot, or of a cordage in the campaign.
    ratings_n : mapping, optional
        Rated strength of cordages in newton, by folded name: loads of a number that may be two
        lie about it.
    """
    skip, heading_rows = _headings(sheet)
    bare = TableMapping(sheet=sheet.name, skip=skip, heading_rows=heading_rows)
    headings = headings_of(sheet, bare)
    rows, _ = body_of(sheet, bare)
    columns = [[row[at].strip() for row in rows[:_SAMPLED]] for at in range(len(headings))]
    taken: dict[str, str] = {}
    by_part: dict[str, str] = {}
    for heading, cells in zip(headings, columns, strict=True):
        key, exact = field_called(heading.partition("#")[0]) if heading_rows else ("", False)
        if not key or not _fits(key, cells):
            continue
        (taken if exact else by_part).setdefault(key, heading)
    used = set(taken.values())
    for key, heading in by_part.items():
        if key not in taken and heading not in used:
            taken[key] = heading
            used.add(heading)
    _by_contents(headings, columns, taken, is_knot, is_lot)
    units = {}
    for key, heading in taken.items():
        said = unit_said(key, heading, headings)
        if said:
            units[key] = said
    numbers = {
        key: [row[headings.index(heading)].strip() for row in rows]
        for key, heading in taken.items()
        if FIELDS[key].kind in _FIGURES
    }
    named = [row[headings.index(taken["cordage"])] for row in rows] if "cordage" in taken else []
    sizes = _load_sizes(set(named), ratings_n or {}, units)
    dates = columns[headings.index(taken["day"])] if "day" in taken else []
    return TableMapping(
        sheet=sheet.name,
        skip=skip,
        heading_rows=heading_rows,
        decimal=_decimal(numbers, sizes),
        dates=date_order(dates),
        columns=taken,
        units=units,
    )


def unit_said(key: str, heading: str, headings: Sequence[str]) -> str:
    """The unit that a heading says of a field; empty where none is said.

    The columns of the plain pull table have the units it is described with.
    """
    allowed = units_of(FIELDS[key].kind)
    said = unit_in_heading(heading.partition("#")[0])[1]
    if said in allowed:
        return said
    if allowed is FORCE_UNITS and heading == key and {"role", "finding"} <= set(headings):
        return "kN"
    return ""


def _load_sizes(
    cordages: Collection[str], ratings_n: Mapping[str, float], units: Mapping[str, str]
) -> dict[str, Range]:
    """Where loads lie, by field in its unit: about the ratings, where all of them are known."""
    known = [ratings_n.get(fold(name), 0.0) for name in cordages if name.strip()]
    low, high = LOADS_ANYWHERE_N
    if known and all(known):
        low, high = loads_about(min(known))[0], loads_about(max(known))[1]
    return {
        key: (low / si_factor(unit, "force"), high / si_factor(unit, "force"))
        for key, unit in units.items()
        if FIELDS[key].kind is FieldKind.FORCE
    }


def _headings(sheet: SheetRows) -> tuple[int, int]:
    """How many rows stand above the headings, and how many the headings take."""
    best, score = 0, -1.0
    for at, row in enumerate(sheet.rows[:_MOST_HEADING]):
        cells = [cell.strip() for cell in row if cell.strip()]
        if not cells:
            continue
        known = sum(bool(field_called(plain_heading(cell))[0]) for cell in cells)
        figures = sum(bool(_NUMBER.fullmatch(cell)) for cell in cells)
        found = 2.0 * known + 0.1 * len(cells) - 2.0 * figures
        if found > score:
            best, score = at, found
    if score < 0.5:
        return 0, int(_tops_figures(sheet))
    above = sheet.rows[best - 1] if best else []
    first = sheet.rows[best]
    cells = [cell.strip() for cell in above]
    filled = [cell for cell in cells if cell]
    grouped = len(set(filled)) > 1 and len(filled) >= 0.5 * len([c for c in first if c.strip()])
    if best and grouped and not any(_NUMBER.fullmatch(cell) for cell in filled):
        return best - 1, 2
    return best, 1


def _tops_figures(sheet: SheetRows) -> bool:
    """Whether the first row holds words, and below it stands a column of figures."""
    first, below = sheet.rows[0], sheet.rows[1:_SAMPLED]
    if not below or any(_NUMBER.fullmatch(cell.strip()) for cell in first):
        return False
    shares = (
        sum(bool(_NUMBER.fullmatch(row[at].strip())) for row in below) / len(below)
        for at, cell in enumerate(first)
        if cell.strip()
    )
    return max(shares, default=0.0) > 0.8


def _fits(key: str, cells: Sequence[str]) -> bool:
    """Whether cells can be what a heading says: a column of numbers is no knot."""
    said = [cell for cell in cells if cell]
    if not said:
        return True
    numbers = sum(bool(_NUMBER.fullmatch(c) or _WITH_UNIT.fullmatch(c)) for c in said) / len(said)
    if FIELDS[key].kind in (FieldKind.FORCE, FieldKind.SECONDS, FieldKind.NUMBER, FieldKind.WHOLE):
        return numbers > 0.5
    if key == "knot":
        return numbers < 0.5
    return True


def _by_contents(
    headings: Sequence[str],
    columns: Sequence[Sequence[str]],
    taken: dict[str, str],
    is_knot: Callable[[str], bool],
    is_lot: Callable[[str], bool],
) -> None:
    """Fields that no heading named, by what stands in the columns."""

    def share(cells: Sequence[str], test: Callable[[str], bool]) -> float:
        said = Counter(cell for cell in cells if cell)
        return sum(n for cell, n in said.items() if test(cell)) / max(1, said.total())

    tests: tuple[tuple[str, Callable[[str], bool], float], ...] = (
        ("knot", lambda c: is_knot(c) or fold(c) in PLAIN_WORDS, 0.6),
        ("cordage", is_lot, 0.6),
        ("finding", lambda c: bool(word_meant("finding", c)), 0.6),
        ("day", lambda c: bool(_DATE.match(c)), 0.8),
        ("jam_level", lambda c: bool(word_meant("jam_level", c)), 0.8),
        ("peak", lambda c: bool(_NUMBER.fullmatch(c) or _WITH_UNIT.fullmatch(c)), 0.8),
    )
    for key, test, enough in tests:
        if key in taken:
            continue
        free = [
            (share(cells, test), len(set(cells)), heading)
            for heading, cells in zip(headings, columns, strict=True)
            if heading and heading not in taken.values()
        ]
        best = max(free, default=(0.0, 0, ""))
        if best[0] >= enough:
            taken[key] = best[2]


def _decimal(columns: Mapping[str, Sequence[str]], sizes: Mapping[str, Range]) -> DecimalMark:
    """The decimal sign of a table: what its columns tell, ``ask`` where they disagree or none does.

    Parameters
    ----------
    columns : mapping
        Whole columns of numbers, by field.
    sizes : mapping
        Where a field's values lie in its unit, as far as that is known.
    """
    told = {
        decimal_sign_of(cells, within=sizes.get(key))
        for key, cells in columns.items()
        if any("." in cell or "," in cell for cell in cells)
    }
    said = told - {DecimalMark.ASK}
    if len(said) == 1:
        return said.pop()
    return DecimalMark.ASK if told else DecimalMark.POINT


def date_order(cells: Sequence[str]) -> DateOrder:
    """In which order dates are written; ``ask`` where every one could be read both ways."""
    found = [re.split(r"[./-]", m[0]) for cell in cells if (m := _DATE.match(cell.strip()))]
    loose = [parts for parts in found if len(parts[0]) < 4]
    if not loose:
        return DateOrder.YEAR
    if any("." in cell for cell in cells):
        return DateOrder.DAY
    first, second = (max(int(parts[k]) for parts in loose) for k in (0, 1))
    if first > 12:
        return DateOrder.DAY
    return DateOrder.MONTH if second > 12 else DateOrder.ASK
