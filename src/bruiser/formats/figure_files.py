"""A figure as files for others: its table as CSV or tab-separated text, its picture as SVG."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import replace

from bruiser.core.cells import safe_cell
from bruiser.figures.display import Box, Figure
from bruiser.formats.svg import write_svg
from bruiser.formats.table_files import table_bytes, typed_cell


def figure_csv(figure: Figure) -> str:
    """The figure's table as CSV (RFC 4180), the headings first."""
    text = io.StringIO()
    writer = csv.writer(text)
    for row in (figure.header, *figure.rows):
        writer.writerow([safe_cell(c, numbers=True) for c in row])
    return text.getvalue()


def figure_workbook(figure: Figure) -> bytes:
    """The figure's table as a workbook: numbers are numbers, the headings stay in sight."""
    rows = [[typed_cell(cell) for cell in row] for row in figure.rows]
    return table_bytes(".xlsx", figure.header, rows, title="chart")


def figure_tsv(figure: Figure) -> str:
    """The same with tabs, as a spreadsheet takes it from the clipboard."""
    rows = (figure.header, *figure.rows)
    blanks = str.maketrans("\t\r\n", "   ")
    return "\n".join(
        "\t".join(safe_cell(c.translate(blanks), numbers=True) for c in row) for row in rows
    )


def on_ground(figure: Figure, token: str = "surface") -> Figure:
    """The figure on a ground of its own, so that it can be read on any page."""
    return replace(
        figure,
        shapes=(Box(0, 0, figure.width, figure.height, radius=0, fill=token), *figure.shapes),
    )


def figure_svg(
    figure: Figure, colours: Mapping[str, str], sizes_mm: Mapping[str, tuple[float, int]]
) -> str:
    """The figure as an SVG document on its own ground; arguments as :func:`write_svg`."""
    return write_svg(on_ground(figure), colours, sizes_mm)
