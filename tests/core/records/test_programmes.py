"""What methods command, the readings they take, and lengths read off a photo."""

import itertools

import numpy as np
import pytest

from bruiser.core.errors import InputError
from bruiser.core.planning.photo_rule import draw_by_photo, rule_length
from bruiser.core.records.layouts import HELD_BY, LAYOUTS, End, PlaceKind, lay
from bruiser.core.records.methods import METHOD_LIST, MethodPlan
from bruiser.core.records.outcomes import Says, evidence, possible_findings
from bruiser.core.records.programme import (
    SNATCH_RATE,
    ActKind,
    programme,
    runs_latched,
)
from bruiser.core.records.readings import Reading, Takes, jams_from_n, survived
from bruiser.core.records.records import Gave, JamLevel, Role
from bruiser.core.trace.live import LiveSlips

N = 10_000.0


def plan(key, **values):
    return MethodPlan(key, tuple(values.items()))


def test_every_method_has_a_programme_and_no_two_kinds_are_the_same_label():
    made = {m.key: programme(MethodPlan(m.key), N) for m in METHOD_LIST}
    ramps = {k for k, acts in made.items() if [a.move for a in acts] == [ActKind.PULL]}
    assert ramps == {
        "straight pull", "ramp to failure", "ring load", "cross and reverse", "over an edge",
        "on a host", "stopper through a plate",
    }  # fmt: skip
    assert {k for k, m in made.items() if any(a.takes for a in m)} == set(made) - ramps
    for key in made:
        to_failure = MethodPlan(key).method.to_failure
        assert (
            to_failure
            or not runs_latched(MethodPlan(key))
            or made[key][-1].move is not ActKind.PULL
        )


def test_a_stepped_load_climbs_holds_slacks_and_asks_at_every_step():
    acts = programme(plan("stepped load", first=0.2, step=0.1, last=0.4, hold=7.0), N)
    assert [a.move for a in acts] == [ActKind.TO_LOAD, ActKind.HOLD, ActKind.SLACK, ActKind.ASK] * 3
    assert [a.load_n for a in acts if a.move is ActKind.TO_LOAD] == pytest.approx([2e3, 3e3, 4e3])
    assert {a.seconds for a in acts if a.move is ActKind.HOLD} == {7.0}
    assert all(a.approach and a.takes is Takes.UNTYING for a in acts if a.move is ActKind.ASK)
    assert [(a.number, a.of) for a in acts[::4]] == [(1, 3), (2, 3), (3, 3)]


def test_cycles_go_up_and_down_and_snatches_are_fast():
    cycles = programme(plan("cycles", low=0.1, high=0.3, count=4), N)
    assert [a.load_n for a in cycles] == [3e3, 1e3] * 4
    assert [a.number for a in cycles if a.takes is Takes.CYCLE] == [1, 2, 3, 4]
    shakes = programme(plan("slack and snatch", high=0.1, count=3), N)
    snatches = [a for a in shakes if a.takes is Takes.SHAKE]
    assert {a.rate for a in snatches} == {SNATCH_RATE}
    assert [a.move for a in shakes[1:]] == [ActKind.SLACK, ActKind.TO_LOAD] * 3


def test_levels_without_a_strength_are_refused_and_ramps_are_not():
    with pytest.raises(ValueError, match="needs the strength"):
        programme(plan("cycles"), 0.0)
    assert programme(plan("ramp to failure"), 0.0)


def reading(takes, number, load=1e3, **more):
    return Reading(
        id=f"r{number}{more}",
        pull_id="p",
        made_at="2026",
        takes=takes,
        number=number,
        load_n=load,
        **more,
    )


def test_readings_say_how_many_survived_and_from_where_it_jams():
    cycles = [reading(Takes.CYCLE, n) for n in (1, 2, 3)]
    assert survived(cycles, Takes.CYCLE) == 3
    assert survived(cycles, Takes.SHAKE) == 0
    tried = [
        reading(Takes.UNTYING, n, 1e3 * n, end=End.A, level=level)
        for n, level in enumerate((JamLevel.HAND, JamLevel.WORKED, JamLevel.TOOL), start=1)
    ]
    assert jams_from_n(tried, End.A) == 3e3
    assert jams_from_n(tried[:2], End.A) is None
    assert jams_from_n(tried, End.B) is None


