"""The way on: one step for the whole campaign in every state, and an offer at every station."""

import pytest

from bruiser.workshop.course.next_step import STATION_OF, Deed, next_step, offer
from tests.states import STATES

STATIONS = ("brief", "cordage", "knots", "plan", "pull", "findings", "results", "guide")


@pytest.mark.parametrize("name", STATES)
def test_every_state_waits_for_one_step(name):
    s, question, revision, deed = STATES[name]
    logbook = s.logbook()
    found = next_step(logbook, question, revision)
    assert found.deed is deed
    assert found.station == STATION_OF[deed]
    assert found.words.endswith(".")
    assert found.does


@pytest.mark.parametrize("station", STATIONS)
@pytest.mark.parametrize("name", STATES)
def test_every_station_offers_a_step_in_every_state(name, station):
    s, question, revision, _ = STATES[name]
    logbook = s.logbook()
    found = offer(station, logbook, question, revision)
    assert found.step.does
    assert found.what.endswith(".")
    # What leads back to where one is, is no step, unless it is done there.
    if found.bare:
        assert found.step.station != station or found.step.deed in (
            Deed.ENTER_LOT,
            Deed.PLAN_STRAIGHT,
        )


def test_a_straight_pull_is_planned_for_the_lot_that_needs_it():
    s, question, revision, _ = STATES["a knot without its plain rope"]
    logbook = s.logbook()
    found = next_step(logbook, question, revision)
    assert found.lot_id == "lot T5"
    assert found.does == "Plan 5 straight pulls of T5"


def test_without_a_bench_something_that_measures_is_chosen_first():
    s, question, revision, _ = STATES["planned"]
    found = next_step(s.logbook(), question, revision, bench=False)
    assert found.deed is Deed.CHOOSE_BENCH
    offered = offer("pull", s.logbook(), question, revision, bench=False)
    assert offered.bare
    assert offered.step.deed is Deed.CHOOSE_BENCH
    assert "switched off" in offered.what


def test_cordage_offers_the_straight_pulls_of_the_lot_that_is_looked_at():
    s, question, revision, _ = STATES["another lot, not begun"]
    logbook = s.logbook()
    found = offer("cordage", logbook, question, revision, lot_id="lot T5")
    assert (found.step.deed, found.step.lot_id) == (Deed.PLAN_STRAIGHT, "lot T5")
    assert offer("cordage", logbook, question, revision, lot_id="lot R8").step.deed is Deed.READ
