"""What is done to a specimen changes its truth, in the direction it should, for every family."""

import math
from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.records.layouts import End
from bruiser.rig.instrument import InstrumentInfo, Motion, Stop
from bruiser.rig.simulated.archetypes import Kind, advantage, release_force_share, residual_grip
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.collapse import AT_ONCE, Collapse, strands
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.sensor import Faults, Sensor
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import BASES, tying

INFO = InstrumentInfo(
    name="bench",
    sample_rate_hz=500.0,
    capacity_n=50_000.0,
    resolution_n=2.0,
    stroke_m=2.0,
    simulated=True,
)


def bend(structure="sheet-bend", choices=None, seed=1, **more):
    settings = {"cord": "polyester double braid", "layout": "bend"} | more
    knots = {End.A: tying(structure, choices or {})}
    return SpecimenSetup(diameter_mm=8, span_mm=250, knots=knots, seed=seed, **settings)


def hitch(structure="clove-hitch", choices=None, seed=1, **more):
    return bend(structure, choices, seed, **({"layout": "hitch"} | more))


def truth(setup):
    """Load share at which it gave, and how."""
    specimen = SimulatedSpecimen(setup)
    bench = SimulatedBench(specimen, INFO, 40.0, speed=math.inf)
    bench.arm()
    bench.pull()
    while bench.status().motion is Motion.PULLING:
        bench.read(0)
    return specimen.highest_n / specimen.strength_n, specimen


HMPE = "HMPE hollow braid"
LOOP = {"layout": "loop_single"}
SLICK_LOOP = {**LOOP, "cord": HMPE}
ROPE = {"layout": "hitch", "other_mm": 11}
POST = {"layout": "hitch", "host_mm": 60}
MIDLINE = {"layout": "midline", "cord": HMPE}

EFFECTS = {
    "crossed": (("sheet-bend", {}, {"crossed": True}), ("sheet-bend", {}, {})),
    "tails apart": (("sheet-bend", {"tails": "opposite"}, {}), ("sheet-bend", {}, {})),
    "wet": (("sheet-bend", {}, {"wet": True}), ("sheet-bend", {}, {})),
    "worn": (("sheet-bend", {}, {"wear": 0.8}), ("sheet-bend", {}, {})),
    "thin other line": (
        ("sheet-bend", {}, {"other_mm": 5.0, "other_cord": "nylon kernmantle"}),
        ("sheet-bend", {}, {}),
    ),
    "doubled": (("sheet-bend", {}, {}), ("double-sheet-bend", {}, {})),
    "a third turn": (
        ("double-fishermans", {}, {"cord": HMPE}),
        ("triple-fishermans", {}, {"cord": HMPE}),
    ),
    "wraps": (("prusik", {"wraps": "two"}, ROPE), ("prusik", {"wraps": "three"}, ROPE)),
    "thick host rope": (("prusik", {}, {**ROPE, "other_mm": 20}), ("prusik", {}, ROPE)),
    "slick host": (
        ("clove-hitch", {}, {**POST, "host_finish": "polished steel"}),
        ("clove-hitch", {}, {**POST, "host_finish": "rough bark"}),
    ),
    "wide hole": (
        ("figure-eight-stopper", {}, {"layout": "hitch", "seat_d": 2.5}),
        ("figure-eight-stopper", {}, {"layout": "hitch", "seat_d": 1.5}),
    ),
    "wrong pair of legs": (
        ("alpine-butterfly", {}, {**MIDLINE, "direction": "end to end, with loss"}),
        ("alpine-butterfly", {}, {**MIDLINE, "direction": "end to end"}),
    ),
    "ring load": (("bowline", {}, {**LOOP, "direction": "ring load"}), ("bowline", {}, LOOP)),
    "uneven eyes": (
        ("double-figure-eight-loop", {}, {**LOOP, "uneven": 1.0}),
        ("double-figure-eight-loop", {}, LOOP),
    ),
    "backup": (("bowline", {}, SLICK_LOOP), ("bowline", {"backup": "double-overhand"}, SLICK_LOOP)),
    "finish": (
        ("taut-line-hitch", {"finish": "cow"}, SLICK_LOOP),
        ("farrimond", {"wraps": "five"}, SLICK_LOOP),
    ),
}


def pulled(case, seed):
    structure, choices, more = case
    return truth(bend(structure, choices, seed, **more))[1].highest_n


