"""What a guide says: every fact from the pulls, said once, with what it rests on."""

from dataclasses import replace

import pytest

from bruiser.core.choice.guide import FORMAT
from bruiser.core.choice.rating import SCALES, Band, Rating, RatingLimits, say_bands
from bruiser.core.choice.working_load import School
from bruiser.workshop.guide.choosing import choose
from bruiser.workshop.guide.content import (
    Stamp,
    Wanted,
    data_revision,
    list_facts,
    make_guide,
    say_leaders,
    wanted_lots,
    wanted_profiles,
)
from bruiser.workshop.guide.words import CAUTIONS, definitions, security_words
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.whole import read_now
from bruiser.workshop.results.lot_facts import knot_loads

STAMP = Stamp(1, "2026-10-01T08:00:00.000+00:00")


@pytest.fixture(scope="module")
def shelf(filled):
    return filled[0]


def lot_id(shelf, name):
    return next(lot.id for lot in shelf.logbook.lots if lot.name == name)


def test_every_pull_of_its_cordage_stands_in_the_appendix(shelf, guide):
    lots = {lot.key for lot in guide.lots}
    entries = [e for e in shelf.logbook.entries if e.finding and e.specimen.lot.id in lots]
    assert [p.code for p in guide.pulls] == [e.specimen.code for e in entries]
    counted = [e for e in entries if e.stage is not Stage.VOID and e.excluded is None]
    assert guide.pull_count == len(counted)
    void = [p for p in guide.pulls if p.outcome.startswith("void")]
    assert len(void) == 1
    assert (void[0].counts, void[0].load_n, void[0].load_text) == (False, None, "")
    days = sorted(p.day for p in guide.pulls)
    assert (guide.first_day, guide.last_day) == (days[0], days[-1])
    assert guide.technicians == ("OQ", "TV")


def test_a_pull_left_out_stands_there_with_its_reason(shelf, filled):
    _, book, campaign = filled
    wanted = Wanted(uses=("tether-loop",), lot_ids=(lot_id(shelf, "T6"),))
    made = make_guide(shelf, campaign, book, wanted, STAMP)
    (out,) = [p for p in made.pulls if p.note.startswith("left out")]
    assert "40 mm short" in out.note
    assert not out.counts
    bend = next(r for r in made.results if r.name == "Figure-eight loop")
    (mark,) = [m for m in bend.strengths[0].marks if m.left_out]
    assert mark.code == out.code
    assert bend.strengths[0].broke == len(bend.strengths[0].marks) - 1


def test_every_number_of_a_result_is_that_of_results(shelf, guide):
    rows = {
        (r.lot.id, r.key.knot, r.key.direction or r.group.method): r
        for results in shelf.results.values()
        for r in results.knots
    }
    seen = 0
    for result in guide.results:
        for s in result.strengths:
            row = next(
                r
                for (lot, knot, way), r in rows.items()
                if lot == result.lot and knot == result.name and s.way.startswith(way)
            )
            interval = row.efficiency.interval
            if interval is not None:
                assert (s.share, s.low, s.high) == (interval.value, interval.low, interval.high)
                seen += 1
            counts = row.efficiency.counts
            assert (s.broke, s.came_out) == (counts.broke, counts.came_out)
            assert s.outlasted == counts.outlasted
    assert seen == 9


def test_the_working_loads_are_those_of_the_cordage_station(shelf, guide):
    units = units_of(shelf)
    lot = shelf.logbook.lot(lot_id(shelf, "R8"))
    row = next(r for r in shelf.results[lot.id].knots if r.name == "Bowline")
    loads = knot_loads(shelf.logbook, lot, row, units).loads
    result = guide.result(f"{lot.id}|Bowline")
    assert [s.load_n for s in result.loads] == [s.load_n for s in loads.schools]
    assert [s.school for s in result.loads if s.default] == [loads.default.school.value]
    assert guide.factor_text.startswith("10, ")


def units_of(shelf):
    from bruiser.core.units import UnitChoice

    assert shelf.results
    return UnitChoice("kN", "mm")


def test_the_short_list_shows_the_school_that_was_chosen(shelf, filled):
    book = filled[1]
    units = units_of(shelf)
    choice = choose(shelf, lot_id(shelf, "R8"), book.profile("tether-loop"), book.limits)
    for school in School:
        facts = list_facts(shelf.logbook, choice, school, units)
        assert {r.load_school for r in facts.rows} == {school.value}
    rule = list_facts(shelf.logbook, choice, None, units)
    schools = {r.load_school for r in rule.rows}
    assert len(schools) == 1
    assert schools <= {school.value for school in School}
    bare = replace(shelf.logbook, brief=replace(shelf.logbook.brief, factors=()))
    none = list_facts(bare, choice, None, units)
    assert {(r.load_text, r.load_school) for r in none.rows} == {("", "no design factor entered")}


