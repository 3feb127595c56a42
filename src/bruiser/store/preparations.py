"""Rows of what was prepared, as records and back."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, NamedTuple

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
from bruiser.store.checked_rows import each, only
from bruiser.store.progress import FOUND, progress


def insert_preparation(connection: Connection, done: Preparation) -> None:
    """Store a step, or its withdrawal."""
    values = {**done.__dict__, "step": done.step.value, "withdrawn": int(done.withdrawn)}
    for name, record in (("sheet", done.sheet), ("trial", done.trial)):
        values[name] = None if record is None else write_record(record)
    connection.execute(sa.insert(schema.preparation).values(values))


def load_preparations(
    connection: Connection, of: Collection[str] | sa.Select[Any] | None = None
) -> dict[str, list[Preparation]]:
    """Every step ever recorded by specimen id, oldest first; of some specimens, or of all.

    Parameters
    ----------
    of : collection of str or Select, optional
        Their ids, or what selects them.
    """
    found: dict[str, list[Preparation]] = {}
    table = schema.preparation
    query = only(sa.select(table), table.c.specimen_id, of).order_by(sa.literal_column("rowid"))
    for done in each(connection, "preparation", query, _preparation):
        found.setdefault(done.specimen_id, []).append(done)
    return found


class TrialRow(NamedTuple):
    """A tying trial, with the specimen it was tied on."""

    specimen_id: str
    knot_id: str
    lot_id: str
    pull_id: str | None
    found: bool
    trial: TyingTrial


def trial_rows(connection: Connection) -> list[TrialRow]:
    """Every tying trial that was not taken back, in queue order."""
    prep, p, s = schema.preparation.c, progress.c, schema.specimen.c
    query = (
        sa.select(schema.preparation, p.pull_id, p.stage, s.lot_id, s.knot_a_id)
        .join(progress, p.specimen_id == prep.specimen_id)
        .join(schema.specimen, s.id == prep.specimen_id)
        .where(prep.trial.is_not(None), prep.step == PrepStep.TRIAL.value, prep.withdrawn == 0)
        .where(s.knot_a_id.is_not(None))
        .order_by(p.place, p.code, sa.literal_column("preparation.rowid"))
    )

    def made(row: dict[str, Any]) -> TrialRow:
        return TrialRow(
            specimen_id=row["specimen_id"],
            knot_id=row["knot_a_id"],
            lot_id=row["lot_id"],
            pull_id=row["pull_id"],
            found=row["stage"] in FOUND,
            trial=read_record(TyingTrial, row["trial"]),
        )

    return list(each(connection, "preparation", query, made))


def trials_ever(connection: Connection) -> list[tuple[str, bool]]:
    """The id of every tying trial ever recorded, and whether it was taken back."""
    prep = schema.preparation.c
    query = sa.select(prep.id, prep.withdrawn).where(prep.trial.is_not(None))
    return [(key, bool(withdrawn)) for key, withdrawn in connection.execute(query)]


def _preparation(row: dict[str, Any]) -> Preparation:
    values = {**row, "step": PrepStep(row["step"]), "withdrawn": bool(row["withdrawn"])}
    values["sheet"] = None if row["sheet"] is None else read_record(TyingSheet, row["sheet"])
    values["trial"] = None if row["trial"] is None else read_record(TyingTrial, row["trial"])
    return Preparation(**values)
