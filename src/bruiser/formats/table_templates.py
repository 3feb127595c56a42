"""Tables to start from: headings, and invented rows that show how they are filled in."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.errors import InputError
from bruiser.formats.table_files import Cell


@dataclass(frozen=True, kw_only=True)
class TableTemplate:
    """A table to start from."""

    key: str
    words: str
    headings: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


TEMPLATES = (
    TableTemplate(
        key="strength",
        words="pulled until something gives: plain rope, loops and bends",
        headings=("pull", "role", "cordage", "condition", "knot", "ends", "peak", "unit", "finding",
                  "failed_end", "jam_level", "untie_s", "draw_mm", "technician", "day", "note"),
        rows=(
            ("S-1", "baseline", "blue 8 mm", "new", None, None, 21.4, "kN", "broke_clear", None,
             None, None, None, "AB", 1, None),
            ("S-2", "baseline", "blue 8 mm", "new", None, None, 20.8, "kN", "broke_at_termination",
             None, None, None, None, "AB", 1, "at the drum: it held at least that"),
            ("S-3", "knot", "blue 8 mm", "new", "Bowline", 2, 14.1, "kN", "broke_at_knot", "A",
             "worked", 25, 12, "AB", 1, None),
            ("S-4", "knot", "blue 8 mm", "new", "Sheet bend", 1, 7.2, "kN", "came_out", None,
             None, None, 60, "AB", 1, "tail ran out"),
            ("S-5", "knot", "blue 8 mm", "new", "Bowline", 2, 12.0, "kN", "stopped", None,
             "hand", 8, 9, "AB", 2, "stopped at the limit of the bench"),
        ),
    ),
    TableTemplate(
        key="grip",
        words="friction hitches and adjustable loops, pulled until they slide",
        headings=("pull", "role", "method", "cordage", "cordage_b", "condition", "knot", "wraps",
                  "peak", "unit", "finding", "slides_by_hand", "frees_by_hand", "sheath", "note"),
        rows=(
            ("G-1", "baseline", None, "cord 6 mm", None, "new", None, None, 9.8, "kN",
             "broke_clear", None, None, None, None),
            ("G-2", "knot", "slide", "cord 6 mm", "rope 11 mm", "new", "Prusik hitch", 3, 4.2, "kN",
             "slid", "yes", "yes", "glazed", None),
            ("G-3", "knot", "slide", "cord 6 mm", "rope 11 mm", "new", "Prusik hitch", 4, 6.0, "kN",
             "stopped", "no", "yes", "clean", "held when it was stopped"),
        ),
    ),
    TableTemplate(
        key="cycles",
        words="loaded and slacked again and again, or shaken",
        headings=("pull", "role", "method", "cordage", "condition", "knot", "peak", "unit",
                  "finding", "cycles", "cycles_end", "note"),
        rows=(
            ("C-1", "baseline", None, "blue 8 mm", "new", None, 21.4, "kN", "broke_clear", None,
             None, None),
            ("C-2", "knot", "cycles", "blue 8 mm", "new", "Sheet bend", 4.0, "kN", "came_out", 38,
             "failed", None),
            ("C-3", "knot", "shaking", "blue 8 mm", "new", "Bowline", 1.0, "kN", "stopped", 40,
             "survived", "still tied"),
        ),
    ),
)  # fmt: skip
"""The tables there are; a test reads each of them back."""


def template_called(key: str) -> TableTemplate:
    """A table by its name.

    Raises
    ------
    InputError
        If there is none.
    """
    for template in TEMPLATES:
        if template.key == key:
            return template
    names = ", ".join(t.key for t in TEMPLATES)
    raise InputError(f"There is no table “{key}”.", f"There are: {names}.")
