"""Slip onset, draw and tail use against hand sums, a plain grid, and known truth."""

import math

import numpy as np
import pytest
from scipy import stats

from bruiser.core.behaviour.slip import (
    DrawCurve,
    OnsetSeen,
    SlipSeen,
    TailSeen,
    draw_band,
    draws_at,
    measure_slips,
    ran_out_if_shorter,
    spare_in_steps,
    tail_use,
)


def seen(load, slipped=True, knots=1, key="p"):
    return OnsetSeen(pull_id=key, load_n=load, slipped=slipped, knots=knots)


def tail(draw, given=0.1, out=False, key="p"):
    return TailSeen(pull_id=key, load_n=5_000.0, draw_m=draw, given_m=given, ran_out=out)


def rate_slip(onsets, tails, diameter_m, baseline_n):
    return measure_slips(
        [
            SlipSeen(
                onsets=tuple(onsets),
                tails=tuple(tails),
                diameter_m=diameter_m,
                baseline_n=baseline_n,
            )
        ]
    )[0]


def slip_onset(onsets, baseline_n):
    return rate_slip(onsets, [], 0.008, baseline_n).onset


def draw_in_diameters(tails, diameter_m):
    return rate_slip([], tails, diameter_m, None).draw_d


def draw_at(curves, share, diameter_m):
    return draws_at([curves], share, [diameter_m])[0]


def plain_grid(rows, median, width):
    """2.5, 50 and 97.5 % of mu on a plain grid; rows are (load, events, floors)."""
    mu = np.linspace(math.log(200), math.log(60_000), 4_001)
    total = np.zeros_like(mu)
    for u in np.linspace(-4, 4, 161):
        sigma = median * math.exp(width * u)
        log_p = np.full_like(mu, -0.5 * u * u)
        for load, events, floors in rows:
            z = (math.log(load) - mu) / sigma
            log_p += events * (stats.norm.logpdf(z) - math.log(sigma))
            log_p += floors * stats.norm.logsf(z)
        total += np.exp(log_p)
    cdf = np.cumsum(total) / total.sum()
    return np.exp(np.interp([0.5, 0.025, 0.975], cdf, mu))


def test_the_onset_agrees_with_a_plain_grid_where_the_other_knot_held():
    loads = [(2_000.0, True, 2), (2_600.0, True, 2), (3_100.0, True, 1), (4_000.0, False, 2)]
    made = SlipSeen(
        onsets=tuple(seen(*row) for row in loads), tails=(), diameter_m=0.008, baseline_n=10_000.0
    )
    found = measure_slips([made])[0].onset
    rows = [(load, int(s), knots - int(s)) for load, s, knots in loads]
    middle, low, high = plain_grid(rows, 0.25, 1.0) / 10_000
    assert found.value == pytest.approx(middle, rel=0.01)
    assert (found.low, found.high) == pytest.approx((low, high), rel=0.02)
    assert made.quiet == pytest.approx(0.4)


def test_without_a_slip_only_the_highest_share_is_known():
    found = rate_slip([seen(7_000, False), seen(8_000, False)], [], 0.008, 10_000.0)
    assert (found.onset, found.no_slip_to, found.slipped) == (None, 0.8, 0)
    assert slip_onset([seen(2_000)], None) is None
    assert rate_slip([], [], 0.008, 10_000.0).no_slip_to is None


@pytest.mark.parametrize("truth", [0.2, 0.5])
def test_the_onset_covers_known_truth(truth):
    rng, hits, runs = np.random.default_rng(7), 0, 120
    for _ in range(runs):
        ends = np.log(truth * 10_000) + 0.2 * rng.standard_normal((5, 2))
        found = slip_onset([seen(float(np.exp(e.min())), True, 2) for e in ends], 10_000.0)
        hits += found.low <= truth <= found.high
    assert hits / runs >= 0.90


def test_a_tail_that_ran_out_counts_as_at_least_its_length():
    drawn = [tail(0.010), tail(0.012), tail(0.011)]
    alone = draw_in_diameters(drawn, 0.01)
    with_out = draw_in_diameters([*drawn, tail(0.03, 0.1, True)], 0.01)
    assert alone.value == pytest.approx(1.1, rel=0.03)
    assert with_out.value > alone.value
    assert with_out.high > 3 * alone.high
    assert draw_in_diameters([], 0.01) is None
    assert draw_in_diameters([tail(0.1, 0.1, True)], 0.01) is None


def test_the_tightest_tail_is_told_with_its_pull():
    tails = [tail(0.02, key="a"), tail(0.07, key="b"), tail(0.1, out=True, key="c")]
    use = tail_use([*tails, tail(0.05, None, key="d")])
    assert (use.tails, use.ran_out, use.tightest_pull) == (4, 1, "b")
    assert use.tightest_m == pytest.approx(0.03)
    assert use.share_used == pytest.approx(0.7)
    assert tail_use([tail(0.1, out=True)]).tightest_m is None


@pytest.mark.parametrize(
    ("spare", "less"), [(0.030, 0.035), (0.0301, 0.035), (0.0349, 0.035), (0.0, 0.005)]
)
def test_the_first_step_that_would_have_run_out(spare, less):
    assert spare_in_steps(spare) == pytest.approx(less)
    one = [tail(0.1 - spare)]
    assert ran_out_if_shorter(one, spare_in_steps(spare)) == 1
    assert ran_out_if_shorter(one, spare - 1e-6 if spare else 0.0) == 0


def curve(top, slope, key):
    share = np.linspace(0, top, 21)
    return DrawCurve(key, share, slope * share)


def test_the_band_ends_where_one_pull_is_left_and_counts_who_got_so_far():
    band = draw_band([curve(0.5, 0.01, "a"), curve(0.8, 0.02, "b"), curve(0.9, 0.03, "c")])
    assert band.share[-1] == pytest.approx(0.8)
    assert list(band.pulls[[0, -1]]) == [3, 2]
    assert band.low_m[10] == pytest.approx(0.01 * band.share[10])
    assert band.middle_m[10] == pytest.approx(0.02 * band.share[10])
    assert band.high_m[-1] == pytest.approx(0.03 * 0.8)
    assert draw_band([]) is None
    assert draw_band([curve(0.5, 0.01, "a")]).share[-1] == pytest.approx(0.5)


def test_draw_at_a_share_leaves_out_who_never_got_there():
    found = draw_at([curve(0.2, 1.0, "a"), curve(0.8, 0.02, "b"), curve(0.9, 0.02, "c")], 0.3, 0.01)
    assert found.value == pytest.approx(0.6, rel=0.02)
    assert draw_at([curve(0.2, 1.0, "a")], 0.3, 0.01) is None
