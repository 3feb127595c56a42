"""The results of a lot read off its groups, each number with its pulls."""

from dataclasses import replace

import pytest

from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave
from bruiser.workshop.groups.gathering import gather, group_key
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.result_words import say_strength
from tests.build import SPECIMEN, Situation


@pytest.fixture(scope="module")
def made():
    """Two lots: in one two loops break and a bend comes out, in the other a bend of both."""
    s = Situation()
    light = s.lot("T5", plain=(4_900.0, 5_000.0, 5_050.0, 5_100.0), diameter_m=0.005)
    cord = s.lot("R8")
    s.pull("bowline", cord, 6_500.0, 6_700.0, 6_900.0, 7_000.0)
    s.pull("figure-eight-loop", cord, 7_200.0, 7_400.0, 7_500.0, 7_600.0)
    s.pull("sheet-bend", cord, 4_000.0, 4_400.0, 4_800.0, gave=Gave.CAME_OUT, place="knot_a")
    s.pull("double-sheet-bend", cord, 3_000.0, 3_100.0, 3_300.0, lot_b=light)
    return s, all_results(gather(s.logbook()))


@pytest.fixture(scope="module")
def rows(made):
    situation, results = made
    return results[situation.lots[1].id].knots


def test_every_number_leads_back_to_its_pulls(rows):
    for row in rows:
        assert {m.pull_id for m in row.marks} == set(row.efficiency.pull_ids)
        assert row.efficiency.counts.specimens == len(row.marks)
        assert "cancels" in row.efficiency.measurement or row.key.cordage_b
    values = [r.efficiency.interval.value for r in rows]
    assert values == sorted(values, reverse=True)


def test_pin_size_and_condition_keep_groups_apart():
    key = group_key(SPECIMEN, End.A)
    assert key.cordage == SPECIMEN.lot.name
    assert group_key(replace(SPECIMEN, pin_diameter_m=0.03), End.A) != key
    wet = replace(SPECIMEN, lot=replace(SPECIMEN.lot, condition="wet"))
    assert group_key(wet, End.A) != key
    assert group_key(replace(SPECIMEN, knot_a=None), End.A) is None


def test_the_sentence_is_made_from_the_numbers(rows):
    words = [say_strength(r) for r in rows]
    assert len(set(words)) == len(words) == 4
    for row, text in zip(rows, words, strict=True):
        interval = row.efficiency.interval
        assert f"{100 * interval.low:.0f} and {100 * interval.high:.0f} %" in text
        assert ("came out" in text) == bool(row.efficiency.counts.came_out)


def test_a_lot_by_itself_sees_the_rope_it_is_bent_to(rows):
    row = next(r for r in rows if r.key.cordage_b)
    assert row.result.reference == "T5"
    assert "one baseline of two" not in [c.kind for c in row.efficiency.caveats]
    assert row.efficiency.interval.value == pytest.approx(3_130 / 5_010, abs=0.03)
