"""Pass criteria written before the first pull: a measure, a threshold, k of n."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Measure(StrEnum):
    """What a criterion looks at, one value a specimen."""

    BREAKS_AT_KNOT = "breaks at the knot"
    HOLDS_SHARE = "holds a share of the baseline"
    DRAW_D = "tail draw in diameters"
    OPENS = "opens without a tool"
    CYCLES = "cycles survived"


class Met(StrEnum):
    """Whether a criterion is met."""

    MET = "met"
    NOT_MET = "not met"
    OPEN = "open"


@dataclass(frozen=True, kw_only=True)
class PassCriterion:
    """`need` of the first `of` pulls must reach the threshold.

    `at_least` False turns it round: the value must stay at or below the threshold.
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
    """A judged criterion with the pulls that passed, failed, or cannot say."""

    criterion: PassCriterion
    met: Met
    passed: tuple[str, ...]
    failed: tuple[str, ...]
    cannot_say: tuple[str, ...]


def judge_criterion(criterion: PassCriterion, readings: list[Observed]) -> CriterionResult:
    """Judge a criterion on the first `of` readings, in the order pulled.

    A floor below the threshold cannot say that the specimen failed; nor can a floor say that a
    value stayed below. Met and not met are final once they are certain, whatever comes after.
    """
    passed, failed, unsure = [], [], []
    for reading in readings[: criterion.of]:
        reaches = reading.value >= criterion.threshold
        if not criterion.at_least:
            reaches = reading.value <= criterion.threshold
        if reading.floor_only and reaches != criterion.at_least:
            unsure.append(reading.pull_id)
        elif reaches:
            passed.append(reading.pull_id)
        else:
            failed.append(reading.pull_id)
    met = Met.OPEN
    if len(passed) >= criterion.need:
        met = Met.MET
    elif len(failed) > criterion.of - criterion.need:
        met = Met.NOT_MET
    return CriterionResult(
        criterion=criterion,
        met=met,
        passed=tuple(passed),
        failed=tuple(failed),
        cannot_say=tuple(unsure),
    )
