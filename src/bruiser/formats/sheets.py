"""Tables as people keep them: CSV, TSV, workbooks, what was copied; as rows of plain text.

Nothing is taken for a number or a date here but what a workbook says is one.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
import zipfile
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from bruiser.core.errors import InputError
from bruiser.formats.package_tables import long_cells, no_collection

WORKBOOKS = (".xlsx", ".xlsm", ".xls", ".xlsb", ".ods")
LARGEST_FILE = 512 * 2**20
LARGEST_UNPACKED = 2 * 2**30
MOST_ROWS = 1_000_000
MOST_COLUMNS = 500
_MOST_PARTS = 5_000
_LONGEST_CELL = 20_000
_MARKS = (",", ";", "\t", "|")
_SAMPLE = 200_000


@dataclass(frozen=True, kw_only=True)
class SheetRows:
    """A sheet as rows of text, all equally long; `encoding` and `mark` of a text file.

    Parameters
    ----------
    lines : tuple of int
        The line of the file, or row of the sheet, in which each begins; from 1.
    """

    name: str
    rows: Sequence[Sequence[str]]
    lines: Sequence[int]
    encoding: str = ""
    mark: str = ""


def read_sheets(path: Path) -> list[SheetRows]:
    """The sheets of a file that hold anything.

    Raises
    ------
    InputError
        If it cannot be read, is none of the kinds known, or is too large to be a table of pulls.
    """
    try:
        size = path.stat().st_size
        content = path.read_bytes() if size <= LARGEST_FILE else b""
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error
    if size > LARGEST_FILE:
        raise InputError(f"{path.name} is larger than any table of pulls.")
    if path.suffix.lower() in WORKBOOKS or content.startswith((b"PK\x03\x04", b"\xd0\xcf\x11\xe0")):
        return _workbook(path.name, content)
    return [text_sheet(content, path.name)]


def text_sheet(content: bytes | str, name: str) -> SheetRows:
    """A table that is text, in whatever encoding, its cells apart by whatever mark.

    Raises
    ------
    InputError
        If it is no text, a cell is not closed or too long, or it is empty; names the row.
    """
    text, encoding = (content, "") if isinstance(content, str) else decoded(content, name)
    text = text.removeprefix("\ufeff")
    odd = sum(c < " " and c not in "\t\r\n" for c in text[:2000])
    if "\x00" in text or odd > 0.1 * min(2000, len(text)):
        raise InputError(f"{name} is no text.", "Is it a table at all?")
    mark = likely_mark(text[:_SAMPLE])
    rows: list[list[str]] = []
    lines: list[int] = []
    with long_cells(), no_collection():
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True)
        line = 1
        try:
            for cells in reader:
                if len(rows) >= MOST_ROWS or len(cells) > MOST_COLUMNS:
                    raise InputError(f"{name} has more rows or columns than any table of pulls.")
                if "".join(cells).strip():
                    rows.append(cells)
                    lines.append(line)
                line = reader.line_num + 1
        except csv.Error as error:
            said = f"{name}, row {line}: {error}."
            raise InputError(said, "Is a quotation mark not closed?", where=f"{line}") from error
    return _even(SheetRows(name="", rows=rows, lines=lines, encoding=encoding, mark=mark), name)


def decoded(content: bytes, name: str) -> tuple[str, str]:
    """Bytes as text, and the encoding they are in.

    Raises
    ------
    InputError
        If they are no text.
    """
    for mark, encoding in (
        (b"\xef\xbb\xbf", "utf-8-sig"),
        (b"\xff\xfe", "utf-16"),
        (b"\xfe\xff", "utf-16"),
    ):
        if content.startswith(mark):
            try:
                return content.decode(encoding), encoding
            except UnicodeDecodeError as error:
                raise InputError(f"{name} is no text that can be read.") from error
    head = content[:_SAMPLE]
    if b"\x00" in head:
        even, odd = head[0::2].count(0), head[1::2].count(0)
        encoding = "utf-16-le" if odd > even else "utf-16-be"
        if max(even, odd) > 0.4 * len(head) / 2:
            try:
                return content.decode(encoding), encoding
            except UnicodeDecodeError:
                pass
        raise InputError(f"{name} is no text.", "Is it a table at all?")
    try:
        return content.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        pass
    from charset_normalizer import from_bytes

    best = from_bytes(content[:_SAMPLE]).best()
    encoding = "cp1252" if best is None or best.encoding == "ascii" else best.encoding
    try:
        return content.decode(encoding), encoding
    except (UnicodeDecodeError, LookupError):
        return content.decode("latin-1"), "latin-1"


def likely_mark(text: str) -> str:
    """What stands between the cells of a text: the mark that gives the most even rows."""
    best, score = ",", (0.0, 0)
    for mark in _MARKS:
        try:
            with long_cells():
                rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=mark))[:200]
        except csv.Error:
            continue
        widths = Counter(len(row) for row in rows if any(map(str.strip, row)))
        if not widths:
            continue
        width, often = max(widths.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]))
        found = (often / widths.total() if width > 1 else 0.0, width)
        if found > score:
            best, score = mark, found
    return best


def _even(sheet: SheetRows, name: str) -> SheetRows:
    if not sheet.rows:
        raise InputError(f"{name} is empty.", where="1")
    width = max(map(len, sheet.rows))
    rows = [row if len(row) == width else [*row, *[""] * (width - len(row))] for row in sheet.rows]
    return SheetRows(
        name=sheet.name, rows=rows, lines=sheet.lines, encoding=sheet.encoding, mark=sheet.mark
    )


def _workbook(name: str, content: bytes) -> list[SheetRows]:
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
                found.append(_even(SheetRows(name=called, rows=rows, lines=lines), name))
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
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError) as error:
        raise InputError(f"{name} is no workbook that can be read.") from error
    if len(parts) > _MOST_PARTS or sum(p.file_size for p in parts) > LARGEST_UNPACKED:
        raise InputError(f"{name} would unpack to more than any table of pulls.")


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


_JUNK = re.compile(r"[\s\u00a0\u202f]+")


def plain_heading(text: str) -> str:
    """A heading on one line."""
    return _JUNK.sub(" ", text).strip()
