"""Decides what is proposed to be pulled next, and queues it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from bruiser.core.choice.next_block import NextStage, Why
from bruiser.core.errors import Refused
from bruiser.core.memory import Memory
from bruiser.core.progress import Progress
from bruiser.figures.next_chart import WorthRow
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.course.jam_tests import ladder_for, ladder_words, queue_try
from bruiser.workshop.course.next_pulls import (
    Allowance,
    NextUp,
    can_queue,
    next_up,
    queue_block,
)
from bruiser.workshop.guide.book import GuideBook, read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

TASK = "next"


@dataclass(frozen=True, kw_only=True)
class NextWish:
    """What is asked: a use, a lot, what may be pulled, and who is put aside.

    Parameters
    ----------
    budget : int or None
        Pulls of knots in all; None for none given.
    usual : bool
        Whether the budget is the usual one, eight of each.
    hours : float or None
        Bench hours left.
    aside : frozenset of str
        Knots, by id, that are not in the running by decision.
    """

    use: str = ""
    lot_id: str = ""
    budget: int | None = None
    usual: bool = True
    hours: float | None = None
    aside: frozenset[str] = frozenset()
    seed: int = 1


class NextPresenter(Desk):
    """The next block for a use in a lot, worked out away from the interface."""

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self._tasks = tasks
        self._memory = Memory() if memory is None else memory
        self.book: GuideBook | None = None
        self.wish = NextWish()
        self.up: NextUp | None = None

    def take_up(self, logbook: Logbook) -> None:
        """The logbook changed: ask again."""
        self.logbook = logbook

        def read() -> None:
            self.book = read_guide_book(self.workshop)

        self.attempt(read)
        if self.book is None:
            return
        uses, lots = list(self.uses()), [key for key, _ in self.lots()]
        if self.wish.use not in uses:
            asked = [key for key in logbook.brief.uses if key in uses]
            self.wish = replace(self.wish, use=next(iter((*asked, *uses)), ""))
        if self.wish.lot_id not in lots:
            counts = logbook.tally.lots()
            best = max(lots, key=lambda lot_id: counts[lot_id], default="")
            self.wish = replace(self.wish, lot_id=best)
        self.ask()

    def uses(self) -> dict[str, str]:
        """Uses by key."""
        return {} if self.book is None else {k: p.name for k, p in self.book.profiles.items()}

    def lots(self) -> list[tuple[str, str]]:
        """Lots one could pull in."""
        logbook = self.logbook
        found = () if logbook is None else logbook.lots_in_use
        return [(lot.id, f"{lot.name}, {lot.condition}") for lot in found]

    def pick(self, **changes: object) -> None:
        """Ask for something else."""
        if "use" in changes or "lot_id" in changes:
            changes = {"aside": frozenset(), "usual": True, "budget": None, **changes}
        self.wish = replace(self.wish, **changes)  # type: ignore[arg-type]
        self.ask()

    def read_budget(self, text: str) -> str:
        """Take in how many pulls it may be in all; returns what is wrong."""
        if not text.strip():
            self.pick(budget=None, usual=False)
            return ""
        try:
            number = int(text)
        except ValueError:
            return "A whole number of pulls, please."
        if not 1 <= number <= 999:
            return "From 1 to 999, please."
        self.pick(budget=number, usual=False)
        return ""

    def read_hours(self, text: str) -> str:
        """Take in the bench hours left; returns what is wrong."""
        if not text.strip():
            self.pick(hours=None)
            return ""
        try:
            hours = float(text.replace(",", ".").lower().removesuffix("h").strip())
        except ValueError:
            return "Hours, like 6."
        if not 0.1 <= hours <= 10_000:
            return "From 0.1 hours on, please."
        self.pick(hours=hours)
        return ""

    def ask(self) -> None:
        """Work out the next block."""
        logbook, book, wish = self.logbook, self.book, self.wish
        if logbook is None or book is None or not wish.lot_id or not wish.use:
            self.up = None
            self.changed.emit()
            return
        profile, limits = book.profiles[wish.use], book.limits

        def work(progress: Progress) -> NextUp:
            shelf = fill_shelf(logbook, (wish.lot_id,), self._memory, progress)
            allowed = Allowance(budget=wish.budget, hours=wish.hours, usual=wish.usual)
            return next_up(shelf, wish.lot_id, profile, limits, allowed, wish.seed, wish.aside)

        def received(up: NextUp) -> None:
            self.up = up
            if self.wish == wish and wish.usual:
                self.wish = replace(wish, budget=up.budget)
            self.changed.emit()

        self._tasks.run_watched(TASK, work, received, self.work_failed, lambda *_: None)

    def knots(self) -> list[tuple[str, str]]:
        """Knots that could be in the running."""
        up, logbook = self.up, self.logbook
        if up is None or logbook is None:
            return []
        return [(key, knot.title) for key, knot in up.could_run.items()]

    def rows(self) -> tuple[WorthRow, ...]:
        """The bars, longest first; in the opening the knots with fewest pulls first."""
        up = self.up
        if up is None:
            return ()
        worth = {w.key: w.per_hour for w in up.found.worths}
        most = max(worth.values(), default=0.0)
        picked = [p.key for p in up.found.picks]
        rows = [
            WorthRow(
                name=up.knots[r.key].title,
                share=None if not worth else (worth[r.key] / most if most else 0.0),
                events=r.events,
                picked=picked.count(r.key),
            )
            for r in up.runners
        ]
        return tuple(sorted(rows, key=lambda r: (-(r.share or 0.0), r.events, r.name)))

    @property
    def can_queue(self) -> bool:
        """Whether there is a block to put into the queue."""
        return self.up is not None and can_queue(self.up)

    @property
    def confirms(self) -> bool:
        """Whether the block confirms a winner."""
        up = self.up
        return up is not None and any(p.why is Why.CONFIRM for p in up.found.picks)

    @property
    def refused(self) -> bool:
        """Whether nothing can be proposed."""
        return self.up is None or self.up.found.stage is NextStage.REFUSED

    @property
    def jams(self) -> list[tuple[str, str]]:
        """Knots a jam ladder can be begun for: those in the running, the leader first."""
        up = self.up
        if up is None:
            return []
        first = up.found.leader
        found = sorted(up.knots.items(), key=lambda pair: (pair[0] != first, pair[1].title))
        return [(key, knot.title) for key, knot in found]

    def begin_ladder(self, knot_id: str) -> None:
        """Put the first try of a knot's jam ladder, or the next one, at the head of the queue."""
        up, logbook = self.up, self.logbook
        if up is None or logbook is None or knot_id not in up.knots:
            return
        lot, knot = up.lot, up.knots[knot_id]

        def queue() -> None:
            at = ladder_for(logbook, lot, knot, self._memory)
            if at.waiting:
                raise Refused(f"A try of {knot.title} waits already.", "Pull and untie it first.")
            if at.ladder.next_share is None:
                raise Refused(ladder_words(at))
            queue_try(self.workshop, logbook, at)

        self.attempt(queue)

    def queue(self) -> None:
        """Put the block into the queue; the next one is shuffled anew."""
        up, logbook, wish = self.up, self.logbook, self.wish
        if up is None or logbook is None or not self.can_queue:
            return
        if self.attempt(lambda: queue_block(self.workshop, logbook, up, wish.seed)):
            self.wish = replace(self.wish, seed=wish.seed + 1)
