"""No specimen without what it is tied on, and no less cord than goes round that."""

import math
from dataclasses import replace

import pytest

from bruiser.core.records.bench_book import BenchBook
from bruiser.core.records.methods import MethodPlan, wrong_order
from bruiser.core.records.records import Role
from bruiser.workshop.desk.cutting import cut_length_m, cut_parts
from bruiser.workshop.plan.cell_specimens import plan_specimens
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.plan.plan_refusals import missing_fixtures, thin_hosts
from tests.build import Situation, post

POST, PLATE = post(0.300, "host", "mast"), post(0.012, "plate", "plate 1")
EDGE = post(0.010, "edge", "edge 1")
GRIP = MethodPlan("cord on rope")


@pytest.fixture(scope="module")
def made():
    s = Situation()
    s.lot("R8")
    s.lot("R11", diameter_m=0.011)
    for structure, variant, choices in (
        ("prusik", "plain", ()),
        ("prusik", "three wraps", (("wraps", "three"),)),
        ("figure-eight-stopper", "plain", ()),
        ("constrictor", "plain", ()),
        ("bowline", "plain", ()),
        *(("tensionless-wrap", f"{n} turns", (("turns", n),)) for n in ("three", "four", "five")),
    ):
        s.knot(structure, variant, choices)
    book = BenchBook(fixtures=(POST, PLATE, EDGE))
    return replace(s.logbook(), bench_book=book)


def planned(made, structure, method, variant="plain", **more):
    draft = PlanDraft(
        lot_ids=("lot R8",),
        knot_ids=(f"knot {structure} {variant}",),
        methods=(method,),
        pulls=1,
        both_ends=False,
        **more,
    )
    return [s for s in plan_specimens(made, draft) if s.knot_a], missing_fixtures(made, draft)


def test_a_friction_hitch_is_planned_on_its_host_rope_or_not_at_all(made):
    none, said = planned(made, "prusik", GRIP)
    assert none == []
    assert "host rope" in said[0]
    (one,), said = planned(made, "prusik", GRIP, lot_b_ids=("lot R11",))
    assert (one.lot_b.name, one.pin_diameter_m, said) == ("R11", 0.0, [])


@pytest.mark.parametrize(("variant", "wraps"), [("plain", 2), ("three wraps", 3)])
def test_the_wraps_of_a_variant_and_of_its_method_are_one_number(made, variant, wraps):
    (one,), _ = planned(made, "prusik", GRIP, variant, lot_b_ids=("lot R11",))
    assert one.method.value("wraps") == wraps


@pytest.mark.parametrize(
    ("structure", "method", "fixture", "word"),
    [
        ("figure-eight-stopper", "stepped load", PLATE, "plate"),
        ("figure-eight-stopper", "cycles", PLATE, "plate"),
        ("constrictor", "retention test", POST, "binds"),
    ],
)
def test_a_plate_stays_a_plate_and_a_binding_keeps_its_post(made, structure, method, fixture, word):
    none, said = planned(made, structure, MethodPlan(method))
    assert none == []
    assert any(word in words for words in said)
    (one,), _ = planned(made, structure, MethodPlan(method), fixture_ids=(fixture.id,))
    assert one.fixture == fixture


def test_turns_round_a_thick_post_cost_its_circumference(made):
    lengths = []
    for variant in ("three turns", "four turns", "five turns"):
        (one,), _ = planned(
            made, "tensionless-wrap", MethodPlan("on a host"), variant, fixture_ids=(POST.id,)
        )
        turns = {"three": 3, "four": 4, "five": 5}[variant.split()[0]]
        parts = {p.name: p.length_m for p in cut_parts(made, one)}
        around = sum(v for k, v in parts.items() if k.startswith(("in the", "round the host")))
        assert around >= turns * math.pi * (0.300 + one.lot.diameter_m) - 1e-9
        lengths.append(cut_length_m(made, one))
    assert lengths[0] < lengths[1] < lengths[2]
    assert lengths[2] > 4.8


def test_plain_rope_is_pulled_over_an_edge_too(made):
    draft = PlanDraft(
        lot_ids=("lot R8",),
        knot_ids=("knot bowline plain",),
        methods=(MethodPlan("over an edge"),),
        pulls=3,
        both_ends=False,
        fixture_ids=(EDGE.id,),
    )
    plain = [s for s in plan_specimens(made, draft) if s.role is Role.BASELINE]
    assert [s.fixture for s in plain] == [EDGE] * 3
    assert plain[0].title == "Plain rope over edge 1"
    assert "edge" in {p.key for p in plain[0].layout.places}


def test_a_host_thinner_than_usual_is_asked_about(made):
    thin = post(0.010, "host", "rod")
    book = replace(made.bench_book, fixtures=(*made.bench_book.fixtures, thin))
    logbook = replace(made, bench_book=book)
    draft = PlanDraft(
        lot_ids=("lot R8",),
        knot_ids=("knot constrictor plain",),
        methods=(MethodPlan("retention test"),),
        fixture_ids=(thin.id, POST.id),
    )
    (said,) = thin_hosts(logbook, draft)
    assert "rod is 1.2 times as thick as R8" in said
    assert "right one?" in said


@pytest.mark.parametrize(("wraps", "wrong"), [(0, True), (1, False), (20, False), (40, True)])
def test_no_wraps_and_too_many_are_refused_at_their_field(wraps, wrong):
    found = wrong_order(MethodPlan("cord on rope", (("wraps", float(wraps)),)))
    assert ("wraps" in found) is wrong
