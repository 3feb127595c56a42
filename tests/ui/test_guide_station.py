"""What the guide station decides: lists, gauges, what is asked for now, uses, limits, revisions."""

import time

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QListWidget, QPushButton, QSlider, QTableView
from tests.ui.guide_hands import lot_id, press, settle, typed, words

from bruiser.core.choice.rating import Rating
from bruiser.core.choice.working_load import School
from bruiser.core.progress import Cancelled
from bruiser.core.records.preparation import Hands
from bruiser.ui.stations.guide import presenter as module
from bruiser.ui.stations.guide.presenter import OTHER, GuidePresenter, say_gauge
from bruiser.ui.stations.guide.view import PARTS, GuideView
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.logbook.live import read_logbook


@pytest.fixture
def desk(guide_desk):
    return guide_desk


@pytest.fixture
def view(guide_view):
    return guide_view


def listed(desk):
    return [one.rated.name for one in desk.choice.listed]


def test_it_begins_with_a_use_of_the_brief_where_most_knots_serve_it(desk):
    assert desk.wish.use == "tether-loop"
    assert desk.logbook.lot(desk.wish.lot_id).name == "R8"
    assert listed(desk)[0] == "Bowline"
    assert [key for key, _ in desk.uses()][:3] == ["tether-loop", "line-joined", "post"]
    assert desk.lots()[-1][0] == OTHER
    assert desk.lots()[-2][1].endswith("(no pulls)")


def test_a_gauge_is_two_clicks_from_a_trace(desk, view, qtbot):
    key = desk.choice.listed[0].rated.key
    board = view.choosing.chart.view
    spot = board.spot_centre(f"gauge:{key}:{Rating.SECURITY}").toPoint()
    qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=spot)
    assert words(view, "guide.behind.heading") == "Bowline, stays tied"
    assert "0 of 5 came out" in words(view, "guide.behind.words")
    table = view.findChild(QTableView, "guide.pulls")
    assert [row[1][0] for row in desk.pulls()]
    first = table.visualRect(table.model().index(0, 0)).center()
    with qtbot.waitSignal(view.trace_wanted) as wanted:
        qtbot.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=first)
    assert wanted.args == [desk.pulls()[0][0]]


def test_every_spot_of_the_board_opens_something_with_its_pulls(desk, view):
    codes = {e.pull.id for e in desk.logbook.entries if e.pull is not None}
    for spot in view.choosing.chart.figure.spots:
        desk.tap(spot.key)
        assert desk.opened.heading
        assert desk.opened.words
        assert set(desk.opened.pulls) <= codes
        assert desk.pulls(), spot.key


def test_a_knot_says_why_it_stands_there_and_what_load_each_school_gives(desk, view):
    desk.open_row(desk.choice.listed[0].rated.key)
    assert "speaks for it" in words(view, "guide.behind.words")
    loads = words(view, "guide.behind.loads")
    assert all(school in loads for school in School)
    assert "taken by default" in loads
    desk.pick_school(School.HALVE.value)
    assert {r.load_school for r in desk.facts().rows} == {"halve it"}
    desk.pick_school("rule")
    # By the rule a list takes one school for all: not every knot here has five that gave.
    assert {r.load_school for r in desk.facts().rows} == {"third"}


def test_what_it_must_do_can_be_changed_for_now(desk, view, qtbot, tasks):
    before = listed(desk)
    press(view, "guide.ask.no_end")
    settle(qtbot, tasks)
    assert set(listed(desk)) < set(before)
    assert "Alpine butterfly" in listed(desk)
    assert words(view, "guide.subtitle").endswith("Changed for now.")
    press(view, "guide.ask.gloves")
    settle(qtbot, tasks)
    assert desk.profile.hands is Hands.GLOVES
    assert desk.base.hands is Hands.BARE
    assert desk.change_load("140 %").startswith("More than")
    assert desk.change_load("0") == "Above 0 %, please."
    assert desk.change_load("30 %") == ""
    settle(qtbot, tasks)
    assert desk.profile.load == pytest.approx(0.3)
    desk.put_back()
    settle(qtbot, tasks)
    assert listed(desk) == before


def test_a_cordage_without_pulls_gets_its_nearest_and_no_numbers(desk, view, qtbot, tasks):
    desk.pick_lot(lot_id(desk, "R10"))
    settle(qtbot, tasks)
    said = words(view, "guide.empty")
    assert "no numbers are given" in said
    assert "R8, new, dry: double braid instead of kernmantle" in said
    assert not view.choosing.chart.isVisible()
    desk.pick_lot(OTHER)
    settle(qtbot, tasks)
    assert "Describe the cordage" in words(view, "guide.empty")
    typed(view, "guide.other.material", "nylon")
    typed(view, "guide.other.construction", "kernmantle")
    typed(view, "guide.other.diameter", "wide")
    press(view, "guide.other.find")
    assert view.diameter.complaint
    typed(view, "guide.other.diameter", "6.2 mm")
    press(view, "guide.other.find")
    assert view.diameter.complaint == ""
    assert words(view, "guide.empty").splitlines()[2].startswith("N7, new, dry: 7 mm instead")


def test_side_by_side_takes_four_at_most_and_leads_back(desk, view, qtbot):
    keys = [one.rated.key for one in desk.choice.listed]
    view.show_part("beside")
    assert view.findChild(QPushButton, "guide.beside.pulls.3") is not None
    for key in [*keys, "x|y"]:
        desk.put_beside(key)
    assert desk.beside == tuple(keys)
    desk.put_beside(keys[0])
    assert desk.beside == tuple(keys[1:])
    assert [r.key for r in desk.rated_beside()] == keys[1:]
    view.findChild(QPushButton, "guide.beside.pulls.0").click()
    assert view.parts.key == "choose"
    assert desk.chosen == keys[1]


