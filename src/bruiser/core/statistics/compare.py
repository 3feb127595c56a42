"""Which knots these pulls can tell apart, and the chance that each is the best."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtr, stdtrit

from bruiser.core.statistics.censored import Floats, Sample, bend_of, hazard
from bruiser.core.statistics.posterior import Marginal
from bruiser.core.statistics.strength import Estimate, Interval, estimates


@dataclass(frozen=True)
class Located:
    """An estimate of mu with its standard error and degrees of freedom."""

    mu: float
    error: float
    freedom: float


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """Two groups of one lot: difference of ln strength, p, and p adjusted for how many."""

    a: int
    b: int
    difference: float
    low: float
    high: float
    p: float
    p_adjusted: float

    @property
    def ratio(self) -> Interval:
        """Strength of a over that of b."""
        return Interval(math.exp(self.difference), math.exp(self.low), math.exp(self.high))


def locate(sample: Sample, found: Estimate | None) -> Located | None:
    """Standard error of mu from the observed information; None without an estimate.

    Notes
    -----
    Inverse of the negative Hessian in (mu, ln sigma) at the maximum, times events/(events - 1):
    the maximum-likelihood sigma is too small by that factor in an uncensored sample, where the
    result is then the usual s / sqrt n on events - 1 degrees of freedom.
    """
    events = sample.event_count
    if found is None or events < 2:
        return None
    z = (sample.ln_load - found.mu) / found.sigma
    h = hazard(z)
    bend = sample.floors * bend_of(h, z)
    i_mm = (sample.events + bend).sum() / found.sigma**2
    i_ms = (2 * sample.events * z + sample.floors * h + bend * z).sum() / found.sigma
    i_ss = (2 * sample.events * z * z + sample.floors * z * h + bend * z * z).sum()
    variance = 1.0 / (i_mm - i_ms**2 / i_ss)
    error = math.sqrt(float(variance) * events / (events - 1))
    return Located(found.mu, error, float(events - 1))


def welch(a: Located, b: Located) -> tuple[float, float, float]:
    """Difference, its standard error, and Satterthwaite's degrees of freedom."""
    va, vb = a.error**2, b.error**2
    freedom = (va + vb) ** 2 / (va**2 / a.freedom + vb**2 / b.freedom)
    return a.mu - b.mu, math.sqrt(va + vb), freedom


def holm(p: list[float]) -> list[float]:
    """Holm's step-down adjustment: family error kept whatever the dependence."""
    order = sorted(range(len(p)), key=lambda k: p[k])
    adjusted, worst = [0.0] * len(p), 0.0
    for rank, k in enumerate(order):
        worst = max(worst, min(1.0, (len(p) - rank) * p[k]))
        adjusted[k] = worst
    return adjusted


def compare_all(
    samples: list[Sample], found: Sequence[Estimate | None] | None = None
) -> list[Comparison]:
    """Every pair of groups that allows it, with Holm's adjustment over all pairs.

    Parameters
    ----------
    samples : list of Sample
        The groups.
    found : sequence of Estimate, optional
        Their estimates, where they are known already.

    Notes
    -----
    The baseline cancels within a lot, so the difference of ln strength is that of efficiency.
    Intervals are unadjusted 95 %.
    """
    known = estimates(samples) if found is None else found
    placed = [locate(s, f) for s, f in zip(samples, known, strict=True)]
    rows = [k for k, one in enumerate(placed) if one is not None]
    pairs = [(a, b) for n, a in enumerate(rows) for b in rows[n + 1 :]]
    if not pairs:
        return []
    first, second = (np.array([_numbers(placed[p[n]]) for p in pairs]).T for n in (0, 1))
    difference = first[0] - second[0]
    va, vb = first[1] ** 2, second[1] ** 2
    error = np.sqrt(va + vb)
    freedom = (va + vb) ** 2 / (va**2 / first[2] + vb**2 / second[2])
    p = 2 * stdtr(freedom, -np.abs(difference) / error)
    reach = stdtrit(freedom, 0.975) * error
    low, high, adjusted = difference - reach, difference + reach, holm([float(v) for v in p])
    return [
        Comparison(
            a=a,
            b=b,
            difference=float(difference[k]),
            low=float(low[k]),
            high=float(high[k]),
            p=float(p[k]),
            p_adjusted=adjusted[k],
        )
        for k, (a, b) in enumerate(pairs)
    ]


def _numbers(place: Located | None) -> tuple[float, float, float]:
    return (0.0, 1.0, 1.0) if place is None else (place.mu, place.error, place.freedom)


def letters(
    count: int, comparisons: list[Comparison], order: list[int], level: float = 0.05
) -> list[str]:
    """Letters for groups: those that share one cannot be told apart.

    Parameters
    ----------
    count : int
        Number of groups.
    comparisons : list of Comparison
        Their comparisons; a pair that was not compared counts as not told apart.
    order : list of int
        Groups from strongest to weakest, for the order of the letters.
    level : float
        Adjusted p below which two are told apart.
    """
    apart = [(c.a, c.b) for c in comparisons if c.p_adjusted < level]
    return letters_of(count, apart, order)


