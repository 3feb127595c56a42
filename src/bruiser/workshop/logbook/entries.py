"""The logbook as read: every specimen with its pull, trace and finding, and what waits."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from functools import cached_property

from bruiser.catalogue import Structure, load_catalogue, parse_structure
from bruiser.core.choice.brief import Brief
from bruiser.core.errors import BruiserError, InputError
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.bench_book import BenchBook
from bruiser.core.records.families import GENERAL
from bruiser.core.records.outcomes import evidence_of
from bruiser.core.records.preparation import (
    Preparation,
    PrepStep,
    TyingSheet,
    Window,
    in_force,
    next_ready,
    window_of,
)
from bruiser.core.records.readings import Reading
from bruiser.core.records.records import Exclusion, Finding, Gave, Knot, Lot, Pull, Specimen
from bruiser.core.records.stock import Stock
from bruiser.core.trace import TraceResult
from bruiser.store import bench_books, briefs, campaigns, preparations, pulls, readings, stock
from bruiser.store.briefs import OwnStructure
from bruiser.store.campaign_file import Connection
from bruiser.store.checked_rows import leave_out
from bruiser.store.readings import Photo
from bruiser.workshop.logbook.workshop import Workshop


def seconds_of(moment: str) -> float:
    """A stored moment as seconds on one clock."""
    return datetime.fromisoformat(moment).timestamp()


class Stage(StrEnum):
    """How far a specimen has got, told by its own evidence."""

    PLANNED = "planned"
    RUNNING = "running"
    PULLED = "pulled"
    INSPECTED = "inspected"
    VOID = "void"


class State(StrEnum):
    """How far a specimen has got, with the steps before its pull."""

    PLANNED = "planned"
    CUT = "cut"
    TIED = "tied"
    CHECKED = "checked"
    PULLED = "pulled"
    INSPECTED = "inspected"
    VOID = "void"


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One specimen and all that happened to it."""

    specimen: Specimen
    pull: Pull | None = None
    analysis: TraceResult | None = None
    finding: Finding | None = None
    history: tuple[Finding, ...] = ()
    prepared: tuple[Preparation, ...] = ()
    readings: tuple[Reading, ...] = ()
    photos: tuple[Photo, ...] = ()
    exclusions: tuple[Exclusion, ...] = ()

    @property
    def excluded(self) -> Exclusion | None:
        """Why it is left out of the results; None while it counts."""
        last = self.exclusions[-1] if self.exclusions else None
        return last if last is not None and last.excluded else None

    @property
    def sheet(self) -> TyingSheet | None:
        """How it was tied, as written down."""
        tied = self.steps.get(PrepStep.TIED)
        return None if tied is None else tied.sheet

    @property
    def steps(self) -> dict[PrepStep, Preparation]:
        """Preparation steps that are done and were not taken back."""
        return in_force(self.prepared)

    @property
    def window(self) -> Window | None:
        """When it may be pulled, once its soak has started."""
        soaking = self.steps.get(PrepStep.SOAKING)
        lot = self.specimen.lot
        if soaking is None or not lot.soak_s:
            return None
        return window_of(seconds_of(soaking.made_at), lot.soak_s, lot.keep_s)

    @property
    def stage(self) -> Stage:
        """How far it has got."""
        if self.finding is not None:
            return Stage.VOID if self.finding.gave is Gave.VOID else Stage.INSPECTED
        if self.pull is None:
            return Stage.PLANNED
        return Stage.RUNNING if self.pull.ended_at is None else Stage.PULLED


