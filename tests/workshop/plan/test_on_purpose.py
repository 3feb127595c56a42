"""Legs, tails, eyes, damage and slings asked for in a plan, and what comes of them."""

import math
from dataclasses import replace

import pytest

from bruiser.core.planning.plausibility import rating_is_odd
from bruiser.core.records.bench_book import BenchBook
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Role
from bruiser.core.records.tied_state import TiedState
from bruiser.core.units import UnitChoice
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.workshop.bench.simulation import specimen_setup
from bruiser.workshop.desk.cutting import cut_length_m, cut_parts
from bruiser.workshop.logbook.logbook import kind_of
from bruiser.workshop.plan.cell_specimens import plan_specimens, row_words
from bruiser.workshop.plan.plan_cells import OTHER_WAY, OnPurpose, PlanDraft, cell_of
from bruiser.workshop.plan.plan_refusals import missing_fixtures
from bruiser.workshop.plan.state_entry import on_purpose_texts, read_on_purpose
from tests.build import Situation, post

DIRECTED = MethodPlan("cross and reverse")
STRUCTURES = (
    "alpine-butterfly",
    "bowline",
    "sheet-bend",
    "double-fishermans",
    "ring-bend",
    "double-figure-eight-loop",
    "klemheist",
    "rolling-hitch",
    "reef",
)


@pytest.fixture(scope="module")
def made():
    s = Situation()
    s.lot("R8")
    s.lot("R11", diameter_m=0.011)
    s.lot("W25", diameter_m=0.025, thickness_m=0.002, construction="tubular webbing")
    for structure in STRUCTURES:
        s.knot(structure)
    return replace(s.logbook(), bench_book=BenchBook(fixtures=(post(0.060, "host", "mast"),)))


def planned(made, structure, method=None, lot="R8", **more):
    draft = PlanDraft(
        lot_ids=(f"lot {lot}",),
        knot_ids=(f"knot {structure} plain",),
        methods=(method or MethodPlan(),),
        pulls=1,
        both_ends=False,
        **more,
    )
    return plan_specimens(made, draft)


def knots(specimens):
    return [s for s in specimens if s.role is Role.KNOT]


def test_directions_are_those_a_knot_is_meant_for_until_legs_are_picked(made):
    meant = knots(planned(made, "alpine-butterfly", DIRECTED))
    assert [s.method.direction for s in meant] == [
        "end to end",
        "eye against one end",
        "eye against the other end",
        "eye against both ends",
    ]
    picked = ("eye against both ends", "the eye spread as a ring", OTHER_WAY)
    found = knots(planned(made, "alpine-butterfly", DIRECTED, legs=picked))
    assert [s.method.direction for s in found] == list(picked[:2])


def test_a_one_way_hitch_is_planned_the_wrong_way_too(made):
    grip = MethodPlan("cord on rope")
    one = knots(planned(made, "klemheist", grip, lot_b_ids=("lot R11",)))
    both = knots(planned(made, "klemheist", grip, lot_b_ids=("lot R11",), legs=(OTHER_WAY,)))
    assert [s.method.direction for s in one] == [""]
    assert [s.method.direction for s in both] == ["", OTHER_WAY]
    slide = MethodPlan("slide test")
    along = knots(planned(made, "rolling-hitch", slide, fixture_ids=("f mast",), legs=(OTHER_WAY,)))
    assert {s.method.direction for s in along} == {"", OTHER_WAY}


def test_tails_of_several_lengths_are_rows_of_their_own_and_cut_so(made):
    asked = OnPurpose(tails_d=(0.0, 4.0, 20.0))
    usual, short, long = knots(planned(made, "sheet-bend", on_purpose=asked))
    assert [t.length_m for t in short.tails] == [pytest.approx(0.032)] * 2
    assert short.title.endswith("tail 4 d")
    assert usual.state == TiedState()
    more = cut_length_m(made, long) - cut_length_m(made, short)
    assert more == pytest.approx(2 * 16 * 0.008, abs=0.011)
    cells = [cell_of(kind_of(s)) for s in (usual, short, long)]
    assert len({c.key for c in cells}) == 3
    assert row_words(made, cells[1]).endswith("tail 4 d")


