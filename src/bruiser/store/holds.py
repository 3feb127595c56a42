"""Claims of benches on specimens: who has which in hand, until when.

A claim lasts for :data:`LASTS_S` seconds by the server's clock and is renewed while its window
lives, so that the specimens of a bench that died are free again. A file is written by one window
only and holds none.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.store.open_campaign import Worker
from bruiser.store.sharing_schema import hold

LASTS_S = 30
RENEW_EVERY_S = 8.0
_NOW: sa.ColumnElement[float] = sa.literal_column("extract(epoch from clock_timestamp())")
RENEW = (
    f"UPDATE hold SET until = extract(epoch from clock_timestamp()) + {LASTS_S} "
    "WHERE token = %(token)s"
)
_TAKE = sa.text(f"""
    INSERT INTO hold (specimen_id, token, bench, by, until)
    VALUES (:specimen_id, :token, :bench, :by, extract(epoch from clock_timestamp()) + {LASTS_S})
    ON CONFLICT (specimen_id) DO UPDATE SET token = excluded.token, bench = excluded.bench,
        by = excluded.by, until = excluded.until
    WHERE hold.token = excluded.token OR hold.until < extract(epoch from clock_timestamp())
    RETURNING token
""")


@dataclass(frozen=True, kw_only=True)
class Hold:
    """A specimen another window has in hand."""

    specimen_id: str
    bench: str
    by: str

    def __str__(self) -> str:
        return " at ".join(filter(None, (self.by, self.bench))) or "another bench"


def take_hold(connection: Connection, specimen_id: str, token: str, worker: Worker) -> bool:
    """Claim a specimen for a window, or keep its claim; False where another has it."""
    at = {"specimen_id": specimen_id, "token": token, "bench": worker.bench, "by": worker.who}
    return connection.execute(_TAKE, at).first() is not None


def release_holds(connection: Connection, token: str, but: Collection[str] = ()) -> None:
    """Give up what a window claimed, but for some specimens."""
    mine = sa.and_(hold.c.token == token, hold.c.specimen_id.not_in(list(but)))
    connection.execute(sa.delete(hold).where(mine))


def held_by_others(connection: Connection, token: str) -> dict[str, Hold]:
    """Specimens that other windows have in hand, by id."""
    h = hold.c
    query = sa.select(h.specimen_id, h.bench, h.by).where(h.token != token, h.until > _NOW)
    return {
        row.specimen_id: Hold(specimen_id=row.specimen_id, bench=row.bench, by=row.by)
        for row in connection.execute(query)
    }
