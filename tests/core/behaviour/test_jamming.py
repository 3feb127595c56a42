import numpy as np
import pytest
from scipy.special import expit

from bruiser.core.behaviour.jamming import jam_load, untying_time
from tests.core.samples import sample


def brute_j50(x, level):
    """Posterior quantiles of theta on a plain four-dimensional grid."""
    theta = np.linspace(np.log(0.6) - 3.0, np.log(0.6) + 3.0, 241)
    w = np.exp(np.log(0.18) + 0.7 * np.linspace(-3, 3, 13))
    g = np.exp(np.log(0.4) + 0.8 * np.linspace(-3, 3, 13))
    t, ww, g1, g2 = np.meshgrid(theta, w, g, g, indexing="ij", sparse=True)
    log_p = -0.5 * ((t - np.log(0.6)) / 1.2) ** 2
    for values, place, width in ((ww, 0.18, 0.7), (g1, 0.4, 0.8), (g2, 0.4, 0.8)):
        log_p = log_p - 0.5 * ((np.log(values) - np.log(place)) / width) ** 2
    for value, k in zip(x, level, strict=True):
        edges = [1.0, expit((value - t + g1) / ww), expit((value - t) / ww)]
        edges += [expit((value - t - g2) / ww), 0.0]
        log_p = log_p + np.log(np.maximum(edges[int(k)] - edges[int(k) + 1], 1e-300))
    density = np.exp(log_p - log_p.max()).sum(axis=(1, 2, 3))
    cdf = np.cumsum(density) / density.sum()
    return np.exp(np.interp([0.025, 0.5, 0.975], cdf, theta + 0.5 * (theta[1] - theta[0])))


@pytest.mark.parametrize("seed", [1, 4])
def test_j50_agrees_with_a_brute_grid(seed):
    rng = np.random.default_rng(seed)
    x = np.log(0.6) + rng.uniform(-0.6, 0.6, 10)
    level = (
        rng.random(10)[:, None] < expit((x[:, None] - np.log(0.6) + [0.4, 0, -0.4]) / 0.18)
    ).sum(1)
    found = jam_load(np.exp(x), level).j50
    low, middle, high = brute_j50(x, level)
    assert found.value == pytest.approx(middle, rel=0.01)
    assert found.low == pytest.approx(low, rel=0.02)
    assert found.high == pytest.approx(high, rel=0.02)


def test_all_open_or_all_jammed_is_not_decided_and_gives_the_bound_known():
    share = np.array([0.3, 0.5, 0.7])
    opened = jam_load(share, np.array([0, 0, 1]))
    assert (opened.j50, opened.decided, opened.above, opened.below) == (None, False, 0.7, None)
    jammed = jam_load(share, np.array([2, 3, 2]))
    assert (jammed.j50, jammed.above, jammed.below) == (None, None, 0.3)
    assert jam_load(np.array([]), np.array([])) is None


def test_jamming_at_higher_loads_moves_j50_up():
    share = np.array([0.3, 0.4, 0.5, 0.6, 0.7, 0.8])
    early = jam_load(share, np.array([0, 2, 2, 2, 3, 3])).j50
    late = jam_load(share, np.array([0, 0, 0, 1, 2, 3])).j50
    assert early.value < late.value


def test_untying_time_takes_giving_up_as_a_floor():
    gave_up = untying_time(sample([20, 40, 60, 180], [1, 1, 1, 0], [0, 0, 0, 1]))
    all_done = untying_time(sample([20, 40, 60]))
    assert gave_up.value > all_done.value
    assert all_done.low < all_done.value < all_done.high
    assert untying_time(sample([180], [0], [1])) is None


def brute_with_brackets(x, level, brackets):
    """The same with knots whose own threshold is known to lie between two loads."""
    theta = np.linspace(np.log(0.6) - 3.0, np.log(0.6) + 3.0, 481)
    w = np.exp(np.log(0.18) + 0.7 * np.linspace(-3, 3, 61))
    t, ww = np.meshgrid(theta, w, indexing="ij")
    log_p = -0.5 * ((t - np.log(0.6)) / 1.2) ** 2
    log_p = log_p - 0.5 * ((np.log(ww) - np.log(0.18)) / 0.7) ** 2
    for low, high in brackets:
        below = 0.0 if low == 0 else expit((np.log(low) - t) / ww)
        above = 1.0 if np.isinf(high) else expit((np.log(high) - t) / ww)
        log_p = log_p + np.log(np.maximum(above - below, 1e-300))
    density = np.exp(log_p - log_p.max()).sum(axis=1)
    cdf = np.cumsum(density) / density.sum()
    return np.exp(np.interp([0.025, 0.5, 0.975], cdf, theta + 0.5 * (theta[1] - theta[0])))


def test_a_knot_tried_at_several_loads_counts_once_between_two_of_them():
    brackets = np.array([[0.3, 0.45], [0.45, 0.6], [0.6, np.inf], [0.0, 0.3], [0.45, 0.6]])
    none = np.array([])
    found = jam_load(none, none, brackets=brackets)
    low, middle, high = brute_with_brackets(none, none, brackets)
    assert found.j50.value == pytest.approx(middle, rel=0.01)
    assert (found.j50.low, found.j50.high) == pytest.approx((low, high), rel=0.03)
    assert (found.opened, found.jammed) == (4, 4)


def test_brackets_that_all_stayed_open_only_give_a_bound():
    found = jam_load(np.array([]), np.array([]), brackets=np.array([[0.6, np.inf]] * 3))
    assert (found.j50, found.above) == (None, 0.6)


def test_the_curve_rises_and_crosses_a_half_at_j50():
    rng = np.random.default_rng(2)
    x = np.log(0.6) + rng.uniform(-0.6, 0.6, 24)
    level = 2 * (rng.random(24) < expit((x - np.log(0.6)) / 0.18))
    found = jam_load(np.exp(x), level)
    share = np.linspace(0.05, 1.5, 80)
    low, middle, high = found.fit.chance(share)
    assert np.all(np.diff(middle) >= -1e-9)
    assert np.all((low <= middle + 1e-6) & (middle <= high + 1e-6))
    assert np.interp(0.5, middle, share) == pytest.approx(found.j50.value, rel=0.05)


@pytest.mark.parametrize(
    "level", [[0, 0, 2], [3, 3, 0], [1, 2, 2], [0, 3], [0, 1, 2, 3, 3, 0, 1, 2]]
)
def test_few_and_uneven_outcomes_agree_with_a_brute_grid_too(level):
    x = np.log(0.4) + 0.2 * np.arange(len(level))
    level = np.array(level)
    found = jam_load(np.exp(x), level).j50
    low, middle, high = brute_j50(x, level)
    assert found.value == pytest.approx(middle, rel=0.02)
    assert (found.low, found.high) == pytest.approx((low, high), rel=0.06)
