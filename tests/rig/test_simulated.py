import math
import time

import numpy as np
import pytest

from bruiser.core.errors import Full
from bruiser.core.records.layouts import End
from bruiser.core.trace import TraceEnd, analyse_trace, trace_of
from bruiser.rig.instrument import InstrumentInfo, Motion, Stop
from bruiser.rig.recorder import Recorder
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.stretch import Stretch
from bruiser.rig.simulated.variants import tying

INFO = InstrumentInfo(
    name="simulated bench",
    sample_rate_hz=500.0,
    capacity_n=25_000.0,
    resolution_n=2.0,
    stroke_m=1.0,
    simulated=True,
)
KNOTS = {
    "figure-eight-loop": "loop_pair",
    "bowline": "loop_single",
    "sheet-bend": "bend",
    "flat-overhand": "bend",
    "clove-hitch": "hitch",
}
CORDS = {"polyester double braid": 8.0, "nylon kernmantle": 6.0, "HMPE hollow braid": 4.0}


def setup(cord, structure, seed):
    layout = "baseline" if structure is None else KNOTS[structure]
    knots = {} if structure is None else {End.A: tying(structure)}
    if layout == "loop_pair":
        knots[End.B] = tying(structure)
    return SpecimenSetup(
        cord=cord, diameter_mm=CORDS[cord], span_mm=400.0, layout=layout, knots=knots, seed=seed
    )


def pull(one, **more):
    specimen = SimulatedSpecimen(one)
    bench = SimulatedBench(specimen, INFO, 8.0, speed=math.inf, **more)
    blocks = [bench.read(0)]
    bench.arm()
    bench.pull()
    while bench.status().motion is Motion.PULLING:
        blocks.append(bench.read(0))
    blocks.append(bench.read(0))
    load = np.concatenate([b.load_n for b in blocks])
    travel = np.concatenate([b.travel_m for b in blocks])
    return specimen, bench, load, travel


@pytest.mark.parametrize("cord", CORDS)
@pytest.mark.parametrize("structure", [*KNOTS, None])
def test_the_analysis_finds_the_outcome_and_peak_the_simulator_knows(cord, structure):
    wanted = {"broke": TraceEnd.BROKE, "came_out": TraceEnd.RAN_OUT, "capsized": TraceEnd.RAN_OUT}
    for seed in range(3):
        specimen, _, load, travel = pull(setup(cord, structure, seed * 31 + 7))
        seen = analyse_trace(trace_of(load, travel, rate_hz=500.0))
        assert specimen.gave is not None
        assert seen.end is wanted[specimen.gave[0]]
        assert seen.peak_n == pytest.approx(specimen.highest_n, rel=0.012)


def test_the_same_seed_gives_the_same_readings():
    first = pull(setup("nylon kernmantle", "bowline", 4))
    second = pull(setup("nylon kernmantle", "bowline", 4))
    other = pull(setup("nylon kernmantle", "bowline", 5))
    np.testing.assert_array_equal(first[2], second[2])
    assert first[1].remains() == second[1].remains()
    assert other[0].highest_n != first[0].highest_n


def test_what_remains_fits_what_happened():
    specimen, bench, _, _ = pull(setup("HMPE hollow braid", "figure-eight-loop", 3))
    remains = bench.remains()
    assert remains.gave == "came_out"
    assert max(remains.draws_m.values()) > 0.04
    assert specimen.highest_n == remains.truth["highest_n"]
    still = [k for k in remains.knots if k.jam_level != "not_tried"]
    assert len(still) == 1


def test_limits_stop_the_bench_with_the_load_on():
    _, bench, load, _ = pull(setup("nylon kernmantle", None, 1), load_limit_n=3_000.0)
    assert bench.status().stopped_by is Stop.LOAD_LIMIT
    assert not bench.status().specimen_gave
    assert load[-50:].mean() == pytest.approx(3_000, rel=0.03)


