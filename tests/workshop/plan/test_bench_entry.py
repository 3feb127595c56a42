"""The bench book as typed, and what is planned checked on a bench."""

from dataclasses import replace

import pytest

from bruiser.core.planning.bench_checks import CheckVerdict, Say
from bruiser.core.planning.safety import upper_break_n
from bruiser.core.records.records import Role
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.plan import bench_entry
from bruiser.workshop.plan.bench_entry import DropBench, expect
from bruiser.workshop.results.lot_results import lot_results
from tests.build import LOT, SPECIMEN
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

TEXTS = {
    "name": "Long bench",
    "stroke": "39 3/8 in",
    "rate": "300 mm/min",
    "capacity": "2500 kgf",
    "resolution": "2",
    "sample_rate": "200",
    "compliance": "0.2",
    "accuracy_class": "0.5",
    "calibrated_on": "2026-01-15",
    "calibration_due": "2027-01-15",
    "keep_away": "nobody in the lane",
    "guard": "cage",
    "guard_energy": "4000",
    "estop_checked_on": "2026-02-01",
}
SAY = Say(lambda x: f"{x:.0f} N", lambda x: f"{1000 * x:.0f} mm")


def written(workshop, **changes):
    logbook = read_logbook(workshop)
    found = bench_entry.store_bench(
        workshop, logbook, TEXTS | changes, ("ramp to failure", "straight pull"), None
    )
    assert found.errors == {}
    return read_logbook(workshop).bench_book.benches[-1]


def test_a_bench_is_written_in_any_unit_changed_and_undone(stocked):
    bench = written(stocked)
    assert bench.stroke_m == pytest.approx(39.375 * 0.0254)
    assert bench.rate_m_s == pytest.approx(0.005)
    assert bench.capacity_n == pytest.approx(2500 * 9.80665)
    assert bench.compliance_m_per_n == pytest.approx(2e-7)
    texts = bench_entry.bench_texts(bench, stocked.units) | {"guard_energy": "", "guard": "net"}
    bench_entry.store_bench(stocked, read_logbook(stocked), texts, bench.methods, bench)
    (changed,) = read_logbook(stocked).bench_book.benches
    assert (changed.guard, changed.guard_energy_j) == ("net", None)
    stocked.undo()
    assert read_logbook(stocked).bench_book.benches == (bench,)
    stocked.do(DropBench(bench))
    assert read_logbook(stocked).bench_book.benches == ()
    stocked.undo()
    assert read_logbook(stocked).bench_book.benches == (bench,)


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"name": ""}, "name"),
        ({"stroke": "0"}, "stroke"),
        ({"rate": "fast"}, "rate"),
        ({"capacity": "25 mm"}, "capacity"),
        ({"resolution": ""}, "resolution"),
        ({"sample_rate": "0.2"}, "sample_rate"),
        ({"calibration_due": "next year"}, "calibration_due"),
        ({"estop_checked_on": "2026-13-01"}, "estop_checked_on"),
        ({"guard_energy": "strong"}, "guard_energy"),
    ],
)
def test_a_wrong_field_of_the_book_is_named(stocked, changes, field):
    found = bench_entry.store_bench(stocked, read_logbook(stocked), TEXTS | changes, (), None)
    assert list(found.errors) == [field]
    assert read_logbook(stocked).bench_book.benches == ()


def test_two_benches_do_not_share_a_name(stocked):
    written(stocked)
    again = bench_entry.store_bench(
        stocked, read_logbook(stocked), TEXTS | {"name": "long BENCH"}, (), None
    )
    assert list(again.errors) == ["name"]


