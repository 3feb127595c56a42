"""Tables for others as CSV, TSV or a workbook: typed, headings in a row that stays in sight."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path

from bruiser.core.cells import csv_text, printable, safe_cell
from bruiser.core.errors import InputError, StoreError

Cell = str | int | float | bool | None
SUFFIXES = (".csv", ".tsv", ".xlsx")
_WIDEST = 60
_PLAIN_NUMBER = re.compile(r"-?(?:0|[1-9]\d{0,14})(?:\.\d{1,12})?")


def table_bytes(
    suffix: str, headings: Sequence[str], rows: Sequence[Sequence[Cell]], title: str = "pulls"
) -> bytes:
    """A table as the bytes of a file.

    Raises
    ------
    InputError
        If there is no such kind of file.
    """
    if suffix == ".xlsx":
        return _workbook(headings, rows, title)
    if suffix not in SUFFIXES:
        raise InputError(f"“{suffix}” is no kind of table.", f"There are: {', '.join(SUFFIXES)}.")
    plain = [[_text(cell) for cell in row] for row in rows]
    return csv_text([headings, *plain], "\t" if suffix == ".tsv" else ",").encode("utf-8")


def typed_cell(text: str) -> Cell:
    """A number where a text is one, nothing where it is empty, else the text."""
    if not text:
        return None
    if _PLAIN_NUMBER.fullmatch(text):
        return float(text) if "." in text else int(text)
    return text


def _text(cell: Cell) -> str:
    if cell is None:
        return ""
    return safe_cell(cell, numbers=True) if isinstance(cell, str) else str(cell)


def _workbook(headings: Sequence[str], rows: Sequence[Sequence[Cell]], title: str) -> bytes:
    from openpyxl import Workbook
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    for unwanted in book.worksheets:
        book.remove(unwanted)
    sheet = book.create_sheet(title[:31])
    sheet.append([printable(h) for h in headings])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for row in rows:
        sheet.append([printable(safe_cell(c)) if isinstance(c, str) else c for c in row])
    sheet.freeze_panes = "A2"
    for at, heading in enumerate(headings, 1):
        texts = (len(_text(row[at - 1])) for row in rows[:500])
        width = min(_WIDEST, max([len(heading), *texts]) + 2)
        sheet.column_dimensions[get_column_letter(at)].width = width
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def write_new_file(path: Path, content: bytes) -> None:
    """Write a file that is not there yet.

    Raises
    ------
    StoreError
        If it is there, or cannot be written; no half file stays.
    """
    try:
        with path.open("xb") as file:
            file.write(content)
    except FileExistsError as error:
        raise StoreError(f"{path.name} is there already.", "Choose another name.") from error
    except OSError as error:
        path.unlink(missing_ok=True)
        raise StoreError(f"{path.name} was not written: {error.strerror}.") from error
