import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from bruiser.core.statistics.censored import (
    Sample,
    fit,
    hazard,
    log_likelihood,
    profile_over_sigma,
    stack,
)
from bruiser.core.statistics.strength import estimate


def make(loads, events=None, floors=None):
    x = np.log(np.asarray(loads, dtype=float))
    d = np.ones(len(x)) if events is None else np.asarray(events, dtype=float)
    c = np.zeros(len(x)) if floors is None else np.asarray(floors, dtype=float)
    return Sample(ln_load=x, events=d, floors=c)


def random_sample(rng, n=8, censored=0.4):
    d = (rng.random(n) > censored).astype(float)
    d[:2] = 1
    return make(7000 * np.exp(0.07 * rng.standard_normal(n)), d, 1 - d)


def test_without_floors_it_is_the_mean_and_root_mean_square():
    sample = make([9000, 9500, 10100, 10400])
    found = estimate(sample)
    assert found.mu == pytest.approx(sample.ln_load.mean(), abs=1e-12)
    assert found.sigma == pytest.approx(sample.ln_load.std(), abs=1e-12)
    assert found.log_likelihood == pytest.approx(
        stats.norm.logpdf(sample.ln_load, found.mu, found.sigma).sum(), abs=1e-12
    )


def test_floors_agree_with_an_independent_fit():
    rng = np.random.default_rng(11)
    for _ in range(20):
        sample = random_sample(rng)
        data = stats.CensoredData.right_censored(sample.ln_load, sample.floors > 0)
        start = estimate(sample)
        mu, sigma = stats.norm.fit(data, loc=start.mu + 0.01, scale=start.sigma * 1.2)
        assert start.mu == pytest.approx(mu, abs=1e-4)
        assert start.sigma == pytest.approx(sigma, abs=1e-4)


def test_the_gradient_vanishes_at_the_maximum():
    rng = np.random.default_rng(5)
    x, d, c = stack([random_sample(rng, 4 + k % 9, 0.6) for k in range(200)])
    found = fit(x, d, c)
    z = (x - found.mu[:, None]) / found.sigma[:, None]
    h = np.where(c > 0, hazard(z), 0.0)
    slope_mu = (d * z + c * h).sum(1)
    slope_sigma = (d * (z * z - 1) + c * h * z).sum(1)
    assert np.abs(slope_mu).max() < 1e-7
    assert np.abs(slope_sigma).max() < 1e-7


@pytest.mark.parametrize("loads", [[9000.0], [9000.0, 9000.0]])
def test_one_load_or_equal_loads_have_no_estimate(loads):
    assert estimate(make(loads)) is None
    assert np.isnan(fit(*stack([make(loads)])).mu[0])


@given(st.integers(0, 10_000), st.floats(0.0, 0.5))
@settings(max_examples=40)
def test_adding_a_higher_survivor_never_lowers_the_estimate(seed, above):
    rng = np.random.default_rng(seed)
    sample = random_sample(rng)
    higher = Sample(
        ln_load=np.r_[sample.ln_load, sample.ln_load.max() + above],
        events=np.r_[sample.events, 0.0],
        floors=np.r_[sample.floors, 1.0],
    )
    assert estimate(higher).mu >= estimate(sample).mu - 1e-9


@given(st.integers(0, 10_000), st.floats(0.1, 10))
@settings(max_examples=30)
def test_order_and_units_do_not_matter(seed, factor):
    rng = np.random.default_rng(seed)
    sample = random_sample(rng)
    turned = rng.permutation(len(sample.ln_load))
    scaled = Sample(
        ln_load=sample.ln_load[turned] + np.log(factor),
        events=sample.events[turned],
        floors=sample.floors[turned],
    )
    first, second = estimate(sample), estimate(scaled)
    assert second.mu - first.mu == pytest.approx(np.log(factor), abs=1e-8)
    assert second.sigma == pytest.approx(first.sigma, rel=1e-7)


def test_the_profile_peaks_at_the_estimate_and_falls_away():
    sample = random_sample(np.random.default_rng(2))
    found = estimate(sample)
    grid = found.mu + np.array([-0.1, -0.01, 0.0, 0.01, 0.1])
    profile = profile_over_sigma(sample, grid, found.sigma)
    assert profile[2] == pytest.approx(found.log_likelihood, abs=1e-9)
    assert profile[0] < profile[1] < profile[2] > profile[3] > profile[4]
    scan = np.linspace(0.2, 5, 4000) * found.sigma
    for mu, value in zip(grid, profile, strict=True):
        assert value == pytest.approx(
            log_likelihood(
                sample.ln_load, sample.events, sample.floors, np.full(4000, mu), scan
            ).max(),
            abs=1e-4,
        )
