"""The tables of a campaign as plain rows: what is copied, merged and taken along as open files.

Blobs (samples, photos, documents of a guide) are not in the rows; they go one by one.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import Damaged, InputError
from bruiser.store import guide_schema, schema, sharing_schema

Row = dict[str, Any]
Tables = dict[str, list[Row]]

CHUNKS = schema.trace_chunk.name
TABLES: dict[str, sa.Table] = {
    table.name: table
    for table in (
        schema.campaign,
        schema.lot,
        schema.own_structure,
        schema.knot,
        schema.bench,
        schema.fixture,
        schema.room_day,
        schema.load_check,
        schema.hank,
        schema.campaign_use,
        schema.criterion,
        schema.claim,
        schema.design_factor,
        schema.cord_reading,
        schema.specimen,
        schema.tail,
        schema.preparation,
        schema.stock_entry,
        schema.pull,
        schema.trace_analysis,
        schema.reading,
        schema.photo,
        schema.exclusion,
        schema.finding,
        schema.tail_draw,
        schema.knot_inspection,
        guide_schema.rating_limits,
        guide_schema.use_profile,
        guide_schema.guide,
        guide_schema.guide_step,
        schema.taken_back,
        sharing_schema.act,
        sharing_schema.act_row,
    )
}
"""Every table but that of the samples, each after those that it refers to."""

REFERENCES: dict[str, dict[str, str]] = {
    "lot": {"stock_lot_id": "lot"},
    "hank": {"lot_id": "lot"},
    "claim": {"knot_id": "knot", "other_knot_id": "knot", "lot_id": "lot", "supersedes": "claim"},
    "criterion": {"supersedes": "criterion"},
    "cord_reading": {"knot_id": "knot", "lot_id": "lot"},
    "specimen": {
        "lot_id": "lot",
        "lot_b_id": "lot",
        "knot_a_id": "knot",
        "knot_b_id": "knot",
        "fixture_id": "fixture",
        "replaces_id": "specimen",
    },
    "tail": {"specimen_id": "specimen"},
    "preparation": {"specimen_id": "specimen"},
    "stock_entry": {"hank_id": "hank", "specimen_id": "specimen"},
    "pull": {"specimen_id": "specimen"},
    "trace_analysis": {"pull_id": "pull"},
    "reading": {"pull_id": "pull"},
    "photo": {"pull_id": "pull"},
    "exclusion": {"pull_id": "pull"},
    "finding": {"pull_id": "pull", "supersedes": "finding"},
    "tail_draw": {"finding_id": "finding"},
    "knot_inspection": {"finding_id": "finding"},
    "guide_step": {"guide_id": "guide"},
    "act_row": {"act_id": "act"},
}
"""Which column points at which table; a test holds it against the foreign keys of the file."""

_AT_ONCE = 500


@dataclass(frozen=True, kw_only=True)
class BlobPlace:
    """A column of a table that holds bytes."""

    table: str
    column: str


BLOBS = tuple(
    BlobPlace(table=name, column=column.name)
    for name, table in TABLES.items()
    for column in table.columns
    if isinstance(column.type, sa.BLOB)
)


def key_of(table: str, row: Mapping[str, Any]) -> tuple[Any, ...]:
    """What a row of a table is known by."""
    return tuple(row[column.name] for column in TABLES[table].primary_key.columns)


def plain_columns(table: str) -> list[sa.Column[Any]]:
    """The columns of a table that hold no bytes."""
    return [c for c in TABLES[table].columns if not isinstance(c.type, sa.BLOB)]


def read_table(connection: Connection, table: str) -> list[Row]:
    """All rows of a table in the order written, without bytes."""
    query = sa.select(*plain_columns(table)).order_by(sa.literal_column("rowid"))
    return [dict(row) for row in connection.execute(query).mappings()]


def read_tables(connection: Connection) -> Tables:
    """All rows of all tables, without bytes."""
    return {name: read_table(connection, name) for name in TABLES}


def read_blob(connection: Connection, place: BlobPlace, key: str) -> bytes | None:
    """The bytes of a row, by its id; None where there are none."""
    table = TABLES[place.table]
    query = sa.select(table.c[place.column]).where(table.c.id == key)
    found = connection.execute(query).scalar()
    return None if found is None else bytes(found)


def write_rows(connection: Connection, table: str, rows: Sequence[Row]) -> None:
    """Add rows at the end of a table.

    Raises
    ------
    StoreError
        If the file does not take one: one of that key is there, or what it refers to is not.
    """
    if not rows:
        return
    names = [c.name for c in TABLES[table].columns if c.name in rows[0]]
    for start in range(0, len(rows), _AT_ONCE):
        part = [{name: row[name] for name in names} for row in rows[start : start + _AT_ONCE]]
        connection.execute(sa.insert(TABLES[table]), part)


def empty_table(connection: Connection, table: str) -> None:
    """Take all rows out of a table."""
    connection.execute(sa.delete(TABLES[table]))


def replace_rows(connection: Connection, table: str, rows: Sequence[Row]) -> None:
    """Put rows in the place of all rows of a table that has no bytes."""
    empty_table(connection, table)
    write_rows(connection, table, rows)


def later_references(connection: Connection) -> None:
    """Let foreign keys be checked at the end of the transaction."""
    if connection.dialect.name == "postgresql":
        connection.exec_driver_sql("SET CONSTRAINTS ALL DEFERRED")
    else:
        connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")


def check_references(connection: Connection) -> None:
    """Refuse rows that refer to what is not there.

    Raises
    ------
    Damaged
        Naming the first table and what it lacks.
    """
    for table, _, parent in broken_references(connection):
        raise Damaged(
            f"A row of {table} refers to a row of {parent} that is not there.",
            "Nothing was stored.",
        )


def broken_references(connection: Connection) -> list[tuple[str, int, str]]:
    """Table and number of every row whose parent is not there, and the parent's table.

    A server never lets one be stored.
    """
    if connection.dialect.name == "postgresql":
        return []
    found = connection.exec_driver_sql("PRAGMA foreign_key_check")
    return [(row[0], row[1], row[2]) for row in found]


def ids_of(connection: Connection, table: str) -> list[str]:
    """The ids of a table's rows."""
    column = TABLES[table].c.id
    return list(connection.execute(sa.select(column).order_by(column)).scalars())


