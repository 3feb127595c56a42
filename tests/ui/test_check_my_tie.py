"""Check my tie: crossings tapped, the rope spelled, the verdict; practice; what goes wrong."""

import pytest
from PyQt6.QtCore import Qt

from bruiser.figures.display import Disc
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.knots.sheets import BesideSheet
from bruiser.ui.stations.knots.tie import TieSheet
from bruiser.ui.stations.knots.tie_presenter import TOO_MANY, TiePresenter
from bruiser.workshop.logbook.entries import read_logbook


@pytest.fixture
def knots(workshop):
    made = KnotsPresenter(workshop)
    made.take_up(read_logbook(workshop))
    return made


@pytest.fixture
def sheet(knots, dressed, qtbot):
    made = TieSheet(TiePresenter(knots))
    qtbot.addWidget(made)
    made.resize(780, 680)
    made.show()
    qtbot.waitExposed(made)
    return made


def tap(qtbot, sheet, number):
    spot = sheet.view.spot_centre(f"crossing:{number}")
    qtbot.mouseClick(sheet.view, Qt.MouseButton.LeftButton, pos=spot.toPoint())


def rings(view):
    return sum(isinstance(s, Disc) and s.stroke == "brick" for s in view.figure.shapes)


def test_a_crossing_tapped_makes_another_knot_and_tapped_again_the_same(qtbot, knots, sheet):
    knots.show("constrictor")
    assert sheet.verdict.words.startswith("As drawn: Constrictor")
    tap(qtbot, sheet, 0)
    assert "Clove hitch" in sheet.verdict.words
    assert "Crossing 1 is off" in sheet.verdict.words
    assert rings(sheet.view) == 1
    tap(qtbot, sheet, 0)
    assert sheet.verdict.words.startswith("As drawn")
    assert rings(sheet.view) == 0


def test_the_rope_is_spelled_by_keyboard(qtbot, knots, sheet):
    knots.show("reef")
    plain = sheet.word.text
    knots.show("granny")
    granny = sheet.word.text
    knots.show("reef")
    assert plain != granny
    sheet.word.entry.setFocus()
    sheet.word.entry.selectAll()
    qtbot.keyClicks(sheet.word.entry, granny)
    qtbot.keyClick(sheet.word.entry, Qt.Key.Key_Return)
    assert "Granny knot" in sheet.verdict.words
    assert "not Reef knot" in sheet.verdict.words
    sheet.again.click()
    assert sheet.word.text == plain
    assert not sheet.again.isEnabled()


def test_a_wrong_word_is_said_at_the_field_and_changes_nothing(qtbot, knots, sheet):
    knots.show("overhand-stopper")
    for word, says in (("ouo", "3 are written"), ("ououoz", "“z”"), ("oooooo", "called over")):
        sheet.word.fill(word)
        sheet.read.click()
        assert says in sheet.word.complaint
        assert sheet.verdict.words.startswith("As drawn")


def test_all_the_other_way_is_the_other_hand_and_a_loosened_stopper_is_no_knot(knots, sheet):
    tie = sheet._presenter
    knots.show("bowline")
    for n in range(7):
        tie.turn(n)
    assert "tied with the other hand" in sheet.verdict.words
    knots.show("figure-eight-stopper")
    assert not tie.turned, "another knot begins as drawn"
    tie.turn(1)
    assert "no knot is left" in sheet.verdict.words


def test_what_cannot_be_checked_says_why(knots, sheet):
    knots.show("munter-lockoff")
    assert "No drawing" in sheet.verdict.words
    assert not sheet.view.isVisible()
    assert not sheet.read.isEnabled()
    knots.show("triple-fishermans")
    assert sheet.verdict.words == TOO_MANY


def test_practice_asks_hides_the_answer_and_scores(qtbot, knots, sheet):
    assert not sheet.right.isEnabled()
    for _ in range(6):
        sheet.ask.click()
        asked = sheet._presenter.question
        assert "Is this a right" in sheet.verdict.words
        assert sheet.word.text == ""
        assert rings(sheet.view) == 0
        tap(qtbot, sheet, 0)
        assert sheet._presenter.question == asked, "a question is not changed by tapping"
        (sheet.right if asked.right else sheet.wrong).click()
        assert sheet.verdict.words.startswith("You saw it")
        assert rings(sheet.view) == len(asked.turned)
        assert not sheet.right.isEnabled()
    assert sheet.score.words.startswith("Seen rightly: 6 of 6")
    sheet.again.click()
    assert sheet.verdict.words.startswith(("As drawn", "No drawing"))


def test_side_by_side_rings_where_the_two_differ(knots, dressed, qtbot):
    sheet = BesideSheet(knots)
    qtbot.addWidget(sheet)
    sheet.resize(760, 680)
    sheet.show()
    qtbot.waitExposed(sheet)
    knots.show("reef")
    knots.compare_with("granny")
    assert [rings(d.view) for d in sheet.drawings] == [3, 3]
    assert sheet.ringed.isVisible()
    knots.compare_with("bowline")
    assert [rings(d.view) for d in sheet.drawings] == [0, 0]
    assert not sheet.ringed.isVisible()
