"""Every method through the real window: armed, run, asked, ended, and what it commanded."""

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QApplication, QCheckBox, QLineEdit

from bruiser.app.window import MainWindow
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import PullEnd
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.running import RunState, reference_n
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import open_workshop
from tests.journeys.bench_hands import Bench, over
from tests.specimens import patient_bench, specimen_for, stored


@pytest.fixture
def method():
    """What is pulled: method, structure, lot and the method's numbers."""
    return ("ramp to failure", "bowline", {})


@pytest.fixture
def speed():
    return 25.0


@pytest.fixture
def bench_for(speed):
    """Makes the bench the window pulls on."""
    return patient_bench(speed)


@pytest.fixture
def bench(dressed, qtbot, demo_file, method, bench_for):
    key, structure, more = method
    workshop = open_workshop(demo_file)
    stored(workshop, specimen_for(workshop, key, structure, **more))
    made = MainWindow(workshop, bench_for)
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    made.go_to("pull")
    made.pull.put_on("m1")
    assert made.pull.entry.specimen.method.key == key
    yield Bench(qtbot, made)
    made.close()


def stored_pull(bench):
    entry = bench.window.findings.entry
    assert entry.specimen.id == "m1"
    trace = read_trace(bench.window.workshop, entry.pull)
    zero = 0.0 if entry.analysis is None else entry.analysis.zero_n
    return entry, trace, trace.load_n - zero


def reference(bench, entry):
    return reference_n(bench.window.logbook, entry.specimen.lot)[0]


@pytest.mark.parametrize(
    "method",
    [
        ("straight pull", None, {}),
        ("ramp to failure", "bowline", {}),
        ("ring load", "bowline", {}),
        ("cross and reverse", "alpine-butterfly", {}),
        ("over an edge", "bowline", {}),
        ("on a host", "clove-hitch", {}),
        ("stopper through a plate", "figure-eight-stopper", {}),
    ],
    ids=lambda m: m[0],
)
def test_a_held_pull_runs_to_its_end(bench, method):
    assert method[0] in bench.window.pages["pull"].subtitle.words
    bench.arm()
    assert bench.words("pull.method").startswith("First: Pull until something gives")
    bench.run()
    bench.wait(lambda: bench.window.station == "findings")
    bench.let_go()
    entry, trace, load = stored_pull(bench)
    assert entry.pull.end is PullEnd.GAVE
    up = trace.travel_m[: int(np.nanargmax(load)) + 1]
    moving = np.flatnonzero(np.diff(up) > 0)
    took = trace.time_s[moving[-1]] - trace.time_s[moving[0]]
    assert (up[moving[-1]] - up[moving[0]]) / took == pytest.approx(TRAVEL_RATE_M_S, rel=0.05)
    place = entry.pull.remains["place"]
    assert entry.specimen.layout.place(place)
    direction = entry.specimen.method.direction
    assert direction in bench.window.pages["findings"].subtitle.words


@pytest.mark.parametrize(
    "method",
    [
        (
            "stepped load",
            "figure-eight-loop",
            {"first": 0.15, "step": 0.15, "last": 0.3, "hold": 3.0},
        )
    ],
)
def test_a_stepped_load_asks_between_its_steps(bench):
    for number in (1, 2):
        bench.arm()
        bench.run()
        bench.wait(lambda: over(bench))
        if bench.driver.run is None:
            break
        assert f"Step {number} of 2" in bench.words("pull.ask.words")
        bench.answer_untying()
        if bench.driver.run.state is RunState.DONE:
            break
    bench.end()
    entry, _, load = stored_pull(bench)
    read = [r for r in entry.readings if r.takes is Takes.UNTYING]
    level = reference(bench, entry)
    assert [r.load_n for r in read] == pytest.approx([0.15 * level, 0.3 * level][: len(read)])
    assert load.max() == pytest.approx(read[-1].load_n, rel=0.05)
    assert entry.pull.end is PullEnd.COMPLETED


