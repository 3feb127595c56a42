"""The logbook: what is asked of a campaign's specimens, and the answer from those read already."""

from __future__ import annotations

from abc import abstractmethod
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from bruiser.core.planning.bench_time import WorkStep
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.preparation import PrepStep, next_ready
from bruiser.core.records.records import Role, Specimen
from bruiser.core.records.stock import StockEntry
from bruiser.core.records.tied_state import TiedState
from bruiser.store.lines import FoundRow, LineQuery
from bruiser.store.preparations import TrialRow
from bruiser.store.questions import EntryQuery
from bruiser.store.waiting import Queued
from bruiser.workshop.logbook.books import Books
from bruiser.workshop.logbook.entries import Entry, Stage, State, seconds_of, waiting_state
from bruiser.workshop.logbook.lines import SpecimenLine
from bruiser.workshop.logbook.tally import Tally
from bruiser.workshop.logbook.waiting import Waiting, cut_lots

LATEST = 1000
"""So many of the newest pulls tell how long the work takes: pace changes over the years."""


@dataclass(frozen=True, kw_only=True)
class SpecimenKind:
    """What specimens with a knot have in common that are planned as one cell."""

    lot_id: str
    knot_a_id: str
    knot_b_id: str | None
    method: MethodPlan
    dressing: str
    fixture_id: str | None
    lot_b_id: str | None
    state: TiedState


def kind_of(specimen: Specimen) -> SpecimenKind | None:
    """What a specimen is; None for plain rope."""
    s = specimen
    if s.knot_a is None:
        return None
    return SpecimenKind(
        lot_id=s.lot.id,
        knot_a_id=s.knot_a.id,
        knot_b_id=None if s.knot_b is None else s.knot_b.id,
        method=s.method,
        dressing=s.dressing,
        fixture_id=None if s.fixture is None else s.fixture.id,
        lot_b_id=None if s.lot_b is None else s.lot_b.id,
        state=s.state,
    )


