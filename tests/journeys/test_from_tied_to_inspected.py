"""A specimen prepared, pulled with the keyboard alone, inspected, corrected; and odd ways there."""

import io

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QLineEdit, QPushButton, QWidget

from bruiser.core.records.layouts import LAYOUTS, End
from bruiser.core.records.preparation import PrepStep, TyingVerdict
from bruiser.core.records.records import Gave
from bruiser.core.trace import trace_of
from bruiser.formats.trace_file import write_trace_file
from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.findings.photos import PhotoRule, RuledPhoto
from bruiser.ui.stations.pull.inspector import InspectorDialog
from bruiser.workshop.bench.instruments import InstrumentChoice, InstrumentKind
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from tests.journeys.conftest import child, press
from tests.specimens import specimen_for, stored


def pull_by_keys(qtbot, window):
    """Tab and Space only, as a foot pedal types them."""
    assert window.focusWidget() is child(window, QCheckBox, "pull.lane")
    press(qtbot, window, Qt.Key.Key_Space)
    press(qtbot, window, Qt.Key.Key_Tab)
    press(qtbot, window, Qt.Key.Key_Space)
    for _ in range(6):
        if window.focusWidget() is child(window, QPushButton, "pull.arm"):
            break
        press(qtbot, window, Qt.Key.Key_Tab)
    press(qtbot, window, Qt.Key.Key_Space)
    run = child(window, QPushButton, "pull.run")
    qtbot.waitUntil(lambda: run.isEnabled() and run.hasFocus(), timeout=10_000)
    qtbot.keyPress(run, Qt.Key.Key_Space)

    def over():
        if window.station == "findings":
            return True
        session = window.pull.session
        if session is not None and session.phase == "held":
            qtbot.keyRelease(run, Qt.Key.Key_Space)
            qtbot.keyPress(run, Qt.Key.Key_Space)
        return False

    qtbot.waitUntil(over, timeout=30_000)


LEVEL_KEYS = {"shaken": "S", "hand": "H", "worked": "W", "tool": "T", "cut": "C", "fused": "F"}


