"""Baseline strength, knot strength and efficiency with its interval.

Efficiency is the ratio of medians, E = exp(mu_knot - mu_baseline), estimated from observed
strengths *and* floors; a plain mean of peaks drops what the surviving knots say and is biased low.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.stats import t as student_t

from bruiser.core.censored import Floats, Sample, fit, profile_over_sigma, stack

PROVISIONAL_METHOD = "profile likelihood (provisional)"


@dataclass(frozen=True)
class OutcomeCounts:
    """How many specimens of a group broke there, came out, outlasted, or were void."""

    broke: int = 0
    came_out: int = 0
    outlasted: int = 0
    void: int = 0

    @property
    def specimens(self) -> int:
        """Specimens that say something."""
        return self.broke + self.came_out + self.outlasted


@dataclass(frozen=True)
class Estimate:
    """Maximum-likelihood strength of one group."""

    mu: float
    sigma: float
    log_likelihood: float

    @property
    def median_n(self) -> float:
        """Typical strength in newton."""
        return math.exp(self.mu)


@dataclass(frozen=True)
class Interval:
    """A value with its 95 % interval; an open side is infinite or zero."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Efficiency:
    """Knotted strength as a share of the plain rope's, with what it rests on.

    `interval` is None when the pulls do not allow one; the caveats say why. `at_least` is the
    largest share any specimen is known to have held when nothing was observed to give.
    """

    interval: Interval | None
    counts: OutcomeCounts
    method: str
    caveats: tuple[str, ...]
    pull_ids: tuple[str, ...]
    at_least: float | None = None
    plain_mean: float | None = None


def estimate(sample: Sample) -> Estimate | None:
    """Maximum-likelihood estimate of one group, or None without two different events."""
    if not sample.estimable:
        return None
    found = fit(*stack([sample]))
    return Estimate(float(found.mu[0]), float(found.sigma[0]), float(found.log_likelihood[0]))


def t_cutoff(events: int, confidence: float = 0.95) -> float:
    """Fall of twice the log-likelihood that bounds the interval.

    Notes
    -----
    N ln(1 + t^2 / (N - 2)) with t the two-sided quantile on N - 2 degrees of freedom and N the
    observed events of both groups together; exact for two uncensored samples of one common
    spread, and close to nominal by simulation elsewhere. Needs N of 3 or more.
    """
    t = float(student_t.ppf(0.5 + confidence / 2, events - 2))
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


def _bracket(fall, centre: float, step: float) -> float:  # type: ignore[no-untyped-def]
    edge = centre + step
    for _ in range(60):
        if fall(edge) > 0:
            return float(brentq(fall, centre, edge, xtol=1e-7))
        step *= 1.6
        edge += step
    return math.copysign(math.inf, step)


def efficiency(knot: Sample, baseline: Sample, counts: OutcomeCounts) -> Efficiency:
    """Efficiency of a knot against the measured baseline of its lot and condition.

    Parameters
    ----------
    knot, baseline : Sample
        Evidence for holding strength, and for the plain rope.
    counts : OutcomeCounts
        Specimens by outcome, for the record.

    Returns
    -------
    Efficiency
        First version: maximum likelihood with the profile-likelihood interval.
    """
    caveats: list[str] = []
    interval = None
    at_least = None
    if not len(baseline.ln_load):
        caveats.append("no baseline pulls of this lot and condition")
    else:
        if baseline.event_count < 3:
            caveats.append(f"baseline from {baseline.event_count} clear breaks")
        interval = profile_interval(knot, baseline)
        reference = estimate(baseline)
        if interval is None and len(knot.ln_load):
            caveats.append(f"no interval from {knot.event_count} observed failures")
            if knot.event_count == 0 and reference is not None:
                at_least = math.exp(float(knot.ln_load.max()) - reference.mu)
                caveats.append("floor only: nothing gave at this knot")
        elif 0 < knot.event_count < 3:
            caveats.append(f"few events: {knot.event_count} observed failures")
    return Efficiency(
        interval,
        counts,
        PROVISIONAL_METHOD,
        tuple(caveats),
        knot.pull_ids,
        at_least,
        plain_mean_ratio(knot, baseline),
    )


def plain_mean_ratio(knot: Sample, baseline: Sample) -> float | None:
    """Mean of all peaks over the mean of all baseline peaks: what a notebook would do."""
    if not len(knot.ln_load) or not len(baseline.ln_load):
        return None
    return float(np.exp(knot.ln_load).mean() / np.exp(baseline.ln_load).mean())
