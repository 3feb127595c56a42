"""Any groups against one another, within a cordage or across, in points of efficiency."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri, stdtr

from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.compare import Located, holm
from bruiser.core.statistics.posterior import Marginal
from bruiser.core.statistics.strength import Interval

DRAWS = 4_096


@dataclass(frozen=True, kw_only=True)
class Side:
    """One group to be compared.

    Parameters
    ----------
    marginal : Marginal or None
        Posterior of its ln strength, one row; None where nothing gave.
    baseline : Marginal or None
        The same of the plain rope it is measured against.
    base_key : str
        Which plain rope that is: two sides of one rope share it.
    located, base_located : Located or None
        Estimate of ln strength with its standard error, of the knot and of the plain rope.
    """

    marginal: Marginal | None
    baseline: Marginal | None
    base_key: str
    located: Located | None
    base_located: Located | None


@dataclass(frozen=True, kw_only=True)
class Contrast:
    """Two groups against each other.

    Parameters
    ----------
    points : Interval or None
        Efficiency of the first less that of the second, as a share of the plain rope.
    chance : float or None
        Chance that the first is the stronger.
    p, p_adjusted : float or None
        Welch's p, and with Holm's adjustment for every pair looked at; None where a spread is
        not known on one side.
    """

    a: int
    b: int
    points: Interval | None
    chance: float | None
    p: float | None
    p_adjusted: float | None

    @property
    def told_apart(self) -> bool:
        """Whether the pulls tell them apart at the 5 % level, for all pairs together."""
        return self.p_adjusted is not None and self.p_adjusted < 0.05


def contrasts(sides: Sequence[Side]) -> list[Contrast]:
    """Every pair of some groups.

    Parameters
    ----------
    sides : sequence of Side
        The groups.

    Returns
    -------
    list of Contrast
        One a pair, in order.

    Notes
    -----
    Points and chance: both posteriors, and those of the plain ropes, are drawn by inverting their
    tabulated distributions at 4,096 fixed quasi-random points (a scrambled Sobol sequence), so
    that a result repeats to the last digit; a plain rope shared by two sides is drawn once and
    cancels as it should. p: Welch on ln strength, less the plain ropes' where they differ, with
    Satterthwaite's degrees of freedom, and Holm over all pairs.
    """
    drawn = efficiency_draws(sides)
    pairs = [(a, b) for a in range(len(sides)) for b in range(a + 1, len(sides))]
    p_of = {pair: p for pair in pairs if (p := _welch_p(sides[pair[0]], sides[pair[1]]))}
    adjusted = dict(zip(p_of, holm(list(p_of.values())), strict=True))
    found = []
    for a, b in pairs:
        first, second = drawn[a], drawn[b]
        points, chance = None, None
        if first is not None and second is not None:
            away = first - second
            low, middle, high = (float(v) for v in np.quantile(away, [0.025, 0.5, 0.975]))
            points, chance = Interval(middle, low, high), float((away > 0).mean())
        found.append(
            Contrast(
                a=a,
                b=b,
                points=points,
                chance=chance,
                p=p_of.get((a, b)),
                p_adjusted=adjusted.get((a, b)),
            )
        )
    return found


def efficiency_draws(sides: Sequence[Side], draws: int = DRAWS) -> list[Floats | None]:
    """Draws of every side's efficiency, in step with one another; None where none can be had."""
    ropes = list(dict.fromkeys(s.base_key for s in sides))
    from scipy.stats import qmc  # slow to load, and needed for comparisons only

    sobol = qmc.Sobol(len(sides) + len(ropes), seed=1, scramble=True)
    # A sequence is balanced in powers of two; what is more than asked for is left.
    uniform = sobol.random_base2(math.ceil(math.log2(draws)))[:draws]
    found: list[Floats | None] = []
    for k, s in enumerate(sides):
        if s.marginal is None or s.baseline is None:
            found.append(None)
            continue
        knot = _inverse(s.marginal, uniform[:, k])
        rope = _inverse(s.baseline, uniform[:, len(sides) + ropes.index(s.base_key)])
        found.append(np.exp(knot - rope))
    return found


def _inverse(marginal: Marginal, share: Floats) -> Floats:
    return np.asarray(np.interp(share, marginal.cdf[0], marginal.mu[0]), dtype=np.float64)


def _welch_p(a: Side, b: Side) -> float | None:
    if a.located is None or b.located is None:
        return None
    terms = [(a.located, 1.0), (b.located, -1.0)]
    if a.base_key != b.base_key:
        if a.base_located is None or b.base_located is None:
            return None
        terms += [(a.base_located, -1.0), (b.base_located, 1.0)]
    difference = sum(sign * one.mu for one, sign in terms)
    variances = [one.error**2 for one, _ in terms]
    total = sum(variances)
    freedom = total**2 / sum(
        v**2 / one.freedom for v, (one, _) in zip(variances, terms, strict=True)
    )
    return float(2 * stdtr(freedom, -abs(difference) / math.sqrt(total)))


def pulls_to_tell_apart(contrast: Contrast, pulls: int) -> int | None:
    """How many more pulls of both would be expected to tell a pair apart.

    Notes
    -----
    The standard error falls as 1/sqrt n: n (half-width / difference)^2 (1.96 + 0.84)^2 / 1.96^2
    for four chances in five, less what is there. None where they are told apart already, or differ
    by less than a twentieth of the half-width.
    """
    if contrast.points is None or contrast.told_apart or pulls <= 0:
        return None
    half = 0.5 * (contrast.points.high - contrast.points.low)
    away = abs(contrast.points.value)
    if away < 0.05 * half:
        return None
    reach = float(ndtri(0.975)) + float(ndtri(0.8))
    needed = pulls * (half / away) ** 2 * (reach / float(ndtri(0.975))) ** 2
    return max(1, math.ceil(needed) - pulls)
