"""Do the two ends of a specimen behave alike? Specimens with one knot tell."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import log_ndtr

from bruiser.core.statistics.censored import Sample

_GRID = np.linspace(0.0, 0.9, 19)


@dataclass(frozen=True)
class EndsAlike:
    """Correlation between the ends, and how strongly the pulls speak for it.

    `evidence` is twice the gain in log-likelihood over independent ends.
    """

    correlation: float
    evidence: float

    @property
    def warns(self) -> bool:
        """Whether to warn: clearly above zero at the 5 % level, one-sided."""
        return self.correlation >= 0.3 and self.evidence > 2.71


def ends_alike(sample: Sample) -> EndsAlike | None:
    """Estimate the correlation of the ends where one- and two-knot specimens both gave.

    Notes
    -----
    With bivariate normal ends of correlation r, an end that gave at z while the other held adds
    ln phi(z) + ln Phi(-z sqrt((1 - r)/(1 + r))): the conditional survival of the other end. For
    r = 0 this is the independent likelihood. Profiled over mu and sigma on a grid of r.
    """
    from scipy.optimize import minimize  # slow to load

    d, c, x = sample.events, sample.floors, sample.ln_load
    single = (d == 1) & (c == 0)
    double = (d == 1) & (c == 1)
    if single.sum() < 2 or double.sum() < 2 or len(np.unique(x)) < 3:
        return None
    seen = d > 0

    def minus(par: np.ndarray, shrink: float) -> float:
        sigma = math.exp(par[1])
        z = (x - par[0]) / sigma
        total = (d * (-0.5 * z * z - par[1]))[seen].sum()
        factor = np.where(double, shrink, 1.0)
        return -float(total + (c * log_ndtr(-z * factor)).sum())

    start = np.array([float(x[seen].mean()), math.log(float(x[seen].std()) + 1e-3)])
    best = []
    for r in _GRID:
        shrink = math.sqrt((1 - r) / (1 + r))
        done = minimize(minus, start, args=(shrink,), method="Nelder-Mead")
        start = done.x
        best.append(-float(done.fun))
    top = int(np.argmax(best))
    return EndsAlike(float(_GRID[top]), max(0.0, 2 * (best[top] - best[0])))
