"""Slipping, jamming and comparisons as they are read off stored pulls."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.records.methods import Tells
from bruiser.core.records.readings import Reading, Takes
from bruiser.core.records.records import Finding, Gave, TailDraw
from bruiser.core.statistics.compare import compare_paired
from bruiser.workshop.results.comparing import (
    compare_rows,
    knot_by_cordage,
    partners,
    rope_marginal,
)
from bruiser.workshop.results.jam_results import jam_row
from bruiser.workshop.results.knot_cases import knot_cases
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.slipping import slip_row, slip_rows
from bruiser.workshop.results.wrap_results import wrap_tests


@pytest.fixture(scope="module")
def results(gathered):
    return all_results(gathered)


def lot_id(logbook, name):
    return next(x.id for x in logbook.lots if x.name == name)


def case_of(logbook, gathered, lot, name):
    return next(c for c in knot_cases(gathered, lot_id(logbook, lot)) if c.name == name)


def with_findings(case, change):
    """The case with every finding changed."""
    groups = []
    for group in case.groups:
        tried = tuple(replace(t, finding=change(t.finding)) for t in group.tried)
        groups.append(replace(group, tried=tried))
    return replace(case, groups=tuple(groups))


def test_a_case_gathers_every_method_of_a_knot(logbook, gathered):
    case = case_of(logbook, gathered, "N7-T", "Figure-eight loop")
    methods = {g.method for g in case.groups}
    assert {"ramp to failure", "stepped load", "slack and snatch", "sustained hold"} <= methods
    crossed = case_of(logbook, gathered, "N7-T", "Figure-eight loop, crossed")
    assert {g.method for g in crossed.groups} == {"ramp to failure"}
    assert set(case.pull_ids).isdisjoint(crossed.pull_ids)
    names = [c.name for c in knot_cases(gathered, lot_id(logbook, "N7-T"))]
    assert "Double sheet bend, to N5-T" in names
    assert names == sorted(names)


def test_rating_many_at_once_is_rating_each(logbook, gathered, results):
    lot = lot_id(logbook, "N7-T")
    median = results[lot].baseline.median_n
    cases = knot_cases(gathered, lot)
    together = slip_rows([(c, median) for c in cases])
    for case, row in zip(cases, together, strict=True):
        alone = slip_row(case, median)
        weakest = [v and v.name for v in (row.verdict.weakest, alone.verdict.weakest)]
        assert weakest[0] == weakest[1]
        one, two = row.slip.draw_d, alone.slip.draw_d
        assert (one is None) == (two is None)
        if one is not None:
            assert (one.value, one.low, one.high) == pytest.approx((two.value, two.low, two.high))


def test_cycles_and_shakes_count_what_was_gone_through(logbook, gathered, results):
    lot = lot_id(logbook, "N7-T")
    median = results[lot].baseline.median_n
    sheet = slip_row(case_of(logbook, gathered, "N7-T", "Sheet bend"), median)
    zeppelin = slip_row(case_of(logbook, gathered, "N7-T", "Zeppelin bend"), median)
    failed = [n for _, n, gone in sheet.cycles.pulls if gone]
    assert len(failed) == 2
    # What failed did so in the cycle after the last it survived.
    assert [s.cycles for s in sheet.cycles.steps] == [0, *sorted({n + 1 for n in failed})]
    assert sheet.cycles.steps[0].at_risk == 3
    assert zeppelin.cycles.last.value == 1.0
    assert zeppelin.cycles.most == 30
    assert 0 < zeppelin.cycles.last.low < 0.5
    hitch = slip_row(case_of(logbook, gathered, "N7-T", "Slipped half hitch"), median)
    assert {p for p, _, _ in hitch.shakes.pulls} == {
        t.finding.pull_id for t in hitch.case.that_tell(Tells.LOOSENING)
    }
    assert hitch.verdict.weakest.name == "shaking"


def test_of_the_two_tails_of_a_bend_only_the_one_that_went_ran_out(logbook, gathered, results):
    case = case_of(logbook, gathered, "P8-B", "Sheet bend")
    median = results[case.lot.id].baseline.median_n
    tails = case.groups[0].tried[0].entry.specimen.layout.tails
    assert len(tails) == 2

    def one_ran(finding):
        drawn = (TailDraw(key=tails[0].key, draw_m=0.2), TailDraw(key=tails[1].key, draw_m=0.01))
        return replace(finding, gave=Gave.CAME_OUT, draws=drawn)

    row = slip_row(with_findings(case, one_ran), median)
    assert row.slip.tails.ran_out == len(case.groups[0].tried)
    assert row.slip.tails.tails == 2 * row.slip.tails.ran_out
    assert row.slip.draw_d is not None


def test_a_knot_that_changed_form_and_let_go_says_nothing_of_its_tails(logbook, gathered, results):
    case = case_of(logbook, gathered, "N6-K", "Bowline")
    median = results[case.lot.id].baseline.median_n
    row = slip_row(case, median)
    capsized = [t for t in case.that_tell(Tells.SLIP) if t.finding.gave is Gave.CAPSIZED]
    assert len(capsized) == 2
    owners = {
        (t.finding.pull_id, t.entry.specimen.layout.place(t.finding.place).owner) for t in capsized
    }
    assert row.slip.tails.tails == 2 * len(case.that_tell(Tells.SLIP)) - len(owners)
    assert row.out == 2


def test_the_curves_end_at_the_peak_and_rise(logbook, gathered, results):
    case = case_of(logbook, gathered, "P8-B", "Bowline")
    median = results[case.lot.id].baseline.median_n
    row = slip_row(case, median)
    peaks = {
        t.finding.pull_id: t.entry.analysis.peak_n / median for t in case.that_tell(Tells.SLIP)
    }
    assert {c.pull_id for c in row.curves} == peaks.keys()
    for curve in row.curves:
        assert curve.share[-1] == pytest.approx(peaks[curve.pull_id])
        assert np.all(np.diff(curve.draw_m) >= 0)
        assert curve.draw_m[0] == 0
    assert slip_row(case, None).curves == ()


def test_the_gauge_and_the_rule_agree_where_nothing_slipped(logbook, gathered, results):
    case = case_of(logbook, gathered, "P8-B", "Figure-eight loop")
    row = slip_row(case, results[case.lot.id].baseline.median_n)
    ruled = {p: d for p, _, d, _ in row.ends}
    for curve in row.curves:
        assert curve.draw_m[-1] == pytest.approx(ruled[curve.pull_id], abs=0.004)


def test_steps_after_jamming_do_not_open_the_bracket(logbook, gathered, results):
    case = case_of(logbook, gathered, "N7-T", "Bowline")
    stepped = next(g for g in case.groups if g.method == "stepped load")
    entry = stepped.tried[0].entry
    end = stepped.tried[0].ends[0]

    def reading(number, load, level):
        return Reading(
            id=f"r{number}",
            pull_id=entry.pull.id,
            made_at="",
            takes=Takes.UNTYING,
            number=number,
            load_n=load,
            value=4.0,
            end=end,
            level=level,
        )

    from bruiser.core.records.records import JamLevel

    taken = (
        reading(1, 2_000.0, JamLevel.HAND),
        reading(2, 4_000.0, JamLevel.TOOL),
        reading(3, 6_000.0, JamLevel.HAND),
    )
    tried = replace(stepped.tried[0], entry=replace(entry, readings=taken))
    made = replace(case, groups=(replace(stepped, tried=(tried,)),))
    row = jam_row(made, 10_000.0)
    assert (row.jam.opened, row.jam.jammed) == (1, 1)
    assert 0.2 < row.jam.j50.value < 0.6


def test_partners_are_compared_pair_by_pair(logbook, results):
    (found,) = partners(results[lot_id(logbook, "N7-T")])
    assert found.knot == "Figure-eight loop"
    assert found.states == ("dressed", "crossed")
    loads = [
        [np.log(logbook.by_pull[p].finding.peak_load_n) for p in side]
        for side in zip(*found.pairs, strict=True)
    ]
    by_hand = compare_paired(np.array(loads[0]), np.array(loads[1]))
    assert found.paired == by_hand
    value, low, high = found.points
    assert low < value < high
    assert value == pytest.approx(found.typical * (by_hand.ratio.value - 1))
    assert partners(results[lot_id(logbook, "P8-B")]) == ()


def test_a_pair_in_which_one_only_held_is_left_out(logbook, results):
    own = results[lot_id(logbook, "N7-T")]
    knots = []
    for row in own.knots:
        if row.key.dressing == "crossed":
            first = replace(row.group.tried[0], events=0, floors=2)
            tried = (first, *row.group.tried[1:])
            row = replace(row, group=replace(row.group, tried=tried))
        knots.append(row)
    (found,) = partners(replace(own, knots=tuple(knots)))
    assert (found.paired.pairs, found.left_out) == (3, 1)


def test_the_matrix_has_the_cell_with_most_pulls(logbook, results):
    matrix = knot_by_cordage(results)
    assert len(matrix.lots) == 7
    cell = matrix.cells["Bowline", "P8-B"]
    assert cell.efficiency.counts.specimens == 6
    assert ("Bowline", "N5-T") not in matrix.cells
    assert "Figure-eight loop, crossed" in matrix.knots
    for (knot, lot), row in matrix.cells.items():
        others = [
            r
            for r in results[lot_id(logbook, lot)].knots
            if knot in (r.key.knot, f"{r.key.knot}, {r.key.dressing}")
            and (r.key.dressing == "crossed") == knot.endswith("crossed")
        ]
        assert row.efficiency.counts.specimens == max(r.efficiency.counts.specimens for r in others)


def test_knots_of_two_cordages_are_compared_in_points_of_their_own_ropes(logbook, results):
    p8, n6 = (results[lot_id(logbook, name)] for name in ("P8-B", "N6-K"))
    rows = [next(r for r in x.knots if r.key.knot == "Figure-eight loop") for x in (p8, n6)]
    (c,) = compare_rows(rows, results).contrasts
    values = [r.efficiency.interval.value for r in rows]
    assert c.points.value == pytest.approx(values[0] - values[1], abs=0.01)
    assert c.p is not None
    assert rope_marginal(results[lot_id(logbook, "K10-H")]) is None


def test_wraps_are_gathered_by_cord_and_host(logbook, gathered):
    tests = wrap_tests(gathered, lot_id(logbook, "N7-T"))
    ((knot, host),) = tests
    assert logbook.knot(knot).title == "Triple sliding hitch"
    assert logbook.lot(host).name == "K10-H"
    marks = tests[knot, host]
    assert [m.wraps for m in marks] == sorted(m.wraps for m in marks)
    assert len(marks) == 9
    assert all(m.load_n > 0 for m in marks)
    assert wrap_tests(gathered, lot_id(logbook, "P8-B")) == {}


def test_a_void_finding_is_counted_and_says_nothing(logbook, gathered):
    void = [e for e in logbook.entries if e.finding and e.finding.gave is Gave.VOID]
    assert void
    groups = [
        *gathered.plain.values(),
        *(g for own in gathered.tied.values() for g in own.values()),
    ]
    assert sum(g.void for g in groups) == len(void)
    ids = {p for g in groups for p in g.pull_ids}
    assert ids.isdisjoint(e.pull.id for e in void)
    assert isinstance(void[0].finding, Finding)
