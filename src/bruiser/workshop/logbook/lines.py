"""Every specimen in a few words: what lists of all of them are made from, light enough to keep."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from bruiser.core.errors import BruiserError
from bruiser.core.records.layouts import Layout
from bruiser.core.records.records import Gave, Specimen
from bruiser.store.campaigns import specimen_of
from bruiser.store.lines import KIND, LineRow, line_rows
from bruiser.store.open_campaign import Connection
from bruiser.store.readings import load_exclusions
from bruiser.workshop.logbook.books import Books
from bruiser.workshop.logbook.entries import Entry, Stage, State
from bruiser.workshop.logbook.waiting import Waiting

_BARE = {
    "id": "", "code": "", "queue_position": 0, "span_m": 1.0, "pin_diameter_m": 0.0,
    "set_load_n": 0.0, "seed": 0, "note": "", "pair": "", "replaces_id": None,
}  # fmt: skip
"""The rest of a row, for a specimen of which only the kind is asked."""
CANNOT_BE_READ = "cannot be read: check the campaign"
"""What stands in a list for a specimen that could not be read."""
_CANNOT_BE = (ValueError, KeyError, StopIteration, TypeError, BruiserError)
_GAVE = {
    Gave.BROKE: "broke at",
    Gave.CAME_OUT: "came out at",
    Gave.CAPSIZED: "capsized at",
}


def outcome_words(entry: Entry) -> str:
    """What was found, in a few words."""
    f = entry.finding
    if f is None:
        return "not inspected"
    return gave_words(entry.specimen.layout, f.gave, f.place, f.void_reason)


def gave_words(layout: Layout, gave: Gave, place: str | None, void_reason: str) -> str:
    """What gave and where, or why a pull is void."""
    if gave is Gave.VOID:
        return f"void: {void_reason}"
    if place is None:
        return "nothing gave"
    return f"{_GAVE[gave]} {layout.place(place).label}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SpecimenLine:
    """One specimen in a few words.

    Parameters
    ----------
    place : int
        Its place in the queue.
    pull_id, started_at, technician, bench, gave : str
        Of its newest pull and the finding in force; empty where there is none.
    peak_n : float, optional
        The load it bore at most, in newton; None while it is not inspected, and where it is void.
    """

    specimen_id: str
    pull_id: str
    code: str
    place: int
    title: str
    lot_id: str
    lot: str
    method: str
    state: State
    started_at: str
    technician: str
    bench: str
    gave: str
    outcome: str
    peak_n: float | None
    note: str

    @property
    def order(self) -> tuple[int, str]:
        """What the logbook is sorted by."""
        return self.place, self.code


SORTED_BY: dict[str, Callable[[SpecimenLine], str | float]] = {
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
"""What a column of the list is sorted by."""


def unread_line(specimen_id: str) -> SpecimenLine:
    """What stands in a list for a specimen that could not be read."""
    return SpecimenLine(
        specimen_id=specimen_id,
        pull_id="",
        code="",
        place=0,
        title=CANNOT_BE_READ,
        lot_id="",
        lot="",
        method="",
        state=State.PLANNED,
        started_at="",
        technician="",
        bench="",
        gave="",
        outcome="",
        peak_n=None,
        note="",
    )


def line_of(entry: Entry, state: State) -> SpecimenLine:
    """A specimen that was read whole, in a few words."""
    s, pull, finding = entry.specimen, entry.pull, entry.finding
    valid = finding is not None and finding.gave is not Gave.VOID
    outcome = state.value if finding is None else outcome_words(entry)
    return SpecimenLine(
        specimen_id=s.id,
        pull_id="" if pull is None else pull.id,
        code=s.code,
        place=s.queue_position,
        title=s.title,
        lot_id=s.lot.id,
        lot=s.lot.name,
        method=s.method.key,
        state=state,
        started_at="" if pull is None else pull.started_at,
        technician="" if pull is None else pull.technician,
        bench="" if pull is None else pull.instrument,
        gave="" if finding is None else finding.gave.value,
        outcome=_said(outcome, left_out=entry.excluded is not None),
        peak_n=finding.peak_load_n if finding is not None and valid else None,
        note=s.note if finding is None or not finding.note else finding.note,
    )


def line_of_waiting(waiting: Waiting) -> SpecimenLine:
    """A specimen that waits, as a line of the list."""
    kind = waiting.kind
    return replace(
        unread_line(waiting.specimen_id),
        code=waiting.code,
        place=waiting.place,
        title=kind.title,
        lot_id=kind.lot.id,
        lot=kind.lot.name,
        method=kind.method.key,
        state=waiting.state,
        outcome=waiting.state.value,
        note=waiting.note,
    )


def _said(outcome: str, *, left_out: bool) -> str:
    return f"{outcome}, left out" if left_out else outcome


def read_lines(
    connection: Connection, books: Books, of: Collection[str] | None = None
) -> list[SpecimenLine]:
    """Specimens that were pulled, in a few words, in no order; of some ids, or of all.

    What cannot be made out is left out here: it is named where the specimen itself is read.
    """
    make = _line_maker(books)
    rows: Iterable[LineRow] = line_rows(connection, of)
    pulls = None
    if of is not None:
        rows = list(rows)
        pulls = [row.pull_id for row in rows]
    exclusions = load_exclusions(connection, pulls)
    left_out = {pull_id for pull_id, said in exclusions.items() if said[-1].excluded}
    found = []
    for row in rows:
        with suppress(*_CANNOT_BE):
            found.append(make(row, row.pull_id in left_out))
    return found


def _line_maker(books: Books) -> Callable[[LineRow, bool], SpecimenLine]:
    """Makes lines of rows; what is alike in many of them is made once."""
    lots = {lot.id: lot for lot in books.lots}
    knots = {knot.id: knot for knot in books.knots}
    fixtures = {fixture.id: fixture for fixture in books.bench_book.fixtures}
    kinds: dict[tuple[Any, ...], tuple[Specimen, str]] = {}
    same: dict[str, str] = {}

    def kind_of(row: LineRow) -> tuple[Specimen, str]:
        if row.kind not in kinds:
            made = specimen_of(
                {**_BARE, **dict(zip(KIND, row.kind, strict=True))}, lots, knots, fixtures, ()
            )
            kinds[row.kind] = made, made.title
        return kinds[row.kind]

    def make(row: LineRow, left_out: bool) -> SpecimenLine:
        (kind, title), stage = kind_of(row), Stage(row.stage)
        state = State.PULLED if stage is Stage.RUNNING else State(stage.value)
        gave = None if row.gave is None else Gave(row.gave)
        outcome = state.value
        if gave is not None:
            outcome = gave_words(kind.layout, gave, row.gave_at, row.void_reason or "")
        outcome, who = _said(outcome, left_out=left_out), row.technician
        return SpecimenLine(
            specimen_id=row.specimen_id,
            pull_id=row.pull_id,
            code=row.code,
            place=row.place,
            title=title,
            lot_id=kind.lot.id,
            lot=kind.lot.name,
            method=kind.method.key,
            state=state,
            started_at=row.started_at,
            technician=same.setdefault(who, who),
            bench=same.setdefault(row.instrument, row.instrument),
            gave="" if gave is None else gave.value,
            outcome=same.setdefault(outcome, outcome),
            peak_n=None if gave in (None, Gave.VOID) else row.peak_load_n,
            note=row.found or row.note,
        )

    return make


def in_order(lines: Iterable[SpecimenLine]) -> tuple[SpecimenLine, ...]:
    """Lines in the order of the logbook."""
    return tuple(sorted(lines, key=lambda line: line.order))
