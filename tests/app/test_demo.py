import collections
import hashlib
import json
import math
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from bruiser.app import paths
from bruiser.app.build_demo import build_demo
from bruiser.app.cli import main as cli
from bruiser.app.crash import write_report
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.methods import METHODS
from bruiser.core.records.preparation import PrepStep
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import CROSSED, DRESSED, Gave, Role
from bruiser.core.records.stock import StockMove
from bruiser.store import pulls
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_row
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.lot_results import lot_results


def test_the_demo_holds_what_was_promised(workshop):
    logbook = read_logbook(workshop)
    done = [e for e in logbook.entries if e.pull is not None]
    assert len(logbook.lots) >= 3
    assert len(logbook.knots) >= 6
    assert len(done) >= 80
    assert len(logbook.at(Stage.PLANNED)) == 7
    pulled = {e.specimen.lot for e in done}
    assert {lot.name for lot in logbook.lots if lot not in pulled} == {"K10-H"}
    assert {lot.condition.split(",")[0] for lot in pulled} == {"new", "wet", "worn"}
    for lot in pulled:
        plain = [e for e in done if e.specimen.role is Role.BASELINE and e.specimen.lot == lot]
        assert sum(not e.specimen.state.words for e in plain) == 5
    assert {e.finding.gave for e in done} == set(Gave)
    assert {bool(e.specimen.knot_b) for e in done if e.specimen.knot_a} == {True, False}
    kinds = collections.Counter(
        e.specimen.layout.place(e.finding.place).kind.value for e in done if e.finding.place
    )
    assert {"knot", "nip", "span", "termination"} <= set(kinds)
    assert {e.specimen.layout_key for e in done} == set(LAYOUTS)
    assert {e.specimen.method.key for e in done} == set(METHODS)
    assert {r.takes for e in done for r in e.readings} >= set(Takes) - {Takes.RELEASE}
    assert {e.specimen.dressing for e in done if e.specimen.pair} == {DRESSED, CROSSED}
    directions = {e.specimen.method.direction for e in done} - {""}
    assert len(directions) == 4
    states = {e.specimen.state.words.split(" ")[0] for e in done} - {""}
    assert states == {"tail", "one", "cut", "closed"}
    assert any(e.specimen.lot.flat for e in done)
    wraps = {
        (e.specimen.lot.name, e.specimen.method.value("wraps"))
        for e in done
        if e.specimen.method.key == "cord on rope"
    }
    assert len(wraps) == 6
    assert sum(PrepStep.TRIAL in e.steps for e in done) >= 10
    assert any(e.specimen.lot_b is not None and e.specimen.layout_key == "bend" for e in done)
    assert workshop.campaign.synthetic
    assert [b.name for b in logbook.bench_book.benches] == ["simulated bench"]
    assert len(logbook.brief.claims_in_force) == 8
    assert [e.specimen.lot.name for e in done if e.excluded] == ["N6-K"]
    assert len(logbook.brief.criteria) > len(logbook.brief.criteria_in_force)


def test_the_analysis_agrees_with_the_simulators_truth(workshop):
    wanted = {"broke": "broke", "came_out": "ran_out", "capsized": "ran_out", "stopped": "stopped"}
    for entry in read_logbook(workshop).entries:
        if entry.pull is None:
            continue
        truth = entry.pull.remains
        assert entry.analysis.end.value == wanted[truth["gave"]]
        assert entry.analysis.peak_n == pytest.approx(
            truth["truth"]["highest_n"], rel=0.012, abs=10
        )


def test_the_shipped_file_is_what_the_script_makes(tmp_path, workshop):
    path = tmp_path / "again.bruiser"
    build_demo(path, limit=4)
    again = open_workshop(path)
    first, second = read_logbook(again), read_logbook(workshop)
    count = len(first.entries)
    assert [e.specimen for e in first.entries] == [e.specimen for e in second.entries[:count]]
    for one, two in zip(first.entries[:4], second.entries[:4], strict=True):
        assert one.finding.gave is two.finding.gave
        assert one.finding.peak_load_n == pytest.approx(two.finding.peak_load_n, rel=1e-3)
        np.testing.assert_allclose(
            read_trace(again, one.pull).load_n, read_trace(workshop, two.pull).load_n, atol=2.1
        )
    again.close()


def test_the_user_works_on_a_copy_and_fresh_starts_over(tmp_path, monkeypatch, shipped_demo):
    monkeypatch.setattr(paths, "user_data_path", lambda _: tmp_path / "data")
    before = hashlib.sha256(shipped_demo.read_bytes()).hexdigest()
    copy = paths.fetch_demo()
    opened = open_workshop(copy)
    opened.close()
    copy.write_bytes(b"changed")
    assert paths.fetch_demo().read_bytes() == b"changed"
    assert paths.fetch_demo(fresh=True).read_bytes() == shipped_demo.read_bytes()
    assert (copy.parent / "fennock-ridge-earlier-1.bruiser").read_bytes() == b"changed"
    assert hashlib.sha256(shipped_demo.read_bytes()).hexdigest() == before


