"""What a knot does besides breaking: grip, seat, release, advantage, retention.

Each family is judged by the work it is for. A *grip* slides and a *stopper* pulls through; what
broke or was stopped before held at least that load. Ratios (advantage, tension kept, force to
release, grip left in a binding) are log-normal; counts are shares.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from bruiser.core.performance.efficiency import Case, Priors, efficiencies
from bruiser.core.performance.security import share_interval
from bruiser.core.statistics.censored import Sample, make_sample
from bruiser.core.statistics.posterior import BASELINE_PRIOR, SpreadPrior, typical_values
from bruiser.core.statistics.strength import Estimate, Interval, OutcomeCounts, estimates

# Grips scatter more than breaks: docs/statistics.md has the coverage this was chosen by.
GRIP_PRIOR = SpreadPrior(0.15, 1.0)


@dataclass(frozen=True, kw_only=True)
class HoldPull:
    """One pull of a grip or of a stopper.

    Parameters
    ----------
    load_n : float
        Load at which it slid or pulled through, or which it held at least.
    gave : bool
        Whether it slid or pulled through; a break and a stop did not.
    others : int
        Other ends of the specimen that carry the same knot, and held.
    slides_by_hand, frees_by_hand : bool or None
        Whether it slides by hand when slack, and frees by hand after the load; None where that
        was not tried.
    """

    pull_id: str
    load_n: float
    gave: bool
    others: int = 0
    slides_by_hand: bool | None = None
    frees_by_hand: bool | None = None


@dataclass(frozen=True)
class YesNo:
    """How often something was answered with yes and with no."""

    yes: int
    no: int


@dataclass(frozen=True, kw_only=True)
class HoldResult:
    """The load that a grip or a stopper holds.

    Parameters
    ----------
    estimate : Estimate or None
        Maximum likelihood; None without two different loads at which it gave.
    interval : Interval or None
        Typical load in newton; None where it never gave.
    share : Interval or None
        The same as a share of the cord's plain rope.
    gave, held : int
        Specimens that gave, and that held at least their load.
    at_least_n : float
        The highest load that any specimen held.
    """

    estimate: Estimate | None
    interval: Interval | None
    share: Interval | None
    gave: int
    held: int
    at_least_n: float
    slides_by_hand: YesNo
    frees_by_hand: YesNo
    pull_ids: tuple[str, ...]


def hold_sample(pulls: Sequence[HoldPull]) -> Sample:
    """The pulls as the likelihood takes them: giving is an event, holding a floor."""
    return make_sample(
        [(p.pull_id, p.load_n, int(p.gave), p.others + int(not p.gave)) for p in pulls]
    )


def measure_holds(
    groups: Sequence[tuple[Sequence[HoldPull], Sample | None]],
) -> list[HoldResult | None]:
    """Loads that several grips or stoppers hold; None for a group without pulls.

    Parameters
    ----------
    groups : sequence of (pulls, baseline)
        The pulls of each, and the plain rope of its cord where that was measured.

    Notes
    -----
    Log-normal likelihood with floors and, for the interval, the posterior with
    ln sigma ~ N(ln 0.15, 1^2); docs/statistics.md. The share is the ratio of the two medians.
    """
    rows = [k for k, (pulls, _) in enumerate(groups) if pulls]
    samples = [hold_sample(groups[k][0]) for k in rows]
    found = estimates(samples)
    typical = typical_values(samples, GRIP_PRIOR)
    bases = [groups[k][1] for k in rows]
    counts = OutcomeCounts()
    sharing = [
        (n, Case(knot=samples[n], baseline=base, counts=counts))
        for n, base in enumerate(bases)
        if base is not None and base.event_count and samples[n].event_count
    ]
    priors = Priors(knot=GRIP_PRIOR, baseline=BASELINE_PRIOR)
    rated = efficiencies([case for _, case in sharing], priors) if sharing else []
    shares = {n: e.interval for (n, _), e in zip(sharing, rated, strict=True)}
    results: list[HoldResult | None] = [None] * len(groups)
    for n, k in enumerate(rows):
        pulls = groups[k][0]
        results[k] = HoldResult(
            estimate=found[n],
            interval=typical[n],
            share=shares.get(n),
            gave=sum(p.gave for p in pulls),
            held=sum(not p.gave for p in pulls),
            at_least_n=max((p.load_n for p in pulls if not p.gave), default=0.0),
            slides_by_hand=_yes_no(p.slides_by_hand for p in pulls),
            frees_by_hand=_yes_no(p.frees_by_hand for p in pulls),
            pull_ids=tuple(p.pull_id for p in pulls),
        )
    return results


def _yes_no(answers: Iterable[bool | None]) -> YesNo:
    said = [a for a in answers if a is not None]
    return YesNo(sum(said), len(said) - sum(said))


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
        cut=_yes_no(p.cut for p in pulls),
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


@dataclass(frozen=True, kw_only=True)
class WorkPulls:
    """The pulls of one group by the work they tried; a pull stands in one of them."""

    slides: tuple[HoldPull, ...] = ()
    seats: tuple[HoldPull, ...] = ()
    releases: tuple[ReleasePull, ...] = ()
    advantages: tuple[AdvantagePull, ...] = ()
    retentions: tuple[RetentionPull, ...] = ()
    bulks: tuple[BulkPull, ...] = ()

    @property
    def any(self) -> bool:
        """Whether there is any."""
        return bool(
            self.slides
            or self.seats
            or self.releases
            or self.advantages
            or self.retentions
            or self.bulks
        )


@dataclass(frozen=True, kw_only=True)
class WorkResult:
    """What a group does besides breaking; None where it was not tried."""

    grip: HoldResult | None = None
    seat: HoldResult | None = None
    release: ReleaseResult | None = None
    advantage: AdvantageResult | None = None
    retention: RetentionResult | None = None
    bulk: BulkResult | None = None


NO_WORK = WorkPulls()
NOTHING_DONE = WorkResult()


def measure_works(groups: Sequence[tuple[WorkPulls, Sample | None]]) -> list[WorkResult]:
    """What several groups do besides breaking.

    Parameters
    ----------
    groups : sequence of (pulls, baseline)
        The pulls of each, and the plain rope of its cord where that was measured.
    """
    grips = measure_holds([(w.slides, base) for w, base in groups])
    seats = measure_holds([(w.seats, base) for w, base in groups])
    return [
        WorkResult(
            grip=grip,
            seat=seat,
            release=measure_release(w.releases),
            advantage=measure_advantage(w.advantages),
            retention=measure_retention(w.retentions),
            bulk=measure_bulk(w.bulks),
        )
        for (w, _), grip, seat in zip(groups, grips, seats, strict=True)
    ]
