"""Decides what is shown of a specimen before its pull, and takes in how it was tied."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence

from PyQt6.QtCore import pyqtSignal

from bruiser.catalogue.drawings import split_key, variant_drawn
from bruiser.catalogue.trainer import can_be_asked
from bruiser.core.errors import BruiserError
from bruiser.core.records.preparation import Hands, PrepStep, TyingVerdict
from bruiser.core.records.records import Specimen
from bruiser.store.waiting import Queued
from bruiser.ui.kit.rows_table import MadeRows
from bruiser.ui.kit.tie_desk import TieDesk
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.desk.preparing import (
    KnotSheet,
    TyingDraft,
    check_list,
    clock_words,
    keep_checked,
    keep_tied,
    keep_trial,
    knot_sheets,
    not_done,
    start_soak,
)
from bruiser.workshop.logbook.entries import Entry, seconds_of
from bruiser.workshop.logbook.lines import CANNOT_BE_READ
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.paged_list import PagedList
from bruiser.workshop.logbook.workshop import Workshop

HANDS = {h.value: h.value for h in Hands}
VERDICTS = {"": "not asked", **{v.value: v.value for v in TyingVerdict}}


class PreparePresenter(Desk):
    """The queue, and the tying sheet of the specimen picked in it."""

    wanted = pyqtSignal(str)

    def __init__(self, workshop: Workshop, tasks: TaskRunner | None = None) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self.entry: Entry | None = None
        self.draft = TyingDraft()
        self._began: float | None = None
        self._last: dict[str, str] = {}
        self._rows: MadeRows[Entry | None] = MadeRows((), (), lambda _: ())
        self._queued: tuple[Queued, ...] = ()

    def take_up_entry(self, logbook: Logbook, entry: Entry | None) -> None:
        """The logbook changed, or another specimen is on the bench."""
        other = entry is None or self.entry is None
        if entry is not None and self.entry is not None:
            other = entry.specimen.id != self.entry.specimen.id
        self.logbook, self.entry = logbook, entry
        if other:
            self.draft = TyingDraft()
            self._began = None
            self._show_stored()
        self.changed.emit()

    def _show_stored(self) -> None:
        sheet = None if self.entry is None else self.entry.sheet
        if sheet is None:
            return
        say = self.units.length_text
        self.draft.ticked, self.draft.marked = set(sheet.ticked), sheet.marked
        self.draft.texts = {k: say(v) for k, v in (*sheet.tails, *sheet.eyes)}
        if sheet.cord_m is not None:
            self.draft.texts["cord"] = say(sheet.cord_m)

    def rows(self) -> MadeRows[Entry | None]:
        """The queue: code and how far it is, and what it is; read by the page as it is seen."""
        queued = () if self.logbook is None else self.logbook.queued
        if queued is not self._queued:
            ids = tuple(q.specimen_id for q in queued)
            entries = PagedList(ids, self._read_page, lambda _: None)
            self._rows, self._queued = MadeRows(entries, ids, self._texts), queued
        return self._rows

    def _read_page(self, ids: Sequence[str]) -> dict[str, Entry | None]:
        found = () if self.logbook is None else self.logbook.with_ids(ids)
        return {entry.specimen.id: entry for entry in found}

    def _texts(self, entry: Entry | None) -> tuple[str, ...]:
        if entry is None or self.logbook is None:
            return CANNOT_BE_READ, ""
        state = str(self.logbook.state(entry))
        if entry.window is not None:
            state = entry.window.says(seconds_of(self.workshop.now()))
        return f"{entry.specimen.code}\n{state}", entry.specimen.title

    def specimen_of(self, specimen_id: str) -> Specimen | None:
        """A specimen of the queue."""
        keys = self._rows.keys
        entry = self._rows.items[keys.index(specimen_id)] if specimen_id in keys else None
        return None if entry is None else entry.specimen

    def pick(self, specimen_id: str) -> None:
        """Bring a specimen of the queue here, before its turn."""
        if self.entry is None or specimen_id != self.entry.specimen.id:
            self.wanted.emit(specimen_id)

    def sheets(self) -> list[KnotSheet]:
        """How each knot of the specimen is tied."""
        if self.logbook is None or self.entry is None:
            return []
        return knot_sheets(self.logbook, self.entry.specimen, self.units)

    def points(self) -> tuple[str, ...]:
        """The check list of this variant."""
        if self.logbook is None or self.entry is None:
            return ()
        return check_list(self.logbook, self.entry.specimen)

    def lengths(self) -> list[tuple[str, str, str]]:
        """Tails and eyes to measure as tied: key, label, planned length."""
        if self.entry is None:
            return []
        s, say = self.entry.specimen, self.units.length_text
        tails = [(t.key, t.label, s.tail_length_m(t.key)) for t in s.layout.tails]
        found = [(k, label, "" if m is None else say(m)) for k, label, m in tails]
        return [*found, *((x.key, x.label, "") for x in s.layout.lengths if not x.moves)]

    def state_words(self) -> str:
        """What was done, by whom, and what was not."""
        if self.entry is None:
            return ""
        steps = self.entry.steps
        said = [
            f"{words} by {steps[step].by}"
            for step, words in ((PrepStep.TIED, "Tied"), (PrepStep.CHECKED, "checked"))
            if step in steps
        ]
        missing = not_done(self.entry)
        left = f"Recorded as not done: {'; '.join(missing[:3])}" if missing else ""
        more = f" and {len(missing) - 3} more" if len(missing) > 3 else ""
        parts = [f"{', '.join(said)}." if said else "", f"{left}{more}." if left else ""]
        return " ".join(p for p in parts if p)

    def clock(self) -> str:
        """The conditioning clock."""
        return (
            "" if self.entry is None else clock_words(self.entry, seconds_of(self.workshop.now()))
        )

    @property
    def may_soak(self) -> bool:
        """Whether a soak may begin."""
        return self.entry is not None and bool(self.entry.specimen.lot.soak_s)

    def keep_tied(self, texts: Mapping[str, str], by: str) -> dict[str, str]:
        """Write down how it was tied; returns the fields that are wrong."""
        if self.logbook is None or self.entry is None:
            return {}
        self.draft.texts = dict(texts)
        try:
            errors = keep_tied(self.workshop, self.logbook, self.entry, self.draft, by)
        except BruiserError as error:
            self.failed.emit(error)
            return {}
        if not errors:
            self._last = {"by": by}
        return errors

    def keep_checked(self, by: str) -> bool:
        """Write down a second person's check."""
        entry = self.entry
        if entry is None:
            return False
        done = self.attempt(lambda: keep_checked(self.workshop, entry, by))
        if done:
            self._last["checked"] = by
        return done

    def _tie_key(self) -> str:
        """The drawing of what is to be tied here; empty where there is none to be checked."""
        knot = None if self.entry is None else self.entry.specimen.knot_a
        found = None if knot is None else variant_drawn(knot.structure, dict(knot.choices))
        return found.drawn.key if found is not None and can_be_asked(found.drawn.key) else ""

    @property
    def can_lay_out(self) -> bool:
        """Whether the tie of this specimen can be laid out and checked."""
        return bool(self._tie_key())

    def tie(self) -> TieDesk | None:
        """The tie of this specimen to be laid out."""
        key = self._tie_key()
        if not key or self.logbook is None:
            return None
        catalogue = self.logbook.catalogue
        desk = TieDesk(lambda k: catalogue[split_key(k)[0]].name, self._tasks)
        desk.show(key)
        return desk

    def keep_tie(self, by: str, desk: TieDesk) -> str:
        """Write down a check with what lay there; returns what is wrong, or nothing."""
        entry = self.entry
        if entry is None:
            return ""
        try:
            keep_checked(self.workshop, entry, by, tie=(desk.word(), desk.verdict()[0]))
        except BruiserError as error:
            return f"{error.headline} {error.remedy}".strip()
        self._last["checked"] = by
        return ""

    def soak(self, by: str) -> None:
        """The conditioning clock starts."""
        entry = self.entry
        if entry is not None:
            self.attempt(lambda: start_soak(self.workshop, entry, by))

    def turn_clock(self) -> str:
        """Start or stop the tying clock; returns the seconds when it was stopped."""
        began, self._began = self._began, None
        if began is None:
            self._began = time.monotonic()
        self.changed.emit()
        return "" if began is None else f"{time.monotonic() - began:.1f} s"

    @property
    def clock_runs(self) -> bool:
        """Whether the tying clock runs."""
        return self._began is not None

    def keep_trial(self, texts: Mapping[str, str], by: str) -> dict[str, str]:
        """Write down a tying trial; returns the fields that are wrong."""
        entry = self.entry
        if entry is None:
            return {}
        try:
            errors = keep_trial(self.workshop, entry, texts, by)
        except BruiserError as error:
            self.failed.emit(error)
            return {}
        if not errors:
            self._last["hands"] = texts.get("hands", "")
        return errors

    def trial_words(self) -> str:
        """The trials of this specimen so far."""
        if self.entry is None:
            return ""
        kept = [p.trial for p in self.entry.prepared if p.trial is not None and not p.withdrawn]
        return "  ".join(
            ", ".join(
                ([f"{t.seconds:.0f} s, {t.attempts} attempts, {t.hands}"] if t.attempts else [])
                + ([f"{t.inspector}: {t.verdict}"] if t.verdict else [])
            )
            for t in kept
        )

    def same_as_last(self) -> dict[str, str]:
        """Who tied and checked, and with which hands, the last time; never a reading."""
        return dict(self._last)

    def named(self) -> list[tuple[str, str]]:
        """What an inspector may take a knot for; the specimen's own is not marked."""
        knots = self.logbook.knots_in_play if self.logbook is not None else ()
        names = sorted({(k.structure, k.name) for k in knots}, key=lambda pair: pair[1])
        return [("", "not named"), *names]
