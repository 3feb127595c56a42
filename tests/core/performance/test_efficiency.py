import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.errors import DataError
from bruiser.core.performance.efficiency import Against, Case, Priors, efficiencies
from bruiser.core.statistics.censored import Sample, make_sample
from bruiser.core.statistics.ends import ends_alike
from bruiser.core.statistics.posterior import SpreadPrior
from bruiser.core.statistics.strength import OutcomeCounts, estimate, plain_mean_ratio
from tests.core.samples import sample, scattered


def rate(knot, base, against=Against.TYPICAL, rating=None, priors=None):
    return efficiencies(
        [Case(knot=knot, baseline=base, counts=OutcomeCounts(), rated_n=rating)], priors, against
    )[0]


def kinds(found):
    return [c.kind for c in found.caveats]


KNOT = sample([6_000, 7_000, 6_500])
BASE = sample([9_800, 10_000, 10_100, 10_300, 9_900])


def test_surviving_ends_are_used_so_the_estimate_is_not_the_biased_mean():
    rng = np.random.default_rng(8)
    base, knot = scattered(rng, 10_000, 0.04, 400), scattered(rng, 7_000, 0.12, 400, knots=2)
    found = rate(knot, base)
    assert found.interval.value == pytest.approx(0.70, abs=0.012)
    assert found.prior_free.value == pytest.approx(found.interval.value, abs=1e-3)
    assert found.plain_mean == plain_mean_ratio(knot, base) < 0.665
    assert found.pull_ids == knot.pull_ids


def test_nothing_gave_leaves_a_floor_and_says_so():
    found = rate(sample([6_000, 7_000], [0, 0], [1, 1]), BASE)
    assert (found.interval, found.prior_free) == (None, None)
    assert found.at_least == pytest.approx(7_000 / math.exp(estimate(BASE).mu))
    assert kinds(found) == ["floor only"]


@pytest.mark.parametrize(
    ("knot", "base", "kind"),
    [
        (sample([6_000, 7_000]), sample([]), "no baseline"),
        (
            KNOT,
            sample([9_000, 9_100], [0, 0], [1, 1]),
            "baseline floor only",
        ),
        (
            KNOT,
            sample([9_000, 9_100, 9_900], [1, 0, 0], [0, 1, 1]),
            "thin baseline",
        ),
        (sample([6_800, 7_000]), BASE, "few events"),
        (sample([]), BASE, "no pulls"),
        (sample([4_000, 7_000, 9_800, 6_000]), BASE, "wide spread"),
        (sample([7_000, 7_000, 7_000]), BASE, "no spread"),
    ],
)
def test_what_weakens_a_figure_travels_with_it(knot, base, kind):
    assert kind in kinds(rate(knot, base))


def test_equal_loads_get_the_priors_spread_and_no_prior_free_interval():
    found = rate(sample([7_000, 7_000, 7_000]), BASE)
    assert found.interval.low < 0.7 < found.interval.high
    assert found.interval.high / found.interval.low < 1.5
    assert found.prior_free is None


def test_one_event_is_wide_and_flagged():
    found = rate(sample([7_000]), BASE)
    assert found.interval.low < 0.62
    assert found.interval.high > 0.78
    assert "few events" in kinds(found)


def test_the_three_definitions_are_told_apart():
    knot = sample([6_900, 7_000, 7_200, 6_700])
    typical = rate(knot, BASE)
    lowest = rate(knot, BASE, Against.LOWEST)
    rating = rate(knot, BASE, Against.RATING, 9_000.0)
    middle = math.exp(estimate(knot).mu)
    assert lowest.interval.value == pytest.approx(middle / 9_800, rel=1e-3)
    assert rating.interval.value == pytest.approx(middle / 9_000, rel=1e-3)
    assert typical.interval.value < lowest.interval.value < rating.interval.value
    assert "lowest of n" in kinds(lowest)
    assert "rating used" in kinds(rating)
    assert rate(knot, BASE, Against.RATING).interval is None


def test_the_prior_is_recorded_and_matters_only_a_little():
    knot = sample([6_900, 7_000, 7_200, 6_700])
    tight = rate(knot, BASE, priors=Priors(knot=SpreadPrior(0.02, 0.3)))
    assert "ln 0.02, 0.3^2" in tight.prior
    assert tight.interval.value == pytest.approx(rate(knot, BASE).interval.value, rel=1e-3)
    assert tight.interval.high < rate(knot, BASE).interval.high


@given(st.integers(0, 10_000), st.floats(0.0, 0.6))
@settings(max_examples=15)
def test_adding_a_higher_survivor_never_lowers_the_efficiency(seed, above):
    rng = np.random.default_rng(seed)
    knot = scattered(rng, 7_000, 0.08, 4, knots=1 + seed % 2)
    more = Sample(
        ln_load=np.r_[knot.ln_load, knot.ln_load.max() + above],
        events=np.r_[knot.events, 0.0],
        floors=np.r_[knot.floors, 1.0],
    )
    before, after = rate(knot, BASE).interval, rate(more, BASE).interval
    assert after.value >= before.value - 1e-6


@given(st.integers(0, 10_000), st.floats(0.01, 100))
@settings(max_examples=15)
def test_order_and_units_change_nothing(seed, factor):
    rng = np.random.default_rng(seed)
    knot = scattered(rng, 7_000, 0.08, 5, knots=2)
    turn = rng.permutation(5)
    moved = Sample(
        ln_load=knot.ln_load[turn] + math.log(factor),
        events=knot.events[turn],
        floors=knot.floors[turn],
    )
    scaled = Sample(ln_load=BASE.ln_load + math.log(factor), events=BASE.events, floors=BASE.floors)
    first, second = rate(knot, BASE).interval, rate(moved, scaled).interval
    for name in ("value", "low", "high"):
        assert getattr(first, name) == pytest.approx(getattr(second, name), rel=1e-6)


@pytest.mark.parametrize("load", [0.0, -5.0, math.nan, math.inf])
def test_a_load_that_cannot_be_names_its_pull(load):
    with pytest.raises(DataError, match="S-007"):
        make_sample([("S-006", 7_000.0, 1, 0), ("S-007", load, 1, 0)])


def alike_sample(rng, correlation, pulls=150):
    cover = np.array([[1, correlation], [correlation, 1]])
    ends = math.log(7_000) + 0.08 * rng.multivariate_normal([0, 0], cover, pulls)
    single = math.log(7_000) + 0.08 * rng.standard_normal(pulls)
    x = np.r_[ends.min(axis=1), single]
    return Sample(
        ln_load=x, events=np.ones(2 * pulls), floors=np.r_[np.ones(pulls), np.zeros(pulls)]
    )


def test_ends_that_behave_alike_are_noticed_and_warned_of():
    rng = np.random.default_rng(2)
    alike, apart = ends_alike(alike_sample(rng, 0.8)), ends_alike(alike_sample(rng, 0.0))
    assert alike.correlation > 0.5
    assert alike.warns
    assert apart.correlation < 0.4
    assert not apart.warns
    assert "ends alike" in kinds(rate(alike_sample(rng, 0.8), BASE))
    assert ends_alike(scattered(rng, 7_000, 0.08, 8)) is None
