"""Times tables of pulls, beside the library for data frames reading the same file."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pandas as pd
from benchmarks.timing import Timing, median_seconds

from bruiser.formats.column_mapping import recognise
from bruiser.formats.mapped_table import read_mapped
from bruiser.formats.sheets import read_sheets
from bruiser.formats.table_files import table_bytes

HEADINGS = (
    "pull", "cordage", "condition", "knot", "ends", "peak", "finding", "jam_level", "technician",
    "day", "note",
)  # fmt: skip
KNOTS = ("Bowline", "Sheet bend", "Clove hitch", "Figure-eight loop", "")
CSV_ROWS, BOOK_ROWS = 200_000, 20_000


def _rows(count: int) -> list[list[str | float | int | None]]:
    rng = np.random.default_rng(1)
    peaks = np.round(rng.uniform(5, 22, count), 3)
    return [
        [
            f"P{n}", "blue 8 mm", "new", KNOTS[n % 5] or None, 1, float(peaks[n]),
            "broke_at_knot" if KNOTS[n % 5] else "broke_clear",
            "worked" if KNOTS[n % 5] else None, "TV", f"2024-03-{1 + n % 28:02d}", f"note {n % 50}",
        ]
        for n in range(count)
    ]  # fmt: skip


def _read(path: Path) -> None:
    (sheet,) = read_sheets(path)
    table = read_mapped(sheet, recognise(sheet, lambda _: False, lambda _: False))
    if table.count:
        raise ValueError(f"the table of the benchmark has a problem: {table.problems[0]}")


def timings() -> Iterator[Timing]:
    """A table of text and a workbook, each beside the same file as a data frame."""
    with TemporaryDirectory() as folder:
        for suffix, count, plain in (
            (".csv", CSV_ROWS, pd.read_csv),
            (".xlsx", BOOK_ROWS, pd.read_excel),
        ):
            path = Path(folder) / f"table{suffix}"
            path.write_bytes(table_bytes(suffix, HEADINGS, _rows(count)))
            yield Timing(
                name=f"{count:,} rows of {len(HEADINGS)} columns from {suffix}, read and checked",
                took_s=median_seconds(lambda _, p=path: _read(p), 3),
                beside_s=median_seconds(lambda _, p=path, r=plain: r(p), 3),
                beside="of a data frame read from the same file",
            )
