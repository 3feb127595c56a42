"""The pull table: one row a pull, plain CSV, which anyone can fill in and check.

Columns and values are described in ``docs/pull-table.md``.
"""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.errors import InputError
from bruiser.core.performance.evidence import (
    GroupData,
    PullContext,
    PullSays,
    knot_evidence,
    plain_evidence,
)
from bruiser.core.performance.wraps import WrapSample
from bruiser.core.records.outcomes import Says, knot_says
from bruiser.core.records.records import Gave, JamLevel, Outcome
from bruiser.core.units import si_factor

COLUMNS = (
    "pull", "role", "cordage", "condition", "cordage_b", "knot", "ends", "knot_b", "peak", "unit",
    "finding", "failed_end", "jam_level", "jam_load", "untie_s", "gave_up", "draw_mm",
    "first_slip", "cycles", "cycles_end", "wraps", "order", "day", "technician", "note",
)  # fmt: skip
REQUIRED = ("pull", "role", "cordage", "peak", "finding")
UNITS = ("N", "kN", "daN", "kgf", "lbf")
KNOT_FINDINGS = {
    "broke_at_knot": Gave.BROKE,
    "came_out": Gave.CAME_OUT,
    "capsized": Gave.CAPSIZED,
    "broke_elsewhere": Gave.BROKE,
    "stopped": Gave.STOPPED,
    "void": Gave.VOID,
}
BASELINE_FINDINGS = ("broke_clear", "broke_at_termination", "stopped", "void")


@dataclass(frozen=True, kw_only=True)
class PullRow:
    """One row, read and checked; loads in newton."""

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
    cycles_failed: bool
    wraps: int | None
    untie_s: float | None
    gave_up: bool
    context: PullContext


@dataclass(frozen=True)
class PullTable:
    """A whole table and the columns that were passed over."""

    rows: tuple[PullRow, ...]
    unknown_columns: tuple[str, ...]


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
            value = float(text.replace(",", "."))
        except ValueError:
            raise self.wrong(column, f"“{text}” is no number.") from None
        if not math.isfinite(value) or (above is not None and value <= above):
            limit = f" above {above:g}" if above is not None and math.isfinite(above) else ""
            raise self.wrong(column, f"{text} must be a finite number{limit}.")
        return value

    def whole(self, column: str) -> int | None:
        value = self.number(column, above=-1)
        if value is not None and value != int(value):
            raise self.wrong(column, "must be a whole number.")
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
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    header = [(name or "").strip() for name in reader.fieldnames or []]
    reader.fieldnames = header
    missing = [name for name in REQUIRED if name not in header]
    if missing:
        raise InputError(f"Row 1: column {missing[0]} is missing.", where=f"1:{missing[0]}")
    rows: list[PullRow] = []
    seen: set[str] = set()
    for number, cells in enumerate(reader, start=2):
        if not any((v or "").strip() for k, v in cells.items() if k is not None):
            continue
        row = _read_row(_Cells(number, {k: v for k, v in cells.items() if k is not None}))
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
    findings = BASELINE_FINDINGS if baseline else tuple(KNOT_FINDINGS)
    finding = c.choice("finding", findings)
    peak = c.number("peak", above=None if finding == "void" else 0.0)
    if peak is None and finding != "void":
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
    gave_at_knot = finding in ("broke_at_knot", "came_out", "capsized")
    if knot_b and gave_at_knot and not failed_end:
        raise c.wrong("failed_end", "say which of the two knots gave, A or B.")
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
        cycles_failed=done == "failed",
        wraps=c.whole("wraps"),
        untie_s=c.number("untie_s", above=0.0),
        gave_up=c.choice("gave_up", ("", "yes", "no")) == "yes",
        context=context,
    )


@dataclass(frozen=True, kw_only=True)
class _Share:
    """What one row says of one knot."""

    row: PullRow
    events: int
    floors: int
    breaks: int
    kind: Outcome
    inspected: bool


