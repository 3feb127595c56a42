"""What a grip and a stopper hold: the load at which it slides, or pulls through its hole.

What broke or was stopped before held at least that load: a floor, never a slide.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.records.readings import Sheath
from bruiser.core.statistics.censored import Sample, make_sample
from bruiser.core.statistics.posterior import (
    BASELINE_PRIOR,
    SpreadPrior,
    posterior,
    ratio_quantiles,
    typical_values,
)
from bruiser.core.statistics.strength import Estimate, Interval, estimates

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
    sheath : Sheath or None
        How the sheaths looked afterwards; None where nobody looked.
    """

    pull_id: str
    load_n: float
    gave: bool
    others: int = 0
    slides_by_hand: bool | None = None
    frees_by_hand: bool | None = None
    sheath: Sheath | None = None


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
    sheaths : tuple of (Sheath, int)
        How often the sheaths were left how, where anybody looked.
    """

    estimate: Estimate | None
    interval: Interval | None
    share: Interval | None
    gave: int
    held: int
    at_least_n: float
    slides_by_hand: YesNo
    frees_by_hand: YesNo
    sheaths: tuple[tuple[Sheath, int], ...]
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
    shares = _shares(samples, [groups[k][1] for k in rows])
    results: list[HoldResult | None] = [None] * len(groups)
    for n, k in enumerate(rows):
        pulls = groups[k][0]
        results[k] = HoldResult(
            estimate=found[n],
            interval=typical[n],
            share=shares[n],
            gave=sum(p.gave for p in pulls),
            held=sum(not p.gave for p in pulls),
            at_least_n=max((p.load_n for p in pulls if not p.gave), default=0.0),
            slides_by_hand=yes_no(p.slides_by_hand for p in pulls),
            frees_by_hand=yes_no(p.frees_by_hand for p in pulls),
            sheaths=tuple(
                (look, n) for look in Sheath if (n := sum(p.sheath is look for p in pulls))
            ),
            pull_ids=tuple(p.pull_id for p in pulls),
        )
    return results


def _shares(samples: list[Sample], bases: list[Sample | None]) -> list[Interval | None]:
    """Typical load over that of the plain rope; None where either was never seen to give."""
    found: list[Interval | None] = [None] * len(samples)
    pairs = [
        (n, samples[n], base)
        for n, base in enumerate(bases)
        if base is not None and base.event_count and samples[n].event_count
    ]
    if not pairs:
        return found
    grips = posterior([s for _, s, _ in pairs], GRIP_PRIOR).table()
    ropes = posterior([base for _, _, base in pairs], BASELINE_PRIOR).table()
    quantiles = np.exp(ratio_quantiles(grips, ropes, (0.025, 0.5, 0.975)))
    for k, (n, _, _) in enumerate(pairs):
        low, middle, high = (float(v) for v in quantiles[:, k])
        found[n] = Interval(middle, low, high)
    return found


def yes_no(answers: Iterable[bool | None]) -> YesNo:
    """Count answers; what was not asked is not counted."""
    said = [a for a in answers if a is not None]
    return YesNo(sum(said), len(said) - sum(said))
