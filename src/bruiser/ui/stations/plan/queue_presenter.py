"""Decides what the queue shows, and records what was done to its specimens."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta

from bruiser.core.records.preparation import PrepStep
from bruiser.ui.kit.rows_table import MadeRows
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.logbook.entries import Stage, State
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.waiting import Waiting
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan import queueing
from bruiser.workshop.plan.planning import timetable

COLUMNS = ("specimen", "what", "lot", "state", "at the bench", "soak from", "too old after")


_PAST = (
    (Stage.RUNNING, State.PULLED),
    (Stage.PULLED, State.PULLED),
    (Stage.INSPECTED, State.INSPECTED),
    (Stage.VOID, State.VOID),
)


class QueuePresenter(Desk):
    """The specimens that wait, in their order, with when they come to the bench."""

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self._hours = 6.0

    def take_up(self, logbook: Logbook, hours_a_day: float) -> None:
        """Show the queue as it stands."""
        self.logbook = logbook
        self._hours = hours_a_day
        self.changed.emit()

    def _now(self) -> datetime:
        return datetime.fromisoformat(self.workshop.now())

    def rows(self) -> MadeRows[Waiting]:
        """Specimens that wait, as they come to the bench; their texts are :data:`COLUMNS`."""
        logbook = self.logbook
        if logbook is None:
            return MadeRows((), (), lambda _: ())
        begin = self._now()
        slots = timetable(logbook, self._hours, begin.timestamp())

        def texts(waiting: Waiting) -> tuple[str, ...]:
            at = begin + timedelta(seconds=slots[waiting.specimen_id].start_s)
            return self._texts(waiting, at, begin)

        waiting = sorted(logbook.waiting, key=lambda w: slots[w.specimen_id].start_s)
        return MadeRows(waiting, [w.specimen_id for w in waiting], texts)

    def _texts(self, waiting: Waiting, at: datetime, now: datetime) -> tuple[str, ...]:
        kind, window = waiting.kind, waiting.window
        soak, old = self._window(waiting, at)
        pair = f" (pair {waiting.pair})" if waiting.pair else ""
        lots = kind.lot.name if kind.lot_b is None else f"{kind.lot.name} + {kind.lot_b.name}"
        state = waiting.state.value
        if window is not None:
            state = f"{state}, {window.says(now.timestamp())}"
        return waiting.code, kind.title + pair, lots, state, f"{at:%d %b, %H:%M}", soak, old

    def _window(self, waiting: Waiting, at: datetime) -> tuple[str, str]:
        """When its soak begins or began, and when it is too old."""
        lot, window = waiting.kind.lot, waiting.window
        if not lot.soak_s:
            return "", ""
        if window is None:
            soak = at - timedelta(seconds=lot.soak_s)
            old = None if lot.keep_s is None else at + timedelta(seconds=lot.keep_s)
        else:
            soak = datetime.fromtimestamp(window.started_s, at.tzinfo)
            late = window.too_old_s
            old = None if late is None else datetime.fromtimestamp(late, at.tzinfo)
        return f"{soak:%d %b, %H:%M}", "" if old is None else f"{old:%d %b, %H:%M}"

    def counts(self) -> str:
        """How many specimens stand where, in words."""
        logbook = self.logbook
        if logbook is None:
            return ""
        states = Counter(w.state for w in logbook.waiting)
        for stage, state in _PAST:
            states[state] += logbook.tally.count(stage)
        return ", ".join(f"{states[s]} {s.value}" for s in State if states[s])

    def void_words(self) -> str:
        """What was made void and not replaced; empty when there is nothing."""
        found = self.logbook.to_replace() if self.logbook is not None else ()
        codes = ", ".join(e.specimen.code for e in found)
        return f"{codes} void, not replaced." if codes else ""

    def record(self, ids: Sequence[str], step: PrepStep, by: str) -> None:
        """Record a step for the specimens selected."""
        logbook = self.logbook
        if logbook is None or not ids:
            return
        chosen = [e.specimen for e in logbook.with_ids(ids)]
        self.attempt(lambda: queueing.record_step(self.workshop, chosen, step, by))

    def drop(self, ids: Sequence[str]) -> None:
        """Take the specimens selected out of the queue."""
        logbook = self.logbook
        if logbook is not None and ids:
            self.attempt(lambda: queueing.drop_waiting(self.workshop, logbook, ids))

    def shuffle(self, seed: str) -> None:
        """Put what waits into a new order."""
        logbook = self.logbook
        if logbook is not None and seed.strip().isdecimal():
            self.attempt(lambda: queueing.reshuffle(self.workshop, logbook, int(seed)))

    def replace_void(self) -> None:
        """Queue another specimen for every void one."""
        logbook = self.logbook
        if logbook is not None:
            self.attempt(lambda: queueing.replace_void(self.workshop, logbook))
