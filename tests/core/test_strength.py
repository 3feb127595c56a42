import math

import numpy as np
import pytest
from scipy import optimize, stats

from bruiser.core.censored import Sample
from bruiser.core.strength import (
    OutcomeCounts,
    efficiency,
    estimate,
    plain_mean_ratio,
    profile_interval,
    t_cutoff,
)


def sample(loads, events=None, floors=None):
    x = np.log(np.asarray(loads, dtype=float))
    d = np.ones(len(x)) if events is None else np.asarray(events, dtype=float)
    c = np.zeros(len(x)) if floors is None else np.asarray(floors, dtype=float)
    return Sample(x, d, c, tuple(f"p{k}" for k in range(len(x))))


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
    base = sample(10_000 * np.exp(0.04 * rng.standard_normal(5)))
    knot = sample(7_000 * np.exp(0.06 * rng.standard_normal(5)), floors=np.ones(5))
    found = profile_interval(knot, base)
    for edge in (found.low, found.high):
        assert reference_fall(knot, base, math.log(edge)) == pytest.approx(t_cutoff(10), abs=2e-4)
    assert found.low < found.value < found.high


def test_the_cutoff_gives_the_t_interval_where_that_is_exact():
    n = 10
    t = stats.t.ppf(0.975, n - 2)
    assert t_cutoff(n) == pytest.approx(n * math.log(1 + t * t / (n - 2)))


@pytest.mark.parametrize("censored", [False, True])
def test_the_interval_holds_the_truth_about_as_often_as_it_says(censored):
    rng = np.random.default_rng(17)
    held = 0
    for _ in range(120):
        base = sample(10_000 * np.exp(0.04 * rng.standard_normal(5)))
        ends = np.log(7_000) + 0.08 * rng.standard_normal((5, 2))
        knot = Sample(ends.min(1), np.ones(5), np.full(5, float(censored)))
        if not censored:
            knot = Sample(ends[:, 0], np.ones(5), np.zeros(5))
        found = profile_interval(knot, base)
        held += found.low < 0.7 < found.high
    assert held >= 106


def test_surviving_ends_are_used_so_the_estimate_is_not_the_biased_mean():
    rng = np.random.default_rng(8)
    ends = 7_000 * np.exp(0.12 * rng.standard_normal((400, 2)))
    base = sample(10_000 * np.exp(0.04 * rng.standard_normal(400)))
    knot = sample(ends.min(1), floors=np.ones(400))
    found = efficiency(knot, base, OutcomeCounts(broke=400))
    assert found.interval.value == pytest.approx(0.70, abs=0.012)
    assert plain_mean_ratio(knot, base) < 0.665
    assert found.pull_ids == knot.pull_ids


def test_nothing_gave_leaves_a_floor_and_says_so():
    base = sample([9_800, 10_000, 10_100, 10_300])
    knot = sample([6_000, 7_000], events=[0, 0], floors=[1, 1])
    found = efficiency(knot, base, OutcomeCounts(outlasted=2))
    assert found.interval is None
    assert found.at_least == pytest.approx(7_000 / math.exp(estimate(base).mu))
    assert any("floor only" in c for c in found.caveats)


def test_without_a_baseline_there_is_no_efficiency():
    found = efficiency(sample([6_000, 7_000]), sample([]), OutcomeCounts(broke=2))
    assert found.interval is None
    assert found.plain_mean is None
    assert found.caveats == ("no baseline pulls of this lot and condition",)


def test_two_events_carry_a_caveat():
    base = sample([9_800, 10_000, 10_100, 10_300])
    found = efficiency(sample([6_800, 7_000]), base, OutcomeCounts(broke=2))
    assert any("few events" in c for c in found.caveats)
