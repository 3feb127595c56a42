"""From a spreadsheet of peaks to a printed guide; merged, copied, damaged and put back."""

import json
from pathlib import Path
from shutil import copyfile

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFileDialog, QLineEdit, QMessageBox, QPushButton, QWidget

from bruiser.app.opener import Opener
from bruiser.store.backups import BackupWhy, list_backups
from bruiser.ui.opening.check_dialog import CheckDialog
from bruiser.ui.opening.copies_dialog import CopiesDialog
from bruiser.ui.opening.merge_dialog import MergeDialog
from bruiser.ui.opening.traces_dialog import TracesDialog
from bruiser.ui.runtime.preferences import Preferences
from bruiser.workshop.course.new_campaign import NewCampaign, make_campaign
from tests.journeys.conftest import Hands
from tests.store.test_damage import spoil
from tests.workshop.exchange.test_trace_files import record

TABLE = """Yard tests;;;;;;;;
No;Rope;Dia (mm);Knot;Ends;Max load [kN];Result;Untied;By
1;blue 8 mm;8;-;;21,4;broke mid;;TV
2;blue 8 mm;8;plain;;20,9;clear;;TV
3;blue 8 mm;8;plain;;21,9;clear;;TV
4;blue 8 mm;8;Bowline;2;14,2;snapped;by hand;TV
5;blue 8 mm;8;Bowline;2;13,9;went ping;spike;TV
6;blue 8 mm;8;Bowline;2;14,6;snapped;spike;TV
7;blue 8 mm;8;Figure of eight loop;2;16,1;snapped;spike;OQ
8;blue 8 mm;8;Figure of eight loop;2;15,2;snapped;spike;OQ
9;blue 8 mm;8;Figure of eight loop;2;15,9;snapped;spike;OQ
"""


@pytest.fixture
def opener(qtbot, dressed, tmp_path):
    """A new, empty campaign in a window that can be opened anew."""
    path = make_campaign(NewCampaign(title="Yard", path=tmp_path / "yard.bruiser"))
    made = Opener(Preferences(), remembers=False)
    assert made.open(path)
    made.window.activateWindow()
    qtbot.waitUntil(made.window.isActiveWindow)
    yield made
    if made.window is not None:
        made.window.closed.disconnect()
        made.window.close()
    made.exchange._hourly.stop()


def hands_of(qtbot, opener):
    return Hands(qtbot, opener.window)


def until_looked(qtbot, opener):
    qtbot.waitUntil(lambda: not opener.window.bring_desk.busy, timeout=20_000)


def press(qtbot, dialog, name):
    qtbot.mouseClick(dialog.findChild(QPushButton, name), Qt.MouseButton.LeftButton)


def dialog_of(qtbot, opener, kind):
    qtbot.waitUntil(lambda: opener.window.findChild(kind) is not None, timeout=20_000)
    return opener.window.findChild(kind)


def test_a_spreadsheet_of_peaks_becomes_a_printed_guide(qtbot, opener, tmp_path, monkeypatch):
    table = tmp_path / "yard.csv"
    table.write_bytes(TABLE.encode("utf-16"))
    window, hands = opener.window, hands_of(qtbot, opener)
    window.act("bring")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(table), ""))
    hands.click("bring.choose")
    until_looked(qtbot, opener)
    assert hands.find(QWidget, "bring.wrong").model().rowCount() == 1
    assert not hands.find(QPushButton, "bring.store").isEnabled()
    hands.choose("bring.word.finding.went_ping", "broke at knot")
    until_looked(qtbot, opener)
    qtbot.waitUntil(lambda: hands.find(QPushButton, "bring.store").isEnabled())
    assert "9 pulls, 1 new lot, 2 knots brought into play" in hands.words("bring.makes")
    hands.click("bring.store")
    assert window.station == "results"
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=20_000)
    assert len(window.logbook.entries) == 9
    assert [b.why for b in list_backups(tmp_path / "yard.bruiser")] == [BackupWhy.IMPORT]
    from bruiser.app.cli import main

    guide = tmp_path / "guide.pdf"
    window.workshop.file.look()
    assert main(["guide", str(tmp_path / "yard.bruiser"), "--pdf", str(guide)]) == 0
    assert guide.read_bytes().startswith(b"%PDF")
    window.undo()
    assert not window.logbook.entries


