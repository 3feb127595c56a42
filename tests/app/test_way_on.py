"""In every state of a campaign, each station and sheet has one button that leads on."""

import pytest
from PyQt6.QtWidgets import QAbstractButton, QDialog
from tests.guides import freeze_revision
from tests.states import STATES
from tests.usual import store

from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.ui.runtime.preferences import Preferences
from bruiser.ui.stations.results.sheets import SHEETS
from bruiser.workshop.desk.brief_entry import change_campaign
from bruiser.workshop.logbook.workshop import open_workshop

NO_BENCH = "planned, and no bench"


def leading_on(page):
    """The buttons marked as the first, seen and enabled; a dialog has its own."""
    return [
        b
        for b in page.findChildren(QAbstractButton)
        if b.property("role") == "primary"
        and b.isVisibleTo(page)
        and b.isEnabled()
        and b.window() is page.window()
    ]


def settle(qtbot, window):
    """Wait until nothing is being worked out, and what follows from it was shown."""
    qtbot.waitUntil(lambda: not window.tasks.busy)
    qtbot.wait(2)


SITUATIONS = [
    pytest.param(state, marks=() if n % 4 == 0 else pytest.mark.slow)
    for n, state in enumerate((*STATES, NO_BENCH))
]
"""Every state a campaign can be in; a quarter of them every day."""


@pytest.fixture(params=SITUATIONS)
def window(request, dressed, qtbot, tmp_path):
    bench = request.param != NO_BENCH
    situation, question, revision, _ = STATES[request.param if bench else "planned"]
    path = tmp_path / "state.bruiser"
    store(situation, path, hanks=())
    workshop = open_workshop(path)
    change_campaign(workshop, question=question)
    if revision:
        freeze_revision(workshop)
    made = MainWindow(workshop, preferences=Preferences(simulated=bench))
    qtbot.addWidget(made)
    made.show()
    qtbot.waitUntil(lambda: not made.tasks.busy)
    yield made
    made.close()


def test_every_station_and_sheet_has_one_way_on(qtbot, window):
    found = {}
    for station in STATIONS:
        window.go_to(station.key)
        settle(qtbot, window)
        found[station.key] = leading_on(window.pages[station.key])
    window.go_to("results")
    if not window.pages["results"].sides.currentIndex():
        for key in SHEETS:
            window.results.show_sheet(key)
            settle(qtbot, window)
            found[f"results: {key}"] = leading_on(window.pages["results"])
    wrong = {k: [b.objectName() for b in v] for k, v in found.items() if len(v) != 1}
    assert wrong == {}


def seen(window):
    """What a person sees of where one is and what leads on, and where the keyboard is."""
    focus = window.focusWidget()
    return (
        window.station,
        [b.objectName() for b in leading_on(window.pages[window.station])],
        len(window.logbook.entries),
        None if focus is None else focus.objectName(),
        [d.objectName() for d in window.findChildren(QDialog) if d.isVisible()],
    )


EACH = [
    pytest.param(state, station.key, marks=() if (n + m) % 6 == 0 else pytest.mark.slow)
    for n, state in enumerate((*STATES, NO_BENCH))
    for m, station in enumerate(STATIONS)
]
"""Every station in every state; a sixth of them every day."""


@pytest.mark.parametrize(("window", "station"), EACH, indirect=["window"])
def test_what_a_station_offers_leads_on(qtbot, window, station):
    window.go_to(station)
    settle(qtbot, window)
    (offered,) = leading_on(window.pages[station])
    if not offered.objectName().endswith(("way_on", "offer.go")):
        return
    before = seen(window)
    offered.click()
    settle(qtbot, window)
    assert window.notice.words == "" or "queue" in window.notice.words
    assert seen(window) != before
    (_,) = leading_on(window.pages[window.station])
