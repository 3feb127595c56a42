"""What a transaction changed, row by row, as the statements that put it back.

Triggers (of the connection itself on a file, which holds none; of the tables on a server, where
they write into a connection's own ``TEMP`` tables) note for every row that is inserted, changed or
deleted the statement that takes it back; running those in reverse gives the state before, down to
the order of the rows, and notes in the same way how to do it again. A row of an append-only table
that is taken back is kept in ``taken_back``, with the time.

On a server the statement for a change sets only the columns that were changed, and only where they
still hold what was put there: what another bench wrote since is never written over.

Source: the automatic undo by triggers described in SQLite's own documentation.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection
from sqlalchemy.exc import IntegrityError

from bruiser.core.errors import Refused
from bruiser.core.json_records import read_record, write_record
from bruiser.store import schema
from bruiser.store.checked_rows import each
from bruiser.store.dependents import needed_by

APPEND_ONLY = (
    "preparation",
    "finding",
    "tail_draw",
    "knot_inspection",
    "exclusion",
    "criterion",
    "claim",
    "design_factor",
    "rating_limits",
    "use_profile",
    "trace_analysis",
    "stock_entry",
    "reading",
)
CHANGEABLE = (
    "campaign",
    "lot",
    "knot",
    "specimen",
    "tail",
    "pull",
    "hank",
    "campaign_use",
    "cord_reading",
    "own_structure",
    "bench",
    "fixture",
    "room_day",
    "photo",
)
_ABOUT = ("pull_id", "specimen_id", "finding_id", "hank_id")


@dataclass(frozen=True, kw_only=True)
class Logged:
    """One row's way back: its table, what was done to it (``insert``, ``update``, ``delete``)."""

    table: str
    deed: str
    rowid: int
    sql: str


def watch(connection: sqlite3.Connection) -> None:
    """Put the triggers on a connection, once; they note nothing until :func:`logging_changes`."""
    connection.execute(
        "CREATE TEMP TABLE undo_log "
        "(n INTEGER PRIMARY KEY, tbl TEXT, deed TEXT, place INTEGER, sql TEXT)"
    )
    connection.execute("CREATE TEMP TABLE undo_on (yes INTEGER)")
    for table in (*APPEND_ONLY, *CHANGEABLE):
        columns = [row[1] for row in connection.execute(f"PRAGMA main.table_info({table})")]
        for trigger in _triggers(table, columns):
            connection.execute(trigger)


def _triggers(table: str, columns: list[str]) -> Iterator[str]:
    values = "||','||".join(f'quote(old."{c}")' for c in columns)
    names = ", ".join(f'"{c}"' for c in columns)
    sets = "||','||".join(f"""'"{c}"='||quote(old."{c}")""" for c in columns)
    back = {
        "insert": ("new", f"'DELETE FROM main.{table} WHERE rowid='||new.rowid"),
        "update": ("old", f"'UPDATE main.{table} SET '||{sets}||' WHERE rowid='||old.rowid"),
        "delete": (
            "old",
            f"'INSERT INTO main.{table} (rowid, {names}) VALUES ('||old.rowid||','||{values}||')'",
        ),
    }
    for deed, (row, sql) in back.items():
        yield (
            f"CREATE TEMP TRIGGER undo_{table}_{deed} AFTER {deed.upper()} ON main.{table} "
            f"WHEN EXISTS (SELECT 1 FROM undo_on) BEGIN INSERT INTO undo_log VALUES "
            f"(NULL, '{table}', '{deed}', {row}.rowid, {sql}); END"
        )


@contextmanager
def logging_changes(connection: Connection) -> Iterator[list[Logged]]:
    """Note what is done inside; the list is filled at its end, last deed first."""
    found: list[Logged] = []
    connection.exec_driver_sql("INSERT INTO undo_on VALUES (1)")
    yield found
    # What fails is rolled back, and with it what was noted.
    rows = connection.exec_driver_sql("SELECT tbl, deed, place, sql FROM undo_log ORDER BY n DESC")
    found.extend(
        Logged(table=table, deed=deed, rowid=place, sql=sql) for table, deed, place, sql in rows
    )
    connection.exec_driver_sql("DELETE FROM undo_on")
    connection.exec_driver_sql("DELETE FROM undo_log")


