"""Pass criteria on the pulls of a group, and when they were written."""

from dataclasses import replace

import pytest

from bruiser.core.choice.brief import Brief, Criterion
from bruiser.core.choice.criteria import Measure, Met, PassCriterion
from bruiser.core.records.layouts import End
from bruiser.core.records.records import (
    Gave,
    JamLevel,
    KnotInspection,
    TailDraw,
)
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.whole import WholeLogbook
from bruiser.workshop.results.judging import judge_lot
from bruiser.workshop.results.lot_results import lot_results
from tests.build import KNOT, LOT, PLAIN, SPECIMEN, entry_of


def entry(number, gave, place, peak_n, *, baseline=False, jams=(), draw_m=0.002):
    """An inspected specimen, pulled in the order of its number."""
    specimen = replace(SPECIMEN, id=f"s{number}", code=f"S-{number}", queue_position=number)
    if baseline:
        specimen = replace(specimen, **PLAIN)
    drew = (TailDraw(key="tail_a", draw_m=draw_m), TailDraw(key="tail_b", draw_m=0.001))
    opened = tuple(KnotInspection(end=end, jam_level=level) for end, level in jams)
    made = entry_of(
        specimen,
        peak_n,
        gave,
        place,
        number=number,
        draws=() if baseline else drew,
        inspections=opened,
    )
    return replace(made, analysis=None)


BASELINE = [
    entry(n, Gave.BROKE, "span", load, baseline=True)
    for n, load in enumerate((9_800.0, 10_000.0, 10_200.0))
]


def judged(rule, entries, *, written="2026-03-01T09:00:00Z", **changes):
    criterion = replace(Criterion(id="c1", made_at=written, rule=rule), **changes)
    everything = (*BASELINE, *entries)
    logbook = WholeLogbook(
        lots=(LOT,),
        knots=(KNOT,),
        specimens=tuple(everything),
        brief=Brief(criteria=(criterion,)),
    )
    return judge_lot(logbook, lot_results(logbook, LOT), gather(logbook))


def share(need, of, measure=Measure.HOLDS_SHARE):
    return PassCriterion(measure=measure, threshold=0.6, need=need, of=of)


def test_holding_a_share_is_met_by_breaks_and_by_what_outlasted():
    (found,) = judged(
        share(2, 3),
        [
            entry(11, Gave.BROKE, "nip_a", 6_500.0),
            entry(12, Gave.STOPPED, None, 6_100.0),
            entry(13, Gave.BROKE, "nip_b", 5_000.0),
        ],
    )
    assert found.result.met is Met.MET
    assert found.result.passed == ("p11", "p12")
    assert found.result.failed == ("p13",)
    assert found.late == 0


def test_stopped_below_the_threshold_cannot_say():
    (found,) = judged(
        share(2, 2),
        [entry(11, Gave.STOPPED, None, 5_000.0), entry(12, Gave.BROKE, "nip_a", 7_000.0)],
    )
    assert found.result.met is Met.OPEN
    assert found.result.cannot_say == ("p11",)


def test_breaking_at_the_knot_is_not_met_by_coming_out_whatever_the_load():
    (found,) = judged(
        share(2, 2, Measure.BREAKS_AT_KNOT),
        [
            entry(11, Gave.CAME_OUT, "knot_a", 9_000.0),
            entry(12, Gave.BROKE, "nip_a", 7_000.0),
        ],
    )
    assert found.result.met is Met.NOT_MET
    assert (found.result.failed, found.result.passed) == (("p11",), ("p12",))


def test_breaking_in_the_span_cannot_say_that_the_knot_breaks():
    (found,) = judged(share(1, 1, Measure.BREAKS_AT_KNOT), [entry(11, Gave.BROKE, "span", 9_000.0)])
    assert found.result.met is Met.OPEN
    assert found.result.cannot_say == ("p11",)


def test_tail_draw_is_judged_by_the_longest_tail_in_diameters():
    rule = PassCriterion(measure=Measure.DRAW_D, threshold=1.0, need=2, of=2, at_least=False)
    (found,) = judged(
        rule,
        [
            entry(11, Gave.BROKE, "nip_a", 7_000.0, draw_m=0.0079),
            entry(12, Gave.BROKE, "nip_a", 7_000.0, draw_m=0.0081),
        ],
    )
    assert (found.result.passed, found.result.failed) == (("p11",), ("p12",))


@pytest.mark.parametrize(
    ("level", "group"),
    [
        (JamLevel.SHAKEN, "passed"),
        (JamLevel.WORKED, "passed"),
        (JamLevel.TOOL, "failed"),
        (JamLevel.FUSED, "failed"),
        (JamLevel.NOT_TRIED, "cannot_say"),
    ],
)
def test_opening_without_a_tool(level, group):
    rule = PassCriterion(measure=Measure.OPENS, threshold=1.0, need=1, of=1)
    jams = ((End.A, JamLevel.NOT_TRIED), (End.B, level))
    (found,) = judged(rule, [entry(11, Gave.BROKE, "nip_a", 7_000.0, jams=jams)])
    assert getattr(found.result, group) == ("p11",)


def test_a_wording_written_after_pulls_says_how_many():
    pulled = [entry(n, Gave.BROKE, "nip_a", 7_000.0) for n in (11, 12, 13)]
    (found,) = judged(share(3, 3), pulled, written="2026-03-01T10:12:30Z")
    assert found.late == 2


def test_a_criterion_covers_only_its_lots_and_knots():
    pulled = [entry(11, Gave.BROKE, "nip_a", 7_000.0)]
    assert judged(share(1, 1), pulled, lot_ids=("other",)) == []
    assert judged(share(1, 1), pulled, knot_ids=("other",)) == []
    assert len(judged(share(1, 1), pulled, lot_ids=("l1",), knot_ids=("k1",))) == 1
    assert judged(share(1, 1), pulled, withdrawn=True) == []


def test_without_a_baseline_a_share_cannot_be_judged():
    pulled = [entry(11, Gave.BROKE, "nip_a", 7_000.0)]
    criterion = Criterion(id="c1", made_at="2026-03-01T09:00:00Z", rule=share(1, 1))
    logbook = WholeLogbook(
        lots=(LOT,),
        knots=(KNOT,),
        specimens=tuple(pulled),
        brief=Brief(criteria=(criterion,)),
    )
    (found,) = judge_lot(logbook, lot_results(logbook, LOT), gather(logbook))
    assert found.result.met is Met.OPEN
    assert found.result.cannot_say == ("p11",)


def test_void_pulls_are_not_judged():
    void = replace(entry(11, Gave.BROKE, "nip_a", 7_000.0).finding, gave=Gave.VOID, place=None)
    pulled = [
        replace(entry(11, Gave.BROKE, "nip_a", 7_000.0), finding=void),
        entry(12, Gave.BROKE, "nip_a", 7_000.0),
    ]
    (found,) = judged(share(1, 1), pulled)
    assert found.result.passed == ("p12",)


def test_a_criterion_changed_midway_is_judged_with_the_pulls_before_it_counted(workshop):
    logbook = read_logbook(workshop)
    lot = next(lot for lot in logbook.lots if lot.name == "R8")
    found = judge_lot(logbook, lot_results(logbook, lot), gather(logbook))
    changed = [j for j in found if j.earlier]
    assert [j.late for j in changed] == [2]
    assert {j.result.met for j in found} >= {Met.MET}
    for j in found:
        said = (*j.result.passed, *j.result.failed, *j.result.cannot_say)
        assert len(said) <= j.criterion.rule.of
        assert set(said) <= set(logbook.by_pull)
