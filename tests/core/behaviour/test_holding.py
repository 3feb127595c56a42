"""Grip, seat, release, advantage and retention: what enters, and whether intervals hold."""

import math

import numpy as np
import pytest
from scipy import optimize, stats

from bruiser.core.behaviour.duties import (
    AdvantagePull,
    BulkPull,
    ReleasePull,
    RetentionPull,
    measure_advantage,
    measure_bulk,
    measure_release,
    measure_retention,
    ratio_interval,
)
from bruiser.core.behaviour.holding import HoldPull, measure_holds
from tests.core.samples import sample


def holds(loads, gave):
    return [
        HoldPull(pull_id=f"p{k}", load_n=float(x), gave=bool(g))
        for k, (x, g) in enumerate(zip(loads, gave, strict=True))
    ]


def test_a_break_and_a_stop_say_that_it_held():
    (found,) = measure_holds([(holds((2000, 2300, 2600), (1, 1, 0)), None)])
    assert (found.gave, found.held, found.at_least_n) == (2, 1, 2600.0)
    (as_slides,) = measure_holds([(holds((2000, 2300, 2600), (1, 1, 1)), None)])
    assert found.estimate.mu > as_slides.estimate.mu
    assert found.share is None


def test_the_likelihood_of_a_grip_is_the_maximum_of_the_censored_log_normal():
    loads, gave = np.array([1800, 2000, 2150, 2300, 2600.0]), np.array([1, 1, 0, 1, 0], bool)
    (found,) = measure_holds([(holds(loads, gave), None)])
    x = np.log(loads)

    def minus(par):
        z = (x - par[0]) / math.exp(par[1])
        return -np.where(gave, stats.norm.logpdf(z) - par[1], stats.norm.logsf(z)).sum()

    best = optimize.minimize(minus, [x.mean(), -2], method="Nelder-Mead", tol=1e-12).x
    assert found.estimate.mu == pytest.approx(best[0], abs=1e-5)
    assert found.estimate.sigma == pytest.approx(math.exp(best[1]), abs=1e-5)


def test_what_never_slid_has_a_floor_and_no_typical_load():
    (found,) = measure_holds([(holds((900, 1200), (0, 0)), sample((5000, 5100)))])
    assert found.interval is None
    assert found.share is None
    assert found.at_least_n == 1200.0
    assert measure_holds([((), None)]) == [None]


def test_a_grip_is_a_share_of_the_cords_own_plain_rope():
    plain = sample([10_000 * f for f in (0.98, 1.0, 1.02, 1.01, 0.99)])
    (found,) = measure_holds([(holds((1900, 2000, 2100, 2050), (1, 1, 1, 1)), plain)])
    assert found.share.value == pytest.approx(found.interval.value / 10_000, rel=0.01)
    assert found.share.low < found.share.value < found.share.high


def test_a_force_that_did_not_free_it_is_none_that_frees_it():
    found = measure_release(
        [
            ReleasePull(pull_id="a", held_n=1000, force_n=50, freed=True, freed_itself=False),
            ReleasePull(pull_id="b", held_n=1000, force_n=80, freed=True, freed_itself=False),
            ReleasePull(pull_id="c", held_n=1000, force_n=400, freed=False, freed_itself=False),
            ReleasePull(pull_id="d", held_n=1000, freed_itself=True),
        ]
    )
    assert found.freed.value == pytest.approx(2 / 3)
    assert found.freed_itself.value == pytest.approx(1 / 4)
    assert found.force_share.value == pytest.approx(math.sqrt(0.05 * 0.08))
    assert measure_release([]) is None


