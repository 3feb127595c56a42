"""The whole schema of a campaign file of this version, and whether a file has it."""

from __future__ import annotations

import json
import re
import sqlite3
from functools import cache
from pathlib import Path

from bruiser.core.errors import AlteredSchema

EXPECTED = Path(__file__).with_name("expected_schema.json")
_ALL = """
    SELECT type, name, sql FROM sqlite_master
    WHERE sql IS NOT NULL AND name <> 'alembic_version' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'
    ORDER BY type, name LIMIT 2000
"""


def schema_of(connection: sqlite3.Connection) -> dict[str, str]:
    """What makes each table, index and trigger, by kind and name, without odd blanks."""
    found = {}
    for kind, name, sql in connection.execute(_ALL):
        plain = re.sub(r"\s+", " ", str(sql).replace('"', "")).strip()
        found[f"{kind} {name}"] = re.sub(r"\s*([(),])\s*", r"\1", plain)
    return found


@cache
def expected_schema() -> dict[str, str]:
    """What the migrations make of an empty file; a test makes it anew and compares."""
    read: dict[str, str] = json.loads(EXPECTED.read_text(encoding="utf-8"))
    return read


def check_whole_schema(connection: sqlite3.Connection, name: str) -> None:
    """Refuse a file of this version whose tables are not ours to the letter.

    A table under our name with other rules may swallow what is stored, or refuse it.

    Raises
    ------
    AlteredSchema
        Naming the first thing that differs.
    """
    found, ours = schema_of(connection), expected_schema()
    if found == ours:
        return
    differs = sorted(key for key in {*found, *ours} if found.get(key) != ours.get(key))
    what = differs[0].replace(" ", " “", 1)[:120]
    raise AlteredSchema(
        f"{name} has the {what}” other than a campaign has it.",
        "Somebody changed it by other means; it was left untouched. Put what reads into a new "
        "campaign: bruiser-cli check FILE --rescue OUT.",
    )
