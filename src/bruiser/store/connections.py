"""Connections to a campaign file, and the engine over them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.engine import Connection, Engine


def text_or_bytes(raw: bytes) -> str | bytes:
    """A stored text; its bytes where they are none, so that only its row cannot be read."""
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw


def connector(
    path: Path, mode: str, *, immutable: bool = False
) -> Callable[[], sqlite3.Connection]:
    """What opens a connection: ``rwc``, ``rw`` or ``ro``."""
    query = f"mode={mode}" + ("&immutable=1" if immutable else "")

    def connect() -> sqlite3.Connection:
        connection = sqlite3.connect(
            f"{path.absolute().as_uri()}?{query}",
            uri=True,
            isolation_level=None,
            check_same_thread=False,
            timeout=5.0,
        )
        connection.text_factory = text_or_bytes
        connection.execute("PRAGMA trusted_schema = OFF")
        connection.execute("PRAGMA foreign_keys = ON")
        if mode != "ro":
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = FULL")
            # Written back by CampaignFile alone, which marks the file each time.
            connection.execute("PRAGMA wal_autocheckpoint = 0")
        return connection

    return connect


def make_engine(connect: Callable[[], sqlite3.Connection]) -> Engine:
    """An engine whose transactions begin as reading or writing ones."""
    engine = sa.create_engine("sqlite://", creator=connect, poolclass=sa.pool.QueuePool)

    @sa.event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        write = connection.get_execution_options().get("write", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if write else "BEGIN")

    return engine
