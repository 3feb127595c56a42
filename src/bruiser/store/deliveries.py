"""Pulls taken from a file where they waited into the campaign they belong to, each once."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import Refused
from bruiser.core.records.records import PullEnd
from bruiser.store.schema import pull, reading, specimen, trace_analysis, trace_chunk
from bruiser.store.sharing_schema import act, act_row
from bruiser.store.tables import copy_chunks, drop_chunks, sample_count

_ENDS = ("ended_at", "end", "remains", "samples_lost", "sample_rate_hz")


def waiting_pulls(connection: Connection) -> list[str]:
    """The pulls in a file, by id, oldest first."""
    query = sa.select(pull.c.id).order_by(pull.c.started_at, pull.c.id)
    return list(connection.execute(query).scalars())


def code_of_waiting(connection: Connection, pull_id: str) -> str:
    """The code of the specimen that a waiting pull is of."""
    query = (
        sa.select(specimen.c.code)
        .join(pull, pull.c.specimen_id == specimen.c.id)
        .where(pull.c.id == pull_id)
    )
    return str(connection.execute(query).scalar_one())


def others_of(connection: Connection, pull_id: str) -> int:
    """How many other pulls there are of the specimen of one."""
    mine = sa.select(pull.c.specimen_id).where(pull.c.id == pull_id).scalar_subquery()
    query = sa.select(sa.func.count()).where(pull.c.specimen_id == mine, pull.c.id != pull_id)
    return int(connection.execute(query).scalar_one())


def deliver_pull(source: Connection, target: Connection, pull_id: str) -> None:
    """Store a pull with its samples, readings and analysis; what is there already stays.

    A pull that the campaign knows as running, or as interrupted because its bench was not heard of,
    gets the end it had.

    Raises
    ------
    Refused
        If its specimen is no longer in the campaign.
    """
    row = dict(source.execute(sa.select(pull).where(pull.c.id == pull_id)).mappings().one())
    known = target.execute(sa.select(pull).where(pull.c.id == pull_id)).mappings().first()
    if known is None:
        there = sa.select(sa.literal(1)).where(specimen.c.id == row["specimen_id"])
        if target.execute(there).first() is None:
            code = code_of_waiting(source, pull_id)
            raise Refused(f"{code} was dropped from the campaign.", "Its pull waits on.")
        target.execute(sa.insert(pull).values(row))
    ended = known is not None and known["end"] not in (None, PullEnd.INTERRUPTED.value)
    if known is not None and not ended and row["ended_at"] is not None:
        ends = {name: row[name] for name in _ENDS}
        target.execute(sa.update(pull).where(pull.c.id == pull_id).values(ends))
    if sample_count(target, pull_id) < sample_count(source, pull_id):
        drop_chunks(target, pull_id)
        copy_chunks(source, target, [pull_id])
    _add_missing(source, target, reading, pull_id)
    if not ended:
        _add_missing(source, target, trace_analysis, pull_id)
    _add_acts(source, target, pull_id)


def _add_missing(source: Connection, target: Connection, table: sa.Table, pull_id: str) -> None:
    mine = table.c.pull_id == pull_id
    known = set(target.execute(sa.select(table.c.id).where(mine)).scalars())
    query = sa.select(table).where(mine).order_by(sa.literal_column("rowid"))
    rows = [dict(row) for row in source.execute(query).mappings() if row["id"] not in known]
    if rows:
        target.execute(sa.insert(table), rows)


def _add_acts(source: Connection, target: Connection, pull_id: str) -> None:
    theirs = sa.select(act_row.c.act_id).where(act_row.c.row_id == pull_id)
    acts = [dict(r) for r in source.execute(sa.select(act).where(act.c.id.in_(theirs))).mappings()]
    ids = [row["id"] for row in acts]
    known = set(target.execute(sa.select(act.c.id).where(act.c.id.in_(ids))).scalars())
    fresh = [row for row in acts if row["id"] not in known]
    if not fresh:
        return
    target.execute(sa.insert(act), fresh)
    about = sa.select(act_row).where(act_row.c.act_id.in_([row["id"] for row in fresh]))
    target.execute(sa.insert(act_row), [dict(r) for r in source.execute(about).mappings()])


def forget_pull(connection: Connection, pull_id: str) -> None:
    """Take a pull that was delivered out of the file where it waited."""
    for table in (trace_chunk, trace_analysis, reading):
        connection.execute(sa.delete(table).where(table.c.pull_id == pull_id))
    connection.execute(sa.delete(pull).where(pull.c.id == pull_id))
