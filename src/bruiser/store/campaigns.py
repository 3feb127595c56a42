"""Rows of campaign, lot, knot and specimen as records, and back."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.errors import Damaged, InputError
from bruiser.core.json_records import read_record, write_record
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.families import GENERAL
from bruiser.core.records.layouts import lay
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail
from bruiser.core.records.tied_state import TiedState
from bruiser.core.words import count
from bruiser.store import schema
from bruiser.store.checked_rows import check_row, each, only


@dataclass(frozen=True, kw_only=True)
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
    trade: str = GENERAL
    offcut_minimum_m: float = 0.5


def insert_campaign(connection: Connection, row: CampaignRow) -> None:
    """Store the campaign's own row; there is exactly one."""
    values = {**row.__dict__, "synthetic": int(row.synthetic)}
    connection.execute(sa.insert(schema.campaign).values(values))


def load_campaign(connection: Connection) -> CampaignRow:
    """The campaign's own row; ``Damaged`` if it is not there or cannot be read."""
    row = connection.execute(sa.select(schema.campaign)).mappings().first()
    if row is None:
        raise Damaged("The file says of no campaign whose it is.", "It was left untouched.")
    try:
        check_row("campaign", row)
    except InputError as error:
        raise Damaged(
            f"The campaign's own row cannot be read, field {error.where}: {error.headline}",
            "What is left of the file can be rescued.",
        ) from error
    return CampaignRow(**{**row, "synthetic": bool(row["synthetic"])})


def update_campaign(connection: Connection, row: CampaignRow) -> None:
    """Store changed settings of the campaign."""
    values = {**row.__dict__, "synthetic": int(row.synthetic)}
    connection.execute(sa.update(schema.campaign).values(values))


def _lot_values(lot: Lot) -> dict[str, object]:
    return {**lot.__dict__, "archived": int(lot.archived)}


def insert_lot(connection: Connection, lot: Lot) -> None:
    """Store a lot."""
    connection.execute(sa.insert(schema.lot).values(_lot_values(lot)))


def update_lot(connection: Connection, lot: Lot) -> None:
    """Store changed facts of a lot."""
    connection.execute(
        sa.update(schema.lot).where(schema.lot.c.id == lot.id).values(_lot_values(lot))
    )


def delete_lot(connection: Connection, lot_id: str) -> None:
    """Remove a lot that nothing depends on; the foreign keys refuse any other."""
    connection.execute(sa.delete(schema.lot).where(schema.lot.c.id == lot_id))


def load_lots(connection: Connection) -> list[Lot]:
    """All lots by name."""
    query = sa.select(schema.lot).order_by(schema.lot.c.name)
    return list(each(connection, "lot", query, _lot))


def _lot(row: dict[str, Any]) -> Lot:
    return Lot(**{**row, "archived": bool(row["archived"])})


def _knot_values(knot: Knot) -> dict[str, object]:
    choices = write_record(dict(sorted(knot.choices)))
    return {**knot.__dict__, "choices": choices, "archived": int(knot.archived)}


def insert_knot(connection: Connection, knot: Knot) -> None:
    """Store a knot variant."""
    connection.execute(sa.insert(schema.knot).values(_knot_values(knot)))


def archive_knot(connection: Connection, knot_id: str, archived: bool) -> None:
    """Store that a knot variant is archived, or no longer; its name stays as it was stored."""
    table = schema.knot
    connection.execute(sa.update(table).where(table.c.id == knot_id).values(archived=int(archived)))


def delete_knot(connection: Connection, knot_id: str) -> None:
    """Remove a knot variant that nothing depends on; the foreign keys refuse any other."""
    connection.execute(sa.delete(schema.knot).where(schema.knot.c.id == knot_id))


def load_knots(connection: Connection) -> list[Knot]:
    """All knot variants by name."""
    order = (schema.knot.c.name, schema.knot.c.variant)
    return list(each(connection, "knot", sa.select(schema.knot).order_by(*order), _knot))


def _knot(row: dict[str, Any]) -> Knot:
    choices = tuple(sorted(read_record(dict[str, str], row["choices"]).items()))
    return Knot(**{**row, "choices": choices, "archived": bool(row["archived"])})


