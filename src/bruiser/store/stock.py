"""Rows of hanks, the stock ledger and measured cord, as records and back."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.stock import (
    Hank,
    HankKind,
    HankSum,
    Stock,
    StockEntry,
    StockMove,
    stock_of,
)
from bruiser.store import schema
from bruiser.store.checked_rows import each

_WRITTEN: sa.ColumnElement[object] = sa.literal_column("rowid")


def insert_hank(connection: Connection, hank: Hank) -> None:
    """Store a hank."""
    values = {**hank.__dict__, "kind": hank.kind.value}
    connection.execute(sa.insert(schema.hank).values(values))


def delete_hank(connection: Connection, hank_id: str) -> None:
    """Remove a hank that nothing was cut from, with its first line."""
    table = schema.stock_entry
    connection.execute(sa.delete(table).where(table.c.hank_id == hank_id))
    connection.execute(sa.delete(schema.hank).where(schema.hank.c.id == hank_id))


def insert_entry(connection: Connection, entry: StockEntry) -> None:
    """Write a line into the ledger."""
    values = {**entry.__dict__, "move": entry.move.value}
    connection.execute(sa.insert(schema.stock_entry).values(values))


def load_hanks(connection: Connection) -> tuple[Hank, ...]:
    """All hanks, in the order written."""
    query = sa.select(schema.hank).order_by(_WRITTEN)
    return tuple(
        each(connection, "hank", query, lambda r: Hank(**{**r, "kind": HankKind(r["kind"])}))
    )


def load_stock(connection: Connection) -> Stock:
    """All hanks with what is left.

    The ledger is summed where it is kept; a line that cannot be read is found by a check.
    """
    table = schema.stock_entry
    written: sa.ColumnElement[int] = sa.literal_column("min(rowid)")
    query = sa.select(table.c.hank_id, sa.func.sum(table.c.change_m), written).group_by(
        table.c.hank_id
    )
    totals = connection.execute(query).all()
    begun = sa.select(sa.literal_column("rowid"), table.c.change_m).where(
        sa.literal_column("rowid").in_([row[2] for row in totals])
    )
    first = {row[0]: row[1] for row in connection.execute(begun)}
    sums = {
        hank_id: HankSum(received_m=first[row], left_m=total)
        for hank_id, total, row in totals
        if math.isfinite(total)
    }
    return Stock(hanks=load_hanks(connection), sums=sums)


def load_ledger(
    connection: Connection, where: sa.ColumnElement[bool] | None = None
) -> list[StockEntry]:
    """Lines of the ledger in the order written; all where nothing is asked."""
    query = sa.select(schema.stock_entry)
    if where is not None:
        query = query.where(where)
    return list(each(connection, "stock_entry", query.order_by(_WRITTEN), _line))


def _line(row: dict[str, Any]) -> StockEntry:
    return StockEntry(**{**row, "move": StockMove(row["move"])})


def ledger_of(connection: Connection, hank_ids: Collection[str]) -> list[StockEntry]:
    """The ledger of some hanks, in the order written."""
    return load_ledger(connection, schema.stock_entry.c.hank_id.in_(list(hank_ids)))


def stock_at(connection: Connection, hank_id: str, specimen_id: str | None) -> Stock:
    """The stock as far as a cut is concerned: one hank, and what one specimen was cut from."""
    table = schema.stock_entry
    about = table.c.hank_id == hank_id
    if specimen_id is not None:
        about = sa.or_(about, table.c.specimen_id == specimen_id)
    return stock_of(load_hanks(connection), load_ledger(connection, about))


def insert_cord_reading(connection: Connection, reading: CordReading) -> None:
    """Store cord measured in a tied knot."""
    connection.execute(sa.insert(schema.cord_reading).values(reading.__dict__))


def delete_cord_reading(connection: Connection, reading_id: str) -> None:
    """Take back cord that was entered by mistake."""
    table = schema.cord_reading
    connection.execute(sa.delete(table).where(table.c.id == reading_id))


def load_cord_readings(connection: Connection) -> list[CordReading]:
    """All measured cord, in the order written."""
    query = sa.select(schema.cord_reading).order_by(_WRITTEN)
    return list(each(connection, "cord_reading", query, lambda row: CordReading(**row)))
