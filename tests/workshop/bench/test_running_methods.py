"""Every method run on the simulated bench: what it commands, what it reads, what stops it."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.app.demo_pulls import pull_specimen
from bruiser.core.records.layouts import End
from bruiser.core.records.methods import METHODS, MethodPlan
from bruiser.core.records.programme import programme
from bruiser.core.records.readings import Sheath, Takes
from bruiser.core.records.records import JamLevel, PullEnd
from bruiser.core.trace import TraceEnd
from bruiser.core.units import UnitChoice
from bruiser.workshop.bench.live_pull import Limits, Phase
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.running import MethodRun, RunState
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.findings.method_summary import method_summary
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from tests.specimens import specimen_for, stored

REFERENCE_N = 8_000.0


def run(workshop, method, structure, **values):
    specimen = stored(workshop, specimen_for(workshop, method, structure, **values))
    pull_id, remains = pull_specimen(workshop, specimen, "TV", reference=REFERENCE_N)
    entry = read_logbook(workshop).by_pull[pull_id]
    trace = read_trace(workshop, entry.pull)
    return entry, trace, remains


def tops(trace, zero_n, level_n):
    """How often the load comes up to a level after it was under half of it."""
    count, low = 0, True
    for load in trace.load_n - zero_n:
        if low and load > 0.95 * level_n:
            count, low = count + 1, False
        elif load < 0.5 * level_n:
            low = True
    return count


@pytest.mark.parametrize(
    ("method", "structure"),
    [
        ("straight pull", None),
        ("ramp to failure", "bowline"),
        ("ring load", "bowline"),
        ("cross and reverse", "alpine-butterfly"),
        ("over an edge", "bowline"),
        ("on a host", "clove-hitch"),
        ("stopper through a plate", "figure-eight-stopper"),
    ],
)
def test_a_pull_to_failure_travels_at_its_rate_until_something_gives(workshop, method, structure):
    entry, trace, remains = run(workshop, method, structure)
    assert entry.pull.end is PullEnd.GAVE
    assert remains.gave != "stopped"
    moving = np.flatnonzero(np.diff(trace.travel_m) > 0)
    rate = (trace.travel_m[moving[-1]] - trace.travel_m[moving[0]]) / (
        trace.time_s[moving[-1]] - trace.time_s[moving[0]]
    )
    assert rate == pytest.approx(TRAVEL_RATE_M_S, rel=0.02)
    assert entry.specimen.layout.place(remains.place)
    assert entry.readings == ()


@pytest.mark.slow
def test_a_stepped_load_reaches_every_step_and_reads_the_jam_at_each(workshop):
    entry, trace, _ = run(workshop, "stepped load", "figure-eight-loop", last=0.5)
    read = [r for r in entry.readings if r.takes is Takes.UNTYING]
    assert [r.number for r in read] == list(range(1, len(read) + 1))
    assert [r.load_n for r in read] == pytest.approx(
        [REFERENCE_N * (0.2 + 0.1 * k) for k in range(len(read))]
    )
    assert all(r.end is End.A and r.value is not None for r in read)
    stuck = [r.level in (JamLevel.TOOL, JamLevel.CUT, JamLevel.FUSED) for r in read]
    assert not any(stuck[:-1])
    assert entry.pull.end is PullEnd.COMPLETED
    load = trace.load_n - entry.analysis.zero_n
    for r in read:
        assert np.any(np.abs(load - r.load_n) < 0.02 * r.load_n + 20)
    held_s = np.count_nonzero(load > 0.85 * read[-1].load_n) / entry.pull.sample_rate_hz
    assert held_s > 9.0


@pytest.mark.slow
def test_cycles_are_counted_with_their_draw(workshop):
    entry, trace, _ = run(workshop, "cycles", "sheet-bend", count=8)
    assert [r.number for r in entry.readings] == list(range(1, 9))
    assert all(r.load_n == pytest.approx(0.3 * REFERENCE_N, rel=0.03) for r in entry.readings)
    draws = [r.value for r in entry.readings]
    assert draws == sorted(draws)
    assert tops(trace, entry.analysis.zero_n, 0.3 * REFERENCE_N) == 8


@pytest.mark.slow
def test_shaking_goes_slack_and_counts_its_snatches(workshop):
    entry, trace, remains = run(workshop, "slack and snatch", "bowline", count=9)
    assert len(entry.readings) == 9
    assert remains.truth["snatches"] >= 8
    load = trace.load_n - entry.analysis.zero_n
    first = int(np.argmax(load > 0.09 * REFERENCE_N))
    assert np.min(load[first:]) < 40
    stretch = 25
    fastest = np.max(trace.travel_m[stretch:] - trace.travel_m[:-stretch])
    fastest *= entry.pull.sample_rate_hz / stretch
    assert fastest == pytest.approx(4 * TRAVEL_RATE_M_S, rel=0.05)


@pytest.mark.slow
def test_a_sustained_hold_keeps_its_load_for_its_time(workshop):
    entry, trace, _ = run(workshop, "sustained hold", "bowline", level=0.3, hold=25.0)
    (held,) = entry.readings
    assert (held.takes, held.value) == (Takes.HELD, 25.0)
    level = 0.3 * REFERENCE_N
    load = trace.load_n - entry.analysis.zero_n
    inside = np.count_nonzero(load > 0.96 * level) / entry.pull.sample_rate_hz
    assert inside == pytest.approx(25.0, abs=2.5)
    assert load.max() < 1.05 * level


@pytest.mark.long
def test_shaking_under_load_counts_its_dips_and_never_goes_slack(workshop):
    entry, trace, remains = run(workshop, "shaking under load", "zeppelin-bend", count=5)
    assert remains.gave == "stopped"
    assert [r.number for r in entry.readings if r.takes is Takes.SHAKE] == [1, 2, 3, 4, 5]
    load = trace.load_n - entry.analysis.zero_n
    first = int((load > 0.099 * REFERENCE_N).argmax())
    last = len(load) - int((load[::-1] > 0.09 * REFERENCE_N).argmax())
    assert load[first:last].min() > 0.02 * REFERENCE_N


@pytest.mark.slow
def test_a_hold_that_gives_says_how_long_it_held(workshop):
    entry, _, remains = run(workshop, "sustained hold", "overhand-loop", level=0.85, hold=4_000.0)
    assert remains.gave != "stopped"
    held = [r for r in entry.readings if r.takes is Takes.HELD]
    assert entry.pull.end is PullEnd.GAVE
    assert all(0 <= r.value < 4_000 and r.note == "gave" for r in held)


@pytest.mark.parametrize(
    ("method", "structure", "lot"),
    [("cord on rope", "prusik", "R8"), ("slide test", "taut-line-hitch", "R8")],
)
def test_a_slide_ends_when_it_slides_or_at_its_load(workshop, method, structure, lot):
    entry, trace, remains = run(workshop, method, structure, lot=lot)
    slid, by_hand, looked = entry.readings
    assert (slid.takes, by_hand.takes) == (Takes.SLID, Takes.BY_HAND)
    assert (looked.sheath is Sheath.GLAZED) == bool(remains.truth["glazed_A"])
    assert by_hand.refused or 0 < by_hand.value == round(remains.truth["by_hand_n"], 4)
    most = entry.specimen.method.value("most") * REFERENCE_N
    load = trace.load_n - entry.analysis.zero_n
    if slid.value:
        assert slid.load_n < most
        assert remains.truth["slid_A_mm"] > 0
    else:
        assert load.max() == pytest.approx(most, rel=0.05)


def slid_at(entry):
    """Load of the slide, or that it held without one."""
    return next(r.load_n for r in entry.readings if r.takes is Takes.SLID)


def test_a_retention_test_pushes_before_and_after_the_squeezes(workshop):
    entry, _, remains = run(workshop, "retention test", "constrictor", count=6)
    before, after = entry.readings
    assert (before.takes, after.takes) == (Takes.MOVED, Takes.MOVED)
    assert (before.number, after.number) == (1, 2)
    assert after.value / before.value == pytest.approx(remains.truth["residual_grip"], rel=1e-3)
    assert remains.truth["snatches"] in (5, 6, 7)
    (line,) = method_summary(entry.readings, entry.specimen, UnitChoice())
    assert "along its host" in line


def test_a_knot_is_measured_and_drawn_over_a_ledge(workshop):
    entry, _, remains = run(workshop, "bulk and snag", "figure-eight-bend")
    wide, ledge = entry.readings
    assert (wide.takes, ledge.takes) == (Takes.WIDTH, Takes.LEDGE)
    assert wide.value == pytest.approx(remains.truth["width_m"], abs=1e-4)
    assert ledge.value == pytest.approx(remains.truth["ledge_n"], abs=1e-3)


def test_what_broke_while_it_was_to_slide_is_told_apart_by_its_finding(workshop):
    entry, _, remains = run(workshop, "cord on rope", "prusik", lot="R8", wraps=9, most=1.5)
    assert entry.pull.end is PullEnd.GAVE
    assert entry.readings[-1].note == "gave"
    assert remains.gave == "broke"


def test_more_wraps_hold_more(workshop):
    few, _, _ = run(workshop, "cord on rope", "prusik", lot="R8", wraps=2)
    specimen = replace(few.specimen, id="m2", code="M-2", method=MethodPlan(
        "cord on rope", (("wraps", 5.0), ("most", 0.9))
    ))  # fmt: skip
    workshop.do(PlanSpecimen(specimen))
    pull_id, _ = pull_specimen(workshop, specimen, "TV", reference=REFERENCE_N)
    many = read_logbook(workshop).by_pull[pull_id]
    assert slid_at(many) > slid_at(few)


def test_an_advantage_test_takes_two_loads_and_what_the_lock_off_kept(workshop):
    entry, _, remains = run(workshop, "advantage test", "truckers-hitch")
    two, kept = entry.readings
    assert (two.takes, kept.takes) == (Takes.TWO_LOADS, Takes.KEPT)
    real = remains.truth["advantage_real"]
    assert two.load_n / two.value == pytest.approx(real, rel=0.05)
    assert real < remains.truth["advantage_theory"]
    assert 0.6 < kept.value < 0.9


def test_a_release_test_shakes_loads_and_reads_the_force_on_the_tail(workshop):
    entry, trace, remains = run(workshop, "release test", "slipped-half-hitch", count=4)
    shakes = [r for r in entry.readings if r.takes is Takes.SHAKE]
    released = [r for r in entry.readings if r.takes is Takes.RELEASE]
    if remains.gave == "stopped":
        assert len(shakes) == 4
        assert released[0].value > 0
        load = trace.load_n - entry.analysis.zero_n
        assert load.max() == pytest.approx(0.2 * REFERENCE_N, rel=0.05)
    else:
        assert len(shakes) <= 4


def driven(workshop, method, structure, limits=None, **values):
    """A run on a bench that goes as fast as it is stepped, up to its first motion."""
    specimen = stored(workshop, specimen_for(workshop, method, structure, **values))
    session = PullSession(
        workshop,
        specimen,
        bench_with(specimen, speed=float("inf")),
        TRAVEL_RATE_M_S,
        limits=limits,
        programmed=True,
        threaded=False,
    )
    made = MethodRun(workshop, session, programme(specimen.method, REFERENCE_N))
    session.arm()
    while not session.zero_taken:
        session.recorder.step()
    assert made.start()
    return session, made


def step_until(session, made, so, most=4_000):
    for _ in range(most):
        session.recorder.step()
        made.tick(session.poll())
        if so():
            return
    raise AssertionError("it did not come to that")


def test_stopping_in_the_middle_keeps_what_was_read(workshop):
    session, made = driven(workshop, "cycles", "sheet-bend", count=50)
    step_until(session, made, lambda: len(made.readings) == 3)
    session.stop()
    made.pause()
    assert made.state is RunState.PAUSED
    session.arm()
    session.slack()
    while session.poll().load_is_on:
        session.recorder.step()
    made.end_early()
    session.finish(made.ends_as)
    entry = read_logbook(workshop).by_pull[session.pull_id]
    assert entry.pull.end is PullEnd.STOPPED
    assert [r.number for r in entry.readings] == [1, 2, 3]
    assert entry.analysis.end is TraceEnd.STOPPED


def test_a_paused_programme_goes_on_with_the_same_act(workshop):
    session, made = driven(workshop, "cycles", "sheet-bend", count=5)
    step_until(session, made, lambda: len(made.readings) == 2)
    session.release()
    made.pause()
    at = made.index
    assert made.start()
    assert made.index == at
    step_until(session, made, lambda: made.state is RunState.DONE)
    assert [r.number for r in made.readings] == [1, 2, 3, 4, 5]
    assert made.progress == 1.0
    assert made.ends_as is PullEnd.COMPLETED
    session.leave()


def test_an_approach_leaves_the_bench_disarmed_and_without_load(workshop):
    session, made = driven(workshop, "stepped load", "figure-eight-loop")
    step_until(session, made, lambda: made.state is RunState.ASKING)
    live = session.poll()
    assert not session.armed
    assert not live.load_is_on
    assert not made.start()
    made.answer_untying({End.A: (JamLevel.HAND, 3.0)})
    assert made.state is RunState.PAUSED
    assert not made.start()
    session.arm()
    assert made.start()
    step_until(session, made, lambda: made.state is RunState.ASKING)
    made.answer_untying({End.A: (JamLevel.TOOL, 40.0)})
    assert made.state is RunState.DONE
    session.leave()


@pytest.mark.parametrize(
    ("limits", "end"),
    [
        (Limits(load_n=900.0), PullEnd.LOAD_LIMIT),
        (Limits(travel_m=0.02), PullEnd.TRAVEL_LIMIT),
        (Limits(time_s=3.0), PullEnd.TIME_LIMIT),
    ],
)
def test_every_limit_stops_the_bench_and_keeps_the_samples(workshop, limits, end):
    session, made = driven(workshop, "ramp to failure", "bowline", limits=limits)
    step_until(session, made, lambda: session.poll().limit is not None)
    assert not session.armed
    assert session.poll().phase is Phase.HELD
    assert made.state is RunState.PAUSED
    count = session.recorder.count
    session.arm()
    session.slack()
    while session.poll().load_is_on:
        session.recorder.step()
    assert session.phase is not Phase.GAVE
    made.end_early()
    session.finish(made.ends_as)
    entry = read_logbook(workshop).by_pull[session.pull_id]
    assert entry.pull.end is end
    assert len(read_trace(workshop, entry.pull).load_n) > count


def test_every_method_is_run_by_one_of_these_tests():
    text = __import__("pathlib").Path(__file__).read_text(encoding="utf-8")
    assert all(f'"{method}"' in text for method in METHODS)


def test_what_a_method_read_is_summed_up_in_words(workshop):
    shaken, _, _ = run(workshop, "slack and snatch", "bowline", count=3)
    assert (
        "Survived 3 of 3 shakes"
        in method_summary(shaken.readings, shaken.specimen, UnitChoice())[0]
    )
    blank = shaken.readings[0]
    tried = [
        replace(blank, takes=Takes.UNTYING, number=n, load_n=1e3 * n, end=End.A, level=level)
        for n, level in enumerate((JamLevel.HAND, JamLevel.TOOL), start=1)
    ]
    slid = replace(blank, takes=Takes.SLID, load_n=800.0, value=1.0)
    said = {
        "It opened by hand after 1.00 kN; needed a tool after 2.00 kN.": tried,
        "Held 40 s at 2.00 kN; then gave.": [
            replace(blank, takes=Takes.HELD, load_n=2e3, value=40.0, note="gave")
        ],
        "Slid at 0.80 kN.": [slid],
        "Held 0.80 kN without sliding.": [replace(slid, value=0.0)],
        "Kept 92 % at the lock-off.": [replace(blank, takes=Takes.KEPT, value=0.92)],
    }
    for words, readings in said.items():
        assert method_summary(readings, shaken.specimen, UnitChoice()) == (words,)
    two = replace(blank, takes=Takes.TWO_LOADS, load_n=900.0, value=300.0)
    assert "3.00 times" in method_summary([two], shaken.specimen, UnitChoice())[0]
    freed = replace(blank, takes=Takes.RELEASE, load_n=900.0, value=120.0)
    assert "by 120 N" in method_summary([freed], shaken.specimen, UnitChoice())[0]
