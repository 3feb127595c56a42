import pytest

from bruiser.core.records.layouts import LAYOUTS, End
from bruiser.core.records.outcomes import Says, evidence, possible_findings
from bruiser.core.records.records import Gave, Role

E, F, N = Says.EVENT, Says.FLOOR, Says.NOTHING
A, B = End.A, End.B


@pytest.mark.parametrize(
    ("layout", "gave", "place", "holding", "breaking", "system"),
    [
        ("loop_pair", Gave.BROKE, "nip_b", {A: F, B: E}, {A: F, B: E}, E),
        ("loop_pair", Gave.BROKE, "knot_a", {A: E, B: F}, {A: E, B: F}, E),
        ("loop_pair", Gave.CAME_OUT, "knot_a", {A: E, B: F}, {A: F, B: F}, E),
        ("loop_pair", Gave.CAPSIZED, "knot_b", {A: F, B: E}, {A: F, B: F}, E),
        ("loop_pair", Gave.BROKE, "span", {A: F, B: F}, {A: F, B: F}, E),
        ("loop_pair", Gave.BROKE, "pin_a", {A: F, B: F}, {A: F, B: F}, F),
        ("loop_pair", Gave.BROKE, "eye_b", {A: F, B: F}, {A: F, B: F}, F),
        ("loop_pair", Gave.STOPPED, None, {A: F, B: F}, {A: F, B: F}, F),
        ("loop_single", Gave.BROKE, "termination_b", {A: F}, {A: F}, F),
        ("bend", Gave.BROKE, "nip_a2", {A: E}, {A: E}, E),
        ("hitch", Gave.CAME_OUT, "knot_a", {A: E}, {A: F}, E),
        ("loop_pair", Gave.VOID, None, {}, {}, N),
    ],
)
def test_a_finding_becomes_events_and_floors(layout, gave, place, holding, breaking, system):
    said = evidence(Role.KNOT, LAYOUTS[layout], gave, place)
    assert (said.holding, said.breaking, said.system) == (holding, breaking, system)
    assert said.baseline is N


@pytest.mark.parametrize(
    ("gave", "place", "says"),
    [
        (Gave.BROKE, "span", E),
        (Gave.BROKE, "termination_a", F),
        (Gave.STOPPED, None, F),
        (Gave.VOID, None, N),
    ],
)
def test_a_baseline_counts_only_a_clear_break(gave, place, says):
    said = evidence(Role.BASELINE, LAYOUTS["baseline"], gave, place)
    assert said.baseline is says
    assert said.holding == {}


def test_a_break_needs_its_place():
    with pytest.raises(ValueError, match="place"):
        evidence(Role.KNOT, LAYOUTS["bend"], Gave.BROKE, None)


def test_a_span_cannot_come_out():
    with pytest.raises(ValueError, match="cannot"):
        evidence(Role.KNOT, LAYOUTS["bend"], Gave.CAME_OUT, "span_a")


@pytest.mark.parametrize("layout", LAYOUTS.values(), ids=lambda x: x.key)
def test_every_place_takes_a_break_and_only_knots_come_out(layout):
    for place in layout.places:
        found = possible_findings(layout, place.key)
        assert Gave.BROKE in found
        assert (Gave.CAME_OUT in found) == (place.kind == "knot")
    assert possible_findings(layout, None) == (Gave.STOPPED, Gave.VOID)
