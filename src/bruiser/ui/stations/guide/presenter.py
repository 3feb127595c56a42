"""Decides what the guide station shows of choosing: use, cordage, short list, what is behind it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from PyQt6.QtCore import pyqtSignal

from bruiser.core.choice.guide import AcrossFacts, ListFacts
from bruiser.core.choice.nearest import Cordage, Near
from bruiser.core.choice.rating import SCALES, Gauge, Rating
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.choice.working_load import School
from bruiser.core.errors import InputError
from bruiser.core.memory import Memory
from bruiser.core.progress import Progress
from bruiser.core.records.preparation import Hands
from bruiser.core.units import parse_quantity, parse_share
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.workshop.findings.pull_words import pull_rows
from bruiser.workshop.guide.book import GuideBook, read_guide_book, write_profile
from bruiser.workshop.guide.choosing import (
    Choice,
    Listed,
    Shelf,
    Turned,
    choose,
    fill_shelf,
    lots_tested,
    near_lots,
)
from bruiser.workshop.guide.content import list_facts
from bruiser.workshop.guide.knot_pages import across_facts, expected_lines
from bruiser.workshop.guide.rating_knots import RatedKnot
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

TASK = "guide"
NEW = "new, dry"
OTHER = "other"
MOST_BESIDE = 4
BY_RULE = "rule"


@dataclass(frozen=True)
class Opened:
    """What was pointed at: words about it, and the pulls behind it."""

    heading: str = ""
    words: str = ""
    pulls: tuple[str, ...] = ()


@dataclass(frozen=True)
class Wish:
    """What is asked for: a use with what is changed of it for now, and a cordage."""

    use: str = ""
    lot_id: str = ""
    changes: Mapping[str, object] = field(default_factory=dict)


@dataclass(frozen=True)
class Found:
    """What was worked out for a wish."""

    wish: Wish
    shelf: Shelf
    choice: Choice | None
    predicted: tuple[AcrossFacts, ...] = ()


class GuidePresenter(Desk):
    """The short list for a use in a cordage, and everything one click behind it."""

    opened_changed = pyqtSignal()
    working = pyqtSignal(int, int)

    def __init__(self, workshop: Workshop, tasks: TaskRunner, memory: Memory | None = None) -> None:
        super().__init__(workshop)
        self.tasks = tasks
        self.book: GuideBook = read_guide_book(workshop)
        self.wish = Wish()
        self.school: School | None = None
        self.found: Found | None = None
        self.chosen = ""
        self.beside: tuple[str, ...] = ()
        self.opened = Opened()
        self.other: Cordage | None = None
        self.stopped = False
        self.memory = Memory() if memory is None else memory
        self._shelf: tuple[Logbook, Shelf] | None = None

    @property
    def shelf(self) -> Shelf | None:
        """The pulls, sorted and rated, once they were."""
        return None if self._shelf is None else self._shelf[1]

    @property
    def choice(self) -> Choice | None:
        """The short list as it stands; None while it is worked out, or where nothing can be."""
        return None if self.found is None else self.found.choice

    def take_up(self, logbook: Logbook) -> None:
        """The logbook changed, or limits, uses or revisions did."""
        self.logbook = logbook
        self.book = read_guide_book(self.workshop)
        if self.wish.use not in self.book.profiles:
            asked = [u for u in logbook.brief.uses if u in self.book.profiles]
            first = next(iter(asked or self.book.profiles), "")
            self.wish = Wish(first, self.wish.lot_id)
        if self.wish.lot_id not in (OTHER, *(lot.id for lot in logbook.lots)):
            self.wish = replace(self.wish, lot_id=self._likeliest())
        self.ask()

    def _likeliest(self) -> str:
        """The cordage with the most different knots of the families that serve the use."""
        logbook, profile = self.logbook, self.profile
        if logbook is None or not logbook.lots:
            return ""
        serves = () if profile is None else profile.families
        knots = {k.id for k in logbook.knots if not serves or k.family in serves}
        pulled = {pair for pair in logbook.pulled_pairs() if pair[1] in knots}
        lots = [lot_id for lot_id, _ in pulled]
        return max((lot.id for lot in logbook.lots), key=lots.count)

    def uses(self) -> list[tuple[str, str]]:
        """Uses to choose from: those of the brief first."""
        asked = () if self.logbook is None else self.logbook.brief.uses
        known = self.book.profiles
        order = [*(k for k in asked if k in known), *(k for k in known if k not in asked)]
        return [(key, known[key].name) for key in order]

    def lots(self) -> list[tuple[str, str]]:
        """Cordages to choose from: tested ones first, then the others, then one described."""
        if self.logbook is None:
            return []
        shelf = self.shelf
        tested = {lot.id for lot in lots_tested(shelf)} if shelf is not None else set()
        rows = [
            (lot.id, f"{lot.name}, {lot.condition}" + ("" if lot.id in tested else " (no pulls)"))
            for lot in sorted(self.logbook.lots, key=lambda x: x.id not in tested)
        ]
        return [*rows, (OTHER, "Another cordage …")]

    @property
    def base(self) -> UseProfile | None:
        """The use as it is kept."""
        return self.book.profiles.get(self.wish.use)

    @property
    def profile(self) -> UseProfile | None:
        """The use with what is changed of it for now."""
        base = self.base
        return None if base is None else replace(base, **self.wish.changes)  # type: ignore[arg-type]

    def pick_use(self, key: str) -> None:
        """Choose for another use."""
        self.wish = Wish(key, self.wish.lot_id)
        self._forget()
        self.ask()

    def pick_lot(self, key: str) -> None:
        """Choose in another cordage."""
        self.wish = replace(self.wish, lot_id=key)
        self._forget()
        self.ask()

    def pick_school(self, key: str) -> None:
        """Show working loads by another school."""
        self.school = None if key == BY_RULE else School(key)
        self.changed.emit()

    def change(self, **changes: object) -> None:
        """Ask something else of the knot, for now."""
        self.wish = replace(self.wish, changes={**self.wish.changes, **changes})
        self.ask()

    def change_load(self, text: str) -> str:
        """Open after another load, for now; returns what is wrong with it."""
        try:
            share = parse_share(text, maximum=1.0)
        except InputError as error:
            return str(error)
        if share <= 0:
            return "Above 0 %, please."
        base = self.profile
        if base is not None and abs(share - base.load) > 1e-9:
            self.change(load=share)
        return ""

    def use_gloves(self, on: bool) -> None:
        """Tie with gloves, for now."""
        self.change(hands=Hands.GLOVES if on else Hands.BARE)

    def weigh(self, weights: Mapping[Rating, float]) -> None:
        """Weigh otherwise, for now; all at nothing leaves it as it was."""
        if sum(weights.values()) > 0:
            self.change(weights=dict(weights))

    @property
    def reweighed(self) -> bool:
        """Whether the weights are not those of the use."""
        return "weights" in self.wish.changes

    def put_back(self) -> None:
        """The use as it is kept."""
        self.wish = replace(self.wish, changes={})
        self.ask()

    def keep_profile(self) -> None:
        """Keep the use as it is changed now."""
        profile = self.profile
        if profile is None or not self.wish.changes:
            return
        self.wish = replace(self.wish, changes={})
        self.attempt(lambda: write_profile(self.workshop, profile))

    def describe(self, material: str, construction: str, diameter: str) -> str:
        """Describe a cordage that was not tested; returns what is wrong."""
        try:
            diameter_m = parse_quantity(diameter, "length", self.units.length)
        except InputError as error:
            return str(error)
        if diameter_m <= 0:
            return "A diameter above zero, please."
        self.other = Cordage(
            key=OTHER,
            name="this cordage",
            material=material,
            construction=construction,
            diameter_m=diameter_m,
        )
        self.changed.emit()
        return ""

    def near(self) -> tuple[Near, ...]:
        """The nearest tested cordages, where this one was not tested."""
        if self.choice is not None:
            return self.choice.near
        shelf = self.shelf
        return () if shelf is None or self.other is None else near_lots(shelf, self.other)

    def predicted(self) -> list[str]:
        """What the tested cordages let expect of one that was not, a line a knot."""
        condition = NEW if self.choice is None else self.choice.lot.condition
        return expected_lines(() if self.found is None else self.found.predicted, condition)

    def _forget(self) -> None:
        self.chosen, self.opened, self.beside = "", Opened(), ()

    def ask(self) -> None:
        """Work out the short list, away from the interface."""
        logbook, wish, profile = self.logbook, self.wish, self.profile
        self.stopped = False
        if logbook is None or profile is None:
            self.changed.emit()
            return
        limits, known = self.book.limits, self._shelf

        def work(progress: Progress) -> Found:
            shelf = known[1] if known is not None and known[0] is logbook else None
            there = wish.lot_id if any(lot.id == wish.lot_id for lot in logbook.lots) else ""
            if shelf is None or (there and there not in shelf.results):
                first = there or next((lot.id for lot in logbook.lots), "")
                shelf = fill_shelf(logbook, (first,) if first else (), self.memory, progress)
            choice = choose(shelf, there, profile, limits) if there else None
            if choice is not None and choice.tested:
                return Found(wish, shelf, choice)
            every = fill_shelf(logbook, (), self.memory, progress)
            predicted = across_facts(every, limits.across, lots_tested(every))
            return Found(wish, shelf, choice, predicted)

        def received(found: Found) -> None:
            self.found = found
            self._shelf = (logbook, found.shelf)
            keys = {one.rated.key for one in (found.choice.listed if found.choice else ())}
            self.beside = tuple(k for k in self.beside if k in keys)
            if self.chosen not in keys:
                self.chosen, self.opened = "", Opened()
            self.working.emit(1, 1)
            self.changed.emit()
            self.opened_changed.emit()

        def failed(error: Exception) -> None:
            self._end_waiting()
            self.work_failed(error)

        self.working.emit(0, 1)
        self.tasks.run_watched(TASK, work, received, failed, self.working.emit)

    def _end_waiting(self) -> None:
        """Nothing more comes: what was there before stays shown."""
        self.stopped = True
        self.working.emit(1, 1)
        self.changed.emit()

    def cancel(self) -> None:
        """Stop working; what was there before stays shown."""
        self.tasks.cancel(TASK)
        self._end_waiting()

    def facts(self) -> ListFacts | None:
        """The short list as it is shown and printed."""
        if self.choice is None or self.logbook is None:
            return None
        return list_facts(self.logbook, self.choice, self.school, self.units)

    def listed(self, key: str) -> Listed | None:
        """A knot on the short list."""
        rows = () if self.choice is None else self.choice.listed
        return next((one for one in rows if one.rated.key == key), None)

    def _turned(self) -> tuple[Turned, ...]:
        return () if self.choice is None else (*self.choice.excluded, *self.choice.not_ranked)

    def tap(self, key: str) -> None:
        """Something on the board was pointed at."""
        kind, _, rest = key.partition(":")
        if kind == "row" or kind == "load":
            self.open_row(rest)
        elif kind == "gauge":
            knot, _, rating = rest.rpartition(":")
            self._open_gauge(knot, Rating(rating))
        elif kind == "turned":
            self._open_turned(self._turned()[int(rest)])

    def open_row(self, key: str) -> None:
        """Look at one knot of the short list, and all its pulls."""
        one = self.listed(key)
        if one is not None:
            self.chosen = key
            pulls = one.rated.case.pull_ids
            self._open(Opened(one.rated.name, one.why, pulls))

    def _open_gauge(self, key: str, rating: Rating) -> None:
        one = self.listed(key)
        if one is None:
            return
        self.chosen = key
        gauge = one.rated.gauges[rating]
        heading = f"{one.rated.name}, {SCALES[rating].name.lower()}"
        self._open(Opened(heading, say_gauge(gauge), gauge.found.pull_ids))

    def _open_turned(self, turned: Turned) -> None:
        pulls = tuple(p for r in turned.reasons for p in r.pull_ids)
        if not pulls and turned.rated is not None:
            pulls = turned.rated.case.pull_ids
        self._open(Opened(turned.name, turned.words, tuple(dict.fromkeys(pulls))))

    def _open(self, opened: Opened) -> None:
        self.opened = opened
        self.opened_changed.emit()
        self.changed.emit()

    def pulls(self) -> list[tuple[str, tuple[str, ...]]]:
        """The pulls behind what was pointed at."""
        if self.logbook is None:
            return []
        return pull_rows(self.logbook, self.opened.pulls, self.units)

    def put_beside(self, key: str) -> None:
        """Put a knot beside the others, or take it away; four at most."""
        if key in self.beside:
            self.beside = tuple(k for k in self.beside if k != key)
        elif key and len(self.beside) < MOST_BESIDE:
            self.beside = (*self.beside, key)
        self.changed.emit()

    def rated_beside(self) -> tuple[RatedKnot, ...]:
        """The knots put beside one another; the first of the list where none were."""
        rows = () if self.choice is None else self.choice.listed
        picked = [one for one in rows if one.rated.key in self.beside] or rows[:MOST_BESIDE]
        return tuple(one.rated for one in picked)


def say_gauge(gauge: Gauge) -> str:
    """One rating with what it rests on."""
    found = gauge.measured
    if found is None:
        return f"Not measured: {gauge.why}."
    scale, i = SCALES[gauge.rating], found.interval
    text = f"“{gauge.band}”: {scale.say(i.value)}, {scale.say_range(i.low, i.high)} with 95 %. "
    if gauge.could_be:
        text += f"The pulls leave open “{gauge.could_be}”. "
    text += f"{found.basis[0].upper()}{found.basis[1:]}."
    return text + (f" {found.caveat[0].upper()}{found.caveat[1:]}." if found.caveat else "")