def test_results_come_out_as_json(demo_file, capsys):
    assert cli(["results", str(demo_file), "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["format"] == "bruiser-results-1"
    loop = next(g for g in data["groups"] if (g["cordage"], g["knot"]) == ("N6-K", "Bowline"))
    assert loop["efficiency"]["low"] < loop["efficiency"]["value"] < loop["efficiency"]["high"]
    assert sum(loop["n"].values()) == len(loop["pulls"]) + loop["n"]["void"]
    assert cli(["results", str(demo_file)]) == 0
    assert "keeps between" in capsys.readouterr().out


def test_a_file_that_is_no_campaign_ends_with_status_two(tmp_path, capsys):
    bad = tmp_path / "x.bruiser"
    bad.write_text("no", encoding="utf-8")
    assert cli(["results", str(bad)]) == 2
    out = capsys.readouterr()
    assert out.out == ""
    assert "not a campaign" in out.err


def test_a_bug_leaves_a_report(tmp_path, monkeypatch):
    monkeypatch.setattr("bruiser.app.crash.report_path", lambda: tmp_path)
    error = RuntimeError("oh")
    text = write_report(RuntimeError, error, None).read_text(encoding="utf-8")
    assert "RuntimeError: oh" in text


def test_without_a_display_one_pull_is_made_and_pictured(tmp_path):
    hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    env = {k: v for k, v in os.environ.items() if k not in hidden}
    env |= {"XDG_DATA_HOME": str(tmp_path / "d"), "XDG_STATE_HOME": str(tmp_path / "s")}
    done = subprocess.run(
        [sys.executable, "-m", "bruiser.app.main", "--demo", "--pictures", str(tmp_path / "p")],
        env=env,
        capture_output=True,
        text=True,
        timeout=500,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines()[0].startswith("No display found")
    said = [Path(line).name for line in done.stdout.splitlines()[1:]]
    assert set(said) == {picture.name for picture in (tmp_path / "p").glob("*.png")}
    assert len(set(said)) == 27
    copy = open_workshop(tmp_path / "d" / "bruiser" / paths.DEMO_NAME)
    assert len(read_logbook(copy).at(Stage.PLANNED)) == 6
    copy.close()


@pytest.fixture(scope="module")
def logbook(demo_shelf):
    return demo_shelf[0].logbook


def results_of(logbook, name):
    return lot_results(logbook, next(lot for lot in logbook.lots if lot.name == name))


@pytest.mark.parametrize("lot", ["P8-B", "N6-K", "H4-W"])
def test_the_baseline_holds_the_simulators_truth(logbook, lot):
    found = results_of(logbook, lot).baseline
    truth = next(
        e.pull.remains["truth"]["lot_strength_n"]
        for e in logbook.entries
        if e.pull is not None and e.specimen.lot.name == lot
    )
    spread = found.estimate.sigma / math.sqrt(found.counts.broke)
    assert abs(math.log(found.median_n / truth)) < 4 * max(spread, 0.01)


@pytest.mark.parametrize(
    ("lot", "knot", "truth"),
    [
        ("P8-B", "Bowline", 0.68),
        ("P8-B", "Figure-eight loop", 0.74),
        ("N6-K", "Figure-eight loop", 0.74),
        ("N6-K", "Overhand loop", 0.61),
    ],
)
def test_knots_that_break_hold_the_simulators_efficiency(logbook, lot, knot, truth):
    row = next(r for r in results_of(logbook, lot).knots if r.knot.name == knot)
    interval = row.efficiency.interval
    assert interval.low < truth < interval.high


def test_the_gauge_and_the_rule_agree_where_nothing_slipped(logbook):
    gathered = gather(logbook)
    lot = next(x for x in logbook.lots if x.name == "P8-B")
    case = next(c for c in knot_cases(gathered, lot.id) if c.name == "Figure-eight loop")
    row = slip_row(case, results_of(logbook, "P8-B").baseline.median_n)
    ruled = {p: d for p, _, d, _ in row.ends}
    assert row.curves
    for curve in row.curves:
        assert curve.draw_m[-1] == pytest.approx(ruled[curve.pull_id], abs=0.004)


def test_the_demo_ledger_balances(workshop):
    logbook = read_logbook(workshop)
    stock = logbook.stock
    with workshop.file.reading() as connection:
        loaded = {p.specimen_id for p in pulls.load_pulls(connection)}
    moves = logbook.ledger([hank.id for hank in stock.hanks])
    assert loaded <= {m.specimen_id for m in moves if m.move is StockMove.CUT}
    for hank in stock.hanks:
        assert 0 <= stock.left_m(hank.id) <= stock.received_m(hank.id)
    wet = next(lot for lot in logbook.lots if lot.stock_lot_id)
    dry = logbook.lot(wet.stock_lot_id)
    assert stock.on_hand_m(wet.stock_id) == stock.on_hand_m(dry.id)
