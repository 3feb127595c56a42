"""Quantiles of mixtures of normal distributions that share their weights."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr, ndtri

from bruiser.core.statistics.censored import Floats

_TOLERANCE = 1e-8
_NO_WEIGHT = 1e-7
_MOST_STEPS = 80
_ROOT_2_PI = float(np.sqrt(2.0 * np.pi))


def mixture_quantiles(
    mean: Floats, sd: Floats, weight: Floats, shares: tuple[float, ...]
) -> Floats:
    """Quantiles of mixtures of normals, by Newton's method with bisection as a guard.

    Parameters
    ----------
    mean, sd : ndarray, shape (g, n)
        Of each part of each mixture.
    weight : ndarray, shape (g,)
        Of the parts, the same in every mixture.
    shares : tuple of float

    Returns
    -------
    ndarray, shape (len(shares), n)
    """
    order = np.argsort(-weight)
    kept = order[: int(np.searchsorted(np.cumsum(weight[order]), 1.0 - _NO_WEIGHT)) + 1]
    weight = weight[kept] / weight[kept].sum()
    mean, sd = mean[kept], sd[kept]
    centre = weight @ mean
    width = np.sqrt(np.maximum(weight @ (sd**2 + mean**2) - centre**2, 1e-300))
    lowest, highest = (mean - 9.0 * sd).min(axis=0), (mean + 9.0 * sd).max(axis=0)
    return np.array(
        [
            _quantile(mean, sd, weight, share, centre + width * ndtri(share), (lowest, highest))
            for share in shares
        ]
    )


def _quantile(
    mean: Floats,
    sd: Floats,
    weight: Floats,
    share: float,
    start: Floats,
    limits: tuple[Floats, Floats],
) -> Floats:
    low, high = limits
    at = np.clip(start, low, high)
    going = np.arange(len(at))
    for _ in range(_MOST_STEPS):
        z = (at[going] - mean[:, going]) / sd[:, going]
        short = weight @ ndtr(z) - share
        below = short < 0
        low = _put(low, going, np.where(below, at[going], low[going]))
        high = _put(high, going, np.where(below, high[going], at[going]))
        slope = weight @ (np.exp(-0.5 * z**2) / (sd[:, going] * _ROOT_2_PI))
        with np.errstate(divide="ignore", invalid="ignore"):
            step = at[going] - short / slope
        inside = np.isfinite(step) & (step > low[going]) & (step < high[going])
        new = np.where(inside, step, 0.5 * (low[going] + high[going]))
        moved = np.abs(new - at[going])
        at = _put(at, going, new)
        going = going[moved > _TOLERANCE]
        if not len(going):
            break
    return at


def _put(values: Floats, where: np.ndarray, new: Floats) -> Floats:
    changed = values.copy()
    changed[where] = new
    return changed
