"""Results of a lot: baseline and every knot, each number with the pulls behind it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Against, Efficiency
from bruiser.core.performance.evidence import GroupData
from bruiser.core.performance.groups import GroupKey
from bruiser.core.performance.knot_strength import KnotStrength
from bruiser.core.performance.report import Family, GroupResult, Report, make_report
from bruiser.core.progress import Progress, no_progress
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.records import Knot, Lot, Outcome, Role
from bruiser.core.statistics.strength import Estimate, OutcomeCounts, estimate
from bruiser.workshop.groups.gathering import Gathered, Group, Tried, data_of, gather, names_of
from bruiser.workshop.groups.work_pulls import work_of
from bruiser.workshop.logbook.logbook import Logbook


@dataclass(frozen=True, kw_only=True)
class PullMark:
    """One pull in a result: what it was, its share of the baseline, and why it is left out."""

    pull_id: str
    code: str
    kind: Outcome
    load_n: float
    share: float | None
    left_out: str = ""


@dataclass(frozen=True)
class BaselineResult:
    """The plain rope of a lot."""

    lot: Lot
    result: GroupResult
    marks: tuple[PullMark, ...]

    @property
    def counts(self) -> OutcomeCounts:
        """Specimens by outcome."""
        return self.result.data.counts

    @property
    def estimate(self) -> Estimate | None:
        """Maximum-likelihood strength."""
        return self.result.estimate

    @property
    def median_n(self) -> float | None:
        """Typical strength in newton."""
        return None if self.estimate is None else self.estimate.median_n


@dataclass(frozen=True, kw_only=True)
class KnotResult:
    """One knot in one lot; knots that share a letter cannot be told apart.

    Parameters
    ----------
    whole : Rated or None
        The same with the pulls that were left out; None where none was.
    """

    key: GroupKey
    knot: Knot
    lot: Lot
    result: GroupResult
    rated: KnotStrength
    marks: tuple[PullMark, ...]
    letters: str
    chance_best: float | None
    group: Group
    whole: KnotStrength | None = None

    @property
    def name(self) -> str:
        """The knot, with its pin or dressing where a lot has more than one."""
        return str(self.result.data.knot)

    @property
    def efficiency(self) -> Efficiency:
        """Share of the plain rope's strength kept."""
        return self.rated.efficiency


@dataclass(frozen=True)
class LotResults:
    """A lot's baseline and knots, strongest first."""

    baseline: BaselineResult
    knots: tuple[KnotResult, ...]
    families: tuple[Family, ...]


def _of_strength(group: Group) -> bool:
    return tells(group.method, Tells.STRENGTH)


@dataclass(frozen=True)
class Look:
    """How results are looked at.

    Parameters
    ----------
    against : Against
        What an efficiency is a share of.
    shows : callable
        Which groups are shown; only those are compared with one another.
    """

    against: Against = Against.TYPICAL
    shows: Callable[[Group], bool] = _of_strength


PLAIN_LOOK = Look()


def baseline_median_n(logbook: Logbook, lot: Lot) -> float | None:
    """Typical strength of the plain rope of a lot, or None where it was not measured."""
    plain = gather(logbook, lot_ids=(lot.id,), role=Role.BASELINE).plain[lot.id]
    found = estimate(data_of(plain, None).sample)
    return None if found is None else found.median_n


def campaign_report(logbook: Logbook) -> Report:
    """Every baseline and knot of the campaign."""
    gathered = gather(logbook)
    groups = []
    for lot_id, plain in gathered.plain.items():
        groups += [data_of(plain, None), *_knot_data(gathered.tied[lot_id].values(), untying=True)]
    return make_report(groups)


def _knot_data(groups: Iterable[Group], *, untying: bool = False) -> list[GroupData]:
    own = list(groups)
    names = names_of(own)
    named = [(g, None if g.key is None else names[g.key]) for g in own]
    return [replace(data_of(g, name, untying=untying), work=work_of(g)) for g, name in named]


def lot_results(logbook: Logbook, lot: Lot) -> LotResults:
    """Baseline and knots of a lot; knots without any finding are left out."""
    return all_results(gather(logbook, lot_ids=(lot.id,)), lots=(lot.id,))[lot.id]


def all_results(
    gathered: Gathered,
    look: Look = PLAIN_LOOK,
    *,
    lots: tuple[str, ...] = (),
    memory: Memory | None = None,
    progress: Progress = no_progress,
) -> dict[str, LotResults]:
    """Results of some lots, by lot id.

    Parameters
    ----------
    gathered : Gathered
        The pulls.
    look : Look
        How they are looked at.
    lots : tuple of str
        Which lots; empty for all.
    memory : Memory, optional
        What was computed before: only groups whose pulls changed are computed again.
    progress : callable
        Told how many groups of how many are done; may raise ``Cancelled``.
    """
    wanted = lots or tuple(gathered.plain)
    kept = Memory() if memory is None else memory
    shown = {
        lot_id: [g for g in gathered.tied[lot_id].values() if look.shows(g)] for lot_id in wanted
    }
    rated = _rate(gathered, shown, look.against, kept, progress)
    found = {}
    for lot_id, own in shown.items():
        plain = gathered.plain[lot_id]
        whole = _with_left_out(gathered, plain, own, look.against, kept)
        found[lot_id] = _lot_results(plain, own, rated[lot_id], whole, look.against)
    return found


