"""The reduced validation with fixed seeds; the full one is ``./run validate``."""

import numpy as np
import pytest
from scipy import stats
from validation import statistics as v
from validation.run import limits

from bruiser.core.performance.efficiency import Case
from bruiser.core.performance.knot_strength import measure_groups
from bruiser.core.statistics.censored import fit
from bruiser.core.statistics.strength import OutcomeCounts
from tests.core.samples import Sample, sample

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


def many(groups, pulls=10):
    rng = np.random.default_rng(SEED)
    x = np.log(7_000) + 0.06 * rng.standard_normal((groups, pulls))
    d = (rng.random((groups, pulls)) < 0.7).astype(float)
    d[:, :2] = 1
    return x, d, 1 - d


@pytest.mark.long
@pytest.mark.slow
def test_many_groups_at_once_give_the_answers_of_a_loop():
    x, d, c = many(25)
    found = fit(x, d, c)
    for k in range(25):
        data = stats.CensoredData.right_censored(np.exp(x[k]), d[k] < 1)
        sigma, _, scale = stats.lognorm.fit(data, floc=0)
        assert found.mu[k] == pytest.approx(np.log(scale), abs=1e-4)
        assert found.sigma[k] == pytest.approx(sigma, abs=1e-4)


def test_every_group_of_many_is_rated_whole():
    base = sample([9_800, 10_000, 10_100, 10_300, 9_900])
    x, d, c = many(100)
    cases = [
        Case(
            knot=Sample(ln_load=x[k], events=d[k], floors=c[k]),
            baseline=base,
            counts=OutcomeCounts(),
        )
        for k in range(100)
    ]
    for rated in measure_groups(cases):
        assert rated.efficiency.interval
        assert rated.efficiency.prior_free
        assert rated.tolerance
