"""Everything a sheet of results shows, worked out in one go away from the interface."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from typing import TypeVar, cast

from bruiser.core.behaviour.security import LIMITS, SecurityLimits
from bruiser.core.behaviour.tying import TyingResult, measure_tying
from bruiser.core.beyond.paired import PairedConditions
from bruiser.core.beyond.rules import AcrossRules
from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Against
from bruiser.core.progress import Progress, no_progress
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.preparation import TyingTrial
from bruiser.core.records.records import Knot
from bruiser.core.statistics.tolerance import ToleranceBound, lower_tolerance_bounds
from bruiser.workshop.groups.gathering import Gathered, Group, gather
from bruiser.workshop.groups.jam_results import JamRow, jam_rows
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import SlipRow, slip_rows
from bruiser.workshop.groups.trials import trials_of
from bruiser.workshop.groups.work_results import (
    DamageRow,
    EdgeRow,
    EyesRow,
    WorkRow,
    damage_rows,
    edge_rows,
    eyes_rows,
    work_rows,
)
from bruiser.workshop.groups.wrap_results import WrapRow, default_target_n, wrap_row, wrap_tests
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.across_sets import AcrossSet, across_sets, condition_contrasts
from bruiser.workshop.results.claiming import JudgedClaim, judge_claims
from bruiser.workshop.results.comparing import (
    Compared,
    Matrix,
    Partners,
    compare_rows,
    knot_by_cordage,
    partners,
)
from bruiser.workshop.results.hands_work import HandsResult, measure_all_hands
from bruiser.workshop.results.judging import Judged, judge_lot
from bruiser.workshop.results.lot_results import KnotResult, Look, LotResults, all_results

COMPARED_AT_FIRST = 5
AT_ONCE = 100
T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Filters:
    """What is looked at; an empty text stands for all.

    Parameters
    ----------
    variant, host, dressing, technician : str
        As written with the groups and the pulls.
    """

    variant: str = ""
    host: str = ""
    dressing: str = ""
    technician: str = ""

    def admits(self, entry: Entry) -> bool:
        """Whether a pull is looked at."""
        return not self.technician or (
            entry.pull is not None and entry.pull.technician == self.technician
        )

    def shows(self, group: Group) -> bool:
        """Whether a group is shown as one of strength."""
        key, knot = group.key, group.knot
        if key is None or knot is None:
            return True
        return (
            tells(group.method, Tells.STRENGTH)
            and self.variant in ("", knot.variant)
            and self.host in ("", str(key.host))
            and self.dressing in ("", key.dressing)
        )


@dataclass(frozen=True, kw_only=True)
class Work:
    """What a sheet works out of the pulls.

    Parameters
    ----------
    add : callable
        Adds it to an overview that holds the strengths, from the logbook.
    of_every_pull : bool
        Whether it is about every pull there is, whatever filter is set.
    of_every_lot : bool
        Whether it rests on other lots than those shown.
    """

    add: Callable[[Overview, Logbook, Memory, Progress], Overview]
    of_every_pull: bool = False
    of_every_lot: bool = False


def _strengths_only() -> Work:
    return STRENGTHS


@dataclass(frozen=True, kw_only=True)
class SheetQuery:
    """What a sheet asks for.

    Parameters
    ----------
    sheet : str
        Its key.
    work : Work
        What it works out beyond the strengths.
    lot_ids : tuple of str
        The lots shown.
    compared : tuple of str
        Rows to be compared, as ``lot id|name``; empty for the first few.
    across : AcrossRules
        How the campaign predicts across cordages.
    target_n : float or None
        Load that wraps have to hold; None for the one of the brief.
    floor_share, confidence : float
        Of the lower tolerance bound.
    security : SecurityLimits
        What staying tied is judged by in this campaign.
    """

    sheet: str
    lot_ids: tuple[str, ...]
    work: Work = field(default_factory=_strengths_only)
    filters: Filters = Filters()
    against: Against = Against.TYPICAL
    compared: tuple[str, ...] = ()
    across: AcrossRules = field(default_factory=AcrossRules)
    target_n: float | None = None
    floor_share: float = 0.95
    confidence: float = 0.95
    security: SecurityLimits = LIMITS


@dataclass(frozen=True)
class Tied:
    """The tying trials of one knot."""

    knot: Knot
    result: TyingResult
    trials: tuple[tuple[str, TyingTrial], ...]


@dataclass(frozen=True, kw_only=True)
class Overview:
    """The answer: always the strengths, and what the sheet asked for beyond them."""

    asked: SheetQuery
    gathered: Gathered
    results: dict[str, LotResults]
    floors: dict[str, ToleranceBound] = field(default_factory=dict)
    judged: dict[str, list[Judged]] = field(default_factory=dict)
    slip: tuple[SlipRow, ...] = ()
    jam: tuple[JamRow, ...] = ()
    wraps: tuple[WrapRow, ...] = ()
    work: tuple[WorkRow, ...] = ()
    edges: tuple[EdgeRow, ...] = ()
    eyes: tuple[EyesRow, ...] = ()
    damage: tuple[DamageRow, ...] = ()
    tied: tuple[Tied, ...] = ()
    compared: Compared | None = None
    partners: tuple[Partners, ...] = ()
    matrix: Matrix | None = None
    claims: tuple[JudgedClaim, ...] = ()
    across: tuple[AcrossSet, ...] = ()
    conditions: tuple[PairedConditions, ...] = ()
    hands: HandsResult | None = None

    @property
    def shown(self) -> tuple[LotResults, ...]:
        """Results of the lots shown."""
        return tuple(self.results[k] for k in self.asked.lot_ids if k in self.results)

    @property
    def rows(self) -> tuple[KnotResult, ...]:
        """Knots of the lots shown."""
        return tuple(row for r in self.shown for row in r.knots)


def row_key(row: KnotResult) -> str:
    """What tells a row from others, in one text."""
    return f"{row.lot.id}|{row.name}"


def overview(
    logbook: Logbook, asked: SheetQuery, memory: Memory, progress: Progress = no_progress
) -> Overview:
    """Work out what a sheet shows.

    Parameters
    ----------
    memory : Memory
        What was computed before; it is added to.
    progress : callable
        Told how many groups are done; may raise ``Cancelled``.
    """
    if asked.work.of_every_pull:
        asked = replace(asked, filters=Filters(), against=Against.TYPICAL)
    lots = None if asked.work.of_every_lot else asked.lot_ids
    gathered = gather(logbook, asked.filters.admits, lots)
    look = Look(asked.against, asked.filters.shows)
    results = all_results(gathered, look, lots=lots or (), memory=memory, progress=progress)
    base = Overview(asked=asked, gathered=gathered, results=results)
    return asked.work.add(base, logbook, memory, progress)


def _with(base: Overview, **more: object) -> Overview:
    return replace(base, **more)  # type: ignore[arg-type]


def _strength(base: Overview, logbook: Logbook, *_: object) -> Overview:
    rows, asked = base.rows, base.asked
    share = asked.floor_share
    if asked.confidence == 0.95:
        bounds = [r.rated.tolerance for r in rows]
    else:
        samples = [r.result.data.sample for r in rows]
        bounds = lower_tolerance_bounds(samples, (share,), asked.confidence)
    floors = {row_key(row): bound[share] for row, bound in zip(rows, bounds, strict=True) if bound}
    # A criterion is about all pulls of a group, not those of one technician.
    whole = not asked.filters.technician and asked.against is Against.TYPICAL
    judged = {r.baseline.lot.id: judge_lot(logbook, r, base.gathered) for r in base.shown if whole}
    return _with(base, floors=floors, judged=judged)


def _each_case(
    base: Overview,
    memory: Memory,
    measure: Callable[..., list[T]],
    settings: tuple[Hashable, ...],
    progress: Progress,
) -> list[T]:
    """Measure every knot of the lots shown; one of which nothing changed is not measured again.

    What is remembered is remembered under all that went in: the measure, its settings, the case.
    """
    cases = [
        (case, r.baseline.median_n)
        for r in base.shown
        for case in knot_cases(base.gathered, r.baseline.lot.id)
    ]
    keys = [(measure, settings, case.content, median_n) for case, median_n in cases]
    missing = [n for n, key in enumerate(keys) if memory.recall(key) is None]
    for start in range(0, len(missing), AT_ONCE):
        progress(start, len(missing))
        part = missing[start : start + AT_ONCE]
        for n, row in zip(part, measure([cases[n] for n in part], *settings), strict=True):
            memory.keep(keys[n], row)
    return [cast(T, memory.recall(key)) for key in keys]


def _slip(base: Overview, logbook: Logbook, memory: Memory, progress: Progress) -> Overview:
    del logbook
    rows = _each_case(base, memory, slip_rows, (base.asked.security,), progress)
    rows.sort(key=lambda r: (not r.measured, -_weakness(r), r.case.name))
    return _with(base, slip=tuple(rows))


def _weakness(row: SlipRow) -> float:
    weakest = row.verdict.weakest
    if weakest is None:
        return math.inf
    return -(10 * (weakest.grade or 0.0) + (weakest.grade_as_seen or 0.0))


def _jam(base: Overview, logbook: Logbook, memory: Memory, progress: Progress) -> Overview:
    del logbook
    rows = _each_case(base, memory, jam_rows, (), progress)
    rows = [r for r in rows if r.attempts]
    rows.sort(key=lambda r: (r.order, r.case.name))
    return _with(base, jam=tuple(rows))


def _wraps(base: Overview, logbook: Logbook, memory: Memory, progress: Progress) -> Overview:
    del memory
    rows = []
    for n, r in enumerate(base.shown):
        lot_id = r.baseline.lot.id
        target = base.asked.target_n or default_target_n(base.gathered, lot_id, logbook)
        for key, marks in wrap_tests(base.gathered, lot_id).items():
            progress(n, len(base.shown))
            rows.append(wrap_row(logbook, lot_id, key, marks, target))
    return _with(base, wraps=tuple(rows))


def _work(base: Overview, logbook: Logbook, memory: Memory, progress: Progress) -> Overview:
    del logbook, memory
    rows: list[WorkRow] = []
    edges: list[EdgeRow] = []
    eyes: list[EyesRow] = []
    damage: list[DamageRow] = []
    for n, r in enumerate(base.shown):
        progress(n, len(base.shown))
        rows += work_rows(base.gathered, r.baseline.lot.id)
        edges += edge_rows(base.gathered, r.baseline.lot.id)
        eyes += eyes_rows(base.gathered, r.baseline.lot.id)
        damage += damage_rows(base.gathered, r.baseline.lot.id)
    return _with(
        base,
        work=tuple(rows),
        edges=tuple(edges),
        eyes=tuple(eyes),
        damage=tuple(damage),
    )


def _tying(base: Overview, logbook: Logbook, *_: object) -> Overview:
    trials: dict[str, list[tuple[str, TyingTrial]]] = {}
    for (knot_id, lot_id), own in trials_of(logbook).rows.items():
        if own and lot_id in base.asked.lot_ids:
            trials.setdefault(knot_id, []).extend(own)
    rows = []
    for knot_id, own in trials.items():
        knot = logbook.knot(knot_id)
        rows.append(Tied(knot, measure_tying(own, knot.structure), tuple(own)))
    rows.sort(key=lambda t: t.knot.title)
    return _with(base, tied=tuple(rows))


def _compare(base: Overview, logbook: Logbook, *_: object) -> Overview:
    del logbook
    rows = base.rows
    wanted = set(base.asked.compared)
    chosen = [r for r in rows if row_key(r) in wanted] or list(rows[:COMPARED_AT_FIRST])
    pairs = tuple(p for r in base.shown for p in partners(r))
    return _with(
        base,
        compared=compare_rows(chosen, base.results),
        partners=pairs,
        matrix=knot_by_cordage(base.results),
    )


def _across(base: Overview, logbook: Logbook, memory: Memory, progress: Progress) -> Overview:
    del logbook, progress
    return _with(
        base,
        across=across_sets(base.results, memory, base.asked.across),
        conditions=condition_contrasts(base.results),
    )


def _hands(base: Overview, logbook: Logbook, *_: object) -> Overview:
    return _with(base, hands=measure_all_hands(logbook, base.gathered))


def _claims(base: Overview, logbook: Logbook, *_: object) -> Overview:
    return _with(base, claims=judge_claims(logbook, base.gathered, base.results))


STRENGTHS = Work(add=_strength)
SLIPPING = Work(add=_slip)
JAMMING = Work(add=_jam)
WRAPS = Work(add=_wraps)
WORKED = Work(add=_work)
TYING = Work(add=_tying)
COMPARED = Work(add=_compare, of_every_lot=True)
ACROSS = Work(add=_across, of_every_pull=True, of_every_lot=True)
HANDS = Work(add=_hands, of_every_pull=True, of_every_lot=True)
CLAIMS = Work(add=_claims, of_every_pull=True, of_every_lot=True)
