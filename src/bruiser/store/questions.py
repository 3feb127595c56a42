"""What is asked of a campaign's specimens, answered by ids, counts and times, never by all rows."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.store.progress import DROPPED, FOUND, progress
from bruiser.store.progress import tally as counted
from bruiser.store.schema import finding, knot_inspection, preparation, pull, specimen

_P = progress.c
_THERE = _P.stage != DROPPED
_IN_ORDER = (_P.place, _P.code)


@dataclass(frozen=True, kw_only=True)
class EntryQuery:
    """Which specimens are meant; None stands for any.

    Parameters
    ----------
    stages, lot_ids, methods : collection of str, optional
        As stored.
    role : str, optional
        Plain rope or knot.
    knot_id : str, optional
        The knot at their first end.
    with_trial : bool
        Only those whose tying was timed or inspected.
    noted : str
        How their note begins; empty for any.
    step : str
        Only those of which this step before a pull was recorded; empty for any.
    """

    stages: Collection[str] | None = None
    lot_ids: Collection[str] | None = None
    methods: Collection[str] | None = None
    role: str | None = None
    knot_id: str | None = None
    with_trial: bool = False
    noted: str = ""
    step: str = ""


EVERYTHING = EntryQuery()


@dataclass(frozen=True, kw_only=True)
class TallyRow:
    """How many specimens of a lot, a role and a method stand at a stage."""

    lot_id: str
    role: str
    method: str
    stage: str
    count: int


def find_ids(connection: Connection, asked: EntryQuery, last: int | None = None) -> list[str]:
    """Ids of the specimens meant, in queue order; the last so many of them."""
    query = sa.select(_P.specimen_id).where(_THERE)
    for column, values in (
        (_P.stage, asked.stages),
        (_P.lot_id, asked.lot_ids),
        (_P.method, asked.methods),
    ):
        if values is not None:
            query = query.where(column.in_(list(values)))
    if asked.role is not None:
        query = query.where(_P.role == asked.role)
    if asked.knot_id is not None:
        mine = sa.select(specimen.c.id).where(specimen.c.knot_a_id == asked.knot_id)
        query = query.where(_P.specimen_id.in_(mine))
    if asked.noted:
        noted = specimen.c.note.startswith(asked.noted)
        query = query.where(sa.exists().where(specimen.c.id == _P.specimen_id, noted))
    if asked.with_trial:
        tried = sa.select(preparation.c.specimen_id).where(preparation.c.trial.is_not(None))
        query = query.where(_P.specimen_id.in_(tried))
    if asked.step:
        theirs = preparation.c.specimen_id == _P.specimen_id
        query = query.where(sa.exists().where(theirs, preparation.c.step == asked.step))
    return _ordered(connection, query, last)


def _ordered(connection: Connection, query: sa.Select[Any], last: int | None) -> list[str]:
    if last is None:
        return list(connection.execute(query.order_by(*_IN_ORDER)).scalars())
    backwards = query.order_by(*(column.desc() for column in _IN_ORDER)).limit(last)
    return list(connection.execute(backwards).scalars())[::-1]


def alike_ids(
    connection: Connection, lot_id: str, knots: tuple[str | None, str | None], last: int
) -> list[str]:
    """Inspected specimens of a lot with the same knots at its ends, in queue order."""
    s = specimen.c
    # Not by the stage as well: a search by that would go through all there are.
    query = (
        sa.select(_P.specimen_id, _P.stage)
        .join(specimen, s.id == _P.specimen_id)
        .where(s.lot_id == lot_id)
        .where(s.knot_a_id.is_not_distinct_from(knots[0]))
        .where(s.knot_b_id.is_not_distinct_from(knots[1]))
        .order_by(*_IN_ORDER)
    )
    found = [key for key, stage in connection.execute(query) if stage == "inspected"]
    return found[max(0, len(found) - last) :]


def id_of_pull(connection: Connection, pull_id: str) -> str | None:
    """The specimen whose newest pull this is."""
    query = sa.select(_P.specimen_id).where(_P.pull_id == pull_id, _THERE)
    return connection.execute(query).scalar()


def tally(connection: Connection, known: int = 0) -> list[TallyRow]:
    """Specimens counted by lot, role, method and stage; the counts that changed since a revision.

    A count that fell to nothing is there with 0.
    """
    t = counted.c
    query = sa.select(t.lot_id, t.role, t.method, t.stage, t.count).where(t.revision > known)
    return [
        TallyRow(lot_id=lot_id, role=role, method=method, stage=stage, count=count)
        for lot_id, role, method, stage, count in connection.execute(query)
    ]


def any_simulated(connection: Connection) -> bool:
    """Whether any pull says what the simulated bench left."""
    query = sa.select(sa.literal(1)).where(_P.simulated == 1).limit(1)
    return connection.execute(query).first() is not None


def last_place(connection: Connection, *, pulled: bool = False) -> int | None:
    """The highest place in the queue; of those pulled, or of all. None where there is none."""
    query = sa.select(sa.func.max(_P.place)).where(_THERE)
    if pulled:
        query = query.where(_P.pull_id.is_not(None))
    found = connection.execute(query).scalar()
    return None if found is None else int(found)


def codes(connection: Connection) -> dict[str, str]:
    """The ids of all specimens by their code."""
    rows = connection.execute(sa.select(specimen.c.code, specimen.c.id))
    return {code: key for code, key in rows}


def void_not_replaced(connection: Connection) -> list[str]:
    """Void specimens that no other takes the place of, in queue order."""
    other = specimen.alias()
    replaced = sa.exists().where(other.c.replaces_id == _P.specimen_id)
    query = sa.select(_P.specimen_id).where(_P.stage == "void", ~replaced)
    return _ordered(connection, query, None)


def was_replaced(connection: Connection, specimen_id: str) -> bool:
    """Whether another specimen was planned in the place of this one."""
    query = sa.select(sa.literal(1)).where(specimen.c.replaces_id == specimen_id).limit(1)
    return connection.execute(query).first() is not None


def pulled_when(connection: Connection, most: int) -> list[tuple[str, str]]:
    """Begin and end of the newest pulls that ended, the newest first."""
    query = (
        sa.select(_P.started_at, _P.ended_at)
        .where(_THERE, _P.started_at.is_not(None), _P.ended_at.is_not(None))
        .order_by(_P.started_at.desc())
        .limit(most)
    )
    return [(begin, end) for begin, end in connection.execute(query)]


def untied_in(connection: Connection, most: int) -> list[float]:
    """Seconds that untying all knots of a specimen took, of the newest pulls where it was timed."""
    # By the index on the start alone: a search by stage would go through all there are.
    lately = (
        sa.select(_P.pull_id, _P.stage)
        .where(_P.started_at.is_not(None))
        .order_by(_P.started_at.desc())
        .limit(most)
    )
    newest = [pull_id for pull_id, stage in connection.execute(lately) if stage in FOUND]
    later = finding.alias()
    last = ~sa.exists().where(later.c.pull_id == finding.c.pull_id, later.c.entry > finding.c.entry)
    i = knot_inspection.c
    query = (
        sa.select(sa.func.sum(i.untie_s))
        .join(finding, finding.c.id == i.finding_id)
        .where(finding.c.pull_id.in_(newest), i.untie_s > 0, last)
        .group_by(finding.c.id)
    )
    return [float(seconds) for seconds in connection.execute(query).scalars()]


def cell_rows(connection: Connection, lot_ids: Collection[str]) -> list[dict[str, Any]]:
    """Specimens with a knot that are not void, counted by all that makes a cell of a plan."""
    s = specimen.c
    by = (
        s.lot_id, s.knot_a_id, s.knot_b_id, s.method, s.method_values, s.direction, s.dressing,
        s.fixture_id, s.lot_b_id, s.state,
    )  # fmt: skip
    query = (
        sa.select(*by, sa.func.count().label("count"))
        .join(progress, _P.specimen_id == s.id)
        .where(_P.lot_id.in_(list(lot_ids)), _P.role != "baseline", _P.stage != "void", _THERE)
        .group_by(*by)
    )
    return [dict(row) for row in connection.execute(query).mappings()]


def pulls_of(
    connection: Connection,
    lot_ids: Iterable[str],
    knot_ids: Iterable[str],
    *,
    before: str | None = None,
    stage: str | None = None,
) -> int:
    """How many pulls have one of these knots in one of these lots; empty stands for any.

    Parameters
    ----------
    before : str, optional
        Only those that began before this moment.
    stage : str, optional
        Only those that stand at this stage.
    """
    s, lots, knots = specimen.c, list(lot_ids), list(knot_ids)
    query = (
        sa.select(sa.func.count())
        .select_from(progress)
        .join(specimen, s.id == _P.specimen_id)
        .where(_P.pull_id.is_not(None), _THERE)
    )
    if lots:
        query = query.where(_P.lot_id.in_(lots))
    if knots:
        query = query.where(sa.or_(s.knot_a_id.in_(knots), s.knot_b_id.in_(knots)))
    else:
        query = query.where(sa.or_(s.knot_a_id.is_not(None), s.knot_b_id.is_not(None)))
    if before is not None:
        query = query.where(_P.started_at < before)
    if stage is not None:
        query = query.where(_P.stage == stage)
    return int(connection.execute(query).scalar_one())


def pulled_pairs(connection: Connection) -> set[tuple[str, str]]:
    """Lots and the knots at a first end, by id, that something was found of."""
    s = specimen.c
    query = (
        sa.select(s.lot_id, s.knot_a_id)
        .join(progress, _P.specimen_id == s.id)
        .where(_P.stage.in_(FOUND), s.knot_a_id.is_not(None))
        .distinct()
    )
    return {(lot_id, knot_id) for lot_id, knot_id in connection.execute(query)}


def instruments(connection: Connection) -> list[str]:
    """Every bench that something was pulled on."""
    return list(connection.execute(sa.select(pull.c.instrument).distinct()).scalars())


def technicians(connection: Connection) -> list[str]:
    """Everybody who pulled something."""
    return list(connection.execute(sa.select(pull.c.technician).distinct()).scalars())
