"""What to pull next: the worked example, the blocks, and every way in which it ends."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad
from scipy.stats import norm

from bruiser.core.choice.next_block import (
    CONFIRM_PULLS,
    Lacks,
    NextStage,
    Standing,
    Why,
    plain_every,
    plan_next,
)
from bruiser.core.choice.next_pull import (
    Runner,
    by_need,
    distances,
    expected_gain,
    gain,
    loss,
    runners_of,
    scores_of,
    spread_over,
    worths,
)
from bruiser.core.choice.ranking import STARTING_ANCHORS, Contender
from bruiser.core.choice.rating import Rating

EXAMPLE = (
    Runner(key="a", mean=62.0, sd=3.0, events=5, first=0.6),
    Runner(key="b", mean=60.5, sd=4.5, events=3, first=0.38),
    Runner(key="c", mean=54.0, sd=5.0, events=4, first=0.02),
)
READY = Standing(runners=EXAMPLE, plain=4, knot_pulls=12, budget=24, loss=1.6)


def test_the_worked_example():
    apart = distances(EXAMPLE)
    taus = [r.sd * math.sqrt(3 / (r.events + 3)) for r in EXAMPLE]
    assert taus == pytest.approx([1.8371, 3.1820, 3.2733], abs=5e-5)
    values = [gain(r, apart[r.key], 3) for r in EXAMPLE]
    assert values == pytest.approx([0.2145, 0.6579, 0.0078], abs=5e-5)
    found = {w.key: w for w in worths(EXAMPLE, 6.0, 5.0)}
    assert [found[k].pulls for k in "abc"] == [3, 2, 5]
    assert [found[k].per_hour for k in "abc"] == pytest.approx([0.560, 1.904, 0.036], abs=5e-4)
    assert by_need(EXAMPLE, 2) == ["b", "b"]
    first = gain(EXAMPLE[1], apart["b"], 1)
    shrunk = replace(EXAMPLE[1], events=4, sd=4.5 * math.sqrt(3 / 4))
    assert (first, gain(shrunk, apart["b"], 1)) == pytest.approx((0.3400, 0.1880), abs=5e-5)


def test_the_loss_of_the_example():
    dice = np.random.default_rng(4)
    scores = np.array([dice.normal(r.mean, r.sd, 400_000) for r in EXAMPLE])
    assert loss(scores) == pytest.approx(1.611, abs=0.01)
    assert loss(scores[:1]) == 0.0


@pytest.mark.parametrize("distance", [0.0, 0.4, 3.0])
def test_the_gain_is_what_the_integral_says(distance):
    # E max(x, 0) for x ~ N(-d, tau^2): what is won where the others are passed.
    wanted, _ = quad(lambda x: max(x, 0) * norm.pdf(x, -distance, 1.3), -20, 20, points=[0])
    assert expected_gain(distance, 1.3) == pytest.approx(wanted, abs=1e-7)
    assert expected_gain(distance, 0.0) == 0.0


def test_the_opening_pulls_every_knot_three_times_with_plain_rope_among_them():
    runners = tuple(replace(r, events=0) for r in EXAMPLE)
    standing = Standing(runners=runners, plain=0, knot_pulls=0, budget=24)
    pulled, plain, order = dict.fromkeys("abc", 0), 0, []
    for seed in range(10):
        found = plan_next(standing, seed)
        if found.stage is not NextStage.OPENING:
            break
        order += [p.key for p in found.picks]
        for pick in found.picks:
            pulled |= {pick.key: pulled[pick.key] + 1} if pick.key else {}
            plain += not pick.key
        standing = replace(
            standing,
            runners=tuple(replace(r, events=pulled[r.key]) for r in runners),
            plain=plain,
            knot_pulls=sum(pulled.values()),
            loss=2.0,
        )
    assert set(pulled.values()) == {3}
    assert order[:2] == ["", ""]
    every = plain_every(3)
    assert every == 5
    at = [n for n, key in enumerate(order) if not key][2:]
    assert len(at) == 9 // every
    assert [sum(1 for k in order[: n + 1] if k) for n in at] == [5]


def test_a_block_is_two_by_need_and_two_spread():
    found = plan_next(READY)
    assert found.stage is NextStage.RUNNING
    knots = [p for p in found.picks if p.key]
    assert len(knots) == 4
    assert sorted(p.key for p in knots if p.why is Why.NEED) == ["b", "b"]
    assert sorted(p.key for p in knots if p.why is Why.SPREAD) == sorted(
        spread_over(EXAMPLE, 2, ["b", "b"])
    )
    assert found.left == 12
    assert found.leader == "a"
    assert [w.key for w in found.worths] == ["b", "a", "c"]
    orders = {tuple(p.key for p in plan_next(READY, seed).picks) for seed in range(12)}
    assert len(orders) > 3, "shuffled"


def test_what_cannot_be_first_is_not_pulled_for_the_spread():
    hopeless = replace(EXAMPLE[2], first=0.002, events=0)
    assert "c" not in spread_over((*EXAMPLE[:2], hopeless), 4)
    assert spread_over(EXAMPLE, 3) == ["b", "b", "c"]


def test_no_more_pulls_than_the_budget_leaves():
    found = plan_next(replace(READY, knot_pulls=23))
    assert sum(1 for p in found.picks if p.key) == 1
    assert found.left == 1


def test_little_left_to_lose_is_enough_and_asks_for_confirmation():
    found = plan_next(replace(READY, loss=0.3))
    assert found.stage is NextStage.ENOUGH
    assert [p.key for p in found.picks].count("a") == CONFIRM_PULLS
    assert [p.key for p in found.picks].count("") == 2
    assert {p.why for p in found.picks} == {Why.CONFIRM, Why.PLAIN}
    half = plan_next(replace(READY, loss=0.3, winner="a", confirmed=3, confirmed_plain=2))
    assert [p.key for p in half.picks] == ["a", "a"]
    done = plan_next(replace(READY, loss=0.3, winner="a", confirmed=5, confirmed_plain=2))
    assert (done.stage, done.picks) == (NextStage.CONFIRMED, ())
    other = plan_next(replace(READY, loss=0.3, winner="b", confirmed=5, confirmed_plain=2))
    assert other.stage is NextStage.ENOUGH, "another leads now: it is not the one confirmed"


def test_a_close_race_at_the_end_of_the_budget():
    found = plan_next(replace(READY, knot_pulls=24))
    assert (found.stage, found.left) == (NextStage.CLOSE, 0)


@pytest.mark.parametrize(
    ("more", "lacks"),
    [
        ({"runners": EXAMPLE[:1]}, Lacks.ONE_KNOT),
        ({"budget": None}, Lacks.BUDGET),
        ({"by_rating": {Rating.OPENING: 1.0}}, Lacks.STRENGTH_ASIDE),
    ],
)
def test_what_is_refused(more, lacks):
    found = plan_next(replace(READY, **more))
    assert (found.stage, found.lacks, found.picks) == (NextStage.REFUSED, lacks, ())


def test_three_plain_pulls_come_before_any_ranking():
    found = plan_next(replace(READY, plain=2))
    assert found.stage is NextStage.OPENING
    assert [p.why for p in found.picks] == [Why.PLAIN]


def test_doubt_that_rests_on_another_rating_names_it():
    by = {Rating.STRENGTH: 0.4, Rating.OPENING: 1.3}
    assert plan_next(replace(READY, by_rating=by)).rests_on is Rating.OPENING
    assert plan_next(replace(READY, by_rating={**by, Rating.STRENGTH: 2.0})).rests_on is None


def test_runners_come_from_the_draws_of_the_ranking():
    dice = np.random.default_rng(8)
    rope = dice.normal(0, 0.03, 5000)
    contenders = [
        Contender(
            key,
            {
                Rating.STRENGTH: share + rope + dice.normal(0, 0.02, 5000),
                Rating.OPENING: dice.uniform(low, low + 0.4, 5000),
            },
        )
        for key, share, low in (("a", 0.70, 0.3), ("b", 0.66, 0.5))
    ]
    weights = {Rating.STRENGTH: 1.0, Rating.OPENING: 1.0}
    a, b = runners_of(contenders, weights, STARTING_ANCHORS, {"a": 5, "b": 4})
    assert (a.events, b.events) == (5, 4)
    assert a.first + b.first == pytest.approx(1.0)
    # Strength alone: 50 points for 30 % of the rope, and half of the weight.
    assert a.sd == pytest.approx(0.5 * 50 / 0.30 * math.hypot(0.03, 0.02), rel=0.05)
    whole = scores_of(contenders, weights, STARTING_ANCHORS)
    part = scores_of(contenders, weights, STARTING_ANCHORS, Rating.STRENGTH)
    assert whole.mean(axis=1) == pytest.approx(part.mean(axis=1), abs=0.3)
    assert whole.std(axis=1).min() > 2 * part.std(axis=1).max()
    assert loss(whole) > loss(part)
