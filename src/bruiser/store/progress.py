"""How far every specimen has got, kept beside the records so that nobody reads all to know it.

``progress`` holds one row a specimen, ``tally`` counts them by lot, role, method and stage, and
``revision`` has one row a table, with the number of the last transaction that changed it. Triggers
of the connection (``TEMP``, so the file holds none) note what a transaction touches;
:func:`settle` brings all up to date at its end. They follow from the other tables and can be made
anew from them at any time.
"""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

import sqlalchemy as sa
from sqlalchemy import INTEGER, TEXT, Column, MetaData, Table
from sqlalchemy.engine import Connection

derived = MetaData()

progress = Table(
    "progress",
    derived,
    Column("specimen_id", TEXT, primary_key=True),
    Column("lot_id", TEXT, nullable=False),
    Column("role", TEXT, nullable=False),
    Column("method", TEXT, nullable=False),
    Column("place", INTEGER, nullable=False),
    Column("code", TEXT, nullable=False),
    Column("stage", TEXT, nullable=False),
    Column("pull_id", TEXT),
    Column("started_at", TEXT),
    Column("ended_at", TEXT),
    Column("simulated", INTEGER, nullable=False),
    Column("revision", INTEGER, nullable=False),
)
tally = Table(
    "tally",
    derived,
    Column("lot_id", TEXT, primary_key=True),
    Column("role", TEXT, primary_key=True),
    Column("method", TEXT, primary_key=True),
    Column("stage", TEXT, primary_key=True),
    Column("count", INTEGER, nullable=False),
    Column("revision", INTEGER, nullable=False),
)
revision = Table(
    "revision",
    derived,
    Column("name", TEXT, primary_key=True),
    Column("number", INTEGER, nullable=False),
)

FOUND = ("inspected", "void")
"""Stages of specimens that have a finding."""
DROPPED = "dropped"
"""The stage of a specimen that is no more: who knew it learns so by the revision."""
_OF_PULL = "(SELECT specimen_id FROM main.pull WHERE id = {row}.pull_id)"
_OF_FINDING = (
    "(SELECT p.specimen_id FROM main.finding f JOIN main.pull p ON p.id = f.pull_id "
    "WHERE f.id = {row}.finding_id)"
)
WHOSE: dict[str, str] = {
    "specimen": "{row}.id",
    "tail": "{row}.specimen_id",
    "preparation": "{row}.specimen_id",
    "stock_entry": "{row}.specimen_id",
    "pull": "{row}.specimen_id",
    "trace_analysis": _OF_PULL,
    "finding": _OF_PULL,
    "reading": _OF_PULL,
    "photo": _OF_PULL,
    "exclusion": _OF_PULL,
    "tail_draw": _OF_FINDING,
    "knot_inspection": _OF_FINDING,
}
"""Whose specimen a row of each table is about, in SQL."""
BESIDE = (
    "campaign", "lot", "knot", "own_structure", "bench", "fixture", "room_day", "load_check",
    "hank", "stock_entry", "campaign_use", "criterion", "claim", "design_factor", "cord_reading",
    "rating_limits", "use_profile", "guide", "guide_step",
)  # fmt: skip
"""Tables about no one specimen, or not only: they are read again whole."""

