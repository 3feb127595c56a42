"""Methods with their numbers, and what was prepared."""

import pytest

from bruiser.core.planning.bench_time import Job, schedule
from bruiser.core.records import methods, preparation
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import METHOD_LIST, MethodPlan, methods_that_tell, tells
from bruiser.core.records.preparation import Preparation, PrepStep, next_ready, window_of


@pytest.mark.parametrize("method", METHOD_LIST, ids=lambda m: m.key)
def test_a_method_says_what_ends_it_and_what_counts(method):
    plan = MethodPlan(method.key)
    assert method.ends_when
    assert method.event
    assert method.limit
    assert plan.words.startswith(method.key)
    assert all(plan.value(p.key) == p.default for p in method.parameters)
    levels = [p.default for p in method.parameters if p.level]
    assert plan.highest_share == max(levels, default=None)
    assert plan.added_seconds(60.0, 60.0) >= 0


def test_numbers_are_kept_and_unknown_ones_refused():
    plan = MethodPlan("cycles", (("count", 12), ("high", 0.4)))
    assert plan.words == "cycles: down to 5 %, up to 40 %, how often 12"
    assert plan.highest_share == 0.4
    for wrong in (("nothing", ()), ("cycles", (("hold", 1.0),))):
        with pytest.raises(ValueError, match="no"):
            MethodPlan(*wrong)


def test_steps_and_contradictions():
    plan = MethodPlan("stepped load", (("first", 0.2), ("step", 0.15), ("last", 0.65)))
    assert plan.steps == (0.2, 0.35, 0.5, 0.65)
    assert MethodPlan("cycles").steps == ()
    assert "last" in methods.wrong_order(MethodPlan("stepped load", (("last", 0.1),)))
    assert "low" in methods.wrong_order(MethodPlan("cycles", (("low", 0.5),)))
    assert methods.wrong_order(plan) == {}


def test_bench_time_of_holds_and_cycles():
    assert MethodPlan("sustained hold").added_seconds(0, 60) == 600
    stepped = MethodPlan("stepped load", (("first", 0.2), ("step", 0.2), ("last", 0.6)))
    assert stepped.added_seconds(30, 60) == 3 * 40
    assert MethodPlan("cycles", (("count", 10), ("high", 0.5))).added_seconds(0, 60) == 300


def test_a_withdrawn_step_no_longer_holds():
    tied = Preparation(id="1", specimen_id="s", made_at="t", step=PrepStep.TIED, by="TV")
    back = Preparation(
        id="2",
        specimen_id="s",
        made_at="t",
        step=PrepStep.TIED,
        by="TV",
        note="undone",
        withdrawn=True,
    )
    again = Preparation(id="3", specimen_id="s", made_at="t", step=PrepStep.TIED, by="OQ")
    assert preparation.in_force([tied, back]) == {}
    assert preparation.in_force([tied, back, again]) == {PrepStep.TIED: again}


def test_windows_open_and_close():
    w = window_of(100.0, 50.0, 20.0)
    assert [w.says(t) for t in (149, 150, 170, 171)] == ["soaking", "ready", "ready", "too old"]
    assert window_of(0.0, 1.0, None).says(1e9) == "ready"


@pytest.mark.parametrize(
    ("windows", "now", "wanted"),
    [
        ({}, 0.0, "c"),
        ({"b": window_of(0, 10, 5)}, 5.0, "c"),
        ({"b": window_of(0, 10, 5)}, 12.0, "b"),
        ({"b": window_of(0, 10, 5)}, 99.0, "c"),
        ({"a": window_of(0, 10, 50), "b": window_of(0, 10, 5)}, 12.0, "b"),
        ({"a": window_of(0, 10, None)}, 12.0, "a"),
    ],
)
def test_who_is_next_when_some_must_soak(windows, now, wanted):
    needs = {"a": True, "b": True, "c": False}
    assert next_ready(("a", "b", "c"), needs, windows, now) == wanted
    assert next_ready(("a", "b"), needs, {}, now) is None


def test_what_is_not_ready_lets_others_go_first():
    jobs = [
        Job(key="wet", seconds=10, soak_s=100, keep_s=50, earliest_s=100),
        Job(key="dry", seconds=10),
        Job(key="late", seconds=10, soak_s=500, keep_s=50, earliest_s=500),
    ]
    slots = {s.key: s for s in schedule(jobs, 6.0)}
    assert list(slots) == ["dry", "wet", "late"]
    wet = slots["wet"]
    assert (wet.start_s, wet.soak_from_s, wet.too_old_after_s) == (100, 0, 150)
    (tomorrow,) = schedule([Job(key="x", seconds=10, soak_s=7200, keep_s=60, earliest_s=4000)], 1.0)
    assert tomorrow.start_s == 86_400


def test_only_a_method_that_can_speak_to_a_result_enters_it():
    assert all(m.tells for m in METHOD_LIST)
    assert methods_that_tell(Tells.STRENGTH) == (
        "straight pull", "ramp to failure", "ring load", "cross and reverse", "over an edge",
        "on a host",
    )  # fmt: skip
    assert methods_that_tell(Tells.LOOSENING) == (
        "slack and snatch", "shaking under load", "release test",
    )  # fmt: skip
    assert not tells("slack and snatch", Tells.STRENGTH)
    assert not tells("over an edge", Tells.USUAL)
    assert not tells("a method nobody knows", Tells.STRENGTH)
    assert [m.key for m in METHOD_LIST if m.to_failure] == [
        m.key for m in METHOD_LIST if m.tells & {Tells.STRENGTH, Tells.GRIP, Tells.SEAT}
    ]
