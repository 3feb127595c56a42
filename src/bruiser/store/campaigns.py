"""Rows of campaign, lot, knot and specimen as records, and back."""

from __future__ import annotations

from dataclasses import dataclass

import sqlalchemy as sa
from sqlalchemy.engine import Connection, RowMapping

from bruiser.core.records import Knot, Lot, Role, Specimen, Tail
from bruiser.store import schema


@dataclass(frozen=True)
class CampaignRow:
    """The campaign itself."""

    id: str
    title: str
    station: str
    question: str
    synthetic: bool
    force_unit: str
    length_unit: str
    created_at: str


def insert_campaign(connection: Connection, row: CampaignRow) -> None:
    """Store the campaign's own row; there is exactly one."""
    values = {**row.__dict__, "synthetic": int(row.synthetic)}
    connection.execute(sa.insert(schema.campaign).values(values))


def load_campaign(connection: Connection) -> CampaignRow:
    """The campaign's own row; ``ValueError`` if it was never stored."""
    row = connection.execute(sa.select(schema.campaign)).mappings().first()
    if row is None:
        raise ValueError("the campaign file has no campaign")
    return CampaignRow(**{**row, "synthetic": bool(row["synthetic"])})


def insert_lot(connection: Connection, lot: Lot) -> None:
    """Store a lot."""
    connection.execute(sa.insert(schema.lot).values(lot.__dict__))


def load_lots(connection: Connection) -> list[Lot]:
    """All lots by name."""
    rows = connection.execute(sa.select(schema.lot).order_by(schema.lot.c.name)).mappings()
    return [Lot(**row) for row in rows]


def insert_knot(connection: Connection, knot: Knot) -> None:
    """Store a knot variant."""
    connection.execute(sa.insert(schema.knot).values(knot.__dict__))


def load_knots(connection: Connection) -> list[Knot]:
    """All knot variants by name."""
    rows = connection.execute(sa.select(schema.knot).order_by(schema.knot.c.name)).mappings()
    return [Knot(**row) for row in rows]


def insert_specimen(connection: Connection, specimen: Specimen) -> None:
    """Store a specimen with its tails."""
    connection.execute(
        sa.insert(schema.specimen).values(
            id=specimen.id,
            code=specimen.code,
            role=specimen.role.value,
            lot_id=specimen.lot.id,
            layout=specimen.layout_key,
            queue_position=specimen.queue_position,
            span_m=specimen.span_m,
            knot_a_id=None if specimen.knot_a is None else specimen.knot_a.id,
            knot_b_id=None if specimen.knot_b is None else specimen.knot_b.id,
            pin_diameter_m=specimen.pin_diameter_m,
            set_load_n=specimen.set_load_n,
            seed=specimen.seed,
            note=specimen.note,
        )
    )
    for tail in specimen.tails:
        connection.execute(
            sa.insert(schema.tail).values(
                specimen_id=specimen.id, key=tail.key, length_m=tail.length_m
            )
        )


def delete_specimen(connection: Connection, specimen_id: str) -> None:
    """Remove a specimen that was never pulled; the foreign keys refuse any other."""
    connection.execute(sa.delete(schema.tail).where(schema.tail.c.specimen_id == specimen_id))
    connection.execute(sa.delete(schema.specimen).where(schema.specimen.c.id == specimen_id))


def load_specimens(connection: Connection) -> list[Specimen]:
    """All specimens in queue order, with their lot, knots and tails."""
    lots = {lot.id: lot for lot in load_lots(connection)}
    knots = {knot.id: knot for knot in load_knots(connection)}
    tails: dict[str, list[Tail]] = {}
    for row in connection.execute(sa.select(schema.tail).order_by(schema.tail.c.key)):
        tails.setdefault(row.specimen_id, []).append(Tail(row.key, row.length_m))
    query = sa.select(schema.specimen).order_by(schema.specimen.c.queue_position)
    rows = connection.execute(query).mappings()
    return [_specimen(row, lots, knots, tails.get(row["id"], [])) for row in rows]


def _specimen(
    row: RowMapping, lots: dict[str, Lot], knots: dict[str, Knot], tails: list[Tail]
) -> Specimen:
    return Specimen(
        id=row["id"],
        code=row["code"],
        role=Role(row["role"]),
        lot=lots[row["lot_id"]],
        layout_key=row["layout"],
        queue_position=row["queue_position"],
        span_m=row["span_m"],
        knot_a=knots.get(row["knot_a_id"] or ""),
        knot_b=knots.get(row["knot_b_id"] or ""),
        tails=tuple(tails),
        pin_diameter_m=row["pin_diameter_m"],
        set_load_n=row["set_load_n"],
        seed=row["seed"],
        note=row["note"],
    )