def test_the_page_by_keys_alone_and_what_it_remembers(qtbot, opener, tmp_path):
    table = tmp_path / "yard.csv"
    table.write_text(TABLE.replace("went ping", "snapped"), encoding="utf-8")
    window, hands = opener.window, hands_of(qtbot, opener)
    qtbot.keyClick(window, Qt.Key.Key_I, Qt.KeyboardModifier.ControlModifier)
    assert window.station == "bring"
    window.path_dropped.emit(str(table))
    until_looked(qtbot, opener)
    box = hands.find(QComboBox, "bring.column.untied")
    box.setFocus()
    assert box.currentText() == "how it was untied"
    hands.choose("bring.column.untied", "not used")
    until_looked(qtbot, opener)
    assert "jam_level" not in window.bring_desk.mapping.columns
    store = hands.find(QPushButton, "bring.store")
    qtbot.waitUntil(store.isEnabled)
    store.setFocus()
    qtbot.keyClick(store, Qt.Key.Key_Space)
    assert len(window.logbook.entries) == 9
    qtbot.keyClick(window, Qt.Key.Key_I, Qt.KeyboardModifier.ControlModifier)
    window.path_dropped.emit(str(table))
    until_looked(qtbot, opener)
    assert window.bring_desk.remembered
    assert "jam_level" not in window.bring_desk.mapping.columns
    assert "9 rows came in before" in hands.words("bring.makes")
    assert not hands.find(QPushButton, "bring.store").isEnabled()


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "is empty"),
        (b"\x89PNG\r\n\x1a\n\x00\x00\x00\x0d", "no text"),
        (b'a,"b\n', "quotation"),
    ],
)
def test_what_is_no_table_is_said_and_the_page_stays(qtbot, opener, tmp_path, content, says):
    table = tmp_path / "odd.csv"
    table.write_bytes(content)
    opener.window.act("bring")
    opener.window.path_dropped.emit(str(table))
    assert says in opener.window.notice.words
    assert opener.window.bring_desk.sheet is None


def test_a_table_that_leaves_things_open_is_asked_about(qtbot, opener, tmp_path):
    table = tmp_path / "open.csv"
    table.write_text(
        'rope,knot,peak (N),result,date\nred,plain,"9,250",clear,3/4/2024\n', encoding="utf-8"
    )
    window, hands = opener.window, hands_of(qtbot, opener)
    window.act("bring")
    window.path_dropped.emit(str(table))
    until_looked(qtbot, opener)
    said = [p.said for p in window.bring_desk.plan.problems]
    assert len(said) == 2
    hands.choose("bring.mark", "point")
    until_looked(qtbot, opener)
    hands.choose("bring.dates", "day first")
    until_looked(qtbot, opener)
    (left,) = window.bring_desk.plan.problems
    assert "diameter is not said" in left.said
    hands.type("bring.all.diameter_mm", "10 mm")
    hands.leave("bring.all.diameter_mm")
    until_looked(qtbot, opener)
    assert window.bring_desk.ready
    assert window.bring_desk.plan.rows[0].finding.peak_load_n == pytest.approx(9250.0)
    assert window.bring_desk.plan.rows[0].pull.started_at.startswith("2024-04-03")


def test_another_campaign_is_looked_at_and_merged(qtbot, opener, usual_file):
    opener.exchange.look_at(usual_file)
    dialog = dialog_of(qtbot, opener, MergeDialog)
    assert "5 lots" in " ".join(
        w.text() for w in dialog.findChildren(QWidget) if hasattr(w, "words")
    )
    path = opener.window.workshop.file.path
    press(qtbot, dialog, "merge.store")
    qtbot.waitUntil(
        lambda: (
            opener.window is not None
            and opener.window.logbook is not None
            and len(opener.window.logbook.lots) == 5
        ),
        timeout=30_000,
    )
    assert opener.window.notice.words.startswith("Merged: 5 lots")
    assert [b.why for b in list_backups(path)] == [BackupWhy.MERGE]


def test_a_copy_is_kept_compared_and_put_back(qtbot, opener, usual_file, monkeypatch):
    copyfile(usual_file, usual_file.with_name("mine.bruiser"))
    assert opener.open(usual_file.with_name("mine.bruiser"))
    path = opener.window.workshop.file.path
    before = opener.window.workshop.campaign.title
    opener.exchange.copies()
    dialog = dialog_of(qtbot, opener, CopiesDialog)
    press(qtbot, dialog, "copies.keep")
    qtbot.waitUntil(lambda: bool(dialog.backups), timeout=10_000)
    from bruiser.workshop.course.new_campaign import rename_campaign

    rename_campaign(opener.window.workshop, "Another")
    dialog.list.selectRow(0)
    qtbot.waitUntil(lambda: "as before" in dialog.says.words, timeout=10_000)
    dialog.every.pick("7")
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    press(qtbot, dialog, "copies.restore")
    assert opener.window.workshop.campaign.title == before
    assert {b.why for b in list_backups(path)} == {BackupWhy.ASKED, BackupWhy.RESTORE}
    said = json.loads((path.with_name(f"{path.name}.backups") / "schedule.json").read_text())
    assert said == {"every_days": 7}


