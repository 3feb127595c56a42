"""What the first bytes of a file say, before anything opens it."""

from __future__ import annotations

import re
import sqlite3
from contextlib import closing
from pathlib import Path

from bruiser.core.errors import Damaged, StoreError
from bruiser.store.driver_errors import translate
from bruiser.store.schema import APPLICATION_ID

_HEADER = b"SQLite format 3\x00"


def looks_like_a_database(path: Path) -> bool:
    """Whether the file begins like a campaign; a file that cannot be read does not."""
    try:
        with path.open("rb") as file:
            return file.read(len(_HEADER)) == _HEADER
    except OSError:
        return False


def check_header(path: Path) -> None:
    """Refuse what is no campaign, reading 100 bytes and touching nothing.

    Raises
    ------
    StoreError
        If there is no such file.
    Damaged
        If it is no SQLite file, or not one of ours.
    """
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except FileNotFoundError as error:
        raise StoreError(f"There is no file {path.name}.") from error
    except OSError as error:
        raise StoreError(f"{path.name} cannot be read: {error.strerror}.") from error
    if len(head) < 100 or not head.startswith(_HEADER):
        raise Damaged(f"{path.name} is not a campaign file.", "It was left untouched.")
    if int.from_bytes(head[68:72], "big") != APPLICATION_ID:
        raise Damaged(
            f"{path.name} is a database, but not a Bruiser campaign.", "It was left untouched."
        )


_BESIDE_TABLES = """
    SELECT type, name, sql FROM sqlite_master
    WHERE type NOT IN ('table', 'index') OR sql LIKE 'CREATE VIRTUAL%' LIMIT 1000
"""
_GUARD = re.compile(
    r"CREATE TRIGGER \w+ BEFORE (UPDATE|DELETE) ON \w+\s+"
    r"BEGIN SELECT RAISE ?\(ABORT, '[^']*'\); END"
)
"""The triggers of a campaign: each refuses a change, and does nothing else."""


def check_schema(connection: sqlite3.Connection, name: str) -> None:
    """Refuse a file that holds more than tables and the triggers that guard them.

    A view in the place of a table, or another trigger, would be run by who only reads or stores a
    row.

    Raises
    ------
    Damaged
        Naming what was found.
    """
    before = connection.text_factory
    connection.text_factory = lambda raw: raw.decode("utf-8", errors="replace")
    try:
        found = connection.execute(_BESIDE_TABLES).fetchall()
    except UnicodeDecodeError as error:
        # The driver could not even say what it found wrong.
        raise Damaged(f"{name} has a list of tables that cannot be read.") from error
    finally:
        connection.text_factory = before
    for kind, called, sql in found:
        if kind == "trigger" and _GUARD.fullmatch(str(sql)):
            continue
        raise Damaged(
            f"{name} holds a {str(kind)[:40]} “{str(called)[:80]}”, which no campaign has.",
            "Somebody changed it by other means. It was left untouched.",
        )


def check_untouched(path: Path) -> None:
    """The same, looking at a file without touching it or anything beside it.

    Raises
    ------
    Damaged
        As :func:`check_schema`, or if the schema cannot be read.
    """
    try:
        with closing(
            sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)
        ) as connection:
            connection.execute("PRAGMA trusted_schema = OFF")
            check_schema(connection, path.name)
    except sqlite3.Error as error:
        raise translate(error) from error
