"""Specimens with all they are planned with, steps of preparation, and what guards them."""

from dataclasses import replace

import numpy as np
import pytest
import sqlalchemy as sa
from tests.build import KNOT, LOT, ROW, SPECIMEN

from bruiser.core.errors import InputError, StoreError
from bruiser.core.records.bench_book import BenchRecord, Fixture, LoadCheck
from bruiser.core.records.methods import METHODS, MethodPlan
from bruiser.core.records.preparation import Preparation, PrepStep, in_force
from bruiser.core.records.records import CROSSED, Pull
from bruiser.core.trace import Channel, TraceSettings, analyse_trace, trace_of
from bruiser.store import bench_books, campaigns, preparations, pulls
from bruiser.store.opening import create_campaign

OTHER = replace(LOT, id="l2", name="N6", soak_s=7_200.0, keep_s=1_200.0)
POST = Fixture(
    id="f1", kind="host", name="post 1", material="steel", finish="painted", diameter_m=0.06
)
PULL = Pull(
    id="p1",
    specimen_id="s1",
    started_at="2026-01-01T00:00:00Z",
    instrument="bench",
    sample_rate_hz=100.0,
    rate_m_s=0.008,
    capacity_n=25_000.0,
    resolution_n=2.0,
)
PLAIN = replace(SPECIMEN, knot_b=None)
FULL = replace(
    SPECIMEN,
    id="s2",
    code="S-002",
    method=MethodPlan("cycles", (("count", 12.0), ("high", 0.4)), "end to end"),
    dressing=CROSSED,
    fixture=POST,
    lot_b=OTHER,
    pair="7.1.2",
    replaces_id="s1",
)


@pytest.fixture
def file(tmp_path):
    with create_campaign(tmp_path / "a.bruiser") as made:
        with made.writing() as c:
            campaigns.insert_campaign(c, ROW)
            for lot in (LOT, OTHER):
                campaigns.insert_lot(c, lot)
            campaigns.insert_knot(c, KNOT)
            bench_books.insert_fixture(c, POST)
            for specimen in (PLAIN, FULL):
                campaigns.insert_specimen(c, specimen)
            pulls.insert_pull(c, PULL)
        yield made


def loaded(c):
    lots = {x.id: x for x in campaigns.load_lots(c)}
    knots = {x.id: x for x in campaigns.load_knots(c)}
    return campaigns.load_specimens(c, lots, knots, {POST.id: POST})


def test_a_specimen_comes_back_with_all_it_was_planned_with(file):
    with file.reading() as c:
        assert {s.id: s for s in loaded(c)} == {"s1": PLAIN, "s2": FULL}
        assert {x.id: (x.soak_s, x.keep_s) for x in campaigns.load_lots(c)} == {
            "l1": (None, None),
            "l2": (7_200.0, 1_200.0),
        }


def test_places_in_the_queue_are_given_anew(file):
    with file.writing() as c:
        campaigns.place_specimens(c, {"s1": 9, "s2": 4})
        assert [s.id for s in loaded(c)] == ["s2", "s1"]


def test_steps_come_back_in_their_order_and_are_never_changed(file):
    steps = [
        Preparation(id="a", specimen_id="s2", made_at="2026-10-01", step=PrepStep.SOAKING),
        Preparation(
            id="b",
            specimen_id="s2",
            made_at="2026-10-02",
            step=PrepStep.TIED,
            by="TV",
            note="neat",
        ),
        Preparation(
            id="c",
            specimen_id="s2",
            made_at="2026-10-03",
            step=PrepStep.TIED,
            by="TV",
            note="undone",
            withdrawn=True,
        ),
    ]
    with file.writing() as c:
        for step in steps:
            preparations.insert_preparation(c, step)
    with file.reading() as c:
        found = preparations.load_preparations(c)
    assert found == {"s2": steps}
    assert set(in_force(found["s2"])) == {PrepStep.SOAKING}
    with pytest.raises(StoreError, match="append-only"), file.writing() as c:
        c.execute(sa.text("UPDATE preparation SET by = 'X'"))


