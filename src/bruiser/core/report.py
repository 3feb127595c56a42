"""Everything these pulls say: every group rated, compared, and its chance of being best."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from bruiser.core.censored import Floats, Sample
from bruiser.core.compare import Comparison, chance_best, compare_all, letters
from bruiser.core.drift import Drift, TechnicianDrift, order_drift, technician_drift
from bruiser.core.efficiency import Against, Case, Priors, baseline_caveats
from bruiser.core.jamming import JamResult, jam_load, untying_time
from bruiser.core.measurement import LoadCell
from bruiser.core.rate import Rated, rate_groups
from bruiser.core.security import SurvivalStep, cycles_survival
from bruiser.core.strength import Caveat, Estimate, Interval, OutcomeCounts, estimate, estimates
from bruiser.core.tolerance import ToleranceBound, lower_tolerance_bounds
from bruiser.core.wraps import WrapFit, WrapSample, fit_wraps

_EMPTY = np.empty(0)


@dataclass(frozen=True)
class PullContext:
    """When and by whom a pull was made, for drift; None or empty where not recorded."""

    order: float | None = None
    day: float | None = None
    technician: str = ""


@dataclass(frozen=True)
class GroupData:
    """The readings of one group; `knot` None is the plain rope.

    Parameters
    ----------
    sample : Sample
        Evidence for holding strength (for the baseline: plain strength).
    jam_load_n, jam_level : ndarray, shape (j,)
        Peak that each inspected knot had seen, and its ordered jam level.
    cycles, cycles_failed : ndarray, shape (c,)
        Cycles done and whether it failed there.
    breaking : Sample or None
        Evidence for breaking strength, in which a run-out is only a floor.
    untie : Sample or None
        ln of the untying time in second; giving up is a floor.
    context : tuple of PullContext
        One a pull of `sample`, or empty.
    cells : tuple of LoadCell
        Load cells the pulls were taken on.
    cordage_b : str
        The second cordage of an unlike pair; the weaker baseline is the reference.
    """

    cordage: str
    condition: str
    knot: str | None
    sample: Sample
    counts: OutcomeCounts
    cordage_b: str = ""
    jam_load_n: Floats = field(default_factory=lambda: _EMPTY)
    jam_level: Floats = field(default_factory=lambda: _EMPTY)
    cycles: Floats = field(default_factory=lambda: _EMPTY)
    cycles_failed: Floats = field(default_factory=lambda: _EMPTY)
    wraps: WrapSample | None = None
    caveats: tuple[Caveat, ...] = ()
    rating_n: float | None = None
    breaking: Sample | None = None
    untie: Sample | None = None
    context: tuple[PullContext, ...] = ()
    cells: tuple[LoadCell, ...] = ()


@dataclass(frozen=True)
class GroupResult:
    """What one group says; `rated` is None for a baseline."""

    data: GroupData
    estimate: Estimate | None
    tolerance: dict[float, ToleranceBound]
    rated: Rated | None = None
    other: Rated | None = None
    reference: str = ""
    jam: JamResult | None = None
    survival: tuple[SurvivalStep, ...] = ()
    wraps: WrapFit | None = None
    caveats: tuple[Caveat, ...] = ()
    breaking: Estimate | None = None
    untie_s: Interval | None = None


@dataclass(frozen=True)
class Family:
    """The knots of one cordage and condition beside one another."""

    cordage: str
    condition: str
    knots: tuple[str, ...]
    comparisons: tuple[Comparison, ...]
    letters: tuple[str, ...]
    chance_best: tuple[float | None, ...]
    drifts: tuple[Drift, ...] = ()
    technicians: TechnicianDrift | None = None


@dataclass(frozen=True)
class Report:
    """All groups and all families."""

    groups: tuple[GroupResult, ...]
    families: tuple[Family, ...]


_NOTHING = Sample(_EMPTY, _EMPTY, _EMPTY)


def make_report(
    groups: list[GroupData], priors: Priors | None = None, against: Against = Against.TYPICAL
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

    Returns
    -------
    Report
        Groups in the order given.
    """
    baselines = {(g.cordage, g.condition): g for g in groups if g.knot is None}
    fitted = _baseline_results(list(baselines.values()))
    knots = [g for g in groups if g.knot is not None]
    cases, references, others = [], [], []
    for g in knots:
        first, second = _references(g, baselines, fitted)
        references.append(first)
        others.append(second)
        sample = _NOTHING if first is None else baselines[first, g.condition].sample
        under = () if first is None else baselines[first, g.condition].cells
        caveats = (*g.caveats, *_pair_caveats(g, baselines))
        cases.append(Case(g.sample, sample, g.counts, g.rating_n, caveats, (g.cells, under)))
    rated = rate_groups(cases, priors, against)
    beside = _rate_others(knots, others, baselines, priors, against)
    results: dict[int, GroupResult] = {id(g): r for g, r in fitted.values()}
    for k, g in enumerate(knots):
        base = fitted.get((references[k] or "", g.condition))
        results[id(g)] = _knot_result(
            g, rated[k], beside[k], references[k] or "", None if base is None else base[1]
        )
    families = _families([results[id(g)] for g in knots])
    return Report(tuple(results[id(g)] for g in groups), tuple(families))


