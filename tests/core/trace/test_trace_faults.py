"""What is wrong with a record is found, and what can still be read is read."""

import numpy as np
import pytest
from validation.trace_report import judge
from validation.traces import make_record, run_trial, run_trials, summarise

from bruiser.core.trace import FLAG_WORDS, TraceEnd, TraceSettings
from bruiser.core.trace.ending import break_instant
from bruiser.core.trace.repair import fit_clock, runs_of_equal
from bruiser.core.trace.smoothing import find_noise, median_of_three, running_mean, take_out_hum
from tests.core.trace.reading import read

RATE = 1000.0


def pull(seconds=6.0, top=9_000.0, seed=0, noise=2.0, broke=True):
    """A ramp after a second of rest, and a break that rings."""
    rng = np.random.default_rng(seed)
    n = int((seconds + 2) * RATE)
    t = np.arange(n) / RATE
    travel = np.clip(t - 1.0, 0, None) * 0.02
    load = top * np.clip((t - 1) / seconds, 0, 1) ** 1.2
    at = int((1 + seconds) * RATE)
    if broke:
        after = np.arange(n - at) / RATE
        load[at:] = top * np.exp(-40 * after) * np.cos(2 * np.pi * 120 * after + np.pi / 2)
    return t, load + 15 + noise * rng.standard_normal(n), travel


def seen(t, load, travel, **more):
    return read(t, load, travel, **more)


def test_a_clean_pull_has_no_doubts():
    r = seen(*pull())
    assert (r.end, r.flags, r.capsized, r.first_slip_n) == (TraceEnd.BROKE, (), False, None)
    assert r.end_time_s == pytest.approx(7.0, abs=0.003)
    assert r.peak_n == pytest.approx(9_000, rel=0.001)
    assert r.rate_m_s == pytest.approx(0.02, rel=0.01)
    assert r.doubts == ()


def changed(kind):
    t, load, travel = pull()
    if kind == "clock":
        t = t.copy()
        t[4_000:] -= 2.0
    elif kind == "dropout":
        keep = np.r_[0:3_000, 3_300 : len(t)]
        t, load, travel = t[keep], load[keep], travel[keep]
    elif kind == "stuck":
        load[3_000:3_300] = load[3_000]
    elif kind == "spikes":
        load[[2_500, 4_000]] += 5_000
    elif kind == "clipped":
        load = np.minimum(load, 6_000)
    elif kind == "disconnected":
        load[5_000:] = 0.0
    elif kind == "drift":
        load = load + 20.0 * t
    elif kind == "no_zero":
        t, load, travel = t[1_400:], load[1_400:], travel[1_400:]
    elif kind == "reversed_columns":
        load, travel = travel * 1e4, load / 1e4
    elif kind == "implausible_rate":
        t = t * 1000
    elif kind == "undersampled":
        t, load, travel = t[::40], load[::40], travel[::40]
    elif kind == "no_travel":
        travel = None
    elif kind == "strands":
        load[7_000:7_080] = 5_000 + 10 * np.random.default_rng(1).standard_normal(80)
        load[7_080:] = 15.0 + np.random.default_rng(2).standard_normal(len(load) - 7_080)
    elif kind == "capsize":
        falls = np.linspace(0, 3_000, 20)
        load[4_000:4_020] -= falls
        load[4_020:6_000] -= 3_000 * np.linspace(1, 0, 1_980)
        load[6_000:7_000] = np.linspace(load[5_999], 9_015, 1_000)
    return t, load, travel


@pytest.mark.parametrize("kind", [k for k in FLAG_WORDS if k != "saturated_travel"])
def test_a_fault_is_flagged_and_says_so_in_words(kind):
    r = seen(*changed(kind))
    assert kind in r.flags
    assert FLAG_WORDS[kind] in r.doubts
    others = set(r.flags) - {kind, "undersampled", "no_zero"}
    assert len(others) <= 1, others


def test_what_is_left_is_still_read():
    lost = seen(*changed("disconnected"))
    assert lost.end is TraceEnd.LOST
    assert lost.end_time_s == pytest.approx(5.0, abs=0.002)
    assert lost.peak_n < 6_000
    assert seen(*changed("clipped")).peak_n == pytest.approx(6_000 - 15, rel=0.002)
    assert seen(*changed("spikes")).peak_n == pytest.approx(9_000, rel=0.002)
    assert seen(*changed("drift")).peak_n == pytest.approx(9_000, rel=0.004)
    strands = seen(*changed("strands"))
    assert strands.end is TraceEnd.BROKE
    assert strands.end_time_s == pytest.approx(7.0, abs=0.005)
    bare = seen(*changed("no_travel"))
    assert (bare.end, bare.stiffness_n_per_m, bare.energy_j) == (TraceEnd.BROKE, 0.0, 0.0)
    assert bare.peak_n == pytest.approx(9_000, rel=0.002)
    shape = seen(*changed("capsize"))
    assert shape.capsize_n == pytest.approx(9_000 * 0.5**1.2, rel=0.01)


