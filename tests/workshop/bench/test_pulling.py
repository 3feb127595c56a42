import signal
import subprocess
import sys
import time

import numpy as np
import pytest

from bruiser.app.demo_pulls import pull_specimen
from bruiser.core.errors import Full, ReadOnly
from bruiser.core.records.records import PullEnd
from bruiser.rig.simulated.bench import WATCHDOG_S
from bruiser.store import pulls
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import open_workshop


def session_for(workshop, speed=20.0, **more):
    specimen = read_logbook(workshop).next_to_pull().specimen
    bench = bench_with(specimen, speed=speed, **{"watchdog_s": 60.0, **more})
    return PullSession(workshop, specimen, bench, TRAVEL_RATE_M_S)


def hold(session, until, direction="pull"):
    while not session.zero_taken:
        time.sleep(0.005)
    assert session.pull() if direction == "pull" else session.slack()
    end = time.monotonic() + 20
    while not until(session.poll()):
        session.keep_alive()
        time.sleep(0.005)
        assert time.monotonic() < end


def test_a_pull_is_recorded_analysed_and_waits_for_its_findings(workshop):
    session = session_for(workshop)
    session.arm()
    hold(session, lambda live: live.phase is Phase.GAVE)
    trace = session.recorder.recorded()
    load, travel = trace.load_n, trace.travel_m
    session.finish(PullEnd.GAVE)
    entry = read_logbook(workshop).next_to_inspect()
    assert entry.specimen == session.specimen
    assert entry.pull.end is PullEnd.GAVE
    assert entry.pull.remains["gave"] in ("broke", "came_out", "capsized")
    trace = read_trace(workshop, entry.pull)
    np.testing.assert_allclose(trace.load_n[: len(load)], load, atol=1e-3)
    np.testing.assert_allclose(trace.travel_m[: len(travel)], travel, atol=1e-6)
    assert entry.analysis.peak_n == pytest.approx(session.poll().highest_n, rel=0.01)


def test_letting_go_stops_travel_with_the_load_on_and_slacking_takes_it_off(workshop):
    session = session_for(workshop)
    session.arm()
    hold(session, lambda live: live.highest_n > 2_000)
    session.release()
    live = session.poll()
    assert (live.phase, live.load_is_on, session.may_end) == (Phase.HELD, True, False)
    before = session.poll().travel_m
    time.sleep(0.1)
    assert session.poll().travel_m == pytest.approx(before, abs=1e-3)
    hold(session, lambda live: not live.load_is_on, "slack")
    session.release()
    assert session.may_end
    session.finish(PullEnd.STOPPED)
    assert read_logbook(workshop).next_to_inspect().pull.end is PullEnd.STOPPED


def test_stop_disarms_and_motion_needs_arming_again(workshop):
    session = session_for(workshop)
    session.arm()
    hold(session, lambda live: live.highest_n > 1_000)
    session.stop()
    assert not session.armed
    assert session.phase is Phase.HELD
    assert not session.pull()
    session.arm()
    assert session.pull()
    session.leave()
    assert read_logbook(workshop).next_to_inspect() is not None


def test_a_control_gone_silent_stops_the_bench(workshop):
    session = session_for(workshop, speed=1.0, watchdog_s=WATCHDOG_S)
    session.arm()
    while not session.zero_taken:
        time.sleep(0.01)
    session.pull()
    time.sleep(0.9)
    live = session.poll()
    assert live.phase is Phase.HELD
    assert "did not answer" in live.fault
    assert not session.armed
    session.leave()


def test_a_load_limit_ends_as_stopped_not_as_a_break(workshop):
    specimen = read_logbook(workshop).next_to_pull().specimen
    pull_id, remains = pull_specimen(workshop, specimen, "TV", 4_000.0)
    entry = read_logbook(workshop).by_pull[pull_id]
    assert (entry.pull.end, entry.analysis.end.value, remains.gave) == (
        PullEnd.LOAD_LIMIT,
        "stopped",
        "stopped",
    )


def test_a_full_disk_keeps_the_samples_until_they_can_be_stored(workshop, monkeypatch):
    session = session_for(workshop)
    session.arm()
    hold(session, lambda live: live.highest_n > 500)
    stored = pulls.append_samples

    def refuse(*_):
        raise Full("The disk is full.")

    monkeypatch.setattr(pulls, "append_samples", refuse)
    while not session.poll().fault:
        session.keep_alive()
        time.sleep(0.01)
    assert not session.armed
    with pytest.raises(Full):
        session.finish(PullEnd.STOPPED)
    load = session.recorder.recorded().load_n
    monkeypatch.setattr(pulls, "append_samples", stored)
    session.finish(PullEnd.STOPPED)
    entry = read_logbook(workshop).next_to_inspect()
    np.testing.assert_allclose(read_trace(workshop, entry.pull).load_n, load, atol=1e-3)


def test_leaving_without_travel_stores_nothing(workshop):
    session = session_for(workshop)
    session.arm()
    time.sleep(0.1)
    session.leave()
    assert not read_logbook(workshop).at(Stage.PULLED)


def test_a_read_only_campaign_cannot_be_pulled_into(workshop):
    second = open_workshop(workshop.file.path)
    session = session_for(second)
    session.arm()
    while not session.zero_taken:
        time.sleep(0.005)
    with pytest.raises(ReadOnly):
        session.pull()
    session.leave()
    assert close_interrupted_pulls(second) == ()
    second.close()


KILLED = """
import sys, time
from pathlib import Path
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.logbook.workshop import open_workshop

workshop = open_workshop(Path(sys.argv[1]))
specimen = read_logbook(workshop).next_to_pull().specimen
session = PullSession(workshop, specimen, bench_with(specimen), TRAVEL_RATE_M_S)
session.arm()
while not session.zero_taken:
    time.sleep(0.01)
session.pull()
print("pull", session.pull_id, flush=True)
while True:
    session.keep_alive()
    print(session.recorder.count, flush=True)
    time.sleep(0.01)
"""


@pytest.mark.long
def test_killing_the_program_loses_no_more_than_a_quarter_second(usual_file):
    child = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(usual_file)], stdout=subprocess.PIPE, text=True
    )
    pull_id = child.stdout.readline().split()[1]
    taken, began = 0, time.monotonic()
    while time.monotonic() - began < 2.5:
        taken = int(child.stdout.readline())
    child.send_signal(signal.SIGKILL)
    rest = child.stdout.read().split()
    taken = max([taken, *(int(n) for n in rest[:-1])])
    child.wait()
    child.stdout.close()
    assert taken > 900
    again = open_workshop(usual_file)
    with again.file.reading() as connection:
        load = pulls.load_samples(connection, pull_id).load_n
    assert len(load) >= taken - 125
    assert close_interrupted_pulls(again) == (pull_id,)
    entry = read_logbook(again).by_pull[pull_id]
    assert (entry.stage, entry.pull.end) == (Stage.PULLED, PullEnd.INTERRUPTED)
    assert len(read_trace(again, entry.pull).load_n) == len(load)
    again.close()
