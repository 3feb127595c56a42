"""Will it stay tied: share that came out, cycles survived, and a verdict by the weakest."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import betaincinv, ndtri

from bruiser.core.statistics.strength import Interval


@lru_cache(maxsize=4_096)
def share_interval(hits: int, trials: int, confidence: float = 0.95) -> Interval | None:
    """Share with its Jeffreys interval; None without trials.

    Notes
    -----
    Quantiles of Beta(hits + 1/2, misses + 1/2); at 0 and at all the open side is closed (L. D.
    Brown, T. T. Cai, A. DasGupta, "Interval estimation for a binomial proportion", 2001).
    """
    if hits < 0 or hits > trials:
        raise ValueError("hits must lie between 0 and trials")
    if trials == 0:
        return None
    tail = (1 - confidence) / 2
    a, b = hits + 0.5, trials - hits + 0.5
    low = 0.0 if hits == 0 else float(betaincinv(a, b, tail))
    high = 1.0 if hits == trials else float(betaincinv(a, b, 1 - tail))
    return Interval(hits / trials, low, high)


@dataclass(frozen=True, kw_only=True)
class SurvivalStep:
    """Share still tied after so many cycles, with how many were at risk before."""

    cycles: int
    share: float
    low: float
    high: float
    at_risk: int
    failed: int


def cycles_survival(
    cycles: NDArray[np.int_], failed: NDArray[np.bool_], confidence: float = 0.95
) -> tuple[SurvivalStep, ...]:
    """Product-limit curve of cycles survived, one step a count at which something failed.

    Parameters
    ----------
    cycles : ndarray, shape (n,)
        Cycles done by each specimen.
    failed : ndarray, shape (n,)
        True where it failed there, False where it survived them all.

    Returns
    -------
    tuple of SurvivalStep
        Starts at zero cycles.

    Notes
    -----
    S = prod (1 - d_i / n_i); interval from ln(-ln S) with Greenwood's variance; exact binomial
    bounds (Clopper and Pearson) where S is 0 or 1.
    """
    n = len(cycles)
    if n == 0:
        return ()
    z = float(ndtri(0.5 + confidence / 2))
    steps = [
        SurvivalStep(
            cycles=0, share=1.0, low=_clopper(n, n, confidence)[0], high=1.0, at_risk=n, failed=0
        )
    ]
    share, variance = 1.0, 0.0
    for count in np.unique(cycles[failed]):
        at_risk = int((cycles >= count).sum())
        lost = int(((cycles == count) & failed).sum())
        share *= 1 - lost / at_risk
        if share <= 0:
            low, high = _clopper(0, at_risk, confidence)
            steps.append(
                SurvivalStep(
                    cycles=int(count), share=0.0, low=0.0, high=high, at_risk=at_risk, failed=lost
                )
            )
            break
        variance += lost / (at_risk * (at_risk - lost))
        width = z * math.sqrt(variance) / abs(math.log(share))
        low, high = share ** math.exp(width), share ** math.exp(-width)
        steps.append(
            SurvivalStep(
                cycles=int(count), share=share, low=low, high=high, at_risk=at_risk, failed=lost
            )
        )
    return tuple(steps)


def _clopper(hits: int, trials: int, confidence: float) -> tuple[float, float]:
    tail = (1 - confidence) / 2
    low = 0.0 if hits == 0 else float(betaincinv(hits, trials - hits + 1, tail))
    high = 1.0 if hits == trials else float(betaincinv(hits + 1, trials - hits, 1 - tail))
    return low, high


@dataclass(frozen=True, kw_only=True)
class SecurityCriterion:
    """One criterion of staying tied: a measured value against what is good and what is poor.

    `better_high` says which way is good. `interval` None means it was not measured.
    """

    name: str
    interval: Interval | None
    good: float
    poor: float
    better_high: bool

    @property
    def grade(self) -> float | None:
        """0 (poor) to 1 (good) by the unfavourable end of the interval; None if not measured."""
        if self.interval is None:
            return None
        return self._graded(self.interval.low if self.better_high else self.interval.high)

    @property
    def grade_as_seen(self) -> float | None:
        """The same by the value itself; what few pulls leave open does not count here."""
        return None if self.interval is None else self._graded(self.interval.value)

    def _graded(self, value: float) -> float:
        share = (value - self.poor) / (self.good - self.poor)
        return min(1.0, max(0.0, share))


@dataclass(frozen=True, kw_only=True)
class SecurityLimits:
    """What is good and what is poor of every criterion of staying tied.

    Parameters
    ----------
    onset : tuple of float
        Share of the baseline at which the first slip comes.
    draw_d : tuple of float
        Draw of the tail at `reference_share` of the baseline, in diameters.
    came_out : tuple of float
        Share of the pulls that came out.
    cycles, shakes : tuple of float
        Share still tied after all the cycles, or the shakes, of the method.
    """

    onset: tuple[float, float] = (0.30, 0.10)
    draw_d: tuple[float, float] = (1.0, 5.0)
    came_out: tuple[float, float] = (0.05, 0.40)
    cycles: tuple[float, float] = (0.90, 0.30)
    shakes: tuple[float, float] = (0.90, 0.30)
    reference_share: float = 0.30


LIMITS = SecurityLimits()


@dataclass(frozen=True, kw_only=True)
class SecuritySeen:
    """What was measured of staying tied; None where nothing was.

    Parameters
    ----------
    onset : Interval or None
        Typical share of the baseline of the first slip, or from the highest share without one.
    draw_d, came_out, cycles, shakes : Interval or None
        As in :class:`SecurityLimits`.
    """

    onset: Interval | None = None
    draw_d: Interval | None = None
    came_out: Interval | None = None
    cycles: Interval | None = None
    shakes: Interval | None = None


CRITERIA = {
    "onset": "first slip",
    "draw_d": "draw",
    "came_out": "came out",
    "cycles": "cycles",
    "shakes": "shaking",
}


def judge_security(seen: SecuritySeen, limits: SecurityLimits = LIMITS) -> SecurityVerdict:
    """Judge every criterion by its unfavourable end; the weakest decides."""
    criteria = []
    for key, name in CRITERIA.items():
        good, poor = getattr(limits, key)
        criteria.append(
            SecurityCriterion(
                name=name,
                interval=getattr(seen, key),
                good=good,
                poor=poor,
                better_high=good > poor,
            )
        )
    return security_verdict(tuple(criteria))


@dataclass(frozen=True)
class SecurityVerdict:
    """The weakest criterion decides; `weakest` is None when nothing was measured."""

    criteria: tuple[SecurityCriterion, ...]
    weakest: SecurityCriterion | None
    not_measured: tuple[str, ...]


def security_verdict(criteria: tuple[SecurityCriterion, ...]) -> SecurityVerdict:
    """Verdict by the weakest criterion, not their mean; what was not measured is named.

    Of several that are equally poor at their unfavourable ends the one that was seen to be poorer
    is the weakest.
    """
    measured = [c for c in criteria if c.grade is not None]
    weakest = min(measured, key=lambda c: (c.grade or 0.0, c.grade_as_seen or 0.0), default=None)
    missing = tuple(c.name for c in criteria if c.grade is None)
    return SecurityVerdict(criteria, weakest, missing)
