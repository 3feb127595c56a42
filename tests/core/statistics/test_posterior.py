import math

import numpy as np
import pytest
from scipy import stats

from bruiser.core.statistics.censored import log_likelihood
from bruiser.core.statistics.posterior import (
    KNOT_PRIOR,
    PRIOR_FREE,
    SpreadPrior,
    posterior,
    ratio_quantiles,
    solve_rising,
)
from tests.core.samples import sample, scattered


@pytest.mark.parametrize("n", [3, 5, 12, 60])
def test_prior_free_without_floors_it_is_students_t(n):
    s = scattered(np.random.default_rng(n), 7_000, 0.06, n)
    mean, sd = s.ln_load.mean(), s.ln_load.std(ddof=1)
    found = posterior([s], PRIOR_FREE)
    for share in (0.025, 0.25, 0.5, 0.975):
        exact = mean + sd / math.sqrt(n) * stats.t.ppf(share, n - 1)
        assert found.quantile(share)[0] == pytest.approx(exact, abs=1e-6)


@pytest.mark.parametrize(("n", "close"), [(3, 2e-4), (5, 1e-5), (12, 1e-6)])
def test_the_quadrature_gives_the_noncentral_t_bound(n, close):
    s = scattered(np.random.default_rng(n), 7_000, 0.06, n)
    z = stats.norm.ppf(0.95)
    k = stats.nct.ppf(0.95, n - 1, z * math.sqrt(n)) / math.sqrt(n)
    exact = s.ln_load.mean() - k * s.ln_load.std(ddof=1)
    assert posterior([s], PRIOR_FREE).quantile(0.05, z)[0] == pytest.approx(exact, abs=close)


@pytest.mark.long
@pytest.mark.parametrize("prior", [KNOT_PRIOR, SpreadPrior(0.04, 0.8)])
@pytest.mark.parametrize("seed", [1, *(pytest.param(n, marks=pytest.mark.slow) for n in (2, 3))])
def test_with_floors_it_agrees_with_a_brute_grid(prior, seed):
    rng = np.random.default_rng(seed)
    s = sample(
        7_000 * np.exp(0.07 * rng.standard_normal(5)),
        events=[1, 1, 0, 1, 0],
        floors=[1, 1, 2, 0, 1],
    )
    mu = np.linspace(7.5, 16.0, 12_001)
    ln_sigma = np.linspace(-7, 4.0, 500)
    log_p = np.array(
        [
            log_likelihood(s.ln_load, s.events, s.floors, mu, np.full_like(mu, math.exp(u)))
            - 0.5 * ((u - math.log(prior.median)) / prior.width) ** 2
            for u in ln_sigma
        ]
    )
    density = np.exp(log_p - log_p.max()).sum(axis=0)
    cdf = np.cumsum(density) / density.sum()
    for share in (0.025, 0.5, 0.975):
        brute = np.interp(share, cdf, mu + 0.5 * (mu[1] - mu[0]))
        assert posterior([s], prior).quantile(share)[0] == pytest.approx(brute, abs=3e-4)


def test_the_ratio_agrees_with_draws_from_two_t_posteriors():
    rng = np.random.default_rng(4)
    knot, base = scattered(rng, 7_000, 0.08, 6), scattered(rng, 10_000, 0.04, 5)
    draws = 0.0
    for s, sign in ((knot, 1), (base, -1)):
        n = len(s.ln_load)
        t = rng.standard_t(n - 1, 2_000_000)
        draws = draws + sign * (s.ln_load.mean() + s.ln_load.std(ddof=1) / math.sqrt(n) * t)
    tables = [posterior([s], PRIOR_FREE).table() for s in (knot, base)]
    found = ratio_quantiles(*tables, (0.025, 0.5, 0.975))[:, 0]
    np.testing.assert_allclose(found, np.quantile(draws, [0.025, 0.5, 0.975]), atol=6e-4)


def test_floors_far_above_the_events_do_not_upset_it():
    s = sample([5_000, 9_000, 9_900, 9_500], [1, 0, 0, 0], [0, 1, 1, 1])
    for prior in (KNOT_PRIOR, SpreadPrior(0.04, 0.8)):
        found = posterior([s], prior)
        low, high = found.quantile(0.025)[0], found.quantile(0.975)[0]
        assert math.log(5_000) < low < high < 15


def test_groups_do_not_disturb_one_another():
    rng = np.random.default_rng(1)
    many = [scattered(rng, 7_000, 0.08, 3 + k % 5, knots=1 + k % 2) for k in range(150)]
    together = posterior(many, KNOT_PRIOR).quantile(0.5)
    for k in (0, 99, 100, 149):
        assert posterior([many[k]], KNOT_PRIOR).quantile(0.5)[0] == pytest.approx(
            together[k], abs=1e-8
        )


@pytest.mark.parametrize(
    ("bad", "prior"), [(sample([1.0], [0], [1]), KNOT_PRIOR), (sample([1.0]), PRIOR_FREE)]
)
def test_what_has_no_posterior_is_a_mistake(bad, prior):
    with pytest.raises(ValueError, match="observed"):
        posterior([bad], prior)


def test_roots_are_found_far_from_the_start():
    found = solve_rising(lambda x: np.tanh(x - 50.0), np.zeros(3), np.ones(3))
    np.testing.assert_allclose(found, 50.0, atol=1e-6)
