"""Every specimen in a few columns, for lists of all of them."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, NamedTuple

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.json_records import read_record
from bruiser.store.checked_rows import only
from bruiser.store.progress import DROPPED, FOUND, progress
from bruiser.store.readings import load_exclusions
from bruiser.store.schema import finding, pull, reading, specimen, trace_analysis

_P = progress.c
KIND = (
    "role", "lot_id", "layout", "knot_a_id", "knot_b_id", "method", "method_values", "direction",
    "dressing", "fixture_id", "lot_b_id", "state",
)  # fmt: skip
"""Columns of a specimen that say what it is, beside its lengths and loads."""


class LineOrder(StrEnum):
    """What the list can be sorted by where the rows themselves say it."""

    CODE = "specimen"
    DAY = "day"
    METHOD = "method"
    PEAK = "peak"
    TECHNICIAN = "technician"
    BENCH = "bench"


@dataclass(frozen=True, kw_only=True)
class LineQuery:
    """Which specimens are listed, empty for all, and in which order; equal ones as they queue.

    Parameters
    ----------
    lot_id, technician, gave : str
        As stored.
    stages : tuple of str
        As stored.
    """

    lot_id: str = ""
    technician: str = ""
    gave: str = ""
    stages: tuple[str, ...] = ()
    order: LineOrder = LineOrder.CODE
    falling: bool = False


def line_ids(connection: Connection, asked: LineQuery) -> list[str]:
    """Ids of the specimens listed, in the order asked."""
    by_pull = (LineOrder.TECHNICIAN, LineOrder.BENCH)
    joined: sa.FromClause = progress
    if asked.technician or asked.order in by_pull:
        joined = joined.outerjoin(pull, pull.c.id == _P.pull_id)
    if asked.gave or asked.order is LineOrder.PEAK:
        joined = joined.outerjoin(finding, _in_force())
    if asked.order is LineOrder.METHOD:
        joined = joined.join(specimen, specimen.c.id == _P.specimen_id)
    query = sa.select(_P.specimen_id).select_from(joined).where(_P.stage != DROPPED)
    for column, wanted in (
        (_P.lot_id, asked.lot_id),
        (pull.c.technician, asked.technician),
        (finding.c.gave, asked.gave),
    ):
        if wanted:
            query = query.where(column == wanted)
    if asked.stages:
        query = query.where(_P.stage.in_(asked.stages))
    by = _ORDER[asked.order]
    query = query.order_by(by.desc() if asked.falling else by, _P.place, _P.code)
    return list(connection.execute(query).scalars())


class LineRow(NamedTuple):
    """A specimen that was pulled, with the finding in force; `kind` as :data:`KIND`."""

    kind: tuple[Any, ...]
    specimen_id: str
    pull_id: str
    code: str
    place: int
    stage: str
    started_at: str
    technician: str
    instrument: str
    note: str
    gave: str | None
    gave_at: str | None
    void_reason: str | None
    peak_load_n: float | None
    found: str | None


_COLUMNS = (
    *(specimen.c[name] for name in KIND),
    _P.specimen_id, _P.pull_id, _P.code, _P.place, _P.stage, _P.started_at, pull.c.technician,
    pull.c.instrument,
    specimen.c.note, finding.c.gave, finding.c.place.label("gave_at"), finding.c.void_reason,
    finding.c.peak_load_n, finding.c.note.label("found"),
)  # fmt: skip
_ORDER: dict[LineOrder, sa.ColumnElement[Any]] = {
    LineOrder.CODE: sa.func.lower(_P.code),
    LineOrder.DAY: sa.func.coalesce(_P.started_at, ""),
    LineOrder.METHOD: specimen.c.method,
    LineOrder.PEAK: sa.func.coalesce(
        sa.case((finding.c.gave != "void", finding.c.peak_load_n)), -1.0
    ),
    LineOrder.TECHNICIAN: sa.func.coalesce(sa.func.lower(pull.c.technician), ""),
    LineOrder.BENCH: sa.func.coalesce(sa.func.lower(pull.c.instrument), ""),
}


def line_rows(connection: Connection, of: Collection[str] | None = None) -> Iterator[LineRow]:
    """Specimens that were pulled, in no order; of some ids, or of all."""
    query = (
        sa.select(*_COLUMNS)
        .select_from(progress)
        .join(specimen, specimen.c.id == _P.specimen_id)
        .join(pull, pull.c.id == _P.pull_id)
        .outerjoin(finding, _in_force())
        .where(_P.stage.not_in((DROPPED, "planned")))
    )
    for row in connection.execute(only(query, _P.specimen_id, of)):
        yield LineRow(tuple(row[: len(KIND)]), *row[len(KIND) :])


def _in_force() -> sa.ColumnElement[bool]:
    """The newest entry of the findings of a specimen's newest pull, unless it was withdrawn."""
    later = finding.alias()
    newest = ~sa.exists().where(
        later.c.pull_id == finding.c.pull_id, later.c.entry > finding.c.entry
    )
    return sa.and_(finding.c.pull_id == _P.pull_id, finding.c.withdrawn == 0, newest)


def newest_found(connection: Connection, most: int) -> list[str]:
    """Specimens with findings, by id, those last written about first."""
    latest = sa.select(finding.c.pull_id, finding.c.made_at)
    latest = latest.order_by(finding.c.made_at.desc()).limit(4 * most)
    newest = latest.subquery()
    # Not by the stage as well: a search by that would go through all there are.
    theirs = (
        sa.select(_P.specimen_id, _P.stage)
        .select_from(newest)
        .outerjoin(progress, _P.pull_id == newest.c.pull_id)
        .order_by(newest.c.made_at.desc())
    )
    found = dict.fromkeys(i for i, stage in connection.execute(theirs) if stage in FOUND)
    return list(found)[:most]


@dataclass(frozen=True, slots=True)
class Peaks:
    """The loads read off a trace, in newton."""

    peak_n: float
    first_slip_n: float | None = None
    capsize_n: float | None = None


class FoundRow(NamedTuple):
    """A finding in force: whether its pull is left out, what its trace said, its readings."""

    finding_id: str
    left_out: bool
    peaks: Peaks | None
    readings: int


def found_rows(connection: Connection) -> Iterator[FoundRow]:
    """Every finding in force, in no order."""
    left_out = {pull for pull, said in load_exclusions(connection).items() if said[-1].excluded}
    r, t = reading.c, trace_analysis.c
    counts = sa.select(r.pull_id, sa.func.count()).group_by(r.pull_id)
    readings = {pull_id: count for pull_id, count in connection.execute(counts)}
    peaks: dict[str, Peaks | None] = {}
    said = sa.select(t.pull_id, t.result).order_by(sa.literal_column("rowid"))
    for pull_id, result in connection.execute(said):
        try:
            peaks[pull_id] = read_record(Peaks, result)
        except (ValueError, TypeError):
            peaks[pull_id] = None
    query = (
        sa.select(finding.c.id, _P.pull_id)
        .select_from(progress)
        .join(finding, _in_force())
        .where(_P.stage.in_(FOUND))
    )
    for finding_id, pull_id in connection.execute(query):
        yield FoundRow(
            finding_id, pull_id in left_out, peaks.get(pull_id), readings.get(pull_id, 0)
        )
