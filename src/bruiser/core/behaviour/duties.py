"""What release, tensioning, bindings and bulk are judged by: ratios and shares.

Ratios (advantage, tension kept, force to release, grip left in a binding) are log-normal, counts
are shares with Jeffreys' interval. What came slack or slipped back is counted, not averaged.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from bruiser.core.behaviour.holding import YesNo, yes_no
from bruiser.core.behaviour.security import share_interval
from bruiser.core.statistics.strength import Interval


@dataclass(frozen=True, kw_only=True)
class ReleasePull:
    """One release: the load held, the force on the tail, and how it went.

    Parameters
    ----------
    force_n : float or None
        Force that freed it, or at which the pulling was given up.
    freed, freed_itself : bool or None
        Whether it freed on demand, and whether it freed itself before; None where not recorded.
    """

    pull_id: str
    held_n: float
    force_n: float | None = None
    freed: bool | None = None
    freed_itself: bool | None = None


@dataclass(frozen=True, kw_only=True)
class ReleaseResult:
    """How a quick release lets go: shares of the pulls, and force as a share of the load."""

    n: int
    freed: Interval | None
    freed_itself: Interval | None
    force_share: Interval | None
    pull_ids: tuple[str, ...]


def measure_release(pulls: Sequence[ReleasePull]) -> ReleaseResult | None:
    """Shares that freed on demand and by themselves, and the force it took; None without pulls.

    A force at which it would not free is no force that frees it: it stands in the share only.
    """
    if not pulls:
        return None
    ratios = [
        p.force_n / p.held_n for p in pulls if p.force_n and p.held_n and p.freed is not False
    ]
    return ReleaseResult(
        n=len(pulls),
        freed=_share([p.freed for p in pulls]),
        freed_itself=_share([p.freed_itself for p in pulls]),
        force_share=ratio_interval(ratios),
        pull_ids=tuple(p.pull_id for p in pulls),
    )


def _share(answers: Sequence[bool | None]) -> Interval | None:
    said = [a for a in answers if a is not None]
    return share_interval(sum(said), len(said))


@dataclass(frozen=True, kw_only=True)
class AdvantagePull:
    """One tensioning: load in the hand line, load it raised, and load left after lock-off."""

    pull_id: str
    hand_n: float
    applied_n: float
    kept_n: float | None = None


@dataclass(frozen=True, kw_only=True)
class AdvantageResult:
    """Real advantage, and the share of the tension kept after the lock-off.

    Parameters
    ----------
    slack : int
        Lock-offs that kept nothing; they are counted, not averaged.
    """

    n: int
    advantage: Interval | None
    kept: Interval | None
    slack: int
    pull_ids: tuple[str, ...]


def measure_advantage(pulls: Sequence[AdvantagePull]) -> AdvantageResult | None:
    """Load raised over load in the hand line, and what the lock-off kept; None without pulls."""
    if not pulls:
        return None
    kept = [p.kept_n / p.applied_n for p in pulls if p.kept_n is not None and p.applied_n]
    return AdvantageResult(
        n=len(pulls),
        advantage=ratio_interval([p.applied_n / p.hand_n for p in pulls if p.hand_n]),
        kept=ratio_interval([k for k in kept if k > 0]),
        slack=sum(k <= 0 for k in kept),
        pull_ids=tuple(p.pull_id for p in pulls),
    )


@dataclass(frozen=True, kw_only=True)
class RetentionPull:
    """One binding: force to move it along its host before and after cycles of squeeze.

    Parameters
    ----------
    after_n : float
        0 where it had come slack.
    cut : bool or None
        Whether it had to be cut off; None where that was not recorded.
    """

    pull_id: str
    before_n: float
    after_n: float
    cycles: int = 0
    cut: bool | None = None


@dataclass(frozen=True, kw_only=True)
class RetentionResult:
    """What of its grip a binding retains; those that came slack are counted, not averaged."""

    n: int
    kept: Interval | None
    slack: int
    slack_share: Interval | None
    cut: YesNo
    pull_ids: tuple[str, ...]


def measure_retention(pulls: Sequence[RetentionPull]) -> RetentionResult | None:
    """Force to move a binding after the cycles over that before; None without pulls."""
    if not pulls:
        return None
    slack = sum(p.after_n <= 0 for p in pulls)
    return RetentionResult(
        n=len(pulls),
        kept=ratio_interval([p.after_n / p.before_n for p in pulls if p.after_n > 0]),
        slack=slack,
        slack_share=share_interval(slack, len(pulls)),
        cut=yes_no(p.cut for p in pulls),
        pull_ids=tuple(p.pull_id for p in pulls),
    )


@dataclass(frozen=True, kw_only=True)
class BulkPull:
    """One knot drawn over a ledge: its greatest width in diameters, and force over load.

    Parameters
    ----------
    force_n : float or None
        Force to bring it over the ledge; None where only its width was measured.
    passed : bool
        Whether it came over.
    """

    pull_id: str
    width_d: float
    force_n: float | None = None
    passed: bool = True


@dataclass(frozen=True, kw_only=True)
class BulkResult:
    """How bulky a knot is, and what it takes to bring it over a ledge.

    Parameters
    ----------
    width_d, force_n : Interval or None
        In diameters and in newton.
    passed : Interval or None
        Share that came over the ledge at all.
    """

    n: int
    width_d: Interval | None
    force_n: Interval | None
    passed: Interval | None
    pull_ids: tuple[str, ...]


def measure_bulk(pulls: Sequence[BulkPull]) -> BulkResult | None:
    """Width, force over the ledge, and share that passed; None without pulls."""
    if not pulls:
        return None
    tried = [p for p in pulls if p.force_n is not None]
    return BulkResult(
        n=len(pulls),
        width_d=ratio_interval([p.width_d for p in pulls if p.width_d > 0]),
        force_n=ratio_interval([p.force_n for p in tried if p.force_n and p.passed]),
        passed=share_interval(sum(p.passed for p in tried), len(tried)),
        pull_ids=tuple(p.pull_id for p in pulls),
    )


def ratio_interval(values: Sequence[float]) -> Interval | None:
    """Typical value of positive numbers with its 95 % interval; None without any.

    Notes
    -----
    Log-normal: exp(m) with m the mean of ln, and exp(m -+ t_{n-1, 0.975} s / sqrt(n)). From one
    value no interval follows: its sides are open.

    Raises
    ------
    ValueError
        If a value is not positive.
    """
    if not values:
        return None
    if min(values) <= 0:
        raise ValueError("a ratio on the log scale must be positive")
    ln = np.log(np.asarray(values, dtype=np.float64))
    middle, n = float(ln.mean()), len(ln)
    if n == 1:
        return Interval(math.exp(middle), 0.0, math.inf)
    reach = float(stdtrit(n - 1, 0.975)) * float(ln.std(ddof=1)) / math.sqrt(n)
    return Interval(math.exp(middle), math.exp(middle - reach), math.exp(middle + reach))
