import math
from dataclasses import replace

import pytest

from bruiser.core.records.layouts import End
from bruiser.workshop.logbook.entries import read_logbook
from bruiser.workshop.results.gathering import group_key
from bruiser.workshop.results.lot_results import lot_results
from bruiser.workshop.results.result_words import say_strength


@pytest.fixture
def logbook(workshop):
    return read_logbook(workshop)


def results(logbook, name):
    return lot_results(logbook, next(lot for lot in logbook.lots if lot.name == name))


@pytest.mark.parametrize("lot", ["P8-B", "N6-K", "H4-W"])
def test_the_baseline_holds_the_simulators_truth(logbook, lot):
    found = results(logbook, lot).baseline
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
    row = next(r for r in results(logbook, lot).knots if r.knot.name == knot)
    interval = row.efficiency.interval
    assert interval.low < truth < interval.high


def test_every_number_leads_back_to_its_pulls(logbook):
    for name in ("P8-B", "N6-K", "H4-W"):
        found = results(logbook, name)
        for row in found.knots:
            counted = [m for m in row.marks if not m.left_out]
            assert {m.pull_id for m in counted} == set(row.efficiency.pull_ids)
            assert row.efficiency.counts.specimens == len(counted)
            if row.efficiency.interval is not None:
                assert "cancels" in row.efficiency.measurement
        values = [r.efficiency.interval.value for r in found.knots if r.efficiency.interval]
        assert values == sorted(values, reverse=True)


def test_pin_size_and_condition_keep_groups_apart(logbook):
    loop = next(e.specimen for e in logbook.entries if e.specimen.knot_a is not None)
    key = group_key(loop, End.A)
    assert key.cordage == loop.lot.name
    assert group_key(replace(loop, pin_diameter_m=0.03), End.A) != key
    wet = replace(loop, lot=replace(loop.lot, condition="wet"))
    assert group_key(wet, End.A) != key
    assert group_key(replace(loop, knot_a=None), End.A) is None


def test_the_sentence_is_made_from_the_numbers(logbook):
    rows = [r for r in results(logbook, "P8-B").knots if r.efficiency.interval is not None]
    assert len(rows) >= 7
    words = [say_strength(r) for r in rows]
    assert len(set(words)) == len(words)
    for row, text in zip(rows, words, strict=True):
        interval = row.efficiency.interval
        assert f"{100 * interval.low:.0f} and {100 * interval.high:.0f} %" in text
        assert ("came out" in text) == bool(row.efficiency.counts.came_out)


def test_a_lot_by_itself_sees_the_rope_it_is_bent_to(logbook):
    row = next(r for r in results(logbook, "N7-T").knots if r.key.knot == "Double sheet bend")
    assert row.result.reference == "N5-T"
    assert "one baseline of two" not in [c.kind for c in row.efficiency.caveats]
