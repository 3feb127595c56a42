"""The technician's lines follow the numbers: they change with n, floors and overlap."""

import math
from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.behaviour.jamming import JamResult
from bruiser.core.behaviour.slip import TailSeen
from bruiser.core.behaviour.tying import measure_tying
from bruiser.core.choice.brief import Claim
from bruiser.core.performance.claims import ClaimKind, judge_interval
from bruiser.core.records.preparation import Hands, TyingTrial, TyingVerdict
from bruiser.core.records.records import JamLevel, Knot, Lot
from bruiser.core.statistics.drift import Drift, TechnicianDrift
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.jam_results import JamRow, Untied, jam_row
from bruiser.workshop.groups.knot_cases import KnotCase, knot_cases
from bruiser.workshop.groups.slipping import slip_row
from bruiser.workshop.groups.wrap_results import WrapMark, wrap_row, wrap_tests
from bruiser.workshop.results.claiming import JudgedClaim
from bruiser.workshop.results.comparing import compare_rows
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.result_words import (
    between,
    percent,
    say_claims,
    say_compared,
    say_drift,
    say_jam,
    say_ladder,
    say_security,
    say_strength,
    say_tails,
    say_tying,
    say_wraps,
)

UNITS = UnitChoice("kN", "mm")
CASE = KnotCase(
    lot=Lot(
        id="l", name="P8", material="nylon", construction="braid", diameter_m=0.008, condition="dry"
    ),
    knot=Knot(id="k", structure="bowline", variant="plain", name="Bowline", family="end loop"),
    name="Bowline",
    groups=(),
)


@pytest.fixture(scope="module")
def results(gathered):
    return {r.baseline.lot.name: r for r in all_results(gathered).values()}


@pytest.mark.parametrize(
    ("value", "text"), [(0.123, "12"), (0.004, "0.4"), (0.0, "0"), (1.0, "100"), (-0.003, "-0.3")]
)
def test_small_shares_keep_a_decimal(value, text):
    assert percent(value) == text


def test_an_open_side_is_said_as_such():
    assert between(Interval(0.7, 0.6, math.inf)) == "60 % and more"
    assert between(Interval(0.7, 0.44, 1.23)) == "44 % and more"
    assert between(Interval(0.7, 0.6, 0.8)) == "between 60 and 80 %"


def test_a_wide_interval_is_not_to_be_built_on(results):
    rows = (*results["T6"].knots, *results["R8"].knots)
    wide = next(r for r in rows if r.name == "Bowline")
    narrow = next(r for r in rows if r.name == "Overhand loop")
    assert "too wide to build on" in say_strength(wide)
    assert "2 of 4 came out" in say_strength(wide)
    assert "too wide" not in say_strength(narrow)
    assert "came out" not in say_strength(narrow)


def test_the_ladder_says_whether_the_top_can_be_told_apart(results):
    p8 = results["R8"]
    assert "It is stronger than each of the other 7" in say_ladder(p8)
    second = replace(p8, knots=p8.knots[1:])
    assert "cannot tell it from Bowline, round turn (double)" in say_ladder(second)
    sheet = tuple(r for r in p8.knots if r.name == "Sheet bend")
    alone = replace(p8, knots=p8.knots[:1] + sheet)
    assert "stronger than each of the other 1" in say_ladder(alone)
    shared = replace(p8, knots=tuple(replace(r, letters="a") for r in p8.knots[:3]))
    assert "cannot tell it from any other here" in say_ladder(shared)
    assert say_ladder(replace(p8, knots=())) == "No knot has been pulled in this lot."
    bare = replace(
        p8, baseline=replace(p8.baseline, result=replace(p8.baseline.result, estimate=None))
    )
    assert "no measured plain rope" in say_ladder(bare)


def test_security_says_what_was_seen_and_what_few_pulls_leave_open(gathered, results):
    lot = results["R8"].baseline
    cases = {c.name: c for c in knot_cases(gathered, lot.lot.id)}
    sheet = slip_row(cases["Sheet bend"], lot.median_n)
    assert "judged by its weakest side, came out: 100 % came out" in say_security(sheet)
    bowline = slip_row(cases["Bowline"], lot.median_n)
    assert "No weakness of Bowline was seen: 0 % came out (0 to 38)" in say_security(bowline)
    assert say_tails(sheet, UNITS) == "All 8 tails ran out."
    assert "less tail 10 more knots would have run out" in say_tails(bowline, UNITS)
    nothing = slip_row(replace(cases["Bowline"], groups=()), lot.median_n)
    assert "Nothing of Bowline was measured" in say_security(nothing)
    assert say_tails(nothing, UNITS) == ""


