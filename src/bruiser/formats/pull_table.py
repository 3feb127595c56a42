"""The pull table: one row a pull, plain CSV, which anyone can fill in and check.

Columns and values are described in ``docs/pull-table.md``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from bruiser.core.errors import InputError
from bruiser.core.performance.evidence import PullContext
from bruiser.core.records.readings import Sheath
from bruiser.core.records.records import Gave, JamLevel
from bruiser.core.units import si_factor
from bruiser.formats.table_rows import read_number, table_rows

COLUMNS = (
    "pull", "role", "cordage", "condition", "cordage_b", "knot", "ends", "knot_b", "peak", "unit",
    "finding", "failed_end", "jam_level", "jam_load", "untie_s", "gave_up", "draw_mm",
    "first_slip", "cycles", "cycles_end", "wraps", "order", "day", "technician", "note",
    "method", "slides_by_hand", "frees_by_hand", "release_force", "freed", "freed_itself",
    "hand_load", "applied_load", "kept_load", "before_load", "after_load", "width_d",
    "ledge_force", "passed", "sheath",
)  # fmt: skip
REQUIRED = ("pull", "role", "cordage")
REQUIRED_OF_PULLS = ("peak", "finding")
"""Needed by every method that goes by a peak; a table without methods must have them."""
UNITS = ("N", "kN", "daN", "kgf", "lbf")
KNOT_FINDINGS = {
    "broke_at_knot": Gave.BROKE,
    "came_out": Gave.CAME_OUT,
    "capsized": Gave.CAPSIZED,
    "slid": Gave.CAME_OUT,
    "broke_elsewhere": Gave.BROKE,
    "stopped": Gave.STOPPED,
    "void": Gave.VOID,
}
GAVE_HERE = ("broke_at_knot", "came_out", "capsized", "slid")
"""Findings in which the knot gave, and not something else."""


_MOST_COUNTED = 1_000_000


class TableMethod(StrEnum):
    """How a row was pulled."""

    RAMP = "ramp"
    STEPPED = "stepped"
    CYCLES = "cycles"
    SHAKING = "shaking"
    HOLD = "hold"
    SLIDE = "slide"
    RELEASE = "release"
    ADVANTAGE = "advantage"
    RETENTION = "retention"
    SEAT = "seat"
    BULK = "bulk"


WITHOUT_PEAK = (TableMethod.ADVANTAGE, TableMethod.RETENTION, TableMethod.BULK)
"""Methods whose loads stand in columns of their own; an empty finding says that it held."""


BASELINE_FINDINGS = ("broke_clear", "broke_at_termination", "stopped", "void")


@dataclass(frozen=True, kw_only=True)
class PullRow:
    """One row, read and checked; loads in newton.

    Parameters
    ----------
    loads_n : dict
        What a method measured beside the peak, by column; empty cells are not in it.
    answers : dict
        What was answered with yes or no, by column.
    """

    line: int
    pull: str
    baseline: bool
    cordage: str
    condition: str
    cordage_b: str
    knot: str
    ends: int
    knot_b: str
    peak_n: float
    finding: str
    failed_end: str
    jam_level: JamLevel | None
    jam_load_n: float
    cycles: int | None
    cycles_done: int
    cycles_failed: bool
    wraps: int | None
    untie_s: float | None
    gave_up: bool
    context: PullContext
    method: TableMethod = TableMethod.RAMP
    loads_n: dict[str, float] = field(default_factory=dict)
    answers: dict[str, bool] = field(default_factory=dict)
    width_d: float | None = None
    sheath: Sheath | None = None

    @property
    def void(self) -> bool:
        """Whether nothing can be said of it."""
        return self.finding == "void"

    @property
    def gave_here(self) -> bool:
        """Whether the knot gave."""
        return self.finding in GAVE_HERE


@dataclass(frozen=True)
class PullTable:
    """A whole table and the columns that were passed over."""

    rows: tuple[PullRow, ...]
    unknown_columns: tuple[str, ...]


LOADS = (
    "release_force", "hand_load", "applied_load", "kept_load", "before_load", "after_load",
    "ledge_force",
)  # fmt: skip
ANSWERS = ("slides_by_hand", "frees_by_hand", "freed", "freed_itself", "passed")
_POSITIVE = ("hand_load", "applied_load", "before_load")
_NEEDS = {
    TableMethod.ADVANTAGE: ("hand_load", "applied_load"),
    TableMethod.RETENTION: ("before_load", "after_load"),
}


class _Cells:
    """One line of the table; every complaint names its row and column."""

    def __init__(self, line: int, cells: dict[str, str]) -> None:
        self.line, self._cells = line, cells

    def text(self, column: str) -> str:
        return (self._cells.get(column) or "").strip()

    def wrong(self, column: str, why: str) -> InputError:
        return InputError(f"Row {self.line}, column {column}: {why}", where=f"{self.line}:{column}")

    def needed(self, column: str) -> str:
        value = self.text(column)
        if not value:
            raise self.wrong(column, "is empty.")
        return value

    def choice(self, column: str, allowed: tuple[str, ...], default: str = "") -> str:
        value = self.text(column) or default
        if value not in allowed:
            listed = ", ".join(a for a in allowed if a)
            raise self.wrong(column, f"“{value}” is none of {listed}.")
        return value

    def number(self, column: str, *, above: float | None = None) -> float | None:
        text = self.text(column)
        if not text:
            return None
        try:
            value = read_number(text)
        except ValueError as error:
            raise self.wrong(column, f"{error}.") from None
        if above is not None and value <= above:
            limit = f" above {above:g}" if above is not None and math.isfinite(above) else ""
            raise self.wrong(column, f"{text} must be a finite number{limit}.")
        return value

    def whole(self, column: str) -> int | None:
        value = self.number(column, above=-1)
        if value is not None and (value != int(value) or value > _MOST_COUNTED):
            raise self.wrong(column, "must be a whole number, and not beyond a million.")
        return None if value is None else int(value)


def read_pull_table(text: str) -> PullTable:
    """Read a pull table.

    Parameters
    ----------
    text : str
        The CSV, with its header row.

    Returns
    -------
    PullTable

    Raises
    ------
    InputError
        If a column is missing or a cell is wrong; names row and column.
    """
    lines = table_rows(text)
    _, header = next(lines, (1, []))
    needed = REQUIRED if "method" in header else (*REQUIRED, *REQUIRED_OF_PULLS)
    missing = [name for name in needed if name not in header]
    if missing:
        raise InputError(f"Row 1: column {missing[0]} is missing.", where=f"1:{missing[0]}")
    rows: list[PullRow] = []
    seen: set[str] = set()
    for number, cells in lines:
        row = _read_row(_Cells(number, dict(zip(header, cells, strict=True))))
        if row.pull in seen:
            raise InputError(f"Row {number}, column pull: {row.pull} stands there twice.")
        seen.add(row.pull)
        rows.append(row)
    if not rows:
        raise InputError("The table has no pulls.", where="2:pull")
    return PullTable(tuple(rows), tuple(n for n in header if n and n not in COLUMNS))


def _read_row(c: _Cells) -> PullRow:
    baseline = c.choice("role", ("baseline", "knot")) == "baseline"
    unit = si_factor(c.choice("unit", UNITS, "kN"), "force")
    method = TableMethod(c.choice("method", tuple(TableMethod), TableMethod.RAMP))
    if baseline and method is not TableMethod.RAMP:
        raise c.wrong("method", "a baseline pull is a ramp.")
    finding = _finding(c, baseline, method)
    peak = c.number("peak", above=None if finding == "void" else 0.0)
    if peak is None and finding != "void" and method not in WITHOUT_PEAK:
        raise c.wrong("peak", "is empty.")
    knot, knot_b = c.text("knot"), c.text("knot_b")
    if baseline and (knot or knot_b):
        raise c.wrong("knot", "a baseline pull has no knot.")
    if not baseline and not knot:
        raise c.wrong("knot", "is empty.")
    ends = int(c.choice("ends", ("1", "2"), "1"))
    if knot_b and ends == 2:
        raise c.wrong("ends", "must be 1 when another knot is tied at end B.")
    failed_end = c.choice("failed_end", ("", "A", "B"))
    if knot_b and finding in GAVE_HERE and not failed_end:
        raise c.wrong("failed_end", "say which of the two knots gave, A or B.")
    look = c.choice("sheath", ("", *(x.value for x in Sheath)))
    level = c.choice("jam_level", ("", *(x.value for x in JamLevel)))
    jam = c.number("jam_load", above=0.0)
    done = c.choice("cycles_end", ("", "failed", "survived"))
    cycles = c.whole("cycles")
    if done and cycles is None:
        raise c.wrong("cycles", "is empty, but cycles_end is not.")
    for column in ("draw_mm", "first_slip"):
        c.number(column, above=-1e-12)
    context = PullContext(
        c.number("order", above=-math.inf), c.number("day", above=-math.inf), c.text("technician")
    )
    peak_n = 0.0 if peak is None else peak * unit
    return PullRow(
        line=c.line,
        pull=c.needed("pull"),
        baseline=baseline,
        cordage=c.needed("cordage"),
        condition=c.text("condition"),
        cordage_b=c.text("cordage_b"),
        knot=knot,
        ends=ends,
        knot_b=knot_b,
        peak_n=peak_n,
        finding=finding,
        failed_end=failed_end,
        jam_level=JamLevel(level) if level else None,
        jam_load_n=peak_n if jam is None else jam * unit,
        cycles=cycles if done else None,
        cycles_done=cycles or 0,
        cycles_failed=done == "failed",
        wraps=c.whole("wraps"),
        untie_s=c.number("untie_s", above=0.0),
        gave_up=c.choice("gave_up", ("", "yes", "no")) == "yes",
        context=context,
        method=method,
        loads_n=_loads(c, method, unit, void=finding == "void"),
        answers={k: a == "yes" for k in ANSWERS if (a := c.choice(k, ("", "yes", "no")))},
        width_d=c.number("width_d", above=0.0),
        sheath=Sheath(look) if look else None,
    )


def _finding(c: _Cells, baseline: bool, method: TableMethod) -> str:
    if baseline:
        return c.choice("finding", BASELINE_FINDINGS)
    allowed = tuple(f for f in KNOT_FINDINGS if f != "slid" or method is TableMethod.SLIDE)
    held = method in (*WITHOUT_PEAK, TableMethod.RELEASE)
    return c.choice("finding", allowed, "stopped" if held else "")


def _loads(c: _Cells, method: TableMethod, unit: float, *, void: bool) -> dict[str, float]:
    """The loads of a method in newton; those it cannot do without must be there."""
    found: dict[str, float] = {}
    for column in LOADS:
        value = c.number(column, above=0.0 if column in _POSITIVE else -1e-12)
        if value is not None:
            found[column] = abs(value) * unit
    for column in _NEEDS.get(method, ()):
        if column not in found and not void:
            raise c.wrong(column, "is empty.")
    if method is TableMethod.BULK and not void and not c.text("width_d"):
        raise c.wrong("width_d", "is empty.")
    return found
