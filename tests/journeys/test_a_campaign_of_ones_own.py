"""From the start page and an empty home to an efficiency of one's own cord, by keys alone."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit

from bruiser.app.opener import Opener
from bruiser.core.records.records import Gave, JamLevel
from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.stations.findings.keys import GAVE_KEYS, LEVEL_KEYS
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.logbook.entries import Stage
from tests.specimens import patient_bench

TYPED_KEYS_MOST, BENCH_KEYS_MOST = 360, 540


class Keys:
    """A keyboard: every key goes to whatever has the focus, and is counted."""

    def __init__(self, qtbot, opener):
        self.qtbot, self.opener, self.count, self.steps = qtbot, opener, 0, 0

    @property
    def focus(self):
        if QApplication.activeWindow() is None:
            # Without a window manager nobody gives the keyboard back when a dialog closes.
            self.opener.shown.activateWindow()
            self.qtbot.waitUntil(self.opener.shown.isActiveWindow)
        found = QApplication.focusWidget() or QApplication.activeWindow()
        assert found is not None, "the keyboard goes nowhere"
        return found

    def press(self, *keys, modifier=Qt.KeyboardModifier.NoModifier):
        for key in keys:
            self.steps += 1
            self.count += 1
            QTest.keyClick(self.focus, key, modifier)
            self.settle()

    def ctrl(self, key):
        self.press(key, modifier=Qt.KeyboardModifier.ControlModifier)

    def write(self, text):
        self.steps += 1
        self.count += len(text)
        QTest.keyClicks(self.focus, text)

    def settle(self):
        window = self.opener.window
        self.qtbot.wait(5)
        if window is not None:
            self.qtbot.waitUntil(lambda: not window.tasks.busy, timeout=20_000)

    def at(self, name):
        """Tab until the keyboard is at a control."""
        for _ in range(60):
            if self.focus.objectName() == name:
                return
            self.press(Qt.Key.Key_Tab)
        raise AssertionError(f"{name} is not reached by Tab")


@pytest.fixture
def keys(dressed, qtbot, tmp_path, monkeypatch):
    for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(kept, str(tmp_path / kept))
    opener = Opener(Preferences(folder=str(tmp_path)), bench_for=patient_bench(25.0))
    opener.show_start()
    qtbot.waitExposed(opener.start)
    opener.start.activateWindow()
    yield Keys(qtbot, opener)
    if opener.window is not None:
        if opener.window.pull_under_way:
            opener.window.pull.abandon()
        opener.window.close()
    opener.start.close()


def begin(keys):
    """A new campaign with its question and one lot."""
    keys.ctrl(Qt.Key.Key_N)
    keys.write("Tether loops")
    keys.press(Qt.Key.Key_Return)
    window = keys.opener.window
    window.activateWindow()
    assert isinstance(keys.focus, QPlainTextEdit)
    keys.write("Which loop for tethers?")
    keys.press(Qt.Key.Key_F9)
    assert window.workshop.campaign.question == "Which loop for tethers?"
    assert window.station == "cordage"
    assert isinstance(keys.focus.parent().findChild(QLineEdit, "cordage.name"), QLineEdit)
    for name, text in (
        ("name", "K8"), ("material", "polyester"), ("construction", "double braid"),
        ("diameter", "8"), ("condition", "new, dry"),
    ):  # fmt: skip
        keys.at(f"cordage.{name}")
        keys.write(text)
    keys.press(Qt.Key.Key_Return)
    assert [lot.name for lot in window.logbook.lots] == ["K8"]
    return window


def test_a_notebook_typed_in_by_keys_gives_efficiencies(keys):
    window = begin(keys)
    keys.press(
        Qt.Key.Key_T,
        modifier=Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    keys.at("series.capacity")
    keys.write("20")
    keys.at("series.line")
    lines = [f"plain; {peak}; span" for peak in (13.1, 13.4, 12.9, 13.3, 13.2)]
    lines += [f"bowline; {peak}; broke; hand" for peak in (9.1, 8.8, 9.4)]
    lines += [f"sheet bend; {peak}; broke; hand" for peak in (7.2, 7.7, 7.4)]
    for line in lines:
        keys.write(line)
        keys.press(Qt.Key.Key_Return)
    keys.press(Qt.Key.Key_Return)
    assert len(window.logbook.at(Stage.INSPECTED)) == 11
    keys.press(Qt.Key.Key_F7)
    rows = {r.knot.structure: r.efficiency.interval for r in window.results.results.knots}
    assert set(rows) == {"bowline", "sheet-bend"}
    assert rows["bowline"].low < 9.1 / 13.2 < rows["bowline"].high
    assert rows["sheet-bend"].low < 7.4 / 13.2 < rows["sheet-bend"].high
    assert keys.count <= TYPED_KEYS_MOST, (keys.count, keys.steps)


def pull_and_inspect(keys, window):
    """The next specimen at the bench and then in Findings, by keys."""
    before = len(window.logbook.at(Stage.INSPECTED))
    lane = window.pages["pull"].bench.lane
    assert keys.focus is lane
    keys.press(Qt.Key.Key_Space, Qt.Key.Key_Tab, Qt.Key.Key_Space)
    keys.at("pull.arm")
    keys.press(Qt.Key.Key_Space)
    keys.qtbot.waitUntil(lambda: keys.focus.objectName() == "pull.run", timeout=10_000)
    hold(keys, window)
    entry = window.findings.entry
    remains = entry.pull.remains
    places = [p.key for p in entry.specimen.layout.places]
    typed = [str(places.index(remains["place"]) + 1)]
    typed += [GAVE_KEYS[Gave(remains["gave"])]]
    typed += [LEVEL_KEYS[JamLevel(k["jam_level"])] for k in remains["knots"]]
    keys.press(*(Qt.Key(ord(key)) for key in typed))
    for tail, drawn in remains["draws_m"].items():
        keys.at(f"findings.draw.{tail}")
        keys.write(f"{1000 * drawn:.0f}")
    keys.ctrl(Qt.Key.Key_Return)
    assert len(window.logbook.at(Stage.INSPECTED)) == before + 1


def bring_into_play(keys, window, words):
    """Search a knot and bring it into play."""
    keys.at("knots.search")
    keys.focus.selectAll()
    keys.write(words)
    keys.at("knots.play")
    keys.press(Qt.Key.Key_Space)


def hold(keys, window):
    """Hold Space until it gave; press again where a slow machine let the bench hold."""
    run = keys.focus
    keys.count += 1
    QTest.keyPress(run, Qt.Key.Key_Space)

    def gave():
        session = window.pull.session
        if window.station == "pull" and session is not None and session.phase is Phase.HELD:
            QTest.keyRelease(run, Qt.Key.Key_Space)
            QTest.keyPress(run, Qt.Key.Key_Space)
        return window.station == "findings"

    keys.qtbot.waitUntil(gave, timeout=30_000)


def test_pulls_at_the_simulated_bench_by_keys_give_efficiencies(keys):
    window = begin(keys)
    keys.press(Qt.Key.Key_F9)
    assert window.station == "pull"
    for _ in range(5):
        pull_and_inspect(keys, window)
    keys.press(Qt.Key.Key_F9)
    assert window.station == "knots"
    for words in ("bowline", "sheet bend"):
        bring_into_play(keys, window, words)
    assert [k.structure for k in window.logbook.knots_in_play] == ["bowline", "sheet-bend"]
    keys.press(Qt.Key.Key_F9)
    assert keys.focus.objectName() == "plan.queue"
    keys.press(Qt.Key.Key_Space)
    keys.press(Qt.Key.Key_F9)
    assert window.station == "pull"
    while window.logbook.next_to_pull() is not None:
        pull_and_inspect(keys, window)
    keys.press(Qt.Key.Key_F7)
    rows = {r.knot.structure: r.efficiency.interval for r in window.results.results.knots}
    assert set(rows) == {"bowline", "sheet-bend"}
    for found in rows.values():
        assert 0.1 < found.low < found.value < found.high < 1.1
    assert keys.count <= BENCH_KEYS_MOST, (keys.count, keys.steps)