def is_empty(connection: Connection) -> bool:
    """Whether nothing was entered yet but the campaign's own row and the uses it serves."""
    kept = (schema.campaign.name, schema.campaign_use.name)
    return all(
        connection.execute(sa.select(sa.literal(1)).select_from(table).limit(1)).first() is None
        for name, table in TABLES.items()
        if name not in kept
    )


def pull_ids(connection: Connection) -> list[str]:
    """The ids of the pulls that have samples."""
    column = schema.trace_chunk.c.pull_id
    return list(connection.execute(sa.select(column).distinct().order_by(column)).scalars())


def copy_chunks(source: Connection, target: Connection, pulls: Iterable[str]) -> None:
    """Take the samples of pulls from one campaign to another, as they are packed."""
    table = schema.trace_chunk
    for pull_id in pulls:
        query = sa.select(table).where(table.c.pull_id == pull_id).order_by(table.c.first_seq)
        rows = [dict(row) for row in source.execute(query).mappings()]
        if rows:
            target.execute(sa.insert(table), rows)


def sample_count(connection: Connection, pull_id: str) -> int:
    """How many samples of a pull are stored."""
    table = schema.trace_chunk
    query = sa.select(sa.func.coalesce(sa.func.sum(table.c.count), 0)).where(
        table.c.pull_id == pull_id
    )
    return int(connection.execute(query).scalar_one())


def drop_chunks(connection: Connection, pull_id: str) -> None:
    """Take a pull's samples out, to be put anew."""
    table = schema.trace_chunk
    connection.execute(sa.delete(table).where(table.c.pull_id == pull_id))


def kind_of(column: sa.Column[Any]) -> str:
    """The kind of a column: ``integer``, ``number`` or ``string``."""
    if isinstance(column.type, sa.INTEGER):
        return "integer"
    return "number" if isinstance(column.type, sa.REAL) else "string"


def checked_rows(table: str, rows: Iterable[Mapping[str, Any]]) -> Iterator[Row]:
    """Rows with every column of a table and no other.

    Raises
    ------
    InputError
        Naming what is missing.
    """
    names = [c.name for c in plain_columns(table)]
    for number, row in enumerate(rows, 1):
        missing = [name for name in names if name not in row]
        if missing:
            raise InputError(f"{table}, row {number}: {missing[0]} is missing.", where=table)
        yield {name: row[name] for name in names}


def delete_row(connection: Connection, table: str, row: str) -> int:
    """Take out a row as a check names it, with all that it owns; returns how many went."""
    if table == CHUNKS:
        gone = connection.execute(
            sa.delete(schema.trace_chunk).where(schema.trace_chunk.c.pull_id == row)
        )
        return int(gone.rowcount)
    target = TABLES[table]
    later_references(connection)
    if row.startswith("number "):
        place: sa.ColumnElement[bool] = sa.literal_column("rowid") == int(row[7:])
    else:
        keys = [c for c in target.primary_key.columns]
        parts = row.split(" ", len(keys) - 1)
        place = sa.and_(*(column == part for column, part in zip(keys, parts, strict=True)))
    return int(connection.execute(sa.delete(target).where(place)).rowcount)
