"""What the guide station decides: lists, gauges, what is asked for now, uses, limits, revisions."""

import time
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QListWidget, QPushButton, QSlider, QTableView

from bruiser.core.preparation import Hands
from bruiser.core.progress import Cancelled
from bruiser.core.rating import Rating
from bruiser.core.working_load import School
from bruiser.ui.kit.parts import Words
from bruiser.ui.stations.guide import presenter as module
from bruiser.ui.stations.guide import publish_presenter as publishing
from bruiser.ui.stations.guide.presenter import OTHER, GuidePresenter, say_gauge
from bruiser.ui.stations.guide.publish_presenter import KINDS, LIVE, PublishPresenter
from bruiser.ui.stations.guide.view import PARTS, GuideView
from bruiser.workshop.commands import Changes
from bruiser.workshop.excluding import exclude_pull
from bruiser.workshop.guide_book import read_guide_book
from bruiser.workshop.journal import read_journal


@pytest.fixture
def desk(workshop, tasks, qtbot):
    made = GuidePresenter(workshop, tasks)

    def again(_: Changes) -> None:
        made.take_up(read_journal(workshop))

    workshop.listen(again)
    made.take_up(read_journal(workshop))
    qtbot.waitUntil(lambda: not tasks.busy)
    return made


@pytest.fixture
def view(desk, dressed, qtbot):
    made = GuideView(desk)
    qtbot.addWidget(made)
    made.resize(1104, 800)
    made.show()
    desk.changed.emit()
    return made


@pytest.fixture
def quick(monkeypatch):
    """Printing takes a moment, not twenty seconds; it has tests of its own."""

    def stand_in(html, progress):
        progress(0, 2)
        progress(1, 2)
        return b"%PDF-1.7 " + str(len(html)).encode()

    monkeypatch.setattr(publishing, "html_to_pdf_watched", stand_in)


def settle(qtbot, tasks):
    qtbot.waitUntil(lambda: not tasks.busy, timeout=20_000)


def words(view, name):
    found = view.findChild(Words, name)
    assert found is not None, name
    return found.words


def press(view, name):
    button = view.findChild(QPushButton, name)
    assert button is not None, name
    assert button.isEnabled(), name
    button.click()


def typed(view, name, text):
    line = view.findChild(QLineEdit, name)
    assert line is not None, name
    line.setText(text)
    return line


def lot_id(desk, name):
    return next(lot.id for lot in desk.journal.lots if lot.name == name)


def listed(desk):
    return [one.rated.name for one in desk.choice.listed]


def test_it_begins_with_a_use_of_the_brief_where_most_knots_serve_it(desk):
    assert desk.wish.use == "tether-loop"
    assert desk.journal.lot(desk.wish.lot_id).name == "P8-B"
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
    assert "0 of 6 came out" in words(view, "guide.behind.words")
    table = view.findChild(QTableView, "guide.pulls")
    assert [row[1][0] for row in desk.pulls()]
    first = table.visualRect(table.model().index(0, 0)).center()
    with qtbot.waitSignal(view.trace_wanted) as wanted:
        qtbot.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=first)
    assert wanted.args == [desk.pulls()[0][0]]


def test_every_spot_of_the_board_opens_something_with_its_pulls(desk, view):
    codes = {e.pull.id for e in desk.journal.entries if e.pull is not None}
    for spot in view.choosing.chart.figure.spots:
        desk.tap(spot.key)
        assert desk.opened.heading
        assert desk.opened.words
        assert set(desk.opened.pulls) <= codes
        if not spot.key.startswith("gauge") or "checking" not in spot.key:
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
    assert "measured floor" in {r.load_school for r in desk.facts().rows}


def test_what_it_must_do_can_be_changed_for_now(desk, view, qtbot, tasks):
    before = listed(desk)
    press(view, "guide.ask.no_end")
    settle(qtbot, tasks)
    assert set(listed(desk)) < set(before)
    assert "Butterfly loop" in listed(desk)
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
    desk.pick_lot(lot_id(desk, "K10-H"))
    settle(qtbot, tasks)
    said = words(view, "guide.empty")
    assert "no numbers are given" in said
    assert "P8-B, new, dry: double braid instead of kernmantle" in said
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
    assert words(view, "guide.empty").splitlines()[2].startswith("N6-K, new, dry: 6 mm instead")


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
        slider.setValue(10 if rating is Rating.STRENGTH else 0)
        settle(qtbot, tasks)
    assert listed(desk)[0] == "Figure-eight loop"
    assert desk.reweighed
    assert view.ranking.chances.figure.rows[0][0] == "Figure-eight loop"
    assert view.ranking.parts.figure.rows[0][2] == "Strength kept"
    press(view, "guide.weights.keep")
    settle(qtbot, tasks)
    assert read_guide_book(desk.workshop).profiles["tether-loop"].weights[Rating.TYING] == 0
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


