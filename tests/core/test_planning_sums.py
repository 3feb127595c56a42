import math

import numpy as np
import pytest
from scipy import stats

from bruiser.core.drift import order_drift, technician_drift
from bruiser.core.precision import (
    SpreadGuess,
    half_width,
    power,
    pulls_for_half_width,
    pulls_to_tell_apart,
)
from bruiser.core.working_load import DesignFactor, School, working_loads

SPREAD = SpreadGuess(0.08, 0.04)


def test_the_half_width_is_the_welch_interval_of_the_ratio():
    n, m = 8, 5
    v_k, v_b = 0.08**2 / n, 0.04**2 / m
    nu = (v_k + v_b) ** 2 / (v_k**2 / (n - 1) + v_b**2 / (m - 1))
    expected = 0.7 * stats.t.ppf(0.975, nu) * math.sqrt(v_k + v_b)
    assert half_width(0.7, SPREAD, n, m) == pytest.approx(expected)
    assert half_width(0.7, SPREAD, n, m, 2) < expected
    with pytest.raises(ValueError, match="two pulls"):
        half_width(0.7, SPREAD, 1, 5)


def test_the_pulls_for_a_half_width_just_reach_it_or_the_baseline_forbids():
    n = pulls_for_half_width(0.05, 0.7, SPREAD, 8)
    assert half_width(0.7, SPREAD, n, 8) <= 0.05 < half_width(0.7, SPREAD, n - 1, 8)
    assert pulls_for_half_width(0.001, 0.7, SPREAD, 5) is None


def test_power_agrees_with_simulated_welch_tests():
    rng = np.random.default_rng(5)
    n, trials = 6, 4_000
    a = math.log(0.70) + 0.06 * rng.standard_normal((trials, n))
    b = math.log(0.62) + 0.06 * rng.standard_normal((trials, n))
    found = (stats.ttest_ind(a, b, axis=1, equal_var=False).pvalue < 0.05).mean()
    assert power(0.70, 0.62, 0.06, 0.06, n) == pytest.approx(found, abs=0.03)
    n = pulls_to_tell_apart(0.70, 0.62, 0.06, 0.06)
    assert power(0.70, 0.62, 0.06, 0.06, n) >= 0.8 > power(0.70, 0.62, 0.06, 0.06, n - 1)
    assert pulls_to_tell_apart(0.7, 0.7, 0.06, 0.06) is None


def test_drift_is_found_and_an_outlier_does_not_make_it():
    rng = np.random.default_rng(6)
    order = np.arange(20.0)
    steady = 0.03 * rng.standard_normal(20)
    assert not order_drift(order, steady).warns
    steady[19] += 3.0
    assert not order_drift(order, steady).warns
    drifting = order_drift(order, 0.02 * rng.standard_normal(20) - 0.01 * order)
    assert drifting.warns
    assert drifting.change == pytest.approx(math.expm1(-0.19), abs=0.03)
    assert order_drift(order[:4], steady[:4]) is None
    assert order_drift(np.zeros(9), steady[:9]) is None


def test_a_technician_who_differs_is_named():
    rng = np.random.default_rng(7)
    names = ["TV", "OQ", "LM"] * 6
    departure = 0.03 * rng.standard_normal(18)
    assert not technician_drift(names, departure).warns
    departure[1::3] -= 0.2
    found = technician_drift(names, departure)
    assert found.warns
    assert "OQ" in (found.first, found.second)
    assert technician_drift(["TV"] * 18, departure) is None


def test_the_four_schools_stand_side_by_side_with_their_sums():
    factor = DesignFactor(5.0, "local code, table 3")
    found = working_loads(factor, rating_n=10_000, efficiency=0.7, floor_n=5_500, events=6)
    loads = {row.school: row.load_n for row in found.schools}
    assert loads == pytest.approx(
        {
            School.HALVE: 1_000,
            School.THIRD: 10_000 / 15,
            School.TYPICAL: 1_400,
            School.FLOOR: 1_100,
        }
    )
    assert found.default.school is School.FLOOR
    assert all("local code, table 3" in row.steps[1] for row in found.schools)
    few = working_loads(factor, rating_n=10_000, efficiency=0.7, floor_n=5_500, events=4)
    assert few.default.school is School.THIRD
    unrated = working_loads(factor, rating_n=None, efficiency=0.7, floor_n=None, events=9)
    assert unrated.default is None
    assert unrated.schools[0].steps == ("no rated strength entered",)


@pytest.mark.parametrize(("value", "source"), [(0.5, "code"), (5, " ")])
def test_a_design_factor_needs_a_value_and_a_source(value, source):
    with pytest.raises(ValueError, match="source"):
        DesignFactor(value, source)
