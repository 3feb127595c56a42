"""What is opened, copied, renamed, forgotten and printed through a dialog, and what goes wrong."""

import sqlite3
from dataclasses import replace

import pypdfium2
import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QLabel

from bruiser.app.opener import Opener
from bruiser.app.recent import read_recent
from bruiser.core.records.records import PullEnd
from bruiser.ui.kit.parts import Words
from bruiser.ui.opening.help_dialog import HelpDialog
from bruiser.ui.runtime.preferences import Preferences
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


def choosing(monkeypatch, path):
    """Let whoever asks for a file be given this one."""
    for ask in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, ask, lambda *_, **__: (str(path), ""))


def make_newer(path):
    with sqlite3.connect(path) as raw:
        raw.execute("UPDATE alembic_version SET version_num = '9999_later'")
    raw.close()


def damage(path):
    raw = bytearray(path.read_bytes())
    raw[4096:] = b"\xa5" * (len(raw) - 4096)
    path.write_bytes(raw)


@pytest.mark.parametrize(("harm", "says"), [(make_newer, "newer"), (damage, "damaged")])
def test_a_file_that_cannot_be_read_is_said_on_the_start_page(
    opener, usual_file, monkeypatch, harm, says
):
    harm(usual_file)
    before = usual_file.read_bytes()
    choosing(monkeypatch, usual_file)
    opener.start.page.findChild(type(opener.start.page.new), "start.open").click()
    assert opener.window is None
    shown = " ".join(w.words for w in opener.start.page.findChildren(Words))
    assert says in shown
    assert usual_file.name in shown
    assert usual_file.read_bytes() == before


def test_a_file_that_another_program_holds_is_read_and_nothing_is_stored(
    opener, usual_file, monkeypatch
):
    held = open_workshop(usual_file)
    choosing(monkeypatch, usual_file)
    opener.ask_open()
    window = opener.window
    assert "Read-only" in window.notice.words
    assert len(window.logbook.entries) > 0
    question = window.workshop.campaign.question
    window.brief.change(question="Something else?")
    assert "read-only" in window.notice.words
    assert window.workshop.campaign.question == question
    held.close()


def test_a_copy_is_written_beside_and_never_over_what_is_there(opener, own, tmp_path, monkeypatch):
    opener.open(own)
    choosing(monkeypatch, tmp_path / "copied.bruiser")
    opener.window.act("copy")
    assert "copied.bruiser" in opener.window.notice.words
    copied = open_workshop(tmp_path / "copied.bruiser")
    assert copied.campaign.title == "Tethers"
    copied.close()
    before = (tmp_path / "copied.bruiser").read_bytes()
    opener.window.act("copy")
    assert "there already" in opener.window.notice.words
    assert (tmp_path / "copied.bruiser").read_bytes() == before


@pytest.mark.parametrize(
    ("typed", "kept", "says"),
    [("Guys", "Guys", ""), ("", "Tethers", "title"), ("x" * 300, "Tethers", "120")],
)
def test_a_campaign_is_renamed_in_its_dialog(opener, own, typed, kept, says):
    opener.open(own)

    def answer():
        asked = QApplication.activeModalWidget()
        assert isinstance(asked, QInputDialog)
        asked.setTextValue(typed)
        asked.accept()

    QTimer.singleShot(50, answer)
    opener.window.act("rename")
    assert opener.window.workshop.campaign.title == kept
    assert says in opener.window.notice.words


def test_a_campaign_whose_file_is_gone_says_so_and_can_be_forgotten(opener, own):
    opener.open(own)
    opener.close_campaign()
    own.unlink()
    opener.show_start()
    page = opener.start.page
    assert any("is not at" in w.words for w in page.findChildren(Words))
    page.findChild(type(page.new), "start.forget.0").click()
    assert read_recent() == ()
    assert not [w for w in page.findChildren(QLabel) if "is not at" in w.text() and w.isVisible()]


def test_the_picture_of_a_campaign_follows_when_it_was_left(opener, usual_file, qtbot):
    opener.open(usual_file)
    opener.close_campaign()
    qtbot.waitUntil(lambda: not opener.leaving.tasks.busy)
    assert read_recent()[0].rungs


def test_a_page_of_the_user_guide_is_printed(dressed, qtbot, tmp_path):
    shown = HelpDialog("words")
    qtbot.addWidget(shown)
    shown.show()
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "page.pdf"))
    shown.print_on(printer)
    document = pypdfium2.PdfDocument((tmp_path / "page.pdf").read_bytes())
    text = document[0].get_textpage().get_text_range()
    assert shown.page.toPlainText().split("\n", 1)[0] in text
    document.close()


@pytest.mark.parametrize(("wanted", "beeps"), [(True, 1), (False, 0)])
def test_a_sound_tells_that_it_gave_only_where_it_is_wanted(
    opener, usual_file, monkeypatch, wanted, beeps
):
    opener.take(replace(opener.preferences, beep=wanted))
    opener.open(usual_file)
    heard = []
    monkeypatch.setattr(QApplication, "beep", lambda: heard.append("beep"))
    by_pull = opener.window.logbook.by_pull
    gave = next(key for key, e in by_pull.items() if e.pull.end is PullEnd.GAVE)
    opener.window.pull.pull_recorded.emit(gave)
    assert len(heard) == beeps
