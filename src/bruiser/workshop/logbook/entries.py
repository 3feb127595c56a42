"""One specimen and all that happened to it: what it is, how far it has got, and how it is read."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from bruiser.core.errors import InputError
from bruiser.core.records.outcomes import evidence_of
from bruiser.core.records.preparation import (
    Preparation,
    PrepStep,
    TyingSheet,
    Window,
    in_force,
    window_of,
)
from bruiser.core.records.readings import Reading
from bruiser.core.records.records import Exclusion, Finding, Gave, Pull, Specimen
from bruiser.core.records.stock import StockEntry
from bruiser.core.trace import TraceResult
from bruiser.store import campaigns, preparations, pulls, readings, waiting
from bruiser.store.checked_rows import leave_out
from bruiser.store.open_campaign import Connection
from bruiser.store.readings import Photo
from bruiser.workshop.logbook.books import Books


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
    """One specimen and all that happened to it.

    Parameters
    ----------
    ledger : tuple of StockEntry
        What was cut for it, while it waits.
    """

    specimen: Specimen
    pull: Pull | None = None
    analysis: TraceResult | None = None
    finding: Finding | None = None
    history: tuple[Finding, ...] = ()
    prepared: tuple[Preparation, ...] = ()
    readings: tuple[Reading, ...] = ()
    photos: tuple[Photo, ...] = ()
    exclusions: tuple[Exclusion, ...] = ()
    ledger: tuple[StockEntry, ...] = ()

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
        return window_in(self.specimen, self.steps)

    @property
    def stage(self) -> Stage:
        """How far it has got."""
        if self.finding is not None:
            return Stage.VOID if self.finding.gave is Gave.VOID else Stage.INSPECTED
        if self.pull is None:
            return Stage.PLANNED
        return Stage.RUNNING if self.pull.ended_at is None else Stage.PULLED


def window_in(specimen: Specimen, steps: Mapping[PrepStep, Preparation]) -> Window | None:
    """When a specimen may be pulled, by the steps in force; None where no soak has started."""
    soaking, lot = steps.get(PrepStep.SOAKING), specimen.lot
    if soaking is None or not lot.soak_s:
        return None
    return window_of(seconds_of(soaking.made_at), lot.soak_s, lot.keep_s)


def waiting_state(steps: Collection[PrepStep], *, is_cut: bool) -> State:
    """How far a specimen has got that waits, by its steps in force."""
    for step, state in ((PrepStep.CHECKED, State.CHECKED), (PrepStep.TIED, State.TIED)):
        if step in steps:
            return state
    return State.CUT if is_cut else State.PLANNED


def are_unsettled(history: Sequence[Finding]) -> bool:
    """Whether the newest finding was not made from the one before it."""
    return len(history) > 1 and history[-1].supersedes != history[-2].id


def load_entries(
    connection: Connection, books: Books, of: Collection[str] | None = None
) -> list[Entry]:
    """Read specimens with all that happened to them, in queue order.

    Parameters
    ----------
    books : Books
        Their cordage, knots and fixtures.
    of : collection of str, optional
        Their ids; None for all.
    """
    specimens = campaigns.load_specimens(
        connection,
        {lot.id: lot for lot in books.lots},
        {knot.id: knot for knot in books.knots},
        {fixture.id: fixture for fixture in books.bench_book.fixtures},
        of,
    )
    all_pulls = pulls.load_pulls(connection, of)
    newest = {pull.specimen_id: pull for pull in all_pulls}
    # Those of an earlier pull of a specimen are looked through as well where all is read.
    ids = None if of is None else [pull.id for pull in newest.values()]
    prepared = preparations.load_preparations(connection, of)
    findings, analyses, taken, pictures, left_out = {}, {}, {}, {}, {}
    if newest or ids is None:
        analyses = pulls.load_analyses(connection, ids)
        findings = pulls.load_findings(connection, ids)
        taken = readings.load_readings(connection, ids)
        pictures = readings.load_photos(connection, ids)
        left_out = readings.load_exclusions(connection, ids)
    _keep_possible(connection, specimens, all_pulls, findings)
    waits = None if of is None else [s.id for s in specimens if s.id not in newest]
    ledger = {} if waits == [] else waiting.ledger_of_waiting(connection, waits)
    entries = []
    for planned in specimens:
        pull = newest.get(planned.id)
        steps = tuple(prepared.get(planned.id, ()))
        specimen = as_tied(planned, steps)
        if pull is None:
            cut = ledger.get(planned.id, ())
            entries.append(Entry(specimen=specimen, prepared=steps, ledger=cut))
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
    return entries


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
