"""Everything these pulls say: every group rated, compared, and its chance of being best."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from bruiser.core.behaviour.jamming import JamResult, jam_load, untying_times
from bruiser.core.behaviour.security import SurvivalStep, cycles_survival
from bruiser.core.behaviour.work import NOTHING_DONE, WorkResult, measure_works
from bruiser.core.behaviour.wraps import WrapFit, fit_wraps
from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Against, Case, Priors, baseline_caveats
from bruiser.core.performance.evidence import GroupData, PullContext
from bruiser.core.performance.knot_strength import KnotStrength, measure_groups
from bruiser.core.progress import Progress, no_progress
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.compare import Comparison, chance_best, compare_all, letters
from bruiser.core.statistics.drift import Drift, TechnicianDrift, order_drift, technician_drift
from bruiser.core.statistics.posterior import Marginal
from bruiser.core.statistics.strength import Caveat, Estimate, Interval, estimates
from bruiser.core.statistics.tolerance import ToleranceBound, lower_tolerance_bounds

_EMPTY = np.empty(0)


@dataclass(frozen=True, kw_only=True)
class GroupResult:
    """What one group says; `rated` is None for a baseline.

    Parameters
    ----------
    reference, reference_n : str, float or None
        The cordage it is measured against, and its typical strength in newton.
    """

    data: GroupData
    estimate: Estimate | None
    tolerance: dict[float, ToleranceBound]
    rated: KnotStrength | None = None
    other: KnotStrength | None = None
    reference: str = ""
    jam: JamResult | None = None
    survival: tuple[SurvivalStep, ...] = ()
    shaken: tuple[SurvivalStep, ...] = ()
    work: WorkResult = NOTHING_DONE
    wraps: WrapFit | None = None
    caveats: tuple[Caveat, ...] = ()
    breaking: Estimate | None = None
    untie_s: Interval | None = None
    reference_n: float | None = None


@dataclass(frozen=True, kw_only=True)
class Family:
    """The knots of one cordage and condition beside one another."""

    cordage: str
    condition: str
    results: tuple[GroupResult, ...]
    comparisons: tuple[Comparison, ...]
    letters: tuple[str, ...]
    chance_best: tuple[float | None, ...]
    drifts: tuple[Drift, ...] = ()
    technicians: TechnicianDrift | None = None

    @property
    def knots(self) -> tuple[str, ...]:
        """Names of its knots."""
        return tuple(str(r.data.knot) for r in self.results)


@dataclass(frozen=True)
class Report:
    """All groups and all families."""

    groups: tuple[GroupResult, ...]
    families: tuple[Family, ...]


Fitted = dict[tuple[str, str], tuple[GroupData, GroupResult]]
_NOTHING = Sample(ln_load=_EMPTY, events=_EMPTY, floors=_EMPTY)
AT_ONCE = 100


def make_report(
    groups: list[GroupData],
    priors: Priors | None = None,
    against: Against = Against.TYPICAL,
    *,
    memory: Memory | None = None,
    progress: Progress = no_progress,
) -> Report:
    """Rate every group and compare those of one cordage and condition.

    Parameters
    ----------
    groups : list of GroupData
        Baselines and knots.
    priors : Priors, optional
        Priors of the spreads.
    against : Against
        Definition of efficiency.
    memory : Memory, optional
        What was computed before; only groups whose readings or reference changed are computed.
    progress : callable
        Told after every part how many groups are done; may raise ``Cancelled``.

    Returns
    -------
    Report
        Groups in the order given.
    """
    kept = Memory() if memory is None else memory
    rules: Hashable = (priors, against)
    baselines = {(g.cordage, g.condition): g for g in groups if g.knot is None}
    fitted = _baseline_results(list(baselines.values()), kept)
    results: dict[int, GroupResult] = {id(g): r for g, r in fitted.values()}
    tasks = [_task(g, baselines, fitted, rules) for g in groups if g.knot is not None]
    known = {id(t.data): kept.recall(t.key, lasts=True) for t in tasks}
    missing = [t for t in tasks if known[id(t.data)] is None]
    done = len(groups) - len(missing)
    for start in range(0, len(missing), AT_ONCE):
        progress(done + start, len(groups))
        part = missing[start : start + AT_ONCE]
        for task, result in zip(part, _rate(part, priors, against), strict=True):
            known[id(task.data)] = kept.keep(task.key, result, lasts=True)
    results |= {key: r for key, r in known.items() if r is not None}
    families = _families([(t.key, results[id(t.data)]) for t in tasks], kept)
    progress(len(groups), len(groups))
    return Report(tuple(results[id(g)] for g in groups), tuple(families))


@dataclass(frozen=True, kw_only=True)
class _Task:
    """A knot to be rated, with the baselines it is measured against."""

    data: GroupData
    first: tuple[GroupData, GroupResult] | None
    second: GroupData | None
    caveats: tuple[Caveat, ...]
    key: Hashable


def _task(
    g: GroupData,
    baselines: dict[tuple[str, str], GroupData],
    fitted: Fitted,
    rules: Hashable,
) -> _Task:
    first, second = _references(g, baselines, fitted)
    base = None if first is None else fitted[first, g.condition]
    other = None if second is None else baselines[second, g.condition]
    caveats = (*g.caveats, *_pair_caveats(g, baselines))
    key = (
        rules,
        g.content,
        None if base is None else base[0].content,
        None if other is None else other.content,
        caveats,
    )
    return _Task(data=g, first=base, second=other, caveats=caveats, key=key)


def _rate(tasks: list[_Task], priors: Priors | None, against: Against) -> list[GroupResult]:
    """Rate some knots at once."""
    cases, beside = [], []
    for t in tasks:
        g, base = t.data, None if t.first is None else t.first[0]
        sample, under = (_NOTHING, ()) if base is None else (base.sample, base.cells)
        cases.append(
            Case(
                knot=g.sample,
                baseline=sample,
                counts=g.counts,
                rated_n=g.rated_n,
                more_caveats=t.caveats,
                cells=(g.cells, under),
            )
        )
        if t.second is not None:
            beside.append(
                Case(knot=g.sample, baseline=t.second.sample, counts=g.counts, rated_n=g.rated_n)
            )
    others = iter(measure_groups(beside, priors, against))
    untied = iter(untying_times([t.data.untie for t in tasks if t.data.untie is not None]))
    breaking = iter(estimates([t.data.breaking for t in tasks if t.data.breaking is not None]))
    works = measure_works(
        [(t.data.work, None if t.first is None else _own_baseline(t)) for t in tasks]
    )
    found = []
    for work, t, rated in zip(works, tasks, measure_groups(cases, priors, against), strict=True):
        broke = None if t.data.breaking is None else next(breaking)
        other = None if t.second is None else next(others)
        name, base_result = ("", None) if t.first is None else (t.first[0].cordage, t.first[1])
        untie_s = None if t.data.untie is None else next(untied)
        made = _knot_result(t.data, rated, other, name, base_result, untie_s, broke)
        found.append(replace(made, work=work))
    return found


def _own_baseline(task: _Task) -> Sample | None:
    """Plain rope of the cord itself, which a grip is a share of: never that of the host."""
    own = [g for g in (task.first and task.first[0], task.second) if g is not None]
    return next((g.sample for g in own if g.cordage == task.data.cordage), None)


def _baseline_results(baselines: list[GroupData], kept: Memory) -> Fitted:
    known: dict[int, GroupResult | None] = {
        id(g): kept.recall(g.content, lasts=True) for g in baselines
    }
    missing = [g for g in baselines if known[id(g)] is None]
    samples = [g.sample for g in missing]
    bounds = lower_tolerance_bounds(samples)
    for g, e, b in zip(missing, estimates(samples), bounds, strict=True):
        caveats = (*g.caveats, *baseline_caveats(g.sample, Against.TYPICAL))
        known[id(g)] = kept.keep(
            g.content, GroupResult(data=g, estimate=e, tolerance=b, caveats=caveats), lasts=True
        )
    return {
        (g.cordage, g.condition): (g, result)
        for g in baselines
        if (result := known[id(g)]) is not None
    }


def _references(
    group: GroupData, baselines: dict[tuple[str, str], GroupData], fitted: Fitted
) -> tuple[str | None, str | None]:
    """The cordage whose baseline counts, and the other one of an unlike pair."""

    def strength(cordage: str) -> float:
        data, result = fitted[cordage, group.condition]
        if result.estimate is not None:
            return result.estimate.mu
        return float(data.sample.ln_load.max()) if len(data.sample.ln_load) else math.inf

    names = [c for c in (group.cordage, group.cordage_b) if (c, group.condition) in baselines]
    names.sort(key=strength)
    return (names[0] if names else None), (names[1] if len(names) > 1 else None)


def _pair_caveats(
    group: GroupData, baselines: dict[tuple[str, str], GroupData]
) -> tuple[Caveat, ...]:
    """Says so when only one cordage of an unlike pair was measured."""
    pair = [c for c in (group.cordage, group.cordage_b) if c]
    lacking = [c for c in pair if (c, group.condition) not in baselines]
    if len(pair) < 2 or len(lacking) != 1:
        return ()
    words = f"{lacking[0]} has no baseline: it may be the weaker of the two"
    return (Caveat("one baseline of two", words),)


def _knot_result(
    g: GroupData,
    rated: KnotStrength,
    other: KnotStrength | None,
    reference: str,
    base: GroupResult | None,
    untie_s: Interval | None,
    breaking: Estimate | None,
) -> GroupResult:
    jam = None
    if len(g.jam_load_n) and base is not None and base.estimate is not None:
        jam = jam_load(g.jam_load_n / base.estimate.median_n, g.jam_level, g.jam_pulls)
    survival = cycles_survival(g.cycles.astype(int), g.cycles_failed.astype(bool))
    shaken = cycles_survival(g.shakes.astype(int), g.shakes_failed.astype(bool))
    return GroupResult(
        data=g,
        estimate=rated.estimate,
        tolerance=rated.tolerance,
        rated=rated,
        other=other,
        reference=reference,
        jam=jam,
        survival=survival,
        shaken=shaken,
        wraps=None if g.wraps is None else fit_wraps(g.wraps),
        caveats=rated.efficiency.caveats,
        breaking=breaking,
        untie_s=untie_s,
        reference_n=None if base is None or base.estimate is None else base.estimate.median_n,
    )


def _families(rated: list[tuple[Hashable, GroupResult]], kept: Memory) -> list[Family]:
    """Groups of one cordage (pair) and condition, compared with one another.

    What is kept of a family is all but its results, which are kept themselves.
    """
    sorted_in: dict[tuple[str, str, str], list[tuple[Hashable, GroupResult]]] = {}
    for key, r in rated:
        where = (r.data.cordage, r.data.cordage_b, r.data.condition)
        sorted_in.setdefault(where, []).append((key, r))
    found = []
    for where, own in sorted_in.items():
        results = tuple(r for _, r in own)
        key = ("family", *(key for key, _ in own))
        family = kept.once(key, partial(_family, where, results), lasts=True)
        found.append(replace(family, results=results))
    return found


def _family(key: tuple[str, str, str], own: tuple[GroupResult, ...]) -> Family:
    samples = [r.data.sample for r in own]
    compared = compare_all(samples, [r.estimate for r in own])
    marginals = [None if r.rated is None else r.rated.efficiency.marginal for r in own]
    order = sorted(range(len(own)), key=lambda k: -_typical(own[k]))
    drifts, technicians = _drifts(own)
    return Family(
        cordage=key[0] if not key[1] else f"{key[0]} + {key[1]}",
        condition=key[2],
        results=(),
        comparisons=tuple(compared),
        letters=tuple(letters(len(own), compared, order)),
        chance_best=_chances(own, marginals),
        drifts=drifts,
        technicians=technicians,
    )


def _chances(
    own: tuple[GroupResult, ...], marginals: list[Marginal | None]
) -> tuple[float | None, ...]:
    """Chance of each to be the strongest of its family: a loop is no better bend."""
    found: list[float | None] = [None] * len(own)
    for name in dict.fromkeys(r.data.family for r in own):
        mine = [k for k, r in enumerate(own) if r.data.family == name]
        for k, chance in zip(mine, chance_best([marginals[k] for k in mine]), strict=True):
            found[k] = chance
    return tuple(found)


def _drifts(results: tuple[GroupResult, ...]) -> tuple[tuple[Drift, ...], TechnicianDrift | None]:
    """Drift of a family: each observed strength against the mean of those of its own group."""
    rows: list[tuple[PullContext, float]] = []
    for r in results:
        seen = r.data.sample.events > 0
        if r.estimate is None or len(r.data.context) != len(seen):
            continue
        away = r.data.sample.ln_load - r.data.sample.ln_load[seen].mean()
        rows += [(c, float(v)) for c, v, e in zip(r.data.context, away, seen, strict=True) if e]
    found = []
    for by in ("order", "day"):
        placed = [(getattr(c, by), v) for c, v in rows if getattr(c, by) is not None]
        position = np.array([p for p, _ in placed], dtype=np.float64)
        drift = order_drift(position, np.array([v for _, v in placed], dtype=np.float64), by)
        found += [] if drift is None else [drift]
    named = [(c.technician, v) for c, v in rows if c.technician]
    people = technician_drift([n for n, _ in named], np.array([v for _, v in named]))
    return tuple(found), people


def _typical(result: GroupResult) -> float:
    if result.estimate is not None:
        return result.estimate.mu
    loads = result.data.sample.ln_load
    return float(loads.max()) if len(loads) else -math.inf
