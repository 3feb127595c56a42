"""What rests on a row by the foreign keys, in words."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.words import count
from bruiser.store import schema
from bruiser.store.tables import CHUNKS, REFERENCES

_POINTS_AT = {**REFERENCES, CHUNKS: {"pull_id": "pull"}}
_NOUNS = {
    "stock_entry": "line of the stock",
    "cord_reading": "cord reading",
    "tail_draw": "draw",
    "knot_inspection": "inspection",
    "preparation": "step of the preparation",
    "trace_analysis": "reading of the trace",
}
_PLURALS = {
    "stock_entry": "lines of the stock",
    "preparation": "steps of the preparation",
    "trace_analysis": "readings of the trace",
}


def needed_by(connection: Connection, table: str, row_id: str, *owned: str) -> list[str]:
    """How many rows of each other table point at a row, in words; `owned` tables do not count."""
    found = []
    for child in (t for t in schema.metadata.sorted_tables if t.name not in owned):
        for column, parent in _POINTS_AT.get(child.name, {}).items():
            if parent != table:
                continue
            query = sa.select(sa.func.count()).where(child.c[column] == row_id)
            number = connection.execute(query).scalar_one()
            if number:
                noun = _NOUNS.get(child.name, child.name.replace("_", " "))
                found.append(count(number, noun, _PLURALS.get(child.name, "")))
    return list(dict.fromkeys(found))