def test_weights_move_the_order_and_are_kept_when_wanted(desk, view, qtbot, tasks):
    view.show_part("rank")
    assert not view.ranking.keep.isEnabled()
    for rating in Rating:
        slider = view.findChild(QSlider, f"guide.weight.{rating}")
        slider.setValue(10 if rating is Rating.TYING else 0)
        settle(qtbot, tasks)
    assert listed(desk)[0] == "Figure-eight loop"
    assert desk.reweighed
    assert view.ranking.chances.figure.rows[0][0] == "Figure-eight loop"
    assert view.ranking.parts.figure.rows[0][2] == "Quick to tie"
    press(view, "guide.weights.keep")
    settle(qtbot, tasks)
    assert read_guide_book(desk.workshop).profiles["tether-loop"].weights[Rating.STRENGTH] == 0
    assert not desk.reweighed
    desk.workshop.undo()
    settle(qtbot, tasks)
    assert listed(desk)[0] == "Bowline"


def test_all_weights_at_nothing_leave_the_order(desk, view, qtbot, tasks):
    view.show_part("rank")
    for slider in view.ranking.sliders.values():
        slider.setValue(0)
        settle(qtbot, tasks)
    assert sum(desk.profile.weights.values()) > 0


def test_a_use_is_edited_added_and_withdrawn_by_its_form(desk, view, qtbot, tasks):
    view.show_part("use")
    form = view.using
    typed(view, "guide.use.load", "200 %")
    press(view, "guide.use.store")
    assert form.load.complaint
    typed(view, "guide.use.load", "40 %")
    press(view, "guide.use.store")
    settle(qtbot, tasks)
    assert desk.base.load == pytest.approx(0.4)
    assert words(view, "guide.use.said") == "Changed in this campaign."
    press(view, "guide.use.add")
    press(view, "guide.use.store")
    assert form.name.complaint
    typed(view, "guide.use.name", "Kite line")
    press(view, "guide.use.store")
    settle(qtbot, tasks)
    assert (desk.base.key, desk.base.name) == ("kite-line", "Kite line")
    press(view, "guide.use.withdraw")
    settle(qtbot, tasks)
    assert "kite-line" not in desk.book.profiles
    assert desk.wish.use == "tether-loop"


def test_limits_are_set_as_a_version_and_move_the_bands(desk, view, qtbot, tasks):
    view.show_part("limits")
    typed(view, "guide.limits.limit.strength.3", "90 %")
    typed(view, "guide.limits.limit.strength.2", "95 %")
    press(view, "guide.limits.store")
    assert view.limiting.form.fields["limit.strength.1"].complaint
    typed(view, "guide.limits.limit.strength.2", "60 %")
    typed(view, "guide.limits.name.strength.2", "sixty up")
    typed(view, "guide.limits.comment", "house rule")
    press(view, "guide.limits.store")
    settle(qtbot, tasks)
    assert "Version 1" in words(view, "guide.limits.said")
    assert "house rule" in words(view, "guide.limits.said")
    bowline = desk.choice.listed[0].rated
    assert bowline.gauges[Rating.STRENGTH].band == "sixty up"


def test_choosing_can_be_stopped_too(desk, view, qtbot, tasks, monkeypatch):
    def slow(*args):
        time.sleep(0.05)
        raise Cancelled

    monkeypatch.setattr(module, "choose", slow)
    desk.ask()
    desk.cancel()
    settle(qtbot, tasks)
    assert desk.stopped
    assert listed(desk)


def test_every_control_has_a_name_and_every_part_shows(desk, view):
    kinds = (QPushButton, QLineEdit, QComboBox, QListWidget, QSlider, QTableView)
    for part in PARTS:
        view.show_part(part)
        for kind in kinds:
            for widget in view.findChildren(kind):
                if widget.isVisible() and widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
                    assert widget.accessibleName(), (part, widget.objectName())


def test_an_empty_campaign_says_what_goes_here(tmp_path, tasks, qtbot, dressed):
    from bruiser.store.campaigns import CampaignRow
    from bruiser.workshop.logbook.workshop import create_workshop

    row = CampaignRow(
        id="c",
        title="Bare",
        station="S",
        question="Q",
        synthetic=False,
        force_unit="kN",
        length_unit="mm",
        created_at="2026-01-01T00:00:00Z",
    )
    workshop = create_workshop(tmp_path / "bare.bruiser", row)
    desk = GuidePresenter(workshop, tasks)
    made = GuideView(desk)
    qtbot.addWidget(made)
    made.show()
    desk.take_up(read_logbook(workshop))
    settle(qtbot, tasks)
    assert "No cordage yet" in words(made, "guide.empty")
    for part in PARTS:
        made.show_part(part)
    with qtbot.waitSignal(desk.failed) as failed:
        made.publishing.make_revision()
        settle(qtbot, tasks)
    assert "No knot was pulled" in str(failed.args[0])
    workshop.close()


def test_a_gauge_in_words_says_what_it_rests_on(desk):
    one = desk.choice.listed[-1].rated
    said = say_gauge(one.gauges[Rating.OPENING])
    assert "with 95 %" in said
    assert "The pulls leave open “mostly hand”." in said
    assert "After 60 % of the rope" in said
    missing = desk.choice.not_ranked[0].rated.gauges[Rating.OPENING]
    assert say_gauge(missing).startswith("Not measured: no knot")
