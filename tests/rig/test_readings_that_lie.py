"""Readings that lie in the middle of a pull: the travel stops, and nothing is said to give."""

import numpy as np
import pytest

from bruiser.core.trace import trace_of
from bruiser.rig.channel_watch import ChannelWatch
from bruiser.rig.instrument import InstrumentInfo
from bruiser.workshop.bench.live_readings import LiveReadings

RATE_HZ, RATE_M_S, BLOCK = 500.0, 0.008, 10
FAULT_AT = 1_500
SOON = round(0.3 * RATE_HZ)


def info(step_n):
    return InstrumentInfo(
        name="bench",
        sample_rate_hz=RATE_HZ,
        capacity_n=20_000.0,
        resolution_n=step_n,
        stroke_m=1.0,
        simulated=False,
    )


def signal(step_n, noise_n, seed=5, count=3_000):
    """A cord pulled: load and travel, as a sound bench reads them."""
    rng = np.random.default_rng(seed)
    load = 12.0 + np.linspace(0.0, 16_000.0, count) + rng.normal(0.0, noise_n, count)
    travel = np.arange(count) * RATE_M_S / RATE_HZ + rng.normal(0.0, 1e-5, count)
    return np.round(load / step_n) * step_n, travel


def rest(step_n, noise_n):
    at_rest = 12.0 + np.random.default_rng(2).normal(0.0, noise_n, 200)
    return np.round(at_rest / step_n) * step_n


def run(load, travel, step_n, noise_n):
    """Samples after the fault until the specimen was said to have given, and until it stopped."""
    bench = type("Bench", (), {"info": info(step_n)})()
    live, watch = LiveReadings(bench, None), ChannelWatch(info(step_n))
    live.take_zero(rest(step_n, noise_n))
    watch.wavers_n, watch.in_steps, watch.rate_m_s = live.wavers_n, live.in_steps, RATE_M_S
    watch.begin_anew(forward=True)
    for first in range(0, len(load), BLOCK):
        stretch = slice(first, first + BLOCK)
        found = watch.look(trace_of(load[stretch], travel[stretch], first=first))
        if found is not None:
            return "stopped", first + BLOCK - FAULT_AT, str(found)
        live.take_in(load[stretch], travel[stretch], pulling=True)
        if live.gave(watched=True, pulling=True):
            return "gave", first + BLOCK - FAULT_AT, ""
    return "went on", len(load) - FAULT_AT, ""


def dead_at_zero(load, travel):
    load[FAULT_AT:] = 0.0


def dead_at_the_zero_taken(load, travel):
    load[FAULT_AT:] = 12.0


def wired_the_other_way(load, travel):
    load[FAULT_AT:] *= -1.0


def in_kilonewton(load, travel):
    load[FAULT_AT:] /= 1000.0


def travel_stands(load, travel):
    travel[FAULT_AT:] = travel[FAULT_AT]


def travel_in_metres(load, travel):
    travel[FAULT_AT:] /= 1000.0


def travel_backward(load, travel):
    travel[FAULT_AT:] = 2 * travel[FAULT_AT] - travel[FAULT_AT:]


FAULTS = (
    dead_at_zero, dead_at_the_zero_taken, wired_the_other_way, in_kilonewton, travel_stands,
    travel_in_metres, travel_backward,
)  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS, ids=lambda f: f.__name__)
@pytest.mark.parametrize(("step_n", "noise_n"), [(2.0, 4.0), (1.0, 10.0)])
def test_a_reading_that_lies_stops_the_travel_and_nothing_gave(fault, step_n, noise_n):
    load, travel = signal(step_n, noise_n)
    fault(load, travel)
    end, after, words = run(load, travel, step_n, noise_n)
    assert end == "stopped"
    assert 0 < after <= SOON + BLOCK
    assert words


@pytest.mark.parametrize(("step_n", "noise_n"), [(2.0, 4.0), (1.0, 10.0), (10.0, 1.0)])
@pytest.mark.parametrize("seed", range(5))
def test_a_sound_bench_is_let_alone_and_a_break_is_one(step_n, noise_n, seed):
    load, travel = signal(step_n, noise_n, seed)
    assert run(load.copy(), travel, step_n, noise_n)[0] == "went on"
    after = 12.0 + np.random.default_rng(seed).normal(0.0, noise_n, len(load) - FAULT_AT)
    load[FAULT_AT:] = np.round(after / step_n) * step_n
    assert run(load, travel, step_n, noise_n)[0] == "gave"


def test_a_cell_too_coarse_to_waver_is_known_by_its_steps():
    load, travel = signal(10.0, 1.0)
    in_kilonewton(load, travel)
    end, after, words = run(load, travel, 10.0, 1.0)
    assert (end, after <= SOON + BLOCK) == ("stopped", True)
    assert "another unit" in words
