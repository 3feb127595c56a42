"""From a pull to an efficiency with an interval, through the real window."""

import math

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QWidget,
)
from scipy import stats

from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.core.errors import Full
from bruiser.core.records.layouts import End
from bruiser.store import pulls
from bruiser.store.places import read_place
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.opening.user_guide import guide_pages
from bruiser.ui.theme.tokens import TOUCH
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.journeys.conftest import child


def click(qtbot, window, name):
    qtbot.mouseClick(child(window, QPushButton, name), Qt.MouseButton.LeftButton)


def arm(qtbot, window):
    for name in ("pull.lane", "pull.eyes"):
        box = child(window, QCheckBox, name)
        box.setFocus()
        qtbot.keyClick(box, Qt.Key.Key_Space)
        assert box.isChecked()
    click(qtbot, window, "pull.arm")
    run = child(window, QPushButton, "pull.run")
    qtbot.waitUntil(run.isEnabled)
    assert run.hasFocus()
    return run


def hold_until(qtbot, window, run, reached):
    """Hold Space until something is so; press again when the bench missed the control and held."""

    def so():
        session = window.pull.session
        if reached() or session is None or session.phase is not Phase.HELD:
            return reached()
        qtbot.keyRelease(run, Qt.Key.Key_Space)
        qtbot.keyPress(run, Qt.Key.Key_Space)
        return False

    qtbot.keyPress(run, Qt.Key.Key_Space)
    qtbot.waitUntil(so, timeout=30_000)


def pull_to_failure(qtbot, window):
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.station == "findings")


def fill(qtbot, window):
    """Taps and types what lies on the simulated bench; returns the place."""
    remains = window.findings.entry.pull.remains
    strip = child(window, StripView, "findings.strip")
    spot = strip.spot_centre(remains["place"]).toPoint()
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=spot)
    click(qtbot, window, f"findings.gave.{remains['gave']}")
    for key, drawn in remains["draws_m"].items():
        text = f"{drawn / 0.0254:.3f} in"
        qtbot.keyClicks(child(window, QLineEdit, f"findings.draw.{key}"), text)
    for knot in remains["knots"]:
        click(qtbot, window, f"findings.jam.{knot['end']}.{knot['jam_level']}")
    return remains["place"]


def independent_efficiency(window, knot_name, lot_name):
    """Low, typical and high efficiency by plain grids straight from the stored findings."""
    groups = {"base": [], "knot": []}
    for entry in read_logbook(window.workshop).at(Stage.INSPECTED):
        s, f = entry.specimen, entry.finding
        if s.lot.name != lot_name:
            continue
        place = None if f.place is None else s.layout.place(f.place)
        if s.knot_a is None:
            groups["base"].append((f.peak_load_n, place is not None and place.key == "span", 1))
        elif s.knot_a.name == knot_name:
            knots = 2 if s.knot_b is not None else 1
            own = place is not None and place.owner is not None and f.gave != "stopped"
            groups["knot"].append((f.peak_load_n, own, knots))

    def marginal(rows, prior_median, prior_width):
        """Posterior of mu on a plain grid, straight from the definition."""
        mu = np.linspace(6.0, 12.0, 6_001)
        total = np.zeros_like(mu)
        logs = []
        for u in np.linspace(-6.5, 1.5, 320):
            log_p = np.full_like(mu, -0.5 * ((u - math.log(prior_median)) / prior_width) ** 2)
            for load, event, knots in rows:
                z = (math.log(load) - mu) / math.exp(u)
                log_p += (stats.norm.logpdf(z) - u) if event else 0.0
                log_p += (knots - int(event)) * stats.norm.logsf(z)
            logs.append(log_p)
        top = max(p.max() for p in logs)
        for log_p in logs:
            total += np.exp(log_p - top)
        return mu, total / total.sum()

    mu, knot = marginal(groups["knot"], 0.07, 1.2)
    _, base = marginal(groups["base"], 0.04, 0.8)
    difference = np.convolve(knot, base[::-1])
    steps = (np.arange(len(difference)) - (len(mu) - 1)) * (mu[1] - mu[0])
    cdf = np.cumsum(difference) - 0.5 * difference
    return np.exp(np.interp([0.025, 0.5, 0.975], cdf, steps))


