"""Faults of the bench, the disk and the program itself, in the middle of a pull."""

import sys
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QPushButton

from bruiser.app import keeping
from bruiser.app.keeping import KeepAnswer
from bruiser.core.errors import LinkLost
from bruiser.formats.trace_file import read_trace_file
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.sensor import Faults
from bruiser.ui.stations.pull import bench_at_hand
from bruiser.workshop.bench.instruments import InstrumentKind
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.simulation import inject_fault
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.bench_entry import PutBench
from tests.journeys.conftest import child
from tests.journeys.test_first_pull import arm, click, hold_until


@pytest.fixture
def speed():
    return 4.0


@pytest.fixture
def told(monkeypatch):
    """What goes to the hook for bugs."""
    found = []
    monkeypatch.setattr(sys, "excepthook", lambda _kind, error, _trace: found.append(error))
    return found


def loaded(qtbot, window, load_n=900.0):
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > load_n)
    return run


def travel_since(session, fault_at):
    """Seconds of samples in which the crosshead still moved after a fault."""
    travel = session.recorder.recorded().travel_m
    moved = np.flatnonzero(np.abs(np.diff(travel)) > 0)
    return (moved[-1] - fault_at) / session.instrument_info.sample_rate_hz


@pytest.mark.parametrize("speed", [1.0])
def test_a_cell_that_reads_nothing_stops_the_travel_and_its_number_goes_blank(qtbot, window):
    loaded(qtbot, window, 500.0)
    session = window.pull.session
    bench = session.instrument
    at = bench.samples + 50
    bench.sensor.faults = Faults(
        disconnect_s=at / bench.info.sample_rate_hz, disconnect_reads="nothing"
    )
    qtbot.waitUntil(lambda: session.phase is Phase.HELD, timeout=10_000)
    assert not session.armed
    assert travel_since(session, at) < 0.3
    qtbot.waitUntil(lambda: window.pull.readings().load == "–")
    words = window.pull.controls().words
    assert "load cell reads nothing" in words
    assert "may still be on" in words
    assert bench.specimen.gave is None
    click(qtbot, window, "pull.end")
    assert read_logbook(window.workshop).next_to_inspect().pull.samples_lost == 0


@pytest.mark.parametrize("seed", range(6))
def test_wild_readings_never_end_a_pull_with_the_load_on(qtbot, window, seed):
    run = loaded(qtbot, window, 600.0)
    session = window.pull.session
    session.instrument.sensor.rng = np.random.default_rng(seed)
    inject_fault(session.instrument, "spikes")
    reached = session.poll().samples + 2_000
    hold_until(
        qtbot,
        window,
        run,
        lambda: session.poll().samples > reached or session.phase is Phase.GAVE,
    )
    load = session.recorder.recorded().load_n
    assert np.abs(np.diff(load)).max() > 2_000
    if session.instrument.specimen.gave is None:
        assert session.phase is not Phase.GAVE
        assert window.pull.live.highest_n < 1.3 * session.instrument.specimen.load_n + 200


def test_a_saver_that_dies_is_on_the_screen_and_its_samples_are_stored_again(
    qtbot, window, monkeypatch, told
):
    run = loaded(qtbot, window)
    session = window.pull.session
    take = session._recorder._sink

    def die(_):
        raise ZeroDivisionError("nobody expected this")

    session._recorder._sink = die
    again = child(window, QPushButton, "pull.again")
    qtbot.waitUntil(again.isVisible)
    assert not session.armed
    qtbot.waitUntil(lambda: "ZeroDivisionError" in window.pull.controls().words, timeout=500)
    assert [type(e) for e in told] == [ZeroDivisionError]
    assert window.pull.unsaved > 0
    session._recorder._sink = take
    click(qtbot, window, "pull.again")
    assert (window.pull.unsaved, window.pull.live.fault) == (0, "")
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    load = session.recorder.recorded().load_n
    pull_id = session.pull_id
    window.pull.abandon()
    entry = read_logbook(window.workshop).by_pull[pull_id]
    stored = read_trace(window.workshop, entry.pull).load_n
    np.testing.assert_allclose(stored[: len(load)], load, atol=1e-3)


def test_a_first_write_that_fails_loses_none_of_what_was_held_back(qtbot, window, file_size_limit):
    run = arm(qtbot, window)
    session = window.pull.session
    qtbot.waitUntil(lambda: session.recorder.count > 1_000)
    file_size_limit(4_096)
    qtbot.keyPress(run, Qt.Key.Key_Space)
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    assert session.pull_id is None
    assert "disk" in window.notice.words
    file_size_limit(None)
    for name in ("pull.lane", "pull.eyes"):
        child(window, type(window.pages["pull"].bench.lane), name).setChecked(True)
    click(qtbot, window, "pull.arm")
    qtbot.waitUntil(run.isEnabled)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > 900)
    pull_id = session.pull_id
    window.pull.abandon()
    load = session.recorder.recorded().load_n
    entry = read_logbook(window.workshop).by_pull[pull_id]
    stored = read_trace(window.workshop, entry.pull).load_n
    assert (len(stored), entry.pull.samples_lost) == (len(load), 0)
    np.testing.assert_allclose(stored, load, atol=1e-3)


