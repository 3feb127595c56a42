"""Rows of hanks, the stock ledger and measured cord, as records and back."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.stock import Hank, HankKind, Stock, StockEntry, StockMove
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


def load_stock(connection: Connection) -> Stock:
    """All hanks, and the ledger in the order written."""
    hanks = sa.select(schema.hank).order_by(_WRITTEN)
    lines = sa.select(schema.stock_entry).order_by(_WRITTEN)
    return Stock(
        tuple(
            each(connection, "hank", hanks, lambda r: Hank(**{**r, "kind": HankKind(r["kind"])}))
        ),
        tuple(
            each(
                connection,
                "stock_entry",
                lines,
                lambda r: StockEntry(**{**r, "move": StockMove(r["move"])}),
            )
        ),
    )


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
