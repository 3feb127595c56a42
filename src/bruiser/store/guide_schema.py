"""Tables of rating limits, uses and guides, beside those of :mod:`bruiser.store.schema`."""

from __future__ import annotations

from sqlalchemy import BLOB, INTEGER, TEXT, Column, Table

from bruiser.store.schema import metadata

rating_limits = Table(
    "rating_limits",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("version", INTEGER, nullable=False),
    Column("body", TEXT, nullable=False),
    Column("comment", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
)

use_profile = Table(
    "use_profile",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("key", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("body", TEXT, nullable=False),
    Column("withdrawn", INTEGER, nullable=False),
)

guide = Table(
    "guide",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("revision", INTEGER, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("data_revision", TEXT, nullable=False),
    Column("body", TEXT, nullable=False),
)

guide_step = Table(
    "guide_step",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("guide_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("step", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
    Column("reasons", TEXT, nullable=False),
    Column("html", BLOB),
    Column("pdf", BLOB),
)
