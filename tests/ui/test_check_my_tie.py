"""Check my tie: crossings tapped, the rope spelled, the verdict; practice; what goes wrong."""

import pytest
from PyQt6.QtCore import Qt
from tests.specimens import specimen_for, stored

from bruiser.core.behaviour.tying import measure_tying
from bruiser.core.records.preparation import PrepStep, TyingVerdict
from bruiser.figures.display import Disc
from bruiser.ui.kit.parts import Words
from bruiser.ui.kit.tie_desk import LOOKING, TOO_MANY, TieDesk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.knots.presenter import KnotsPresenter
from bruiser.ui.stations.knots.sheets import BesideSheet
from bruiser.ui.stations.knots.tie import TieSheet
from bruiser.ui.stations.knots.tie_presenter import TiePresenter
from bruiser.ui.stations.pull.check_tie import TieDialog
from bruiser.ui.stations.pull.inspector import InspectorDialog
from bruiser.ui.stations.pull.prepare import PreparePanel
from bruiser.ui.stations.pull.prepare_presenter import PreparePresenter
from bruiser.workshop.logbook.live import read_logbook


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


def test_what_a_tie_is_is_looked_up_on_a_worker(qtbot, dressed):
    tasks = TaskRunner()
    desk = TieDesk(lambda key: key, tasks)
    desk.show("double-fishermans")
    assert desk.verdict() == (LOOKING, "muted")
    qtbot.waitUntil(lambda: desk.verdict()[0] == "As drawn: double-fishermans.", timeout=10_000)
    tasks.close()


@pytest.fixture
def prepared(workshop, dressed, qtbot):
    """A bowline that was tied by TV, at Prepare."""
    made = stored(workshop, specimen_for(workshop, "straight pull", "bowline"))
    presenter = PreparePresenter(workshop)
    panel = PreparePanel(presenter)
    qtbot.addWidget(panel)
    panel.resize(1080, 720)
    logbook = read_logbook(workshop)
    entry = next(e for e in logbook.entries if e.specimen.id == made.id)
    presenter.take_up_entry(logbook, entry)
    panel.show()
    qtbot.waitExposed(panel)
    panel.by.fill("TV")
    assert presenter.keep_tied({}, "TV") == {}
    return panel, presenter, workshop, entry.specimen.id


def again(presenter, workshop, specimen_id):
    logbook = read_logbook(workshop)
    entry = next(e for e in logbook.entries if e.specimen.id == specimen_id)
    presenter.take_up_entry(logbook, entry)
    return entry


def said_wrong(dialog):
    return dialog.findChild(Words, "pull.tie.by.wrong").text()


def test_a_tie_laid_out_is_kept_with_the_check(qtbot, prepared):
    panel, presenter, workshop, specimen_id = prepared
    again(presenter, workshop, specimen_id)
    qtbot.mouseClick(panel.lay_out, Qt.MouseButton.LeftButton)
    dialog = panel.findChild(TieDialog)
    assert dialog.bench.verdict.words.startswith("As drawn: Bowline")
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    assert dialog.isVisible()
    assert "initials" in said_wrong(dialog)
    dialog.by.fill("TV")
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    assert "second person" in said_wrong(dialog), "who tied it does not check it"
    dialog.by.fill("OQ")
    qtbot.keyClick(dialog.by.entry, Qt.Key.Key_Return)
    assert not dialog.isVisible()
    entry = again(presenter, workshop, specimen_id)
    sheet = entry.steps[PrepStep.CHECKED].sheet
    assert sheet.tie_seen.startswith("As drawn: Bowline")
    assert set(sheet.tie) == {"o", "u"}


def test_a_wrong_tie_is_not_put_to_an_inspector_and_a_right_one_is_kept_as_looked_at(
    qtbot, prepared
):
    panel, presenter, workshop, specimen_id = prepared
    again(presenter, workshop, specimen_id)
    qtbot.mouseClick(panel.lay_out, Qt.MouseButton.LeftButton)
    dialog = panel.findChild(TieDialog)
    tap(qtbot, dialog.bench, 0)
    assert not dialog.inspect.isEnabled()
    assert dialog.not_right.isVisible()
    qtbot.mouseClick(dialog.bench.again, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(dialog.inspect, Qt.MouseButton.LeftButton)
    asked = panel.findChild(InspectorDialog)
    assert "Bowline" not in " ".join(w.text() for w in asked.findChildren(Words))
    asked.form.fields["inspector"].fill("MR")
    asked.form.fields["named"].fill("bowline")
    asked.form.fields["verdict"].fill(TyingVerdict.RIGHT.value)
    qtbot.mouseClick(asked.keep, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(panel.keep_trial, Qt.MouseButton.LeftButton)
    entry = again(presenter, workshop, specimen_id)
    trial = next(p.trial for p in entry.prepared if p.trial is not None)
    assert (trial.attempts, trial.seconds, trial.inspector) == (0, 0.0, "MR")
    found = measure_tying([(specimen_id, trial)], "bowline")
    assert found.by_hands == ()
    assert found.inspected.judged == found.inspected.right == 1
