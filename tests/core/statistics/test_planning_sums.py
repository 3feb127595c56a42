import math
from itertools import pairwise

import numpy as np
import pytest
from scipy import stats

from bruiser.core.choice.working_load import DesignFactor, School, school_for_all, working_loads
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.drift import order_drift, technician_drift
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, posterior, ratio_quantiles
from bruiser.core.statistics.precision import (
    SpreadGuess,
    half_width,
    power,
    pulls_for_half_width,
    pulls_to_tell_apart,
    typical_half_width,
)

SPREAD = SpreadGuess(0.08, 0.04)


def simulated_half_width(share, spread, pulls, baseline_pulls, knots, campaigns, seed):
    """Mean half-width of the default interval over seeded campaigns."""
    rng = np.random.default_rng(seed)

    def table(spread, n, knots, prior):
        ends = spread * rng.standard_normal((campaigns, n, knots))
        floors = np.full(n, knots - 1.0)
        found = posterior(
            [Sample(ln_load=x, events=np.ones(n), floors=floors) for x in ends.min(axis=2)], prior
        )
        return found.table()

    own = table(spread.knot, pulls, knots, KNOT_PRIOR)
    base = table(spread.baseline, baseline_pulls, 1, BASELINE_PRIOR)
    low, high = np.exp(ratio_quantiles(own, base, (0.025, 0.975)))
    return share * float(np.mean(high - low)) / 2


@pytest.mark.parametrize("knots", [1, 2])
@pytest.mark.parametrize("pulls", [2, 3, 5, 8, 12])
@pytest.mark.parametrize("spread", [SpreadGuess(0.04, 0.03), SpreadGuess(0.10, 0.03)])
def test_the_half_width_is_what_simulated_campaigns_have(knots, pulls, spread):
    seen = simulated_half_width(0.7, spread, pulls, 5, knots, 250, 10 * pulls + knots)
    assert half_width(0.7, spread, pulls, 5, knots) == pytest.approx(seen, rel=0.12)


@pytest.mark.slow
@pytest.mark.parametrize("knots", [1, 2])
@pytest.mark.parametrize("pulls", [2, 3, 4, 6, 8, 10, 15, 20])
@pytest.mark.parametrize("knot", [0.03, 0.05, 0.08, 0.12, 0.2])
def test_the_half_width_over_a_thousand_campaigns(knots, pulls, knot):
    for baseline_pulls, base in ((3, 0.03), (5, 0.05), (8, 0.02)):
        spread = SpreadGuess(knot, base)
        seen = simulated_half_width(1.0, spread, pulls, baseline_pulls, knots, 1000, pulls)
        got = half_width(1.0, spread, pulls, baseline_pulls, knots)
        assert got == pytest.approx(seen, rel=0.12), (baseline_pulls, base)


def test_more_pulls_and_a_second_knot_narrow_the_interval():
    widths = [half_width(0.7, SPREAD, n, 5) for n in range(1, 30)]
    assert all(a > b for a, b in pairwise(widths))
    assert all(half_width(0.7, SPREAD, n, 5, 2) < half_width(0.7, SPREAD, n, 5) for n in (4, 8, 20))
    with pytest.raises(ValueError, match="one pull"):
        half_width(0.7, SPREAD, 0, 5)


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
    found = working_loads(factor, rated_n=10_000, efficiency=0.7, floor_n=5_500, events=6)
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
    few = working_loads(factor, rated_n=10_000, efficiency=0.7, floor_n=5_500, events=4)
    assert few.default.school is School.THIRD
    unrated = working_loads(factor, rated_n=None, efficiency=0.7, floor_n=None, events=9)
    assert unrated.default is None
    assert unrated.schools[0].steps == ("no rated strength entered",)


def test_a_list_is_answered_by_one_school():
    factor = DesignFactor(5.0, "local code, table 3")

    def loads(**facts):
        given = {"rated_n": 10_000, "efficiency": 0.7, "floor_n": 5_500, "events": 6}
        return working_loads(factor, **(given | facts))

    assert school_for_all([loads(), loads(events=9)]) is School.FLOOR
    assert school_for_all([loads(), loads(events=3)]) is School.THIRD
    assert school_for_all([loads(), loads(rated_n=None, events=2)]) is School.THIRD
    assert school_for_all([loads(rated_n=None), loads(rated_n=None)]) is School.FLOOR
    assert school_for_all([loads(rated_n=None, floor_n=None)]) is None
    assert school_for_all([]) is None


@pytest.mark.parametrize(("value", "source"), [(0.5, "code"), (5, " ")])
def test_a_design_factor_needs_a_value_and_a_source(value, source):
    with pytest.raises(ValueError, match="source"):
        DesignFactor(value, source)


@pytest.mark.parametrize("kind", ["one knot", "two knots", "plain rope"])
@pytest.mark.parametrize("spread", [0.005, 0.01, 0.044, 0.3, 0.6])
def test_the_table_and_the_formula_join_without_a_step(kind, spread):
    widths = [typical_half_width(spread, n, kind) for n in range(2, 40)]
    assert all(a > b for a, b in pairwise(widths))
    step = widths[6] / widths[7]
    assert 1.0 < step < 1.2


@pytest.mark.parametrize("kind", ["one knot", "two knots", "plain rope"])
def test_a_wider_spread_never_narrows_the_interval(kind):
    for pulls in (2, 5, 8, 20):
        widths = [typical_half_width(s, pulls, kind) for s in (0.01, 0.03, 0.06, 0.1, 0.25, 0.5)]
        assert all(a <= b for a, b in pairwise(widths)), pulls


def test_a_single_pull_shows_nothing_of_the_spread_and_rests_on_the_prior():
    for kind, knots in (("one knot", KNOT_PRIOR), ("plain rope", BASELINE_PRIOR)):
        tight, wide = (typical_half_width(s, 1, kind) for s in (0.01, 0.3))
        assert tight == pytest.approx(wide, rel=0.05)
        alone = posterior(
            [Sample(ln_load=np.zeros(1), events=np.ones(1), floors=np.zeros(1))], knots
        )
        low, high = (float(alone.quantile(q)[0]) for q in (0.025, 0.975))
        assert math.sinh(tight) == pytest.approx((math.exp(high) - math.exp(low)) / 2, rel=0.02)


def test_spreads_beyond_the_table_grow_in_proportion():
    edge, far = (typical_half_width(s, 5, "one knot") for s in (0.3, 0.6))
    assert far == pytest.approx(2 * edge)
    inside, below = (typical_half_width(s, 5, "one knot") for s in (0.01, 0.001))
    assert inside == below
