"""Rows of the bench book as records, and back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.json_records import read_record, write_record
from bruiser.core.records.bench_book import BenchBook, BenchRecord, Fixture, LoadCheck, RoomDay
from bruiser.store import schema
from bruiser.store.checked_rows import each

T = TypeVar("T")
_WRITTEN: sa.ColumnElement[object] = sa.literal_column("rowid")


def put_bench(connection: Connection, bench: BenchRecord) -> None:
    """Store a bench, in the place of an older record of it."""
    values = {**bench.__dict__, "methods": write_record(bench.methods)}
    known = sa.select(schema.bench.c.id).where(schema.bench.c.id == bench.id)
    if connection.execute(known).first() is None:
        connection.execute(sa.insert(schema.bench).values(values))
    else:
        table = schema.bench
        connection.execute(sa.update(table).where(table.c.id == bench.id).values(values))


def drop_bench(connection: Connection, bench_id: str) -> None:
    """Remove a bench."""
    connection.execute(sa.delete(schema.bench).where(schema.bench.c.id == bench_id))


def insert_fixture(connection: Connection, fixture: Fixture) -> None:
    """Store a fixture."""
    connection.execute(sa.insert(schema.fixture).values(fixture.__dict__))


def drop_fixture(connection: Connection, fixture_id: str) -> None:
    """Remove a fixture."""
    connection.execute(sa.delete(schema.fixture).where(schema.fixture.c.id == fixture_id))


def insert_load_check(connection: Connection, check: LoadCheck) -> None:
    """Store a check with a known load."""
    connection.execute(sa.insert(schema.load_check).values(check.__dict__))


def put_day(connection: Connection, day: RoomDay) -> None:
    """Store a day's room in the place of what was noted."""
    connection.execute(sa.delete(schema.room_day).where(schema.room_day.c.day == day.day))
    connection.execute(sa.insert(schema.room_day).values(day.__dict__))


def load_bench_book(connection: Connection) -> BenchBook:
    """The whole book."""

    def rows(table: sa.Table, make: Callable[[dict[str, Any]], T]) -> tuple[T, ...]:
        return tuple(each(connection, table.name, sa.select(table).order_by(_WRITTEN), make))

    return BenchBook(
        benches=rows(schema.bench, _bench),
        fixtures=rows(schema.fixture, lambda row: Fixture(**row)),
        days=rows(schema.room_day, lambda row: RoomDay(**row)),
        checks=rows(schema.load_check, lambda row: LoadCheck(**row)),
    )


def _bench(row: dict[str, Any]) -> BenchRecord:
    return BenchRecord(**{**row, "methods": read_record(tuple[str, ...], row["methods"])})
