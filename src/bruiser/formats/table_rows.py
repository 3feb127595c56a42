"""Rows of a table of text, checked: a heading a column, a cell a heading, numbers of one sense."""

from __future__ import annotations

import csv
import io
import math
import re
from collections import Counter
from collections.abc import Iterator

from bruiser.core.errors import InputError

_EITHER = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}")
_GROUPED = re.compile(r"[+-]?[1-9]\d{0,2}(,\d{3}){2,}(\.\d+)?")

# The csv module's own limit is one for the process, and any library may move it.
_LONGEST_CELL = 131_072


def table_rows(text: str, mark: str = ",") -> Iterator[tuple[int, list[str]]]:
    """The rows of a table with their line, the headings first, stripped.

    Empty rows are passed over; missing cells at a row's end are empty.

    Raises
    ------
    InputError
        While it is read: if a heading stands there twice, a row has more cells than there are
        headings, or a cell is not closed or too large.
    """
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff")), delimiter=mark, strict=True)
    header: list[str] = []
    while True:
        try:
            cells = next(reader, None)
        except csv.Error as error:
            line = reader.line_num
            raise InputError(f"Row {line}: {error}.", where=f"{line}") from error
        if cells is None:
            return
        line = reader.line_num
        if not header:
            header = [name.strip() for name in cells]
            twice = [name for name, n in Counter(filter(None, header)).items() if n > 1]
            if twice:
                raise InputError(
                    f"Row 1: column {twice[0]} stands there twice.",
                    "Take one of them out, or rename it.",
                    where=f"1:{twice[0]}",
                )
            yield line, header
            continue
        if any(len(cell) > _LONGEST_CELL for cell in cells):
            raise InputError(
                f"Row {line}: a cell is longer than {_LONGEST_CELL:,} characters.", where=f"{line}"
            )
        if not any(cell.strip() for cell in cells):
            continue
        if any(cell.strip() for cell in cells[len(header) :]):
            raise InputError(
                f"Row {line}: {len(cells)} cells under {len(header)} headings.",
                f"Where “{mark}” is a decimal mark too, separate the columns by semicolons.",
                where=f"{line}",
            )
        yield line, [*cells, *[""] * len(header)][: len(header)]


def read_number(text: str) -> float:
    """A finite number with a decimal point or comma.

    Raises
    ------
    ValueError
        If it is none, or could be two: its message says so and can be read by a person.
    """
    if "," in text and _EITHER.fullmatch(text):
        whole, _, rest = text.partition(",")
        either = f"{whole}{rest} or {whole}.{rest}"
        raise ValueError(f"“{text}” may be {either}: write it as one of them")
    if "," in text and _GROUPED.fullmatch(text):
        raise ValueError(f"“{text}”: write it without marks between thousands")
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"“{text}” is no number") from None
    if "_" in text or not math.isfinite(value):
        raise ValueError(f"“{text}” is no finite number")
    return value
