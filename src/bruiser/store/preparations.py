"""Rows of what was prepared, as records and back."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.records.preparation import (
    Hands,
    Preparation,
    PrepStep,
    TyingSheet,
    TyingTrial,
    Verdict,
)
from bruiser.store import schema


def insert_preparation(connection: Connection, done: Preparation) -> None:
    """Store a step, or its withdrawal."""
    values = {**done.__dict__, "step": done.step.value, "withdrawn": int(done.withdrawn)}
    for name, record in (("sheet", done.sheet), ("trial", done.trial)):
        values[name] = None if record is None else json.dumps(asdict(record), sort_keys=True)
    connection.execute(sa.insert(schema.preparation).values(values))


def load_preparations(connection: Connection) -> dict[str, list[Preparation]]:
    """Every step ever recorded by specimen id, oldest first."""
    found: dict[str, list[Preparation]] = {}
    query = sa.select(schema.preparation).order_by(sa.literal_column("rowid"))
    for row in connection.execute(query).mappings():
        values = {**row, "step": PrepStep(row["step"]), "withdrawn": bool(row["withdrawn"])}
        values["sheet"] = None if row["sheet"] is None else _sheet(json.loads(row["sheet"]))
        values["trial"] = None if row["trial"] is None else _trial(json.loads(row["trial"]))
        found.setdefault(row["specimen_id"], []).append(Preparation(**values))
    return found


def _sheet(data: dict[str, Any]) -> TyingSheet:
    lists = {name: tuple(data[name]) for name in ("ticked", "not_done")}
    lengths = {name: tuple((k, v) for k, v in data[name]) for name in ("tails", "eyes")}
    return TyingSheet(**{**data, **lists, **lengths})


def _trial(data: dict[str, Any]) -> TyingTrial:
    verdict = None if data["verdict"] is None else Verdict(data["verdict"])
    return TyingTrial(**{**data, "hands": Hands(data["hands"]), "verdict": verdict})
