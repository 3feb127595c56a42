"""A campaign in every state it goes through, with the deed that each waits for."""

import copy
from dataclasses import replace

from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.records import Gave, Role, Tail
from bruiser.workshop.course.next_step import Deed
from bruiser.workshop.logbook.entries import Entry
from tests.build import Situation


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
    yield "nothing", copy.deepcopy(s), "", False, Deed.ASK
    yield "question", copy.deepcopy(s), "Which?", False, Deed.ENTER_LOT
    lot = s.lot("R8", plain=())
    yield "lot", copy.deepcopy(s), "Which?", False, Deed.PLAN_STRAIGHT
    waiting(s, lot)
    yield "straight pulls planned", copy.deepcopy(s), "Which?", False, Deed.PULL
    s = Situation()
    lot = s.lot("R8", plain=(9_900.0,))
    not_inspected(s)
    yield "pulled", copy.deepcopy(s), "Which?", False, Deed.INSPECT
    s = Situation()
    lot = s.lot("R8")
    yield "plain rope", copy.deepcopy(s), "Which?", False, Deed.CHOOSE_KNOTS
    knot = s.knot("bowline")
    yield "knots", copy.deepcopy(s), "Which?", False, Deed.PLAN
    waiting(s, lot, knot)
    yield "planned", copy.deepcopy(s), "Which?", False, Deed.PULL
    s = Situation()
    lot = s.lot("R8")
    s.pull("bowline", lot, 6_000.0, gave=Gave.VOID)
    yield "all void", copy.deepcopy(s), "Which?", False, Deed.PLAN
    s.pull("bowline", lot, 6_700.0)
    yield "one pull", copy.deepcopy(s), "Which?", False, Deed.PUBLISH
    yield "published", copy.deepcopy(s), "Which?", True, Deed.READ
    bare = s.lot("T5", plain=())
    yield "another lot, not begun", copy.deepcopy(s), "Which?", True, Deed.READ
    s.pull("bowline", bare, 2_000.0)
    yield "a knot without its plain rope", copy.deepcopy(s), "Which?", True, Deed.PLAN_STRAIGHT


STATES = {name: state for name, *state in states()}
