import math

import numpy as np
import pytest

from bruiser.core.behaviour.wraps import WrapSample, certify_wraps, fewest_wraps, fit_wraps
from bruiser.core.errors import TooFewPulls
from bruiser.core.statistics.censored import hazard


def grip_tests(seed=0, per_count=5, limit=9.0):
    rng = np.random.default_rng(seed)
    counts = np.repeat([2.0, 3.0, 4.0], per_count)
    grip = 5.6 + 0.65 * counts + 0.12 * rng.standard_normal(len(counts))
    return WrapSample(
        wraps=counts,
        ln_grip=np.minimum(grip, limit),
        held=grip > limit,
        pull_ids=tuple("x" * len(counts)),
    )


def test_without_floors_the_line_is_least_squares():
    s = grip_tests()
    rise, level = np.polyfit(s.wraps, s.ln_grip, 1)
    found = fit_wraps(s)
    assert found.per_wrap == pytest.approx(rise, abs=1e-6)
    assert found.intercept == pytest.approx(level, abs=1e-5)
    rest = s.ln_grip - level - rise * s.wraps
    assert found.sigma == pytest.approx(math.sqrt((rest**2).mean()), abs=1e-6)


def test_the_gradient_vanishes_with_floors():
    s = grip_tests(2, limit=8.2)
    assert s.held.any()
    found = fit_wraps(s)
    z = (s.ln_grip - found.intercept - found.per_wrap * s.wraps) / found.sigma
    pull = np.where(s.held, hazard(z), z)
    for slope in (pull.sum(), (pull * s.wraps).sum(), (pull * z).sum() - s.events):
        assert abs(slope) < 1e-4


def test_enough_wraps_are_certified_and_too_few_are_not():
    s = grip_tests()
    typical = math.exp(5.6 + 0.65 * 4)
    assert certify_wraps(s, 4, 0.75 * typical).holds
    assert not certify_wraps(s, 4, 1.02 * typical).holds
    strict = certify_wraps(s, 4, 0.9 * typical, nine_of_ten=True)
    assert strict.by_posterior_n < certify_wraps(s, 4, 0.9 * typical).by_posterior_n
    assert strict.pull_ids == s.pull_ids


def test_the_two_bounds_agree_about_where_they_lie():
    found = certify_wraps(grip_tests(), 4, 1.0)
    assert found.by_posterior_n == pytest.approx(found.by_likelihood_n, rel=0.04)


def test_the_fewest_are_found_and_none_beyond_one_more_than_tested():
    s = grip_tests()
    target = 0.8 * math.exp(5.6 + 0.65 * 3)
    assert fewest_wraps(s, target).wraps == 3
    assert fewest_wraps(s, 1e9) is None
    with pytest.raises(TooFewPulls, match="beyond"):
        certify_wraps(s, 6, target)


@pytest.mark.parametrize(
    "s",
    [
        WrapSample(
            wraps=np.array([3.0, 3, 3]), ln_grip=np.array([7.0, 7.1, 7.2]), held=np.zeros(3, bool)
        ),
        WrapSample(
            wraps=np.array([2.0, 3, 4]),
            ln_grip=np.array([7.0, 7.6, 8.2]),
            held=np.array([False, True, True]),
        ),
        WrapSample(
            wraps=np.array([2.0, 3, 4]), ln_grip=np.array([7.0, 7.5, 8.0]), held=np.zeros(3, bool)
        ),
    ],
    ids=["one count", "too few seen", "no spread"],
)
def test_what_cannot_be_judged_is_refused(s):
    assert fit_wraps(s) is None
    with pytest.raises(TooFewPulls, match="cannot be judged"):
        certify_wraps(s, 3, 500.0)