def test_an_uneventful_pull_is_stored_in_at_most_six_keystrokes(qtbot, window):
    window.go_to("pull")
    code = window.pull.entry.specimen.code
    pull_by_keys(qtbot, window)
    entry = window.findings.entry
    remains = entry.pull.remains
    places = [p.key for p in entry.specimen.layout.places]
    keys = [str(places.index(remains["place"]) + 1)]
    keys.append({"broke": "B", "came_out": "O", "capsized": "P"}[remains["gave"]])
    keys.append("M")
    keys += [LEVEL_KEYS[k["jam_level"]] for k in remains["knots"] if k["jam_level"] != "not_tried"]
    for key in keys:
        press(qtbot, window, Qt.Key(ord(key)))
    qtbot.keyClick(window.focusWidget(), Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert len(keys) + 1 <= 6
    assert window.station == "pull"
    assert window.pull.entry.specimen.code != code
    found = read_logbook(window.workshop).by_pull[entry.pull.id].finding
    assert found.place == remains["place"]
    assert all(d.draw_m == 0 for d in found.draws)
    assert not child(window, QCheckBox, "pull.lane").isChecked()
    assert not child(window, QCheckBox, "pull.eyes").isChecked()


def test_a_specimen_is_prepared_timed_and_shown_to_an_inspector(qtbot, window):
    window.go_to("pull")
    page = window.pages["pull"]
    page.panels.pick("prepare")
    panel = page.prepare
    entry = window.pull.entry
    assert "RIGHT WHEN" in panel.sheet.words
    assert f"{1000 * 12 * entry.specimen.lot.diameter_m:.0f} mm" in panel.sheet.words
    item = panel.points.list.item(0)
    assert item.checkState() is Qt.CheckState.Unchecked
    item.setCheckState(Qt.CheckState.Checked)
    qtbot.keyClicks(panel.lengths[0].entry, "104 mm")
    qtbot.mouseClick(panel.tied, Qt.MouseButton.LeftButton)
    assert "initials" in panel.by.complaint
    qtbot.keyClicks(panel.by.entry, "TV")
    qtbot.mouseClick(panel.tied, Qt.MouseButton.LeftButton)
    assert window.pull.entry.sheet.ticked == (item.text(),)
    assert "not done" in panel.state.words
    qtbot.keyClicks(panel.checker.entry, "TV")
    qtbot.mouseClick(panel.check, Qt.MouseButton.LeftButton)
    assert "second person" in window.notice.words
    panel.checker.fill("OQ")
    qtbot.mouseClick(panel.check, Qt.MouseButton.LeftButton)
    assert window.pull.entry.steps[PrepStep.CHECKED].by == "OQ"
    qtbot.mouseClick(panel.watch, Qt.MouseButton.LeftButton)
    assert panel.watch.text().startswith("Stop")
    qtbot.wait(60)
    qtbot.mouseClick(panel.watch, Qt.MouseButton.LeftButton)
    panel.trial.fields["attempts"].fill("1")
    qtbot.mouseClick(panel.ask, Qt.MouseButton.LeftButton)
    dialog = window.findChild(InspectorDialog)
    shown = " ".join(w.words for w in dialog.findChildren(Words))
    assert entry.specimen.knot_a.name not in shown
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    assert dialog.form.fields["inspector"].complaint
    dialog.form.fill({"inspector": "OQ", "verdict": TyingVerdict.RIGHT.value})
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(panel.keep_trial, Qt.MouseButton.LeftButton)
    trial = window.pull.entry.steps[PrepStep.TRIAL].trial
    assert (trial.attempts, trial.inspector, trial.verdict) == (1, "OQ", TyingVerdict.RIGHT)
    assert 0 < trial.seconds < 30
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert PrepStep.TRIAL not in window.pull.entry.steps
    other = panel.queue.model().rows[2][0]
    panel.queue.selectRow(2)
    assert window.pull.entry.specimen.id == other
    assert panel.points.keys == ()
    panel.same.click()
    assert (panel.by.text, panel.checker.text) == ("TV", "OQ")


def pulled(qtbot, window):
    window.go_to("pull")
    window.pull.confirm_lane(True)
    window.pull.instrument.choice = InstrumentChoice(kind=InstrumentKind.BY_HAND)
    window.pull.arm()
    assert window.station == "findings"


def test_a_hand_scales_peak_is_typed(qtbot, window):
    pulled(qtbot, window)
    page = window.pages["findings"]
    assert "Type the highest load" in page.opinion.words
    qtbot.keyClicks(page.strip, "5BM")
    qtbot.keyClicks(page.strip, "NN")
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    assert "No peak" in page.peak.complaint
    qtbot.keyClicks(page.peak.entry, "6.1 kN")
    pull_id = window.findings.entry.pull.id
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    found = read_logbook(window.workshop).by_pull[pull_id].finding
    assert found.peak_load_n == pytest.approx(6_100.0)
    assert found.place == "span"


def test_a_loggers_file_becomes_the_pull(qtbot, window, tmp_path, monkeypatch):
    done = next(e for e in window.logbook.at(Stage.INSPECTED) if e.analysis is not None)
    trace = read_trace(window.workshop, done.pull)
    path = tmp_path / "log.csv"
    path.write_text(write_trace_file(trace))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    window.pull.instrument.choice = InstrumentChoice(kind=InstrumentKind.LOGGER)
    window.go_to("pull")
    bench = window.pages["pull"].bench
    for box in (bench.lane, bench.eyes):
        box.setChecked(True)
    assert "logger" in bench.arm.text()
    qtbot.mouseClick(bench.arm, Qt.MouseButton.LeftButton)
    assert window.station == "findings"
    assert window.findings.entry.analysis.peak_n == pytest.approx(done.analysis.peak_n, rel=1e-3)
    path.write_text("nothing\n")
    window.go_to("pull")
    for box in (bench.lane, bench.eyes):
        box.setChecked(True)
    qtbot.mouseClick(bench.arm, Qt.MouseButton.LeftButton)
    assert "no block of numbers" in window.notice.words


def test_a_contradiction_is_resolved_or_kept_with_a_reason(qtbot, window):
    window.go_to("pull")
    pull_by_keys(qtbot, window)
    page = window.pages["findings"]
    qtbot.keyClicks(page.strip, "0MNN")
    assert "Look again" in page.against.words
    assert page.kept.isVisible()
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    assert "why" in page.kept.complaint
    assert window.rail.waiting_at("findings") == "1 to inspect"
    pull_id = window.findings.entry.pull.id
    qtbot.keyClicks(page.kept.entry, "the clamp let go, not the rope")
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    found = read_logbook(window.workshop).by_pull[pull_id].finding
    assert (found.gave, found.against_trace) == (Gave.STOPPED, "the clamp let go, not the rope")


def test_an_earlier_finding_is_corrected_and_its_history_shown(qtbot, window):
    window.go_to("findings")
    page = window.pages["findings"]
    offered = [key for key, _ in window.findings.earlier()]
    done = next(
        e
        for e in window.logbook.at(Stage.INSPECTED)
        if e.pull.id in offered and any(d.key == "tail_a" for d in e.finding.draws)
    )
    page.earlier.pick(offered[-1])
    assert window.station == "logbook"
    window.go_to("findings")
    page.earlier.pick(done.pull.id)
    assert page.title.words.startswith(done.specimen.code)
    field = page.cards[End.A].draws["tail_a"]
    assert field.text
    field.entry.clear()
    qtbot.keyClicks(field.entry, "9 mm")
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    assert "why" in page.correction.complaint
    qtbot.keyClicks(page.correction.entry, "misread")
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    entry = read_logbook(window.workshop).by_pull[done.pull.id]
    assert entry.finding.reason == "misread"
    assert entry.finding.draws[0].draw_m == pytest.approx(0.009)
    assert entry.history[0] == done.finding
    page.earlier.pick(done.pull.id)
    qtbot.mouseClick(page.history, Qt.MouseButton.LeftButton)
    table = child(window, QWidget, "findings.history.table")
    said = [table.item(n, 3).text() for n in range(table.rowCount())]
    assert "misread" in said
    table.window().close()
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    back = read_logbook(window.workshop).by_pull[done.pull.id]
    assert back.finding == done.finding


def test_a_tail_is_dragged_on_the_strip_and_the_clock_times_the_untying(qtbot, window):
    pulled(qtbot, window)
    page = window.pages["findings"]
    spot = next(s for s in page.strip.figure.spots if s.key == "drawn:tail_a")
    scale = page.strip.spot_centre("drawn:tail_a").x() / (spot.x + spot.width / 2)
    start = QPointF(spot.x * scale + 1, (spot.y + spot.height / 2) * scale).toPoint()
    half = page.strip.spot_centre("drawn:tail_a").toPoint()
    qtbot.mousePress(page.strip, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(page.strip, half)
    qtbot.mouseRelease(page.strip, Qt.MouseButton.LeftButton, pos=half)
    tied = window.findings.entry.specimen.tail_length_m("tail_a")
    typed = page.cards[End.A].draws["tail_a"].text
    assert float(typed.split()[0]) == pytest.approx(500 * tied, abs=3)
    assert window.findings.draft.place is None
    qtbot.keyClicks(page.strip, "U")
    assert window.findings.clock_runs
    qtbot.wait(40)
    qtbot.keyClicks(page.strip, "H")
    assert not window.findings.clock_runs
    assert page.cards[End.A].untie.text.endswith("s")


def rope_photo(path):
    image = Image.new("RGB", (800, 400), "white")
    for x in (100, 700):
        image.paste("black", (x - 2, 300, x + 2, 340))
    for x in (250, 340):
        image.paste("blue", (x - 2, 150, x + 2, 200))
    image.save(path)


def test_a_photo_is_dropped_measured_on_and_taken_out(qtbot, window, tmp_path):
    pulled(qtbot, window)
    page = window.pages["findings"]
    path = tmp_path / "remains.png"
    rope_photo(path)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    drop = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    page.photos.dropEvent(drop)
    (photo,) = window.findings.entry.photos
    assert "1 photo" in [s.text for s in page.strip.figure.shapes if hasattr(s, "text")]
    (thumb,) = page.photos.thumbs
    assert thumb.parent() is page.strip
    span = page.strip.spot_centre("span")
    assert abs(thumb.geometry().center().x() - span.x()) < page.strip.width() / 4
    qtbot.mouseClick(thumb, Qt.MouseButton.LeftButton)
    rule = window.findChild(PhotoRule)
    view = window.findChild(RuledPhoto)
    for x, y in ((100, 320), (700, 320), (250, 175), (340, 175)):
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.at(x, y).toPoint())
    qtbot.keyClicks(rule.known.entry, "200 mm")
    assert "Drew 30" in rule.said.words
    qtbot.mouseClick(rule.use, Qt.MouseButton.LeftButton)
    assert page.cards[End.A].draws["tail_a"].text.startswith("30")
    qtbot.keyClicks(page.strip, "5BMNN")
    qtbot.keyClicks(page.peak.entry, "6 kN")
    pull_id = window.findings.entry.pull.id
    page.photos._presenter.keep("broken.jpg", b"no picture")
    assert "no picture" in window.notice.words
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    draw = read_logbook(window.workshop).by_pull[pull_id].finding.draws[0]
    assert draw.how == "photo"
    assert draw.u_m == pytest.approx(0.0007, abs=0.0003)
    page.earlier.pick(pull_id)
    page.photos.rule(photo)
    qtbot.mouseClick(window.findChild(PhotoRule, "findings.rule").drop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not read_logbook(window.workshop).by_pull[pull_id].photos)


FAMILY = {
    "bend": "zeppelin-bend", "midline": "alpine-butterfly", "double_loop": "bowline-on-the-bight",
    "adjustable": "taut-line-hitch", "hitch": "clove-hitch", "friction": "prusik",
    "tensioning": "truckers-hitch", "binding": "constrictor", "stopper": "figure-eight-stopper",
    "quick_release": "slipped-half-hitch", "loop_single": "bowline", "baseline": None,
}  # fmt: skip


@pytest.mark.parametrize("layout", FAMILY)
def test_every_familys_strip_takes_its_places_and_stores_them(qtbot, window, layout):
    key = "straight pull" if layout == "baseline" else "ramp to failure"
    specimen = stored(window.workshop, specimen_for(window.workshop, key, FAMILY[layout]))
    assert specimen.layout_key == layout
    window.pull.put_on("m1")
    pulled(qtbot, window)
    page = window.pages["findings"]
    strip = child(window, StripView, "findings.strip")
    for place in LAYOUTS[layout].places:
        spot = strip.spot_centre(place.key).toPoint()
        qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=spot)
        assert strip.state.place == place.key
        assert window.findings.draft.gave is None
    qtbot.keyClicks(strip, "B")
    if layout != "baseline":
        qtbot.keyClicks(strip, "O")
        qtbot.mouseClick(
            strip, Qt.MouseButton.LeftButton, pos=strip.spot_centre("knot_a").toPoint()
        )
        qtbot.keyClicks(strip, "O")
    qtbot.keyClicks(strip, "M")
    for name, field in page.cards[End.A].lengths.items():
        assert name in {x.key for x in LAYOUTS[layout].lengths}
        qtbot.keyClicks(field.entry, "31 mm")
    qtbot.keyClicks(page.peak.entry, "2 kN")
    pull_id = window.findings.entry.pull.id
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    found = read_logbook(window.workshop).by_pull[pull_id].finding
    wanted = LAYOUTS[layout].places[-1].key if layout == "baseline" else "knot_a"
    assert (found.place, found.peak_load_n) == (wanted, 2_000.0)
    assert found.gave is (Gave.BROKE if layout == "baseline" else Gave.CAME_OUT)
    assert {x.key for x in found.lengths} == {x.key for x in LAYOUTS[layout].lengths}