@dataclass(frozen=True, kw_only=True)
class Logbook(Books):
    """A campaign at one moment: its books, and answers about its specimens.

    Nothing here reads all specimens but :meth:`every`, which is for exports, checks and tests.
    """

    @abstractmethod
    def find(self, asked: EntryQuery, last: int | None = None) -> tuple[Entry, ...]:
        """The specimens meant, in queue order; the last so many of them."""

    @abstractmethod
    def with_ids(self, ids: Collection[str]) -> tuple[Entry, ...]:
        """Specimens by their ids, in queue order; those that are not there are left out."""

    @property
    @abstractmethod
    def by_pull(self) -> Mapping[str, Entry]:
        """Specimens by the id of their newest pull."""

    @abstractmethod
    def every(self) -> Iterator[Entry]:
        """Every specimen in queue order, read in portions."""

    @property
    @abstractmethod
    def queued(self) -> tuple[Queued, ...]:
        """What waits, in queue order, by id and lot; the same tuple while none of it changed."""

    @property
    @abstractmethod
    def waiting(self) -> tuple[Waiting, ...]:
        """What waits, in queue order, in a few words: a moment where it is much."""

    @property
    @abstractmethod
    def lines(self) -> tuple[SpecimenLine, ...]:
        """Every specimen in a few words, in queue order: a moment where there are many."""

    @abstractmethod
    def line_ids(self, asked: LineQuery) -> list[str]:
        """The specimens that are listed, in the order asked."""

    @abstractmethod
    def lines_of(self, ids: Collection[str]) -> dict[str, SpecimenLine]:
        """Some specimens in a few words, by id; those that are not there are left out."""

    @property
    @abstractmethod
    def unsettled(self) -> tuple[str, ...]:
        """Pulls, by id, whose findings stand against one another."""

    @abstractmethod
    def newest_found(self, most: int) -> tuple[SpecimenLine, ...]:
        """Specimens with findings in a few words, those last written about first."""

    @abstractmethod
    def trial_rows(self) -> list[TrialRow]:
        """Every tying trial that was not taken back, in queue order."""

    @abstractmethod
    def data_lines(self) -> Iterator[str]:
        """What the state of the pulls is named after: findings, exclusions, traces, trials."""

    @property
    @abstractmethod
    def tally(self) -> Tally:
        """Specimens counted."""

    @property
    @abstractmethod
    def simulated(self) -> bool:
        """Whether any pull was made on the simulated bench; only that one knows what remains."""

    @abstractmethod
    def siblings(self, specimen: Specimen, last: int = LATEST) -> tuple[Entry, ...]:
        """Inspected specimens of the same lot with the same knots and state; the last so many."""

    @abstractmethod
    def to_replace(self) -> tuple[Entry, ...]:
        """Void specimens that no other takes the place of."""

    @abstractmethod
    def was_replaced(self, specimen_id: str) -> bool:
        """Whether another specimen was planned in the place of this one."""

    @abstractmethod
    def codes(self) -> Mapping[str, str]:
        """The ids of all specimens by their code."""

    @abstractmethod
    def last_place(self, *, pulled: bool = False) -> int:
        """The highest place in the queue, of those pulled or of all; 0 where there is none."""

    @abstractmethod
    def recorded_times(self) -> dict[WorkStep, list[float]]:
        """Seconds of the steps that the newest pulls have recorded."""

    @abstractmethod
    def kinds(self, lot_ids: Collection[str]) -> Counter[SpecimenKind]:
        """Specimens with a knot in these lots that are not void, counted by what they are."""

    @abstractmethod
    def pulls_of(
        self,
        lot_ids: Collection[str],
        knot_ids: Collection[str],
        *,
        before: str | None = None,
        stage: Stage | None = None,
    ) -> int:
        """How many pulls have one of these knots in one of these lots; empty stands for any.

        Parameters
        ----------
        before : str, optional
            Only those that began before this moment.
        stage : Stage, optional
            Only those that stand at this stage.
        """

    @abstractmethod
    def pulled_pairs(self) -> set[tuple[str, str]]:
        """Lots and knots, by id, that something was found of."""

    @abstractmethod
    def ledger(self, hank_ids: Collection[str]) -> list[StockEntry]:
        """The ledger of some hanks, in the order written."""

    @abstractmethod
    def instruments(self) -> list[str]:
        """Every bench that something was pulled on."""

    @abstractmethod
    def technicians(self) -> list[str]:
        """Everybody who pulled something."""

    @cached_property
    def entries(self) -> tuple[Entry, ...]:
        """Every specimen at once, which is long to read."""
        return tuple(self.every())

    def last_number(self) -> int:
        """The highest number in a code, such as 27 in ``S-027``; 0 where there is none."""
        numbers = (code[2:] for code in self.codes())
        return max((int(n) for n in numbers if n.isdecimal()), default=0)

    def entry(self, specimen_id: str) -> Entry | None:
        """A specimen by its id."""
        return next(iter(self.with_ids((specimen_id,))), None)

    def at(self, stage: Stage) -> tuple[Entry, ...]:
        """Specimens at a stage, in queue order."""
        return self.find(EntryQuery(stages=(stage,)))

    def of_lots(self, lot_ids: Collection[str], role: Role | None = None) -> tuple[Entry, ...]:
        """Specimens of some lots, in queue order."""
        return self.find(EntryQuery(lot_ids=tuple(lot_ids), role=role))

    def state(self, entry: Entry) -> State:
        """How far a specimen has got, each step told by its own evidence."""
        if entry.stage is Stage.RUNNING:
            return State.PULLED
        if entry.stage is not Stage.PLANNED:
            return State(entry.stage.value)
        cut_of = cut_lots(entry.specimen, entry.ledger, self.stock)
        return waiting_state(entry.steps, is_cut=cut_of.issuperset(entry.specimen.stock_ids))

    def next_to_pull(self, now: str = "", without: Collection[str] = ()) -> Entry | None:
        """The next specimen for the bench; with the time, conditioning windows are kept.

        Parameters
        ----------
        without : collection of str
            Ids of specimens that other benches have in hand.
        """
        free = [q for q in self.queued if q.specimen_id not in without]
        soaked = {lot.id for lot in self.lots if lot.soak_s}
        needs = {q.specimen_id: True for q in free if q.lot_id in soaked} if now else {}
        if not needs:
            return self.entry(free[0].specimen_id) if free else None
        begun = self.find(EntryQuery(stages=(Stage.PLANNED,), step=PrepStep.SOAKING))
        windows = {e.specimen.id: w for e in begun if (w := e.window) is not None}
        key = next_ready([q.specimen_id for q in free], needs, windows, seconds_of(now))
        return None if key is None else self.entry(key)

    def next_to_inspect(self, without: Collection[str] = ()) -> Entry | None:
        """The pulled specimen that has waited longest for its findings; not of those named."""
        waiting = [
            (e.pull.ended_at or "", e)
            for e in self.at(Stage.PULLED)
            if e.pull is not None and e.specimen.id not in without
        ]
        return min(waiting, key=lambda pair: pair[0])[1] if waiting else None


def are_alike(one: Specimen, other: Specimen) -> bool:
    """Whether two specimens are of the same lot with the same knots, tied in the same state."""
    return (
        one.lot.id == other.lot.id
        and one.knot_a == other.knot_a
        and one.knot_b == other.knot_b
        and one.state_words == other.state_words
    )


def data_lines_of(found: Iterable[FoundRow], trials: Iterable[tuple[str, bool]]) -> Iterator[str]:
    """What the state of the pulls is named after, from its parts."""
    for finding_id, left_out, peaks, readings in found:
        said = "" if peaks is None else f"{peaks.peak_n} {peaks.first_slip_n} {peaks.capsize_n}"
        yield f"{finding_id} {left_out} {said} {readings}"
    for trial_id, withdrawn in trials:
        yield f"{trial_id} {withdrawn}"


def times_of(
    spans: Iterable[tuple[str, str]], untied: Iterable[float]
) -> dict[WorkStep, list[float]]:
    """Seconds of pulls, from their begin and end, and of untying."""
    took = [seconds_of(end) - seconds_of(begin) for begin, end in spans]
    return {WorkStep.PULL: took, WorkStep.UNTIE: [s for s in untied if s > 0]}
