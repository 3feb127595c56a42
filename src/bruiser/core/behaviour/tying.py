"""Tying and checking: how long it takes, how often it fails, and whether an inspector sees it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.core.behaviour.security import share_interval
from bruiser.core.records.preparation import Hands, TyingTrial, TyingVerdict
from bruiser.core.statistics.censored import make_sample
from bruiser.core.statistics.posterior import SpreadPrior, typical_value
from bruiser.core.statistics.strength import Interval

TIME_PRIOR = SpreadPrior(0.4, 1.0)


@dataclass(frozen=True, kw_only=True)
class TiedWith:
    """Trials with the hands in one state.

    Parameters
    ----------
    seconds : Interval or None
        Typical time to a right tie.
    first_time : Interval or None
        Share that was right at the first attempt.
    """

    hands: Hands
    trials: int
    seconds: Interval | None
    attempts: int
    wrong: int
    first_time: Interval | None


@dataclass(frozen=True, kw_only=True)
class TiesJudged:
    """What inspectors made of tied knots before they were told.

    Parameters
    ----------
    judged : int
        Knots that were judged.
    right, wrong, unsure : int
        Said to be tied right, tied wrong, or not to be told.
    taken_for_another : int
        Said to be tied right, but named as another knot.
    recognised : Interval or None
        Share said to be tied right under their own name, or without a name.
    """

    judged: int
    right: int
    wrong: int
    unsure: int
    taken_for_another: int
    recognised: Interval | None


@dataclass(frozen=True)
class TyingResult:
    """Trials of one knot, by the state of the hands, and what inspectors saw."""

    by_hands: tuple[TiedWith, ...]
    inspected: TiesJudged


def measure_tying(trials: Sequence[tuple[str, TyingTrial]], structure: str) -> TyingResult:
    """Rate the trials of one knot.

    Parameters
    ----------
    trials : sequence of (specimen id, TyingTrial)
        The trials.
    structure : str
        What was to be tied; an inspector who names another has taken it for something else.

    Notes
    -----
    Times are log-normal, posterior with mu flat and ln sigma ~ N(ln 0.4, 1.0^2); shares have
    Jeffreys intervals.
    """
    rows = []
    for hands in Hands:
        mine = [(key, t) for key, t in trials if t.hands is hands and t.attempts > 0]
        if not mine:
            continue
        times = make_sample([(key, t.seconds, 1, 0) for key, t in mine if t.seconds > 0])
        first = sum(t.attempts == 1 and t.wrong == 0 for _, t in mine)
        rows.append(
            TiedWith(
                hands=hands,
                trials=len(mine),
                seconds=typical_value(times, TIME_PRIOR) if len(times.ln_load) else None,
                attempts=sum(t.attempts for _, t in mine),
                wrong=sum(t.wrong for _, t in mine),
                first_time=share_interval(first, len(mine)),
            )
        )
    return TyingResult(tuple(rows), measure_checking([t for _, t in trials], structure))


def measure_checking(trials: Sequence[TyingTrial], structure: str) -> TiesJudged:
    """What inspectors made of some knots; arguments as :func:`measure_tying`."""
    said = [t.verdict for t in trials if t.verdict is not None]
    right = [t for t in trials if t.verdict is TyingVerdict.RIGHT]
    own = sum(t.named in ("", structure) for t in right)
    return TiesJudged(
        judged=len(said),
        right=len(right),
        wrong=said.count(TyingVerdict.WRONG),
        unsure=said.count(TyingVerdict.UNSURE),
        taken_for_another=len(right) - own,
        recognised=share_interval(own, len(said)),
    )
