"""Specimens that wait, in the columns that their order, time and cord are reckoned from."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, NamedTuple

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.records.records import Tail
from bruiser.core.records.stock import StockEntry
from bruiser.store.checked_rows import only
from bruiser.store.lines import KIND
from bruiser.store.progress import progress
from bruiser.store.schema import specimen, stock_entry, tail
from bruiser.store.stock import load_ledger

_P = progress.c
WAITING_KIND = (*KIND, "span_m", "pin_diameter_m", "set_load_n")
"""Columns of a specimen that say what is planned."""
_WAITS = _P.stage == "planned"


class Queued(NamedTuple):
    """A specimen that waits: its place in the queue, its id and its lot."""

    place: int
    code: str
    specimen_id: str
    lot_id: str


class WaitingRow(NamedTuple):
    """A specimen that waits; `kind` as :data:`WAITING_KIND`."""

    kind: tuple[Any, ...]
    specimen_id: str
    code: str
    place: int
    pair: str
    note: str


def queued(connection: Connection, of: Collection[str] | None = None) -> dict[str, Queued]:
    """What waits, by id; of some ids, or of all."""
    query = sa.select(_P.place, _P.code, _P.specimen_id, _P.lot_id).where(_WAITS)
    found = connection.execute(only(query, _P.specimen_id, of))
    return {row[2]: Queued(*row) for row in found}


def waiting_rows(connection: Connection, of: Collection[str] | None = None) -> list[WaitingRow]:
    """Specimens that wait, in no order; of some ids, or of all."""
    s = specimen.c
    columns = (*(s[name] for name in WAITING_KIND), s.id, _P.code, _P.place, s.pair, s.note)
    query = sa.select(*columns).join(progress, _P.specimen_id == s.id).where(_WAITS)
    first = len(WAITING_KIND)
    return [
        WaitingRow(tuple(row[:first]), *row[first:])
        for row in connection.execute(only(query, _P.specimen_id, of))
    ]


def tails_of_waiting(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, tuple[Tail, ...]]:
    """Tails of the specimens that wait, by the specimen's id; of some, or of all."""
    t = tail.c
    query = sa.select(t.specimen_id, t.key, t.length_m).order_by(t.key)
    found: dict[str, tuple[Tail, ...]] = {}
    for owner, key, length_m in connection.execute(query.where(_theirs(t.specimen_id, of))):
        found[owner] = (*found.get(owner, ()), Tail(key, length_m))
    return found


def ledger_of_waiting(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, tuple[StockEntry, ...]]:
    """The ledger of specimens that wait, by their id, in the order written; of some, or of all."""
    lines: dict[str, tuple[StockEntry, ...]] = {}
    for entry in load_ledger(connection, _theirs(stock_entry.c.specimen_id, of)):
        key = entry.specimen_id or ""
        lines[key] = (*lines.get(key, ()), entry)
    return lines


def waiting_ids(of: Collection[str] | None = None) -> sa.Select[Any]:
    """What selects the ids of the specimens that wait; of some, or of all."""
    return only(sa.select(_P.specimen_id).where(_WAITS), _P.specimen_id, of)


def _theirs(column: sa.ColumnElement[Any], of: Collection[str] | None) -> sa.ColumnElement[bool]:
    return column.in_(waiting_ids(of))
