"""Jamming: the load at which half of such knots no longer open by hand, and the time it takes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import expit, logsumexp

from bruiser.core.censored import Floats, Sample
from bruiser.core.posterior import SpreadPrior, typical_value
from bruiser.core.records import JamLevel
from bruiser.core.strength import Interval

JAM_ORDER: dict[JamLevel, int] = {
    JamLevel.SHAKEN: 0,
    JamLevel.HAND: 0,
    JamLevel.WORKED: 1,
    JamLevel.TOOL: 2,
    JamLevel.CUT: 3,
    JamLevel.FUSED: 3,
}

_WIDTH_PRIOR = (math.log(0.18), 0.7)
_GAP_PRIOR = (math.log(0.4), 0.8)
_PLACE_PRIOR = (math.log(0.6), 1.2)
UNTIE_PRIOR = SpreadPrior(0.7, 1.0)


@dataclass(frozen=True)
class JamResult:
    """Where half of such knots jam, as a share of the baseline.

    Parameters
    ----------
    j50 : Interval or None
        Posterior median and 95 % interval; None when not decided.
    decided : bool
        Whether both jammed and opened knots were seen.
    above, below : float or None
        Where not decided: it lies above the highest share tried, or below the lowest.
    """

    j50: Interval | None
    decided: bool
    above: float | None
    below: float | None
    opened: int
    jammed: int
    pull_ids: tuple[str, ...]


def jam_load(share: Floats, level: np.ndarray, pull_ids: tuple[str, ...] = ()) -> JamResult | None:
    """J50 from untying outcomes.

    Parameters
    ----------
    share : ndarray, shape (n,)
        Peak load each inspected knot had seen, as a share of the baseline.
    level : ndarray of int, shape (n,)
        Ordered level 0..3, see ``JAM_ORDER``; 2 and 3 are jammed.

    Returns
    -------
    JamResult or None
        None without inspections.

    Notes
    -----
    Ordinal logistic on x = ln share: P(needs a tool or worse) = 1/(1 + exp(-(x - theta)/w)), with
    the neighbouring thresholds at theta - g1 and theta + g2. Priors: theta ~ N(ln 0.6, 1.2^2),
    ln w ~ N(ln 0.18, 0.7^2), ln g ~ N(ln 0.4, 0.8^2). Given theta and w the two gaps separate,
    so the posterior of theta is a sum over w and each gap by itself. J50 = exp(theta).
    """
    if not len(share):
        return None
    jammed = int((level >= 2).sum())
    opened = len(level) - jammed
    if not jammed:
        return JamResult(None, False, float(share.max()), None, opened, 0, pull_ids)
    if not opened:
        return JamResult(None, False, None, float(share.min()), 0, jammed, pull_ids)
    x = np.log(share)
    coarse = np.linspace(_PLACE_PRIOR[0] - 4.8, _PLACE_PRIOR[0] + 4.8, 49)
    rough = _theta_posterior(coarse, x, level)
    likely = np.flatnonzero(rough > rough.max() - 16)
    step = coarse[1] - coarse[0]
    theta = np.linspace(coarse[likely[0]] - step, coarse[likely[-1]] + step, 161)
    log_p = _theta_posterior(theta, x, level)
    weight = np.exp(log_p - log_p.max())
    cdf = np.concatenate([[0.0], np.cumsum(0.5 * (weight[1:] + weight[:-1]))])
    low, middle, high = np.exp(np.interp([0.025, 0.5, 0.975], cdf / cdf[-1], theta))
    interval = Interval(float(middle), float(low), float(high))
    return JamResult(interval, True, None, None, opened, jammed, pull_ids)


def _normal_grid(place: float, spread: float, points: int) -> tuple[Floats, Floats]:
    u = np.linspace(-3.2, 3.2, points)
    return np.exp(place + spread * u), -0.5 * u * u


def _theta_posterior(theta: Floats, x: Floats, level: np.ndarray) -> Floats:
    """Log posterior of theta up to a constant; shape of `theta`."""
    widths, log_pw = _normal_grid(*_WIDTH_PRIOR, 15)
    gaps, log_pg = _normal_grid(*_GAP_PRIOR, 15)
    t, w, g = theta[:, None, None], widths[None, :, None], gaps[None, None, :]
    under = np.zeros((len(theta), len(widths), len(gaps)))
    over = np.zeros_like(under)
    for value, k in zip(x, level, strict=True):
        middle = expit((value - t) / w)
        if k <= 1:
            first = expit((value - t + g) / w)
            chance = 1 - first if k == 0 else first - middle
            under += np.log(np.maximum(chance, 1e-300))
        else:
            last = expit((value - t - g) / w)
            chance = last if k == 3 else middle - last
            over += np.log(np.maximum(chance, 1e-300))
    inner = logsumexp(under + log_pg, axis=2) + logsumexp(over + log_pg, axis=2)
    place, spread = _PLACE_PRIOR
    prior = -0.5 * ((theta - place) / spread) ** 2
    return np.asarray(logsumexp(inner + log_pw, axis=1) + prior)


def untying_time(sample: Sample) -> Interval | None:
    """Typical untying time in second with its interval; giving up is a floor.

    Notes
    -----
    Log-normal with right-censoring; posterior with mu flat and ln sigma ~ N(ln 0.7, 1.0^2), a
    spread wide enough for hands. None without a knot that was untied.
    """
    return typical_value(sample, UNTIE_PRIOR)
