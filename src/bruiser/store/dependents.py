"""What rests on a row by the foreign keys, in words."""

from __future__ import annotations

from sqlalchemy.engine import Connection

from bruiser.core.words import count
from bruiser.store import schema

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
    for child in (t.name for t in schema.metadata.sorted_tables if t.name not in owned):
        keys = connection.exec_driver_sql(f"PRAGMA main.foreign_key_list({child})").mappings().all()
        for column in (key["from"] for key in keys if key["table"] == table):
            query = f'SELECT count(*) FROM main.{child} WHERE "{column}" = ?'
            number = connection.exec_driver_sql(query, (row_id,)).scalar_one()
            if number:
                noun = _NOUNS.get(child, child.replace("_", " "))
                found.append(count(number, noun, _PLURALS.get(child, "")))
    return list(dict.fromkeys(found))
