"""Decides what the findings station shows, and takes in what was found."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from bruiser.core.errors import BruiserError
from bruiser.core.layouts import End, PlaceKind
from bruiser.core.outcomes import possible_findings
from bruiser.core.records import JAM_WORDS, Gave, JamLevel, PullEnd
from bruiser.core.trace import TRACE_END_WORDS
from bruiser.core.units import UnitChoice
from bruiser.workshop.inspecting import FindingDraft, accept_draft, contradiction
from bruiser.workshop.journal import Entry, Journal, Stage, TraceRecord, read_trace
from bruiser.workshop.workshop import Workshop

_GAVE_WORDS = {
    "broke": "The cord is parted at",
    "came_out": "The tail has come out at",
    "capsized": "The knot has changed form and let go at",
}


class FindingsPresenter(QObject):
    """One pulled specimen after another."""

    specimen_changed = pyqtSignal()
    draft_changed = pyqtSignal()
    accepted = pyqtSignal(str)
    refused = pyqtSignal(dict)
    failed = pyqtSignal(object)

    def __init__(self, workshop: Workshop) -> None:
        super().__init__()
        self._workshop = workshop
        self.entry: Entry | None = None
        self.waiting = 0
        self.draft = FindingDraft()

    @property
    def units(self) -> UnitChoice:
        """The units the campaign shows."""
        return self._workshop.units

    def take_up(self, journal: Journal) -> None:
        """Show the specimen that has waited longest, keeping one that is being filled in."""
        waiting = journal.at(Stage.PULLED)
        self.waiting = len(waiting)
        still = next((e for e in waiting if self.entry and e.pull == self.entry.pull), None)
        if still is not None and self.entry is not None:
            return
        self.entry = journal.next_to_inspect()
        self.draft = FindingDraft()
        self.specimen_changed.emit()

    def tap(self, place: str) -> None:
        """The place where it gave; keeps or proposes the way it did."""
        if self.entry is None:
            return
        possible = possible_findings(self.entry.specimen.layout, place)
        if self.draft.gave not in possible:
            self.draft.gave = possible[0] if len(possible) == 1 else None
        self.draft.place = place
        self.draft_changed.emit()

    def choose(self, gave: Gave) -> None:
        """How it ended."""
        if self.entry is None:
            return
        self.draft.gave = gave
        place = self.draft.place
        if gave in (Gave.STOPPED, Gave.VOID):
            self.draft.place = None
        elif place and gave not in possible_findings(self.entry.specimen.layout, place):
            self.draft.place = self._knot_of(place)
        self.draft_changed.emit()

    def _knot_of(self, place: str) -> str | None:
        """The knot a place belongs to: what came out is the knot, not its nip."""
        layout = self.entry.specimen.layout if self.entry is not None else None
        owner = layout.place(place).owner if layout is not None else None
        if layout is None or owner is None:
            return None
        return next(p.key for p in layout.places if p.owner is owner and p.kind is PlaceKind.KNOT)

    def set_jam(self, end: End, level: JamLevel) -> None:
        """What it took to untie the knot at an end."""
        self.draft.jams[end] = level
        self.draft_changed.emit()

    def accept(self) -> None:
        """Store what was entered, or say which fields are wrong."""
        if self.entry is None or self.entry.pull is None:
            return
        pull_id = self.entry.pull.id
        try:
            errors = accept_draft(self._workshop, self.entry, self.draft)
        except BruiserError as error:
            self.failed.emit(error)
            return
        if errors:
            self.refused.emit(errors)
            return
        self.accepted.emit(pull_id)

    def trace_words(self) -> str:
        """What the trace says by itself."""
        if self.entry is None or self.entry.pull is None:
            return ""
        seen = self.entry.analysis
        if seen is None:
            return "No trace to read. Type the highest load."
        text = f"It {TRACE_END_WORDS[seen.end]}; highest {self.units.force_text(seen.peak_n)}"
        if seen.first_slip_n is not None:
            text += f"; first slip at {self.units.force_text(seen.first_slip_n)}"
        if self.entry.pull.end is PullEnd.INTERRUPTED:
            text += ". The recording was cut off"
        return text + "."

    def contradiction(self) -> str:
        """What the trace says against the finding."""
        return "" if self.entry is None else contradiction(self.entry, self.draft)

    def remains_words(self) -> list[str]:
        """What lies on the simulated bench, as one would see and feel it."""
        if self.entry is None or self.entry.pull is None or not self.entry.pull.remains:
            return []
        remains: dict[str, Any] = dict(self.entry.pull.remains)
        layout = self.entry.specimen.layout
        lines = ["Nothing has given; everything is still tied."]
        if remains["place"] is not None:
            place = layout.place(str(remains["place"]))
            lines = [f"{_GAVE_WORDS[str(remains['gave'])]} {place.label}."]
        for spot in layout.tails:
            drawn = remains["draws_m"].get(spot.key)
            if drawn is not None:
                lines.append(f"{spot.label}: mark moved {self.units.length_text(drawn)}.")
        for knot in remains["knots"]:
            level = JamLevel(knot["jam_level"])
            if level is not JamLevel.NOT_TRIED:
                lines.append(f"knot {knot['end']}: {JAM_WORDS[level]}, {knot['untie_s']:.0f} s.")
        return lines

    def trace(self) -> TraceRecord | None:
        """The recorded samples."""
        if self.entry is None or self.entry.pull is None:
            return None
        return read_trace(self._workshop, self.entry.pull)