def _named(
    connection: Connection, column: sa.Column[str], *where: sa.ColumnElement[bool]
) -> list[str]:
    return list(connection.execute(sa.select(column).where(*where).order_by(column)).scalars())


def _count(connection: Connection, table: sa.Table, *where: sa.ColumnElement[bool]) -> int:
    query = sa.select(sa.func.count()).select_from(table).where(*where)
    return int(connection.execute(query).scalar_one())


def _say_many(found: list[tuple[int, str]]) -> list[str]:
    return [count(n, noun) for n, noun in found if n]


def lot_dependents(connection: Connection, lot_id: str) -> list[str]:
    """What depends on a lot, in words, with the codes of its specimens."""
    specimens = _named(connection, schema.specimen.c.code, schema.specimen.c.lot_id == lot_id)
    shown = [", ".join(specimens[:6]) + (" …" if len(specimens) > 6 else "")] if specimens else []
    conditions = _named(connection, schema.lot.c.name, schema.lot.c.stock_lot_id == lot_id)
    return [
        *([f"{len(specimens)} specimens ({shown[0]})"] if shown else []),
        *(f"lot {name}" for name in conditions),
        *_say_many(
            [
                (_count(connection, schema.hank, schema.hank.c.lot_id == lot_id), "hank"),
                (_count(connection, schema.claim, schema.claim.c.lot_id == lot_id), "claim"),
                (
                    _count(connection, schema.cord_reading, schema.cord_reading.c.lot_id == lot_id),
                    "cord reading",
                ),
                (
                    _count(
                        connection, schema.criterion, schema.criterion.c.lot_ids.contains(lot_id)
                    ),
                    "criterion version",
                ),
            ]
        ),
    ]


def knot_dependents(connection: Connection, knot_id: str) -> list[str]:
    """What depends on a knot in play, in words, with the codes of its specimens."""
    s, c = schema.specimen.c, schema.claim.c
    specimens = _named(connection, s.code, (s.knot_a_id == knot_id) | (s.knot_b_id == knot_id))
    shown = [", ".join(specimens[:6]) + (" …" if len(specimens) > 6 else "")] if specimens else []
    readings = schema.cord_reading
    return [
        *([f"{len(specimens)} specimens ({shown[0]})"] if shown else []),
        *_say_many(
            [
                (
                    _count(
                        connection,
                        schema.claim,
                        (c.knot_id == knot_id) | (c.other_knot_id == knot_id),
                    ),
                    "claim",
                ),
                (_count(connection, readings, readings.c.knot_id == knot_id), "cord reading"),
                (
                    _count(
                        connection, schema.criterion, schema.criterion.c.knot_ids.contains(knot_id)
                    ),
                    "criterion version",
                ),
            ]
        ),
    ]


def insert_specimen(connection: Connection, specimen: Specimen) -> None:
    """Store a specimen with its tails."""
    insert_specimens(connection, [specimen])


def insert_specimens(connection: Connection, specimens: Sequence[Specimen]) -> None:
    """Store specimens with their tails, all at once."""
    if specimens:
        connection.execute(sa.insert(schema.specimen), [_specimen_values(s) for s in specimens])
    tails = [
        {"specimen_id": s.id, "key": tail.key, "length_m": tail.length_m}
        for s in specimens
        for tail in s.tails
    ]
    if tails:
        connection.execute(sa.insert(schema.tail), tails)


def _specimen_values(specimen: Specimen) -> dict[str, object]:
    return {
        "id": specimen.id,
        "code": specimen.code,
        "role": specimen.role.value,
        "lot_id": specimen.lot.id,
        "layout": specimen.layout_key,
        "queue_position": specimen.queue_position,
        "span_m": specimen.span_m,
        "knot_a_id": None if specimen.knot_a is None else specimen.knot_a.id,
        "knot_b_id": None if specimen.knot_b is None else specimen.knot_b.id,
        "pin_diameter_m": specimen.pin_diameter_m,
        "set_load_n": specimen.set_load_n,
        "seed": specimen.seed,
        "note": specimen.note,
        "method": specimen.method.key,
        "method_values": write_record(dict(sorted(specimen.method.values))),
        "direction": specimen.method.direction,
        "dressing": specimen.dressing,
        "fixture_id": None if specimen.fixture is None else specimen.fixture.id,
        "lot_b_id": None if specimen.lot_b is None else specimen.lot_b.id,
        "pair": specimen.pair,
        "replaces_id": specimen.replaces_id,
        "state": write_record(specimen.state.values),
    }