def test_the_end_of_travel_stops_the_bench():
    short = InstrumentInfo(
        name="short",
        sample_rate_hz=500.0,
        capacity_n=25_000.0,
        resolution_n=2.0,
        stroke_m=0.02,
        simulated=True,
    )
    specimen = SimulatedSpecimen(setup("nylon kernmantle", None, 1))
    bench = SimulatedBench(specimen, short, 8.0, speed=math.inf)
    bench.arm()
    bench.pull()
    for _ in range(10):
        bench.read(0)
    assert bench.status().stopped_by is Stop.TRAVEL_LIMIT


def test_a_bench_that_hears_nothing_stops():
    now = [0.0]
    specimen = SimulatedSpecimen(setup("nylon kernmantle", None, 1))
    bench = SimulatedBench(specimen, INFO, 8.0, clock=lambda: now[0])
    bench.arm()
    bench.pull()
    for _ in range(8):
        now[0] += 0.1
        bench.keep_alive()
        bench.read(0)
    assert bench.status().motion is Motion.PULLING
    now[0] += 0.6
    bench.read(0)
    assert bench.status().stopped_by is Stop.WATCHDOG


def test_an_unarmed_bench_does_not_move():
    bench = SimulatedBench(
        SimulatedSpecimen(setup("nylon kernmantle", None, 1)), INFO, 8.0, speed=math.inf
    )
    bench.pull()
    assert bench.read(0).travel_m.max() == 0


def test_zero_is_taken_off():
    bench = SimulatedBench(
        SimulatedSpecimen(setup("nylon kernmantle", None, 1)), INFO, 8.0, speed=math.inf
    )
    bench.zero()
    assert abs(bench.read(0).load_n.mean()) < 1.0


def test_real_time_is_real_time():
    bench = SimulatedBench(SimulatedSpecimen(setup("nylon kernmantle", None, 1)), INFO, 8.0)
    began, count = time.monotonic(), 0
    while time.monotonic() - began < 0.3:
        count += len(bench.read(0.02))
    assert count == pytest.approx(500 * (time.monotonic() - began), abs=25)


def test_the_cord_follows_its_hysteresis():
    y = np.linspace(0, 100, 50)
    cord = Stretch(y, 50 * y, 0.3, 0.6, 0.25)
    up = [cord.load_at(v) for v in np.linspace(0, 60, 30)]
    down = [cord.load_at(v) for v in np.linspace(60, 40, 20)]
    again = [cord.load_at(v) for v in np.linspace(40, 80, 41)]
    assert up[-1] == pytest.approx(3_000)
    assert np.all(np.diff(up) > 0)
    assert np.all(np.diff(down) <= 0)
    assert down[-1] < 2_000
    assert np.all(np.diff(again) >= -1e-9)
    assert again[-1] == pytest.approx(4_000)
    assert cord.load_at(5.0) == 0.0


def test_a_full_disk_stops_the_bench_and_keeps_the_samples():
    bench = SimulatedBench(SimulatedSpecimen(setup("nylon kernmantle", None, 1)), INFO, 8.0)

    def refuse(block):
        raise Full("The disk is full.")

    recorder = Recorder(bench, refuse)
    bench.arm()
    bench.pull()
    recorder.start()
    while recorder.fault is None:
        time.sleep(0.01)
    recorder.finish()
    assert isinstance(recorder.fault, Full)
    assert not bench.status().armed
    assert recorder.unsaved == recorder.count > 50


def test_blocks_reach_the_sink_in_order_and_whole():
    bench = SimulatedBench(
        SimulatedSpecimen(setup("nylon kernmantle", None, 1)), INFO, 8.0, speed=math.inf
    )
    got = []
    recorder = Recorder(bench, lambda b: got.append((b.first, b.load_n.copy())))
    for _ in range(40):
        recorder.step()
        time.sleep(0.012)
    recorder.finish()
    assert len(got) >= 2
    assert [s for s, _ in got] == list(np.cumsum([0, *(len(v) for _, v in got[:-1])]))
    np.testing.assert_array_equal(np.concatenate([v for _, v in got]), recorder.recorded().load_n)
