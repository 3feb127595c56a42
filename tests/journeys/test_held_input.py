"""Keys and buttons held until the specimen gives, and longer, answer nothing for the person."""

import shutil
import subprocess

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QPushButton

from bruiser.workshop.logbook.entries import Stage
from tests.journeys.conftest import child
from tests.journeys.test_first_pull import arm, fill

needs_x = pytest.mark.skipif(shutil.which("xdotool") is None, reason="xdotool is not installed")


@pytest.fixture
def keyboard():
    """The keyboard and mouse of the screen itself, whose keys repeat by themselves."""
    if QGuiApplication.platformName() != "xcb":
        pytest.skip("off-screen no key repeats")
    held = set()

    def act(verb, what):
        subprocess.run(["xdotool", verb, what], check=True)
        (held.add if verb.endswith("down") else held.discard)((verb, what))

    yield act
    for key in ("space", "Return", "Control_L"):
        subprocess.run(["xdotool", "keyup", key], check=False)
    subprocess.run(["xdotool", "mouseup", "1"], check=False)


def nothing_said(window):
    draft = window.findings.draft
    return draft.gave is None and draft.place is None and not draft.jams


@needs_x
def test_space_held_until_it_gives_and_longer_picks_nothing(qtbot, window, keyboard):
    window.go_to("pull")
    stored = len(window.logbook.at(Stage.INSPECTED))
    for _ in range(3):
        run = arm(qtbot, window)
        keyboard("keydown", "space")
        qtbot.waitUntil(lambda: window.pull.session is None, timeout=30_000)
        qtbot.waitUntil(lambda: window.station == "findings")
        qtbot.wait(1200)
        assert nothing_said(window)
        keyboard("keyup", "space")
        qtbot.wait(100)
        assert nothing_said(window)
        keyboard("keydown", "Control_L")
        keyboard("keydown", "Return")
        qtbot.wait(1200)
        keyboard("keyup", "Return")
        keyboard("keyup", "Control_L")
        qtbot.wait(50)
        assert len(window.logbook.at(Stage.INSPECTED)) == stored
        assert window.pages["findings"].place_wrong.words
        fill(qtbot, window)
        qtbot.mouseClick(child(window, QPushButton, "findings.accept"), Qt.MouseButton.LeftButton)
        stored += 1
        qtbot.waitUntil(lambda n=stored: len(window.logbook.at(Stage.INSPECTED)) == n)
        qtbot.waitUntil(lambda: window.station == "pull")
        assert not run.isDown()


@needs_x
def test_the_mouse_held_until_it_gives_taps_nothing(qtbot, window, keyboard):
    window.go_to("pull")
    run = arm(qtbot, window)
    at = run.mapToGlobal(QPoint(run.width() // 2, run.height() // 2))
    subprocess.run(["xdotool", "mousemove", str(at.x()), str(at.y())], check=True)
    keyboard("mousedown", "1")
    qtbot.waitUntil(lambda: window.station == "findings", timeout=30_000)
    strip = window.pages["findings"].strip
    spot = strip.mapToGlobal(strip.spot_centre("nip_a").toPoint())
    subprocess.run(["xdotool", "mousemove", str(spot.x()), str(spot.y())], check=True)
    qtbot.wait(100)
    keyboard("mouseup", "1")
    qtbot.wait(200)
    assert nothing_said(window)
    keyboard("mousedown", "1")
    keyboard("mouseup", "1")
    qtbot.waitUntil(lambda: window.findings.draft.place == "nip_a")
    assert window.findings.draft.gave is None


def test_findings_shows_what_was_just_pulled_and_lists_all_that_waits(qtbot, window):
    window.go_to("pull")
    pulled = []
    for _ in range(2):
        window.go_to("pull")
        code = window.pull.entry.specimen.code
        run = arm(qtbot, window)
        qtbot.keyPress(run, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: window.station == "findings", timeout=30_000)
        assert window.findings.entry.specimen.code == code
        pulled.append(code)
        if len(pulled) == 1:
            qtbot.keyClicks(window.pages["findings"].note.entry, "ends fluffy")
    page = window.pages["findings"]
    offered = [page.earlier.box.itemText(n) for n in range(page.earlier.box.count())]
    assert all(any(f"waits: {code} " in words for words in offered) for code in pulled)
    first = next(e for e in window.logbook.at(Stage.PULLED) if e.specimen.code == pulled[0])
    page.earlier.pick(first.pull.id)
    assert window.findings.entry.specimen.code == pulled[0]
    assert page.note.text == "ends fluffy"
