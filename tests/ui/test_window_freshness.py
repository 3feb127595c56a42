"""Stations that are not seen take up the logbook when they are shown, not after every step."""

import pytest

from bruiser.app.stations import STATIONS
from bruiser.app.window import MainWindow
from bruiser.workshop.desk import brief_entry
from bruiser.workshop.logbook.workshop import open_workshop

DESKS = {"brief", "cordage", "knots", "plan", "results"}


@pytest.fixture
def window(dressed, qtbot, usual_file):
    made = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(made)
    made.show()
    yield made
    made.close()


def seen(window, key):
    return getattr(window, key).logbook is window.logbook


def test_only_the_station_shown_is_handed_the_logbook(window, qtbot):
    window.go_to("brief")
    brief_entry.change_campaign(window.workshop, question="Which bend?")
    assert seen(window, "brief")
    assert not any(seen(window, key) for key in DESKS - {"brief"})
    for key in DESKS:
        window.go_to(key)
        assert seen(window, key)
    qtbot.waitUntil(lambda: not window.tasks.busy)


def test_a_station_shows_what_changed_while_it_was_not_seen(window, qtbot):
    window.go_to("knots")
    window.go_to("pull")
    brief_entry.change_campaign(window.workshop, trade="rigging", force_unit="lbf")
    window.go_to("cordage")
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert "lbf" in window.pages["cordage"].baseline.rating.words
    window.go_to("knots")
    window.knots.show("sheet-bend")
    assert window.pages["knots"].title.words == "Becket bend"


def test_the_rail_counts_without_waiting_for_the_stations(window):
    window.go_to("pull")
    claim = window.workshop
    before = window.rail.waiting_at("brief")
    logbook = window.logbook
    brief_entry.withdraw_claim(claim, logbook.brief.claims_in_force[0])
    assert before == "3 claims to test"
    assert window.rail.waiting_at("brief") == "2 claims to test"
    assert window.rail.waiting_at("cordage") == "5 lots"
    assert window.rail.waiting_at("knots") == "12 in play"


def test_every_station_can_be_shown_twice_without_a_change(window, qtbot):
    for _ in range(2):
        for key in (s.key for s in STATIONS):
            window.go_to(key)
            assert window.station == key
    qtbot.waitUntil(lambda: not window.tasks.busy)
    assert window.notice.words == ""


def test_a_window_that_only_reads_follows_the_one_that_writes(window, dressed, qtbot, usual_file):
    writing = window.workshop
    reading = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(reading)
    reading.show()
    assert reading.workshop.read_only
    reading.go_to("brief")
    brief_entry.change_campaign(writing, title="Renamed", force_unit="lbf")
    brief_entry.withdraw_claim(writing, window.logbook.brief.claims_in_force[0])
    qtbot.waitUntil(lambda: reading.rail.waiting_at("brief") == "2 claims to test")
    assert reading.workshop.campaign.title == "Renamed"
    assert reading.workshop.units.force == "lbf"
    reading.close()
