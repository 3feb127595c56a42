"""Rows of uses, criteria, claims, design factors and own structures, as records and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.choice.brief import Brief, Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.json_records import read_record, write_record
from bruiser.core.performance.claims import ClaimKind
from bruiser.store import schema
from bruiser.store.checked_rows import each

T = TypeVar("T")
_WRITTEN: sa.ColumnElement[object] = sa.literal_column("rowid")


def replace_uses(connection: Connection, uses: tuple[str, ...]) -> None:
    """Store the uses a campaign serves, in order."""
    connection.execute(sa.delete(schema.campaign_use))
    for position, use in enumerate(uses):
        connection.execute(sa.insert(schema.campaign_use).values(use=use, position=position))


def insert_criterion(connection: Connection, criterion: Criterion) -> None:
    """Store a criterion, or a later version of one."""
    rule = criterion.rule
    connection.execute(
        sa.insert(schema.criterion).values(
            id=criterion.id,
            made_at=criterion.made_at,
            measure=rule.measure.value,
            threshold=rule.threshold,
            need=rule.need,
            of=rule.of,
            at_least=int(rule.at_least),
            lot_ids=write_record(criterion.lot_ids),
            knot_ids=write_record(criterion.knot_ids),
            comment=criterion.comment,
            supersedes=criterion.supersedes,
            withdrawn=int(criterion.withdrawn),
        )
    )


def insert_claim(connection: Connection, claim: Claim) -> None:
    """Store a claim, or its withdrawal."""
    values = {**claim.__dict__, "kind": claim.kind.value, "withdrawn": int(claim.withdrawn)}
    connection.execute(sa.insert(schema.claim).values(values))


def insert_factor(connection: Connection, factor: DesignFactorEntry) -> None:
    """Store a design factor, or that none is in force."""
    values = {**factor.__dict__, "withdrawn": int(factor.withdrawn)}
    connection.execute(sa.insert(schema.design_factor).values(values))


def load_brief(connection: Connection) -> Brief:
    """All that was asked, in the order written."""

    def rows(
        table: sa.Table, order: sa.ColumnElement[object], make: Callable[[dict[str, Any]], T]
    ) -> tuple[T, ...]:
        return tuple(each(connection, table.name, sa.select(table).order_by(order), make))

    by_place: sa.ColumnElement[object] = schema.campaign_use.c.position
    return Brief(
        uses=rows(schema.campaign_use, by_place, lambda row: str(row["use"])),
        criteria=rows(schema.criterion, _WRITTEN, _criterion),
        claims=rows(schema.claim, _WRITTEN, _claim),
        factors=rows(schema.design_factor, _WRITTEN, _factor),
    )


def _claim(row: dict[str, Any]) -> Claim:
    return Claim(**{**row, "kind": ClaimKind(row["kind"]), "withdrawn": bool(row["withdrawn"])})


def _factor(row: dict[str, Any]) -> DesignFactorEntry:
    return DesignFactorEntry(**{**row, "withdrawn": bool(row["withdrawn"])})


def _criterion(row: dict[str, Any]) -> Criterion:
    rule = PassCriterion(
        measure=Measure(row["measure"]),
        threshold=row["threshold"],
        need=row["need"],
        of=row["of"],
        at_least=bool(row["at_least"]),
    )
    return Criterion(
        id=row["id"],
        made_at=row["made_at"],
        rule=rule,
        lot_ids=read_record(tuple[str, ...], row["lot_ids"]),
        knot_ids=read_record(tuple[str, ...], row["knot_ids"]),
        comment=row["comment"],
        supersedes=row["supersedes"],
        withdrawn=bool(row["withdrawn"]),
    )


@dataclass(frozen=True, kw_only=True)
class OwnStructure:
    """A structure of the campaign's own: its text, and the shipped one it was adapted from."""

    key: str
    text: str
    based_on: str
    made_at: str


def put_structure(connection: Connection, own: OwnStructure) -> None:
    """Store a structure of one's own, in place of an earlier one of that key."""
    table = schema.own_structure
    known = sa.update(table).where(table.c.key == own.key).values(own.__dict__)
    if not connection.execute(known).rowcount:
        connection.execute(sa.insert(table).values(own.__dict__))


def drop_structure(connection: Connection, key: str) -> None:
    """Remove a structure of one's own."""
    table = schema.own_structure
    connection.execute(sa.delete(table).where(table.c.key == key))


def load_structures(connection: Connection) -> list[OwnStructure]:
    """All structures of the campaign's own."""
    query = sa.select(schema.own_structure).order_by(_WRITTEN)
    return list(each(connection, "own_structure", query, lambda row: OwnStructure(**row)))