def put_back(connection: Connection, log: tuple[Logged, ...], now: str) -> None:
    """Run a log: take back what was done, or do again what was taken back.

    Parameters
    ----------
    now : str
        The time, kept beside rows of append-only tables.

    Raises
    ------
    Refused
        If something that was stored since rests on a row, or stands in its place; nothing holds of
        what was run so far once the transaction is rolled back.
    """
    taken: list[dict[str, str]] = []
    for entry in log:
        kept = entry.table in APPEND_ONLY
        if kept and entry.deed == "insert":
            if connection.dialect.name == "postgresql":
                _run(connection, entry, _BY_OWNER, (entry.table, entry.rowid, now))
                continue
            taken.append(_as_taken_back(connection, entry, now))
        _run(connection, entry)
        if kept and entry.deed == "delete":
            _keep_done_again(connection, entry, now)
    if taken:
        connection.execute(sa.insert(schema.taken_back), taken)


_BY_OWNER = "SELECT 1 WHERE bruiser_take_back(%s, %s, %s)"


def _run(
    connection: Connection, entry: Logged, sql: str = "", given: tuple[object, ...] = ()
) -> None:
    """Run a statement; what it ran into can still be asked for afterwards."""
    try:
        with connection.begin_nested():
            how = {"no_parameters": not given}
            done = connection.exec_driver_sql(sql or entry.sql, given or None, how)
    except IntegrityError as error:
        raise Refused(_why_not(connection, entry), "It stands.") from error
    if not done.rowcount:
        what = entry.table.replace("_", " ")
        raise Refused(f"Somebody else changed this {what} since.", "It stands.")


def _row(connection: Connection, entry: Logged) -> dict[str, object]:
    query = sa.text(f"SELECT * FROM {entry.table} WHERE rowid = :rowid")
    row = connection.execute(query, {"rowid": entry.rowid}).mappings().first()
    return {} if row is None else {k: v for k, v in row.items() if k != "rowid"}


def _key(row: dict[str, object]) -> str:
    return str(row.get("id") or f"{row.get('finding_id')} {row.get('key') or row.get('end')}")


def _as_taken_back(connection: Connection, entry: Logged, now: str) -> dict[str, str]:
    row = _row(connection, entry)
    about = next((str(row[name]) for name in _ABOUT if row.get(name)), "")
    return {
        "made_at": now,
        "table_name": entry.table,
        "row_key": _key(row),
        "about": about,
        "body": write_record(row),
    }


def _keep_done_again(connection: Connection, entry: Logged, now: str) -> None:
    t = schema.taken_back
    connection.execute(
        sa.update(t)
        .where(
            t.c.table_name == entry.table,
            t.c.row_key == _key(_row(connection, entry)),
            t.c.again_at.is_(None),
        )
        .values(again_at=now)
    )


def _why_not(connection: Connection, entry: Logged) -> str:
    """What rests on a row, in words."""
    what = entry.table.replace("_", " ")
    key = _row(connection, entry).get("id")
    found = needed_by(connection, entry.table, str(key)) if key else []
    if not found:
        return f"Something stored since stands in the place of this {what}."
    return f"This {what} is needed by what was stored since: {', '.join(found)}."


@dataclass(frozen=True, kw_only=True)
class TakenBack:
    """A row of an append-only table that was taken back: as it stood, when, and when again."""

    made_at: str
    table: str
    about: str
    row: dict[str, object]
    again_at: str | None = None


def load_taken_back(connection: Connection, *about: str) -> list[TakenBack]:
    """Rows that were taken back and belong to any of these pulls or specimens, oldest first."""
    t = schema.taken_back
    query = sa.select(t).where(t.c.about.in_(about)).order_by(t.c.n)
    return list(each(connection, "taken_back", query, _taken_back))


def load_all_taken_back(connection: Connection) -> list[TakenBack]:
    """Every row that was ever taken back, oldest first."""
    query = sa.select(schema.taken_back).order_by(schema.taken_back.c.n)
    return list(each(connection, "taken_back", query, _taken_back))


def _taken_back(row: dict[str, Any]) -> TakenBack:
    return TakenBack(
        made_at=row["made_at"],
        table=row["table_name"],
        about=row["about"],
        row=read_record(dict[str, object], row["body"]),
        again_at=row["again_at"],
    )