def test_a_long_trace_is_shown(qtbot, window, monkeypatch):
    """300,000 samples, from the logbook to the plot; how fast is measured by ``./run bench``."""
    done = next(e for e in window.logbook.at(Stage.INSPECTED) if e.analysis is not None)
    time_s = np.arange(300_000) / 1000.0
    load = np.interp(time_s, [0, 280, 281, 300], [0, 9_000, 20, 20])
    from bruiser.store import pulls

    with window.workshop.file.writing() as connection:
        connection.exec_driver_sql("DELETE FROM trace_chunk WHERE pull_id = ?", (done.pull.id,))
        samples = trace_of(load, time_s * 0.008)
        pulls.append_samples(connection, done.pull.id, samples)
    window.go_to("findings")
    window.findings.open_earlier("")
    window.findings.open_earlier(done.pull.id)
    window.pages["findings"].trace.repaint()
    assert len(read_trace(window.workshop, done.pull).load_n) == 300_000
    assert len(window.findings.trace().load_n) == 300_000


def test_bytes_of_a_pasted_picture_are_kept(qtbot, window):
    pulled(qtbot, window)
    room = io.BytesIO()
    Image.new("RGB", (60, 40), "grey").save(room, "PNG")
    window.findings.photos.keep("pasted", room.getvalue())
    assert [p.name for p in window.findings.entry.photos] == ["pasted"]
    assert child(window, QLineEdit, "findings.peak") is not None


def test_the_load_is_shown_against_time_and_who_worked_last_is_repeated(qtbot, window):
    window.go_to("pull")
    bench = window.pages["pull"].bench
    qtbot.mouseClick(bench.time, Qt.MouseButton.LeftButton)
    assert window.pull.along[0] == "time (s)"
    qtbot.mouseClick(bench.time, Qt.MouseButton.LeftButton)
    assert window.pull.along[0].startswith("travel")
    pulled(qtbot, window)
    page = window.pages["findings"]
    qtbot.keyClicks(page.strip, "5BMNN")
    for field, text in ((page.peak, "6 kN"), (page.by, "RK"), (page.untied, "bent back")):
        qtbot.keyClicks(field.entry, text)
    qtbot.mouseClick(page.accept, Qt.MouseButton.LeftButton)
    pulled(qtbot, window)
    assert (page.peak.text, page.untied.text) == ("", "")
    qtbot.mouseClick(page.same, Qt.MouseButton.LeftButton)
    assert (page.by.text, page.untied.text) == ("RK", "bent back")
    assert page.peak.text == ""
    assert window.findings.draft.place is None
    assert set(window.findings.draft.draws.values()) <= {""}
