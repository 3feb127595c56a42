"""What is stored of a pull: its gaps, its time base, its bench, and how it was read."""

import time
from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.errors import Damaged, InputError
from bruiser.core.records.bench_book import BenchBook, BenchRecord
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Pull, PullEnd
from bruiser.core.trace import trace_of
from bruiser.rig.instrument import InstrumentInfo
from bruiser.rig.serial.passive import PassiveIndicator, PassiveSettings
from bruiser.store import pulls
from bruiser.workshop.bench.instruments import (
    InstrumentChoice,
    InstrumentKind,
    bench_of,
    bench_rules,
    with_cell,
)
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.pull_end import close_interrupted_pulls, close_pull
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.running import acts_for
from bruiser.workshop.findings.tracing import analyses_of
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from tests.build import SPECIMEN

BENCH = BenchRecord(
    id="b1",
    name="yard",
    stroke_m=0.8,
    rate_m_s=0.003,
    capacity_n=15_000.0,
    resolution_n=5.0,
    sample_rate_hz=40.0,
)
BOOK = BenchBook(benches=(BENCH,))


def begun(workshop, rate_hz=100.0):
    pull = Pull(
        id="p1", specimen_id="s1", started_at=workshop.now(), instrument="bench",
        sample_rate_hz=rate_hz, rate_m_s=0.008, capacity_n=2e4, resolution_n=2.0,
    )  # fmt: skip
    with workshop.file.writing() as connection:
        pulls.insert_pull(connection, pull)


def add(workshop, first, load):
    load = np.asarray(load, dtype=float)
    with workshop.file.writing() as connection:
        pulls.append_samples(connection, "p1", trace_of(load, load / 1e5, first=first))


def test_a_chunk_that_was_never_stored_leaves_a_gap_that_is_counted_and_moves_nothing(stocked):
    begun(stocked)
    add(stocked, 0, np.arange(100.0))
    add(stocked, 150, np.arange(150.0, 400.0))
    close_pull(stocked, "p1", PullEnd.STOPPED, None, 100.0, 2e4)
    entry = read_logbook(stocked).by_pull["p1"]
    trace = read_trace(stocked, entry.pull)
    assert (len(trace.load_n), entry.pull.samples_lost) == (400, 50)
    assert np.isnan(trace.load_n[100:150]).all()
    assert (trace.load_n[150], trace.time_s[150]) == (150.0, 1.5)


def test_a_chunk_that_stands_where_no_pull_gets_to_is_damage(stocked):
    begun(stocked)
    add(stocked, 10**9, np.arange(10.0))
    with stocked.file.reading() as connection, pytest.raises(Damaged, match="gap of hours"):
        pulls.load_samples(connection, "p1")


def test_an_interrupted_pull_is_read_by_the_diameter_of_its_cord_and_its_gaps_are_counted(stocked):
    begun(stocked)
    add(stocked, 0, np.arange(300.0))
    add(stocked, 320, np.arange(320.0, 600.0))
    assert close_interrupted_pulls(stocked) == ("p1",)
    (read,) = analyses_of(stocked, "p1")
    assert read.settings.diameter_m == SPECIMEN.lot.diameter_m
    assert read_logbook(stocked).by_pull["p1"].pull.samples_lost == 20


class Stream:
    """An indicator's line: so many readings a second, in real time, rising and then gone."""

    def __init__(self, rate_hz):
        self.rate_hz, self.began, self.sent = rate_hz, time.monotonic(), -1

    def forget(self):
        return

    def read(self, timeout_s):
        time.sleep(min(timeout_s, 0.5 / self.rate_hz))
        due = int((time.monotonic() - self.began) * self.rate_hz)
        lines = [f"{max(0, n - 40) * 30} N" for n in range(self.sent + 1, due + 1)]
        self.sent = due
        return "".join(f"{x}\r\n" for x in lines).encode()

    def close(self):
        return


@pytest.mark.long
def test_the_time_base_of_an_indicator_is_what_its_samples_say_at_the_end(stocked):
    indicator = PassiveIndicator(Stream(40.0), PassiveSettings(unit="N", capacity_n=2e4))
    session = PullSession(stocked, SPECIMEN, indicator, 0.0)
    session.arm()
    while not session.zero_taken:
        time.sleep(0.01)
    assert session.pull()
    first = stocked.file
    while session.recorder.count < 100:
        session.poll()
        time.sleep(0.02)
    with first.reading() as connection:
        (running,) = pulls.load_pulls(connection)
    session.release()
    assert session.phase is Phase.HELD
    session.finish(PullEnd.STOPPED)
    entry = read_logbook(stocked).by_pull[session.pull_id]
    assert entry.pull.sample_rate_hz == pytest.approx(40.0, rel=0.15)
    assert running.sample_rate_hz > 25.0
    length = read_trace(stocked, entry.pull).time_s[-1]
    assert length == pytest.approx(len(read_trace(stocked, entry.pull).load_n) / 40.0, rel=0.15)


def test_the_bench_book_says_at_what_rate_and_to_what_limits_a_bench_is_pulled():
    info = InstrumentInfo(
        name="yard",
        sample_rate_hz=500.0,
        capacity_n=25_000.0,
        resolution_n=2.0,
        stroke_m=1.0,
        simulated=False,
    )
    line = InstrumentChoice(kind=InstrumentKind.CONTROLLED, path="/dev/x")
    rules = bench_rules(line, BOOK, info)
    assert (rules.rate_m_s, rules.capacity_n, rules.stroke_m) == (0.003, 15_000.0, 0.8)
    other = replace(info, name="another")
    assert bench_rules(line, BOOK, other).rate_m_s == 0.0
    chosen = with_cell(line, BENCH)
    assert bench_rules(chosen, BOOK, other).rate_m_s == 0.003
    assert bench_of(chosen, BOOK, "another") == BENCH
    for kind in (InstrumentKind.BY_HAND, InstrumentKind.LOGGER):
        assert bench_rules(replace(chosen, kind=kind), BOOK).rate_m_s == 0.003
        unknown = bench_rules(InstrumentChoice(kind=kind), BOOK)
        assert (unknown.rate_m_s, unknown.stroke_m) == (0.0, 0.0)
    assert bench_rules(InstrumentChoice(), None).rate_m_s == 0.008


def test_a_method_whose_shares_are_of_nothing_says_so_before_anything_is_opened():
    stepped = replace(SPECIMEN, method=MethodPlan("stepped load"))
    with pytest.raises(InputError, match="strength nobody knows") as refused:
        acts_for(stepped, 0.0)
    assert "baseline" in refused.value.remedy
    assert acts_for(stepped, 9e3)
    assert acts_for(SPECIMEN, 0.0)
