"""Photos of what lay on the bench: kept, shown and taken out again."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.formats.photo import take_in
from bruiser.store import readings
from bruiser.store.open_campaign import Connection
from bruiser.store.readings import Photo
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class KeepPhoto(Command):
    """Put a photo into the campaign."""

    photo: Photo
    jpeg: bytes
    title: str = "keep the photo"

    def apply(self, connection: Connection) -> Changes:
        readings.insert_photo(connection, self.photo, self.jpeg)
        return Changes(frozenset({"photo"}), (self.photo.id,))


@dataclass(frozen=True)
class DropPhoto(Command):
    """Take a photo out of the campaign."""

    photo: Photo
    jpeg: bytes
    title: str = "take the photo out"

    def apply(self, connection: Connection) -> Changes:
        readings.delete_photo(connection, self.photo.id)
        return Changes(frozenset({"photo"}), (self.photo.id,))


def keep_photo(workshop: Workshop, pull_id: str, name: str, raw: bytes) -> Photo:
    """Keep a photo of a pulled specimen.

    Raises
    ------
    InputError
        If it is no picture, or too large.
    """
    picture = take_in(raw)
    photo = Photo(
        id=workshop.new_id(),
        pull_id=pull_id,
        made_at=workshop.now(),
        name=name,
        width=picture.width,
        height=picture.height,
    )
    workshop.do(KeepPhoto(photo, picture.jpeg))
    return photo


def drop_photo(workshop: Workshop, photo: Photo) -> None:
    """Take a photo out; an undo brings it back."""
    workshop.do(DropPhoto(photo, read_picture(workshop, photo.id)))


def read_picture(workshop: Workshop, photo_id: str) -> bytes:
    """A photo's JPEG."""
    with workshop.file.reading() as connection:
        return readings.load_picture(connection, photo_id)
