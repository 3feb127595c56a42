"""A window that may only read offers nothing that stores; a technician's does not release."""

import pytest
from PyQt6.QtWidgets import QAbstractButton, QDialog, QFileDialog, QMessageBox

from bruiser.app.menu import STORING_ACTS
from bruiser.app.window import MainWindow
from bruiser.store.open_campaign import OpenCampaign
from bruiser.store.server.roles import CHECKER, READER, TECHNICIAN
from bruiser.ui.kit.storing import RELEASING, STORING, StoringButton, lock_storing, stores
from bruiser.workshop.logbook.workshop import open_workshop

STATIONS = ("brief", "cordage", "knots", "plan", "pull", "findings", "results", "guide", "logbook")


@pytest.fixture
def window_on(dressed, qtbot):
    made = []

    def open_on(place):
        window = MainWindow(open_workshop(place, read_only=False))
        qtbot.addWidget(window)
        window.resize(1280, 800)
        window.show()
        made.append(window)
        return window

    yield open_on
    for window in made:
        window.close()
        window.deleteLater()
    lock_storing("")


@pytest.fixture
def as_role(server, usual_on_server):
    """The campaign as somebody of a role opens it."""
    address = server.copy_of(usual_on_server)
    made = []

    def address_of(role):
        name = f"who_{role}_{address.database}"
        server.run_sql(f"CREATE ROLE {name} LOGIN IN ROLE {role}")
        made.append(name)
        return server.address(address.database, name)

    yield address_of
    server.forget(address)
    for name in made:
        server.run_sql(f"DROP ROLE {name}")


def press_everything(window, qapp, page):
    """Press every button of a page that can be pressed, and those of dialogs that come."""
    for one in page.findChildren(QAbstractButton):
        try:
            if one.isVisible() and one.isEnabled():
                yield one.objectName() or one.text()
                one.click()
        except RuntimeError:  # It went with what it stood on.
            continue
        for dialog in qapp.topLevelWidgets():
            if isinstance(dialog, QDialog) and dialog.isVisible():
                for answer in dialog.findChildren(QAbstractButton):
                    if answer.isVisible() and answer.isEnabled():
                        yield answer.objectName() or answer.text()
                        answer.click()
                dialog.close()
        if window.station != page.objectName():
            window.go_to(page.objectName())


def test_a_readers_window_offers_no_command_it_cannot_do(window_on, as_role, qapp, monkeypatch):
    for name in ("getOpenFileName", "getSaveFileName", "getOpenFileNames"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", staticmethod(lambda *_, **__: ""))
    yes = QMessageBox.StandardButton.Yes
    monkeypatch.setattr(QMessageBox, "question", staticmethod(lambda *_, **__: yes))
    window = window_on(as_role(READER))
    assert window.workshop.read_only
    assert "role on the server only reads" in window.notice.words
    asked, pressed, now = [], [], [""]
    writing = OpenCampaign.writing

    def tried(file):
        asked.append(now[0])
        return writing(file)

    monkeypatch.setattr(OpenCampaign, "writing", tried)
    for station in STATIONS:
        window.go_to(station)
        if station == "findings":
            window._open_finding(window.logbook.newest_found(1)[0].pull_id)
        for name in press_everything(window, qapp, window.pages[station]):
            now[0] = f"{station}: {name}"
            pressed.append(name)
    assert asked == []
    assert len(pressed) > 60
    assert not any(window.menu.actions[key].isEnabled() for key in STORING_ACTS)


@pytest.mark.parametrize(("role", "may"), [(TECHNICIAN, False), (CHECKER, True)])
def test_only_a_checker_checks_and_releases(window_on, as_role, role, may):
    window = window_on(as_role(role))
    window.go_to("guide")
    found = {
        b.objectName(): b
        for b in window.pages["guide"].findChildren(StoringButton)
        if b.objectName() in (*RELEASING, "guide.make")
    }
    assert set(found) == {*RELEASING, "guide.make"}
    for name, made in found.items():
        made.setEnabled(True)
        assert made.isEnabled() == (may or name not in RELEASING)
        assert ("checker" in made.toolTip()) == (not made.isEnabled())
    assert window.menu.actions["rename"].isEnabled()


def test_a_lock_is_felt_by_buttons_that_are_there_and_goes_with_its_window(dressed):
    made = StoringButton("Store", "cordage.store")
    made.setEnabled(True)
    lock_storing("It was opened for reading only.")
    assert not made.isEnabled()
    assert made.toolTip() == "It was opened for reading only."
    made.setEnabled(True)
    assert not made.isEnabled()
    lock_storing("")
    assert made.isEnabled()
    assert stores("brief.use.guy")
    assert not stores("results.filter")
    assert len(set(STORING)) == len(STORING)
