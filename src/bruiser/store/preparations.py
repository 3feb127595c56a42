"""Rows of what was prepared, as records and back."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.preparation import Preparation, PrepStep
from bruiser.store import schema


def insert_preparation(connection: Connection, done: Preparation) -> None:
    """Store a step, or its withdrawal."""
    values = {**done.__dict__, "step": done.step.value, "withdrawn": int(done.withdrawn)}
    connection.execute(sa.insert(schema.preparation).values(values))


def load_preparations(connection: Connection) -> dict[str, list[Preparation]]:
    """Every step ever recorded by specimen id, oldest first."""
    found: dict[str, list[Preparation]] = {}
    query = sa.select(schema.preparation).order_by(sa.literal_column("rowid"))
    for row in connection.execute(query).mappings():
        values = {**row, "step": PrepStep(row["step"]), "withdrawn": bool(row["withdrawn"])}
        found.setdefault(row["specimen_id"], []).append(Preparation(**values))
    return found