def _shares(row: PullRow) -> list[tuple[str, _Share]]:
    """What a knot pull says of each knot tied in it."""
    gave = KNOT_FINDINGS[row.finding]
    at_knot = row.finding in ("broke_at_knot", "came_out", "capsized")
    kind = Outcome.BROKE if gave is Gave.BROKE else Outcome.CAME_OUT
    if row.knot_b:
        found = []
        for knot, end in ((row.knot, "A"), (row.knot_b, "B")):
            here = at_knot and row.failed_end == end
            says, breaking = knot_says(gave, here)
            # The inspected knot is the one that held.
            share = _Share(
                row=row,
                events=int(says is Says.EVENT),
                floors=int(says is Says.FLOOR),
                breaks=int(breaking is Says.EVENT),
                kind=kind if here else Outcome.OUTLASTED,
                inspected=not here,
            )
            found.append((knot, share))
        return found
    says, breaking = knot_says(gave, at_knot)
    events = int(says is Says.EVENT)
    floors = 0 if says is Says.NOTHING else row.ends - events
    breaks = int(breaking is Says.EVENT)
    how = kind if at_knot else Outcome.OUTLASTED
    return [
        (
            row.knot,
            _Share(row=row, events=events, floors=floors, breaks=breaks, kind=how, inspected=True),
        )
    ]


def group_pulls(table: PullTable) -> list[GroupData]:
    """Gather the rows of a table into groups: baselines first, then knots as they come."""
    baselines: dict[tuple[str, str], list[PullRow]] = {}
    knots: dict[tuple[str, str, str, str], list[_Share]] = {}
    for row in table.rows:
        if row.baseline:
            baselines.setdefault((row.cordage, row.condition), []).append(row)
            continue
        for knot, share in _shares(row):
            key = (row.cordage, row.cordage_b, row.condition, knot)
            knots.setdefault(key, []).append(share)
    found = [_baseline(key, rows) for key, rows in baselines.items()]
    return found + [_knot(key, shares) for key, shares in knots.items()]


def _baseline(key: tuple[str, str], rows: list[PullRow]) -> GroupData:
    used = [r for r in rows if r.finding != "void"]
    says = [_plain_says(r, r.finding == "broke_clear") for r in used]
    return plain_evidence(*key, says, len(rows) - len(used))


def _plain_says(row: PullRow, clear: bool) -> PullSays:
    return PullSays(
        pull_id=row.pull,
        load_n=row.peak_n,
        events=int(clear),
        floors=int(not clear),
        breaks=int(clear),
        kind=Outcome.BROKE if clear else Outcome.OUTLASTED,
        context=row.context,
    )


def _knot_says(share: _Share) -> PullSays:
    row = share.row
    jammed = share.inspected and row.jam_level is not None
    timed = share.inspected and row.untie_s is not None
    return PullSays(
        pull_id=row.pull,
        load_n=row.peak_n,
        events=share.events,
        floors=share.floors,
        breaks=share.breaks,
        kind=share.kind,
        context=row.context,
        jams=((row.jam_load_n, row.jam_level or JamLevel.NOT_TRIED),) if jammed else (),
        untied=((row.untie_s or 0.0, row.gave_up),) if timed else (),
    )


def _knot(key: tuple[str, str, str, str], shares: list[_Share]) -> GroupData:
    cordage, cordage_b, condition, knot = key
    used = [s for s in shares if s.row.finding != "void"]
    says = [_knot_says(s) for s in used]
    cycled = [s.row for s in used if s.row.cycles is not None]
    wrapped = [s for s in used if s.row.wraps is not None]
    wraps = None
    if wrapped:
        wraps = WrapSample(
            wraps=np.array([float(s.row.wraps or 0) for s in wrapped]),
            ln_grip=np.log([s.row.peak_n for s in wrapped]),
            held=np.array([s.events == 0 for s in wrapped]),
            pull_ids=tuple(s.row.pull for s in wrapped),
        )
    return replace(
        knot_evidence(knot, cordage, condition, says, len(shares) - len(used)),
        cordage_b=cordage_b,
        cycles=np.array([r.cycles for r in cycled], dtype=np.float64),
        cycles_failed=np.array([r.cycles_failed for r in cycled], dtype=np.float64),
        wraps=wraps,
    )
