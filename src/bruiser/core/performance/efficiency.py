"""Efficiency: how much of the plain rope's strength a knot keeps, with what that rests on."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.compare import stack_marginals
from bruiser.core.statistics.ends import EndsAlike, ends_alike
from bruiser.core.statistics.measurement import LoadCell, ratio_with_cells, with_cell
from bruiser.core.statistics.posterior import (
    BASELINE_PRIOR,
    KNOT_PRIOR,
    PRIOR_FREE,
    Marginal,
    Posterior,
    SpreadPrior,
    posterior,
    ratio_quantiles,
)
from bruiser.core.statistics.strength import (
    Caveat,
    Estimate,
    Interval,
    OutcomeCounts,
    estimates,
    plain_mean_ratio,
)

SHARES = (0.025, 0.5, 0.975)
WIDE_SPREAD = 0.20


class Against(StrEnum):
    """What an efficiency is a share of."""

    TYPICAL = "typical"
    LOWEST = "lowest"
    RATING = "rating"


AGAINST_WORDS = {
    Against.TYPICAL: "measured typical against measured typical plain rope",
    Against.LOWEST: "measured typical against the lowest plain-rope pull",
    Against.RATING: "measured typical against the maker's rating",
}

_FARTHEST = 700.0
"""Of a logarithm, so that its number can be held."""


@dataclass(frozen=True)
class Priors:
    """The priors a result was computed with; they are recorded with it."""

    knot: SpreadPrior = KNOT_PRIOR
    baseline: SpreadPrior = BASELINE_PRIOR


@dataclass(frozen=True, kw_only=True)
class Case:
    """One knot with the baseline it is measured against.

    `rated_n` is needed only for that definition; `cells` are the load cells of the knot's pulls
    and of the baseline's.
    """

    knot: Sample
    baseline: Sample
    counts: OutcomeCounts
    rated_n: float | None = None
    more_caveats: tuple[Caveat, ...] = ()
    cells: tuple[tuple[LoadCell, ...], tuple[LoadCell, ...]] = ((), ())


@dataclass(frozen=True, kw_only=True)
class Efficiency:
    """Knotted strength as a share of the plain rope's, with what it rests on.

    Parameters
    ----------
    interval : Interval or None
        Posterior median with 2.5 and 97.5 % quantiles; None when the pulls do not allow one.
    prior_free : Interval or None
        The same under the prior-free 1/sigma.
    at_least : float or None
        The largest share any specimen is known to have held, when nothing gave.
    plain_mean : float or None
        What a notebook would do.
    marginal : Marginal or None
        Posterior of the knot's ln strength, one row; None where nothing gave.
    """

    interval: Interval | None
    counts: OutcomeCounts
    against: Against
    method: str
    prior: str
    caveats: tuple[Caveat, ...]
    pull_ids: tuple[str, ...]
    prior_free: Interval | None = None
    at_least: float | None = None
    plain_mean: float | None = None
    ends: EndsAlike | None = None
    marginal: Marginal | None = None
    measurement: str = "load cells not recorded"


def efficiencies(
    cases: list[Case],
    priors: Priors | None = None,
    against: Against = Against.TYPICAL,
    known: Posterior | None = None,
) -> list[Efficiency]:
    """Efficiency of many knots at once.

    Parameters
    ----------
    cases : list of Case
        Knots with their baselines; a baseline shared by several is computed once.
    priors : Priors, optional
        Priors of the spreads.
    against : Against
        The definition.
    known : Posterior, optional
        Prior-free posterior of the knots that have one, in order, where it is known already.

    Returns
    -------
    list of Efficiency
        In the same order.

    Notes
    -----
    E = exp(mu_knot - mu_baseline), the ratio of medians, from the posterior of
    :mod:`bruiser.core.statistics.posterior`. Against the lowest pull or the rating the reference is
    taken as a known constant, and a caveat says so.
    """
    used = priors or Priors()
    knots = [case.knot for case in cases]
    bases = list({id(case.baseline): case.baseline for case in cases}.values())
    own = tabulate(knots, used.knot, known)
    default = _intervals(cases, own, tabulate(bases, used.baseline), against)
    free = _intervals(
        cases, tabulate(knots, PRIOR_FREE, known), tabulate(bases, PRIOR_FREE), against
    )
    found = estimates(knots)
    medians = {
        id(base): None if e is None else e.median_n
        for base, e in zip(bases, estimates(bases), strict=True)
    }
    return [
        replace(
            _record(case, default[k], free[k], found[k], medians[id(case.baseline)], used, against),
            marginal=own.of(case.knot),
        )
        for k, case in enumerate(cases)
    ]


@dataclass(frozen=True)
class Tabulated:
    """Posterior marginals of the groups that allow one; `row` leads from a sample to its own."""

    table: Marginal | None
    row: dict[int, int]

    def of(self, sample: Sample) -> Marginal | None:
        """The marginal of one sample; None where it allows none."""
        at = self.row.get(id(sample))
        return None if at is None or self.table is None else self.table.take([at])


def tabulate(samples: list[Sample], prior: SpreadPrior, free: Posterior | None = None) -> Tabulated:
    """Posterior marginals of all groups that allow one under a prior.

    `free` is the prior-free posterior of those that have one, in order, where it was computed
    already; another prior only weighs its spreads anew.
    """
    ready = [s for s in samples if s.estimable] if free is not None else []
    known = {id(s) for s in ready}
    allowed = [s for s in samples if (s.estimable if prior.flat else s.event_count > 0)]
    rest = [s for s in allowed if id(s) not in known]
    tables = []
    if free is not None and ready:
        tables.append((free if prior.flat else free.under(prior)).table())
    if rest:
        tables.append(posterior(rest, prior).table())
    if not tables:
        return Tabulated(None, {})
    return Tabulated(stack_marginals(tables), {id(s): n for n, s in enumerate((*ready, *rest))})


def _intervals(
    cases: list[Case], knots: Tabulated, bases: Tabulated, against: Against
) -> list[Interval | None]:
    found: list[Interval | None] = [None] * len(cases)
    rows = [k for k, case in enumerate(cases) if id(case.knot) in knots.row]
    if against is Against.TYPICAL:
        rows = [k for k in rows if id(cases[k].baseline) in bases.row]
    else:
        rows = [k for k in rows if reference_n(cases[k], against) is not None]
    if not rows or knots.table is None:
        return found
    own = knots.table.take([knots.row[id(cases[k].knot)] for k in rows])
    if against is Against.TYPICAL and bases.table is not None:
        lined_up = bases.table.take([bases.row[id(cases[k].baseline)] for k in rows])
        quantiles = ratio_quantiles(own, lined_up, SHARES)
    else:
        references = np.array([reference_n(cases[k], against) for k in rows], dtype=np.float64)
        quantiles = np.array([_marginal_quantile(own, share) for share in SHARES])
        quantiles = quantiles - np.log(references)
    for n, k in enumerate(rows):
        # Where next to nothing is known an end may lie beyond any number there is.
        low, middle, high = np.exp(np.clip(quantiles[:, n], -_FARTHEST, _FARTHEST))
        found[k] = Interval(float(middle), float(low), float(high))
    return found


def _marginal_quantile(table: Marginal, share: float) -> np.ndarray:
    return np.array(
        [np.interp(share, c, m) for c, m in zip(table.cdf, table.mu, strict=True)], dtype=np.float64
    )


def reference_n(case: Case, against: Against) -> float | None:
    """The constant reference of a definition, in newton; None where there is none."""
    if against is Against.RATING:
        return case.rated_n
    seen = case.baseline.ln_load[case.baseline.events > 0]
    return math.exp(float(seen.min())) if len(seen) else None


def _record(
    case: Case,
    interval: Interval | None,
    free: Interval | None,
    estimate: Estimate | None,
    baseline_n: float | None,
    priors: Priors,
    against: Against,
) -> Efficiency:
    caveats = list(case.more_caveats)
    caveats += baseline_caveats(case.baseline, against)
    caveats += knot_caveats(case.knot, None if estimate is None else estimate.sigma)
    alike = ends_alike(case.knot)
    if alike is not None and alike.warns:
        caveats.append(
            Caveat("ends alike", "the two ends of a specimen behave alike; the figure is too high")
        )
    at_least = None
    typical = against is Against.TYPICAL
    reference = baseline_n if typical else reference_n(case, against)
    if case.knot.event_count == 0 and len(case.knot.ln_load) and reference is not None:
        at_least = math.exp(float(case.knot.ln_load.max())) / reference
    interval, measurement = _measured(interval, case, against)
    free, _ = _measured(free, case, against)
    return Efficiency(
        interval=interval,
        counts=case.counts,
        against=against,
        method="posterior, median and 95 % interval",
        prior=f"knot {priors.knot.words()}; baseline {priors.baseline.words()}",
        caveats=tuple(caveats),
        pull_ids=case.knot.pull_ids,
        prior_free=free,
        at_least=at_least,
        plain_mean=plain_mean_ratio(case.knot, case.baseline),
        ends=alike,
        measurement=measurement,
    )


def _measured(
    interval: Interval | None, case: Case, against: Against
) -> tuple[Interval | None, str]:
    """The interval with what the load cells add, and which that is."""
    over, under = case.cells
    if interval is None or not over or not (under or against is Against.RATING):
        return interval, "load cells not recorded"
    load = math.exp(float(case.knot.ln_load.mean()))
    if against is Against.RATING:
        found = with_cell(interval, over, load)
    else:
        found = ratio_with_cells(interval, over, under, load)
    return found.interval, found.words


def baseline_caveats(baseline: Sample, against: Against) -> list[Caveat]:
    """What weakens the reference."""
    if against is Against.RATING:
        return [Caveat("rating used", "against the maker's rating, not a measured baseline")]
    if not len(baseline.ln_load):
        return [Caveat("no baseline", "no baseline pulls of this lot and condition")]
    found = []
    events, pulls = baseline.event_count, len(baseline.ln_load)
    if against is Against.LOWEST:
        words = f"against the lowest of {events} clear pulls, which sinks as more are made"
        found.append(Caveat("lowest of n", words))
    if events == 0:
        words = f"none of {pulls} baseline pulls broke clear: the true strength is higher"
        found.append(Caveat("baseline floor only", words))
    elif events < 3:
        found.append(Caveat("thin baseline", f"baseline from {events} clear breaks of {pulls}"))
    return found


def knot_caveats(knot: Sample, sigma: float | None) -> list[Caveat]:
    """What weakens the knot's own figure."""
    events = knot.event_count
    if not len(knot.ln_load):
        return [Caveat("no pulls", "never pulled in this lot and condition")]
    if events == 0:
        return [Caveat("floor only", "floor only: nothing gave at this knot")]
    if events < 3:
        return [Caveat("few events", f"few events: {events} observed failures")]
    if sigma is not None and sigma > WIDE_SPREAD:
        words = f"spread of {100 * sigma:.0f} %: the interval may be too narrow"
        return [Caveat("wide spread", words)]
    if not knot.estimable:
        return [Caveat("no spread", "all observed loads are equal; the spread is the prior's")]
    return []