@pytest.mark.parametrize("effect", EFFECTS)
def test_what_is_done_to_a_specimen_changes_where_it_gives(effect):
    less, more = (np.mean([pulled(case, s) for s in range(4)]) for case in EFFECTS[effect])
    assert less < 0.985 * more


def test_an_edge_takes_strength_from_plain_rope():
    plain = SpecimenSetup(
        cord="nylon kernmantle", diameter_mm=8, span_mm=250, layout="baseline", knots={}, seed=3
    )
    assert truth(replace(plain, edge_mm=10))[0] < 0.9 * truth(plain)[0]


def test_a_slipped_knot_jams_less_and_shakes_loose_sooner():
    plain, slipped = tying("bowline").archetype, tying("bowline", {"slip": "slipped"}).archetype
    assert slipped.jam_base < plain.jam_base
    assert slipped.loosen > plain.loosen
    assert slipped.efficiency < plain.efficiency


def test_a_short_tail_runs_out_where_a_long_one_breaks():
    def gave(tail_mm):
        setup = replace(
            bend("fishermans", seed=3), tails_mm={"tail_a": tail_mm, "tail_a2": tail_mm}
        )
        crossed = replace(setup, crossed=True, wet=True, cord="polypropylene 3-strand")
        return truth(crossed)[1]

    assert gave(5.0).gave[0] == "came_out"
    assert gave(5.0).highest_n <= gave(400.0).highest_n


def test_shaking_loosens_what_is_prone_to_it():
    def shaken(structure):
        specimen = SimulatedSpecimen(bend(structure, layout="loop_single"))
        count = 0
        while specimen.gave is None and count < 120:
            for travel in (*np.linspace(5, 45, 40), *np.linspace(45, 0, 40)):
                specimen.advance(float(travel), 0.01)
            count += 1
        return count, specimen

    loose, specimen = shaken("bowline")
    tight, _ = shaken("figure-eight-loop")
    assert specimen.gave == ("came_out", "knot_a")
    assert specimen.snatches >= 6
    assert loose < tight


def test_a_sustained_load_creeps_and_in_the_end_breaks():
    specimen = SimulatedSpecimen(
        SpecimenSetup(
            cord="nylon kernmantle", diameter_mm=8, span_mm=250, layout="baseline", knots={}, seed=2
        )
    )
    travel = 0.0
    while specimen.load_n < 0.93 * specimen.strength_n:
        travel += 0.2
        specimen.advance(travel, 0.01)
    first = specimen.load_n
    for _ in range(500):
        specimen.advance(travel, 0.01)
    assert specimen.load_n < first
    for _ in range(60_000):
        if specimen.gave is not None:
            break
        travel += 0.001
        specimen.advance(travel, 0.01)
    assert specimen.gave[0] == "broke"


def test_tensioning_release_and_binding_have_their_own_sums():
    nylon, slick = CORDS["nylon kernmantle"], CORDS["HMPE hollow braid"]
    trucker = BASES["truckers-hitch"]
    theory, real = advantage(trucker, nylon)
    assert theory == 3.0
    assert 1.0 < real < advantage(trucker, slick)[1] < 3.0
    specimen = SimulatedSpecimen(hitch("truckers-hitch"))
    specimen.advance(30.0, 0.01)
    assert specimen.hand_n < specimen.load_n
    slippery = BASES["slipped-half-hitch"]
    assert release_force_share(slippery, nylon, 0.4) > release_force_share(slippery, nylon, 0.1)
    grips = [residual_grip(BASES["constrictor"], nylon, n, 1.0) for n in (0, 10, 100)]
    assert grips[0] == 1.0
    assert grips[0] > grips[1] > grips[2] > residual_grip(BASES["clove-binding"], slick, 100, 1.0)


def test_untying_gets_harder_with_the_load_it_has_seen():
    def score(share):
        specimen = SimulatedSpecimen(bend("figure-eight-loop", layout="loop_single"))
        specimen.highest_n = share * specimen.strength_n
        return np.mean([specimen.try_untying(End.A, k)[1] for k in range(60)])

    assert score(0.1) < score(0.4) < score(0.7)
    specimen = SimulatedSpecimen(bend("figure-eight-loop", layout="loop_single"))
    assert specimen.try_untying(End.A, 3) == specimen.try_untying(End.A, 3)
    (knot,) = specimen._knots
    knot.heat_j = 1e6
    assert specimen.try_untying(End.A, 0)[0] == "fused"