def test_missing_readings_are_filled_and_an_end_without_any_is_lost():
    t, load, travel = pull()
    load[3_000:3_050] = np.nan
    r = seen(t, load, travel)
    assert r.flags == ("dropout",)
    load[6_000:] = np.nan
    r = seen(t, load, travel)
    assert r.end is TraceEnd.LOST
    assert r.end_time_s == pytest.approx(6.0, abs=0.01)
    assert "dropout" in seen(t, np.full(len(t), np.nan), travel).flags


def test_coarse_stamps_and_collisions_do_not_matter():
    t, load, travel = pull()
    stamped = np.round(t, 2)
    r = seen(stamped, load, travel)
    assert r.sample_rate_hz == pytest.approx(RATE, rel=0.002)
    assert r.end is TraceEnd.BROKE


def test_other_channels_are_read_along():
    t, load, travel = pull()
    r = seen(t, load, travel, load2_n=(load - 15) / 2.4, tail_m=travel * 0.1)
    assert r.advantage == pytest.approx(2.4, rel=0.01)
    assert r.tail_draw_m == pytest.approx(0.1 * travel[-1], rel=0.01)


def test_settings_change_what_counts():
    t, load, travel = pull()
    for k in range(6):
        load[4_000 + 75 * k : 4_040 + 75 * k] -= 60.0
    few = seen(t, load, travel, settings=TraceSettings(slip_share=0.05))
    many = seen(t, load, travel, settings=TraceSettings(slip_share=0.002))
    assert len(few.slips) < len(many.slips)
    loose = TraceSettings(onset_travel_m=0.0004, slip_share=0.002, bedding_share=0.0)
    assert seen(t, load, travel, settings=loose).first_slip_n is not None
    assert seen(t, load, travel, settings=TraceSettings(onset_travel_m=0.5)).first_slip_n is None


@pytest.mark.parametrize("rate", [200.0, 500.0, 1000.0, 2000.0])
@pytest.mark.parametrize("hz", [70.0, 160.0, 350.0])
def test_the_break_is_placed_between_samples(rate, hz):
    errors = []
    for k in range(40):
        true = 0.2 + k / 40 / rate
        t = np.arange(int(0.3 * rate)) / rate
        fine = np.arange(int(0.3 * rate) * 64) / rate / 64
        tau = np.clip(fine - true, 0, None)
        top, w = 4_000 + 1_000 * true, 2 * np.pi * hz
        f = np.where(
            fine <= true, 4_000 + 1_000 * fine, top * np.cos(w * tau) * np.exp(-0.05 * w * tau)
        )
        mean = f.reshape(-1, 64).mean(axis=1)
        x = np.concatenate([mean[:1], mean[:-1]])
        index = int(np.floor(true * rate - 1e-9))
        at, _ = break_instant(x, t, index, rate)
        errors.append(abs(at - true))
    assert np.median(errors) < (0.0005 if rate >= 1000 else 0.6 / rate)


def test_noise_and_hum_are_told_apart():
    rng = np.random.default_rng(3)
    at = np.arange(1_000) / RATE
    load = 3.0 * rng.standard_normal(1_000) + 20 * np.sin(2 * np.pi * 50 * at + 1)
    found = find_noise(load, 1_000, RATE)
    assert (found.hum_hz, found.hum_n) == (50.0, pytest.approx(20, rel=0.05))
    assert found.sigma_n == pytest.approx(3.0, rel=0.15)
    assert np.std(take_out_hum(load, found, RATE)) == pytest.approx(3.0, rel=0.1)
    assert find_noise(3.0 * rng.standard_normal(1_000), 1_000, RATE).hum_n == 0


def test_the_small_sums():
    x = np.array([1.0, 9.0, 2.0, 3.0, -5.0, 4.0])
    assert list(median_of_three(x)) == [1, 2, 3, 2, 3, 4]
    np.testing.assert_allclose(running_mean(np.arange(20.0), 5)[5:-5], np.arange(5.0, 15.0))
    assert runs_of_equal(np.array([1, 1, 1, 2, 3, 3, 3, 3]), 3) == [(0, 3), (4, 8)]
    flags: set[str] = set()
    _, rate = fit_clock(np.array([0.0, 0.1, 0.2, 0.9, 1.0, 1.1]), flags)
    assert rate == pytest.approx(10)
    assert flags == {"dropout"}


@pytest.mark.long
def test_a_reduced_run_of_the_trials():
    s = summarise(run_trials(60, processes=1))
    assert s.outcome_right >= 0.95
    assert s.peak_median < 0.0025
    assert s.onset_false < 0.1
    assert all(false < 0.05 for false in s.false.values())
    assert len(judge(s)) == 13


def test_a_trial_repeats_exactly():
    assert run_trial(7) == run_trial(7)
    np.testing.assert_array_equal(make_record(7).load_n, make_record(7).load_n)


@pytest.mark.slow
def test_the_trials_reach_what_is_wanted():
    assert all(ok for *_, ok in judge(summarise(run_trials(800))))