def test_damage_is_said_on_opening_listed_and_rescued(
    qtbot, opener, usual_file, tmp_path, monkeypatch
):
    spoil(usual_file, "UPDATE tail_draw SET draw_m = -1")
    assert opener.open(usual_file)
    assert "could not be read and set aside: table tail_draw" in opener.window.notice.words
    opener.exchange.check()
    dialog = dialog_of(qtbot, opener, CheckDialog)
    assert "set aside" in dialog.says.words
    target = tmp_path / "rescued.bruiser"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(target), ""))
    press(qtbot, dialog, "check.rescue")
    qtbot.waitUntil(lambda: "rows kept" in opener.window.notice.words, timeout=20_000)
    assert opener.open(target)
    assert not opener.window.workshop.file.set_aside


def test_everything_is_exported_where_the_person_says(qtbot, opener, tmp_path, monkeypatch):
    folder = tmp_path / "out"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(folder), ""))
    opener.exchange.export()
    qtbot.waitUntil(lambda: "all that is here" in opener.window.notice.words, timeout=20_000)
    assert (folder / "datapackage.json").is_file()
    opener.exchange.export()
    qtbot.waitUntil(lambda: "not empty" in opener.window.notice.words, timeout=20_000)


def test_a_window_that_cannot_be_made_leads_back(qtbot, opener, usual_file, monkeypatch):
    told = []
    monkeypatch.setattr("sys.excepthook", lambda *said: told.append(said))
    monkeypatch.setattr("bruiser.app.opener.MainWindow", lambda *_: 1 / 0)
    assert opener.window is not None
    assert not opener.open(usual_file)
    assert opener.start.isVisible()
    assert "could not be shown" in opener.refused
    assert told
    opener.start.closed.disconnect()
    opener.start.close()


def test_a_table_to_start_from_is_saved(qtbot, opener, tmp_path, monkeypatch):
    target = tmp_path / "start.xlsx"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(target), ""))
    opener.window.act("bring")
    hands_of(qtbot, opener).click("bring.start")
    assert Path(target).read_bytes().startswith(b"PK")
    opener.window.path_dropped.emit(str(target))
    until_looked(qtbot, opener)
    assert len(opener.window.bring_desk.table) == 5
    line = opener.window.findChild(QLineEdit, "bring.all.diameter_mm")
    qtbot.waitUntil(line.isVisible)
    line.setText("8 mm")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    until_looked(qtbot, opener)
    assert opener.window.bring_desk.ready


def test_a_folder_of_records_finds_who_waits(qtbot, opener, usual_file, tmp_path, monkeypatch):
    assert opener.open(usual_file)
    waiting = [e for e in opener.window.logbook.entries if e.pull is None][:2]
    folder = tmp_path / "records"
    folder.mkdir()
    (folder / f"{waiting[0].specimen.code} first.csv").write_text(record(5000.0))
    (folder / "second.csv").write_text(record(6.0).replace("load_N", "Load"))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    opener.window.act("traces")
    dialog = dialog_of(qtbot, opener, TracesDialog)
    press(qtbot, dialog, "traces.folder")
    qtbot.waitUntil(lambda: len(dialog.lines) == 2, timeout=20_000)
    assert dialog.says.words == "1 record would come in, 1 cannot be read."
    dialog.unit.pick("kN")
    qtbot.waitUntil(lambda: "1 belong to nobody" in dialog.says.words, timeout=20_000)
    box = dialog.lines[1].box
    box.setCurrentIndex(box.findData(waiting[1].specimen.id))
    dialog._tell()
    assert dialog.store.text() == "Bring in 2 records"
    press(qtbot, dialog, "traces.store")
    by_id = {e.specimen.id: e for e in opener.window.logbook.entries}
    peaks = [by_id[e.specimen.id].analysis.peak_n for e in waiting]
    assert peaks == pytest.approx([5000.0, 6000.0], rel=0.01)