_COLUMNS = tuple(column.name for column in progress.columns)
_FOLLOWS = """
    SELECT s.id AS specimen_id, s.lot_id, s.role, s.method, s.queue_position AS place, s.code,
        CASE WHEN p.id IS NULL THEN 'planned'
            WHEN f.withdrawn = 0 THEN
                CASE WHEN f.gave = 'void' THEN 'void' ELSE 'inspected' END
            WHEN p.ended_at IS NULL THEN 'running' ELSE 'pulled' END AS stage,
        p.id AS pull_id, p.started_at, p.ended_at,
        CASE WHEN p.remains IS NULL THEN 0 ELSE 1 END AS simulated
    FROM specimen s
    LEFT JOIN pull p ON p.id = (SELECT id FROM pull WHERE specimen_id = s.id
        ORDER BY started_at DESC, id DESC LIMIT 1)
    LEFT JOIN finding f ON f.id = (SELECT id FROM finding WHERE pull_id = p.id
        ORDER BY entry DESC LIMIT 1)
"""
"""How far every specimen has got, from the records."""
_TOUCHED = "(SELECT id FROM touched WHERE id <> '')"
_MAKE = (
    f"INSERT INTO progress ({', '.join(_COLUMNS)}) "
    f"SELECT *, CAST(:number AS INTEGER) FROM ({_FOLLOWS} WHERE {{where}}) AS made WHERE true "
    "ON CONFLICT (specimen_id) DO UPDATE SET "
    + ", ".join(f"{name} = excluded.{name}" for name in _COLUMNS[1:])
)
_MAKE_ALL = sa.text(_MAKE.format(where="true"))
_DROP = (
    f"UPDATE progress SET stage = '{DROPPED}', revision = :number WHERE specimen_id IN {{ids}} "
    "AND NOT EXISTS (SELECT 1 FROM specimen WHERE id = specimen_id)"
)
_TALLY = (
    "SELECT lot_id, role, method, stage, count(*) FROM progress WHERE specimen_id IN {ids} "
    f"AND stage <> '{DROPPED}' GROUP BY lot_id, role, method, stage"
)
_COUNTED = sa.text("""
    INSERT INTO tally (lot_id, role, method, stage, count, revision)
    VALUES (:lot_id, :role, :method, :stage, :count, :number)
    ON CONFLICT (lot_id, role, method, stage)
    DO UPDATE SET count = tally.count + excluded.count, revision = excluded.revision
""")
_COUNT_ALL = sa.text(
    "INSERT INTO tally (lot_id, role, method, stage, count, revision) "
    "SELECT lot_id, role, method, stage, count(*), CAST(:number AS INTEGER) FROM progress "
    "GROUP BY lot_id, role, method, stage"
)
_REVISED = sa.text(
    "INSERT INTO revision (name, number) VALUES (:name, :number) "
    "ON CONFLICT (name) DO UPDATE SET number = excluded.number"
)
_WHAT_TOUCHED = sa.text("SELECT tbl, id FROM touched")
FEW = 300
"""So many specimens are named to the server; of more it is told where to look."""
_FORGET = sa.text("DELETE FROM touched")


@dataclass(frozen=True, kw_only=True)
class Touched:
    """What changed up to a revision: specimens by id, and tables of which anything did."""

    revision: int
    specimens: frozenset[str] = frozenset()
    tables: frozenset[str] = field(default=frozenset())

    def __bool__(self) -> bool:
        return bool(self.specimens or self.tables)


def watch_touched(connection: sqlite3.Connection) -> None:
    """Put the triggers on a connection, once."""
    connection.execute(
        "CREATE TEMP TABLE touched (tbl TEXT, id TEXT, PRIMARY KEY (tbl, id)) WITHOUT ROWID"
    )
    for trigger in _triggers():
        connection.execute(trigger)


def _triggers() -> Iterator[str]:
    for table in dict.fromkeys((*WHOSE, *BESIDE)):
        whose = WHOSE.get(table, "''")
        for deed, rows in (("insert", ("new",)), ("update", ("new",)), ("delete", ("old",))):
            notes = "; ".join(
                f"INSERT OR IGNORE INTO touched VALUES "
                f"('{table}', coalesce({whose.format(row=row)}, ''))"
                for row in rows
            )
            yield (
                f"CREATE TEMP TRIGGER touch_{table}_{deed} AFTER {deed.upper()} "
                f"ON main.{table} BEGIN {notes}; END"
            )


def settle(connection: Connection) -> int:
    """Bring progress and revisions up to date with what this transaction touched.

    Returns the new revision; 0 where nothing was touched.
    """
    rows = connection.execute(_WHAT_TOUCHED).all()
    if not rows:
        return 0
    tables = sorted({table for table, _ in rows})
    ids = sorted({specimen_id for _, specimen_id in rows if specimen_id})
    number = newest_revision(connection) + 1
    if ids:
        _settle_specimens(connection, number, ids)
    _revise(connection, number, tables)
    connection.execute(_FORGET)
    return number