def letters_of(count: int, apart: Sequence[tuple[int, int]], order: list[int]) -> list[str]:
    """Letters for groups of which some pairs are told apart.

    Notes
    -----
    Insert and absorb (H.-P. Piepho, "An algorithm for a letter-based representation of all
    pairwise comparisons", 2004).
    """
    columns: list[set[int]] = [set(range(count))] if count else []
    for a, b in apart:
        for column in [c for c in columns if a in c and b in c]:
            columns.remove(column)
            columns += [column - {a}, column - {b}]
        columns = [c for c in columns if c and not any(c < other for other in columns)]
        columns = [c for k, c in enumerate(columns) if c not in columns[:k]]
    place = {group: rank for rank, group in enumerate(order)}
    columns.sort(key=lambda c: sorted(place[g] for g in c))
    names = [_letter(k) for k in range(len(columns))]
    return ["".join(n for n, c in zip(names, columns, strict=True) if g in c) for g in range(count)]


def _letter(number: int) -> str:
    word = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        word = chr(97 + rest) + word
    return word


@dataclass(frozen=True)
class Paired:
    """Pairs cut from the same hank, one in each state: ratio of the first to the second."""

    ratio: Interval
    pairs: int
    p: float


def compare_paired(ln_first: Floats, ln_second: Floats) -> Paired | None:
    """Paired comparison of observed strengths; None with fewer than two pairs or no spread.

    Parameters
    ----------
    ln_first, ln_second : ndarray, shape (pairs,)
        ln strength of each partner; pairs in which a partner is only a floor are left out by the
        caller.

    Notes
    -----
    Student's t on the differences of ln strength.
    """
    difference = ln_first - ln_second
    n = len(difference)
    if n < 2 or float(difference.std()) < 1e-12:
        return None
    mean = float(difference.mean())
    error = float(difference.std(ddof=1)) / math.sqrt(n)
    reach = float(stdtrit(n - 1, 0.975)) * error
    p = 2 * float(stdtr(n - 1, -abs(mean) / error))
    ratio = Interval(math.exp(mean), math.exp(mean - reach), math.exp(mean + reach))
    return Paired(ratio, n, p)


def rank_chances(table: Marginal, points: int = 2001) -> Floats:
    """Chance of every group to have every rank, 0 the strongest.

    Parameters
    ----------
    table : Marginal
        Posterior marginals of the groups.
    points : int
        Points of the common grid.

    Returns
    -------
    ndarray, shape (g, g)
        Row: group; column: rank. Rows and columns sum to 1.

    Notes
    -----
    Given the strength of group k, each other is above it with 1 - F_j, independently; how many
    are above is Poisson-binomial, built by its recursion, and integrated over f_k. Column 0 is
    the integral of f_k times the product of the other F_j.
    """
    groups = len(table.centre)
    low = float((table.centre - 40 * table.spread).min())
    high = float((table.centre + 40 * table.spread).max())
    inner = [
        np.interp(np.linspace(0, 1, points), c, m) for c, m in zip(table.cdf, table.mu, strict=True)
    ]
    grid = np.unique(np.clip(np.concatenate(inner), low, high))
    cdf = table.probability(np.broadcast_to(grid, (groups, len(grid))))
    middle = 0.5 * (cdf[:, 1:] + cdf[:, :-1])
    mass = np.diff(cdf, axis=1)
    chances = np.zeros((groups, groups))
    for k in range(groups):
        above = np.zeros((groups, mass.shape[1]))
        above[0] = 1.0
        for j in range(groups):
            if j != k:
                beats = 1 - middle[j]
                above[1:] = above[1:] * (1 - beats) + above[:-1] * beats
                above[0] *= 1 - beats
        chances[k] = (above * mass[k]).sum(axis=1) / mass[k].sum()
    return chances


def best_chances(table: Marginal, points: int = 4_001) -> Floats:
    """Chance of every group to be the strongest; shape (g,).

    Notes
    -----
    The integral of f_k times the product of the other F_j, on one grid for all groups that is
    built from their own quantiles: column 0 of :func:`rank_chances` without the other ranks.
    """
    groups = len(table.centre)
    each = max(41, points // groups)
    share = np.linspace(0, 1, each)
    inner = [np.interp(share, c, m) for c, m in zip(table.cdf, table.mu, strict=True)]
    grid = np.unique(np.concatenate(inner))
    cdf = np.clip(table.probability(np.broadcast_to(grid, (groups, len(grid)))), 0.0, 1.0)
    log_f = np.log(np.maximum(0.5 * (cdf[:, 1:] + cdf[:, :-1]), 1e-300))
    mass = np.diff(cdf, axis=1)
    others = log_f.sum(axis=0) - log_f
    chance = (mass * np.exp(others)).sum(axis=1)
    return np.asarray(chance / chance.sum())


def chance_best(marginals: Sequence[Marginal | None]) -> list[float | None]:
    """Chance of each group to be the strongest; None for groups where nothing gave.

    Parameters
    ----------
    marginals : sequence of Marginal
        One row each: the posterior of the group's ln strength.
    """
    known = [(k, m) for k, m in enumerate(marginals) if m is not None]
    found: list[float | None] = [None] * len(marginals)
    if known:
        chances = best_chances(stack_marginals([m for _, m in known]))
        for (k, _), chance in zip(known, chances, strict=True):
            found[k] = float(chance)
    return found


def stack_marginals(marginals: Sequence[Marginal]) -> Marginal:
    """Several marginals of one row each as one."""
    return Marginal(
        centre=np.concatenate([m.centre for m in marginals]),
        spread=np.concatenate([m.spread for m in marginals]),
        mu=np.concatenate([m.mu for m in marginals]),
        cdf=np.concatenate([m.cdf for m in marginals]),
    )