def test_a_break_rings_about_nothing_and_dies_away():
    fall = Collapse(10_000.0, AT_ONCE, 120.0, 0.05)
    means = np.array([fall.mean_n(k * 1e-3, (k + 1) * 1e-3) for k in range(200)])
    assert means[0] == pytest.approx(10_000, rel=0.12)
    assert means.min() < -3_000
    assert np.abs(means[150:]).max() < 200
    assert fall.mean_n(0.0, 0.002) == pytest.approx(means[:2].mean())
    fine = np.array([fall.mean_n(k * 1e-5, (k + 1) * 1e-5) for k in range(100)])
    assert fine.mean() == pytest.approx(means[0], rel=1e-9)


def test_strands_part_one_after_another():
    fall = Collapse(9_000.0, strands(0.5, (0.05, 0.05)), 300.0, 0.1)
    at = {t: fall.mean_n(t, t + 0.005) for t in (0.045, 0.095, 0.2)}
    assert at[0.045] == pytest.approx(9_000 * 0.59, rel=0.03)
    assert at[0.095] == pytest.approx(9_000 * 0.295, rel=0.06)
    assert abs(at[0.2]) < 60


@pytest.mark.parametrize(
    ("faults", "check"),
    [
        (Faults(noise_share=0.0, clip_n=3_000.0), lambda v: v.max() == 3_000.0),
        (Faults(dropouts=((0.5, 0.1),)), lambda v: np.isnan(v).sum() == 50),
        (Faults(stuck=(0.5, 0.2)), lambda v: len(set(v[250:350])) == 1),
        (Faults(disconnect_s=1.5), lambda v: set(v[750:]) == {0.0}),
        (Faults(disconnect_s=1.5, disconnect_reads="nothing"), lambda v: np.isnan(v[750:]).all()),
        (Faults(drift_n_per_s=100.0), lambda v: v[-1] - v[0] > 5_100),
        (Faults(spikes_per_s=20.0), lambda v: np.abs(np.diff(v)).max() > 1_000),
        (Faults(noise_share=0.0, hum_n=40.0), lambda v: np.std(np.diff(v)) > 10.0),
    ],
)
def test_every_fault_shows_in_the_record(faults, check):
    sensor = Sensor(
        capacity_n=20_000.0, resolution_n=1.0, rate_hz=500.0, rng=np.random.default_rng(1)
    )
    sensor.faults = faults
    load = np.linspace(0, 5_000, 1_000)
    assert check(np.concatenate([sensor.sense(load[:300], 0), sensor.sense(load[300:], 300)]))
    stamps = sensor.stamps_s(0, 100)
    assert np.allclose(stamps, np.arange(100) / 500.0)


def test_targets_are_reached_and_kept():
    specimen = SimulatedSpecimen(bend("figure-eight-loop", layout="loop_single"))
    bench = SimulatedBench(specimen, INFO, 20.0, speed=math.inf)
    bench.arm()
    for target in (2_000.0, 500.0, 3_000.0):
        bench.to_load(target)
        while not bench.status().at_target:
            bench.read(0)
        assert specimen.load_n == pytest.approx(target, rel=0.12)
    bench.to_travel(0.005)
    while not bench.status().at_target:
        bench.read(0)
    assert bench.read(0).travel_m[-1] == pytest.approx(0.005, abs=1e-4)
    assert bench.status().stopped_by is Stop.NONE
    bench.set_rate(0.001)
    bench.pull()
    before = bench.read(0).travel_m[-1]
    assert bench.read(0).travel_m[-1] - before == pytest.approx(0.0005, abs=1e-4)


def test_every_kind_has_its_knots():
    assert {a.kind for a in BASES.values()} == set(Kind)


def test_a_backup_holds_while_there_is_tail_and_then_lets_go():
    setup = bend("bowline", {"backup": "double-overhand"}, 2, **SLICK_LOOP)
    short = replace(setup, tails_mm={"tail_a": 40.0})
    share, specimen = truth(short)
    assert specimen.gave is not None
    assert (
        share > truth(replace(bend("bowline", {}, 2, **SLICK_LOOP), tails_mm={"tail_a": 40.0}))[0]
    )