@pytest.mark.parametrize("home", ["file", "server"], indirect=True)
def test_a_pull_reaches_the_ladder_and_its_trace(qtbot, window):
    entry = window.pull.entry
    before = len(window.logbook.at(Stage.INSPECTED))
    window.go_to("pull")
    pull_to_failure(qtbot, window)
    assert window.rail.waiting_at("findings") == "1 to inspect"
    place = fill(qtbot, window)
    assert child(window, StripView, "findings.strip").state.place == place
    click(qtbot, window, "findings.accept")
    assert window.station == "pull"
    assert window.pull.entry.specimen.code != entry.specimen.code
    qtbot.keyClick(window, Qt.Key.Key_F7)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert window.station == "results"
    assert len(window.results.logbook.at(Stage.INSPECTED)) == before + 1
    name = entry.specimen.knot_a.name
    row = next(r for r in window.results.results.knots if r.knot.name == name)
    mine = next(m for m in row.marks if m.code == entry.specimen.code)
    interval = row.efficiency.interval
    expected = independent_efficiency(window, name, entry.specimen.lot.name)
    assert [interval.low, interval.value, interval.high] == pytest.approx(expected, rel=2e-3)
    assert interval.low < interval.value < interval.high
    window.results.select("")
    ladder = child(window, QWidget, "results.chart")
    spot = ladder.spot_centre(mine.pull_id).toPoint()
    qtbot.mouseClick(ladder, Qt.MouseButton.LeftButton, pos=spot)
    opened = window.results.selected_entry()
    assert opened.specimen.layout_key == entry.specimen.layout_key
    assert opened.pull.id in {m.pull_id for m in row.marks}
    assert child(window, QWidget, "results.trace").figure.rows
    window.close()
    again = open_workshop(read_place(window.workshop.file.place))
    assert len(read_logbook(again).at(Stage.INSPECTED)) == before + 1
    again.close()


# Fast enough to wait for, slow enough that a moment of a busy machine is no break.
@pytest.mark.parametrize("speed", [6.0])
def test_letting_go_escape_and_slacking_off(qtbot, window):
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > 1_500)
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    assert window.pull.session.phase is Phase.HELD
    assert "load is still on" in window.pull.controls().words
    assert not window.pull.controls().may_end
    qtbot.keyPress(run, Qt.Key.Key_Space)
    qtbot.wait(60)
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not window.pull.armed
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    assert not child(window, QPushButton, "pull.arm").isEnabled()
    for name in ("pull.lane", "pull.eyes"):
        child(window, QCheckBox, name).setChecked(True)
    click(qtbot, window, "pull.arm")
    slack = child(window, QPushButton, "pull.slack")
    qtbot.waitUntil(slack.isEnabled)
    qtbot.mousePress(slack, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not window.pull.live.load_is_on, timeout=10_000)
    qtbot.mouseRelease(slack, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(child(window, QPushButton, "pull.end").isEnabled)
    click(qtbot, window, "pull.end")
    assert window.station == "findings"
    assert window.findings.entry.pull.end == "stopped"


def test_the_lane_must_be_confirmed_first_and_losing_focus_stops(qtbot, window):
    arm_button = child(window, QPushButton, "pull.arm")
    assert not arm_button.isEnabled()
    child(window, QCheckBox, "pull.lane").setChecked(True)
    assert not arm_button.isEnabled()
    child(window, QCheckBox, "pull.lane").setChecked(False)
    run = arm(qtbot, window)
    qtbot.keyPress(run, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: window.pull.session.phase is Phase.PULLING)
    window.pages["pull"].bench.lane.setFocus()
    qtbot.waitUntil(lambda: window.pull.session.phase is Phase.HELD)


def test_wrong_entries_are_named_next_to_their_fields_and_nothing_is_stored(qtbot, window):
    window.go_to("pull")
    pull_to_failure(qtbot, window)
    qtbot.keyClicks(child(window, QLineEdit, "findings.draw.tail_a"), "4 m")
    qtbot.keyClicks(child(window, QLineEdit, "findings.peak"), "sixty")
    click(qtbot, window, "findings.accept")
    page = window.pages["findings"]
    assert "Tap" in page.place_wrong.words
    assert "cannot have drawn more" in page.cards[End.A].draws["tail_a"].complaint
    assert "no number" in page.peak.complaint
    assert window.rail.waiting_at("findings") == "1 to inspect"
    child(window, QLineEdit, "findings.peak").clear()
    child(window, QLineEdit, "findings.draw.tail_a").clear()
    fill(qtbot, window)
    click(qtbot, window, "findings.accept")
    assert window.rail.waiting_at("findings") == "none waiting"
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.rail.waiting_at("findings") == "1 to inspect"


def test_a_second_window_shows_and_says_read_only(qtbot, window):
    second = MainWindow(open_workshop(window.workshop.file.path))
    qtbot.addWidget(second)
    assert "Read-only" in second.notice.words
    assert not child(second, QPushButton, "pull.arm").isEnabled()
    second.close()


def test_a_full_disk_is_told_and_the_pull_can_be_stored_later(qtbot, window, monkeypatch):
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > 500)
    stored = pulls.append_samples

    def refuse(*_):
        raise Full("The disk is full.", "Make room.")

    monkeypatch.setattr(pulls, "append_samples", refuse)
    end = child(window, QPushButton, "pull.end")
    qtbot.waitUntil(end.isEnabled, timeout=10_000)
    click(qtbot, window, "pull.end")
    assert "disk is full" in window.notice.words
    assert "kept in memory" in window.pull.controls().words
    monkeypatch.setattr(pulls, "append_samples", stored)
    click(qtbot, window, "pull.end")
    assert window.station == "findings"
    assert window.rail.waiting_at("findings") == "1 to inspect"


