"""Every specimen of a campaign as a list: filtered, sorted, and as a table for others."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from bruiser.catalogue.finding import fold
from bruiser.core.units import UnitChoice, si_factor
from bruiser.store.lines import LineOrder, LineQuery
from bruiser.workshop.logbook.entries import Stage, State
from bruiser.workshop.logbook.lines import SORTED_BY, SpecimenLine, unread_line
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.paged_list import PagedList

COLUMNS = (
    "specimen", "day", "knot", "lot", "method", "peak", "outcome", "technician", "bench", "note",
)  # fmt: skip
EVERY = ""
_STAGES: dict[str, tuple[str, ...]] = {
    EVERY: (),
    State.PULLED: (Stage.RUNNING, Stage.PULLED),
    State.INSPECTED: (Stage.INSPECTED,),
    State.VOID: (Stage.VOID,),
}
"""Stages in the records; that a specimen is cut, tied or checked is no stage of its own."""


@dataclass(frozen=True, kw_only=True)
class ListFilter:
    """What is listed; empty for all.

    Parameters
    ----------
    words : str
        Every word must stand in a column, or in the note.
    lot_id, technician, outcome, state : str
        As stored; the outcome is what gave.
    """

    words: str = EVERY
    lot_id: str = EVERY
    technician: str = EVERY
    outcome: str = EVERY
    state: str = EVERY


def listed(
    lines: Iterable[SpecimenLine], wanted: ListFilter, units: UnitChoice
) -> list[SpecimenLine]:
    """The specimens a filter admits, in the order given."""
    words = fold(wanted.words).split()
    return [
        line
        for line in lines
        if wanted.lot_id in (EVERY, line.lot_id)
        and wanted.technician in (EVERY, line.technician)
        and wanted.outcome in (EVERY, line.gave)
        and wanted.state in (EVERY, line.state.value)
        and (not words or _has(line, words, units))
    ]


def _has(line: SpecimenLine, words: Iterable[str], units: UnitChoice) -> bool:
    text = fold(" ".join(cells_of(line, units)))
    return all(word in text for word in words)


def cells_of(line: SpecimenLine, units: UnitChoice) -> tuple[str, ...]:
    """What stands in the columns."""
    return (
        line.code,
        line.started_at[:10],
        line.title,
        line.lot,
        line.method,
        "" if line.peak_n is None else units.force_text(line.peak_n),
        line.outcome,
        line.technician,
        line.bench,
        line.note,
    )


def sorted_lines(
    lines: Iterable[SpecimenLine], column: str, *, falling: bool = False
) -> list[SpecimenLine]:
    """Lines by what a column means; equal ones stay in their order."""
    return sorted(lines, key=SORTED_BY[column], reverse=falling)


def find_lines(
    logbook: Logbook, wanted: ListFilter, column: str, units: UnitChoice, *, falling: bool = False
) -> Sequence[SpecimenLine]:
    """The specimens a filter admits, sorted by a column.

    Where the records themselves say what is asked, only ids are read, and lines by the page. Words
    are looked for in what the list says, and what only it says is sorted by it: that takes a line
    of each.
    """
    stages = _STAGES.get(wanted.state)
    if wanted.words or stages is None or column not in set(LineOrder):
        found = listed(logbook.lines, wanted, units)
        return sorted_lines(found, column, falling=falling)
    asked = LineQuery(
        lot_id=wanted.lot_id,
        technician=wanted.technician,
        gave=wanted.outcome,
        stages=stages,
        order=LineOrder(column),
        falling=falling,
    )
    return PagedList(logbook.line_ids(asked), logbook.lines_of, unread_line)


def ids_of(lines: Sequence[SpecimenLine]) -> Sequence[str]:
    """The specimens of a list; a page is not read for it."""
    return lines.ids if isinstance(lines, PagedList) else [line.specimen_id for line in lines]


def list_table(
    lines: Iterable[SpecimenLine], units: UnitChoice
) -> tuple[tuple[str, ...], list[list[str | float | None]]]:
    """Lines as a table for others: the unit stands in the heading, loads are numbers."""
    at = COLUMNS.index("peak")
    factor = si_factor(units.force, "force")
    headings = tuple(f"peak ({units.force})" if c == "peak" else c for c in COLUMNS)
    cells: list[list[str | float | None]] = []
    for line in lines:
        row: list[str | float | None] = [cell or None for cell in cells_of(line, units)]
        peak = None if line.peak_n is None else line.peak_n / factor
        row[at] = None if peak is None else float(f"{peak:.6g}")
        cells.append(row)
    return headings, cells


def technicians(logbook: Logbook) -> tuple[str, ...]:
    """Everybody who pulled something."""
    return tuple(sorted(set(logbook.technicians()) - {""}))
