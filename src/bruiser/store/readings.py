"""Rows of a method's readings, of photos and of exclusions, as records and back."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import Connection

from bruiser.core.records.layouts import End
from bruiser.core.records.readings import Reading, Takes
from bruiser.core.records.records import Exclusion, JamLevel
from bruiser.store import schema
from bruiser.store.checked_rows import each, only

_WRITTEN: sa.ColumnElement[object] = sa.literal_column("rowid")


def insert_reading(connection: Connection, reading: Reading) -> None:
    """Store one reading."""
    values = dict(reading.__dict__)
    values["takes"] = reading.takes.value
    values["end"] = None if reading.end is None else reading.end.value
    values["level"] = None if reading.level is None else reading.level.value
    connection.execute(sa.insert(schema.reading).values(values))


def load_readings(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, list[Reading]]:
    """Every reading by pull id, oldest first; of some pulls, or of all."""
    found: dict[str, list[Reading]] = {}
    query = only(sa.select(schema.reading), schema.reading.c.pull_id, of).order_by(_WRITTEN)
    for reading in each(connection, "reading", query, _reading):
        found.setdefault(reading.pull_id, []).append(reading)
    return found


def _reading(row: dict[str, Any]) -> Reading:
    values = {
        **row,
        "takes": Takes(row["takes"]),
        "end": None if row["end"] is None else End(row["end"]),
        "level": None if row["level"] is None else JamLevel(row["level"]),
    }
    return Reading(**values)


@dataclass(frozen=True, kw_only=True)
class Photo:
    """A photo without its picture: what it is called and how large it is, in pixels."""

    id: str
    pull_id: str
    made_at: str
    name: str
    width: int
    height: int


def insert_photo(connection: Connection, photo: Photo, jpeg: bytes) -> None:
    """Store a photo."""
    connection.execute(sa.insert(schema.photo).values({**photo.__dict__, "jpeg": jpeg}))


def delete_photo(connection: Connection, photo_id: str) -> None:
    """Take a photo out of the file."""
    connection.execute(sa.delete(schema.photo).where(schema.photo.c.id == photo_id))


def load_photos(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, list[Photo]]:
    """Every photo by pull id, oldest first, without the pictures; of some pulls, or of all."""
    found: dict[str, list[Photo]] = {}
    columns = [c for c in schema.photo.c if c.name != "jpeg"]
    query = only(sa.select(*columns), schema.photo.c.pull_id, of).order_by(_WRITTEN)
    for photo in each(connection, "photo", query, lambda row: Photo(**row)):
        found.setdefault(photo.pull_id, []).append(photo)
    return found


def load_picture(connection: Connection, photo_id: str) -> bytes:
    """A photo's picture; ``ValueError`` if it is not there."""
    query = sa.select(schema.photo.c.jpeg).where(schema.photo.c.id == photo_id)
    jpeg = connection.execute(query).scalar()
    if jpeg is None:
        raise ValueError(f"no photo {photo_id}")
    return bytes(jpeg)


def insert_exclusion(connection: Connection, entry: Exclusion) -> None:
    """Store that a pull is left out of the results, or taken in again."""
    values = {**entry.__dict__, "excluded": int(entry.excluded)}
    connection.execute(sa.insert(schema.exclusion).values(values))


def load_exclusions(
    connection: Connection, of: Collection[str] | None = None
) -> dict[str, list[Exclusion]]:
    """Every exclusion and its end by pull id, oldest first; of some pulls, or of all."""
    found: dict[str, list[Exclusion]] = {}
    query = only(sa.select(schema.exclusion), schema.exclusion.c.pull_id, of).order_by(_WRITTEN)
    for made in each(connection, "exclusion", query, _exclusion):
        found.setdefault(made.pull_id, []).append(made)
    return found


def _exclusion(row: dict[str, Any]) -> Exclusion:
    return Exclusion(**{**row, "excluded": bool(row["excluded"])})
