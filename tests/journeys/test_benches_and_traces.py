"""A bench on a serial line, a known load, faults to train with, and a trace looked into."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QPushButton

from bruiser.core.trace import TraceEnd
from bruiser.rig import recorder
from bruiser.rig.serial import bench as serial_bench
from bruiser.ui.kit.trace_bench import TraceBench
from bruiser.ui.stations.pull.instrument import InstrumentDialog
from bruiser.workshop.bench.instruments import InstrumentKind
from bruiser.workshop.bench.simulation import serve_bench
from bruiser.workshop.logbook.entries import Stage


@pytest.fixture
def device(monkeypatch):
    """A bench on a line, and patience on both ends of it.

    With every core at work the window, or the line, is easily held for longer than the second after
    which bench and recorder stop the travel; that they do is shown in tests/rig.
    """
    monkeypatch.setattr(recorder, "NOTHING_S", 60.0)
    monkeypatch.setattr(serial_bench, "SILENCE_S", 60.0)
    monkeypatch.setattr(serial_bench, "WINDOW_S", 60.0)
    made = serve_bench(
        "polyester double braid", "figure-eight-loop", 8.0, 200.0, seed=9, watchdog_s=60.0
    )
    made.bench.set_rate(0.05)
    made.start()
    yield made
    made.unplug()


def in_dialog(hands, kind):
    found = hands.window.findChild(kind)
    assert found is not None
    return found


def test_a_bench_on_a_line_is_chosen_heard_checked_and_pulled(hands, device):
    hands.go("pull")
    hands.click("pull.instrument")
    dialog = in_dialog(hands, InstrumentDialog)
    dialog.form.fields["kind"].pick("controlled")
    dialog.form.fields["rate"].fill("2000")
    dialog.form.fields["path"].fill(device.path)
    assert "bears 250 samples a second" in dialog.bears.words
    dialog.use.click()
    assert "bears 250" in dialog.form.fields["rate"].complaint
    dialog.form.fields["rate"].fill("200")
    device._streaming = True
    dialog.listen.click()
    hands.settle()
    assert "lines understood at 115200 baud" in dialog.heard_words.words
    assert dialog.heard.rowCount() > 3
    assert dialog.heard.item(0, 1).text().endswith("kN, a bench's own line")
    dialog.known.fill("250 N")
    dialog.reads.fill("25 N")
    dialog.check.click()
    assert "decimal mark is wrong" in dialog.reads.complaint
    dialog.reads.fill("252 N")
    dialog.check.click()
    assert "off by +0.8 %" in dialog.checked.words
    (check,) = hands.window.logbook.bench_book.checks
    assert (check.known_n, check.read_n) == (250.0, 252.0)
    dialog.use.click()
    pull = hands.window.pull
    assert pull.instrument.choice.kind is InstrumentKind.CONTROLLED
    assert device.path in hands.words("pull.bench")

    for name in ("pull.lane", "pull.eyes"):
        hands.find(QCheckBox, name).setChecked(True)
    hands.click("pull.arm")
    run = hands.find(QPushButton, "pull.run")
    hands.qtbot.waitUntil(run.isEnabled)
    hands.qtbot.mousePress(run, Qt.MouseButton.LeftButton)
    hands.qtbot.waitUntil(lambda: pull.live is not None and pull.live.load_n > 800)
    hands.qtbot.mouseRelease(run, Qt.MouseButton.LeftButton)
    hands.qtbot.wait(300)
    assert "load is still on" in hands.words("pull.words")
    code = pull.entry.specimen.code
    device.unplug()
    elsewhere = hands.find(QPushButton, "pull.elsewhere")
    hands.qtbot.waitUntil(lambda: elsewhere.isVisible())
    kept = pull.session.recorder.count
    hands.click("pull.end")
    entry = next(e for e in hands.window.logbook.entries if e.specimen.code == code)
    assert entry.stage is Stage.PULLED
    assert entry.pull.end.value == "link_lost"
    assert kept > 100


def test_samples_can_be_saved_elsewhere_and_faults_are_put_in(hands, tmp_path):
    pull = hands.window.pull
    hands.go("pull")
    for name in ("pull.lane", "pull.eyes"):
        hands.find(QCheckBox, name).setChecked(True)
    hands.click("pull.arm")
    hands.click("pull.instrument")
    dialog = in_dialog(hands, InstrumentDialog)
    assert dialog.faults["hum"].isEnabled()
    for key in ("spikes", "hum", "drift", "gap", "stuck", "disconnect", "clip", "none"):
        dialog.faults[key].click()
    dialog.faults["gap"].click()
    faults = pull.session.instrument.sensor.faults
    assert faults.dropouts
    dialog.reject()
    target = tmp_path / "saved.csv"
    hands.qtbot.waitUntil(lambda: pull.session.recorder.count > 100)
    pull.save_elsewhere(target)
    lines = target.read_text(encoding="utf-8").splitlines()
    assert lines[0] == "time_s,load_N,travel_mm,load2_N,tail_mm"
    assert len(lines) > 100
    pull.stop()


def test_a_trace_is_looked_into_read_anew_and_kept(hands):
    hands.go("results")
    logbook = hands.window.logbook
    entry = next(
        e for e in logbook.at(Stage.INSPECTED)
        if e.analysis is not None and e.analysis.end is TraceEnd.BROKE and e.specimen.knot_a
        and len(logbook.siblings(e.specimen)) > 2
    )  # fmt: skip
    hands.window.look_into(entry.pull.id)
    bench = in_dialog(hands, TraceBench)
    desk = bench._desk
    assert "It broke at" in bench.summary.words
    assert not bench.keep.isEnabled()
    bench.plot.point_at(entry.analysis.peak_index)
    assert f"sample {entry.analysis.peak_index}:" in bench.readout.words
    whole = len(bench.plot.drawn()[0])
    bench.plot.zoom_to(*np.quantile(desk.curve()[0], [0.4, 0.6]))
    first, after = bench.plot.seen()
    assert 0 < first < after < len(desk.trace.load_n)
    assert len(bench.plot.drawn()[0]) != whole
    bench.against.pick("time")
    assert desk.axis()[0] == "time (s)"
    bench.others.list.item(0).setCheckState(Qt.CheckState.Checked)
    assert len(desk.beside_curves()) == 1
    for name, text, wrong in (("slip", "0", "above zero"), ("onset", "x", ""), ("slip", "5", "")):
        field = bench.form.fields[name]
        field.fill(text)
        bench._on_typed()
        if wrong:
            assert wrong in field.complaint
    bench.form.fields["onset"].fill("9 mm")
    bench.form.fields["mean"].fill("20")
    bench._on_typed()
    assert desk.settings.onset_m == pytest.approx(0.009)
    assert bench.keep.isEnabled()
    bench.keep.click()
    hands.settle()
    now = hands.window.logbook.by_pull[entry.pull.id].analysis
    assert now == desk.result
    assert now.stiffness_n_per_m != entry.analysis.stiffness_n_per_m
    assert "2 readings on file" in bench.kept.words
    hands.window.undo()
    assert hands.window.logbook.by_pull[entry.pull.id].analysis == entry.analysis
    bench.close_it.click()
    assert isinstance(bench.findChild(QLineEdit), QLineEdit)
