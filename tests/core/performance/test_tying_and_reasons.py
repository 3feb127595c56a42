"""Tying trials, the reason why a plain mean is off, and results that are remembered."""

import math

import numpy as np
import pytest

from bruiser.core.behaviour.security import (
    SecuritySeen,
    judge_security,
    share_interval,
)
from bruiser.core.behaviour.tying import measure_tying
from bruiser.core.memory import Memory
from bruiser.core.performance.efficiency import Case, efficiencies
from bruiser.core.performance.evidence import GroupData
from bruiser.core.performance.mean_reason import mean_differs, why_mean_differs
from bruiser.core.performance.report import make_report
from bruiser.core.progress import Cancelled
from bruiser.core.records.preparation import Hands, TyingTrial, TyingVerdict
from bruiser.core.statistics.strength import Interval, OutcomeCounts
from tests.core.samples import sample, scattered

PLAIN = sample([9_900, 10_000, 10_100, 10_050])


def trial(seconds, hands=Hands.BARE, **more):
    return ("s", TyingTrial(seconds=seconds, hands=hands, **more))


def test_hands_are_rated_apart_and_wrong_ties_counted():
    found = measure_tying(
        [trial(20), trial(30), trial(60, Hands.GLOVES, attempts=2, wrong=1)], "bowline"
    )
    bare, gloves = found.by_hands
    assert bare.seconds.value == pytest.approx(math.sqrt(600), rel=0.01)
    assert (bare.trials, bare.first_time.value) == (2, 1.0)
    assert (gloves.attempts, gloves.wrong, gloves.first_time.value) == (2, 1, 0.0)
    assert measure_tying([], "bowline").by_hands == ()


def test_naming_another_knot_is_not_knowing_it():
    said = [
        ("", TyingVerdict.RIGHT),
        ("bowline", TyingVerdict.RIGHT),
        ("sheet-bend", TyingVerdict.RIGHT),
    ]
    said += [("", TyingVerdict.WRONG), ("", TyingVerdict.UNSURE)]
    found = measure_tying(
        [trial(9, verdict=v, named=name) for name, v in said] + [trial(9)], "bowline"
    ).inspected
    assert (found.judged, found.right, found.wrong, found.unsure) == (5, 3, 1, 1)
    assert found.taken_for_another == 1
    assert found.recognised == share_interval(2, 5)


def rated(knot, base=PLAIN):
    case = Case(knot=knot, baseline=base, counts=OutcomeCounts(broke=len(knot.ln_load)))
    return efficiencies([case])[0]


def test_the_survivors_are_named_where_two_knots_made_the_mean_low():
    knot = scattered(np.random.default_rng(2), 7_000, 0.10, 8, knots=2)
    eff = rated(knot)
    assert mean_differs(eff)
    assert "too low: in 8 of 8 specimens one knot gave" in why_mean_differs(eff, knot, PLAIN)


def test_those_that_outlasted_are_named():
    knot = sample([6_900, 7_000, 7_100, 4_000, 4_000], [1, 1, 1, 0, 0], [0, 0, 0, 1, 1])
    eff = rated(knot)
    assert "too low: 2 of 5 outlasted" in why_mean_differs(eff, knot, PLAIN)


def test_a_plain_rope_that_held_more_makes_the_mean_high():
    base = sample([9_900, 10_000, 10_100, 7_000], [1, 1, 1, 0], [0, 0, 0, 1])
    knot = sample([6_900, 7_000, 7_100, 7_050])
    why = why_mean_differs(rated(knot, base), knot, base)
    assert "too high: 1 straight pull did not break clear" in why


def test_nothing_is_said_where_the_two_agree():
    knot = sample([6_950, 7_000, 7_050, 7_020])
    assert not mean_differs(rated(knot))
    assert why_mean_differs(rated(knot), knot, PLAIN) == ""
    floors = sample([7_000.0], [0], [1])
    assert why_mean_differs(rated(floors), floors, PLAIN) == ""