def test_what_slipped_back_or_came_slack_is_counted_and_not_averaged():
    found = measure_advantage(
        [
            AdvantagePull(pull_id="a", hand_n=500, applied_n=1000, kept_n=800),
            AdvantagePull(pull_id="b", hand_n=400, applied_n=1000, kept_n=0.0),
            AdvantagePull(pull_id="c", hand_n=450, applied_n=1000),
        ]
    )
    assert found.advantage.value == pytest.approx((2 * 2.5 * (1 / 0.45)) ** (1 / 3))
    assert (found.kept.value, found.slack) == (pytest.approx(0.8), 1)
    bound = measure_retention(
        [
            RetentionPull(pull_id="a", before_n=400, after_n=300, cycles=20, cut=True),
            RetentionPull(pull_id="b", before_n=400, after_n=0, cycles=20, cut=False),
        ]
    )
    assert (bound.n, bound.slack, bound.cut.yes) == (2, 1, 1)
    assert bound.kept.value == pytest.approx(0.75)
    assert bound.slack_share.value == 0.5
    assert (measure_advantage([]), measure_retention([]), measure_bulk([])) == (None,) * 3


def test_a_knot_that_did_not_pass_the_ledge_has_no_force_to_pass_it():
    found = measure_bulk(
        [
            BulkPull(pull_id="a", width_d=3.0, force_n=60),
            BulkPull(pull_id="b", width_d=3.2, force_n=300, passed=False),
            BulkPull(pull_id="c", width_d=3.1),
        ]
    )
    assert found.force_n.value == pytest.approx(60)
    assert found.passed.value == 0.5
    assert found.width_d.value == pytest.approx((3.0 * 3.2 * 3.1) ** (1 / 3))


def test_a_ratio_is_students_t_on_the_log_and_open_from_one_reading():
    values = [1.6, 1.9, 1.7, 2.1]
    ln = np.log(values)
    low, high = stats.t.interval(0.95, 3, ln.mean(), stats.sem(ln))
    found = ratio_interval(values)
    assert (found.low, found.high) == (
        pytest.approx(math.exp(low)),
        pytest.approx(math.exp(high)),
    )
    assert ratio_interval([2.0]).high == math.inf
    assert ratio_interval([]) is None
    with pytest.raises(ValueError, match="positive"):
        ratio_interval([1.0, 0.0])


def covered_grips(rng, n, cv, held, plans):
    """Share of intervals that hold the true grip, where a share of pulls is stopped before."""
    sigma = math.sqrt(math.log1p(cv * cv))
    stop = stats.norm.ppf(1 - held) * sigma
    groups = []
    while len(groups) < plans:
        x = rng.normal(0, sigma, n)
        if (x < stop).any():
            groups.append((holds(2000 * np.exp(np.minimum(x, stop)), x < stop), None))
    found = [r.interval for r in measure_holds(groups)]
    return np.mean([i.low <= 2000 <= i.high for i in found])


@pytest.mark.slow
@pytest.mark.parametrize("n", [5, 10])
@pytest.mark.parametrize("cv", [0.05, 0.15, 0.30])
def test_intervals_of_grip_hold_the_truth(n, cv):
    assert covered_grips(np.random.default_rng(n), n, cv, 1 / 3, 2_000) >= 0.92


def test_intervals_of_grip_hold_the_truth_in_a_few_hundred_plans():
    assert covered_grips(np.random.default_rng(3), 5, 0.30, 1 / 3, 300) >= 0.90


@pytest.mark.parametrize("n", [5, 10])
def test_intervals_of_release_and_retention_hold_the_truth(n):
    rng = np.random.default_rng(7)
    hit = {"release": 0, "retention": 0}
    for _ in range(800):
        force = 0.06 * np.exp(rng.normal(0, 0.3, n))
        left = 0.7 * np.exp(rng.normal(0, 0.2, n))
        release = measure_release(
            [ReleasePull(pull_id="r", held_n=1e3, force_n=1e3 * f, freed=True) for f in force]
        )
        kept = measure_retention(
            [RetentionPull(pull_id="k", before_n=400, after_n=400 * k) for k in left]
        )
        hit["release"] += release.force_share.low <= 0.06 <= release.force_share.high
        hit["retention"] += kept.kept.low <= 0.7 <= kept.kept.high
    assert min(hit.values()) >= 0.92 * 800