def test_a_known_load_is_kept_for_good(file):
    check = LoadCheck(
        id="k",
        made_at="2026-10-01",
        bench="yard",
        known_n=250.0,
        read_n=252.0,
        by="TV",
    )
    with file.writing() as c:
        bench_books.insert_load_check(c, check)
    with file.reading() as c:
        assert bench_books.load_bench_book(c).checks == (check,)
    with pytest.raises(StoreError, match="append-only"), file.writing() as c:
        c.execute(sa.text("UPDATE load_check SET read_n = 1"))
    with pytest.raises(InputError), file.writing() as c:
        bench_books.insert_load_check(c, replace(check, id="z", known_n=0.0))


def test_a_bench_keeps_its_factor_and_methods(file):
    bench = BenchRecord(
        id="b",
        name="yard",
        stroke_m=1.0,
        rate_m_s=0.01,
        capacity_n=9e3,
        resolution_n=2.0,
        sample_rate_hz=100.0,
        methods=METHODS,
        factor=1.013,
    )
    with file.writing() as c:
        bench_books.put_bench(c, bench)
    with file.reading() as c:
        assert bench_books.load_bench_book(c).benches == (bench,)


@pytest.mark.parametrize("channels", [(), ("load2_n",), ("tail_m",), ("load2_n", "tail_m")])
def test_further_channels_are_kept_and_chunks_joined(file, channels):
    rng = np.random.default_rng(4)
    load, travel = rng.normal(0, 50, 40), np.linspace(0, 0.1, 40)
    load[3] = np.nan
    more = {name: rng.normal(0, 0.01, 40) for name in channels}
    with file.writing() as c:
        for part in (slice(0, 25), slice(25, 40)):
            extra = {k: v[part] for k, v in more.items()}
            chunk = trace_of(load[part], travel[part], first=part.start, **extra)
            pulls.append_samples(c, "p1", chunk)
        pulls.seal_trace(c, "p1", pulls.load_samples(c, "p1"))
        rows = c.execute(sa.text("SELECT count(*) FROM trace_chunk")).scalar()
    assert rows == 1
    with file.reading() as c:
        found = pulls.load_samples(c, "p1")
    np.testing.assert_allclose(found.load_n, load, atol=6e-4)
    np.testing.assert_allclose(found.travel_m, travel, atol=6e-7)
    for name, channel in (("load2_n", Channel.LOAD2), ("tail_m", Channel.TAIL)):
        assert (found.get(channel) is None) == (name not in channels)
        if name in channels:
            np.testing.assert_allclose(found.get(channel), more[name], atol=6e-4)


def test_every_reading_of_a_trace_stays_and_the_last_one_holds(file):
    t = np.arange(500) / 100
    load = np.clip(t - 1, 0, None) * 1_000 + np.random.default_rng(1).normal(0, 1, 500)
    travel = np.clip(t - 1, 0, None) * 0.02
    kept = []
    with file.writing() as c:
        for n, mean_s in enumerate((0.005, 0.1)):
            settings = TraceSettings(diameter_m=0.008, mean_s=mean_s)
            result = analyse_trace(trace_of(load, travel, stamps_s=t), settings=settings)
            pulls.insert_analysis(c, f"a{n}", "p1", f"2026-10-0{n + 1}", result, settings)
            kept.append((settings, result))
    with file.reading() as c:
        history = pulls.load_analysis_history(c, "p1")
        assert [(h.settings, h.result) for h in history] == kept
        assert pulls.load_analyses(c) == {"p1": kept[-1][1]}
        c.execute(sa.text("SELECT 1"))


def test_a_reading_from_before_settings_were_kept_is_still_read(file):
    t = np.arange(60) / 100
    result = analyse_trace(trace_of(t * 100, t * 0.01, stamps_s=t))
    with file.writing() as c:
        pulls.insert_analysis(c, "a", "p1", "2026-10-01T08:00:00+00:00", result)
        c.execute(sa.text("UPDATE trace_analysis SET method = 'trace-1'"))
        text = c.execute(sa.text("SELECT result FROM trace_analysis")).scalar()
        old = text.replace('"capsized": false, ', "")
        c.execute(sa.text("UPDATE trace_analysis SET result = :r"), {"r": old})
    with file.reading() as c:
        (found,) = pulls.load_analysis_history(c, "p1")
    assert found.settings == TraceSettings()
    assert found.result == result