@pytest.mark.parametrize("layout", LAYOUTS.values(), ids=LAYOUTS)
def test_every_place_of_every_strip_says_what_it_must(layout):
    """Events and floors by the table of the field, for every family and every place."""
    role = Role.BASELINE if layout.key == "baseline" else Role.KNOT
    for place in layout.places:
        for gave in possible_findings(layout, place.key):
            found = evidence(role, layout, gave, place.key)
            if role is Role.BASELINE:
                clear = place.kind is PlaceKind.SPAN
                assert found.baseline is (Says.EVENT if clear else Says.FLOOR)
                continue
            for end in layout.ends:
                mine = place.owner is end
                assert found.holding[end] is (Says.EVENT if mine else Says.FLOOR)
                broke = mine and gave is Gave.BROKE
                assert found.breaking[end] is (Says.EVENT if broke else Says.FLOOR)
            clear = place.owner is not None or place.kind is PlaceKind.SPAN
            assert found.system is (Says.EVENT if clear else Says.FLOOR)
    stopped = evidence(role, layout, Gave.STOPPED, None)
    assert Says.EVENT not in (stopped.system, *stopped.holding.values())
    assert evidence(role, layout, Gave.VOID, None).holding == {}


def test_every_family_has_its_own_places_and_every_knot_can_give_in_three_ways():
    first = {k: (x.title, *(p.key for p in x.places)) for k, x in LAYOUTS.items()}
    assert len(set(first.values())) == len(LAYOUTS) == 14
    for layout in LAYOUTS.values():
        keys = [p.key for p in layout.places]
        assert len(set(keys)) == len(keys)
        for p in layout.places:
            three = (Gave.BROKE, Gave.CAME_OUT, Gave.CAPSIZED)
            wanted = three if p.kind is PlaceKind.KNOT else (Gave.BROKE,)
            assert possible_findings(layout, p.key) == wanted
    held = [k for k, x in LAYOUTS.items() if any(p.kind in HELD_BY for p in x.places)]
    assert len(held) == 6
    edge = lay("loop_single", over_edge=True)
    assert [p.key for p in edge.places][4:6] == ["span", "edge"]
    assert lay("loop_single") is LAYOUTS["loop_single"]


@pytest.mark.parametrize("seed", range(3))
def test_a_length_off_a_photo_lies_within_its_uncertainty(seed):
    """5,000 noisy pointings: the spread found is the standard uncertainty stated."""
    rng = np.random.default_rng(seed)
    known, marks = ((100.0, 80.0), (900.0, 200.0)), ((300.0, 300.0), (460.0, 330.0))
    truth = rule_length(known, 0.1, marks)
    found = []
    for _ in range(5_000):
        shaken = [tuple(np.add(p, rng.normal(0, 1.5, 2))) for p in (*known, *marks)]
        found.append(rule_length((shaken[0], shaken[1]), 0.1, (shaken[2], shaken[3])).length_m)
    assert np.std(found) == pytest.approx(truth.u_m, rel=0.04)
    assert np.mean(found) == pytest.approx(truth.length_m, rel=2e-3)


def test_a_photo_that_cannot_be_ruled_is_refused():
    near = ((0.0, 0.0), (5.0, 5.0))
    with pytest.raises(InputError, match="too near"):
        rule_length(near, 0.1, ((0.0, 0.0), (50.0, 0.0)))
    with pytest.raises(InputError, match="above zero"):
        rule_length(((0.0, 0.0), (500.0, 0.0)), 0.0, near)
    ruled = rule_length(((0.0, 0.0), (500.0, 0.0)), 0.1, ((0.0, 0.0), (100.0, 0.0)))
    assert ruled.length_m == pytest.approx(0.02)
    assert draw_by_photo(ruled, 0.005).length_m == pytest.approx(0.015)
    assert draw_by_photo(ruled, 0.5).length_m == 0.0
    wide = rule_length(((0.0, 0.0), (500.0, 0.0)), 0.1, ((0.0, 0.0), (100.0, 0.0)), u_known_m=0.01)
    assert wide.u_m > 4 * ruled.u_m


def test_slips_are_told_as_they_happen_and_not_twice():
    load = np.concatenate(
        [np.linspace(0, 2_000, 200), np.linspace(1_700, 3_000, 150), np.linspace(2_600, 2_650, 9)]
    )
    whole, pieces = LiveSlips(25_000.0, 2.0), LiveSlips(25_000.0, 2.0)
    whole.feed(load)
    for part in np.array_split(load, 40):
        pieces.feed(part)
    assert whole.loads == pieces.loads == pytest.approx((2_000.0, 3_000.0))
    whole.begin_anew()
    whole.feed(np.full(50, 1_000.0))
    assert len(whole.loads) == 2
    quiet = LiveSlips(25_000.0, 2.0)
    noise = np.random.default_rng(1).normal(0, 3, 400)
    quiet.feed(np.linspace(0, 9_000, 400) + noise)
    assert quiet.loads == ()


def test_the_moves_of_a_programme_are_in_the_order_they_are_said():
    acts = programme(plan("release test", count=2), N)
    words = [a.words for a in acts]
    assert words[0].startswith("Take up")
    assert [w for w, _ in itertools.groupby(words[1:5])] == [
        "Slack", "Snatch to 10 %", "Slack", "Snatch to 10 %",
    ]  # fmt: skip
    assert acts[-1].takes is Takes.RELEASE
    assert not acts[-1].approach
