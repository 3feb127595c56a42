"""The logbook of the open campaign: every question goes to the file, what was read is kept.

A :class:`LogbookReader` belongs to the open campaign. Each look at it gives a :class:`LiveLogbook`
of the newest revision; specimens that nothing has touched since the last look are not read again.
"""

from __future__ import annotations

import threading
from collections import Counter, OrderedDict
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import Protocol, TypeVar

from bruiser.core.json_records import read_record
from bruiser.core.planning.bench_time import WorkStep
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Specimen
from bruiser.core.records.stock import StockEntry
from bruiser.core.records.tied_state import TiedState
from bruiser.store import preparations, questions, stock
from bruiser.store import waiting as queue
from bruiser.store.lines import LineQuery, found_rows, line_ids, newest_found
from bruiser.store.open_campaign import Connection
from bruiser.store.preparations import TrialRow
from bruiser.store.progress import Touched, changed_since, newest_revision
from bruiser.store.pulls import load_unsettled
from bruiser.store.questions import EVERYTHING, EntryQuery
from bruiser.workshop.logbook.books import Books, load_books
from bruiser.workshop.logbook.entries import Entry, Stage, load_entries
from bruiser.workshop.logbook.followed import WITHIN, Followed
from bruiser.workshop.logbook.lines import (
    SpecimenLine,
    in_order,
    line_of,
    line_of_waiting,
    read_lines,
)
from bruiser.workshop.logbook.logbook import (
    LATEST,
    Logbook,
    SpecimenKind,
    are_alike,
    data_lines_of,
    times_of,
)
from bruiser.workshop.logbook.tally import Tally
from bruiser.workshop.logbook.waiting import Waiting, read_waiting

T = TypeVar("T")
AT_ONCE = 400
"""So many specimens are read by one query."""
ROOM = 2_000
"""So many specimens stay read; each takes some 20 kB."""
_BOOKS = frozenset(
    {
        "campaign", "lot", "knot", "own_structure", "bench", "fixture", "room_day", "load_check",
        "campaign_use", "criterion", "claim", "design_factor",
        "cord_reading", "guide", "guide_step",
    }
)  # fmt: skip
_STOCK = frozenset({"hank", "stock_entry"})


class LogbookReader:
    """Reads a campaign as it is asked about, and keeps what it read.

    Parameters
    ----------
    reading : callable
        Opens a connection that sees one state of the campaign.
    trade : callable
        Whose knot names come first.
    """

    def __init__(
        self,
        reading: Callable[[], AbstractContextManager[Connection]],
        trade: Callable[[], str],
    ) -> None:
        self.reading = reading
        self._trade = trade
        self._lock = threading.RLock()
        self._kept: OrderedDict[str, Entry] = OrderedDict()
        self._books: Books | None = None
        self._lines = Followed(_lines_by_id, self._lock)
        self._waiting = Followed(read_waiting, self._lock)
        self._queued = Followed(lambda c, _, of: queue.queued(c, of), self._lock)
        self._unsettled = Followed(lambda c, _, of: load_unsettled(c, of), self._lock)
        self._in_order: tuple[dict[str, queue.Queued], tuple[queue.Queued, ...]] = ({}, ())
        self._tally = Tally()
        self._counted = 0
        self._revision = 0
        self.touched = Touched(revision=0)

    def look(self) -> LiveLogbook:
        """The logbook as it stands now; `touched` then says what changed since the last look."""
        with self._lock, self.reading() as connection:
            if self._books is None:
                self.touched = Touched(revision=newest_revision(connection))
            else:
                self.touched = changed_since(connection, self._revision)
            self._revision = self.touched.revision
            tables = self.touched.tables
            self._books = books = self._books_now(connection, self._books)
            if tables & WITHIN:
                self._kept.clear()
            for specimen_id in self.touched.specimens:
                self._kept.pop(specimen_id, None)
            for followed in (self._lines, self._waiting, self._queued, self._unsettled):
                followed.touch(self.touched)
        named = {f.name: getattr(books, f.name) for f in fields(books)}
        return LiveLogbook(**named, reader=self, revision=self._revision)

    @property
    def is_behind(self) -> bool:
        """Whether something was stored since the last look, from wherever."""
        with self.reading() as connection:
            return newest_revision(connection) > self._revision

    def _books_now(self, connection: Connection, known: Books | None) -> Books:
        """The books; what nothing touched is not read again."""
        touched = self.touched
        if known is None or touched.tables & _BOOKS:
            return load_books(connection, self._trade())
        if touched.tables & _STOCK:
            return replace(known, stock=stock.load_stock(connection))
        return known

    def entries(
        self, connection: Connection, books: LiveLogbook, ids: Iterable[str]
    ) -> list[Entry]:
        """Specimens by their ids, in the order of the ids; what is kept is not read.

        What somebody reads who still looks at an older revision is not kept.
        """
        wanted = list(ids)
        with self._lock:
            found = {i: self._kept[i] for i in wanted if i in self._kept}
        missing = [i for i in wanted if i not in found]
        for start in range(0, len(missing), AT_ONCE):
            part = missing[start : start + AT_ONCE]
            found |= {e.specimen.id: e for e in load_entries(connection, books, part)}
        with self._lock:
            if books.revision == self._revision:
                for specimen_id in missing:
                    if specimen_id in found:
                        self._kept[specimen_id] = found[specimen_id]
                for specimen_id in wanted[-ROOM:]:
                    if specimen_id in self._kept:
                        self._kept.move_to_end(specimen_id)
                while len(self._kept) > ROOM:
                    self._kept.popitem(last=False)
        return [found[i] for i in wanted if i in found]

    def tally(self) -> Tally:
        """Specimens counted; only the counts that changed are read again."""
        with self._lock, self.reading() as connection:
            newest = newest_revision(connection)
            self._tally = self._tally.with_changes(questions.tally(connection, self._counted))
            self._counted = newest
            return self._tally

    def pulled_lines(self, books: LiveLogbook) -> Collection[SpecimenLine]:
        """Every specimen that was pulled, in a few words; only what changed is read again."""
        return self._follow(self._lines, books).values()

    def queued(self, books: LiveLogbook) -> tuple[queue.Queued, ...]:
        """What waits, in queue order: the same tuple while nothing of it changed."""
        found = self._follow(self._queued, books)
        known, in_order = self._in_order
        if known is not found:
            in_order = tuple(sorted(found.values()))
            self._in_order = found, in_order
        return in_order

    def unsettled(self, books: LiveLogbook) -> tuple[str, ...]:
        """Pulls whose findings stand against one another, by id."""
        found = self._follow(self._unsettled, books).values()
        return tuple(one.pull_id for one in sorted(found))

    def waiting(self, books: LiveLogbook) -> Collection[Waiting]:
        """Every specimen that waits, in a few words; only what changed is read again."""
        return self._follow(self._waiting, books).values()

    def _follow(self, followed: Followed[T], books: LiveLogbook) -> dict[str, T]:
        return followed.now(self.reading, books, lambda: books.revision == self._revision)


