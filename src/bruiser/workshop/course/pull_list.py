"""Every specimen of a campaign as a list: filtered, sorted, and as a table for others."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from bruiser.catalogue.finding import fold
from bruiser.core.units import UnitChoice, si_factor
from bruiser.workshop.logbook.lines import SpecimenLine
from bruiser.workshop.logbook.logbook import Logbook

COLUMNS = (
    "specimen", "day", "knot", "lot", "method", "peak", "outcome", "technician", "bench", "note",
)  # fmt: skip
EVERY = ""


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


_ORDER: dict[str, Callable[[SpecimenLine], str | float]] = {
    "specimen": lambda line: line.code.lower(),
    "day": lambda line: line.started_at,
    "knot": lambda line: line.title.lower(),
    "lot": lambda line: line.lot.lower(),
    "method": lambda line: line.method,
    "peak": lambda line: -1.0 if line.peak_n is None else line.peak_n,
    "outcome": lambda line: line.outcome.lower(),
    "technician": lambda line: line.technician.lower(),
    "bench": lambda line: line.bench.lower(),
    "note": lambda line: line.note.lower(),
}


def sorted_lines(
    lines: Iterable[SpecimenLine], column: str, *, falling: bool = False
) -> list[SpecimenLine]:
    """Lines by what a column means; equal ones stay in their order."""
    return sorted(lines, key=_ORDER[column], reverse=falling)


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
