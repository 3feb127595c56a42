"""Workbooks as rows of plain text; a number or a date is only what the workbook says is one."""

from __future__ import annotations

import datetime as dt
import io
import re
import zipfile
import zlib
from collections.abc import Iterable
from typing import IO, Any

from bruiser.core.errors import InputError

MOST_ROWS = 1_000_000
MOST_COLUMNS = 500
MOST_CELLS = 20_000_000
MOST_PARTS = 5_000
LARGEST_UNPACKED = 2 * 2**30
_LONGEST_CELL = 20_000
_BLOCK = 2**20
_SHEET = re.compile(r"xl/worksheets/[^/]+\.xml")
_PLACE = re.compile(rb"""<(?:\w+:)?c\b[^>]*?\br=["']([A-Z]{1,3})([0-9]{1,7})["']""")


def read_workbook(name: str, content: bytes) -> list[dict[str, Any]]:
    """The sheets of a workbook that hold anything: name, rows of text, and their numbers from 1.

    Called in a process of its own (:mod:`bruiser.formats.apart`), for the library may take it down.

    Raises
    ------
    InputError
        If it is no workbook, or larger than any table of pulls.
    """
    _check_archive(name, content)
    from python_calamine import CalamineError, CalamineWorkbook

    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(content))
        found = []
        for called in book.sheet_names:
            sheet = book.get_sheet_by_name(called)
            if sheet.height > MOST_ROWS or sheet.width > MOST_COLUMNS:
                raise InputError(f"{name}, sheet {called}: larger than any table of pulls.")
            values = sheet.to_python(skip_empty_area=False)
            _fill_merged(values, sheet.merged_cell_ranges or ())
            rows = [[_cell_text(v) for v in row] for row in values]
            kept = [(n, row) for n, row in enumerate(rows, 1) if any(map(str.strip, row))]
            if kept:
                rows, lines = [row for _, row in kept], [n for n, _ in kept]
                found.append({"name": called, "rows": rows, "lines": lines})
    except InputError:
        raise
    except (CalamineError, OSError, ValueError, KeyError, IndexError, OverflowError) as error:
        raise InputError(f"{name} is no workbook that can be read: {error}.") from error
    except BaseException as error:
        # The reader is of another language, and its panics are no exceptions of ours.
        if isinstance(error, (KeyboardInterrupt, SystemExit)):
            raise
        raise InputError(f"{name} is no workbook that can be read.") from error
    if not found:
        raise InputError(f"{name} is empty.", where="1")
    return found


def _check_archive(name: str, content: bytes) -> None:
    """Refuse what would unpack to more than a table; nothing is unpacked to a folder."""
    if not content.startswith(b"PK\x03\x04"):
        return
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            parts = archive.infolist()
            if len(parts) <= MOST_PARTS and sum(p.file_size for p in parts) <= LARGEST_UNPACKED:
                for part in parts:
                    if _SHEET.fullmatch(part.filename):
                        _check_extent(name, archive.open(part))
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError, zlib.error) as error:
        raise InputError(f"{name} is no workbook that can be read.") from error
    if len(parts) > MOST_PARTS or sum(p.file_size for p in parts) > LARGEST_UNPACKED:
        raise InputError(f"{name} would unpack to more than any table of pulls.")


def _check_extent(name: str, part: IO[bytes]) -> None:
    """Refuse a sheet whose cells lie so far apart that the range between them is no table.

    The library makes the whole range between the first and the last cell, whatever stands in it.
    """
    rows, columns, rest = [1], [1], b""
    while block := part.read(_BLOCK):
        for letters, digits in _PLACE.findall(rest + block):
            number = 0
            for letter in letters:
                number = 26 * number + letter - 64
            rows = [min(*rows, int(digits)), max(*rows, int(digits))]
            columns = [min(*columns, number), max(*columns, number)]
        rest = block[-40:]
    height, width = rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1
    if height > MOST_ROWS or width > MOST_COLUMNS or height * width > MOST_CELLS:
        raise InputError(
            f"{name} has cells as far as row {rows[-1]} and column {columns[-1]}: that is larger "
            "than any table of pulls.",
            "Look for a stray cell far below or to the right, and delete it.",
        )


def _fill_merged(
    values: list[list[Any]], ranges: Iterable[tuple[tuple[int, int], tuple[int, int]]]
) -> None:
    """Put what stands in merged cells into each of them."""
    for (top, left), (bottom, right) in ranges:
        if (bottom - top + 1) * (right - left + 1) > 10_000 or top >= len(values):
            continue
        for row in values[top : bottom + 1]:
            for at in range(left, min(right + 1, len(row))):
                row[at] = values[top][left] if left < len(values[top]) else ""


def _cell_text(value: object) -> str:
    match value:
        case str():
            return value[:_LONGEST_CELL]
        case bool():
            return "yes" if value else "no"
        case float():
            return str(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
        case dt.datetime():
            return (
                value.isoformat(sep=" ") if value.time() != dt.time() else value.date().isoformat()
            )
        case dt.timedelta():
            return repr(value.total_seconds())
    return str(value)