@pytest.mark.parametrize("method", [("cycles", "zeppelin-bend", {"count": 4, "high": 0.2})])
def test_cycles_run_latched_and_are_counted(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: len(bench.driver.run.readings) >= 1)
    assert "Running by itself" in bench.words("pull.words")
    assert "of 4" in bench.words("pull.method")
    bench.wait(lambda: over(bench))
    bench.slack_off()
    bench.end()
    entry, _, load = stored_pull(bench)
    assert [r.number for r in entry.readings] == [1, 2, 3, 4]
    level = 0.2 * reference(bench, entry)
    assert all(r.load_n == pytest.approx(level, rel=0.12) for r in entry.readings)
    assert load.max() == pytest.approx(level, rel=0.06)
    assert entry.pull.end is PullEnd.COMPLETED


@pytest.mark.parametrize("method", [("slack and snatch", "bowline", {"count": 4})])
def test_shaking_counts_its_snatches(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: over(bench))
    bench.slack_off()
    bench.end()
    entry, _, load = stored_pull(bench)
    assert [r.takes for r in entry.readings] == [Takes.SHAKE] * 4
    top = 0.1 * reference(bench, entry)
    above = np.flatnonzero(load > 0.9 * top)
    between = load[above[0] : above[-1]]
    assert between.min() < 0.05 * top + 30


@pytest.mark.parametrize("method", [("sustained hold", "bowline", {"level": 0.2, "hold": 30.0})])
def test_a_hold_lasts_its_time(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: over(bench))
    bench.slack_off()
    bench.end()
    entry, trace, load = stored_pull(bench)
    (held,) = entry.readings
    assert (held.takes, held.value) == (Takes.HELD, 30.0)
    level = 0.2 * reference(bench, entry)
    seconds = np.count_nonzero(load > 0.95 * level) * np.median(np.diff(trace.time_s))
    assert seconds >= 29.0


@pytest.mark.parametrize(
    "method",
    [
        ("cord on rope", "prusik", {"lot": "H4-W", "wraps": 2}),
        ("slide test", "taut-line-hitch", {"lot": "H4-W", "most": 0.2}),
    ],
    ids=lambda m: m[0],
)
def test_a_slide_test_reads_the_load_at_which_it_slid(bench, method):
    bench.arm()
    bench.run()
    # Once it slid the travel stops; to take the load off the control is held again, or Slack is.
    bench.wait(lambda: over(bench) or bench.driver.run.state is RunState.PAUSED)
    bench.let_go()
    if bench.driver.run is not None:
        if bench.window.pull.live.load_is_on:
            bench.slack_off()
        bench.end()
    entry, _, load = stored_pull(bench)
    slid = next(r for r in entry.readings if r.takes is Takes.SLID)
    most = entry.specimen.method.value("most") * reference(bench, entry)
    assert slid.load_n <= 1.02 * most
    assert load.max() >= 0.95 * slid.load_n
    assert entry.specimen.layout.lengths[-1].moves


@pytest.mark.parametrize("method", [("advantage test", "truckers-hitch", {})])
def test_an_advantage_test_takes_its_two_loads(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: over(bench))
    bench.let_go()
    bench.slack_off()
    bench.end()
    entry, _, _ = stored_pull(bench)
    two, kept = entry.readings
    assert (two.takes, kept.takes) == (Takes.TWO_LOADS, Takes.KEPT)
    real = entry.pull.remains["truth"]["advantage_real"]
    assert two.load_n / two.value == pytest.approx(real, rel=0.06)


@pytest.mark.parametrize(
    "method", [("release test", "slipped-half-hitch", {"count": 2, "level": 0.1})]
)
def test_a_release_test_asks_what_the_tail_took(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: over(bench))
    if bench.driver.run is not None:
        assert "Load on" in bench.words("pull.words")
        assert "Simulated: the tail takes" in bench.words("pull.ask.felt")
        line = bench.window.findChild(QLineEdit, "pull.ask.load")
        bench.qtbot.keyClicks(line, "some")
        bench.click("pull.ask.keep")
        assert "no number" in bench.words("pull.ask.load.wrong")
        line.clear()
        bench.qtbot.keyClicks(line, "0.12 kN")
        bench.click("pull.ask.keep")
        bench.slack_off()
        bench.end()
    entry, _, _ = stored_pull(bench)
    released = [r.value for r in entry.readings if r.takes is Takes.RELEASE]
    assert released in ([], [pytest.approx(120.0)])
    assert sum(r.takes is Takes.SHAKE for r in entry.readings) == 2


