"""A laboratory: a campaign on a server opened, begun and recorded into, also while it is away."""

import socket
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit, QPushButton

from bruiser.app import recent
from bruiser.app.opener import Opener
from bruiser.store.open_campaign import Worker
from bruiser.ui.opening.new_dialog import NewDialog
from bruiser.ui.opening.server_dialog import ServerDialog
from bruiser.ui.runtime.preferences import Preferences
from bruiser.workshop.bench.delivering import files_waiting
from bruiser.workshop.desk.lot_commands import EditLot
from bruiser.workshop.findings.inspecting import accept_draft, draft_of
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.journeys.conftest import child
from tests.journeys.test_first_pull import arm, fill, hold_until, pull_to_failure
from tests.specimens import patient_bench

SECRET = "open sesame 7"


@pytest.fixture
def place(own_server, usual_campaign):
    return own_server.filled_with(usual_campaign)


@pytest.fixture
def opener(dressed, qtbot, own_server, tmp_path, monkeypatch):
    monkeypatch.setattr(recent, "recent_path", lambda: tmp_path / "recent.json")
    prefer = Preferences(toured=True, folder=str(tmp_path), bench="winch shed")
    made = Opener(prefer, patient_bench(25.0))
    made.show_start()
    qtbot.addWidget(made.start)
    yield made
    window = made.window
    if window is not None:
        window.close()
        window.deleteLater()
    made.start.close()


def click(qtbot, where, name):
    qtbot.mouseClick(child(where, QPushButton, name), Qt.MouseButton.LeftButton)


def server_dialog(qtbot, opener):
    click(qtbot, opener.start, "start.server")
    return child(opener.start, ServerDialog, "server")


def write(qtbot, dialog, name, text):
    line = child(dialog, QLineEdit, name)
    line.clear()
    qtbot.keyClicks(line, text)


def test_it_is_opened_with_a_password_after_three_wrong_things(qtbot, opener, own_server, place):
    own_server.run_sql(f"CREATE ROLE mara LOGIN IN ROLE bruiser_technician PASSWORD '{SECRET}'")
    own_server.wants_password("mara")
    dialog = server_dialog(qtbot, opener)
    write(qtbot, dialog, "server.address", "lab/ridge")
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert "This is no address" in dialog.address.complaint
    write(qtbot, dialog, "server.address", "postgresql://mara@127.0.0.1:1/ridge")
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert dialog.said.words == "Asking ridge on 127.0.0.1 …"
    assert not dialog.go.isEnabled()
    qtbot.waitUntil(lambda: "cannot be reached" in dialog.said.words)
    theirs = own_server.address(place.database, "mara")
    write(qtbot, dialog, "server.address", str(theirs))
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "wants a password" in dialog.said.words)
    write(qtbot, dialog, "server.password", "wrong")
    click(qtbot, dialog, "server.go")
    qtbot.waitUntil(lambda: "does not take this password" in dialog.said.words)
    write(qtbot, dialog, "server.password", SECRET)
    click(qtbot, dialog, "server.go")
    qtbot.waitUntil(lambda: opener.window is not None)
    window = opener.window
    assert window.workshop.file.worker == Worker(who="mara", bench="winch shed")
    assert SECRET not in window.windowTitle()
    assert [row.path for row in recent.read_recent()] == [str(theirs)]
    assert SECRET not in recent.recent_path().read_text(encoding="utf-8")
    opener.close_campaign()
    click(qtbot, opener.start, "start.recent.0")
    qtbot.waitUntil(lambda: opener.window is not None)


def test_where_no_server_answers_the_start_page_goes_on(qtbot, opener, usual_file):
    """One that listens and says nothing: it is asked while the page can be used."""
    with socket.create_server(("127.0.0.1", 0)) as silent:
        dialog = server_dialog(qtbot, opener)
        port = silent.getsockname()[1]
        write(qtbot, dialog, "server.address", f"postgresql://127.0.0.1:{port}/ridge")
        click(qtbot, dialog, "server.go")
        assert dialog.said.words.startswith("Asking")
        click(qtbot, dialog, "server.cancel")
        assert not dialog.isVisible()
        assert opener.open(usual_file)
        qtbot.waitUntil(lambda: not opener.leaving.tasks.busy)
    assert opener.window.workshop.file.place == str(usual_file)


