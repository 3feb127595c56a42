"""Every specimen of a campaign as a list: filtered, sorted, and as a table for others."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from bruiser.catalogue.finding import fold
from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice, si_factor
from bruiser.workshop.logbook.entries import Entry, Logbook, State
from bruiser.workshop.logbook.pull_words import outcome_words

COLUMNS = ("specimen", "day", "knot", "lot", "method", "peak", "outcome", "technician", "note")
EVERY = ""


@dataclass(frozen=True, kw_only=True)
class ListFilter:
    """What is listed; empty for all.

    Parameters
    ----------
    words : str
        Every word must stand in a column, or in the note.
    lot_id, technician, outcome, state : str
        As stored; the outcome is a value of :class:`Gave`.
    """

    words: str = EVERY
    lot_id: str = EVERY
    technician: str = EVERY
    outcome: str = EVERY
    state: str = EVERY


@dataclass(frozen=True, kw_only=True)
class ListRow:
    """One specimen as it is listed; `sort` holds for every column what it is sorted by."""

    specimen_id: str
    pull_id: str
    state: State
    cells: tuple[str, ...]
    sort: tuple[str | float, ...]


def rows_of(logbook: Logbook, wanted: ListFilter, units: UnitChoice) -> list[ListRow]:
    """The specimens a filter admits, in the order of the logbook."""
    words = fold(wanted.words).split()
    found = []
    for entry in logbook.entries:
        if not _admits(entry, wanted, logbook):
            continue
        row = _row(entry, logbook, units)
        if words:
            text = fold(" ".join(row.cells))
            if not all(w in text for w in words):
                continue
        found.append(row)
    return found


def _admits(entry: Entry, wanted: ListFilter, logbook: Logbook) -> bool:
    s, pull, finding = entry.specimen, entry.pull, entry.finding
    return (
        wanted.lot_id in (EVERY, s.lot.id)
        and (wanted.technician in (EVERY, "" if pull is None else pull.technician))
        and (wanted.outcome in (EVERY, "" if finding is None else finding.gave.value))
        and (wanted.state in (EVERY, logbook.state(entry).value))
    )


def _row(entry: Entry, logbook: Logbook, units: UnitChoice) -> ListRow:
    s, pull, finding = entry.specimen, entry.pull, entry.finding
    peak_n = None
    if finding is not None and finding.gave is not Gave.VOID:
        peak_n = finding.peak_load_n
    outcome = logbook.state(entry).value if finding is None else outcome_words(entry)
    if entry.excluded is not None:
        outcome += ", left out"
    note = s.note if finding is None or not finding.note else finding.note
    day = "" if pull is None else pull.started_at[:10]
    technician = "" if pull is None else pull.technician
    cells = (
        s.code,
        day,
        s.title,
        s.lot.name,
        s.method.key,
        "" if peak_n is None else units.force_text(peak_n),
        outcome,
        technician,
        note,
    )
    sort: list[str | float] = [cell.lower() for cell in cells]
    sort[COLUMNS.index("day")] = "" if pull is None else pull.started_at
    sort[COLUMNS.index("peak")] = -1.0 if peak_n is None else peak_n
    return ListRow(
        specimen_id=s.id,
        pull_id="" if pull is None else pull.id,
        state=logbook.state(entry),
        cells=cells,
        sort=tuple(sort),
    )


def sorted_rows(rows: Iterable[ListRow], column: int, *, falling: bool = False) -> list[ListRow]:
    """Rows by a column; equal ones stay in their order."""
    return sorted(rows, key=lambda r: r.sort[column], reverse=falling)


def list_table(
    rows: Iterable[ListRow], units: UnitChoice
) -> tuple[tuple[str, ...], list[list[str | float | None]]]:
    """Rows as a table for others: the unit stands in the heading, loads are numbers."""
    at = COLUMNS.index("peak")
    factor = si_factor(units.force, "force")
    headings = tuple(f"peak ({units.force})" if c == "peak" else c for c in COLUMNS)
    cells: list[list[str | float | None]] = []
    for row in rows:
        line: list[str | float | None] = [cell or None for cell in row.cells]
        load = row.sort[at]
        peak = load / factor if isinstance(load, float) and load >= 0 else None
        line[at] = None if peak is None else float(f"{peak:.6g}")
        cells.append(line)
    return headings, cells


def technicians(logbook: Logbook) -> tuple[str, ...]:
    """Everybody who pulled something."""
    return tuple(sorted({e.pull.technician for e in logbook.entries if e.pull is not None} - {""}))
