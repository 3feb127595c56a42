"""How a trace ends, told from pieces of load made by hand."""

import numpy as np
import pytest

from bruiser.core.trace import TraceEnd, TraceSettings
from bruiser.core.trace.doubts import is_spiked, is_undersampled, jumps_like_a_load
from bruiser.core.trace.slipping import Drop, find_capsize, find_onset, is_bedding
from bruiser.core.trace.smoothing import first_above, running_mean
from tests.core.trace.reading import read

RATE = 1_000.0
TOP = 6_000.0


def ramp(fall, rate=RATE, before=None, seed=1):
    """A second of rest, four of ramp, then a fall given in shares of the top."""
    rng = np.random.default_rng(seed)
    up = np.linspace(0, 1, int(4 * rate))
    if before is not None:
        up = before(up)
    share = np.concatenate([np.zeros(int(rate)), up, fall, np.zeros(int(0.8 * rate))])
    n = len(share)
    travel = np.clip(np.arange(n) / rate - 1, 0, None) * 0.02
    return np.arange(n) / rate, TOP * share + 2.0 * rng.standard_normal(n), travel


def ringing(hz, n=300, damping=0.05):
    tau = np.arange(n) / RATE
    return np.exp(-damping * 2 * np.pi * hz * tau) * np.cos(2 * np.pi * hz * tau + 0.5)


@pytest.mark.parametrize(
    ("fall", "end"),
    [
        (ringing(90), TraceEnd.BROKE),
        (ringing(300), TraceEnd.BROKE),
        (np.zeros(300), TraceEnd.BROKE),
        (np.linspace(1, 0, 3), TraceEnd.BROKE),
        (np.linspace(1, 0, 30), TraceEnd.RAN_OUT),
        (np.linspace(1, 0, 200), TraceEnd.RAN_OUT),
        (np.exp(-np.arange(400) / 60), TraceEnd.RAN_OUT),
        (np.linspace(1, 0.05, 600), TraceEnd.RAN_OUT),
        (np.r_[np.full(60, 0.6), np.full(60, 0.3), np.zeros(50)], TraceEnd.BROKE),
    ],
    ids=[
        "rings slowly", "rings fast", "at once", "three samples", "in 30 ms", "in 200 ms",
        "dies away", "in 600 ms", "strand by strand",
    ],
)  # fmt: skip
def test_a_fall_is_named_by_how_it_goes(fall, end):
    r = read(*ramp(fall))
    assert r.end is end
    assert r.peak_n == pytest.approx(TOP, rel=0.003)
    if end is TraceEnd.BROKE:
        assert r.end_time_s == pytest.approx(5.0, abs=0.004)
        assert ("strands" in r.flags) == (0.6 in fall[:40])


def test_after_slips_a_quicker_fall_is_already_a_run_out():
    def saw(up):
        k = np.arange(len(up))
        return np.where(up > 0.6, 0.6 + 0.05 * ((k % 200) / 200), up)

    fall = 0.65 * np.linspace(1, 0, 16)
    r = read(*ramp(fall, before=saw))
    assert r.end is TraceEnd.RAN_OUT
    assert r.first_slip_n == pytest.approx(0.65 * TOP, rel=0.05)
    assert len(r.slips) > 4


def test_a_bench_that_goes_back_was_stopped():
    t, load, travel = ramp(np.linspace(1, 0, 400))
    travel = travel.copy()
    travel[5_000:] = travel[5_000] - 0.05 * (t[5_000:] - t[5_000])
    assert read(t, load, travel).end is TraceEnd.STOPPED


def test_low_rates_still_tell_a_break_from_a_run_out():
    for rate in (100.0, 200.0):
        broke = read(*ramp(np.zeros(20), rate))
        out = read(*ramp(np.linspace(1, 0, int(0.25 * rate)), rate))
        assert (broke.end, out.end) == (TraceEnd.BROKE, TraceEnd.RAN_OUT)


def drop(top, load, size, again=None):
    return Drop(top=top, bottom=top + 10, again=again or top + 400, load_n=load, drop_n=size)


def test_bedding_onset_and_a_change_of_form():
    by = TraceSettings(diameter_m=0.008)
    travel = np.arange(4_000) * 2e-5
    assert is_bedding(drop(500, 1_000.0, 60.0), 6_000.0, by)
    assert not is_bedding(drop(500, 1_000.0, 200.0), 6_000.0, by)
    assert not is_bedding(drop(500, 3_000.0, 60.0), 6_000.0, by)
    train = [drop(2_000 + 100 * k, 4_000.0 + 5 * k, 160.0, 2_350 + 100 * k) for k in range(5)]
    tick = drop(900, 2_000.0, 90.0, 1_300)
    assert find_onset([tick, *train], travel, 3_900, 6_000.0, None, by) is train[0]
    assert find_onset([tick], travel, 3_900, 6_000.0, None, by) is None
    turned = drop(1_500, 3_000.0, 900.0, 2_400)
    load = np.full(4_000, 3_000.0)
    load[1_500:1_511] = np.linspace(3_000, 2_100, 11)
    load[1_511:] = 2_100.0
    found = find_capsize([turned], load, travel, RATE, 3_900, 6_000.0, by)
    assert found is turned
    sharp = load.copy()
    sharp[1_500:1_511] = np.r_[3_000.0, np.full(10, 2_100.0)]
    assert find_capsize([turned], sharp, travel, RATE, 3_900, 6_000.0, by) is None
    small = drop(1_500, 3_000.0, 300.0, 2_400)
    assert find_capsize([small], load, travel, RATE, 3_900, 6_000.0, by) is None
    assert find_onset([turned], travel, 3_900, 6_000.0, turned, by) is None


def test_the_doubts_one_by_one():
    load = np.linspace(0, 100, 1_000)
    spiked = load.copy()
    spiked[400] += 30
    assert is_spiked(spiked, load, 900, 5.0, RATE)
    assert not is_spiked(load, load, 900, 5.0, RATE)
    assert not is_spiked(spiked, load, 390, 5.0, RATE)
    assert is_undersampled(load, 900, 90.0, 20.0)
    assert not is_undersampled(load, 900, 90.0, RATE)
    assert is_undersampled(np.linspace(0, 100, 40), 39, 100.0, 60.0)
    falls = np.r_[np.linspace(0, 1, 900), np.zeros(100)]
    assert jumps_like_a_load(falls, load, 1.0, 100.0, RATE)
    assert not jumps_like_a_load(load, falls, 100.0, 1.0, RATE)


def test_blocks_do_not_show():
    values = np.random.default_rng(2).standard_normal(100_000)
    for width in (2, 5, 6):
        kernel = np.full(width, 1 / width)
        padded = np.pad(values, (width // 2, width - 1 - width // 2), mode="edge")
        want = np.convolve(padded, kernel, mode="valid")
        np.testing.assert_allclose(running_mean(values, width), want, atol=1e-9)
    rising = np.arange(100_000.0)
    assert [first_above(rising, x) for x in (-1, 32_767.5, 99_998.5, 1e9)] == [
        0,
        32_768,
        99_999,
        -1,
    ]