def test_one_is_begun_in_an_empty_database(qtbot, opener, own_server):
    empty = own_server.empty()
    dialog = server_dialog(qtbot, opener)
    write(qtbot, dialog, "server.address", str(empty))
    click(qtbot, dialog, "server.go")
    qtbot.waitUntil(lambda: opener.start.findChild(NewDialog, "new") is not None)
    asked = child(opener.start, NewDialog, "new")
    assert asked.place.text == str(empty)
    assert asked.place.entry.isReadOnly()
    qtbot.keyClicks(asked.title.entry, "Yard lines")
    click(qtbot, asked, "new.make")
    assert opener.window.workshop.campaign.title == "Yard lines"
    assert opener.window.workshop.file.place == str(empty)
    assert opener.window.station == "brief"


def test_a_file_is_put_on_a_server_and_work_goes_on_there(qtbot, opener, own_server, usual_file):
    empty = own_server.empty()
    assert opener.open(usual_file)
    before = opener.window.workshop.campaign
    opener.act("put")
    dialog = child(opener.window, ServerDialog, "server")
    write(qtbot, dialog, "server.address", str(empty))
    click(qtbot, dialog, "server.go")
    qtbot.waitUntil(lambda: opener.window.workshop.file.shared)
    assert opener.window.workshop.campaign == before
    assert usual_file.exists()


def at_the_bench(qtbot, opener, place):
    assert opener.open_named(str(place))
    window = opener.window
    qtbot.waitUntil(lambda: window.workshop.file.online and not window.tasks.busy)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.go_to("pull")
    return window


def test_a_server_that_goes_in_a_pull_is_said_and_the_pull_comes_later(
    qtbot, opener, own_server, place
):
    window = at_the_bench(qtbot, opener, place)
    code = window.pull.entry.specimen.code
    run = arm(qtbot, window)
    hold_until(qtbot, window, run, lambda: window.pull.live.load_n > 800)
    own_server.stop()
    hold_until(qtbot, window, run, lambda: window.pull.session is None)
    qtbot.waitUntil(lambda: "kept on this machine" in window.notice.words)
    assert len(files_waiting(window.workshop)) == 1
    assert window.pull.entry is None or window.pull.entry.specimen.code != code
    own_server.start()
    qtbot.waitUntil(lambda: f"Delivered to the server: {code}" in window.notice.words)
    assert files_waiting(window.workshop) == []
    window.go_to("findings")
    assert code in {e.specimen.code for e in window.logbook.at(Stage.PULLED)}


def test_a_window_is_closed_while_the_server_is_away(qtbot, opener, own_server, place):
    window = at_the_bench(qtbot, opener, place)
    own_server.stop()
    qtbot.waitUntil(lambda: not window.workshop.file.online)
    qtbot.waitUntil(lambda: "The server is away" in window.notice.words)
    assert window.close()
    assert [row.path for row in recent.read_recent()] == [str(place)]


def test_two_benches_see_and_settle_what_each_other_did(qtbot, opener, place):
    window = at_the_bench(qtbot, opener, place)
    first = window.pull.entry.specimen
    other = open_workshop(place, worker=Worker(who="OQ", bench="yard"))
    lot = read_logbook(other).lots[0]
    other.do(EditLot(replace(lot, history="seen by the other")))
    qtbot.waitUntil(lambda: window.logbook.lots[0].history == "seen by the other", timeout=2_000)
    entry = read_logbook(other).at(Stage.INSPECTED)[0]
    for note in ("from the yard", "from the shed"):
        draft = draft_of(entry, other.units)
        draft.seen, draft.note, draft.correction = entry.history[-1].id, note, "again"
        assert accept_draft(other, entry, draft) == {}
    qtbot.waitUntil(lambda: "found differently on two benches" in window.notice.words)
    assert window.pull.entry.specimen == first
    window._open_finding(entry.pull.id)
    qtbot.waitUntil(lambda: child(window, QPushButton, "findings.holds.0").isVisible())
    click(qtbot, window, "findings.holds.0")
    assert window.logbook.by_pull[entry.pull.id].finding.note == "from the yard"
    assert not window.pages["findings"].settling.isVisible()
    other.close()


def test_what_is_pulled_on_a_server_is_found_and_counts(qtbot, opener, place):
    window = at_the_bench(qtbot, opener, place)
    code = window.pull.entry.specimen.code
    before = window.logbook.tally.count(Stage.INSPECTED)
    pull_to_failure(qtbot, window)
    assert window.findings.entry.specimen.code == code
    fill(qtbot, window)
    click(qtbot, window, "findings.accept")
    assert window.logbook.tally.count(Stage.INSPECTED) == before + 1
