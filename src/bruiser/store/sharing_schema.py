"""Tables of who did what, and of what a bench has in hand, beside :mod:`bruiser.store.schema`."""

from __future__ import annotations

from sqlalchemy import REAL, TEXT, Column, Table

from bruiser.store.schema import metadata

act = Table(
    "act",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
    Column("bench", TEXT, nullable=False),
    Column("deed", TEXT, nullable=False),
)

act_row = Table(
    "act_row",
    metadata,
    Column("act_id", TEXT, primary_key=True),
    Column("row_id", TEXT, primary_key=True),
)

hold = Table(
    "hold",
    metadata,
    Column("specimen_id", TEXT, primary_key=True),
    Column("token", TEXT, nullable=False),
    Column("bench", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
    Column("until", REAL, nullable=False),
)
