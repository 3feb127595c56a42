"""The reduced validation with fixed seeds; the full one is ``./run validate``."""

import time

import numpy as np
import pytest
from scipy import stats
from validation import statistics as v
from validation.run import limits

from bruiser.core.rating.efficiency import Case
from bruiser.core.rating.rate import rate_groups
from bruiser.core.statistics.censored import fit
from bruiser.core.statistics.strength import OutcomeCounts
from tests.core.stat_data import Sample, sample

SEED = 77


@pytest.mark.parametrize(
    ("cv", "pulls", "knots", "terminations"),
    [(0.04, 3, 1, False), (0.12, 3, 2, True), (0.08, 5, 2, False), (0.12, 12, 1, True)],
)
def test_the_default_interval_holds_the_truth_as_often_as_it_says(cv, pulls, knots, terminations):
    found = v.efficiency_cell(cv, pulls, knots, terminations, 250, SEED)
    assert limits(0.93, 0.99, found)
    assert abs(found.bias) < 0.01 + 2 * cv / (pulls * 250) ** 0.5


def test_the_plain_mean_is_biased_low_as_published():
    rng = np.random.default_rng(SEED)
    ends = 7_000 * np.exp(0.08 * rng.standard_normal((40_000, 2)))
    assert ends.min(axis=1).mean() / 7_000 - 1 == pytest.approx(-0.043, abs=0.003)


def test_the_tolerance_bound_covers():
    assert limits(0.94, 0.97, v.tolerance_cell(0.12, 10, 0.3, 0.90, 250, SEED))


def test_comparisons_keep_the_family_error():
    assert limits(0.0, 0.055, v.family_cell(5, 5, 2, 200, SEED))


@pytest.mark.slow
def test_the_slow_cells_reach_their_limits():
    assert limits(0.928, 0.974, v.profile_cell(0.08, 5, 2, 300, SEED))
    assert limits(0.92, 1.0, v.jam_cell(10, 300, SEED))
    assert limits(0.92, 1.0, v.untie_cell(6, 300, SEED))
    assert limits(0.0, 0.06, v.wraps_cell(4, False, 200, SEED))


def many(groups=1_000, pulls=10):
    rng = np.random.default_rng(SEED)
    x = np.log(7_000) + 0.06 * rng.standard_normal((groups, pulls))
    d = (rng.random((groups, pulls)) < 0.7).astype(float)
    d[:, :2] = 1
    return x, d, 1 - d


def seconds(work):
    """Processor time: other programs do not count."""
    began = time.process_time()
    work()
    return time.process_time() - began


def scipy_loop(x, d, found, groups=25):
    """Processor seconds a group of a loop over scipy's censored fit, answers compared."""

    def loop():
        for k in range(groups):
            data = stats.CensoredData.right_censored(np.exp(x[k]), d[k] < 1)
            sigma, _, scale = stats.lognorm.fit(data, floc=0)
            assert found.mu[k] == pytest.approx(np.log(scale), abs=1e-4)
            assert found.sigma[k] == pytest.approx(sigma, abs=1e-4)

    return seconds(loop) / groups


def rate_all(x, d, c):
    base = sample([9_800, 10_000, 10_100, 10_300, 9_900])
    cases = [Case(Sample(x[k], d[k], c[k]), base, OutcomeCounts()) for k in range(len(x))]
    rated = []
    took = min(seconds(lambda: rated.extend(rate_groups(cases))) for _ in range(2))
    assert all(r.efficiency.interval and r.efficiency.prior_free and r.tolerance for r in rated)
    return took


def test_many_groups_are_quicker_than_a_loop_with_equal_answers():
    x, d, c = many()
    found = fit(x, d, c)
    ours = min(seconds(lambda: fit(x, d, c)) for _ in range(3))
    theirs = scipy_loop(x, d, found) * len(x)
    assert ours < 0.2
    assert theirs > 20 * ours
    assert theirs > 4 * 10 * rate_all(x[:100], d[:100], c[:100])


@pytest.mark.slow
def test_full_results_of_a_thousand_groups_take_under_five_seconds():
    assert rate_all(*many()) < 5.0