def test_a_shorter_tail_would_have_run_out(gathered, results):
    lot = results["R8"].baseline
    case = next(c for c in knot_cases(gathered, lot.lot.id) if c.name == "Bowline")
    row = slip_row(case, lot.median_n)
    tight = (
        TailSeen(pull_id="p", load_n=1.0, draw_m=0.07, given_m=0.10, ran_out=False),
        TailSeen(pull_id="q", load_n=1.0, draw_m=0.02, given_m=0.10, ran_out=False),
    )
    from bruiser.core.behaviour.slip import tail_use

    made = replace(row, tails=tight, slip=replace(row.slip, tails=tail_use(list(tight))))
    assert say_tails(made, UNITS).startswith("With 35 mm less tail 1 more knot")


def untied(level, load=5_000.0):
    return Untied(pull_id="p", code="S-1", end="A", load_n=load, level=level, seconds=5.0)


def jam(attempts, result, opens=None):
    return JamRow(
        case=CASE,
        attempts=tuple(attempts),
        baseline_n=10_000.0,
        jam=result,
        untie_s=None,
        opens_after_hard=opens,
    )


def test_jamming_is_said_above_below_or_between():
    above = JamResult(
        j50=None, decided=False, above=0.7, below=None, opened=3, jammed=0, pull_ids=()
    )
    below = JamResult(
        j50=None, decided=False, above=None, below=0.3, opened=0, jammed=3, pull_ids=()
    )
    at = JamResult(
        j50=Interval(0.6, 0.5, 0.7),
        decided=True,
        above=None,
        below=None,
        opened=3,
        jammed=3,
        pull_ids=(),
    )
    vague = JamResult(
        j50=Interval(0.9, 0.5, 9.0),
        decided=True,
        above=None,
        below=None,
        opened=5,
        jammed=1,
        pull_ids=(),
    )
    hand, tool = [untied(JamLevel.HAND)] * 3, [untied(JamLevel.TOOL)] * 3
    assert "3 of 3, up to 70 % of the plain rope, the highest load tried" in say_jam(
        jam(hand, above)
    )
    assert "0 of 3, from 30 % of the plain rope on, the lowest load tried" in say_jam(
        jam(tool, below)
    )
    said = say_jam(jam([*hand, *tool], at, Interval(0.5, 0.2, 0.8)))
    assert "half jam between 50 and 70 %" in said
    assert "after a pull to 60 % between 20 and 80 % still open" in said
    assert "somewhere above 50 %" in say_jam(jam(hand, vague))
    assert say_jam(jam([], None)) == "No Bowline was untied after a pull."


def test_fused_and_cut_knots_are_named():
    at = JamResult(
        j50=Interval(0.6, 0.5, 0.7),
        decided=True,
        above=None,
        below=None,
        opened=1,
        jammed=3,
        pull_ids=(),
    )
    lost = [untied(JamLevel.FUSED), untied(JamLevel.FUSED), untied(JamLevel.CUT)]
    assert say_jam(jam(lost, at)).endswith("2 knots fused and 1 knot had to be cut.")


def wraps(logbook, loads, target):
    lot = next(x for x in logbook.lots if x.name == "N7")
    key = next(iter(wrap_tests(gather(logbook), lot.id)))
    marks = tuple(
        WrapMark(pull_id=f"p{n}", code=f"S-{n}", wraps=w, load_n=load, slid=True)
        for n, (w, load) in enumerate(loads)
    )
    return wrap_row(logbook, lot.id, key, marks, target)


GRIPS = [(1, 1_000), (1, 1_150), (1, 900), (2, 2_900), (2, 3_300), (2, 2_700)]


@pytest.mark.long
def test_wraps_are_enough_not_enough_or_one_beyond_what_was_tested(logbook):
    assert "2 wraps typically hold 1.50 kN" in say_wraps(wraps(logbook, GRIPS, 1_500), UNITS, None)
    beyond = say_wraps(wraps(logbook, GRIPS, 4_000), UNITS, None)
    assert "3 wraps typically hold" in beyond
    assert "one more than was tested" in beyond
    assert "More than 3 wraps are not judged" in beyond
    none = say_wraps(wraps(logbook, GRIPS, 90_000), UNITS, None)
    assert "No number of wraps up to 3 is shown to hold 90.00 kN" in none
    cord = say_wraps(wraps(logbook, GRIPS, 4_000), UNITS, 3_500.0)
    assert "the cord itself breaks at 3.50 kN" in cord


