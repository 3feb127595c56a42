"""What can still be read of a damaged campaign, put into a new file."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection
from sqlalchemy.exc import DBAPIError

from bruiser.core.errors import Damaged, InputError
from bruiser.store.campaign_file import CampaignFile
from bruiser.store.checked_rows import check_row
from bruiser.store.headers import check_schema, looks_like_a_database
from bruiser.store.opening import create_campaign
from bruiser.store.schema import trace_chunk
from bruiser.store.tables import TABLES, broken_references
from bruiser.store.traces import decode_trace

_LARGEST_NUMBER = 2**62
_MOST_LOST = 10_000


@dataclass(kw_only=True)
class Rescued:
    """What was brought over, and what was not: rows by table."""

    kept: dict[str, int] = field(default_factory=dict)
    lost: dict[str, int] = field(default_factory=dict)

    def lose(self, table: str, count: int = 1) -> None:
        """Count rows that could not be brought over."""
        self.lost[table] = self.lost.get(table, 0) + count


def rescue(path: Path, target: Path) -> tuple[CampaignFile, Rescued]:
    """Read a damaged campaign row by row into a new file, which is returned open.

    Raises
    ------
    Damaged
        If it is no database at all, holds foreign views or triggers, or says nothing of a campaign.
    StoreError
        If the new file is there already or cannot be written.
    """
    if not looks_like_a_database(path):
        raise Damaged(f"{path.name} is no database: nothing can be read.", "It was left untouched.")
    uri = f"{path.absolute().as_uri()}?mode=ro"
    with closing(sqlite3.connect(uri, uri=True)) as source:
        source.execute("PRAGMA trusted_schema = OFF")
        source.text_factory = lambda raw: raw.decode("utf-8", errors="replace")
        try:
            check_schema(source, path.name)
        except sqlite3.Error as error:
            raise Damaged(f"{path.name}: its list of tables cannot be read.") from error
        made = create_campaign(target)
        try:
            found = Rescued()
            with made.writing() as connection:
                connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")
                for table in (*TABLES.values(), trace_chunk):
                    _bring(source, connection, table, found)
                drop_orphans(connection, found)
            if not found.kept.get("campaign"):
                raise Damaged(f"{path.name} says of no campaign whose it is.")
        except BaseException:
            made.close()
            target.unlink(missing_ok=True)
            raise
    return made, found


def _bring(source: sqlite3.Connection, target: Connection, table: sa.Table, found: Rescued) -> None:
    names = [column.name for column in table.columns]
    for values in _rows(source, table.name, names, found):
        row: dict[str, Any] = dict(zip(names, values, strict=True))
        try:
            check_row(table.name, row)
            if table is trace_chunk:
                decode_trace(row["data"], row["extra"], row["count"])
            with target.begin_nested():
                target.execute(sa.insert(table), row)
        except (InputError, Damaged, DBAPIError, ValueError, MemoryError):
            found.lose(table.name)
        else:
            found.kept[table.name] = found.kept.get(table.name, 0) + 1


def _rows(
    source: sqlite3.Connection, table: str, names: list[str], found: Rescued
) -> Iterator[tuple[Any, ...]]:
    """Rows by their number; past a place that cannot be read, from the next that can."""
    quoted = ", ".join(f'"{name}"' for name in names)
    query = f'SELECT rowid, {quoted} FROM "{table}" WHERE rowid > ? ORDER BY rowid'
    last, step, lost = -_LARGEST_NUMBER, 1, 0
    while lost < _MOST_LOST:
        try:
            for row in source.execute(query, (last,)):
                last, step = row[0], 1
                yield row[1:]
            return
        except sqlite3.Error:
            if last == -_LARGEST_NUMBER:
                last = 0
            last, step, lost = last + step, min(2 * step, 1024), lost + 1
            found.lose(table)


def drop_orphans(connection: Connection, found: Rescued) -> None:
    """Take out what refers to rows that could not be read, until nothing does."""
    while broken := broken_references(connection):
        for table, number, _ in broken:
            connection.exec_driver_sql(f'DELETE FROM "{table}" WHERE rowid = ?', (number,))
        for table, number in {(t, n) for t, n, _ in broken}:
            del number
            found.lose(table)
            found.kept[table] -= 1