def _settle_specimens(connection: Connection, number: int, ids: list[str]) -> None:
    """Bring the progress of the specimens touched, and the counts, up to date."""

    def run(statement: str, **values: object) -> Any:
        # A server that does not know how few were touched would look through all specimens.
        if len(ids) > FEW:
            return connection.execute(sa.text(statement.format(ids=_TOUCHED)), values)
        named = sa.text(statement.format(ids=":ids")).bindparams(
            sa.bindparam("ids", expanding=True)
        )
        return connection.execute(named, {**values, "ids": ids})

    counts = Counter[tuple[str, str, str, str]]()
    for lot_id, role, method, stage, count in run(_TALLY):
        counts[lot_id, role, method, stage] -= count
    made = run(_MAKE.format(where="s.id IN {ids}"), number=number)
    if made.rowcount != len(ids):
        run(_DROP, number=number)
    for lot_id, role, method, stage, count in run(_TALLY):
        counts[lot_id, role, method, stage] += count
    for (lot_id, role, method, stage), change in counts.items():
        if change:
            at = {"lot_id": lot_id, "role": role, "method": method, "stage": stage}
            connection.execute(_COUNTED, {**at, "count": change, "number": number})


def _revise(connection: Connection, number: int, tables: Iterable[str]) -> None:
    connection.execute(_REVISED, [{"name": name, "number": number} for name in ("", *tables)])


def settle_all(connection: Connection) -> None:
    """Make progress anew from the records, under a new revision of everything."""
    number = newest_revision(connection) + 1
    connection.execute(sa.delete(progress))
    connection.execute(_MAKE_ALL, {"number": number})
    connection.execute(sa.delete(tally))
    connection.execute(_COUNT_ALL, {"number": number})
    _revise(connection, number, dict.fromkeys((*WHOSE, *BESIDE)))


def newest_revision(connection: Connection) -> int:
    """The number of the last transaction that changed anything; 0 for none yet."""
    query = sa.select(revision.c.number).where(revision.c.name == "")
    return int(connection.execute(query).scalar() or 0)


def changed_since(connection: Connection, known: int) -> Touched:
    """What changed after a revision, whoever changed it."""
    rows = connection.execute(sa.select(revision).where(revision.c.number > known)).all()
    if not rows:
        return Touched(revision=known)
    query = sa.select(progress.c.specimen_id).where(progress.c.revision > known)
    return Touched(
        revision=max(row.number for row in rows),
        specimens=frozenset(connection.execute(query).scalars()),
        tables=frozenset(row.name for row in rows if row.name),
    )


def lot_revisions(connection: Connection, lot_ids: Iterable[str]) -> dict[str, int]:
    """The last revision that changed a specimen of each of these lots."""
    p = progress.c
    query = (
        sa.select(p.lot_id, sa.func.max(p.revision))
        .where(p.lot_id.in_(list(lot_ids)))
        .group_by(p.lot_id)
    )
    return {lot_id: int(number) for lot_id, number in connection.execute(query)}


def wrong_progress(connection: Connection) -> list[str]:
    """Specimens whose progress does not follow from the records, by id."""
    kept = f"SELECT {', '.join(_COLUMNS[:-1])} FROM progress WHERE stage <> '{DROPPED}'"
    query = sa.text(
        f"SELECT specimen_id FROM ({_FOLLOWS} EXCEPT {kept}) AS missing "
        f"UNION SELECT specimen_id FROM ({kept} EXCEPT {_FOLLOWS}) AS wrong"
    )
    return sorted(connection.execute(query).scalars())


def wrong_tally(connection: Connection) -> list[str]:
    """Lots, by id, whose specimens are not as many as they are said to be."""
    p, t = progress.c, tally.c
    by = (p.lot_id, p.role, p.method, p.stage)
    counted = sa.select(*by, sa.func.count()).where(p.stage != DROPPED).group_by(*by)
    said = sa.select(t.lot_id, t.role, t.method, t.stage, t.count).where(t.count != 0)
    right = {tuple(row) for row in connection.execute(counted)}
    wrong = right ^ {tuple(row) for row in connection.execute(said)}
    return sorted({row[0] for row in wrong})