@dataclass(frozen=True)
class _RatedLot:
    """Plain rope, then the knots of a lot in the order given, and their families."""

    groups: tuple[GroupResult, ...]
    families: tuple[Family, ...]


def _rate(
    gathered: Gathered,
    shown: dict[str, list[Group]],
    against: Against,
    memory: Memory,
    progress: Progress = no_progress,
) -> dict[str, _RatedLot]:
    """Rate the groups of several lots in one go; a bend of unlike lines sees both baselines.

    Two lots of one name and condition are told apart by their place in the campaign.
    """
    cordage = _cordages(gathered)
    wanted = dict.fromkeys(shown)
    for own in shown.values():
        pairs = {g.key.cordage_b for g in own if g.key is not None and g.knot_is_bend}
        wanted |= dict.fromkeys(k for k, p in gathered.plain.items() if p.lot.name in pairs)
    groups: list[GroupData] = []
    for lot_id in wanted:
        plain = data_of(gathered.plain[lot_id], None)
        if lot_id in shown or plain.counts.specimens:
            mine = [plain, *_knot_data(shown.get(lot_id, ()))]
            groups += [replace(g, cordage=cordage[lot_id]) for g in mine]
    report = make_report(groups, None, against, memory=memory, progress=progress)
    families: dict[tuple[str, str], list[Family]] = {}
    for family in report.families:
        first = family.results[0].data
        families.setdefault((first.cordage, first.condition), []).append(family)
    found, at = {}, 0
    for lot_id, own in shown.items():
        mine_too = report.groups[at : at + 1 + len(own)]
        at += len(mine_too)
        key = cordage[lot_id], gathered.plain[lot_id].lot.condition
        found[lot_id] = _RatedLot(mine_too, tuple(families.get(key, ())))
    return found


def _cordages(gathered: Gathered) -> dict[str, str]:
    """A name for the cordage of every lot: its own, with a number where another has it too."""
    seen: dict[tuple[str, str], int] = {}
    found = {}
    for lot_id, plain in gathered.plain.items():
        key = plain.lot.name, plain.lot.condition
        seen[key] = seen.get(key, 0) + 1
        found[lot_id] = key[0] if seen[key] == 1 else f"{key[0]} ({seen[key]})"
    return found


def _lot_results(
    plain: Group,
    own: list[Group],
    rated: _RatedLot,
    whole: dict[GroupKey, KnotStrength],
    against: Against,
) -> LotResults:
    base = rated.groups[0]
    placed = {
        id(result): (f.letters[k], f.chance_best[k])
        for f in rated.families
        for k, result in enumerate(f.results)
    }
    rows = []
    for group, result in zip(own, rated.groups[1:], strict=True):
        if result.rated is None or group.key is None or group.knot is None:
            raise ValueError(f"{result.data.knot} was not rated")
        own_letters, chance_best = placed[id(result)]
        rows.append(
            KnotResult(
                key=group.key,
                knot=group.knot,
                lot=group.lot,
                result=result,
                rated=result.rated,
                marks=_marks(group, _hundred_n(result.reference_n, base, group.lot, against)),
                letters=own_letters,
                chance_best=chance_best,
                group=group,
                whole=whole.get(group.key),
            )
        )
    rows.sort(key=lambda r: (-_order(r), r.name))
    typical = None if base.estimate is None else base.estimate.median_n
    reference = _hundred_n(typical, base, plain.lot, against)
    return LotResults(
        BaselineResult(plain.lot, base, _marks(plain, reference)), tuple(rows), rated.families
    )


def _hundred_n(
    typical_n: float | None, base: GroupResult, lot: Lot, against: Against
) -> float | None:
    """What stands at 100 %, in newton."""
    if against is Against.TYPICAL:
        return typical_n
    if against is Against.RATING:
        return lot.rated_strength_n
    sample = base.data.sample
    seen = sample.ln_load[sample.events > 0]
    return math.exp(float(seen.min())) if len(seen) else None


def _with_left_out(
    gathered: Gathered, plain: Group, own: list[Group], against: Against, memory: Memory
) -> dict[GroupKey, KnotStrength]:
    """Ratings as they would be had no pull been left out, where that makes a difference."""
    touched = [g for g in own if g.excluded or plain.excluded]
    if not touched:
        return {}
    lot_id = plain.lot.id
    everything = replace(gathered, plain={**gathered.plain, lot_id: plain.whole})
    rated = _rate(everything, {lot_id: [g.whole for g in touched]}, against, memory)[lot_id]
    pairs = zip(touched, rated.groups[1:], strict=True)
    return {g.key: r.rated for g, r in pairs if g.key is not None and r.rated is not None}


def _marks(group: Group, reference_n: float | None) -> tuple[PullMark, ...]:
    return tuple(_mark(t, reference_n) for t in (*group.tried, *group.excluded))


def _mark(tried: Tried, reference_n: float | None) -> PullMark:
    load = tried.load_n
    out = tried.entry.excluded
    return PullMark(
        pull_id=tried.finding.pull_id,
        code=tried.entry.specimen.code,
        kind=tried.kind,
        load_n=load,
        share=None if reference_n is None else load / reference_n,
        left_out="" if out is None else out.reason,
    )


def _order(row: KnotResult) -> float:
    if row.efficiency.interval is not None:
        return row.efficiency.interval.value
    known = [m.share for m in row.marks if m.share is not None]
    return max(known, default=-1.0)