def test_nothing_closes_over_what_is_not_stored(
    qtbot, window, monkeypatch, file_size_limit, tmp_path
):
    loaded(qtbot, window)
    session = window.pull.session
    file_size_limit(4_096)
    qtbot.waitUntil(lambda: window.pull.unsaved > 0, timeout=10_000)
    asked = []

    def ask(_parent, _title, text, answers):
        asked.append((text, answers))
        file_size_limit(None if len(asked) == 2 else 4_096)
        return KeepAnswer.STAY if len(asked) == 1 else KeepAnswer.SAMPLES

    monkeypatch.setattr(keeping, "ask", ask)
    assert not window.close()
    assert window.isVisible()
    assert "in memory only" in asked[0][0]
    out = tmp_path / "kept.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    assert window.close()
    load = session.recorder.recorded().load_n
    kept = read_trace_file(out.read_text(encoding="utf-8")).trace
    np.testing.assert_allclose(kept.load_n, load, atol=0.01)


def test_a_line_that_vanishes_while_the_control_is_let_go_is_said_and_not_raised(
    qtbot, window, monkeypatch
):
    run = loaded(qtbot, window)

    def gone(_self):
        raise LinkLost("The line to the bench is gone.", "Look at the plug.")

    monkeypatch.setattr(SimulatedBench, "hold", gone)
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    assert "line to the bench is gone" in window.notice.words
    assert window.pull.session.phase is Phase.HELD


def test_a_file_that_is_moved_is_noticed_and_the_campaign_goes_on_under_a_new_name(
    qtbot, window, monkeypatch, tmp_path
):
    path = window.workshop.file.path
    path.rename(tmp_path / "moved.bruiser")
    rescue = child(window, QPushButton, "window.rescue")
    qtbot.waitUntil(rescue.isVisible)
    assert "was moved" in window.notice.words
    target = tmp_path / "rescued"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    click(qtbot, window, "window.rescue")
    assert "Saved as rescued.bruiser" in window.notice.words
    loaded(qtbot, window)
    pull_id = window.pull.session.pull_id
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    assert window.close()
    again = open_workshop(target.with_suffix(".bruiser"))
    assert read_logbook(again).by_pull[pull_id].stage is Stage.PULLED
    again.close()


def test_a_deleted_file_is_not_closed_over(qtbot, window, monkeypatch, tmp_path):
    window.workshop.file.path.unlink()
    answers = [KeepAnswer.STAY, KeepAnswer.CAMPAIGN]
    monkeypatch.setattr(keeping, "ask", lambda *_: answers.pop(0))
    target = tmp_path / "kept.bruiser"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    assert not window.close()
    assert window.close()
    again = open_workshop(target)
    assert read_logbook(again).entries
    again.close()


def test_what_is_stored_and_cannot_be_shown_is_said_and_can_be_undone(
    qtbot, window, monkeypatch, told
):
    def broken(*_):
        raise ZeroDivisionError("odd")

    lots = len(window.logbook.lots_in_use)
    window.go_to("cordage")
    with monkeypatch.context() as patch:
        patch.setattr("bruiser.app.window.read_logbook", broken)
        window.cordage.archive()
    assert "It is stored" in window.notice.words
    assert [type(e) for e in told] == [ZeroDivisionError]
    assert len(read_logbook(window.workshop).lots_in_use) == lots - 1
    click(qtbot, window, "window.undo")
    assert len(read_logbook(window.workshop).lots_in_use) == lots


def test_a_pull_goes_at_the_rate_of_the_bench_book(qtbot, window):
    (bench,) = [b for b in window.logbook.bench_book.benches if b.name == "simulated bench"]
    slow = replace(bench, rate_m_s=0.004, capacity_n=11_000.0)
    window.workshop.do(PutBench(slow))
    assert "4 mm/s" in window.pull.method_words()
    loaded(qtbot, window, 400.0)
    session = window.pull.session
    pull_id = session.pull_id
    assert session._limits.load_n == pytest.approx(0.95 * 11_000.0)
    window.pull.abandon()
    entry = read_logbook(window.workshop).by_pull[pull_id]
    trace = read_trace(window.workshop, entry.pull)
    moving = np.flatnonzero(np.diff(trace.travel_m) > 0)
    applied = np.ptp(trace.travel_m) / ((moving[-1] - moving[0] + 1) / entry.pull.sample_rate_hz)
    assert entry.pull.rate_m_s == 0.004
    assert applied == pytest.approx(0.004, rel=0.1)


def test_a_bench_that_cannot_be_opened_leaves_nothing_open_and_says_its_own_reason(
    qtbot, window, monkeypatch
):
    closed = []
    opened = window.pull.bench._bench_for

    def foreign(specimen):
        bench = opened(specimen)
        bench.info = replace(bench.info, name="a bench nobody wrote down")
        monkeypatch.setattr(bench, "close", lambda: closed.append(bench))
        return bench

    monkeypatch.setattr(window.pull.bench, "_bench_for", foreign)
    monkeypatch.setattr(
        window.pull.instrument,
        "choice",
        replace(window.pull.instrument.choice, kind=InstrumentKind.CONTROLLED, path="/dev/x"),
    )
    monkeypatch.setattr(
        bench_at_hand, "open_instrument", lambda _choice, specimen, _make: foreign(specimen)
    )
    window.pull.confirm_lane(True)
    window.pull.arm()
    assert "does not know" in window.notice.words
    assert "baseline" not in window.notice.words
    assert (len(closed), window.pull.session) == (1, None)


def test_the_load_shown_is_never_above_the_highest(qtbot, window):
    seen = []
    window.pull.driver.moved.connect(lambda: seen.append(window.pull.live))
    loaded(qtbot, window, 1_500.0)
    pairs = [(s.load_n, s.highest_n) for s in seen if s is not None and s.highest_n > 0]
    assert len(pairs) > 10
    assert all(load <= highest for load, highest in pairs)