@dataclass(frozen=True, kw_only=True)
class Logbook:
    """The campaign's records at one moment."""

    lots: tuple[Lot, ...]
    knots: tuple[Knot, ...]
    entries: tuple[Entry, ...]
    by_pull: dict[str, Entry] = field(default_factory=dict)
    brief: Brief = field(default_factory=Brief)
    stock: Stock = field(default_factory=Stock)
    cord_readings: tuple[CordReading, ...] = ()
    own_structures: tuple[OwnStructure, ...] = ()
    trade: str = GENERAL
    bench_book: BenchBook = field(default_factory=BenchBook)

    @property
    def lots_in_use(self) -> tuple[Lot, ...]:
        """Lots that are not archived."""
        return tuple(lot for lot in self.lots if not lot.archived)

    @property
    def knots_in_play(self) -> tuple[Knot, ...]:
        """Knots that are not archived."""
        return tuple(knot for knot in self.knots if not knot.archived)

    @cached_property
    def catalogue(self) -> dict[str, Structure]:
        """Shipped structures, with the campaign's own in their place or beside them."""
        return catalogue_with(self.own_structures)

    @property
    def names(self) -> dict[str, str]:
        """Name and variant of every knot by its id."""
        return {knot.id: knot.title for knot in self.knots}

    def lot(self, lot_id: str) -> Lot:
        """A lot by its id."""
        return next(lot for lot in self.lots if lot.id == lot_id)

    def knot(self, knot_id: str) -> Knot:
        """A knot by its id."""
        return next(knot for knot in self.knots if knot.id == knot_id)

    @property
    def simulated(self) -> bool:
        """Whether any pull was made on the simulated bench; only that one knows what remains."""
        return any(e.pull is not None and e.pull.remains is not None for e in self.entries)

    def at(self, stage: Stage) -> tuple[Entry, ...]:
        """Entries at a stage, in queue order."""
        return tuple(e for e in self.entries if e.stage is stage)

    def state(self, entry: Entry) -> State:
        """How far a specimen has got, each step told by its own evidence."""
        if entry.stage is Stage.RUNNING:
            return State.PULLED
        if entry.stage is not Stage.PLANNED:
            return State(entry.stage.value)
        for step, state in ((PrepStep.CHECKED, State.CHECKED), (PrepStep.TIED, State.TIED)):
            if step in entry.steps:
                return state
        return State.CUT if self.is_cut(entry.specimen) else State.PLANNED

    def is_cut(self, specimen: Specimen) -> bool:
        """Whether every piece it is made of has been cut."""
        cuts = (self.stock.cut_for(specimen.id, lot_id) for lot_id in specimen.stock_ids)
        return all(cut is not None for cut in cuts)

    def next_to_pull(self, now: str = "") -> Entry | None:
        """The next specimen for the bench; with the time, conditioning windows are kept."""
        waiting = self.at(Stage.PLANNED)
        if not now:
            return waiting[0] if waiting else None
        by_id = {e.specimen.id: e for e in waiting}
        windows = {k: w for k, e in by_id.items() if (w := e.window) is not None}
        needs = {k: bool(e.specimen.lot.soak_s) for k, e in by_id.items()}
        key = next_ready(list(by_id), needs, windows, seconds_of(now))
        return None if key is None else by_id[key]

    def next_to_inspect(self) -> Entry | None:
        """The pulled specimen that has waited longest for its findings."""
        waiting = [(e.pull.ended_at or "", e) for e in self.at(Stage.PULLED) if e.pull is not None]
        return min(waiting, key=lambda pair: pair[0])[1] if waiting else None

    def siblings(self, specimen: Specimen) -> tuple[Entry, ...]:
        """Inspected specimens of the same lot with the same knots."""
        return tuple(
            e
            for e in self.at(Stage.INSPECTED)
            if e.specimen.lot.id == specimen.lot.id
            and e.specimen.knot_a == specimen.knot_a
            and e.specimen.knot_b == specimen.knot_b
            and e.specimen.state_words == specimen.state_words
        )


def catalogue_with(own: Iterable[OwnStructure]) -> dict[str, Structure]:
    """The shipped structures with a campaign's own over them."""
    return load_catalogue() | {o.key: parse_structure(o.key, o.text) for o in own}


def name_knots(knots: Iterable[Knot], catalogue: Mapping[str, Structure], trade: str) -> list[Knot]:
    """Knots under the names a trade uses, by name; one without a structure keeps its own."""
    named = [
        replace(k, name=catalogue[k.structure].name_in(trade)) if k.structure in catalogue else k
        for k in knots
    ]
    return sorted(named, key=lambda k: (k.name.lower(), k.variant))


def read_logbook(workshop: Workshop) -> Logbook:
    """Read the whole logbook in one consistent look."""
    with workshop.file.reading() as connection:
        return load_logbook(connection, workshop.campaign.trade, workshop.analyses_read)


