"""Safety sums, bench checks, the order of pulls, and bench time."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.planning import bench_checks as look
from bruiser.core.planning.bench_checks import BenchLimits, CheckVerdict, Say
from bruiser.core.planning.bench_time import (
    DAY_S,
    DEFAULT_S,
    Job,
    WorkStep,
    learn,
    pull_seconds,
    schedule,
)
from bruiser.core.planning.pull_order import (
    Candidate,
    fixture_changes,
    group_imbalance,
    insert_later,
    order_pulls,
)
from bruiser.core.planning.safety import (
    LoadedSpan,
    break_strain_guess,
    needed_stroke_m,
    stored_energy,
    upper_break_n,
)
from bruiser.core.records.bench_book import BenchRecord, arming_words

ROPE = LoadedSpan(
    break_n=10_000.0,
    break_cv=0.05,
    free_length_m=1.5,
    break_strain=0.15,
    mass_per_length_kg_m=0.05,
    seating_m=0.04,
)
BENCH = BenchLimits(
    stroke_m=0.60,
    capacity_n=25_000.0,
    resolution_n=2.0,
    sample_rate_hz=200.0,
    compliance_m_per_n=1e-7,
    guard_energy_j=3_000.0,
    keep_away="nobody in the lane",
    estop_checked_on="2026-03-01",
    calibration_due="2026-12-31",
    methods=("ramp", "straight pull"),
)
SAY = Say(lambda x: f"{x / 1000:.2f} kN", lambda x: f"{1000 * x:.0f} mm")


def test_stored_energy_by_hand():
    found = stored_energy(ROPE, 1e-7)
    expected = 0.5 * 10_000 * 0.15 * 1.5 + 0.5 * 1e-7 * 10_000**2
    assert found.expected_j == pytest.approx(expected)
    assert found.recoil_m_s == pytest.approx(math.sqrt(2 * expected / (0.05 * 1.5)))
    assert found.upper_j == pytest.approx(expected * math.exp(0.3), rel=1e-9)
    assert found.recoil_upper_m_s > found.recoil_m_s
    assert any("straight line" in a for a in found.assumptions)


def test_the_recoil_speed_is_that_of_a_released_linear_cord():
    speed = stored_energy(ROPE, 0.0).recoil_m_s
    assert speed == pytest.approx(math.sqrt(10_000 * 0.15 / 0.05))


def test_no_true_curve_of_a_stiffening_cord_stores_more():
    strain = np.linspace(0, 0.15, 2000)
    load = 10_000 * (strain / 0.15) ** 1.6
    energy = np.trapezoid(load, strain * 1.5)
    assert energy < stored_energy(ROPE, 0.0).expected_j


def test_permanent_set_lowers_what_comes_back():
    assert stored_energy(replace(ROPE, set_share=0.3), 0.0).expected_j == pytest.approx(
        0.7 * stored_energy(ROPE, 0.0).expected_j
    )


def test_the_stroke_adds_stretch_seating_and_the_bench():
    high = 10_000 * math.exp(0.15)
    assert upper_break_n(10_000, 0.05) == pytest.approx(high)
    by_hand = 0.15 * math.exp(0.15) * 1.5 + 0.04 + 1e-7 * high
    assert needed_stroke_m(ROPE, 1e-7) == pytest.approx(by_hand)
    assert break_strain_guess("Nylon") > break_strain_guess("HMPE")
    assert break_strain_guess("moonsilk") >= break_strain_guess("nylon")


@pytest.mark.parametrize(
    ("check", "verdict", "words"),
    [
        (look.check_stroke(BENCH, ROPE, SAY), CheckVerdict.PASS, "of 600 mm"),
        (look.check_stroke(replace(BENCH, stroke_m=0.31), ROPE, SAY), CheckVerdict.CAUTION, "310"),
        (look.check_stroke(replace(BENCH, stroke_m=0.2), ROPE, SAY), CheckVerdict.STOP, "Shorten"),
        (look.check_stroke(replace(BENCH, stroke_m=0.02), ROPE, SAY), CheckVerdict.STOP, "more"),
        (look.check_capacity(BENCH, ROPE, SAY), CheckVerdict.PASS, "11.62 kN"),
        (
            look.check_capacity(replace(BENCH, capacity_n=12e3), ROPE, SAY),
            CheckVerdict.CAUTION,
            "cell",
        ),
        (
            look.check_capacity(replace(BENCH, capacity_n=11e3), ROPE, SAY),
            CheckVerdict.STOP,
            "larger",
        ),
        (
            look.check_capacity(replace(BENCH, capacity_n=2e5), ROPE, SAY),
            CheckVerdict.CAUTION,
            "10 %",
        ),
        (look.check_reading(BENCH, ROPE, 0.003), CheckVerdict.PASS, "5000 counts"),
        (look.check_reading(BENCH, ROPE, 0.15), CheckVerdict.CAUTION, "missed"),
        (look.check_reading(BENCH, ROPE, 0.9), CheckVerdict.STOP, "slower"),
        (
            look.check_reading(replace(BENCH, resolution_n=50), ROPE, 0.003),
            CheckVerdict.CAUTION,
            "200",
        ),
        (look.check_energy(BENCH, ROPE), CheckVerdict.PASS, "up to"),
        (look.check_energy(replace(BENCH, guard_energy_j=1000), ROPE), CheckVerdict.STOP, "1000 J"),
        (
            look.check_energy(replace(BENCH, guard_energy_j=None), ROPE),
            CheckVerdict.CAUTION,
            "names",
        ),
        (look.check_energy(replace(BENCH, keep_away=" "), ROPE), CheckVerdict.STOP, "keep-away"),
        (look.check_pin(0.040, 0.008), CheckVerdict.PASS, "5.0"),
        (look.check_pin(0.012, 0.008), CheckVerdict.CAUTION, "1.5"),
        (look.check_pin(0.006, 0.008), CheckVerdict.STOP, "thicker"),
        (look.check_tail(0.12, 0.08, 0.05, SAY), CheckVerdict.PASS, "120 mm"),
        (look.check_tail(0.07, 0.08, 0.03, SAY), CheckVerdict.CAUTION, "longer"),
        (look.check_tail(0.04, 0.02, 0.05, SAY), CheckVerdict.STOP, "run out"),
        (look.check_method(BENCH, "ramp", 9e3, SAY), CheckVerdict.PASS, "ramp"),
        (look.check_method(BENCH, "ring load", 9e3, SAY), CheckVerdict.STOP, "cannot"),
        (look.check_method(BENCH, "ramp", 26e3, SAY), CheckVerdict.STOP, "26.00 kN"),
        (look.check_dates(BENCH, "2026-03-01"), CheckVerdict.PASS, "2026-12-31"),
        (look.check_dates(BENCH, "2026-03-02"), CheckVerdict.CAUTION, "emergency stop"),
        (look.check_dates(BENCH, "2027-01-01"), CheckVerdict.CAUTION, "calibrated"),
    ],
)
def test_a_check_says_pass_caution_or_stop_and_what_mends_it(check, verdict, words):
    assert check.verdict is verdict
    assert words in f"{check.number} {check.mend}"
    assert bool(check.mend) is (verdict is not CheckVerdict.PASS)


def test_a_shortened_span_passes_the_stroke_check():
    bench = replace(BENCH, stroke_m=0.2)
    high = math.exp(3 * ROPE.break_cv) * ROPE.break_strain
    over = needed_stroke_m(ROPE, bench.compliance_m_per_n) - bench.stroke_m
    shorter = replace(ROPE, free_length_m=ROPE.free_length_m - over / high)
    assert needed_stroke_m(shorter, bench.compliance_m_per_n) == pytest.approx(bench.stroke_m)


def test_no_check_speaks_of_a_safe_distance():
    said = [c.number + c.mend for c in (look.check_energy(BENCH, ROPE),)]
    assert not any("metre" in s or " m away" in s for s in said)
    assert look.worst([]) is CheckVerdict.PASS
    pin = [look.check_pin(0.04, 0.008), look.check_pin(0.012, 0.008)]
    assert look.worst(pin) is CheckVerdict.CAUTION


def candidates(sizes, fixtures=2):
    return [
        Candidate(f"{g}-{k}", f"g{g}", f"f{g % fixtures}")
        for g, size in enumerate(sizes)
        for k in range(size)
    ]


sizes = st.lists(st.integers(1, 9), min_size=1, max_size=8)


@given(sizes, st.integers(0, 1000))
def test_every_specimen_stands_once_and_the_same_seed_gives_the_same_order(sizes, seed):
    group = candidates(sizes)
    first, second = (
        order_pulls(group, ("TV", "OQ"), np.random.default_rng(seed)) for _ in range(2)
    )
    assert first == second
    assert sorted(p.key for p in first) == sorted(c.key for c in group)
    assert [p.position for p in first] == list(range(1, len(group) + 1))
    assert [p.block for p in first] == sorted(p.block for p in first)


@given(sizes, st.integers(0, 1000))
def test_technicians_take_turns_inside_every_group(sizes, seed):
    group = candidates(sizes)
    placed = order_pulls(group, ("TV", "OQ"), np.random.default_rng(seed))
    by_group = {}
    for p in placed:
        by_group.setdefault(p.key.split("-")[0], []).append(p.technician)
    for turns in by_group.values():
        assert abs(turns.count("TV") - turns.count("OQ")) <= 1


def test_no_knot_keeps_a_place_and_fixtures_change_seldom():
    group = candidates([6] * 6, fixtures=3)
    firsts, imbalances, changes = [], [], []
    for seed in range(200):
        placed = order_pulls(group, (), np.random.default_rng(seed))
        firsts.append(placed[0].key.split("-")[0])
        imbalances.append(group_imbalance(placed, group))
        changes.append(fixture_changes(placed, group))
    assert np.bincount([int(f) for f in firsts], minlength=6).min() >= 15
    assert max(imbalances) < 0.1
    assert max(changes) <= 6 * 2
    shuffled = np.random.default_rng(1).permutation(len(group))
    plain = [replace(placed[0], key=group[k].key) for k in shuffled]
    assert fixture_changes(plain, group) > 1.5 * np.mean(changes)


def test_a_replacement_comes_at_a_random_later_place():
    order = tuple("abcdefgh")
    places = {insert_later(order, "x", 3, np.random.default_rng(s)).index("x") for s in range(200)}
    assert places == set(range(3, 9))
    assert order_pulls([], (), np.random.default_rng(0)) == []


def test_steps_are_learned_from_three_recorded_times_on():
    found = learn(
        {WorkStep.TIE: [90.0, 100.0, 140.0], WorkStep.PULL: [30.0, 31.0], WorkStep.SET: [0.0] * 5}
    )
    assert (found[WorkStep.TIE].seconds, found[WorkStep.TIE].count) == (100.0, 3)
    assert (found[WorkStep.PULL].seconds, found[WorkStep.PULL].count) == (
        DEFAULT_S[WorkStep.PULL],
        0,
    )
    assert found[WorkStep.SET].count == 0
    assert pull_seconds(0.3, 0.003) == pytest.approx(200.0)


HOUR = 3600.0


def test_days_are_filled_and_the_end_is_found():
    slots = schedule([Job(key=f"j{n}", seconds=HOUR) for n in range(10)], 4.0)
    assert [s.start_s // DAY_S for s in slots] == [0] * 4 + [1] * 4 + [2] * 2
    assert slots[-1].end_s == 2 * DAY_S + 2 * HOUR
    assert slots[4].start_s == DAY_S
    long = schedule([Job(key="a", seconds=6 * HOUR), Job(key="b", seconds=HOUR)], 4.0)
    assert long[1].start_s == DAY_S
    longest = schedule([Job(key="a", seconds=30 * HOUR), Job(key="b", seconds=HOUR)], 4.0)
    assert longest[1].start_s == 2 * DAY_S
    with pytest.raises(ValueError, match="hours"):
        schedule([], 0)


def test_conditioning_windows_are_kept():
    jobs = [
        Job(key="dry", seconds=3 * HOUR),
        Job(key="wet", seconds=600.0, soak_s=2 * HOUR, keep_s=1200.0),
    ]
    _, wet = schedule(jobs, 8.0)
    assert (wet.start_s, wet.soak_from_s) == (3 * HOUR, HOUR)
    assert wet.too_old_after_s - wet.start_s == 1200.0
    assert not wet.before_hours
    (early,) = schedule(jobs[1:], 8.0)
    assert early.before_hours
    assert early.soak_from_s == -2 * HOUR


@given(st.lists(st.floats(60.0, 9000.0), min_size=1, max_size=40), st.floats(1.0, 12.0))
def test_no_two_specimens_are_at_the_bench_at_once_and_no_day_is_overrun(seconds, hours):
    slots = schedule([Job(key=str(n), seconds=s) for n, s in enumerate(seconds)], hours)
    for one, two in pairwise(slots):
        assert one.end_s <= two.start_s + 1e-6
    for slot in slots:
        into = slot.start_s % DAY_S
        assert into == 0 or into + (slot.end_s - slot.start_s) <= 3600 * hours + 1e-3


@pytest.mark.parametrize(
    ("due", "tried", "said"),
    [
        ("2026-12-01", "2026-11-25", ()),
        ("2026-11-01", "2026-11-25", ("out of date",)),
        ("", "2026-11-24", ("out of date", "not tried today")),
    ],
)
def test_what_is_said_before_arming_is_the_benchs_own_rule_and_dates(due, tried, said):
    bench = BenchRecord(
        id="b",
        name="yard",
        stroke_m=1.0,
        rate_m_s=0.008,
        capacity_n=2e4,
        resolution_n=2.0,
        sample_rate_hz=500.0,
        compliance_m_per_n=1e-7,
        keep_away="door shut",
        calibration_due=due,
        estop_checked_on=tried,
    )
    words = arming_words(bench, "2026-11-25")
    assert "Keep-away rule: door shut." in words
    for warning in ("out of date", "not tried today"):
        assert (warning in words) == (warning in said)
    for other in (None, replace(bench, keep_away="")):
        assert "no keep-away rule" in arming_words(other, "2026-11-25")