def test_wraps_on_one_number_are_refused(logbook):
    row = wraps(logbook, [(2, 2_900), (2, 3_300)], 1_000)
    assert (row.fit, row.certificates) == (None, ())
    assert "cannot be judged" in say_wraps(row, UNITS, None)


def test_tying_is_said_by_hands_and_by_what_the_inspector_saw():
    quick = [("a", TyingTrial(seconds=20)), ("b", TyingTrial(seconds=25))]
    said = say_tying("Bowline", measure_tying(quick, "bowline"))
    assert "bare hands: 2 trials, typically 22 s" in said
    assert "Nobody has judged one" in said
    cold = TyingTrial(
        seconds=90,
        attempts=2,
        wrong=1,
        hands=Hands.COLD,
        verdict=TyingVerdict.RIGHT,
        named="sheet-bend",
    )
    wrong = TyingTrial(
        seconds=80, attempts=1, wrong=0, hands=Hands.COLD, verdict=TyingVerdict.WRONG
    )
    said = say_tying("Bowline", measure_tying([("a", cold), ("b", wrong)], "bowline"))
    assert "1 wrong tie on the way" in said
    assert "Of 2 judged blind 0 were known" in said
    assert "1 were seen to be tied wrong" in said
    assert "1 were taken for another knot" in said
    assert "No tying trial" in say_tying("Bowline", measure_tying([], "bowline"))


def test_comparisons_are_told_apart_or_not(results):
    by_id = {r.baseline.lot.id: r for r in results.values()}
    knots = results["R8"].knots
    sheet = next(r for r in knots if r.name == "Sheet bend")
    close = say_compared(compare_rows((knots[2], knots[4]), by_id))
    assert close.startswith("Not one of 1 pair looked at can be told apart.")
    assert "more pulls of each" in close
    far = say_compared(compare_rows((knots[0], sheet), by_id))
    assert far.startswith("1 of 1 pair can be told apart; most clearly Double fisherman")
    assert "Nothing gave" in say_compared(compare_rows(knots[:1], by_id))


def test_drift_warns_only_where_zero_is_left_out():
    calm = Drift(by="order", change=0.01, low=-0.03, high=0.05, pulls=30)
    bad = Drift(by="day", change=-0.12, low=-0.20, high=-0.04, pulls=30)
    assert say_drift([calm], None).startswith("No drift with the test order is seen in 30 pulls")
    assert "Strengths fall with the day: -12 %" in say_drift([bad], None)
    apart, same = (
        TechnicianDrift(first="OQ", second="TV", difference=0.08, p_adjusted=0.01),
        TechnicianDrift(first="OQ", second="TV", difference=0.01, p_adjusted=0.8),
    )
    assert "OQ and TV differ by +8.0 %" in say_drift([], apart)
    assert "cannot be told apart" in say_drift([], same)
    assert "five that gave are needed" in say_drift([], None)


def claim(low, value, high, least=0.6):
    kind = ClaimKind.KEEPS_AT_LEAST
    judged = judge_interval(kind, Interval(value, low, high), 5, lower=least)
    return JudgedClaim(
        claim=Claim(id="c", made_at="", kind=kind, knot_id="k"),
        lot_id="l",
        lot_name="P8",
        judgement=judged,
        scale="share",
    )


def test_claims_are_counted_by_verdict():
    silent = JudgedClaim(
        claim=Claim(id="c", made_at="", kind=ClaimKind.KEEPS_AT_LEAST, knot_id="k"),
        lot_id="",
        lot_name="",
        judgement=None,
        scale="",
        why="none",
    )
    said = say_claims(
        [claim(0.65, 0.7, 0.75), claim(0.4, 0.5, 0.55), claim(0.5, 0.63, 0.7), silent]
    )
    assert said.startswith("Of 4 judgements: 1 supported, 1 contradicted, 1 not decided, 1 without")
    assert "more pulls" in said
    assert say_claims([]) == "The brief holds no claim to test."


def test_steps_of_a_jam_ladder_count_once(gathered, results):
    lot = results["N7"].baseline
    case = next(c for c in knot_cases(gathered, lot.lot.id) if c.name == "Bowline")
    row = jam_row(case, lot.median_n)
    stepped = [a for a in row.attempts if a.stepped]
    knots = {(a.pull_id, a.end) for a in stepped}
    assert len(stepped) > len(knots)
    assert row.jam.decided
    loads = np.array([a.load_n for a in row.attempts])
    assert np.all(np.diff(loads) >= 0)
