"""Slipping, jamming and comparisons as they are read off stored pulls."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import CROSSED, DRESSED, Gave, JamLevel, TailDraw
from bruiser.core.statistics.compare import compare_paired
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.jam_results import jam_row
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.slipping import slip_row, slip_rows
from bruiser.workshop.groups.wrap_results import wrap_tests
from bruiser.workshop.results.comparing import (
    compare_rows,
    knot_by_cordage,
    partners,
    rope_marginal,
)
from bruiser.workshop.results.lot_results import all_results
from tests.build import Situation

GAUGE_M = tuple(0.0005 * n for n in range(1, 21))


def counted(takes, *numbers):
    """For each pull in turn, so many cycles or shakes gone through."""
    left = list(numbers)

    def make(entry):
        number = left.pop(0)
        return [Situation().reading(entry, takes, n, 3_000.0) for n in range(1, number + 1)]

    return make


def steps(*levels):
    """One knot untied after each of three loads."""

    def make(entry):
        (end,) = entry.specimen.layout.ends[:1]
        return [
            Situation().reading(
                entry, Takes.UNTYING, n, 2_000.0 * n, 4.0, end=end, level=JamLevel(level)
            )
            for n, level in enumerate(levels, start=1)
        ]

    return make


@pytest.fixture(scope="module")
def made():
    """A cord pulled by many methods, a thinner one, and a host rope that was never pulled."""
    s = Situation()
    cord, thin = s.lot("R7", diameter_m=0.007), s.lot("T5", diameter_m=0.005)
    host = s.lot("H10", plain=(), diameter_m=0.010)
    bowline = {"gave": Gave.BROKE, "drawn_m": GAUGE_M, "jam": JamLevel.HAND}
    s.pull("bowline", cord, 6_500.0, 6_700.0, 6_900.0, 7_000.0, 6_800.0, 6_600.0, **bowline)
    s.pull(
        "bowline", cord, 7_000.0, method="stepped load", readings=steps("hand", "tool", "hand"),
        gave=Gave.STOPPED,
    )  # fmt: skip
    s.pull("bowline", thin, 3_000.0, 3_100.0, 3_300.0, gave=Gave.BROKE)
    s.pull("bowline", thin, 2_700.0, 2_800.0, gave=Gave.CAPSIZED)
    dressed, crossed = (7_200.0, 7_300.0, 7_600.0, 7_900.0), (7_000.0, 7_250.0, 7_400.0, 7_500.0)
    for number, pair in enumerate(zip(dressed, crossed, strict=True)):
        for load, dressing in zip(pair, (DRESSED, CROSSED), strict=True):
            s.pull("figure-eight-loop", cord, load, pair=f"h{number}", dressing=dressing)
    s.pull("figure-eight-loop", thin, 7_300.0, 7_450.0, 7_500.0)
    held = {"gave": Gave.STOPPED, "method": "sustained hold"}
    s.pull("figure-eight-loop", cord, 5_000.0, **held)
    s.pull("sheet-bend", cord, 4_000.0, 4_400.0, 4_800.0, gave=Gave.CAME_OUT)
    s.pull("sheet-bend", cord, 3_000.0, gave=Gave.VOID)
    done = counted(Takes.CYCLE, 4, 9)
    out = {"method": "cycles", "gave": Gave.CAME_OUT}
    s.pull("sheet-bend", cord, 3_000.0, 3_000.0, readings=done, **out)
    all_of_it = {"method": "cycles", "gave": Gave.STOPPED}
    s.pull("sheet-bend", cord, 3_000.0, readings=counted(Takes.CYCLE, 30), **all_of_it)
    done = counted(Takes.CYCLE, 30, 30, 30)
    s.pull("zeppelin-bend", cord, 3_000.0, 3_000.0, 3_000.0, readings=done, **all_of_it)
    loose = {"method": "slack and snatch", "gave": Gave.CAME_OUT}
    done = counted(Takes.SHAKE, 3, 5)
    s.pull("slipped-half-hitch", cord, 1_000.0, 1_000.0, readings=done, **loose)
    s.pull("double-sheet-bend", cord, 3_000.0, 3_100.0, 3_300.0, lot_b=thin)
    for wraps in (2, 3, 4):
        loads = (900.0 * wraps, 1_000.0 * wraps, 1_100.0 * wraps)
        grip = {"method": "cord on rope", "values": (("wraps", wraps),), "lot_b": host}
        s.pull("prusik", cord, *loads, gave=Gave.CAME_OUT, **grip)
    return s.logbook()


@pytest.fixture(scope="module")
def gathered(made):
    return gather(made)


@pytest.fixture(scope="module")
def results(gathered):
    return all_results(gathered)


def lot_id(name):
    return f"lot {name}"


def case_of(gathered, lot, name):
    return next(c for c in knot_cases(gathered, lot_id(lot)) if c.name == name)


def with_findings(case, change):
    """The case with every finding changed."""
    groups = []
    for group in case.groups:
        tried = tuple(replace(t, finding=change(t.finding)) for t in group.tried)
        groups.append(replace(group, tried=tried))
    return replace(case, groups=tuple(groups))


def test_a_case_gathers_every_method_of_a_knot(gathered):
    case = case_of(gathered, "R7", "Figure-eight loop")
    assert {g.method for g in case.groups} == {"ramp to failure", "sustained hold"}
    crossed = case_of(gathered, "R7", "Figure-eight loop, crossed")
    assert {g.method for g in crossed.groups} == {"ramp to failure"}
    assert set(case.pull_ids).isdisjoint(crossed.pull_ids)
    names = [c.name for c in knot_cases(gathered, lot_id("R7"))]
    assert "Double sheet bend, to T5" in names
    assert names == sorted(names)


def test_rating_many_at_once_is_rating_each(gathered, results):
    median = results[lot_id("R7")].baseline.median_n
    cases = knot_cases(gathered, lot_id("R7"))
    together = slip_rows([(c, median) for c in cases])
    for case, row in zip(cases, together, strict=True):
        alone = slip_row(case, median)
        weakest = [v and v.name for v in (row.verdict.weakest, alone.verdict.weakest)]
        assert weakest[0] == weakest[1]
        one, two = row.slip.draw_d, alone.slip.draw_d
        assert (one is None) == (two is None)
        if one is not None:
            assert (one.value, one.low, one.high) == pytest.approx((two.value, two.low, two.high))


def test_cycles_and_shakes_count_what_was_gone_through(gathered, results):
    median = results[lot_id("R7")].baseline.median_n
    sheet = slip_row(case_of(gathered, "R7", "Sheet bend"), median)
    zeppelin = slip_row(case_of(gathered, "R7", "Zeppelin bend"), median)
    assert [n for _, n, gone in sheet.cycles.pulls if gone] == [4, 9]
    # What failed did so in the cycle after the last it survived.
    assert [s.cycles for s in sheet.cycles.steps] == [0, 5, 10]
    assert sheet.cycles.steps[0].at_risk == 3
    assert zeppelin.cycles.last.value == 1.0
    assert zeppelin.cycles.most == 30
    assert 0 < zeppelin.cycles.last.low < 0.5
    hitch = slip_row(case_of(gathered, "R7", "Slipped half hitch"), median)
    assert {p for p, _, _ in hitch.shakes.pulls} == {
        t.finding.pull_id for t in hitch.case.that_tell(Tells.LOOSENING)
    }
    assert hitch.verdict.weakest.name == "shaking"


def test_of_the_two_tails_of_a_bend_only_the_one_that_went_ran_out(gathered, results):
    case = case_of(gathered, "R7", "Sheet bend")
    tails = case.groups[0].tried[0].entry.specimen.layout.tails
    assert len(tails) == 2

    def one_ran(finding):
        drawn = (TailDraw(key=tails[0].key, draw_m=0.1), TailDraw(key=tails[1].key, draw_m=0.01))
        return replace(finding, gave=Gave.CAME_OUT, draws=drawn)

    row = slip_row(with_findings(case, one_ran), results[case.lot.id].baseline.median_n)
    assert row.slip.tails.ran_out == len(case.that_tell(Tells.SLIP)) == 3
    assert row.slip.tails.tails == 2 * row.slip.tails.ran_out
    assert row.slip.draw_d is not None


def test_a_knot_that_changed_form_and_let_go_says_nothing_of_its_tails(gathered, results):
    case = case_of(gathered, "T5", "Bowline")
    row = slip_row(case, results[case.lot.id].baseline.median_n)
    capsized = [t for t in case.that_tell(Tells.SLIP) if t.finding.gave is Gave.CAPSIZED]
    assert len(capsized) == 2
    owners = {
        (t.finding.pull_id, t.entry.specimen.layout.place(t.finding.place).owner) for t in capsized
    }
    assert row.slip.tails.tails == 2 * len(case.that_tell(Tells.SLIP)) - len(owners)
    assert row.out == 2


def test_the_curves_end_at_the_peak_and_rise(gathered, results):
    case = case_of(gathered, "R7", "Bowline")
    median = results[case.lot.id].baseline.median_n
    row = slip_row(case, median)
    peaks = {
        t.finding.pull_id: t.entry.analysis.peak_n / median for t in case.that_tell(Tells.SLIP)
    }
    assert {c.pull_id for c in row.curves} == peaks.keys()
    for curve in row.curves:
        assert curve.share[-1] == pytest.approx(peaks[curve.pull_id])
        assert curve.draw_m[-1] == pytest.approx(GAUGE_M[-1])
        assert np.all(np.diff(curve.draw_m) >= 0)
        assert curve.draw_m[0] == 0
    assert slip_row(case, None).curves == ()


def test_steps_after_jamming_do_not_open_the_bracket(gathered):
    case = case_of(gathered, "R7", "Bowline")
    stepped = replace(case, groups=tuple(g for g in case.groups if g.method == "stepped load"))
    row = jam_row(stepped, 10_000.0)
    assert (row.jam.opened, row.jam.jammed) == (1, 1)
    assert 0.2 < row.jam.j50.value < 0.6


def test_partners_are_compared_pair_by_pair(made, results):
    (found,) = partners(results[lot_id("R7")])
    assert found.knot == "Figure-eight loop"
    assert found.states == ("dressed", "crossed")
    loads = [
        [np.log(made.by_pull[p].finding.peak_load_n) for p in side]
        for side in zip(*found.pairs, strict=True)
    ]
    by_hand = compare_paired(np.array(loads[0]), np.array(loads[1]))
    assert found.paired == by_hand
    assert by_hand.pairs == 4
    value, low, high = found.points
    assert low < value < high
    assert value == pytest.approx(found.typical * (by_hand.ratio.value - 1))
    assert partners(results[lot_id("T5")]) == ()


def test_a_pair_in_which_one_only_held_is_left_out(results):
    own = results[lot_id("R7")]
    knots = []
    for row in own.knots:
        if row.key.dressing == "crossed":
            first = replace(row.group.tried[0], events=0, floors=2)
            tried = (first, *row.group.tried[1:])
            row = replace(row, group=replace(row.group, tried=tried))
        knots.append(row)
    (found,) = partners(replace(own, knots=tuple(knots)))
    assert (found.paired.pairs, found.left_out) == (3, 1)


def test_the_matrix_has_the_cell_with_most_pulls(results):
    matrix = knot_by_cordage(results)
    assert matrix.lots == ("R7", "T5")
    assert matrix.cells["Bowline", "R7"].efficiency.counts.specimens == 6
    assert ("Sheet bend", "T5") not in matrix.cells
    assert "Figure-eight loop, crossed" in matrix.knots
    for (knot, lot), row in matrix.cells.items():
        others = [
            r
            for r in results[lot_id(lot)].knots
            if knot in (r.key.knot, f"{r.key.knot}, {r.key.dressing}")
            and (r.key.dressing == "crossed") == knot.endswith("crossed")
        ]
        assert row.efficiency.counts.specimens == max(r.efficiency.counts.specimens for r in others)


def test_knots_of_two_cordages_are_compared_in_points_of_their_own_ropes(results):
    both = (results[lot_id(name)] for name in ("R7", "T5"))
    rows = [next(r for r in x.knots if r.key.knot == "Figure-eight loop") for x in both]
    (c,) = compare_rows(rows, results).contrasts
    values = [r.efficiency.interval.value for r in rows]
    assert c.points.value == pytest.approx(values[0] - values[1], abs=0.01)
    assert c.p is not None
    assert rope_marginal(results[lot_id("H10")]) is None


def test_wraps_are_gathered_by_cord_and_host(made, gathered):
    tests = wrap_tests(gathered, lot_id("R7"))
    ((knot, host),) = tests
    assert made.knot(knot).structure == "prusik"
    assert made.lot(host).name == "H10"
    marks = tests[knot, host]
    assert [m.wraps for m in marks] == [2, 2, 2, 3, 3, 3, 4, 4, 4]
    assert all(m.load_n > 0 and m.slid for m in marks)
    assert wrap_tests(gathered, lot_id("T5")) == {}


def test_a_void_finding_is_counted_and_says_nothing(made, gathered):
    (void,) = [e for e in made.entries if e.finding.gave is Gave.VOID]
    groups = [
        *gathered.plain.values(),
        *(g for own in gathered.tied.values() for g in own.values()),
    ]
    assert sum(g.void for g in groups) == 1
    assert void.pull.id not in {p for g in groups for p in g.pull_ids}
