"""Draws of what is not known exactly, so that everything built on it knows how sure it is."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from scipy.special import betaincinv

from bruiser.core.behaviour.jamming import JamFit
from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval

_Z = 1.959963984540054


def interval_of(draws: Floats) -> Interval:
    """Median and 95 % interval of some draws."""
    low, middle, high = (float(v) for v in np.quantile(draws, [0.025, 0.5, 0.975]))
    return Interval(middle, low, high)


def around(interval: Interval, draws: int, rng: np.random.Generator) -> Floats:
    """Draws of a positive quantity known by its median and 95 % interval; shape (draws,).

    Notes
    -----
    A normal on the logarithm in two pieces with one median: each side has the width that puts its
    end of the interval at 1.96. It meets all three quantiles exactly; an infinite upper end, or
    one that equals the value, leaves that side at the value, as a floor is.
    """
    z = rng.standard_normal(draws)
    value = max(interval.value, 1e-12)
    below = math.log(value / max(interval.low, 1e-12)) / _Z
    above = math.log(interval.high / value) / _Z if math.isfinite(interval.high) else 0.0
    return np.asarray(value * np.exp(np.where(z < 0, below, above) * z))


def share(hits: float, trials: float, draws: int, rng: np.random.Generator) -> Floats:
    """Draws of a share from its Jeffreys posterior, Beta(hits + 1/2, misses + 1/2).

    The quantiles in the middle of so many equal parts, shuffled: with one generator more hits
    never draw a smaller share.
    """
    return _share_quantiles(hits, trials, draws)[rng.permutation(draws)]


@lru_cache(maxsize=256)
def _share_quantiles(hits: float, trials: float, draws: int) -> Floats:
    middles = (np.arange(draws) + 0.5) / draws
    return np.asarray(betaincinv(hits + 0.5, trials - hits + 0.5, middles))


def opening(fit: JamFit, load: float, draws: int, rng: np.random.Generator) -> Floats:
    """Draws of the chance that a knot opens without a tool after such a share of the rope.

    Notes
    -----
    Places and widths of the jamming curve are drawn from its posterior on the grid, the place
    spread evenly over its cell.
    """
    cells = rng.choice(fit.weight.size, draws, p=fit.weight.ravel() / fit.weight.sum())
    row, column = np.divmod(cells, len(fit.width))
    step = fit.theta[1] - fit.theta[0]
    theta = fit.theta[row] + step * (rng.random(draws) - 0.5)
    jams = 1.0 / (1.0 + np.exp(-(math.log(load) - theta) / fit.width[column]))
    return np.asarray(1.0 - jams)


def grades(draws: Floats, good: float, poor: float) -> Floats:
    """Grades of some draws: 0 at what is poor, 1 at what is good, straight between."""
    return np.clip((draws - poor) / (good - poor), 0.0, 1.0)


def weakest_grade(drawn: dict[str, Floats], limits: SecurityLimits) -> tuple[Floats, str]:
    """Grade of the weakest criterion of staying tied, draw by draw, and which one it mostly is.

    Parameters
    ----------
    drawn : dict
        Draws by criterion, named as in :class:`bruiser.core.behaviour.security.SecurityLimits`.

    Raises
    ------
    ValueError
        Without a criterion.
    """
    if not drawn:
        raise ValueError("nothing was measured of staying tied")
    rows = np.array([grades(d, *getattr(limits, key)) for key, d in drawn.items()])
    means = rows.mean(axis=1)
    return rows.min(axis=0), list(drawn)[int(np.argmin(means))]
