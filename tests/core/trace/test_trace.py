import numpy as np
import pytest

from bruiser.core.errors import TooFewPulls
from bruiser.core.trace import TraceEnd, smooth_load
from tests.core.trace.reading import read

RATE = 500.0


def ramp(seconds=8.0, top=8_000.0, zero=25.0, noise=3.0, seed=0):
    rng = np.random.default_rng(seed)
    n = int(seconds * RATE)
    time = np.arange(n + 250) / RATE
    load = np.concatenate([np.zeros(250), np.linspace(0, top, n)])
    travel = np.concatenate([np.zeros(250), np.linspace(0, 0.16, n)])
    return time, load + zero + noise * rng.standard_normal(n + 250), travel


def finish(time, load, travel, tail):
    n = len(tail)
    more = time[-1] + np.arange(1, n + 1) / RATE
    rest = travel[-1] + np.arange(1, n + 1) * 2e-5
    return np.r_[time, more], np.r_[load, tail], np.r_[travel, rest]


def test_a_sudden_fall_is_a_break_and_the_zero_is_taken_off():
    time, load, travel = finish(*ramp(), np.full(200, 25.0))
    seen = read(time, load, travel)
    assert seen.end is TraceEnd.BROKE
    assert seen.zero_n == pytest.approx(25, abs=1)
    assert seen.peak_n == pytest.approx(8_000, rel=0.003)
    assert seen.end_time_s == pytest.approx(time[-201], abs=0.01)
    assert seen.rate_m_s == pytest.approx(0.02, rel=0.02)
    assert seen.energy_j == pytest.approx(0.5 * 8_000 * 0.16, rel=0.02)


def test_a_slow_fall_is_a_run_out():
    fall = 25 + 8_000 * np.linspace(1, 0.02, 60)
    seen = read(*finish(*ramp(), np.r_[fall, np.full(150, 25.0)]))
    assert seen.end is TraceEnd.RAN_OUT


def test_a_load_that_stays_or_is_slacked_off_was_stopped():
    time, load, travel = ramp()
    assert read(time, load, travel).end is TraceEnd.STOPPED
    back = np.linspace(travel[-1], 0, 400)
    off = 25 + np.linspace(8_000, 0, 400)
    t = time[-1] + np.arange(1, 401) / RATE
    seen = read(np.r_[time, t], np.r_[load, off], np.r_[travel, back])
    assert seen.end is TraceEnd.STOPPED


def test_a_slip_that_costs_travel_is_the_first_slip():
    time, load, travel = ramp()
    i = int(np.searchsorted(load, 5_000))
    load[i:] -= 700.0
    seen = read(*finish(time, load, travel, np.full(200, 25.0)))
    assert seen.first_slip_n == pytest.approx(5_000, rel=0.02)
    assert seen.slips[0].drop_n == pytest.approx(700, rel=0.1)


def test_a_spike_is_not_the_peak():
    time, load, travel = ramp()
    load[2_000] += 9_000
    assert read(*finish(time, load, travel, np.full(200, 25.0))).peak_n < 8_100


def test_a_reading_at_capacity_is_flagged():
    time, load, travel = ramp(top=12_000)
    seen = read(time, np.minimum(load, 10_000), travel, capacity_n=10_000)
    assert "clipped" in seen.flags


def test_travel_from_the_first_sample_leaves_no_zero():
    time, load, travel = ramp()
    assert "no_zero" in read(time[250:], load[250:], travel[250:]).flags


def test_too_short_a_trace_is_refused_and_unequal_arrays_are_a_mistake():
    few = np.zeros(5)
    with pytest.raises(TooFewPulls):
        read(few, few, few)
    with pytest.raises(ValueError, match="length"):
        read(np.zeros(20), np.zeros(19), np.zeros(20))


def test_smoothing_keeps_the_length():
    for n in (1, 2, 3, 50):
        assert len(smooth_load(np.arange(n, dtype=float), RATE)) == n


def test_the_tail_gauge_is_read_at_shares_of_the_peak():
    time_s = np.arange(4_000) / 500
    load_n = np.concatenate([np.zeros(500), np.linspace(0, 10_000, 3_000), np.zeros(500)])
    tail_m = 0.002 + 1e-6 * load_n
    tail_m[1_000:1_100] = np.nan
    found = read(time_s, load_n, None, tail_m=tail_m).draw_by_load_m
    assert len(found) == 20
    assert found == pytest.approx([0.0005 * k for k in range(1, 21)], abs=4e-5)
    assert read(time_s, load_n, None).draw_by_load_m == ()
    assert read(time_s, load_n, None, tail_m=np.full(4_000, np.nan)).draw_by_load_m == ()
