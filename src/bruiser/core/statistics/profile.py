"""Profile-likelihood interval of an efficiency: the cross-check of the posterior."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from scipy.special import stdtrit

from bruiser.core.statistics.censored import Floats, Sample, profile_over_sigma
from bruiser.core.statistics.strength import Interval, estimate


def t_cutoff(events: int, confidence: float = 0.95) -> float:
    """Fall of twice the log-likelihood that bounds the interval.

    Notes
    -----
    N ln(1 + t^2 / (N - 2)) with t the two-sided quantile on N - 2 degrees of freedom and N the
    observed events of both groups together; exact for two uncensored samples of one common
    spread, and close to nominal by simulation elsewhere. Needs N of 3 or more.
    """
    t = float(stdtrit(events - 2, 0.5 + confidence / 2))
    return events * math.log1p(t * t / (events - 2))


def profile_interval(knot: Sample, baseline: Sample) -> Interval | None:
    """Efficiency with its profile-likelihood interval.

    Parameters
    ----------
    knot, baseline : Sample
        Their evidence.

    Returns
    -------
    Interval or None
        None unless both can be estimated and four events or more were observed together.

    Notes
    -----
    The profile of rho = mu_knot - mu_baseline is max over m of PL_b(m) + PL_k(m + rho), PL being
    each group's likelihood maximised over its own sigma. The interval ends where twice its fall
    reaches :func:`t_cutoff`.
    """
    k, b = estimate(knot), estimate(baseline)
    events = knot.event_count + baseline.event_count
    if k is None or b is None or events < 4:
        return None
    cutoff = t_cutoff(events)
    top = k.log_likelihood + b.log_likelihood
    rho_hat = k.mu - b.mu
    spread_b = b.sigma / math.sqrt(baseline.event_count)
    grid = b.mu + spread_b * np.linspace(-1.0, 1.0, 161) * 3.0 * math.sqrt(cutoff)
    profile_b = profile_over_sigma(baseline, grid, b.sigma)

    def fall(rho: float) -> float:
        total = profile_b + profile_over_sigma(knot, grid + rho, k.sigma)
        return 2.0 * (top - _peak_of(total)) - cutoff

    step = max(k.sigma / math.sqrt(knot.event_count), spread_b)
    low = _bracket(fall, rho_hat, -step)
    high = _bracket(fall, rho_hat, step)
    return Interval(math.exp(rho_hat), math.exp(low), math.exp(high))


def _peak_of(values: Floats) -> float:
    """Top of sampled values, refined by the parabola through the three highest neighbours."""
    i = int(np.argmax(values))
    if i in (0, len(values) - 1):
        return float(values[i])
    left, mid, right = values[i - 1], values[i], values[i + 1]
    bend = left - 2 * mid + right
    return float(mid if bend >= 0 else mid - (right - left) ** 2 / (8 * bend))


def _bracket(fall: Callable[[float], float], centre: float, step: float) -> float:
    from scipy.optimize import brentq  # slow to load

    edge = centre + step
    for _ in range(60):
        if fall(edge) > 0:
            return float(brentq(fall, centre, edge, xtol=1e-7))
        step *= 1.6
        edge += step
    return math.copysign(math.inf, step)
