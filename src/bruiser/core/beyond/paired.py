"""A condition against another, cordage by cordage: paired contrasts of ln efficiency.

Notes
-----
Each cordage gives one difference: the mean, weighted by precision, over the knots that were pulled
in both conditions. Over J cordages the mean difference has Student's t with J - 1 degrees of
freedom; from one cordage nothing is said of others.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.special import stdtrit

from bruiser.core.statistics.strength import Interval


@dataclass(frozen=True, kw_only=True)
class PairedCell:
    """A knot in a cordage in both conditions: ln share in the second less the first."""

    cordage: str
    knot: str
    difference: float
    error: float


@dataclass(frozen=True, kw_only=True)
class PairedConditions:
    """What a condition does across cordages.

    Parameters
    ----------
    ratio : Interval or None
        Share in the second condition over that in the first; None with one cordage.
    """

    first: str
    second: str
    cordages: tuple[str, ...]
    knots: int
    ratio: Interval | None


def pair_conditions(first: str, second: str, cells: Sequence[PairedCell]) -> PairedConditions:
    """Compare two conditions over the cordages that were pulled in both."""
    by_cordage: dict[str, list[PairedCell]] = defaultdict(list)
    for cell in cells:
        by_cordage[cell.cordage].append(cell)
    means = []
    for own in by_cordage.values():
        weights = [1.0 / cell.error**2 for cell in own]
        pairs = zip(weights, own, strict=True)
        means.append(math.fsum(w * c.difference for w, c in pairs) / math.fsum(weights))
    ratio = None
    if len(means) > 1:
        count = len(means)
        mean = math.fsum(means) / count
        error = math.sqrt(math.fsum((m - mean) ** 2 for m in means) / (count - 1) / count)
        half = float(stdtrit(count - 1, 0.975)) * error
        ratio = Interval(math.exp(mean), math.exp(mean - half), math.exp(mean + half))
    return PairedConditions(
        first=first, second=second, cordages=tuple(by_cordage), knots=len(cells), ratio=ratio
    )
