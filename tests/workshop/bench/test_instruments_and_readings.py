"""Instruments as chosen, known loads as kept, traces read anew, and energy in words."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.app.demo_pulls import pull_specimen
from bruiser.core.errors import InputError, LinkLost, RigError
from bruiser.core.records.bench_book import BenchRecord
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import CROSSED, Role
from bruiser.core.trace import Channel, Trace, TraceSettings, analyse_trace, trace_of
from bruiser.core.units import UnitChoice
from bruiser.formats.trace_file import read_trace_file, write_trace_file
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.workshop.bench import instruments
from bruiser.workshop.bench.instruments import InstrumentChoice, InstrumentKind
from bruiser.workshop.bench.simulation import (
    TRAINING_FAULTS,
    bench_with,
    inject_fault,
    is_simulated,
    serve_bench,
    specimen_setup,
)
from bruiser.workshop.findings import tracing
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.plan import bench_entry
from tests.build import SPECIMEN


def texts(**changes):
    return instruments.choice_texts(InstrumentChoice()) | changes


def test_a_choice_goes_into_its_form_and_comes_back():
    choice = InstrumentChoice(
        kind=InstrumentKind.PASSIVE, path="/dev/ttyS9", baud=9_600, sample_rate_hz=10.0
    )
    again, errors = instruments.read_choice(instruments.choice_texts(choice), choice)
    assert (again, errors) == (choice, {})


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"kind": "passive"}, "path"),
        ({"kind": "controlled", "path": "x", "rate": "900"}, "rate"),
        ({"rate": "-1"}, "rate"),
        ({"pattern": "("}, "pattern"),
        ({"pattern": "x"}, "pattern"),
        ({"capacity": "5 mm"}, "capacity"),
    ],
)
def test_what_is_wrong_with_a_choice_is_said_at_its_field(changes, field):
    before = InstrumentChoice()
    kept, errors = instruments.read_choice(texts(**changes), before)
    assert list(errors) == [field]
    assert kept is before


def test_an_instrument_that_is_not_there_says_so():
    def simulated(specimen):
        return ("simulated", specimen)

    assert instruments.open_instrument(InstrumentChoice(), SPECIMEN, simulated)[1] is SPECIMEN
    missing = InstrumentChoice(kind=InstrumentKind.CONTROLLED)
    with pytest.raises(InputError, match="Name the line"):
        instruments.open_instrument(missing, SPECIMEN, simulated)
    with pytest.raises(LinkLost):
        instruments.open_instrument(replace(missing, path="/dev/nowhere"), SPECIMEN, simulated)
    with pytest.raises(InputError):
        instruments.try_settings(InstrumentChoice(), (9_600,))


def test_a_bench_on_a_line_is_opened_and_let_go():
    device = serve_bench("nylon kernmantle", None, 8.0, 100.0)
    device.start()
    try:
        choice = InstrumentChoice(
            kind=InstrumentKind.CONTROLLED, path=device.path, sample_rate_hz=100.0
        )
        bench = instruments.open_instrument(choice, SPECIMEN, lambda s: s)
        assert bench.info.sample_rate_hz == 100.0
        assert bench.remains() is None
        bench.close()
        passive = replace(choice, kind=InstrumentKind.PASSIVE)
        indicator = instruments.open_instrument(passive, SPECIMEN, lambda s: s)
        assert indicator.status().armed
        assert indicator.remains() is None
        indicator.close()
        tried, good = instruments.try_settings(choice, (115_200,), 0.2)
        assert good is tried[0]
    finally:
        device.unplug()
    for cord, knot in (("rope of sand", None), ("nylon kernmantle", "no-knot")):
        with pytest.raises(InputError):
            serve_bench(cord, knot, 8.0)


def test_a_cell_of_the_book_brings_its_factor_and_a_known_load_corrects_it(fresh):
    bench = BenchRecord(
        id="b",
        name="yard",
        stroke_m=1.0,
        rate_m_s=0.01,
        capacity_n=20_000.0,
        resolution_n=5.0,
        sample_rate_hz=10.0,
        factor=1.02,
    )
    choice = instruments.with_cell(
        InstrumentChoice(kind=InstrumentKind.PASSIVE, path="/dev/x"), bench
    )
    assert (choice.passive.scale, choice.passive.capacity_n) == (1.02, 20_000.0)
    better = instruments.check_known_load(fresh, choice, 500.0, 510.0, "TV")
    assert better.passive.scale == pytest.approx(1.0)
    (check,) = read_logbook(fresh).bench_book.checks
    assert check.off == pytest.approx(0.02)
    assert (check.bench, check.by) == ("/dev/x", "TV")
    assert fresh.undo_title is None
    with pytest.raises(InputError, match="decimal mark"):
        instruments.check_known_load(fresh, choice, 500.0, 50.0, "TV")


def test_the_book_keeps_a_factor_near_one(fresh):
    base = {"name": "b", "stroke": "1 m", "rate": "5 mm/s", "capacity": "9 kN",
            "resolution": "2 N", "sample_rate": "100"}  # fmt: skip
    wrong = bench_entry.store_bench(fresh, read_logbook(fresh), base | {"factor": "9.8"}, (), None)
    assert "near 1" in wrong.errors["factor"]
    bench_entry.store_bench(fresh, read_logbook(fresh), base | {"factor": "1.013"}, (), None)
    (bench,) = read_logbook(fresh).bench_book.benches
    assert bench.factor == 1.013
    assert bench_entry.bench_texts(bench, UnitChoice())["factor"] == "1.013"


def test_what_parts_says_its_energy_and_never_a_distance(workshop):
    logbook = read_logbook(workshop)
    specimen = logbook.at(Stage.PLANNED)[0].specimen
    found = bench_entry.energy_words(specimen, None, 1e-7)
    assert found.upper_j > found.expected_j > 0
    assert "No distance makes this safe" in str(found)
    bare = replace(specimen, lot=replace(specimen.lot, rated_strength_n=None))
    assert bench_entry.energy_words(bare, None, 1e-7) is None


def test_what_is_planned_reaches_the_simulated_bench(workshop):
    logbook = read_logbook(workshop)
    plain = next(e.specimen for e in logbook.entries if e.specimen.role is Role.KNOT)
    lot = next(x for x in logbook.lots if x.name == "N7")
    changed = replace(
        plain, dressing=CROSSED, lot_b=lot, method=MethodPlan("cross and reverse", (), "end to end")
    )
    setup = specimen_setup(changed)
    assert setup.crossed
    assert (setup.direction, setup.other_cord) == ("end to end", lot.cord_model)
    assert specimen_setup(replace(plain, method=MethodPlan("ring load"))).direction == "ring load"
    own = replace(plain, knot_a=replace(plain.knot_a, structure="my-own"))
    with pytest.raises(RigError, match="your own"):
        specimen_setup(own)
    strange = replace(plain.lot, cord_model="", material="bamboo", construction="plaited")
    assert specimen_setup(replace(plain, lot=strange)).cord == "utility braid"
    laid = replace(strange, material="Nylon 6", construction="3-strand")
    assert specimen_setup(replace(plain, lot=laid)).cord == "nylon 3-strand"


def test_every_training_fault_can_be_put_in_and_taken_out(workshop):
    specimen = read_logbook(workshop).at(Stage.PLANNED)[0].specimen
    bench = bench_with(specimen)
    assert isinstance(bench, SimulatedBench)
    plain = bench.sensor.faults
    for key in TRAINING_FAULTS:
        inject_fault(bench, key)
        assert (bench.sensor.faults == plain) == (key == "none")
    inject_fault(None, "spikes")
    assert is_simulated(bench)
    assert not is_simulated(None)


def test_a_reading_is_kept_beside_the_one_before(workshop):
    pull_id, _ = pull_specimen(workshop, read_logbook(workshop).next_to_pull().specimen, "TV")
    logbook = read_logbook(workshop)
    entry = logbook.by_pull[pull_id]
    trace = tracing.stored_trace(workshop, entry)
    kept = tracing.analyses_of(workshop, entry.pull.id)
    settings = TraceSettings(diameter_m=0.008, slip_share=0.05)
    result = tracing.read_anew(trace, entry.pull, settings)
    assert len(result.slips) <= len(entry.analysis.slips)
    tracing.keep_analysis(workshop, entry.pull.id, settings)
    found = tracing.analyses_of(workshop, entry.pull.id)
    assert [x.settings for x in found] == [kept[-1].settings, settings]
    assert read_logbook(workshop).by_pull[entry.pull.id].analysis == result
    workshop.undo()
    assert read_logbook(workshop).by_pull[entry.pull.id].analysis == entry.analysis
    workshop.redo()
    assert read_logbook(workshop).by_pull[entry.pull.id].analysis == result
    assert len(tracing.analyses_of(workshop, entry.pull.id)) == 2
    others = tracing.comparable(logbook, entry)
    assert entry not in others
    first = tracing.first_load_index(trace, result)
    assert 0 < first < result.peak_index


def test_settings_go_into_their_form_and_come_back():
    units, base = UnitChoice(), TraceSettings(diameter_m=0.010)
    shown = tracing.settings_texts(base, units)
    again, errors = tracing.read_settings(shown, base, units)
    assert errors == {}
    assert (again.onset_m, again.slip_share, again.mean_s) == (0.006, 0.004, 0.005)
    _, errors = tracing.read_settings(shown | {"break": "0", "mean": "x", "onset": ""}, base, units)
    assert set(errors) == {"break", "mean", "onset"}


def test_a_trace_file_is_written_and_read_back():
    rng = np.random.default_rng(1)
    n = 300
    made = Trace(channels={c: rng.normal(5, 1, n) for c in Channel}, rate_hz=100.0)
    made.load_n[7] = np.nan
    back = read_trace_file(write_trace_file(made)).trace
    np.testing.assert_allclose(back.time_s, made.time_s, rtol=1e-9)
    for channel in Channel:
        np.testing.assert_allclose(back.get(channel), made.get(channel), rtol=1e-9)
    semicolons = "load_N;travel_mm\n1;2\n\n3;4\n"
    found = read_trace_file(semicolons, 50.0).trace
    assert list(found.time_s) == [0.0, 0.02]
    assert list(found.travel_m) == [0.002, 0.004]
    with pytest.raises(InputError, match="Row 3, column time_s"):
        read_trace_file("time_s,load_N\n0,1\n,2\n")
    assert analyse_trace(trace_of(made.load_n, rate_hz=100.0)).flags
