import math

import numpy as np
import pytest
from scipy import optimize, stats

from bruiser.core.statistics.profile import profile_interval, t_cutoff
from bruiser.core.statistics.strength import estimate
from tests.core.samples import sample, scattered


def reference_fall(knot, baseline, rho):
    """Twice the fall of the joint log-likelihood at rho, by a general optimiser."""

    def minus(par):
        m, s_b, s_k = par[0], math.exp(par[1]), math.exp(par[2])
        total = 0.0
        for data, mu, s in ((baseline, m, s_b), (knot, m + rho, s_k)):
            z = (data.ln_load - mu) / s
            total += (data.events * (stats.norm.logpdf(z) - math.log(s))).sum()
            total += (data.floors * stats.norm.logsf(z)).sum()
        return -total

    b, k = estimate(baseline), estimate(knot)
    start = [b.mu, math.log(b.sigma), math.log(k.sigma)]
    options = {"xatol": 1e-9, "fatol": 1e-11, "maxiter": 9000}
    best = optimize.minimize(minus, start, method="Nelder-Mead", options=options)
    return 2 * (b.log_likelihood + k.log_likelihood + best.fun)


def test_the_interval_ends_where_the_likelihood_has_fallen_by_the_cutoff():
    rng = np.random.default_rng(3)
    base, knot = scattered(rng, 10_000, 0.04, 5), scattered(rng, 7_000, 0.06, 5, knots=2)
    found = profile_interval(knot, base)
    for edge in (found.low, found.high):
        assert reference_fall(knot, base, math.log(edge)) == pytest.approx(t_cutoff(10), abs=2e-4)
    assert found.low < found.value < found.high


def test_the_cutoff_gives_the_t_interval_where_that_is_exact():
    n = 10
    t = stats.t.ppf(0.975, n - 2)
    assert t_cutoff(n) == pytest.approx(n * math.log(1 + t * t / (n - 2)))


def test_without_four_events_there_is_no_interval():
    assert profile_interval(sample([7_000]), sample([9_900, 10_000, 10_100])) is None
