"""Steps taken together, and the cut length of every layout."""

import math
from dataclasses import replace

import pytest

from bruiser.core.records.layouts import LAYOUTS, PlaceKind
from bruiser.core.records.records import Role, Tail
from bruiser.workshop.desk.cutting import (
    DRUM_DIAMETER_M,
    DRUM_TURNS,
    WASTE_M,
    cut_length_m,
    cut_parts,
)
from bruiser.workshop.logbook.commands import Changes, Command, PlanSpecimen, Together
from bruiser.workshop.logbook.live import read_logbook
from tests.build import KNOT, LOT, SPECIMEN
from tests.servers import home  # noqa: F401  (on a file and on a server)


class Final(Command):
    """A step that cannot be taken back."""

    title = "final"
    undoable = False

    def apply(self, connection):
        del connection
        return Changes(frozenset({"nothing"}))


def specimens(count):
    return [
        replace(SPECIMEN, id=f"n{n}", code=f"N-{n}", queue_position=100 + n) for n in range(count)
    ]


def test_one_undo_takes_all_of_them_back_and_one_redo_does_them_again(stocked):
    steps = Together(tuple(PlanSpecimen(s) for s in specimens(4)), "queue four")
    changes = stocked.do(steps)
    assert changes.tables == {"specimen"}
    assert changes.ids == ("n0", "n1", "n2", "n3")
    assert stocked.undo_title == "queue four"
    stocked.undo()
    assert len(read_logbook(stocked).entries) == 1
    stocked.redo()
    assert len(read_logbook(stocked).entries) == 5


def test_what_cannot_be_taken_back_makes_the_whole_final():
    (one,) = specimens(1)
    assert not Together((PlanSpecimen(one), Final()), "x").undoable
    assert Together((PlanSpecimen(one),), "x").undoable


def specimen_of(layout):
    knots = (KNOT, KNOT) if layout.key == "loop_pair" else (KNOT, None)
    tails = tuple(Tail(t.key, 0.1) for t in layout.tails)
    made = replace(SPECIMEN, layout_key=layout.key, knot_a=knots[0], knot_b=knots[1], tails=tails)
    if layout.key == "baseline":
        return replace(made, role=Role.BASELINE, knot_a=None, knot_b=None)
    return made


@pytest.mark.parametrize("layout", LAYOUTS.values(), ids=LAYOUTS)
def test_the_cut_length_of_every_layout_by_hand(stocked, layout):
    logbook = read_logbook(stocked)
    specimen = specimen_of(layout)
    kinds = [p.kind for p in layout.places]
    d = LOT.diameter_m
    knots = sum(k is not None for k in (specimen.knot_a, specimen.knot_b))
    cord = logbook.catalogue["bowline"].cord_rule({}).cord_d * d
    drums = kinds.count(PlaceKind.TERMINATION) * DRUM_TURNS * math.pi * (DRUM_DIAMETER_M + d)
    pins = kinds.count(PlaceKind.PIN) * math.pi * (specimen.pin_diameter_m + d)
    by_hand = specimen.span_m + knots * cord + 0.1 * len(layout.tails) + drums + pins + WASTE_M
    assert math.fsum(p.length_m for p in cut_parts(logbook, specimen)) == pytest.approx(by_hand)
    assert 0 <= cut_length_m(logbook, specimen) - by_hand < 0.01


def test_a_thicker_rope_and_a_longer_span_cost_more_cord(stocked):
    logbook = read_logbook(stocked)
    base = cut_length_m(logbook, SPECIMEN)
    thick = replace(SPECIMEN, lot=replace(LOT, diameter_m=0.012))
    assert cut_length_m(logbook, thick) > base
    assert cut_length_m(logbook, replace(SPECIMEN, span_m=0.9)) == pytest.approx(base + 0.5)