def test_closing_mid_pull_asks_stops_and_keeps(qtbot, window, monkeypatch):
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > 500)
    answers = [QMessageBox.StandardButton.No, QMessageBox.StandardButton.Yes]
    asked = []

    def question(*said):
        asked.append(said)
        return answers.pop(0)

    monkeypatch.setattr(QMessageBox, "question", question)
    before = window.pull.session
    assert not window.close()
    assert asked[0][-1] is QMessageBox.StandardButton.No
    assert window.pull.session is before
    assert window.pull.armed
    reached = window.pull.live.highest_n
    qtbot.keyRelease(run, Qt.Key.Key_Space)
    hold_until(qtbot, window, run, lambda: window.pull.live.highest_n > reached + 200)
    assert window.close()
    again = open_workshop(window.workshop.file.path)
    assert len(read_logbook(again).at(Stage.PULLED)) == 1
    again.close()


def test_function_keys_reach_every_station_and_controls_have_names(qtbot, window):
    for number, (key, name) in enumerate(((s.key, s.name) for s in STATIONS), start=1):
        qtbot.keyClick(window, Qt.Key(int(Qt.Key.Key_F1) + number - 1))
        assert window.station == key
        for widget in window.pages[key].findChildren(QWidget):
            reached = widget.focusPolicy() & Qt.FocusPolicy.TabFocus
            kinds = (QAbstractButton, QLineEdit, QComboBox, QAbstractSpinBox, StripView)
            if reached and isinstance(widget, kinds):
                assert widget.accessibleName(), widget.objectName()
        assert name


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_nothing_forces_the_window_wider(qtbot, window, size):
    window.resize(*size)
    qtbot.wait(30)
    for key in (s.key for s in STATIONS):
        window.go_to(key)
        qtbot.wait(10)
        assert (window.width(), window.height()) == size
        hint = window.pages[key].minimumSizeHint()
        assert hint.width() <= size[0] - 176, key
        assert hint.height() <= size[1], key


def test_the_strip_is_walked_with_the_keyboard(qtbot, window):
    pull_to_failure(qtbot, window)
    strip = child(window, StripView, "findings.strip")
    strip.setFocus()
    for _ in range(3):
        qtbot.keyClick(strip, Qt.Key.Key_Right)
    qtbot.keyClick(strip, Qt.Key.Key_Return)
    places = window.findings.entry.specimen.layout.places
    assert window.findings.draft.place == places[2].key


def test_what_is_touched_at_the_bench_is_large_enough(qtbot, window):
    pull_to_failure(qtbot, window)
    names = ["findings.accept", "findings.gave.broke", "findings.jam.A.tool"]
    assert all(child(window, QPushButton, n).height() >= TOUCH for n in names)
    window.go_to("pull")
    qtbot.wait(20)
    assert all(child(window, QPushButton, n).height() >= TOUCH for n in ("pull.arm", "pull.stop"))


def test_help_opens_on_a_question_mark_and_the_keys_are_listed(qtbot, window):
    window.go_to("results")
    qtbot.keyClick(window, "?")
    qtbot.waitUntil(lambda: window.findChild(QWidget, "help") is not None)
    help_dialog = child(window, QWidget, "help")
    first = help_dialog.page.toPlainText().splitlines()[0]
    assert first == next(p.title for p in guide_pages() if p.key == "reading-results")
    help_dialog.reject()
    window.act("keys")
    dialog = child(window, QWidget, "window.keys")
    assert dialog.isVisible()
    qtbot.mouseClick(dialog.findChild(QPushButton), Qt.MouseButton.LeftButton)
    assert not dialog.isVisible()
