"""A whole campaign from one place to another: a file to a server, and back."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.progress import Progress, no_progress
from bruiser.store.progress import settle_all
from bruiser.store.tables import TABLES, check_references, copy_chunks, later_references, pull_ids

_AT_ONCE = 200


def copy_campaign(source: Connection, target: Connection, progress: Progress = no_progress) -> None:
    """Take all rows and samples of a campaign into an empty one, in the order written.

    Raises
    ------
    Damaged
        If a row refers to what is not there.
    """
    later_references(target)
    for table in TABLES.values():
        _copy_table(source, target, table)
    ids = pull_ids(source)
    for done, pull_id in enumerate(ids):
        progress(done, len(ids))
        copy_chunks(source, target, [pull_id])
    check_references(target)
    settle_all(target)


def _copy_table(source: Connection, target: Connection, table: sa.Table) -> None:
    # Numbers that the place gives by itself are given anew, in the same order.
    columns = [c for c in table.columns if (table.name, c.name) != ("taken_back", "n")]
    query = sa.select(*columns).order_by(sa.literal_column("rowid"))
    for rows in source.execute(query).mappings().partitions(_AT_ONCE):
        target.execute(sa.insert(table), [dict(row) for row in rows])