def delete_specimen(connection: Connection, specimen_id: str) -> None:
    """Remove a specimen that was never pulled; the foreign keys refuse any other."""
    connection.execute(sa.delete(schema.tail).where(schema.tail.c.specimen_id == specimen_id))
    connection.execute(sa.delete(schema.specimen).where(schema.specimen.c.id == specimen_id))


def place_specimens(connection: Connection, positions: dict[str, int]) -> None:
    """Give specimens, by id, new places in the queue."""
    one = sa.update(schema.specimen).where(schema.specimen.c.id == sa.bindparam("key"))
    rows = [{"key": key, "place": place} for key, place in positions.items()]
    if rows:
        connection.execute(one.values(queue_position=sa.bindparam("place")), rows)


def load_specimens(
    connection: Connection,
    lots: dict[str, Lot],
    knots: dict[str, Knot],
    fixtures: dict[str, Fixture],
    of: Collection[str] | None = None,
) -> list[Specimen]:
    """Specimens in queue order, with their lots, knots, fixture (all by id) and tails.

    Parameters
    ----------
    of : collection of str, optional
        Their ids; None for all.
    """
    tails: dict[str, list[Tail]] = {}
    by_key = only(sa.select(schema.tail), schema.tail.c.specimen_id, of).order_by(schema.tail.c.key)
    for owner, tail in each(connection, "tail", by_key, _tail):
        tails.setdefault(owner, []).append(tail)
    query = only(sa.select(schema.specimen), schema.specimen.c.id, of).order_by(
        schema.specimen.c.queue_position, schema.specimen.c.code
    )

    def made(row: dict[str, Any]) -> Specimen:
        return specimen_of(row, lots, knots, fixtures, tails.get(row["id"], []))

    return list(each(connection, "specimen", query, made))


def _tail(row: dict[str, Any]) -> tuple[str, Tail]:
    return row["specimen_id"], Tail(row["key"], row["length_m"])


def load_diameters(connection: Connection, of: Collection[str]) -> dict[str, float]:
    """Diameter in metre of the cord of some specimens, by id."""
    joined = sa.join(schema.specimen, schema.lot, schema.specimen.c.lot_id == schema.lot.c.id)
    query = sa.select(schema.specimen.c.id, schema.lot.c.diameter_m).select_from(joined)
    query = only(query, schema.specimen.c.id, of)
    return {row.id: row.diameter_m for row in connection.execute(query)}


def specimen_of(
    row: dict[str, Any],
    lots: dict[str, Lot],
    knots: dict[str, Knot],
    fixtures: dict[str, Fixture],
    tails: Iterable[Tail],
) -> Specimen:
    """A specimen of its row, with its lots, knots and fixture by id.

    Raises
    ------
    InputError, KeyError, ValueError
        If something in the row is not there, or cannot be.
    """
    lay(row["layout"])
    for column, known in (("knot_a_id", knots), ("knot_b_id", knots), ("lot_b_id", lots)):
        if row[column] and row[column] not in known:
            raise InputError(f"{row[column]} could not be read.", where=column)
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
        method=MethodPlan(
            row["method"],
            tuple(sorted(read_record(dict[str, float], row["method_values"]).items())),
            row["direction"],
        ),
        dressing=row["dressing"],
        fixture=fixtures.get(row["fixture_id"] or ""),
        lot_b=lots.get(row["lot_b_id"] or ""),
        pair=row["pair"],
        replaces_id=row["replaces_id"],
        state=TiedState(**read_record(dict[str, float], row["state"])),
    )
