"""Who did what, when, and from which bench: one row a command, with the ids it was about."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.store.checked_rows import each
from bruiser.store.open_campaign import Worker
from bruiser.store.progress import newest_revision
from bruiser.store.sharing_schema import act, act_row

_SPACE = uuid.UUID("b1a0c1f4-6f0b-4d5a-9a44-6a3f0c0d9e21")


@dataclass(frozen=True, kw_only=True)
class DoneAct:
    """A command as it was done; `by` and `bench` are empty where nobody said."""

    id: str
    made_at: str
    by: str
    bench: str
    deed: str

    @property
    def whence(self) -> str:
        """Who did it, and from where."""
        return " at ".join(filter(None, (self.by, self.bench)))


def note_act(
    connection: Connection, worker: Worker, made_at: str, deed: str, about: Sequence[str]
) -> str:
    """Keep that something was done, in the transaction that does it; returns the act's id.

    The id follows from what was done after which revision: a build that is repeated repeats it.
    """
    words = f"{newest_revision(connection)} {made_at} {deed} {worker.who} {worker.bench}"
    key = str(uuid.uuid5(_SPACE, words))
    connection.execute(
        sa.insert(act).values(id=key, made_at=made_at, by=worker.who, bench=worker.bench, deed=deed)
    )
    rows = [{"act_id": key, "row_id": one} for one in dict.fromkeys(about)]
    if rows:
        connection.execute(sa.insert(act_row), rows)
    return key


def load_acts(connection: Connection, *about: str) -> list[DoneAct]:
    """Acts about any of these rows, oldest first."""
    theirs = sa.select(act_row.c.act_id).where(act_row.c.row_id.in_(about))
    query = sa.select(act).where(act.c.id.in_(theirs)).order_by(act.c.made_at, act.c.id)
    return list(each(connection, "act", query, _act))


def _act(row: dict[str, Any]) -> DoneAct:
    return DoneAct(**row)
