"""A knot got to know, checked and drawn in a new campaign: once by mouse, once by keys alone."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPlainTextEdit, QWidget

from bruiser.app.window import MainWindow
from bruiser.catalogue.drawings import drawn, offer_own
from bruiser.figures.display import Disc
from bruiser.ui.kit.two_lines import KEY
from bruiser.workshop.course.new_campaign import NewCampaign, make_campaign
from bruiser.workshop.logbook.workshop import open_workshop
from tests.journeys.conftest import Hands

OVERHAND = (
    "-7.5,-1.7 -4.6,-1.6 -2.6,-0.9 o -1.1,0.62 u 1.1,-0.55 o 2.7,1.0 3.1,2.6 2.0,4.0 0,4.5 "
    "-2.0,4.0 -3.1,2.6 -2.7,1.0 u -1.1,-0.55 o 1.1,0.62 u 2.6,-0.9 4.6,-1.6 7.5,-1.7"
)


@pytest.fixture
def new(dressed, qtbot, tmp_path, monkeypatch):
    """The window over a campaign with nothing in it, in an empty home."""
    for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(kept, str(tmp_path / kept))
    path = make_campaign(NewCampaign(title="Ridge lines", path=tmp_path / "ridge-lines"))
    window = MainWindow(open_workshop(path))
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    window.activateWindow()
    yield Hands(qtbot, window)
    window.close()
    offer_own({})


def rings(view):
    return sum(isinstance(s, Disc) and s.stroke == "brick" for s in view.figure.shapes)


def test_by_mouse(qtbot, new):
    new.go("knots")
    page = new.window.pages["knots"]
    new.click("knots.as_drawings")
    sheet = page.drawings
    card = next(
        sheet.item(n) for n in range(sheet.count()) if sheet.item(n).data(KEY) == "constrictor"
    )
    sheet.scrollToItem(card)
    spot = sheet.visualItemRect(card).center()
    qtbot.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    qtbot.mouseDClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    qtbot.waitUntil(page.know.isVisible)
    assert page.title.text() == "Constrictor knot"
    new.click("knots.where.front")
    assert rings(page.know.drawing.view) == 4
    new.click("knots.beside.clove-hitch")
    assert rings(page.beside.drawings[0].view) >= 1
    new.click("knots.sheet.tie")
    assert new.words("knots.tie.verdict").startswith("As drawn: Constrictor")
    new.tap("knots.tie.drawing", "crossing:0")
    assert "Clove hitch" in new.words("knots.tie.verdict")
    new.click("knots.tie.again")
    assert new.words("knots.tie.verdict").startswith("As drawn")
    new.click("knots.tie.ask")
    new.click("knots.tie.right")
    assert "1" in new.words("knots.tie.score")


def test_by_keys_alone_with_three_wrong_things(qtbot, new):
    window = new.window
    QTest.keyClick(window, Qt.Key.Key_F3)
    new.settle()
    page = window.pages["knots"]

    def focused():
        if QApplication.activeWindow() is None:
            # Without a window manager nobody gives the keyboard back.
            window.activateWindow()
            qtbot.waitUntil(window.isActiveWindow)
        return QApplication.focusWidget() or window

    def at(name):
        seen = []
        for _ in range(80):
            focus = focused()
            if focus.objectName() == name:
                return
            seen.append(focus.objectName())
            QTest.keyClick(focus, Qt.Key.Key_Tab)
        raise AssertionError(f"{name} is not reached by Tab: {seen}")

    def press(*keys):
        for key in keys:
            QTest.keyClick(focused(), key)
            new.settle()

    def write(text):
        QTest.keyClicks(focused(), text)
        new.settle()

    at("knots.search")
    write("reef")
    assert page._presenter.key == "reef"
    at("knots.as_drawings")
    press(Qt.Key.Key_Space, Qt.Key.Key_Return)
    qtbot.waitUntil(page.know.isVisible)
    at("knots.follow")
    whole = len(page.know.drawing.view.figure.shapes)
    press(*[Qt.Key.Key_Left] * 40)
    assert len(page.know.drawing.view.figure.shapes) < whole
    at("knots.sheet.know")
    press(*[Qt.Key.Key_Right] * 3)
    assert page.tie.isVisible()
    at("knots.tie.word")
    line = focused()
    right = line.text()
    # A word that is too short, one with another letter, and one that contradicts itself.
    for wrong, said in (
        (right[:-1], "are written"),
        (right[:-1] + "x", "Only o for over"),
        ("o" * len(right.replace(" ", "")), "both are called over"),
    ):
        line.selectAll()
        write(wrong)
        press(Qt.Key.Key_Return)
        assert said in new.wrong("knots.tie.word")
    line.selectAll()
    write(right)
    press(Qt.Key.Key_Return)
    assert new.words("knots.tie.verdict").startswith("As drawn: Reef")
    at("knots.sheet.tie")
    press(Qt.Key.Key_Right)
    at("knots.own.names")
    names = focused()
    assert isinstance(names, QPlainTextEdit)
    names.selectAll()
    write("Ridge knot: general")
    at("knots.own.drawing")
    write(OVERHAND[:-14])
    qtbot.waitUntil(lambda: new.words("knots.own.preview.words") != "")
    focused().selectAll()
    write(OVERHAND)
    qtbot.waitUntil(lambda: "3 crossings" in new.words("knots.own.preview.words"))
    at("knots.own.make")
    press(Qt.Key.Key_Space)
    anyway = new.find(QWidget, "knots.own.anyway")
    if anyway.isVisible():
        at("knots.own.anyway")
        press(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: page._presenter.key == "ridge-knot")
    assert len(drawn("ridge-knot").layout.crossings) == 3
