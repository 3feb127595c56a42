"""Folklore judged against its stated margin: supported, contradicted, or not decided."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.statistics.strength import Interval


class ClaimVerdict(StrEnum):
    """What the pulls say about a claim."""

    SUPPORTED = "supported"
    CONTRADICTED = "contradicted"
    UNDECIDED = "undecided"


class ClaimKind(StrEnum):
    """The patterns a claim is entered by."""

    KEEPS_AT_LEAST = "keeps at least"
    STRONGER_BY = "stronger by"
    DOES_NOT_WEAKEN = "does not weaken"
    NEVER_JAMS_BELOW = "never jams below"
    NEVER_COMES_OUT = "never comes out"
    CHANGES_LESS_THAN = "changes less than"
    WRAPS_HOLD = "wraps hold"
    GRIPS_MORE = "grips more"
    NEVER_SHAKES_LOOSE = "never shakes loose"
    HAULS = "hauls at least"
    OPENS_EASIER = "opens more easily"
    EDGE_TAKES = "an edge takes"
    RETAINS = "retains at least"


@dataclass(frozen=True, kw_only=True)
class ClaimJudgement:
    """A judged claim: the interval against its margin, n, and the pulls that would decide it."""

    kind: ClaimKind
    verdict: ClaimVerdict
    interval: Interval | None
    lower: float
    upper: float
    pulls: int
    more_pulls: int | None
    pull_ids: tuple[str, ...]


def judge_interval(
    kind: ClaimKind,
    interval: Interval | None,
    pulls: int,
    *,
    lower: float = -math.inf,
    upper: float = math.inf,
    pull_ids: tuple[str, ...] = (),
) -> ClaimJudgement:
    """Judge a claim that a quantity lies between `lower` and `upper`.

    Parameters
    ----------
    kind : ClaimKind
        The pattern; decides nothing here, travels with the result.
    interval : Interval or None
        The quantity with its 95 % interval.
    pulls : int
        Specimens behind it.
    lower, upper : float
        The claim's region, in the quantity's own terms (share, difference of shares, ratio).

    Returns
    -------
    ClaimJudgement
        Supported when the whole interval lies inside, contradicted when it lies wholly outside on
        one side, else undecided with the number of further pulls expected to decide it.

    Notes
    -----
    Further pulls: the half-width falls as 1/sqrt n, so n (half-width / distance)^2 - n, where
    distance is from the value to the nearest margin. No number when the value sits on a margin
    (within a twentieth of the half-width), where no reasonable number would decide.
    """
    if interval is None:
        return ClaimJudgement(
            kind=kind,
            verdict=ClaimVerdict.UNDECIDED,
            interval=None,
            lower=lower,
            upper=upper,
            pulls=pulls,
            more_pulls=None,
            pull_ids=pull_ids,
        )
    if interval.low >= lower and interval.high <= upper:
        verdict = ClaimVerdict.SUPPORTED
    elif interval.high < lower or interval.low > upper:
        verdict = ClaimVerdict.CONTRADICTED
    else:
        verdict = ClaimVerdict.UNDECIDED
    more = _more_pulls(interval, pulls, lower, upper) if verdict is ClaimVerdict.UNDECIDED else 0
    return ClaimJudgement(
        kind=kind,
        verdict=verdict,
        interval=interval,
        lower=lower,
        upper=upper,
        pulls=pulls,
        more_pulls=more,
        pull_ids=pull_ids,
    )


def _more_pulls(interval: Interval, pulls: int, lower: float, upper: float) -> int | None:
    value = interval.value
    inside = lower <= value <= upper
    sides = []
    if math.isfinite(lower):
        half = value - interval.low if value > lower else interval.high - value
        sides.append((abs(value - lower), half))
    if math.isfinite(upper):
        half = interval.high - value if value < upper else value - interval.low
        sides.append((abs(value - upper), half))
    if not sides or pulls == 0:
        return None
    needed = []
    for distance, half in sides:
        if not math.isfinite(half) or distance < 0.05 * half:
            needed.append(math.inf)
        else:
            needed.append(pulls * (half / distance) ** 2)
    total = max(needed) if inside else min(needed)
    return None if not math.isfinite(total) else max(1, math.ceil(total) - pulls)


def judge_never(
    kind: ClaimKind, hits: int, pulls: int, *, rate: float = 0.1, pull_ids: tuple[str, ...] = ()
) -> ClaimJudgement:
    """Judge a claim that something never happens.

    One occurrence contradicts it. Without any, it is supported once the 95 % upper bound of its
    rate is below `rate`: 1 - 0.05^(1/n), the exact binomial bound.
    """
    if hits:
        found = Interval(hits / pulls, 0.0, 1.0)
        return ClaimJudgement(
            kind=kind,
            verdict=ClaimVerdict.CONTRADICTED,
            interval=found,
            lower=0.0,
            upper=rate,
            pulls=pulls,
            more_pulls=0,
            pull_ids=pull_ids,
        )
    upper = 1.0 if pulls == 0 else 1 - 0.05 ** (1 / pulls)
    needed = math.ceil(math.log(0.05) / math.log(1 - rate))
    verdict = ClaimVerdict.SUPPORTED if upper <= rate else ClaimVerdict.UNDECIDED
    interval = Interval(0.0, 0.0, upper) if pulls else None
    return ClaimJudgement(
        kind=kind,
        verdict=verdict,
        interval=interval,
        lower=0.0,
        upper=rate,
        pulls=pulls,
        more_pulls=max(0, needed - pulls),
        pull_ids=pull_ids,
    )
