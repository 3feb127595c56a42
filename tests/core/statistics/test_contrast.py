"""Groups against one another in points: against draws, Welch's test, and known truth."""

import math

import numpy as np
import pytest
from scipy import stats

from bruiser.core.statistics.compare import locate
from bruiser.core.statistics.contrast import Side, contrasts, efficiency_draws, pulls_to_tell_apart
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, posterior
from bruiser.core.statistics.strength import estimate
from tests.core.samples import sample, scattered

PLAIN = sample([9_800, 10_000, 10_100, 10_300, 9_900])
OTHER = sample([14_800, 15_300, 15_100, 14_900])


def side(knot, base=PLAIN, key="P8"):
    given = knot.event_count > 0
    return Side(
        marginal=posterior([knot], KNOT_PRIOR).table() if given else None,
        baseline=posterior([base], BASELINE_PRIOR).table(),
        base_key=key,
        located=locate(knot, estimate(knot)),
        base_located=locate(base, estimate(base)),
    )


def group(median, seed, pulls=6):
    return scattered(np.random.default_rng(seed), median, 0.05, pulls)


def test_points_and_chance_agree_with_many_random_draws():
    a, b = side(group(7_000, 1)), side(group(6_700, 2))
    (found,) = contrasts([a, b])
    rng = np.random.default_rng(5)

    def draw(m):
        return np.interp(rng.random(400_000), m.cdf[0], m.mu[0])

    rope = draw(a.baseline)
    away = np.exp(draw(a.marginal) - rope) - np.exp(draw(b.marginal) - rope)
    low, middle, high = np.quantile(away, [0.025, 0.5, 0.975])
    assert found.points.value == pytest.approx(middle, abs=0.002)
    assert (found.points.low, found.points.high) == pytest.approx((low, high), abs=0.004)
    assert found.chance == pytest.approx((away > 0).mean(), abs=0.01)


def test_p_is_welchs_on_the_logs_and_holm_raises_it():
    knots = [group(7_000, 1), group(6_600, 2), group(6_500, 3)]
    found = contrasts([side(k) for k in knots])
    for c in found:
        a, b = knots[c.a].ln_load, knots[c.b].ln_load
        assert c.p == pytest.approx(stats.ttest_ind(a, b, equal_var=False).pvalue, rel=1e-6)
        assert c.p_adjusted >= c.p
    assert len(found) == 3


def test_across_cordages_both_plain_ropes_add_their_uncertainty():
    a, b = group(7_000, 1), group(10_400, 2)
    (within,) = contrasts([side(a), side(group(7_000, 2))])
    (across,) = contrasts([side(a), side(b, OTHER, "N6")])
    assert abs(across.points.value) < 0.06
    assert across.points.high - across.points.low > within.points.high - within.points.low
    parts = [a.ln_load, PLAIN.ln_load, b.ln_load, OTHER.ln_load]
    v = [x.var(ddof=1) / len(x) for x in parts]
    freedom = sum(v) ** 2 / sum(one**2 / (len(x) - 1) for one, x in zip(v, parts, strict=True))
    away = a.ln_load.mean() - PLAIN.ln_load.mean() - b.ln_load.mean() + OTHER.ln_load.mean()
    p = 2 * stats.t.sf(abs(away) / math.sqrt(sum(v)), freedom)
    assert across.p == pytest.approx(p, rel=1e-6)


def test_it_is_the_other_way_round_the_other_way_round():
    a, b = side(group(7_000, 1)), side(group(6_000, 2))
    (one,), (two,) = contrasts([a, b]), contrasts([b, a])
    assert one.points.value == pytest.approx(-two.points.value, abs=0.003)
    assert one.chance == pytest.approx(1 - two.chance, abs=0.005)
    assert one.told_apart
    assert two.told_apart


def test_where_nothing_gave_there_is_no_difference():
    floors = sample([9_000, 9_500], [0, 0], [1, 1])
    (found,) = contrasts([side(group(7_000, 1)), side(floors)])
    assert (found.points, found.chance, found.p, found.told_apart) == (None, None, None, False)
    assert contrasts([]) == []
    assert efficiency_draws([side(floors)]) == [None]


def test_results_repeat_to_the_last_digit():
    sides = [side(group(7_000, 1)), side(group(6_600, 2))]
    assert contrasts(sides) == contrasts(sides)


def test_a_smaller_difference_needs_more_pulls():
    near = contrasts([side(group(7_000, 1)), side(group(6_900, 2))])[0]
    apart = contrasts([side(group(7_000, 1)), side(group(5_000, 2))])[0]
    far = contrasts([side(group(7_000, 4, 3)), side(group(6_500, 5, 3))])[0]
    assert pulls_to_tell_apart(apart, 6) is None
    needed = pulls_to_tell_apart(near, 6)
    assert needed is None or needed > (pulls_to_tell_apart(far, 3) or 0)


def test_intervals_of_points_cover_known_truth():
    rng, hits, runs = np.random.default_rng(3), 0, 80
    for _ in range(runs):
        base = scattered(rng, 10_000, 0.04, 5)
        one, two = scattered(rng, 7_000, 0.07, 5, 2), scattered(rng, 6_200, 0.07, 5, 2)
        (found,) = contrasts([side(one, base), side(two, base)])
        hits += found.points.low <= 0.08 <= found.points.high
    assert hits / runs >= 0.90
