"""Decides what is shown of a specimen's photos, and reads lengths off them."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import pyqtSignal

from bruiser.core.errors import BruiserError, InputError
from bruiser.core.planning.photo_rule import Point, RuledLength, draw_by_photo, rule_length
from bruiser.core.units import parse_quantity
from bruiser.store.readings import Photo
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.findings.inspecting import FindingDraft
from bruiser.workshop.findings.photos import drop_photo, keep_photo, read_picture
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.workshop import Workshop


class PhotoOwner(Protocol):
    """Whose photos they are, and where a reading goes."""

    entry: Entry | None
    draft: FindingDraft


class PhotosPresenter(Desk):
    """The photos of the specimen that is being inspected, and the photo rule."""

    ruled = pyqtSignal()

    def __init__(self, workshop: Workshop, inspected: PhotoOwner) -> None:
        super().__init__(workshop)
        self._inspected = inspected
        self.points: list[Point] = []
        self.photo: Photo | None = None

    def photos(self) -> tuple[Photo, ...]:
        """The photos kept of the specimen."""
        entry = self._inspected.entry
        return () if entry is None else entry.photos

    def picture(self, photo: Photo) -> bytes:
        """A photo's JPEG."""
        return read_picture(self.workshop, photo.id)

    def keep(self, name: str, raw: bytes) -> None:
        """Keep a picture of the specimen."""
        entry = self._inspected.entry
        if entry is None or entry.pull is None:
            return
        try:
            keep_photo(self.workshop, entry.pull.id, name, raw)
        except BruiserError as error:
            self.failed.emit(error)

    def keep_files(self, paths: list[Path]) -> None:
        """Keep pictures that were dropped or picked."""
        for path in paths:
            try:
                raw = path.read_bytes()
            except OSError as error:
                said = InputError(f"{path.name} cannot be read: {error.strerror}.")
                self.failed.emit(said)
                continue
            self.keep(path.name, raw)

    def drop(self, photo: Photo) -> None:
        """Take a photo out; an undo brings it back."""
        try:
            drop_photo(self.workshop, photo)
        except BruiserError as error:
            self.failed.emit(error)

    def begin_rule(self, photo: Photo) -> None:
        """Point at a photo anew."""
        self.photo, self.points = photo, []
        self.ruled.emit()

    def point_at(self, x: float, y: float) -> None:
        """A point of the photo, in its pixels: two known ones, then two marks."""
        if len(self.points) >= 4:
            self.points = []
        self.points.append((x, y))
        self.ruled.emit()

    def next_words(self) -> str:
        """What to point at next."""
        return (
            "Point at one end of the known distance.",
            "Point at its other end.",
            "Point at the first ink mark.",
            "Point at the second ink mark.",
            "Point anywhere to begin anew.",
        )[len(self.points)]

    def tails(self) -> list[tuple[str, str]]:
        """The tails whose draw can be read."""
        entry = self._inspected.entry
        spots = () if entry is None else entry.specimen.layout.tails
        return [(t.key, t.label) for t in spots]

    def read(self, known: str, before: str) -> tuple[RuledLength | None, dict[str, str]]:
        """The draw by the points and the distances typed, and the fields that are wrong."""
        errors: dict[str, str] = {}
        known_m, before_m = 0.0, 0.0
        try:
            known_m = parse_quantity(known, "length", self.units.length)
        except InputError as error:
            errors["known"] = str(error)
        try:
            before_m = (
                parse_quantity(before, "length", self.units.length) if before.strip() else 0.0
            )
        except InputError as error:
            errors["before"] = str(error)
        if errors or len(self.points) < 4:
            return None, errors
        a, b, c, d = self.points
        try:
            ruled = rule_length((a, b), known_m, (c, d))
        except InputError as error:
            return None, {"known": str(error)}
        return draw_by_photo(ruled, before_m), {}

    def words(self, ruled: RuledLength | None) -> str:
        """A draw with its uncertainty, in words."""
        if ruled is None:
            return ""
        say = self.units.length_text
        drew, wide = say(ruled.length_m), say(2 * ruled.u_m)
        return f"Drew {drew}, give or take {wide} (twice its standard uncertainty)."

    def use(self, tail: str, ruled: RuledLength) -> str:
        """Take a draw as the tail's reading; returns its text."""
        text = self.units.length_text(ruled.length_m)
        self._inspected.draft.draws[tail] = text
        self._inspected.draft.ruled[tail] = (text, ruled.u_m)
        self.ruled.emit()
        return text
