"""A table as CSV that gives back exactly what was written: text, numbers, and nothing at all.

``\\N`` stands for "nothing"; a text that would be read as that, or by a spreadsheet as a formula,
begins with an apostrophe. Numbers are the shortest that read back the same.
"""

from __future__ import annotations

import csv
import gc
import io
import math
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import chain
from typing import Any

from bruiser.core.cells import csv_text, read_cell, safe_cell
from bruiser.core.errors import InputError

NOTHING = "\\N"
LONGEST_CELL = 64 * 2**20
_MOST_ROWS = 20_000_000
_limit_lock = threading.Lock()


@dataclass(frozen=True, kw_only=True)
class PackageColumn:
    """A column: its name, its kind (``string``, ``integer``, ``number``), may it be empty."""

    name: str
    kind: str
    optional: bool = False


def _text(value: object) -> str:
    if value is None:
        return NOTHING
    text = str(value)
    return f"'{text}" if text.startswith("\\") else safe_cell(text)


def _back(cell: str) -> str | None:
    if cell == NOTHING:
        return None
    return cell[1:] if cell.startswith("'\\") else read_cell(cell)


def _number(value: object) -> str:
    return NOTHING if value is None else repr(value)


def _float(cell: str) -> float | None:
    if cell == NOTHING:
        return None
    value = float(cell)
    if not math.isfinite(value) or "_" in cell:
        raise ValueError
    return value


def _int(cell: str) -> int | None:
    if cell == NOTHING:
        return None
    value = int(cell)
    if "_" in cell or not -(2**63) <= value < 2**63:
        raise ValueError
    return value


_WRITE: dict[str, Callable[[object], str]] = {
    "string": _text,
    "integer": _number,
    "number": _number,
}
_READ: dict[str, Callable[[str], object]] = {"string": _back, "integer": _int, "number": _float}


def write_table(columns: Sequence[PackageColumn], rows: Sequence[Mapping[str, Any]]) -> str:
    """Rows as CSV with a heading row."""
    makers = [(c.name, _WRITE[c.kind]) for c in columns]
    cells = ([make(row[name]) for name, make in makers] for row in rows)
    return csv_text(chain([[c.name for c in columns]], cells))


@contextmanager
def long_cells() -> Iterator[None]:
    """Let cells be as long as a document of a guide while it is read."""
    with _limit_lock:
        before = csv.field_size_limit(LONGEST_CELL)
        try:
            yield
        finally:
            csv.field_size_limit(before)


@contextmanager
def no_collection() -> Iterator[None]:
    """Leave off looking for cycles: among millions of cells that are all kept it only costs."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def read_table(name: str, text: str, columns: Sequence[PackageColumn]) -> list[dict[str, Any]]:
    """Rows of a table that :func:`write_table` wrote; columns may stand in any order.

    Raises
    ------
    InputError
        Naming file, row and column of what is not right.
    """
    with long_cells():
        return list(_rows(name, text, columns))


def _rows(name: str, text: str, columns: Sequence[PackageColumn]) -> Iterator[dict[str, Any]]:
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    try:
        header = next(reader, [])
        missing = [c.name for c in columns if c.name not in header]
        if missing:
            raise InputError(f"{name}: column {missing[0]} is missing.", where=f"{name}:1")
        if len(set(header)) != len(header):
            raise InputError(f"{name}: a column stands there twice.", where=f"{name}:1")
        places = [(c, header.index(c.name), _READ[c.kind]) for c in columns]
        for number, cells in enumerate(reader, 2):
            if len(cells) != len(header) or number > _MOST_ROWS:
                said = f"{len(cells)} cells under {len(header)} headings"
                raise InputError(f"{name}, row {number}: {said}.", where=f"{name}:{number}")
            yield {c.name: _cell(name, number, c, read, cells[at]) for c, at, read in places}
    except csv.Error as error:
        raise InputError(f"{name}, row {reader.line_num}: {error}.", where=name) from error


def _cell(
    name: str, number: int, column: PackageColumn, read: Callable[[str], object], cell: str
) -> object:
    where = f"{name}:{number}:{column.name}"
    said = f"{name}, row {number}, column {column.name}"
    try:
        value = read(cell)
    except ValueError:
        raise InputError(f"{said}: “{cell[:60]}” is no {column.kind}.", where=where) from None
    if value is None and not column.optional:
        raise InputError(f"{said}: is empty.", where=where)
    return value
