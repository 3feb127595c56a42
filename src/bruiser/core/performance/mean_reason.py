"""Why the plain mean of the peaks and the proper estimate differ, from the pulls themselves."""

from __future__ import annotations

import math

import numpy as np

from bruiser.core.performance.efficiency import Efficiency
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.strength import estimates, plain_mean_ratio
from bruiser.core.words import count

WORTH_SAYING = 0.01


def mean_differs(efficiency: Efficiency) -> bool:
    """Whether the plain mean lies more than a point from the typical value."""
    if efficiency.interval is None or efficiency.plain_mean is None:
        return False
    return abs(efficiency.plain_mean - efficiency.interval.value) > WORTH_SAYING


def why_mean_differs(efficiency: Efficiency, knot: Sample, baseline: Sample) -> str:
    """One line on why the plain mean is off; empty where it is not.

    Parameters
    ----------
    efficiency : Efficiency
        The proper figure with the plain mean beside it.
    knot, baseline : Sample
        The evidence behind it.

    Notes
    -----
    One kind of floor is taken away at a time: the second knots of specimens in which one gave, the
    specimens that outlasted, the straight pulls that did not break clear. Without it the
    maximum-likelihood ratio of medians comes nearer to the plain mean, or the plain mean nearer to
    it; the kind that closes most of the gap in these two ways is named.
    """
    if not mean_differs(efficiency) or efficiency.interval is None:
        return ""
    assert efficiency.plain_mean is not None
    low = efficiency.plain_mean < efficiency.interval.value
    n, of = 0, len(knot.ln_load)
    word = "the peaks scatter unevenly, and the middle of few is not their mean"
    full = _ratio(knot, baseline)
    second, outlasted = (knot.events > 0) & (knot.floors > 0), knot.events == 0
    causes = (
        # A floor of the knot taken as its strength makes the mean low, one of the rope high.
        (low, second, (_no_second(knot), baseline), "second"),
        (low, outlasted, (_only_events(knot), baseline), "outlasted"),
        (not low, baseline.events == 0, (knot, _only_events(baseline)), "rope"),
    )
    most, way = 0.0, 1.0 if low else -1.0
    for fits, there, pair, kind in causes:
        without, mean = _ratio(*pair), plain_mean_ratio(*pair)
        if not fits or not there.any() or without is None or full is None or mean is None:
            continue
        moved = way * (full - without) + way * (mean - efficiency.plain_mean)
        if moved > most:
            most, n = moved, int(there.sum())
            word = {
                "second": f"in {n} of {of} specimens one knot gave and the other held more",
                "outlasted": f"{n} of {of} outlasted, so the peak is only “at least”",
                "rope": f"{count(n, 'straight pull')} did not break clear, so the "
                "plain rope holds more than their peaks",
            }[kind]
    side = "low" if low else "high"
    return f"Plain mean {100 * efficiency.plain_mean:.0f} %, too {side}: {word}."


def _ratio(knot: Sample, baseline: Sample) -> float | None:
    first, second = estimates([knot, baseline])
    return None if first is None or second is None else math.exp(first.mu - second.mu)


def _no_second(sample: Sample) -> Sample:
    floors = np.where(sample.events > 0, 0.0, sample.floors)
    return Sample(
        ln_load=sample.ln_load, events=sample.events, floors=floors, pull_ids=sample.pull_ids
    )


def _only_events(sample: Sample) -> Sample:
    keep = sample.events > 0
    return Sample(
        ln_load=sample.ln_load[keep], events=sample.events[keep], floors=sample.floors[keep]
    )