def _lines_by_id(
    connection: Connection, books: Books, of: Collection[str] | None
) -> dict[str, SpecimenLine]:
    return {line.specimen_id: line for line in read_lines(connection, books, of)}


@dataclass(frozen=True, kw_only=True)
class LiveLogbook(Logbook):
    """A campaign at a revision, whose specimens are read when they are asked for."""

    reader: LogbookReader = field(repr=False, compare=False)
    revision: int = 0

    def _ask(self, question: Callable[[Connection], T]) -> T:
        with self.reader.reading() as connection:
            return question(connection)

    def _read(self, which: Callable[[Connection], list[str]]) -> tuple[Entry, ...]:
        with self.reader.reading() as connection:
            return tuple(self.reader.entries(connection, self, which(connection)))

    def find(self, asked: EntryQuery, last: int | None = None) -> tuple[Entry, ...]:
        key = (asked, last)
        if key in self._found:
            return self._found[key]
        found = self._read(lambda c: questions.find_ids(c, asked, last))
        few = asked.stages is not None and asked.knot_id is None and asked.lot_ids is None
        if asked.with_trial or few:
            self._found[key] = found
        return found

    @cached_property
    def _found(self) -> dict[tuple[EntryQuery, int | None], tuple[Entry, ...]]:
        """What stations ask of one revision again and again: who waits, and for what."""
        return {}

    def with_ids(self, ids: Collection[str]) -> tuple[Entry, ...]:
        found = self._read(lambda _: list(dict.fromkeys(ids)))
        return tuple(sorted(found, key=lambda e: (e.specimen.queue_position, e.specimen.code)))

    @property
    def by_pull(self) -> Mapping[str, Entry]:
        return EntriesByPull(self)

    def every(self) -> Iterator[Entry]:
        ids = self._ask(lambda c: questions.find_ids(c, EVERYTHING))
        for start in range(0, len(ids), AT_ONCE):
            part = ids[start : start + AT_ONCE]
            yield from self._read(lambda _, part=part: part)  # type: ignore[misc]

    @cached_property
    def queued(self) -> tuple[queue.Queued, ...]:
        return self.reader.queued(self)

    @cached_property
    def waiting(self) -> tuple[Waiting, ...]:
        return tuple(sorted(self.reader.waiting(self), key=lambda w: w.order))

    @cached_property
    def lines(self) -> tuple[SpecimenLine, ...]:
        waiting = (line_of_waiting(w) for w in self.waiting)
        return in_order((*self.reader.pulled_lines(self), *waiting))

    def line_ids(self, asked: LineQuery) -> list[str]:
        return self._ask(lambda c: line_ids(c, asked))

    def lines_of(self, ids: Collection[str]) -> dict[str, SpecimenLine]:
        found = {line.specimen_id: line for line in self._ask(lambda c: read_lines(c, self, ids))}
        waiting = self.with_ids([i for i in ids if i not in found])
        return found | {e.specimen.id: line_of(e, self.state(e)) for e in waiting}

    @property
    def unsettled(self) -> tuple[str, ...]:
        return self.reader.unsettled(self)

    def newest_found(self, most: int) -> tuple[SpecimenLine, ...]:
        with self.reader.reading() as connection:
            ids = newest_found(connection, most)
            found = {line.specimen_id: line for line in read_lines(connection, self, ids)}
        return tuple(found[i] for i in ids if i in found)

    def trial_rows(self) -> list[TrialRow]:
        return self._trials

    @cached_property
    def _trials(self) -> list[TrialRow]:
        return self._ask(preparations.trial_rows)

    def data_lines(self) -> Iterator[str]:
        with self.reader.reading() as connection:
            trials = preparations.trials_ever(connection)
            yield from data_lines_of(found_rows(connection), trials)

    @cached_property
    def tally(self) -> Tally:
        return self.reader.tally()

    @cached_property
    def simulated(self) -> bool:
        return self._ask(questions.any_simulated)

    def siblings(self, specimen: Specimen, last: int = LATEST) -> tuple[Entry, ...]:
        a, b = specimen.knot_a, specimen.knot_b
        knots = None if a is None else a.id, None if b is None else b.id
        found = self._read(lambda c: questions.alike_ids(c, specimen.lot.id, knots, last))
        return tuple(e for e in found if are_alike(e.specimen, specimen))

    def to_replace(self) -> tuple[Entry, ...]:
        return self._read(questions.void_not_replaced)

    def was_replaced(self, specimen_id: str) -> bool:
        return self._ask(lambda c: questions.was_replaced(c, specimen_id))

    def codes(self) -> Mapping[str, str]:
        return self._ask(questions.codes)

    def last_place(self, *, pulled: bool = False) -> int:
        return self._ask(lambda c: questions.last_place(c, pulled=pulled)) or 0

    def recorded_times(self) -> dict[WorkStep, list[float]]:
        return self._times

    @cached_property
    def _times(self) -> dict[WorkStep, list[float]]:
        with self.reader.reading() as connection:
            spans = questions.pulled_when(connection, LATEST)
            return times_of(spans, questions.untied_in(connection, LATEST))

    def kinds(self, lot_ids: Collection[str]) -> Counter[SpecimenKind]:
        found: Counter[SpecimenKind] = Counter()
        for row in self._ask(lambda c: questions.cell_rows(c, lot_ids)):
            values = read_record(dict[str, float], row["method_values"])
            plan = MethodPlan(row["method"], tuple(sorted(values.items())), row["direction"])
            kind = SpecimenKind(
                lot_id=row["lot_id"],
                knot_a_id=row["knot_a_id"],
                knot_b_id=row["knot_b_id"],
                method=plan,
                dressing=row["dressing"],
                fixture_id=row["fixture_id"],
                lot_b_id=row["lot_b_id"],
                state=TiedState(**read_record(dict[str, float], row["state"])),
            )
            found[kind] += row["count"]
        return found

    def pulls_of(
        self,
        lot_ids: Collection[str],
        knot_ids: Collection[str],
        *,
        before: str | None = None,
        stage: Stage | None = None,
    ) -> int:
        return self._ask(
            lambda c: questions.pulls_of(c, lot_ids, knot_ids, before=before, stage=stage)
        )

    def pulled_pairs(self) -> set[tuple[str, str]]:
        return self._ask(questions.pulled_pairs)

    def ledger(self, hank_ids: Collection[str]) -> list[StockEntry]:
        return self._ask(lambda c: stock.ledger_of(c, hank_ids))

    def instruments(self) -> list[str]:
        return sorted(self._ask(questions.instruments))

    def technicians(self) -> list[str]:
        return sorted(self._ask(questions.technicians))


class EntriesByPull(Mapping[str, Entry]):
    """Specimens by the id of their newest pull, each read when it is asked for."""

    def __init__(self, logbook: LiveLogbook) -> None:
        self._logbook = logbook

    def __getitem__(self, pull_id: str) -> Entry:
        logbook = self._logbook
        with logbook.reader.reading() as connection:
            specimen_id = questions.id_of_pull(connection, pull_id)
            found = [] if specimen_id is None else [specimen_id]
            for entry in logbook.reader.entries(connection, logbook, found):
                return entry
        raise KeyError(pull_id)

    def __iter__(self) -> Iterator[str]:
        return (e.pull.id for e in self._logbook.every() if e.pull is not None)

    def __len__(self) -> int:
        return sum(1 for _ in self)


class WithReader(Protocol):
    """An open campaign."""

    reader: LogbookReader


def read_logbook(workshop: WithReader) -> LiveLogbook:
    """The logbook of an open campaign as it stands now."""
    return workshop.reader.look()
