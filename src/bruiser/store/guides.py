"""Rows of rating limits, uses and guides. Their bodies are JSON that the store does not read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.json_records import read_record, write_record
from bruiser.store import guide_schema as schema
from bruiser.store.checked_rows import each
from bruiser.store.schema import taken_back

_WRITTEN: sa.ColumnElement[object] = sa.literal_column("rowid")
CHECKED, RELEASED = "checked", "released"


@dataclass(frozen=True, kw_only=True)
class LimitsRow:
    """Rating limits as set at a time; the newest version holds."""

    id: str
    made_at: str
    version: int
    body: str
    comment: str = ""
    by: str = ""


@dataclass(frozen=True, kw_only=True)
class ProfileRow:
    """A use as written at a time; the last one of a key holds, unless it is withdrawn."""

    id: str
    key: str
    made_at: str
    body: str
    withdrawn: bool = False


@dataclass(frozen=True, kw_only=True)
class GuideRow:
    """A revision of the guide, without its document."""

    id: str
    revision: int
    made_at: str
    data_revision: str


@dataclass(frozen=True, kw_only=True)
class StepRow:
    """A guide checked or released; `reasons` are those given for what stands in its way."""

    id: str
    guide_id: str
    made_at: str
    step: str
    by: str
    reasons: dict[str, str]


@dataclass(frozen=True)
class _Numbered:
    """What a row taken back keeps of its number."""

    version: int


@dataclass(frozen=True)
class Revision:
    """One revision of the guide and how far it has got."""

    row: GuideRow
    steps: tuple[StepRow, ...] = ()

    def _step(self, what: str) -> StepRow | None:
        return next((s for s in reversed(self.steps) if s.step == what), None)

    @property
    def checked(self) -> StepRow | None:
        """By whom it was checked."""
        return self._step(CHECKED)

    @property
    def released(self) -> StepRow | None:
        """When it was released."""
        return self._step(RELEASED)

    @property
    def state(self) -> str:
        """``draft``, ``checked`` or ``released``."""
        if self.released is not None:
            return "released"
        return "draft" if self.checked is None else "checked"


def insert_limits(connection: Connection, row: LimitsRow) -> None:
    """Store rating limits."""
    connection.execute(sa.insert(schema.rating_limits).values(row.__dict__))


def insert_profile(connection: Connection, row: ProfileRow) -> None:
    """Store a use, or that one was withdrawn."""
    values = {**row.__dict__, "withdrawn": int(row.withdrawn)}
    connection.execute(sa.insert(schema.use_profile).values(values))


def insert_guide(connection: Connection, row: GuideRow, body: str) -> None:
    """Store a revision with its document."""
    connection.execute(sa.insert(schema.guide).values({**row.__dict__, "body": body}))


def insert_step(
    connection: Connection, row: StepRow, html: bytes | None = None, pdf: bytes | None = None
) -> None:
    """Store that a guide was checked or released, with the documents made of it."""
    values = {**row.__dict__, "reasons": write_record(row.reasons), "html": html, "pdf": pdf}
    connection.execute(sa.insert(schema.guide_step).values(values))


def load_limits(connection: Connection) -> list[LimitsRow]:
    """Every version of the limits, oldest first."""
    query = sa.select(schema.rating_limits).order_by(schema.rating_limits.c.version)
    return list(each(connection, "rating_limits", query, lambda row: LimitsRow(**row)))


def next_limits_version(connection: Connection) -> int:
    """A version number that was never given, not even to limits that were taken back."""
    held = connection.execute(sa.select(sa.func.max(schema.rating_limits.c.version))).scalar() or 0
    gone = taken_back.c
    query = sa.select(gone.body).where(gone.table_name == schema.rating_limits.name)
    bodies = connection.execute(query).scalars()
    return 1 + max((held, *(read_record(_Numbered, body).version for body in bodies)))


def load_profiles(connection: Connection) -> list[ProfileRow]:
    """Every writing of every use, oldest first."""
    query = sa.select(schema.use_profile).order_by(_WRITTEN)
    return list(each(connection, "use_profile", query, _profile))


def _profile(row: dict[str, Any]) -> ProfileRow:
    return ProfileRow(**{**row, "withdrawn": bool(row["withdrawn"])})


def load_guides(connection: Connection) -> list[GuideRow]:
    """Every revision, oldest first, without its document."""
    columns = [c for c in schema.guide.c if c.name != "body"]
    query = sa.select(*columns).order_by(schema.guide.c.revision)
    return list(each(connection, "guide", query, lambda row: GuideRow(**row)))


def load_steps(connection: Connection) -> list[StepRow]:
    """Every step of every guide, oldest first, without documents."""
    columns = [c for c in schema.guide_step.c if c.name not in ("html", "pdf")]
    query = sa.select(*columns).order_by(_WRITTEN)
    return list(each(connection, "guide_step", query, _step))


def _step(row: dict[str, Any]) -> StepRow:
    return StepRow(**{**row, "reasons": read_record(dict[str, str], row["reasons"])})


def newest_guide(connection: Connection) -> Revision | None:
    """The newest revision of the guide; None before there is one."""
    rows = load_guides(connection)
    if not rows:
        return None
    steps = load_steps(connection)
    return Revision(rows[-1], tuple(s for s in steps if s.guide_id == rows[-1].id))


def load_body(connection: Connection, guide_id: str) -> str:
    """The document of a revision; ``ValueError`` if it is not there."""
    query = sa.select(schema.guide.c.body).where(schema.guide.c.id == guide_id)
    body = connection.execute(query).scalar()
    if body is None:
        raise ValueError(f"no guide {guide_id}")
    return str(body)


def load_released(connection: Connection, guide_id: str) -> tuple[bytes, bytes] | None:
    """HTML and PDF of a released revision as they were stored; None where it is not released."""
    step = schema.guide_step
    query = sa.select(step.c.html, step.c.pdf).where(
        step.c.guide_id == guide_id, step.c.step == RELEASED
    )
    row = connection.execute(query).first()
    return None if row is None or row[0] is None else (bytes(row[0]), bytes(row[1]))
