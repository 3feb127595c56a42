"""Rows of what was prepared, as records and back."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.json_records import read_record, write_record
from bruiser.core.records.preparation import (
    Preparation,
    PrepStep,
    TyingSheet,
    TyingTrial,
)
from bruiser.store import schema
from bruiser.store.checked_rows import each


def insert_preparation(connection: Connection, done: Preparation) -> None:
    """Store a step, or its withdrawal."""
    values = {**done.__dict__, "step": done.step.value, "withdrawn": int(done.withdrawn)}
    for name, record in (("sheet", done.sheet), ("trial", done.trial)):
        values[name] = None if record is None else write_record(record)
    connection.execute(sa.insert(schema.preparation).values(values))


def load_preparations(connection: Connection) -> dict[str, list[Preparation]]:
    """Every step ever recorded by specimen id, oldest first."""
    found: dict[str, list[Preparation]] = {}
    query = sa.select(schema.preparation).order_by(sa.literal_column("rowid"))
    for done in each(connection, "preparation", query, _preparation):
        found.setdefault(done.specimen_id, []).append(done)
    return found


def _preparation(row: dict[str, Any]) -> Preparation:
    values = {**row, "step": PrepStep(row["step"]), "withdrawn": bool(row["withdrawn"])}
    values["sheet"] = None if row["sheet"] is None else read_record(TyingSheet, row["sheet"])
    values["trial"] = None if row["trial"] is None else read_record(TyingTrial, row["trial"])
    return Preparation(**values)