@pytest.mark.parametrize("speed", [6.0])
@pytest.mark.parametrize("method", [("cycles", "zeppelin-bend", {"count": 40, "high": 0.2})])
def test_a_latched_run_stops_at_escape_and_needs_the_lane_looked_at_again(bench):
    bench.arm()
    bench.run()
    bench.wait(lambda: bench.window.pull.live.load_n > 200)
    bench.qtbot.keyClick(bench.window, Qt.Key.Key_Escape)
    assert not bench.driver.armed
    assert bench.driver.run.state is RunState.PAUSED
    assert "load is still on" in bench.words("pull.words")
    assert not bench.window.findChild(QCheckBox, "pull.lane").isChecked()
    assert not bench.button("pull.arm").isEnabled()
    count = bench.driver.session.recorder.count
    bench.slack_off()
    bench.end()
    entry, trace, _ = stored_pull(bench)
    assert entry.pull.end is PullEnd.STOPPED
    assert len(trace.load_n) >= count


@pytest.mark.parametrize("speed", [6.0])
@pytest.mark.parametrize("how", ["focus", "station"])
@pytest.mark.parametrize("method", [("cycles", "zeppelin-bend", {"count": 40, "high": 0.2})])
def test_a_latched_run_stops_when_nobody_looks(bench, how):
    bench.arm()
    bench.run()
    bench.wait(lambda: bench.window.pull.live.load_n > 200)
    if how == "focus":
        QApplication.sendEvent(bench.window, QEvent(QEvent.Type.WindowDeactivate))
    else:
        bench.window.go_to("results")
    assert bench.driver.run.state is RunState.PAUSED
    assert bench.driver.session.phase is Phase.HELD
    travel = bench.window.pull.live.travel_m
    bench.qtbot.wait(150)
    assert bench.window.pull.live.travel_m == pytest.approx(travel, abs=1e-3)


@pytest.mark.parametrize(
    "bench_for", [lambda specimen: bench_with(specimen, speed=6.0, watchdog_s=0.7)]
)
@pytest.mark.parametrize("method", [("cycles", "zeppelin-bend", {"count": 40, "high": 0.2})])
def test_a_frozen_window_stops_a_latched_run(bench):
    """Without keep-alives from the window's own timer the bench stops by itself."""
    bench.arm()
    bench.run()
    bench.wait(lambda: bench.window.pull.live.load_n > 200)
    bench.driver._alive.stop()
    bench.wait(lambda: bench.driver.session.phase is Phase.HELD)
    bench.wait(lambda: bench.driver.run.state is RunState.PAUSED)
    said = bench.words("pull.words")
    assert "did not answer" in said or "went silent" in said


@pytest.mark.parametrize("speed", [6.0])
@pytest.mark.parametrize(
    ("name", "value", "words"),
    [("_LOAD_SHARE", 0.03, "load limit"), ("_STROKE_SHARE", 0.05, "travel limit")],
)
def test_a_limit_stops_the_pull_and_the_samples_are_kept(bench, monkeypatch, name, value, words):
    monkeypatch.setattr(f"bruiser.ui.stations.pull.driver.{name}", value)
    bench.arm()
    bench.run()
    bench.wait(lambda: bench.window.pull.live.limit is not None)
    bench.let_go()
    assert words in bench.words("pull.words")
    assert not bench.driver.armed
    assert not bench.window.findChild(QCheckBox, "pull.lane").isChecked()
    count = bench.driver.session.recorder.count
    bench.slack_off()
    bench.end()
    entry, trace, _ = stored_pull(bench)
    assert entry.pull.end in (PullEnd.LOAD_LIMIT, PullEnd.TRAVEL_LIMIT)
    assert len(trace.load_n) >= count


@pytest.mark.parametrize("method", [("cycles", "zeppelin-bend", {"count": 4, "high": 0.2})])
def test_a_second_press_too_late_does_not_start(bench, monkeypatch):
    monkeypatch.setattr("bruiser.ui.stations.pull.driver.CONFIRM_S", 0.05)
    bench.arm()
    run = bench.button("pull.run")
    bench.qtbot.mouseClick(run, Qt.MouseButton.LeftButton)
    bench.qtbot.wait(120)
    bench.qtbot.mouseClick(run, Qt.MouseButton.LeftButton)
    assert bench.driver.run.state is RunState.READY
    assert bench.driver.session.pull_id is None