Fitted = dict[tuple[str, str], tuple[GroupData, GroupResult]]


def _baseline_results(baselines: list[GroupData]) -> Fitted:
    samples = [g.sample for g in baselines]
    bounds = lower_tolerance_bounds(samples)
    rows = zip(baselines, estimates(samples), bounds, strict=True)
    return {
        (g.cordage, g.condition): (
            g,
            GroupResult(
                g, e, b, caveats=(*g.caveats, *baseline_caveats(g.sample, Against.TYPICAL))
            ),
        )
        for g, e, b in rows
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


def _rate_others(
    knots: list[GroupData],
    others: list[str | None],
    baselines: dict[tuple[str, str], GroupData],
    priors: Priors | None,
    against: Against,
) -> list[Rated | None]:
    """The same knots against the stronger baseline of an unlike pair."""
    rows = [k for k, name in enumerate(others) if name is not None]
    found: list[Rated | None] = [None] * len(knots)
    cases = [
        Case(
            knots[k].sample,
            baselines[others[k] or "", knots[k].condition].sample,
            knots[k].counts,
            knots[k].rating_n,
        )
        for k in rows
    ]
    for k, rated in zip(rows, rate_groups(cases, priors, against), strict=True):
        found[k] = rated
    return found


def _knot_result(
    g: GroupData, rated: Rated, other: Rated | None, reference: str, base: GroupResult | None
) -> GroupResult:
    jam = None
    if len(g.jam_load_n) and base is not None and base.estimate is not None:
        jam = jam_load(g.jam_load_n / base.estimate.median_n, g.jam_level, g.sample.pull_ids)
    survival = cycles_survival(g.cycles.astype(int), g.cycles_failed.astype(bool))
    return GroupResult(
        g,
        rated.estimate,
        rated.tolerance,
        rated,
        other,
        reference,
        jam,
        survival,
        None if g.wraps is None else fit_wraps(g.wraps),
        rated.efficiency.caveats,
        None if g.breaking is None else estimate(g.breaking),
        None if g.untie is None else untying_time(g.untie),
    )


def _families(results: list[GroupResult]) -> list[Family]:
    """Groups of one cordage (pair) and condition, compared with one another."""
    keys = dict.fromkeys((r.data.cordage, r.data.cordage_b, r.data.condition) for r in results)
    found = []
    for key in keys:
        own = [r for r in results if (r.data.cordage, r.data.cordage_b, r.data.condition) == key]
        samples = [r.data.sample for r in own]
        compared = compare_all(samples)
        order = sorted(range(len(own)), key=lambda k: -_typical(own[k]))
        found.append(
            Family(
                key[0] if not key[1] else f"{key[0]} + {key[1]}",
                key[2],
                tuple(str(r.data.knot) for r in own),
                tuple(compared),
                tuple(letters(len(own), compared, order)),
                tuple(chance_best(samples)),
                *_drifts(own),
            )
        )
    return found


def _drifts(results: list[GroupResult]) -> tuple[tuple[Drift, ...], TechnicianDrift | None]:
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
