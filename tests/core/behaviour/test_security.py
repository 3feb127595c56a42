import numpy as np
import pytest
from scipy import stats
from statsmodels.duration.survfunc import SurvfuncRight
from statsmodels.stats.proportion import proportion_confint

from bruiser.core.behaviour.security import (
    SecurityCriterion,
    cycles_survival,
    security_verdict,
    share_interval,
)
from bruiser.core.statistics.strength import Interval


@pytest.mark.parametrize(("hits", "trials"), [(1, 5), (3, 7), (2, 30)])
def test_the_share_that_came_out_has_its_jeffreys_interval(hits, trials):
    low, high = proportion_confint(hits, trials, method="jeffreys")
    found = share_interval(hits, trials)
    assert (found.low, found.high) == (pytest.approx(low), pytest.approx(high))
    assert found.value == hits / trials


def test_none_and_all_close_the_open_side():
    assert share_interval(0, 5).low == 0.0
    assert share_interval(5, 5).high == 1.0
    assert share_interval(0, 0) is None
    with pytest.raises(ValueError, match="hits"):
        share_interval(6, 5)


def test_survival_agrees_with_an_independent_product_limit():
    rng = np.random.default_rng(3)
    cycles = rng.integers(1, 40, 25)
    failed = rng.random(25) < 0.6
    reference = SurvfuncRight(cycles, failed.astype(int))
    steps = cycles_survival(cycles, failed)[1:]
    shares = dict(zip(reference.surv_times, reference.surv_prob, strict=True))
    for step in steps:
        assert step.share == pytest.approx(shares[step.cycles])
        assert step.low <= step.share <= step.high
    inner = steps[3]
    error = reference.surv_prob_se[list(reference.surv_times).index(inner.cycles)]
    s = inner.share
    width = 1.959964 * error / (s * abs(np.log(s)))
    assert inner.low == pytest.approx(s ** np.exp(width), rel=1e-5)


def test_the_ends_of_the_curve_are_exact():
    all_held = cycles_survival(np.array([50, 50, 50]), np.array([False] * 3))
    assert all_held[0].low == pytest.approx(stats.beta.ppf(0.025, 3, 1))
    none_held = cycles_survival(np.array([5, 5, 5]), np.array([True] * 3))
    assert (none_held[-1].share, none_held[-1].low) == (0.0, 0.0)
    assert none_held[-1].high == pytest.approx(stats.beta.ppf(0.975, 1, 3))
    assert cycles_survival(np.array([], int), np.array([], bool)) == ()


def test_the_weakest_criterion_decides_and_what_is_missing_is_named():
    onset = SecurityCriterion(
        name="first slip", interval=Interval(0.6, 0.5, 0.7), good=0.5, poor=0.1, better_high=True
    )
    draw = SecurityCriterion(
        name="draw", interval=Interval(3.0, 2.0, 4.0), good=1.0, poor=5.0, better_high=False
    )
    shaken = SecurityCriterion(name="shaking", interval=None, good=1.0, poor=0.0, better_high=True)
    verdict = security_verdict((onset, draw, shaken))
    assert verdict.weakest is draw
    assert draw.grade == pytest.approx(0.25)
    assert onset.grade == 1.0
    assert verdict.not_measured == ("shaking",)
    assert security_verdict((shaken,)).weakest is None