def load_logbook(
    connection: Connection, trade: str, analyses_read: dict[str, TraceResult] | None = None
) -> Logbook:
    """The same over a connection; `analyses_read` are those that need not be read again."""
    lots = campaigns.load_lots(connection)
    all_pulls = pulls.load_pulls(connection)
    analyses = pulls.load_analyses(connection, analyses_read)
    findings = pulls.load_findings(connection)
    brief = briefs.load_brief(connection)
    on_hand = stock.load_stock(connection)
    cord_readings = stock.load_cord_readings(connection)
    own = _readable(connection, briefs.load_structures(connection))
    book = bench_books.load_bench_book(connection)
    catalogue = catalogue_with(own)
    knots = name_knots(campaigns.load_knots(connection), catalogue, trade)
    prepared = preparations.load_preparations(connection)
    taken = readings.load_readings(connection)
    pictures = readings.load_photos(connection)
    left_out = readings.load_exclusions(connection)
    specimens = campaigns.load_specimens(
        connection,
        {lot.id: lot for lot in lots},
        {knot.id: knot for knot in knots},
        {fixture.id: fixture for fixture in book.fixtures},
    )
    _keep_possible(connection, specimens, all_pulls, findings)
    newest = {pull.specimen_id: pull for pull in all_pulls}
    entries = []
    for planned in specimens:
        pull = newest.get(planned.id)
        steps = tuple(prepared.get(planned.id, ()))
        specimen = as_tied(planned, steps)
        if pull is None:
            entries.append(Entry(specimen=specimen, prepared=steps))
            continue
        history = tuple(findings.get(pull.id, ()))
        current = history[-1] if history and not history[-1].withdrawn else None
        entries.append(
            Entry(
                specimen=specimen,
                pull=pull,
                analysis=analyses.get(pull.id),
                finding=current,
                history=history,
                prepared=steps,
                readings=tuple(taken.get(pull.id, ())),
                photos=tuple(pictures.get(pull.id, ())),
                exclusions=tuple(left_out.get(pull.id, ())),
            )
        )
    return Logbook(
        lots=tuple(lots),
        knots=tuple(knots),
        entries=tuple(entries),
        by_pull={e.pull.id: e for e in entries if e.pull is not None},
        brief=brief,
        stock=on_hand,
        cord_readings=tuple(cord_readings),
        own_structures=tuple(own),
        trade=trade,
        bench_book=book,
    )


def _readable(connection: Connection, own: list[OwnStructure]) -> list[OwnStructure]:
    """The structures of one's own whose text can be read; the others are set aside."""
    kept = []
    for structure in own:
        try:
            parse_structure(structure.key, structure.text)
        except BruiserError as error:
            leave_out(connection, "own_structure", {"key": structure.key}, error)
        else:
            kept.append(structure)
    return kept


def _keep_possible(
    connection: Connection,
    specimens: Iterable[Specimen],
    made: Iterable[Pull],
    findings: dict[str, list[Finding]],
) -> None:
    """Set findings aside that cannot be of their specimen, such as a place that it has not."""
    by_id = {specimen.id: specimen for specimen in specimens}
    for pull in made:
        specimen = by_id.get(pull.specimen_id)
        if specimen is None:
            missing = InputError("the specimen could not be read.", where="specimen_id")
            leave_out(connection, "pull", {"id": pull.id}, missing)
            continue
        for finding in list(findings.get(pull.id, ())):
            try:
                evidence_of(specimen, finding)
            except (ValueError, KeyError, StopIteration) as error:
                leave_out(connection, "finding", {"id": finding.id}, error)
                findings[pull.id].remove(finding)


def as_tied(specimen: Specimen, steps: Iterable[Preparation]) -> Specimen:
    """A specimen with the tail lengths and the set load its tying sheet says."""
    tied = in_force(tuple(steps)).get(PrepStep.TIED)
    sheet = None if tied is None else tied.sheet
    if sheet is None:
        return specimen
    lengths = dict(sheet.tails)
    tails = tuple(replace(t, length_m=lengths.get(t.key, t.length_m)) for t in specimen.tails)
    set_load = specimen.set_load_n if sheet.set_load_n is None else sheet.set_load_n
    return replace(specimen, tails=tails, set_load_n=set_load)
