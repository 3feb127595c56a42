"""Starting: the start page, what is opened, what is refused, what is kept for the next time."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QCheckBox, QDialog, QPushButton, QWidget

from bruiser.app.actions import ACTIONS, clash
from bruiser.app.cli import main as cli
from bruiser.app.one_instance import Meeting, hand_over
from bruiser.app.opener import Opener
from bruiser.app.recent import forget, read_recent
from bruiser.ui.opening.crash_dialog import CrashDialog
from bruiser.ui.opening.goto import GoToDialog
from bruiser.ui.opening.help_dialog import HelpDialog
from bruiser.ui.opening.new_dialog import NewDialog
from bruiser.ui.opening.preferences_dialog import PreferencesDialog
from bruiser.ui.opening.tour import STOPS, Tour
from bruiser.ui.opening.undo_dialog import UndoDialog
from bruiser.ui.opening.user_guide import PAGE_OF, guide_pages, page_for, pages_with
from bruiser.ui.runtime.preferences import Preferences, keep_preferences, read_preferences
from bruiser.ui.stations.findings.history_view import HistoryDialog
from bruiser.ui.theme.theme import theme
from bruiser.workshop.course.finder import FoundKind, FoundPlace, FoundPlaces
from bruiser.workshop.course.new_campaign import NewCampaign, make_campaign
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def opener(dressed, qtbot, tmp_path, monkeypatch):
    for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(kept, str(tmp_path / kept))
    made = Opener(Preferences(folder=str(tmp_path), toured=True))
    made.show_start()
    yield made
    if made.window is not None:
        made.window.close()
    made.start.close()


@pytest.fixture
def own(tmp_path):
    return make_campaign(NewCampaign(title="Tethers", path=tmp_path / "tethers"))


def dialog(kind):
    """The one dialog of a kind that is open."""
    (found,) = [w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible()]
    return found


@pytest.mark.qt_log_ignore("does not support raise")
def test_a_campaign_is_opened_listed_and_not_opened_twice(opener, own, usual_file):
    assert opener.open(own)
    window = opener.window
    assert opener.open(own)
    assert opener.window is window
    assert "open here already" in window.notice.words
    opener.open(usual_file)
    assert not window.isVisible()
    opener.window.go_to("logbook")
    opener.close_campaign()
    rows = read_recent()
    assert [r.pulls > 0 for r in rows] == [True, False]
    assert len(rows) == 2
    opener.open(usual_file)
    assert opener.window.station == "logbook"
    forget(str(own))
    assert [r.path for r in read_recent()] == [str(usual_file)]


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda _: None, "no file"),
        (lambda p: p.write_text("no campaign"), "not a campaign"),
        (lambda p: p.mkdir(), "directory"),
    ],
)
def test_what_cannot_be_opened_is_said_and_what_is_open_stays(opener, own, tmp_path, make, says):
    opener.open(own)
    window, bad = opener.window, tmp_path / "bad.bruiser"
    make(bad)
    assert not opener.open(bad)
    assert says in window.notice.words
    assert opener.window is window
    assert window.isVisible()


def test_new_asks_before_it_sets_a_file_aside_and_leads_to_the_brief(opener, own, qtbot):
    before = own.stat().st_mtime_ns
    opener.act("new")
    asked = dialog(NewDialog)
    asked.title.entry.setText("x" * 300)
    asked.make.click()
    assert "At most 120" in asked.title.complaint
    asked.title.entry.setText("A title / with slashes")
    asked.place.fill(str(own.parent / "nowhere" / "x"))
    asked.make.click()
    assert "is not there" in asked.place.complaint
    asked.place.fill(str(own))
    asked.make.click()
    assert "is there already" in asked.place.complaint
    assert own.stat().st_mtime_ns == before
    asked.make.click()
    assert opener.window.workshop.campaign.title == "A title / with slashes"
    assert opener.window.station == "brief"
    kept = open_workshop(own.with_name("tethers-earlier-1.bruiser"))
    assert kept.campaign.title == "Tethers"
    kept.close()


def test_a_file_dropped_on_the_window_is_opened(opener, own):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(own))])
    opener.start.dropEvent(
        QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )  # fmt: skip
    assert opener.window.workshop.campaign.title == "Tethers"


@pytest.mark.qt_log_ignore("does not support raise")
def test_a_second_start_hands_its_file_to_the_first(opener, own, qtbot):
    assert not hand_over("")
    meeting = Meeting(opener.come_for)
    try:
        assert hand_over(str(own))
        qtbot.waitUntil(lambda: opener.window is not None)
    finally:
        meeting.close()
    assert not hand_over("")


def test_preferences_are_kept_shown_and_refuse_keys_that_clash(opener, own):
    opener.open(own)
    opener.act("preferences#still")
    asked = dialog(PreferencesDialog)
    assert asked.tabs.tabText(asked.tabs.currentIndex()) == "Look"
    asked.findChild(QCheckBox, "preferences.still").setChecked(True)
    asked.keys["logbook"].setKeySequence("Ctrl+K")
    asked.keep.click()
    assert asked.isVisible()
    assert "Go to" in asked.wrong.words
    asked.keys["logbook"].setKeySequence("Ctrl+J")
    asked.keep.click()
    kept = read_preferences()
    assert (kept.still, kept.keys) == (True, {"logbook": "Ctrl+J"})
    assert opener.window.menu.actions["logbook"].shortcut().toString() == "Ctrl+J"
    assert not QApplication.isEffectEnabled(Qt.UIEffect.UI_AnimateMenu)
    opener.take(replace(kept, still=False, keys={}))


def test_no_two_actions_have_the_same_keys():
    assert [clash(a.key, a.keys, {}) for a in ACTIONS] == [""] * len(ACTIONS)
    assert clash("logbook", "Space", {}) == "Space belongs to pulling."
    assert clash("logbook", "F9", {"step": "F10"}) == ""


def test_preferences_that_cannot_be_read_are_as_shipped(opener):
    assert keep_preferences(Preferences(theme="neon"))
    assert read_preferences() == Preferences()


def test_the_simulated_bench_can_be_switched_off(opener, own):
    opener.open(own)
    opener.take(replace(opener.preferences, simulated=False))
    with pytest.raises(Exception, match="switched off in the preferences"):
        opener.window._bench(None)


def test_every_page_of_help_is_found_and_its_terms_lead_to_their_entries(dressed, qtbot):
    assert set(PAGE_OF.values()) <= {p.key for p in guide_pages()}
    for page in guide_pages():
        assert page_for(page.key) is page
        assert page in pages_with(page.title)
    shown = HelpDialog("results")
    qtbot.addWidget(shown)
    shown.show()
    assert 'href="term:Interval"' in shown.page.toHtml()
    shown._follow(QUrl("term:Interval"))
    assert shown.page.textCursor().selectedText() == "Interval."
    shown.search.setText("untied how")
    assert shown.contents.item(0).text() == page_for("typing-a-series").title
    shown.search.setText("zzz")
    assert "No page holds" in shown.nothing.words


def test_the_tour_stands_at_real_controls_and_can_be_skipped(opener, demo_file, qtbot):
    opener.open(demo_file)
    window = opener.window
    window.act("tour")
    tour = window.findChild(Tour)
    for stop in STOPS:
        assert window.station == stop.station
        qtbot.waitUntil(window.findChild(QWidget, stop.control).isVisible)
        assert stop.heading in tour.heading.words
        tour.next.click()
    assert not tour.isVisible()


def test_go_to_leads_to_each_kind_of_place(opener, usual_file, qtbot):
    opener.open(usual_file)
    window = opener.window
    for words, station in (("jamming", "results"), ("R8 wet", "cordage"), ("knots", "knots")):
        window.act("goto")
        asked = dialog(GoToDialog)
        asked.line.setText(words)
        qtbot.keyClick(asked.line, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: not window.tasks.busy)
        assert window.station == station
    code = window.logbook.entries[0].specimen.code
    window.act("goto")
    asked = dialog(GoToDialog)
    asked.line.setText(code)
    qtbot.keyClick(asked.line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert window.station == "logbook"
    assert window.logbook_page.chosen.code == code
    for name in ("trace", "finding", "history", "result"):
        assert window.findChild(QPushButton, f"logbook.{name}").isEnabled()
    window.findChild(QPushButton, "logbook.history").click()
    assert code in dialog(HistoryDialog).windowTitle()
    assert dialog(HistoryDialog).table.rowCount() > 0
    dialog(HistoryDialog).reject()
    window.findChild(QPushButton, "logbook.finding").click()
    assert window.station == "findings"


def test_going_back_in_the_list_of_what_can_be_undone(opener, own):
    opener.open(own)
    window = opener.window
    window.brief.change(question="One?")
    window.brief.change(question="Two?")
    window.act("history")
    asked = dialog(UndoDialog)
    assert not asked.go.isEnabled()
    asked.list.setCurrentRow(2)
    asked.go.click()
    assert window.workshop.campaign.question == ""
    window.act("redo")
    assert window.workshop.campaign.question == "One?"


def test_a_crash_report_holds_no_readings_unless_they_are_added(opener, own, tmp_path):
    opener.open(own)
    report = tmp_path / "report.txt"
    report.write_text("Traceback: it broke")
    opener.tell_of_crash(report)
    asked = dialog(CrashDialog)
    asked.copy.click()
    assert "it broke" in QApplication.clipboard().text()
    assert not report.with_suffix(".bruiser").exists()
    asked.tick.setChecked(True)
    assert report.with_suffix(".bruiser").exists()
    asked.close_it.click()


def test_a_campaign_is_made_without_a_window(tmp_path, capsys):
    path = tmp_path / "own.bruiser"
    asked = ["new", str(path), "--title", "Own", "--units", "lbf,in"]
    assert cli(asked) == 0
    assert "“Own”, in lbf and in" in capsys.readouterr().out
    assert cli(asked) == 2
    assert "there already" in capsys.readouterr().err
    assert cli([*asked[:4], "--units", "stone"]) == 2
    assert isinstance(QApplication.activeModalWidget(), (QDialog, type(None)))


@pytest.mark.slow
def test_look_and_full_screen_turn_the_same_with_and_without_a_campaign(opener, own):
    for act in (opener.act, None):
        if act is None:
            opener.open(own)
            act = opener.window.act
        before = theme().name
        act("theme")
        assert theme().name != before
        act("theme")
        assert theme().name == before
        act("fullscreen")
        assert opener.shown.isFullScreen()
        act("fullscreen")
        assert not opener.shown.isFullScreen()


def test_who_turns_away_before_everything_is_found_is_led_nowhere(dressed, qtbot):
    waiting, chosen = [], []
    places = FoundPlaces([FoundPlace(kind=FoundKind.STATION, key="brief", words="Brief")])
    asked = GoToDialog(places, (), None, waiting.append)
    qtbot.addWidget(asked)
    asked.chosen.connect(chosen.append)
    for answer in (asked.reject, lambda: None):
        asked.show()
        asked.line.setText("brief")
        qtbot.keyClick(asked.line, Qt.Key.Key_Return)
        assert not chosen
        answer()
        waiting[-1](places)
        asked._whole = waiting.append
    assert [place.key for place in chosen] == ["brief"]
