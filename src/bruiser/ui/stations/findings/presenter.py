"""Decides what the findings station shows, and takes in what was found."""

from __future__ import annotations

import time
from copy import deepcopy

from PyQt6.QtCore import pyqtSignal

from bruiser.core.errors import BruiserError, InputError, Refused
from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave, JamLevel, PullEnd
from bruiser.core.trace import TRACE_END_WORDS, Trace
from bruiser.core.units import parse_quantity
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.stations.findings.photos_presenter import PhotosPresenter
from bruiser.ui.stations.findings.remains import remains_words
from bruiser.workshop.bench.handing_out import hand_out_pulled
from bruiser.workshop.findings.history import history_rows
from bruiser.workshop.findings.inspecting import (
    TRACE_AGREES,
    FindingDraft,
    accept_draft,
    cannot_be,
    contradiction,
    draft_of,
    knot_still_tied,
)
from bruiser.workshop.findings.method_summary import method_summary
from bruiser.workshop.findings.settling import settle, unsettled, version_words
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import Workshop

OLDER = "older"
EARLIER = 30
"""So many specimens inspected lately are offered to be looked at again."""


class FindingsPresenter(Desk):
    """One pulled specimen after another."""

    specimen_changed = pyqtSignal()
    draft_changed = pyqtSignal()
    accepted = pyqtSignal(str)
    logbook_wanted = pyqtSignal()
    refused = pyqtSignal(dict)
    place_judged = pyqtSignal(str)
    photos_changed = pyqtSignal()

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.entry: Entry | None = None
        self._waiting: tuple[Entry, ...] = ()
        self.draft = FindingDraft()
        self._untouched = FindingDraft()
        self._looked: set[str] = set()
        self._begun_drafts: dict[str, tuple[FindingDraft, FindingDraft]] = {}
        self.photos = PhotosPresenter(workshop, self)
        self.photos.failed.connect(self.failed)
        self._untying_since: float | None = None
        self._last_by = self._last_how = ""

    def take_up(self, logbook: Logbook) -> None:
        """Show the specimen that has waited longest, keeping one that is being filled in."""
        self.logbook = logbook
        self._waiting = logbook.at(Stage.PULLED)
        still = logbook.by_pull.get(self._pull_id)
        if still is not None and (still in self._waiting or self.correcting or self._begun):
            if still != self.entry:
                self.entry = still
                self.photos_changed.emit()
            return
        self._show(self._next(logbook))

    def _next(self, logbook: Logbook) -> Entry | None:
        """What waits longest; where nothing does, what two benches found differently."""
        return hand_out_pulled(self.workshop, logbook) or next(
            (logbook.by_pull[key] for key in self._to_settle()), None
        )

    @property
    def waiting(self) -> int:
        """How many pulled specimens wait for their findings."""
        return len(self._waiting)

    @property
    def _pull_id(self) -> str:
        """The pull that is shown; empty for none."""
        return "" if self.entry is None or self.entry.pull is None else self.entry.pull.id

    def _show(self, entry: Entry | None) -> None:
        if self._begun and self._pull_id:
            self._begun_drafts[self._pull_id] = (self.draft, self._untouched)
        self.entry = entry
        begun = self._begun_drafts.pop(self._pull_id, None)
        if begun is not None:
            self.draft, self._untouched = begun
        else:
            self._begin_draft(entry)
        self._untying_since = None
        self.specimen_changed.emit()

    def _begin_draft(self, entry: Entry | None) -> None:
        self.draft = FindingDraft() if entry is None else draft_of(entry, self.units)
        if entry is not None:
            self.draft.seen = entry.history[-1].id if entry.history else ""
        if not self.draft.by:
            self.draft.by = self._last_by
        self._untouched = deepcopy(self.draft)

    @property
    def _begun(self) -> bool:
        """Whether anything was entered into the draft that is shown."""
        return self.draft != self._untouched

    @property
    def versions(self) -> list[tuple[str, str]]:
        """Findings that stand against one another, by id and in words; none where all is well."""
        if self.entry is None:
            return []
        entry = self.entry
        return [(f.id, version_words(f, entry, self.units)) for f in unsettled(entry.history)]

    def settle(self, finding_id: str) -> None:
        """Say which of the findings that stand against one another holds."""
        if self.entry is None or self.entry.pull is None:
            return
        pull_id = self.entry.pull.id
        try:
            settle(self.workshop, self.entry, finding_id, self.draft.by)
        except BruiserError as error:
            self.failed.emit(error)
            return
        if self.logbook is not None:
            self._show(self.logbook.by_pull.get(pull_id))

    @property
    def correcting(self) -> bool:
        """Whether an inspected specimen is open, to be corrected."""
        return self.entry is not None and self.entry.finding is not None

    def earlier(self) -> list[tuple[str, str]]:
        """Every specimen that waits, then those inspected lately, the newest first.

        Older ones are opened from the logbook.
        """
        newest = () if self.logbook is None else self.logbook.newest_found(EARLIER)
        others = self.workshop.claims.others
        rows = {}
        for entry in self._waiting:
            if entry.pull is not None and entry.specimen.id not in others:
                rows[entry.pull.id] = f"waits: {entry.specimen.code} · {entry.specimen.title}"
        rows |= self._to_settle()
        for line in newest:
            rows.setdefault(line.pull_id, f"{line.code} · {line.title}")
        if self.entry is not None and self.entry.pull is not None:
            s = self.entry.specimen
            rows.setdefault(self.entry.pull.id, f"{s.code} · {s.title}")
        older = [(OLDER, "older: in the logbook (Ctrl+L)")] if len(newest) == EARLIER else []
        return [("", self._oldest_words), *rows.items(), *older]

    @property
    def _oldest_words(self) -> str:
        return "the one waiting longest" if self._waiting else "nothing waits"

    def _to_settle(self) -> dict[str, str]:
        """Pulls that two benches found differently, to be settled, by id."""
        found = {} if self.logbook is None else self.logbook.by_pull
        return {
            pull_id: f"settle {found[pull_id].specimen.code}"
            for pull_id in (() if self.logbook is None else self.logbook.unsettled)
            if pull_id in found
        }

    def open_earlier(self, pull_id: str) -> None:
        """Open a specimen that waits, or an inspected one to be corrected.

        An empty id goes back to what has waited longest. What was begun on the one shown before
        stays with it.
        """
        logbook = self.logbook
        if logbook is None:
            return
        if pull_id == OLDER:
            self.specimen_changed.emit()
            self.logbook_wanted.emit()
            return
        wanted = logbook.by_pull.get(pull_id) if pull_id else None
        if wanted is not None and wanted.stage is Stage.RUNNING:
            wanted = None
        elif wanted is not None and wanted.finding is None:
            claims, s = self.workshop.claims, wanted.specimen
            if s.id in claims.others or not claims.take(s.id, "inspect"):
                self.failed.emit(Refused(f"{s.code} is being inspected at another bench."))
                wanted = None
        self._show(wanted or self._next(logbook))

    def nothing_drew(self) -> None:
        """Every mark is where it was: the tails that have no reading yet drew nothing."""
        if self.entry is None:
            return
        for spot in self.entry.specimen.layout.tails:
            if not self.draft.draws.get(spot.key, "").strip():
                self.draft.draws[spot.key] = f"0 {self.units.length}"
        self.draft_changed.emit()

    def drag_tail(self, key: str, share: float) -> None:
        """A tail's draw dragged on the strip, as a share of its length."""
        tied = None if self.entry is None else self.entry.specimen.tail_length_m(key)
        if tied is not None:
            self.draft.draws[key] = self.units.length_text(round(share * tied, 3))
            self.draft_changed.emit()

    def drawn_shares(self) -> dict[str, float]:
        """Share of each tail that has drawn in, as typed so far."""
        if self.entry is None:
            return {}
        shares = {}
        for spot in self.entry.specimen.layout.tails:
            tied = self.entry.specimen.tail_length_m(spot.key)
            if tied:
                shares[spot.key] = (self._draw_m(spot.key) or 0.0) / tied
        return shares

    def _draw_m(self, key: str) -> float | None:
        text = self.draft.draws.get(key, "").strip()
        if not text:
            return None
        try:
            return parse_quantity(text, "length", self.units.length)
        except InputError:
            return None

    def tail_notes(self) -> dict[str, str]:
        """What stands under each tail: its length and how far it drew, in mm and in d."""
        if self.entry is None:
            return {}
        s, say = self.entry.specimen, self.units.length_text
        notes = {}
        for spot in s.layout.tails:
            tied, drew = s.tail_length_m(spot.key), self._draw_m(spot.key)
            note = "tail" if tied is None else f"of {say(tied)}"
            if drew is not None:
                note = f"{say(drew)} = {drew / s.lot.diameter_m:.1f} d"
            notes[spot.key] = note
        return notes

    def turn_clock(self, end: End | None = None) -> None:
        """Start the untying clock, or stop it into the knot's seconds."""
        if self._untying_since is None:
            self._untying_since = time.monotonic()
        else:
            self._stop_clock(end or self.next_knot() or End.A)
        self.draft_changed.emit()

    def _stop_clock(self, end: End) -> None:
        if self._untying_since is not None:
            self.draft.untie[end] = f"{time.monotonic() - self._untying_since:.0f} s"
            self._untying_since = None

    @property
    def clock_runs(self) -> bool:
        """Whether an untying attempt is being timed."""
        return self._untying_since is not None

    def next_knot(self) -> End | None:
        """The next knot that is still tied and has no level yet."""
        if self.entry is None:
            return None
        for end in End:
            if end not in self.draft.jams and knot_still_tied(self.entry, self.draft, end):
                return end
        return None

    def same_as_last(self) -> None:
        """How the last one was untied, and by whom; never a reading."""
        self.draft.by, self.draft.untied_how = self._last_by, self._last_how
        self.draft_changed.emit()

    def history(self) -> list[tuple[str, ...]]:
        """All that happened to the specimen: when, who, what, why."""
        if self.entry is None:
            return []
        return history_rows(self.workshop, self.entry)

    def tap(self, place: str) -> None:
        """The place where it gave; how it gave there is only what the person says."""
        if self.entry is None:
            return
        if self.draft.gave in (Gave.STOPPED, Gave.VOID):
            self.draft.gave = None
        self.draft.place = place
        self.draft_changed.emit()
        self._say_what_cannot_be()

    def choose(self, gave: Gave) -> None:
        """How it ended."""
        if self.entry is None:
            return
        self.draft.gave = gave
        if gave in (Gave.STOPPED, Gave.VOID):
            self.draft.place = None
        self.draft_changed.emit()
        self._say_what_cannot_be()

    def _say_what_cannot_be(self) -> None:
        """Say at once that the place and the way it gave do not go together."""
        words = "" if self.entry is None else cannot_be(self.entry, self.draft)
        self.place_judged.emit(words)

    @property
    def must_look(self) -> bool:
        """Whether the load may still be on: the pull was cut off, and nobody said they looked."""
        entry = self.entry
        if entry is None or entry.pull is None or entry.finding is not None:
            return False
        cut_off = entry.pull.end in (PullEnd.INTERRUPTED, PullEnd.LINK_LOST)
        return cut_off and entry.pull.id not in self._looked

    def looked(self) -> None:
        """The person looked at the bench: the load is off."""
        self._looked.add(self._pull_id)
        self.draft_changed.emit()

    @property
    def proposal(self) -> Gave | None:
        """How the trace reads by itself; never taken over without being said."""
        if self.entry is None or self.entry.analysis is None:
            return None
        agrees = TRACE_AGREES[self.entry.analysis.end]
        return agrees[0] if len(agrees) == 1 else None

    def set_jam(self, end: End, level: JamLevel) -> None:
        """What it took to untie the knot at an end."""
        self.draft.jams[end] = level
        if level is not JamLevel.NOT_TRIED:
            self._stop_clock(end)
        self.draft_changed.emit()

    def accept(self) -> None:
        """Store what was entered, or say which fields are wrong."""
        if self.entry is None or self.entry.pull is None or self.workshop.read_only:
            return
        if self.must_look:
            self.refused.emit({"load": "Look at the bench first, and say that the load is off."})
            return
        pull_id = self.entry.pull.id
        # Storing shows the next specimen, so what it repeats must be known before.
        self._last_by, self._last_how = self.draft.by, self.draft.untied_how
        begun, self._untouched = self._untouched, self.draft
        try:
            errors = accept_draft(self.workshop, self.entry, self.draft)
        except BruiserError as error:
            self._untouched = begun
            self.failed.emit(error)
            return
        if errors:
            self._untouched = begun
            self.refused.emit(errors)
            return
        if self.logbook is not None and self.correcting:
            self._show(self._next(self.logbook))
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
        if seen.capsized and seen.capsize_n is not None:
            text += (
                f"; a knot seems to have changed form at {self.units.force_text(seen.capsize_n)}"
            )
        if self.entry.pull.end is PullEnd.INTERRUPTED:
            text += ". The recording was cut off"
        said = method_summary(self.entry.readings, self.entry.specimen, self.units)
        return " ".join([f"{text}.", *said])

    def contradiction(self) -> str:
        """What the trace says against the finding."""
        return "" if self.entry is None else contradiction(self.entry, self.draft)

    def remains_words(self) -> list[str]:
        """What lies on the simulated bench, as one would see and feel it."""
        return [] if self.entry is None else remains_words(self.entry, self.units)

    def trace(self) -> Trace | None:
        """The recorded samples."""
        if self.entry is None or self.entry.pull is None:
            return None
        return read_trace(self.workshop, self.entry.pull)