def test_a_closed_sling_is_a_layout_with_two_legs_and_costs_its_circumference(made):
    asked = OnPurpose(bends="both", around_m=0.8, joint_m=0.15)
    straight, sling = knots(planned(made, "double-fishermans", on_purpose=asked))
    assert (straight.layout_key, sling.layout_key) == ("bend", "sling")
    assert sling.layout.shares == 2
    assert [p.key for p in sling.layout.places if p.owner is not None] == [
        "nip_a",
        "knot_a",
        "nip_a2",
    ]
    parts = {p.name: p.length_m for p in cut_parts(made, sling)}
    assert parts["round the sling"] == 0.8
    assert not {"span", "on the drums", "round the pins"} & set(parts)
    assert cut_length_m(made, sling) == pytest.approx(math.fsum(parts.values()), abs=0.01)
    assert sling.pin_diameter_m > 0
    mid = knots(planned(made, "sheet-bend", on_purpose=OnPurpose(bends="sling", around_m=0.8)))
    assert [s.state.joint_m for s in mid] == [0.2]


def test_a_cut_in_the_eye_plans_the_damaged_rope_beside_it(made):
    asked = OnPurpose(cut_shares=(0.0, 0.4))
    found = planned(made, "alpine-butterfly", on_purpose=asked)
    assert [s.state.cut_share for s in knots(found)] == [0.0, 0.4]
    (rope,) = [s for s in found if s.role is Role.BASELINE and s.state.words]
    assert rope.title == "Plain rope, cut through by 40 %"
    assert not [s for s in planned(made, "bowline", on_purpose=asked) if s.state.words]


def test_a_bend_that_is_a_binding_too_lies_round_a_bundle_for_its_retention(made):
    squeezed = MethodPlan("retention test")
    (bound,) = knots(planned(made, "reef", squeezed, fixture_ids=("f mast",)))
    assert (bound.layout_key, bound.fixture.name, len(bound.tails)) == ("binding", "mast", 1)
    (bend,) = knots(planned(made, "reef"))
    assert (bend.layout_key, bend.fixture) == ("bend", None)
    said = missing_fixtures(made, PlanDraft(knot_ids=("knot reef plain",), methods=(squeezed,)))
    assert any("post or bundle" in words for words in said)
    around = {p.name: p.length_m for p in cut_parts(made, bound)}["round the host"]
    assert around == pytest.approx(math.pi * (0.060 + 0.008))
    lies = SimulatedSpecimen(specimen_setup(bound)).remains().truth
    assert lies["move_n"] > 0


def test_unequal_eyes_are_only_of_what_has_two(made):
    asked = OnPurpose(longer_eyes=(0.25,))
    (two,) = knots(planned(made, "double-figure-eight-loop", on_purpose=asked))
    (one,) = knots(planned(made, "bowline", on_purpose=asked))
    assert (two.state.longer_eye, one.state.longer_eye) == (0.25, 0.0)


def test_webbing_is_cut_in_widths_and_its_tails_too(made):
    (tape,) = knots(planned(made, "ring-bend", lot="W25"))
    assert {t.length_m for t in tape.tails} == {5 * 0.025}
    in_knot = next(p.length_m for p in cut_parts(made, tape) if p.name.startswith("in the"))
    assert in_knot == pytest.approx(22 * 0.025)
    (cord,) = knots(planned(made, "ring-bend"))
    assert {t.length_m for t in cord.tails} == {30 * 0.008}
    lot = tape.lot
    assert lot.round_m == pytest.approx(math.sqrt(4 * 0.025 * 0.002 / math.pi))
    assert rating_is_odd(12_000.0, "polyester", "tubular webbing", lot.round_m) is None
    assert rating_is_odd(12_000.0, "polyester", "tubular webbing", lot.diameter_m) is not None


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("tails", "short"),
        ("tails", "-3"),
        ("longer", "300"),
        ("cut", "100"),
        ("around", "long"),
        ("joint", "1 m"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(field, text):
    texts = {"tails": "usual", "bends": "sling", "around": "800 mm"} | {field: text}
    asked, errors = read_on_purpose(texts, UnitChoice())
    assert asked is None
    assert set(errors) == {field}


def test_a_sling_needs_its_circumference_and_what_is_typed_is_shown_again():
    asked, errors = read_on_purpose({"bends": "both"}, UnitChoice())
    assert (asked, set(errors)) == (None, {"around"})
    typed = {
        "tails": "usual, 6, 10", "longer": "0, 20", "cut": "0, 50",
        "bends": "both", "around": "800 mm", "joint": "200 mm",
    }  # fmt: skip
    asked, errors = read_on_purpose(typed, UnitChoice())
    assert errors == {}
    assert asked == OnPurpose(
        tails_d=(0.0, 6.0, 10.0), longer_eyes=(0.0, 0.2), cut_shares=(0.0, 0.5),
        bends="both", around_m=0.8, joint_m=0.2,
    )  # fmt: skip
    assert on_purpose_texts(asked, UnitChoice()) == typed
