"""Criteria decided before their last pull: k of n by curtailment, an interval by the one rule."""

import numpy as np
import pytest

from bruiser.core.choice.criteria import (
    Measure,
    Met,
    Observed,
    PassCriterion,
    chance_met,
    expected_pulls,
    judge_criterion,
    judge_interval,
)


@pytest.mark.parametrize(
    ("need", "of", "p", "chance", "pulls"),
    [
        (9, 10, 0.9, 0.7361, 8.765),
        (5, 5, 0.8, 0.3277, 3.362),
        (8, 10, 0.9, 0.9298, 8.649),
    ],
)
def test_the_worked_examples(need, of, p, chance, pulls):
    assert chance_met(need, of, p) == pytest.approx(chance, abs=5e-5)
    assert expected_pulls(need, of, p) == pytest.approx(pulls, abs=5e-4)


def rule(need, of, measure=Measure.HOLDS_SHARE):
    return PassCriterion(measure=measure, threshold=0.6, need=need, of=of)


def judged(need, of, passes):
    return judge_criterion(
        rule(need, of), [Observed(f"p{n}", 0.7 if ok else 0.5) for n, ok in enumerate(passes)]
    )


def test_it_is_decided_as_soon_as_it_is_certain_and_stays_so():
    assert judged(4, 5, [1, 1, 1, 1]).after == 4
    assert judged(4, 5, [1, 1, 1, 1]).not_needed == 1
    assert judged(4, 5, [0, 0]).met is Met.NOT_MET
    assert judged(4, 5, [0, 0]).after == 2
    assert judged(4, 5, [1, 0, 1, 0, 1]).after == 4
    assert judged(4, 5, [1, 0, 1]).after is None
    assert judged(4, 5, [1, 1, 1, 1, 0]).met is Met.MET


def test_the_early_verdict_is_the_one_at_n_and_takes_so_many_pulls():
    dice = np.random.default_rng(6)
    taken, met = [], 0
    for _ in range(4000):
        passes = dice.random(10) < 0.9
        whole = judged(9, 10, passes)
        early = judged(9, 10, passes[: whole.after])
        assert early.met is whole.met
        assert early.after == whole.after
        taken.append(whole.after)
        met += whole.met is Met.MET
    assert np.mean(taken) == pytest.approx(8.765, abs=0.06)
    assert met / 4000 == pytest.approx(0.7361, abs=0.02)


def test_what_cannot_say_leaves_it_open():
    floor = Observed("f", 0.5, floor_only=True)
    found = judge_criterion(rule(1, 2), [floor, floor])
    assert (found.met, found.after) == (Met.OPEN, None)


def interval(lows, of=6, looks=0):
    ids = [f"p{n}" for n in range(len(lows))]
    return judge_interval(rule(of, of, Measure.INTERVAL), ids, lows, looks)


def test_an_interval_passes_early_at_995_and_at_the_end_at_95():
    early = interval([None, None, (0.55, 0.63), (0.61, 0.66)])
    assert (early.met, early.after, early.not_needed) == (Met.MET, 4, 2)
    assert interval([(0.9, 0.9)] * 2).met is Met.OPEN, "never before the third"
    at_n = [None, None, *[(0.55, 0.59)] * 3, (0.58, 0.61)]
    assert (interval(at_n).met, interval(at_n).after) == (Met.MET, 6)
    short = [None, None, *[(0.55, 0.65)] * 3, (0.5, 0.599)]
    assert interval(short).met is Met.NOT_MET
    assert interval(short[:5]).met is Met.OPEN


def test_an_n_that_was_raised_after_a_look_passes_no_more():
    found = interval([(0.9, 0.9)] * 6, looks=1)
    assert (found.met, found.after, found.looks) == (Met.OPEN, None, 1)


def test_looking_by_the_rule_passes_falsely_as_seldom_as_at_n_alone():
    """At the threshold: 2.5 % false passes; with 95 % after every pull far more."""
    from scipy.stats import t

    dice = np.random.default_rng(10)
    trials, n = 3000, 10
    passed = often = 0
    for _ in range(trials):
        x = dice.normal(np.log(0.6), 0.08, n)
        lows = []
        for k in range(1, n + 1):
            if k < 3:
                lows.append(None)
                continue
            error = x[:k].std(ddof=1) / np.sqrt(k)
            ends = x[:k].mean() + t.ppf((0.0025, 0.025), k - 1) * error
            lows.append(tuple(np.exp(ends)))
        passed += interval(lows, n).met is Met.MET
        often += any(low is not None and low[1] > 0.6 for low in lows)
    assert passed / trials < 0.042
    assert often / trials > 0.06
