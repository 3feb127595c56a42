"""Does the figure drift with test order, day or technician?"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtr

from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.compare import Located, holm, welch


@dataclass(frozen=True, kw_only=True)
class Drift:
    """Change over the whole range, as a share of the strength, with its 95 % interval."""

    by: str
    change: float
    low: float
    high: float
    pulls: int

    @property
    def warns(self) -> bool:
        """Whether the interval leaves zero out."""
        return self.low > 0 or self.high < 0


def order_drift(position: Floats, departure: Floats, by: str = "order") -> Drift | None:
    """Drift with order or day; None with fewer than five pulls or one position only.

    Parameters
    ----------
    position : ndarray, shape (n,)
        Place in the test order, or day.
    departure : ndarray, shape (n,)
        ln load less its own group's typical ln load.

    Notes
    -----
    Median of pairwise slopes with its interval from Kendall's tau (H. Theil 1950, P. K. Sen
    1968); scipy.stats.theilslopes. A single outlier cannot carry it.
    """
    if len(position) < 5 or np.ptp(position) == 0:
        return None
    from scipy.stats import theilslopes  # slow to load

    found = theilslopes(departure, position, 0.95)
    span = float(np.ptp(position))
    change, low, high = (math.expm1(float(v) * span) for v in (found[0], found[2], found[3]))
    return Drift(by=by, change=change, low=low, high=high, pulls=len(position))


@dataclass(frozen=True, kw_only=True)
class TechnicianDrift:
    """Two technicians whose pulls differ most: difference as a share, p adjusted by Holm."""

    first: str
    second: str
    difference: float
    p_adjusted: float

    @property
    def warns(self) -> bool:
        """Whether they differ at the 5 % level."""
        return self.p_adjusted < 0.05


def technician_drift(names: list[str], departure: Floats) -> TechnicianDrift | None:
    """The most different pair of technicians with three pulls or more each; None without."""
    groups = {name: departure[np.array([n == name for n in names])] for name in sorted(set(names))}
    placed = {
        name: Located(float(v.mean()), float(v.std(ddof=1)) / math.sqrt(len(v)), len(v) - 1.0)
        for name, v in groups.items()
        if len(v) >= 3 and float(v.std()) > 0
    }
    people = list(placed)
    pairs = [(a, b) for i, a in enumerate(people) for b in people[i + 1 :]]
    if not pairs:
        return None
    p = []
    for a, b in pairs:
        difference, error, freedom = welch(placed[a], placed[b])
        p.append(2 * float(stdtr(freedom, -abs(difference) / error)))
    adjusted = holm(p)
    top = int(np.argmin(adjusted))
    a, b = pairs[top]
    gap = math.expm1(placed[a].mu - placed[b].mu)
    return TechnicianDrift(first=a, second=b, difference=gap, p_adjusted=adjusted[top])