def test_a_revision_is_frozen_checked_and_released(desk, view, qtbot, tasks, quick):
    view.show_part("publish")
    q = view.publishing
    assert q.rows() == [(LIVE, "As it is now", "not frozen yet", "")]
    assert not view.printing.check.isEnabled()
    lots = view.printing.lots.list
    item = next(lots.item(n) for n in range(lots.count()) if "P8-B, new" in lots.item(n).text())
    item.setCheckState(Qt.CheckState.Checked)
    typed(view, "guide.scope", "tethers")
    press(view, "guide.make")
    settle(qtbot, tasks)
    assert [r[3] for r in q.rows()] == ["", "draft"]
    assert q.guide.scope == "tethers"
    assert [lot.name for lot in q.guide.lots] == ["P8-B"]
    assert not view.printing.release.isEnabled()
    press(view, "guide.check")
    assert view.printing.initials.complaint
    typed(view, "guide.initials", "OQ")
    press(view, "guide.check")
    settle(qtbot, tasks)
    assert q.rows()[1][3] == "checked"
    press(view, "guide.release")
    settle(qtbot, tasks)
    assert q.rows()[1][3] == "released"
    assert "is released" in words(view, "guide.notice")
    assert q.pdf.startswith(b"%PDF")
    entry = next(e for e in desk.journal.entries if e.finding and e.excluded is None)
    exclude_pull(desk.workshop, entry, "to see")
    settle(qtbot, tasks)
    q.select(q.rows()[1][0])
    assert "pulls came since" in q.rows()[1][2]
    assert q.pdf.startswith(b"%PDF")
    press(view, "guide.make")
    settle(qtbot, tasks)
    assert "Since revision 1" in q.changes_words()


def test_what_stands_in_the_way_asks_for_its_reason(desk, view, qtbot, tasks, quick):
    plain = [e for e in desk.journal.entries if e.specimen.lot.name == "H4-W" and e.finding
             and e.specimen.knot_a is None]  # fmt: skip
    for entry in plain:
        exclude_pull(desk.workshop, entry, "to have none")
    settle(qtbot, tasks)
    view.show_part("publish")
    q = view.publishing
    q.want((), (lot_id(desk, "H4-W"),), "")
    q.make_revision()
    settle(qtbot, tasks)
    q.check("OQ")
    settle(qtbot, tasks)
    assert "no measured baseline" in q.blocking()[0].words
    press(view, "guide.release")
    settle(qtbot, tasks)
    (field,) = view.printing.reasons.values()
    assert "printed in the guide" in field.complaint
    assert q.revision.state == "checked"
    typed(view, "guide.reason.0", "The rope was used up.")
    press(view, "guide.release")
    settle(qtbot, tasks)
    assert q.revision.state == "released"
    assert q.blocking()[0].reason == "The rope was used up."


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_of_file_is_written(desk, view, qtbot, tasks, quick, tmp_path, kind):
    q = view.publishing
    q.want(("tether-loop",), (lot_id(desk, "P8-B"),), "")
    out = tmp_path / "out"
    out.mkdir()
    q.export(kind, out / "guide")
    settle(qtbot, tasks)
    (made,) = out.iterdir()
    assert made.suffix == KINDS[kind][1]
    assert made.stat().st_size > 8
    assert made.name in words(view, "guide.notice")
    with qtbot.waitSignal(desk.failed) as failed:
        q.export(kind, Path("/nowhere/guide"))
        settle(qtbot, tasks)
    assert "was not written" in str(failed.args[0])


def test_long_work_can_be_stopped_and_nothing_of_it_is_kept(desk, view, qtbot, tasks, monkeypatch):
    def forever(html, progress):
        while True:
            progress(0, 30)
            time.sleep(0.01)

    monkeypatch.setattr(publishing, "html_to_pdf_watched", forever)
    q = view.publishing
    q.want(("tether-loop",), (lot_id(desk, "P8-B"),), "")
    view.show_part("publish")
    press(view, "guide.preview")
    qtbot.waitUntil(lambda: view.cancel.isVisible(), timeout=5_000)
    press(view, "guide.cancel")
    settle(qtbot, tasks)
    assert q.pdf is None
    assert "Stopped" in words(view, "guide.notice")
    assert not view.cancel.isVisible()


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
    from bruiser.workshop.workshop import create_workshop

    row = CampaignRow("c", "Bare", "S", "Q", False, "kN", "mm", "2026-01-01T00:00:00Z")
    workshop = create_workshop(tmp_path / "bare.bruiser", row)
    desk = GuidePresenter(workshop, tasks)
    made = GuideView(desk)
    qtbot.addWidget(made)
    made.show()
    desk.take_up(read_journal(workshop))
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
    assert "The pulls leave open “cut it”." in said
    assert "After 60 % of the rope" in said
    missing = desk.choice.not_ranked[0].rated.gauges[Rating.OPENING]
    assert say_gauge(missing).startswith("Not measured: no knot")


def test_the_publisher_has_nothing_to_say_of_a_guide_not_made(desk):
    q = PublishPresenter(desk)
    assert q.blocking() == ()
    assert q.changes_words() == ""
    assert q.check("OQ") == ""
    assert q.release({}) == {}