def test_of_equally_open_criteria_the_one_seen_to_be_poorer_decides():
    seen = SecuritySeen(
        onset=Interval(0.14, 0.05, 0.2), draw_d=None, came_out=Interval(0.0, 0.0, 0.6)
    )
    verdict = judge_security(seen)
    assert verdict.weakest.name == "first slip"
    assert verdict.not_measured == ("draw", "cycles", "shaking")
    calm = SecuritySeen(
        onset=Interval(0.5, 0.5, math.inf), draw_d=None, came_out=Interval(0.0, 0.0, 0.6)
    )
    weakest = judge_security(calm).weakest
    assert (weakest.name, weakest.grade_as_seen) == ("came out", 1.0)
    assert judge_security(SecuritySeen()).weakest is None


def data(name, seed, cordage="P8"):
    s = scattered(np.random.default_rng(seed), 7_000, 0.06, 6)
    return GroupData(
        cordage=cordage, condition="dry", knot=name, sample=s, counts=OutcomeCounts(broke=6)
    )


def rope(cordage="P8"):
    return GroupData(
        cordage=cordage, condition="dry", knot=None, sample=PLAIN, counts=OutcomeCounts(broke=4)
    )


def test_only_what_changed_is_computed_again():
    memory = Memory()
    groups = [rope(), data("a", 1), data("b", 2), rope("N6"), data("c", 3, "N6")]
    first = make_report(groups, memory=memory)
    # Two ropes, three knots, two families.
    assert memory.computed == 7
    again = make_report(groups, memory=memory)
    assert memory.computed == 7
    assert again.groups[1] is first.groups[1]
    changed = [*groups[:2], data("b", 9), *groups[3:]]
    third = make_report(changed, memory=memory)
    assert memory.computed == 9
    assert third.groups[1] is first.groups[1]
    assert third.groups[2].estimate != first.groups[2].estimate
    assert third.groups[4] is first.groups[4]


def test_a_changed_rope_recomputes_its_own_knots_only():
    memory = Memory()
    groups = [rope(), data("a", 1), rope("N6"), data("c", 3, "N6")]
    make_report(groups, memory=memory)
    before = memory.computed
    other = GroupData(
        cordage="P8",
        condition="dry",
        knot=None,
        sample=sample([9_000, 9_100, 9_050]),
        counts=OutcomeCounts(broke=3),
    )
    make_report([other, *groups[1:]], memory=memory)
    assert memory.computed == before + 3  # the rope, its one knot, and its family


def test_remembered_results_equal_those_worked_out_at_once():
    groups = [rope(), *(data(f"k{n}", n) for n in range(5))]
    memory = Memory()
    make_report(groups[:3], memory=memory)
    mixed, plain = make_report(groups, memory=memory), make_report(groups)
    for a, b in zip(mixed.groups[1:], plain.groups[1:], strict=True):
        one, two = a.rated.efficiency.interval, b.rated.efficiency.interval
        assert (one.value, one.low, one.high) == pytest.approx(
            (two.value, two.low, two.high), rel=1e-6
        )
    assert mixed.families[0].letters == plain.families[0].letters


def test_the_oldest_is_forgotten_first():
    memory = Memory(room=2)
    for key in "abc":
        memory.keep(key, key.upper())
    assert [memory.recall(k) for k in "abc"] == [None, "B", "C"]
    assert memory.once("b", lambda: "new") == "B"
    assert len(memory) == 2


def test_work_tells_how_far_it_is_and_can_be_ended():
    told = []
    groups = [rope(), *(data(f"k{n}", n) for n in range(3))]
    make_report(groups, progress=lambda done, whole: told.append((done, whole)))
    assert told[-1] == (4, 4)
    assert [d for d, _ in told] == sorted(d for d, _ in told)

    def stop(done, whole):
        raise Cancelled

    with pytest.raises(Cancelled):
        make_report(groups, progress=stop)