def test_parts_weights_and_chances_of_a_row_fit_together(guide):
    for use in guide.uses:
        total = sum(use.weights.values())
        for found in use.lists:
            for row in found.rows:
                score = sum(use.weights[r] * p for r, p in row.parts.items()) / total
                assert row.score == pytest.approx(score)
                assert sum(row.chances) == pytest.approx(1)
                assert row.low <= row.score <= row.high
                assert len(row.gauges) == len(Rating)
            places = [sum(r.chances[k] for r in found.rows) for k in range(len(found.rows))]
            assert places == pytest.approx([1.0] * len(found.rows))


def test_where_another_weight_would_put_another_first_is_said(shelf, filled):
    book = filled[1]
    choice = choose(shelf, lot_id(shelf, "R8"), book.profile("tether-loop"), book.limits)
    names = {one.rated.key: one.rated.name for one in choice.listed}
    said = say_leaders(choice, names)
    assert any("“quick to tie”" in s and "then Figure-eight loop from" in s for s in said)
    alone = replace(choice, paths={})
    assert say_leaders(alone, names) == ("Bowline leads whatever weight is moved alone.",)
    assert say_leaders(replace(alone, listed=alone.listed[:1]), names) == ()


def test_definitions_print_the_limits_in_force():
    bands = {Rating.TYING: (Band("slow"), Band("fast", 33.0))}
    limits = RatingLimits({**RatingLimits().bands, **bands})
    words = {d.term: d.words for d in definitions(limits)}
    assert "“fast” up to 33 s; “slow” above that" in words["Quick to tie"]
    assert "“two thirds” from 65 %" in words["Strength kept"]
    assert "first slip at 30 % is good, 10 % is poor" in words["Stays tied"]
    assert security_words(limits) in words["Stays tied"]
    assert {SCALES[r].name for r in Rating} <= set(words)
    assert say_bands(Rating.TYING, bands[Rating.TYING]) == "“fast” up to 33 s; “slow” above that"


def test_the_cautions_of_the_work_stand_in_every_guide(guide):
    assert guide.cautions == CAUTIONS
    whole = " ".join(CAUTIONS)
    for words in (
        "no approval",
        "local code",
        "licensed person",
        "limb",
        "quick-release",
        "retired",
    ):
        assert words in whole
    assert not guide.synthetic
    assert guide.format == FORMAT
    for use in guide.uses:
        if use.key == "tether-loop":
            assert "backup" in use.caution


def test_what_is_not_named_is_what_the_brief_asks_in_all_that_was_tested(shelf, filled):
    book = filled[1]
    assert [p.key for p in wanted_profiles(shelf.logbook, book, Wanted())] == [
        *("tether-loop", "line-joined", "post"),
    ]
    silent = replace(shelf.logbook, brief=replace(shelf.logbook.brief, uses=()))
    assert len(wanted_profiles(silent, book, Wanted())) == len(book.profiles)
    names = [lot.name for lot in wanted_lots(shelf, Wanted())]
    assert "R10" not in names
    assert names == ["N7", "R8", "R8 wet", "T6"]


def test_a_cordage_without_pulls_is_written_with_its_nearest(shelf, filled):
    _, book, campaign = filled
    wanted = Wanted(uses=("tether-loop",), lot_ids=(lot_id(shelf, "R8"), lot_id(shelf, "R10")))
    made = make_guide(shelf, campaign, book, wanted, STAMP)
    bare = next(f for f in made.uses[0].lists if f.lot == lot_id(shelf, "R10"))
    assert bare.rows == ()
    assert bare.near[0].startswith("R8, new, dry: double braid instead of kernmantle")
    assert all(r.lot != bare.lot for r in made.results)


def test_the_state_of_the_data_has_one_name(shelf):
    name = data_revision(shelf.logbook)
    assert len(name) == 10
    backwards = shelf.logbook.entries[::-1]
    assert data_revision(read_now(shelf.logbook, backwards)) == name
    first = next(e for e in backwards if e.finding)
    fewer = [e for e in backwards if e is not first]
    assert data_revision(read_now(shelf.logbook, fewer)) != name


@pytest.mark.long
def test_making_a_guide_tells_how_far_it_is(shelf, filled):
    _, book, campaign = filled
    seen = []
    wanted = Wanted(uses=("post",), lot_ids=(lot_id(shelf, "N7"),))
    make_guide(shelf, campaign, book, wanted, STAMP, lambda *step: seen.append(step))
    assert seen == [(0, 2), (1, 2)]


def test_wraps_and_trials_stand_with_their_knot(shelf, filled):
    _, book, campaign = filled
    wanted = Wanted(uses=("rope-grip",), lot_ids=(lot_id(shelf, "N7"),))
    made = make_guide(shelf, campaign, book, wanted, STAMP)
    hitch = next(k for k in made.knots if k.family == "friction hitch")
    assert any("wraps" in line for line in hitch.grip)
    slipped = next(k for k in made.knots if k.name == "Bowline")
    assert "trial" in slipped.tying[0]
    assert slipped.grip == ()
    assert hitch.names[0].name == hitch.name
