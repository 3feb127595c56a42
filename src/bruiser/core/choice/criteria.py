"""Pass criteria written before the first pull: a measure, a threshold, k of n, or an interval.

Notes
-----
k of n is decided by curtailment: met at the k-th pass, not met at the (n - k + 1)-th failure, the
same verdict as at n. The pulls this takes follow from two negative binomial distributions:

    E N = sum_{N=k..n} N C(N-1, k-1) p^k q^(N-k) + sum_{N=f..n} N C(N-1, f-1) q^f p^(N-f)

with f = n - k + 1. An interval above a threshold may be looked at from the third pull on at 99.5 %,
and at the n fixed beforehand at 95 %: looking after every pull at 95 % would pass falsely in 8 to
15 of 100 cases.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import comb

FROM_PULL = 3
EARLY, AT_THE_END = 0.0025, 0.025
"""Lower quantiles of the intervals of 99.5 % and of 95 %."""


class Measure(StrEnum):
    """What a criterion looks at, one value a specimen."""

    BREAKS_AT_KNOT = "breaks at the knot"
    HOLDS_SHARE = "holds a share of the baseline"
    DRAW_D = "tail draw in diameters"
    OPENS = "opens without a tool"
    CYCLES = "cycles survived"
    INTERVAL = "whole interval above a share"


class Met(StrEnum):
    """Whether a criterion is met."""

    MET = "met"
    NOT_MET = "not met"
    OPEN = "open"


@dataclass(frozen=True, kw_only=True)
class PassCriterion:
    """`need` of the first `of` pulls must reach the threshold.

    `at_least` False turns it round: the value must stay at or below the threshold. Of an interval
    `of` is when it is looked at last; `need` is the same.
    """

    measure: Measure
    threshold: float
    need: int
    of: int
    at_least: bool = True

    def __post_init__(self) -> None:
        if not 1 <= self.need <= self.of:
            raise ValueError("need must lie between 1 and of")


@dataclass(frozen=True)
class Observed:
    """One specimen's value; `floor_only` means the true value is at least this."""

    pull_id: str
    value: float
    floor_only: bool = False


@dataclass(frozen=True, kw_only=True)
class CriterionResult:
    """A judged criterion with the pulls that passed, failed, or cannot say.

    Parameters
    ----------
    after : int or None
        How many pulls it took to decide it; None while it is open.
    looks : int
        How often it was looked at under an earlier, smaller n that had been reached.
    """

    criterion: PassCriterion
    met: Met
    passed: tuple[str, ...]
    failed: tuple[str, ...]
    cannot_say: tuple[str, ...]
    after: int | None = None
    looks: int = 0

    @property
    def not_needed(self) -> int:
        """How many of the pulls asked for are not needed any more."""
        return 0 if self.after is None else self.criterion.of - self.after


def judge_criterion(criterion: PassCriterion, readings: list[Observed]) -> CriterionResult:
    """Judge a criterion on the first `of` readings, in the order pulled.

    A floor below the threshold cannot say that the specimen failed; nor can a floor say that a
    value stayed below. Met and not met are final once they are certain, whatever comes after.
    """
    passed, failed, unsure = [], [], []
    met, after = Met.OPEN, None
    for number, reading in enumerate(readings[: criterion.of], start=1):
        reaches = reading.value >= criterion.threshold
        if not criterion.at_least:
            reaches = reading.value <= criterion.threshold
        if reading.floor_only and reaches != criterion.at_least:
            unsure.append(reading.pull_id)
        elif reaches:
            passed.append(reading.pull_id)
        else:
            failed.append(reading.pull_id)
        if met is Met.OPEN and len(passed) >= criterion.need:
            met, after = Met.MET, number
        elif met is Met.OPEN and len(failed) > criterion.of - criterion.need:
            met, after = Met.NOT_MET, number
    return CriterionResult(
        criterion=criterion,
        met=met,
        passed=tuple(passed),
        failed=tuple(failed),
        cannot_say=tuple(unsure),
        after=after,
    )


def judge_interval(
    criterion: PassCriterion,
    pull_ids: Sequence[str],
    lows: Sequence[tuple[float, float] | None],
    looks: int = 0,
) -> CriterionResult:
    """Judge whether a whole interval lies above the threshold, by the one rule allowed.

    Parameters
    ----------
    pull_ids : sequence of str
        The pulls in the order made.
    lows : sequence of (float, float) or None
        After each of them the lower ends at 99.5 % and at 95 %; None where none can be had.
    looks : int
        Times an earlier n was reached before it was raised: then there is no pass any more.
    """
    met, after = Met.OPEN, None
    for number, ends in enumerate(lows[: criterion.of], start=1):
        last = number == criterion.of
        if number >= FROM_PULL and ends is not None and ends[last] > criterion.threshold:
            met, after = Met.MET, number
            break
        if last:
            met, after = Met.NOT_MET, number
    if looks:
        met, after = Met.OPEN, None
    used = tuple(pull_ids[: after or criterion.of])
    return CriterionResult(
        criterion=criterion,
        met=met,
        passed=used if met is Met.MET else (),
        failed=used if met is Met.NOT_MET else (),
        cannot_say=() if met is not Met.OPEN else used,
        after=after,
        looks=looks,
    )


def chance_met(need: int, of: int, p: float) -> float:
    """Chance that k of n is met where each pull passes with probability p."""
    return sum(comb(of, k) * p**k * (1 - p) ** (of - k) for k in range(need, of + 1))


def expected_pulls(need: int, of: int, p: float) -> float:
    """Pulls that k of n takes on the mean until it is decided."""
    q, fail = 1.0 - p, of - need + 1
    met = sum(n * comb(n - 1, need - 1) * p**need * q ** (n - need) for n in range(need, of + 1))
    not_met = sum(
        n * comb(n - 1, fail - 1) * q**fail * p ** (n - fail) for n in range(fail, of + 1)
    )
    return met + not_met
