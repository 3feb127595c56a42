"""The way on: one step for the whole campaign in every state, and an offer at every station."""

from dataclasses import replace

import pytest

from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.records import Gave, Role, Tail
from bruiser.workshop.course.next_step import STATION_OF, Deed, next_step, offer
from bruiser.workshop.logbook.entries import Entry
from tests.build import Situation

STATIONS = ("brief", "cordage", "knots", "plan", "pull", "findings", "results", "guide")


def waiting(s, lot, knot=None):
    """A specimen that waits for the bench."""
    if knot is None:
        planned = s.specimen(lot, MethodPlan(STRAIGHT), role=Role.BASELINE)
    else:
        planned = s.specimen(
            lot,
            MethodPlan(RAMP),
            role=Role.KNOT,
            layout_key="loop_single",
            knot_a=knot,
            tails=(Tail("tail_a", 0.1),),
        )
    s.entries.append(Entry(specimen=planned))


def not_inspected(s):
    """The last pull, before anybody looked at it."""
    s.entries[-1] = replace(s.entries[-1], finding=None, history=())


def states():
    """Every state of a campaign with the deed it waits for."""
    s = Situation()
    yield "nothing", s.logbook(), "", False, Deed.ASK
    yield "question", s.logbook(), "Which?", False, Deed.ENTER_LOT
    lot = s.lot("R8", plain=())
    yield "lot", s.logbook(), "Which?", False, Deed.PLAN_STRAIGHT
    waiting(s, lot)
    yield "straight pulls planned", s.logbook(), "Which?", False, Deed.PULL
    s = Situation()
    lot = s.lot("R8", plain=(9_900.0,))
    not_inspected(s)
    yield "pulled", s.logbook(), "Which?", False, Deed.INSPECT
    s = Situation()
    lot = s.lot("R8")
    yield "plain rope", s.logbook(), "Which?", False, Deed.CHOOSE_KNOTS
    knot = s.knot("bowline")
    yield "knots", s.logbook(), "Which?", False, Deed.PLAN
    waiting(s, lot, knot)
    yield "planned", s.logbook(), "Which?", False, Deed.PULL
    s = Situation()
    lot = s.lot("R8")
    s.pull("bowline", lot, 6_000.0, gave=Gave.VOID)
    yield "all void", s.logbook(), "Which?", False, Deed.PLAN
    s.pull("bowline", lot, 6_700.0)
    yield "one pull", s.logbook(), "Which?", False, Deed.PUBLISH
    yield "published", s.logbook(), "Which?", True, Deed.READ
    bare = s.lot("T5", plain=())
    yield "another lot, not begun", s.logbook(), "Which?", True, Deed.READ
    s.pull("bowline", bare, 2_000.0)
    yield "a knot without its plain rope", s.logbook(), "Which?", True, Deed.PLAN_STRAIGHT


STATES = {name: state for name, *state in states()}


@pytest.mark.parametrize("name", STATES)
def test_every_state_waits_for_one_step(name):
    logbook, question, revision, deed = STATES[name]
    found = next_step(logbook, question, revision)
    assert found.deed is deed
    assert found.station == STATION_OF[deed]
    assert found.words.endswith(".")
    assert found.does


@pytest.mark.parametrize("station", STATIONS)
@pytest.mark.parametrize("name", STATES)
def test_every_station_offers_a_step_in_every_state(name, station):
    logbook, question, revision, _ = STATES[name]
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
    logbook, question, revision, _ = STATES["a knot without its plain rope"]
    found = next_step(logbook, question, revision)
    assert found.lot_id == "lot T5"
    assert found.does == "Plan 5 straight pulls of T5"
