"""Tables as people keep them: CSV, TSV, workbooks, what was copied; as rows of plain text.

Nothing is taken for a number or a date here but what a workbook says is one.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from bruiser.core.errors import InputError
from bruiser.formats.apart import read_apart
from bruiser.formats.package_tables import long_cells, no_collection
from bruiser.formats.workbook import MOST_COLUMNS, MOST_ROWS

WORKBOOKS = (".xlsx", ".xlsm", ".xls", ".xlsb", ".ods")
LARGEST_FILE = 512 * 2**20


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
        found = read_apart("workbook", path.name, content)
        return [_even(SheetRows(**sheet), path.name) for sheet in found]
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


_JUNK = re.compile(r"[\s\u00a0\u202f]+")


def plain_heading(text: str) -> str:
    """A heading on one line."""
    return _JUNK.sub(" ", text).strip()
