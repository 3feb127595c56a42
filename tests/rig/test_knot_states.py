"""One knot while it is loaded, and what is left of a specimen afterwards."""

import math
from dataclasses import replace

import pytest

from bruiser.core.records.layouts import End
from bruiser.rig.simulated.archetypes import Kind
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.knot import GLAZE_D, SLIDE_D, KnotState
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import BASES, tying


def knot(structure="bowline", **changes):
    made = KnotState(
        end=End.A,
        place="knot_a",
        archetype=BASES[structure],
        cord=CORDS["polyester double braid"],
        cord_n=14_000.0,
        diameter_mm=8.0,
        strength_n=9_000.0,
        fitness=1.0,
        capsize_n=math.inf,
        tails={"tail_a": 100.0},
        drawn={"tail_a": 0.0},
    )
    return replace(made, **changes)


def test_what_is_engaged_shrinks_only_when_the_tail_is_used_up():
    assert knot(drawn={"tail_a": 99.0}).engaged() == 1.0
    half = 100.0 + 0.5 * BASES["bowline"].engaged_d * 8.0
    assert knot(drawn={"tail_a": half}).engaged() == pytest.approx(0.5)
    assert knot(drawn={"tail_a": 1_000.0}).engaged() == 0.0
    assert knot(drawn={"tail_a": 1_000.0}).gone()
    loads = [knot(drawn={"tail_a": x}).slip_load() for x in (0.0, 120.0, 150.0, 180.0)]
    assert loads == sorted(loads, reverse=True)


def test_a_rope_grip_slides_glazes_and_is_off_in_the_end():
    grip = knot("prusik", ratio=0.7)
    assert grip.slides
    first = grip.slip_load()
    grip.slide(0.9 * GLAZE_D * 8.0, 3_000.0)
    assert grip.slip_load() == first
    grip.slide(0.2 * GLAZE_D * 8.0, 3_000.0)
    assert grip.glazed
    assert grip.slip_load() == pytest.approx(0.8 * first)
    assert not grip.gone()
    grip.slide(SLIDE_D * 8.0, 3_000.0)
    assert grip.gone()


def test_a_stopper_is_through_at_once_and_a_loop_without_tail_feeds_through():
    stopper = knot("overhand-stopper", seat_d=2.0)
    assert not stopper.gone()
    stopper.slips = 1
    assert stopper.gone()
    loop = knot("alpine-butterfly", tails={}, drawn={})
    assert loop.slides
    loop.slide(BASES["alpine-butterfly"].engaged_d * 8.0 + 1, 100.0)
    assert loop.gone()


def test_a_backup_takes_over_where_the_tail_ends_until_its_own_load():
    backed = knot(drawn={"tail_a": 150.0}, backup_n=5_000.0)
    bare = knot(drawn={"tail_a": 150.0})
    assert bare.slip_load() < backed.slip_load() == 5_000.0
    backed.overcome(4_000.0)
    assert backed.slip_load() == 5_000.0
    backed.overcome(5_100.0)
    assert backed.slip_load() == bare.slip_load()
    fresh = knot(backup_n=5_000.0)
    fresh.overcome(8_000.0)
    assert fresh.backup_n == 5_000.0


def test_slip_work_melts_what_can_melt():
    hot = knot()
    hot.slide(40.0, 5_000.0)
    assert hot.heat_j == pytest.approx(200.0)
    assert not hot.fused
    hot.heat_j = 1e5
    assert hot.fused
    assert not replace(hot, cord=CORDS["manila 3-strand"]).fused


def pulled(structure, layout="loop_single", **more):
    setup = SpecimenSetup(
        cord="polyester double braid",
        diameter_mm=8,
        span_mm=250,
        layout=layout,
        knots={End.A: tying(structure)},
        seed=3,
        **more,
    )
    specimen = SimulatedSpecimen(setup)
    travel = 0.0
    while specimen.gave is None and travel < 1_500:
        travel += 0.1
        specimen.advance(travel, 0.005)
    return specimen


@pytest.mark.parametrize(
    ("structure", "layout", "truth"),
    [
        ("truckers-hitch", "hitch", "advantage_real"),
        ("slipped-half-hitch", "hitch", "release_n"),
        ("constrictor", "hitch", "residual_grip"),
        ("prusik", "hitch", "slid_A_mm"),
        ("bowline", "loop_single", "knot_A_n"),
    ],
)
def test_each_family_leaves_its_own_truth(structure, layout, truth):
    remains = pulled(structure, layout).remains()
    assert math.isfinite(remains.truth[truth])
    assert remains.gave in ("broke", "came_out", "capsized")


def test_who_gave_is_not_untied_and_the_other_is():
    setup = SpecimenSetup(
        cord="polyester double braid",
        diameter_mm=8,
        span_mm=250,
        layout="loop_pair",
        knots={End.A: tying("bowline"), End.B: tying("figure-eight-loop")},
        seed=5,
    )
    specimen = SimulatedSpecimen(setup)
    travel = 0.0
    while specimen.gave is None:
        travel += 0.1
        specimen.advance(travel, 0.005)
    remains = specimen.remains()
    levels = {k.end: k.jam_level for k in remains.knots}
    owner = remains.place[-1].upper()
    assert levels[owner] == "not_tried"
    assert next(v for k, v in levels.items() if k != owner) != "not_tried"
    assert specimen.remains() == remains
    assert {k.archetype.kind for k in specimen.knots} == {Kind.NIP}


def test_what_was_stopped_has_no_place():
    setup = SpecimenSetup(
        cord="nylon kernmantle", diameter_mm=8, span_mm=250, layout="baseline", knots={}, seed=1
    )
    specimen = SimulatedSpecimen(setup)
    specimen.advance(5.0, 0.01)
    assert (specimen.remains().gave, specimen.remains().place) == ("stopped", None)
    assert specimen.tail_mm == 0.0
    assert specimen.hand_n == specimen.load_n


def test_the_gauge_sees_a_knot_seating_itself_and_the_rule_agrees():
    setup = SpecimenSetup(
        cord="nylon kernmantle",
        diameter_mm=8,
        span_mm=250,
        layout="loop_single",
        knots={End.A: tying("figure-eight-loop")},
        seed=5,
    )
    specimen = SimulatedSpecimen(setup)
    shown = [specimen.tail_mm]
    travel = 0.0
    while specimen.gave is None:
        travel += 0.5
        specimen.advance(travel, 0.02)
        shown.append(specimen.tail_mm)
    assert shown[0] == 0.0
    assert shown == sorted(shown)
    assert shown[-1] > 1.0
    ruled = specimen.remains().draws_m["tail_a"]
    assert ruled == pytest.approx(specimen.tail_mm / 1000, abs=0.003)
