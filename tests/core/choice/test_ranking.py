"""Rating and ranking: monotone, only of what was measured, symmetric, right in closed form."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.choice.nearest import Cordage, nearest
from bruiser.core.choice.ranking import (
    DRAWS,
    STARTING_ANCHORS,
    Contender,
    check_anchors,
    points_of,
    rank,
    weight_path,
)
from bruiser.core.choice.rating import (
    SCALES,
    STARTING_BANDS,
    Band,
    Measured,
    Missing,
    Rating,
    RatingLimits,
    judge,
    not_measured,
)
from bruiser.core.choice.use_profile import PROFILES, UseProfile
from bruiser.core.errors import InputError
from bruiser.core.performance.uncertain import around, grades, interval_of, share, weakest_grade
from bruiser.core.statistics.strength import Interval

LIMITS = RatingLimits()
STRAIGHT = {Rating.STRENGTH: ((0.0, 0.0), (1.0, 100.0))}
ONLY = {Rating.STRENGTH: 1.0}


def measured(value, low, high):
    return Measured(interval=Interval(value, low, high), n=5, basis="", draws=np.array([value]))


@given(st.floats(0, 1), st.floats(0, 1), st.sampled_from(list(Rating)))
def test_better_never_falls_in_a_worse_band_nor_gets_fewer_points(a, b, rating):
    better_high = SCALES[rating].better_high
    scale = 1.0 if SCALES[rating].unit != "seconds" else 200.0
    worse, better = sorted((scale * a, scale * b), reverse=not better_high)
    assert LIMITS.at(rating, better) >= LIMITS.at(rating, worse)
    points = points_of(np.array([worse, better]), STARTING_ANCHORS[rating])
    assert points[1] >= points[0]
    assert ((points >= 0) & (points <= 100)).all()


def test_strength_is_judged_by_its_lower_bound_and_others_by_their_value():
    strong = judge(Rating.STRENGTH, measured(0.72, 0.52, 0.9), LIMITS)
    assert (strong.band, strong.could_be) == ("over half", "")
    opens = judge(Rating.OPENING, measured(0.9, 0.4, 0.99), LIMITS)
    assert (opens.band, opens.could_be) == ("by hand", "bring a tool")
    slow = judge(Rating.TYING, measured(40, 30, 100), LIMITS)
    assert (slow.band, slow.could_be) == ("quick", "takes its time")


def test_what_was_not_measured_has_no_band_and_is_named():
    gauges = {r: judge(r, Missing("never tied with gloves"), LIMITS) for r in Rating}
    gauges[Rating.STRENGTH] = judge(Rating.STRENGTH, measured(0.7, 0.6, 0.8), LIMITS)
    assert gauges[Rating.TYING].at == -1
    assert gauges[Rating.TYING].measured is None
    assert not_measured(gauges, {Rating.STRENGTH: 1.0, Rating.TYING: 2.0}) == (Rating.TYING,)
    assert not_measured(gauges, {Rating.STRENGTH: 1.0, Rating.TYING: 0.0}) == ()


def test_ranking_refuses_a_knot_that_was_not_measured_for_what_counts():
    known = Contender("a", {Rating.STRENGTH: np.full(DRAWS, 0.7)})
    with pytest.raises(ValueError, match="not measured for opening"):
        rank([known], {Rating.STRENGTH: 1.0, Rating.OPENING: 1.0}, STARTING_ANCHORS)


@pytest.mark.parametrize(
    ("mean_a", "spread_a", "mean_b", "spread_b"),
    [(0.60, 0.03, 0.58, 0.04), (0.50, 0.05, 0.50, 0.01), (0.70, 0.02, 0.55, 0.03)],
)
def test_the_chance_of_being_first_of_two_is_the_closed_form(mean_a, spread_a, mean_b, spread_b):
    rng = np.random.default_rng(3)
    a = Contender("a", {Rating.STRENGTH: rng.normal(mean_a, spread_a, DRAWS)})
    b = Contender("b", {Rating.STRENGTH: rng.normal(mean_b, spread_b, DRAWS)})
    found = {r.key: r for r in rank([a, b], ONLY, STRAIGHT).rows}
    exact = norm.cdf((mean_a - mean_b) / math.hypot(spread_a, spread_b))
    tolerance = 4 * math.sqrt(max(exact * (1 - exact), 0.01) / DRAWS)
    assert found["a"].chance_first == pytest.approx(exact, abs=tolerance)
    assert found["a"].chance_first + found["b"].chance_first == pytest.approx(1)
    tied = bool(0.05 < exact < 0.95)
    assert (found["a"].tied_with == ("b",)) is tied
    assert (found["b"].tied_with == ("a",)) is tied


def test_two_weighted_parts_add_up_in_closed_form():
    rng = np.random.default_rng(8)
    weights = {Rating.STRENGTH: 2.0, Rating.CHECKING: 1.0}
    anchors = {r: ((0.0, 0.0), (1.0, 100.0)) for r in weights}

    def knot(key, strength, checking):
        drawn = {
            Rating.STRENGTH: rng.normal(strength, 0.04, DRAWS),
            Rating.CHECKING: rng.normal(checking, 0.05, DRAWS),
        }
        return Contender(key, drawn)

    found = {
        r.key: r for r in rank([knot("a", 0.6, 0.5), knot("b", 0.5, 0.65)], weights, anchors).rows
    }
    gap = (2 * (0.6 - 0.5) + (0.5 - 0.65)) / 3
    width = math.sqrt(2 * ((2 * 0.04) ** 2 + 0.05**2)) / 3
    assert found["a"].chance_first == pytest.approx(norm.cdf(gap / width), abs=0.02)
    assert found["a"].score.value == pytest.approx(100 * (2 * 0.6 + 0.5) / 3, abs=0.2)
    parts = sum(
        s * found["a"].parts[r] for r, s in ((Rating.STRENGTH, 2 / 3), (Rating.CHECKING, 1 / 3))
    )
    assert parts == pytest.approx(found["a"].score.value)


def test_equal_knots_share_every_rank_and_are_tied_both_ways():
    same = np.linspace(0.4, 0.6, DRAWS)
    rows = rank([Contender(k, {Rating.STRENGTH: same}) for k in "cab"], ONLY, STRAIGHT).rows
    assert [r.key for r in rows] == ["a", "b", "c"]
    for row in rows:
        assert row.chances == pytest.approx((1 / 3, 1 / 3, 1 / 3))
        assert set(row.tied_with) == set("abc") - {row.key}
        assert row.letters == "a"
        assert row.likely == (1, 3)


@given(st.lists(st.floats(0.1, 0.9), min_size=2, max_size=5), st.integers(0, 10_000))
def test_ties_are_symmetric_and_chances_sum_to_one(middles, seed):
    rng = np.random.default_rng(seed)
    rows = rank(
        [
            Contender(f"k{n}", {Rating.STRENGTH: rng.normal(m, 0.05, 500)})
            for n, m in enumerate(middles)
        ],
        ONLY,
        STRAIGHT,
    ).rows
    tied = {r.key: set(r.tied_with) for r in rows}
    assert all(a in tied[b] for a, own in tied.items() for b in own)
    assert np.sum([r.chances for r in rows], axis=0) == pytest.approx(np.ones(len(rows)))
    assert [r.score.value for r in rows] == sorted((r.score.value for r in rows), reverse=True)


def test_a_stronger_knot_never_ranks_lower():
    rng = np.random.default_rng(4)
    others = [Contender(k, {Rating.STRENGTH: rng.normal(0.6, 0.05, DRAWS)}) for k in "bcd"]
    own = rng.normal(0.55, 0.05, DRAWS)
    before = None
    for gain in (0.0, 0.02, 0.05, 0.1):
        rows = rank([*others, Contender("a", {Rating.STRENGTH: own + gain})], ONLY, STRAIGHT).rows
        mine = next(r for r in rows if r.key == "a")
        if before is not None:
            assert mine.chance_first >= before.chance_first
            assert mine.score.value >= before.score.value
        before = mine


def test_weights_move_along_straight_lines_to_the_leader_by_one_rating_alone():
    def flat(key, strength, checking):
        return Contender(
            key,
            {Rating.STRENGTH: np.full(50, strength), Rating.CHECKING: np.full(50, checking)},
        )

    anchors = {r: ((0.0, 0.0), (1.0, 100.0)) for r in (Rating.STRENGTH, Rating.CHECKING)}
    found = rank(
        [flat("strong", 0.8, 0.3), flat("plain", 0.5, 0.9), flat("poor", 0.4, 0.2)],
        {Rating.STRENGTH: 3.0, Rating.CHECKING: 1.0},
        anchors,
    )
    path = weight_path(found, Rating.CHECKING)
    assert path.now == pytest.approx(0.25)
    assert path.ends["strong"] == pytest.approx((80, 30))
    # 80 - 50 s = 50 + 40 s at s = 1/3.
    assert path.leaders == ((0.0, "strong"), (pytest.approx(1 / 3), "plain"))
    assert weight_path(found, Rating.TYING) is None
    assert weight_path(rank([flat("x", 0.5, 0.5)], ONLY, anchors), Rating.STRENGTH) is None


def test_the_two_pieces_meet_all_three_quantiles():
    drawn = around(Interval(0.3, 0.2, 0.9), 400_000, np.random.default_rng(1))
    found = interval_of(drawn)
    assert (found.value, found.low, found.high) == pytest.approx((0.3, 0.2, 0.9), rel=0.01)
    floor = around(Interval(0.5, 0.5, math.inf), 100, np.random.default_rng(1))
    assert floor == pytest.approx(np.full(100, 0.5))


def test_more_pulls_that_came_out_never_draw_a_smaller_share():
    drawn = [share(hits, 6, 1_000, np.random.default_rng(2)) for hits in range(7)]
    assert all((b >= a).all() for a, b in pairwise(drawn))


def test_the_weakest_criterion_decides_draw_by_draw():
    drawn = {
        "came_out": np.array([0.05, 0.225, 0.40]),
        "onset": np.array([0.20, 0.30, 0.30]),
    }
    found, weakest = weakest_grade(drawn, SecurityLimits())
    assert found == pytest.approx([0.5, 0.5, 0.0])
    assert weakest == "came_out"
    assert grades(np.array([0.9, 0.0]), 0.05, 0.40) == pytest.approx([0.0, 1.0])
    with pytest.raises(ValueError, match="nothing was measured"):
        weakest_grade({}, SecurityLimits())


@pytest.mark.parametrize(
    ("bands", "says"),
    [
        ((Band("x"), Band("y", 0.5), Band("z", 0.4)), "worst to best"),
        ((Band("x", 0.1), Band("y", 0.5)), "first without"),
        ((Band("x"), Band("y", math.nan)), "missing"),
        ((Band("x"), Band(" ", 0.5)), "no name"),
    ],
)
def test_limits_that_make_no_sense_are_refused(bands, says):
    with pytest.raises(InputError, match=says):
        RatingLimits({**STARTING_BANDS, Rating.STRENGTH: bands})


@pytest.mark.parametrize(
    "anchors",
    [
        ((0.2, 0.0),),
        ((0.5, 0.0), (0.2, 50.0)),
        ((0.2, 50.0), (0.5, 20.0)),
        ((0.0, 0.0), (1, 120.0)),
    ],
)
def test_anchors_that_are_no_monotone_scale_are_refused(anchors):
    with pytest.raises(InputError):
        check_anchors(Rating.STRENGTH, anchors)


def test_every_shipped_use_can_rank_and_a_use_without_weights_is_refused():
    assert len({p.key for p in PROFILES}) == len(PROFILES) >= 10
    with pytest.raises(InputError, match="weight"):
        UseProfile(key="x", name="X", weights={})
    with pytest.raises(InputError, match="load"):
        replace(PROFILES[0], load=1.4)


def test_the_nearest_tested_cordage_is_pointed_to_with_what_differs():
    wanted = Cordage(
        key="w", name="W", material="polyester", construction="kernmantle", diameter_m=0.010
    )
    tested = [
        Cordage(
            key="a", name="A", material="polyester", construction="double braid", diameter_m=0.008
        ),
        Cordage(key="b", name="B", material="nylon", construction="kernmantle", diameter_m=0.010),
        Cordage(
            key="c",
            name="C",
            material="polyester",
            construction="kernmantle",
            diameter_m=0.011,
            condition="wet",
        ),
    ]
    found = nearest(wanted, tested)
    assert [n.cordage.key for n in found] == ["c", "a", "b"]
    assert found[1].differs == ("double braid instead of kernmantle", "8 mm instead of 10 mm")
    assert nearest(wanted, [wanted]) == ()