def test_fixtures_and_the_room_are_noted(stocked):
    good = {"kind": "host", "name": "post", "material": "oak", "finish": "bark", "diameter": "6 cm"}
    assert bench_entry.store_fixture(stocked, good).stored
    for name in ("kind", "name", "material", "diameter"):
        assert list(bench_entry.store_fixture(stocked, good | {name: ""}).errors) == [name]
    (fixture,) = read_logbook(stocked).bench_book.fixtures
    assert fixture.diameter_m == pytest.approx(0.06)
    for temperature in ("18", "19,5 °C"):
        texts = {"temperature": temperature, "humidity": "55"}
        assert bench_entry.note_room(stocked, texts).stored
    (day,) = read_logbook(stocked).bench_book.days
    assert (day.temperature_c, day.humidity) == (19.5, pytest.approx(0.55))
    stocked.undo()
    assert read_logbook(stocked).bench_book.days[0].temperature_c == 18
    for wrong, field in (
        ({"temperature": "warm", "humidity": "55"}, "temperature"),
        ({"temperature": "90", "humidity": "55"}, "temperature"),
        ({"temperature": "18", "humidity": "155"}, "humidity"),
    ):
        assert list(bench_entry.note_room(stocked, wrong).errors) == [field]


def test_what_is_expected_comes_from_pulls_then_the_rating(workshop):
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if x.name == "R8")
    results = lot_results(logbook, lot)
    row = results.knots[0]
    specimen = replace(SPECIMEN, lot=lot, knot_a=row.knot, knot_b=row.knot)
    found = expect(specimen, results)
    share = row.efficiency.interval.value
    assert found.loaded.break_n == pytest.approx(results.baseline.median_n * share)
    assert found.source == "measured baseline"
    assert found.loaded.mass_per_length_kg_m == lot.mass_per_length_kg_m
    plain = expect(replace(specimen, role=Role.BASELINE, knot_a=None, knot_b=None), results)
    assert plain.loaded.break_n == pytest.approx(results.baseline.median_n)
    rated = expect(replace(SPECIMEN, lot=LOT), None)
    assert rated.loaded.break_n == pytest.approx(0.8 * 13_000)
    assert "no baseline" in rated.source
    assert expect(replace(SPECIMEN, lot=replace(LOT, rated_strength_n=None)), None) is None


def test_no_knot_is_expected_above_the_plain_rope_however_it_scatters(workshop):
    logbook = read_logbook(workshop)
    for lot in logbook.lots:
        results = lot_results(logbook, lot)
        if results.baseline.median_n is None:
            continue
        plain = expect(
            replace(SPECIMEN, lot=lot, role=Role.BASELINE, knot_a=None, knot_b=None), results
        )
        high = upper_break_n(plain.loaded.break_n, plain.loaded.break_cv)
        for row in results.knots:
            knot = expect(replace(SPECIMEN, lot=lot, knot_a=row.knot), results)
            assert upper_break_n(knot.loaded.break_n, knot.loaded.break_cv) <= high * 1.0001


@pytest.mark.parametrize(
    ("changes", "name", "verdict"),
    [
        ({}, "Stroke", CheckVerdict.PASS),
        ({"stroke": "100 mm"}, "Stroke", CheckVerdict.STOP),
        ({"capacity": "9 kN"}, "Load cell", CheckVerdict.STOP),
        ({"rate": "3000 mm/s"}, "Resolution and rate", CheckVerdict.STOP),
        ({"keep_away": ""}, "Stored energy", CheckVerdict.STOP),
        ({"guard_energy": ""}, "Stored energy", CheckVerdict.CAUTION),
        ({"guard_energy": "10"}, "Stored energy", CheckVerdict.STOP),
        ({"calibration_due": "2026-01-31"}, "Bench book", CheckVerdict.CAUTION),
    ],
)
def test_a_planned_specimen_is_checked_on_the_bench(stocked, changes, name, verdict):
    bench = written(stocked, **changes)
    expected = expect(SPECIMEN, None)
    checks = bench_entry.check_specimen(bench, SPECIMEN, expected, 0.08, SAY, "2026-02-01")
    by_name = {c.name: c for c in checks}
    assert by_name[name].verdict is verdict
    assert set(by_name) >= {"Stroke", "Load cell", "Stored energy", "Load mode", "Pin", "Tails"}
