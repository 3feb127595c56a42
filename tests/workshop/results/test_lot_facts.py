"""Baseline in words, the rating beside it, working loads of a lot's knots."""

from dataclasses import replace

import pytest

from bruiser.core.choice.brief import Brief, DesignFactorEntry
from bruiser.core.choice.working_load import School
from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.workshop.logbook.whole import WholeLogbook
from bruiser.workshop.results.lot_facts import baseline_facts, knot_loads
from bruiser.workshop.results.lot_results import lot_results
from tests.build import KNOT, LOT
from tests.workshop.results.test_judging import entry

UNITS = UnitChoice("kN", "mm")
FACTOR = DesignFactorEntry(id="d1", made_at="2026-01-01", value=10.0, source="house rule")


def logbook(entries, lot=LOT, factor=None):
    entries = tuple(replace(e, specimen=replace(e.specimen, lot=lot)) for e in entries)
    brief = Brief(factors=() if factor is None else (factor,))
    return WholeLogbook(
        lots=(lot,),
        knots=(KNOT,),
        specimens=tuple(entries),
        brief=brief,
    )


def facts(entries, lot=LOT, units=UNITS):
    book = logbook(entries, lot)
    return baseline_facts(book, lot_results(book, lot), units)


def plain(number, load, place="span", gave=Gave.BROKE):
    return entry(number, gave, place, load, baseline=True)


def test_without_straight_pulls_it_says_so_plainly():
    found = facts([])
    assert found.interval is None
    assert found.estimate_words == ""
    assert "A rating is no baseline" in found.missing[0]
    assert found.rating_words == "Rated 13.00 kN as a minimum."


def test_breaks_at_the_termination_are_named_as_what_is_missing():
    loads = (14_000.0, 14_400.0, 14_700.0)
    found = facts(
        [plain(n, x) for n, x in enumerate(loads)]
        + [plain(4, 14_100.0, "termination_a"), plain(5, 14_600.0, "termination_b")]
    )
    assert found.missing[0] == (
        "2 of 5 baseline pulls broke at the termination, so the true strength of those is at "
        "least what was read; the highest read 14.60 kN."
    )
    assert "3 of the 5 clear breaks" in found.missing[1]
    assert found.interval.low < 14_400 < found.interval.high
    assert "from 5 pulls" in found.estimate_words


def test_a_stopped_straight_pull_is_named_for_itself():
    found = facts([plain(1, 14_000.0), plain(2, 9_000.0, None, Gave.STOPPED)])
    assert found.missing[0].startswith("1 of 2 baseline pulls was stopped before it broke")


def test_void_straight_pulls_are_told_and_not_counted():
    void = plain(3, 2_000.0)
    void = replace(void, finding=replace(void.finding, gave=Gave.VOID, place=None))
    found = facts([plain(1, 14_000.0), plain(2, 14_200.0), void])
    assert "1 void, kept and not counted." in found.missing
    assert "from 2 pulls" in found.estimate_words


@pytest.mark.parametrize(
    ("means", "words"),
    [
        ("minimum", "as a minimum"),
        ("average", "as an average"),
        ("unknown", "without saying whether"),
    ],
)
def test_the_rating_stands_beside_the_measured_strength(means, words):
    lot = replace(LOT, rating_means=means)
    found = facts([plain(n, 14_300.0 + 100 * n) for n in range(5)], lot)
    assert words in found.rating_words
    assert found.rating_share == pytest.approx(14_500 / 13_000, rel=0.01)
    assert f"{100 * found.rating_share:.0f} % of the rating" in found.rating_words


def test_words_follow_the_units_of_the_campaign():
    found = facts([plain(n, 14_300.0 + 100 * n) for n in range(5)], units=UnitChoice("lbf", "in"))
    assert "lbf" in found.estimate_words
    assert "2923 lbf" in found.rating_words


def loads(knot_loads_n, *, lot=LOT, factor=FACTOR):
    entries = [plain(n, 14_000.0 + 100 * n) for n in range(5)]
    entries += [entry(20 + n, Gave.BROKE, "nip_a", x) for n, x in enumerate(knot_loads_n)]
    book = logbook(entries, lot, factor)
    results = lot_results(book, lot)
    row = results.knots[0] if results.knots else None
    return knot_loads(book, lot, row, UNITS), row


def test_without_a_design_factor_there_is_no_working_load():
    found, _ = loads((9_000.0, 9_200.0), factor=None)
    assert found.loads is None


def test_the_four_schools_are_worked_out_step_by_step():
    found, row = loads((9_000.0, 9_200.0, 9_400.0, 9_100.0, 9_300.0))
    by_school = {w.school: w for w in found.loads.schools}
    assert by_school[School.HALVE].load_n == pytest.approx(13_000 / 2 / 10)
    assert by_school[School.THIRD].load_n == pytest.approx(13_000 / 3 / 10)
    typical = 13_000 * row.efficiency.interval.value / 10
    assert by_school[School.TYPICAL].load_n == pytest.approx(typical)
    floor = row.result.tolerance[0.95].load_n
    assert by_school[School.FLOOR].load_n == pytest.approx(floor / 10)
    assert by_school[School.HALVE].steps == (
        "13.00 kN × 1/2 = 6.50 kN",
        "÷ design factor 10 (house rule) = 0.65 kN",
    )
    assert found.loads.default.school is School.FLOOR
    assert found.warning == ""
    assert found.basis.startswith("5 observed failures")


def test_with_four_failures_the_most_cautious_other_is_taken():
    found, _ = loads((9_000.0, 9_200.0, 9_400.0, 9_100.0))
    assert found.loads.default.school is School.THIRD


def test_a_floor_under_the_default_is_pointed_out():
    found, _ = loads((1_000.0, 2_000.0, 3_500.0))
    assert found.loads.default.school is not School.FLOOR
    assert "lower than the figure taken by default" in found.warning


def test_a_knot_that_was_not_pulled_rests_on_the_rating_and_says_so():
    found, row = loads(())
    assert row is None
    assert "rests on the maker's rating alone" in found.warning
    by_school = {w.school: w.load_n for w in found.loads.schools}
    assert by_school[School.TYPICAL] is None
    assert by_school[School.FLOOR] is None


def test_without_a_rating_only_the_floor_is_left():
    lot = replace(LOT, rated_strength_n=None)
    found, _ = loads((9_000.0, 9_200.0, 9_400.0, 9_100.0, 9_300.0), lot=lot)
    assert [w.school for w in found.loads.schools if w.load_n is not None] == [School.FLOOR]
    assert "only the measured floor" in found.warning
