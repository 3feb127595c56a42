"""Texts as cells of a table for others: never a formula, and read back as they were."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterable

_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n", "'")
_NUMBER = re.compile(r"[+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?")
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufffe\uffff]|[\ud800-\udfff]")


def safe_cell(text: str, *, numbers: bool = False) -> str:
    """A text as a cell: what a spreadsheet would take for a formula begins with an apostrophe.

    An apostrophe in front is doubled, so that :func:`read_cell` gives every text back. With
    `numbers` a plain number stays one: where texts are figures, and no names.
    """
    if numbers and _NUMBER.fullmatch(text):
        return text
    return f"'{text}" if text.startswith(_STARTS) else text


def read_cell(text: str) -> str:
    """A cell as it was before :func:`safe_cell`."""
    if text.startswith("'") and text[1:].startswith(_STARTS):
        return text[1:]
    return text


class _Lines(list[str]):
    """What a writer writes, row by row, without its own line ends."""

    def write(self, text: str) -> None:
        self.append(text.removesuffix(_END))


_END = "\r\n"


def csv_text(rows: Iterable[Iterable[object]], mark: str = ",") -> str:
    """Rows as CSV with plain line ends; a cell with any kind of line break is quoted.

    The library quotes only what is in its own line end, so it is given both.
    """
    lines = _Lines()
    csv.writer(lines, delimiter=mark, lineterminator=_END).writerows(rows)
    return "".join(f"{line}\n" for line in lines)


def printable(text: str) -> str:
    """A text without characters that no workbook may hold; each leaves a mark where it stood."""
    return _CONTROL.sub("\ufffd", text)
