"""cord use, cord on a host, plausible ratings, shares and masses."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.choice.brief import PATTERNS, Claim, pattern_of, say_criterion, say_deciders
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.errors import InputError
from bruiser.core.planning.cord_on_host import CordSchool, Falls, cord_ranges
from bruiser.core.planning.cord_use import cord_use
from bruiser.core.planning.plausibility import expected_strength, known_materials, rating_is_odd
from bruiser.core.records.stock import (
    Hank,
    HankKind,
    StockEntry,
    StockMove,
    longest_first,
    stock_of,
)
from bruiser.core.statistics.posterior import BASELINE_PRIOR, SpreadPrior, typical_value
from bruiser.core.units import UnitChoice, parse_quantity, parse_share
from tests.core.samples import sample


def entry(number, hank, move, change, specimen=None):
    return StockEntry(
        id=f"e{number}", hank_id=hank, made_at="t", move=move, change_m=change, specimen_id=specimen
    )


HANKS = (
    Hank(id="a", lot_id="l", label="A", kind=HankKind.HANK),
    Hank(id="b", lot_id="l", label="B", kind=HankKind.SPOOL),
)


def test_a_ledger_adds_up():
    stock = stock_of(
        HANKS,
        (
            entry(1, "a", StockMove.RECEIVED, 10.0),
            entry(2, "b", StockMove.RECEIVED, 12.0),
            entry(3, "b", StockMove.CUT, -2.5, "s1"),
            entry(4, "b", StockMove.CUT, -1.25, "s2"),
            entry(5, "b", StockMove.UNDONE, 1.25, "s2"),
        ),
    )
    assert stock.left_m("b") == 9.5
    assert stock.received_m("b") == 12.0
    assert stock.on_hand_m("l") == 19.5
    assert stock.on_hand_m("other") == 0
    assert stock.cut_for("s1").id == "e3"
    assert stock.cut_for("s2") is None
    assert [h.id for h in longest_first(stock, HANKS)] == ["a", "b"]


@given(st.lists(st.floats(0.001, 3.0), max_size=40))
def test_cutting_and_undoing_everything_leaves_the_length_received(cuts):
    lines = [entry(0, "a", StockMove.RECEIVED, 200.0)]
    lines += [entry(n, "a", StockMove.CUT, -c) for n, c in enumerate(cuts)]
    lines += [entry(n, "a", StockMove.UNDONE, c) for n, c in enumerate(cuts)]
    assert stock_of(HANKS, tuple(lines)).left_m("a") == pytest.approx(200.0, abs=1e-4)


@pytest.mark.parametrize("measured", [[], [30.0], [30.0, 31.0]])
def test_fewer_than_three_knots_do_not_correct_the_catalogue(measured):
    use = cord_use(28.0, measured)
    assert (use.best_d, use.measured_d, use.count) == (28.0, None, len(measured))


def test_three_knots_correct_the_catalogue():
    use = cord_use(28.0, [30.0, 31.0, 32.0])
    assert (use.best_d, use.measured_d, use.spread_d) == (31.0, 31.0, 1.0)
    assert use.length_m(0.008) == pytest.approx(0.248)


@pytest.mark.parametrize(
    ("cord_mm", "falls"),
    [
        (5.0, (Falls.THINNER, Falls.THINNER, Falls.THINNER)),
        (6.0, (Falls.INSIDE, Falls.THINNER, Falls.THINNER)),
        (6.5, (Falls.INSIDE, Falls.INSIDE, Falls.INSIDE)),
        (7.4, (Falls.INSIDE, Falls.THICKER, Falls.INSIDE)),
        (8.5, (Falls.THICKER, Falls.THICKER, Falls.THICKER)),
    ],
)
def test_the_three_schools_part_over_a_cord_for_a_ten_millimetre_host(cord_mm, falls):
    ranges = cord_ranges(0.010, cord_mm / 1000)
    assert tuple(r.falls for r in ranges) == falls
    by_school = {r.school: (r.low_m, r.high_m) for r in ranges}
    assert by_school[CordSchool.RANGE] == pytest.approx((0.006, 0.008))
    assert by_school[CordSchool.TWO_THIRDS] == pytest.approx((0.0061667, 0.0071667), rel=1e-4)
    assert by_school[CordSchool.THINNER] == pytest.approx((0.0065, 0.0075))


def test_a_very_thin_host_leaves_no_negative_cord():
    assert all(r.low_m >= 0 for r in cord_ranges(0.002, 0.001))
    for wrong in ((0.0, 0.005), (0.01, -1.0)):
        with pytest.raises(ValueError, match="above zero"):
            cord_ranges(*wrong)


@pytest.mark.parametrize(
    ("material", "construction", "d_mm", "rated_n", "odd"),
    [
        ("polyester", "double braid", 8, 13_000, False),
        ("Nylon", "kernmantle", 6, 8_000, False),
        ("HMPE", "hollow braid", 4, 14_000, False),
        ("polyester", "double braid", 8, 13, True),
        ("polyester", "double braid", 8, 13e6, True),
        ("polyester", "double braid", 8 * 25.4, 13_000, True),
        ("manila", "three-strand", 12, 9_000, False),
        ("moonsilk", "braid", 8, 13_000, False),
        ("moonsilk", "braid", 8, 13, True),
    ],
)
def test_only_an_order_of_magnitude_is_asked_about(material, construction, d_mm, rated_n, odd):
    found = rating_is_odd(rated_n, material, construction, d_mm / 1000)
    assert (found is not None) is odd


@pytest.mark.parametrize("material", known_materials())
def test_strength_grows_with_the_square_of_the_diameter(material):
    thin, thick = (expected_strength(material, "braid", d) for d in (0.005, 0.010))
    assert thick.low_n == pytest.approx(4 * thin.low_n)
    assert thin.low_n < thin.high_n
    loose = expected_strength(material, "utility braid", 0.010)
    assert loose.low_n == pytest.approx(thick.low_n / 2)


@pytest.mark.parametrize("text", ["3.1", "3,1 %", " 3.1% ", "31/10"])
def test_a_percentage_is_a_share(text):
    assert parse_share(text) == pytest.approx(0.031)


@pytest.mark.parametrize("text", ["", "x", "-2 %", "120 %"])
def test_what_is_no_percentage_is_refused(text):
    with pytest.raises(InputError):
        parse_share(text, maximum=1.0)


def test_mass_per_length_and_cord_lengths_follow_the_units():
    assert parse_quantity("24.1 g/m", "mass per length", "g/m") == pytest.approx(0.0241)
    assert parse_quantity("1 oz/yd", "mass per length", "g/m") == pytest.approx(0.0310034, rel=1e-5)
    assert UnitChoice("kN", "mm").cord_text(12.4) == "12.40 m"
    assert UnitChoice("lbf", "in").cord_text(0.3048) == "1.00 ft"
    assert UnitChoice("kN", "mm").diameter_text(0.0064) == "6.4 mm"
    assert UnitChoice("lbf", "in").diameter_text(0.0079375) == "0.312 in"


def test_the_typical_value_without_floors_is_the_geometric_mean_with_students_t():
    x = [10_000.0, 11_000.0, 12_500.0]
    found = typical_value(sample(x), SpreadPrior(1.0, math.inf))
    logs = [math.log(v) for v in x]
    mean = sum(logs) / 3
    s = math.sqrt(sum((v - mean) ** 2 for v in logs) / 2)
    t = 4.302652729749462
    assert found.value == pytest.approx(math.exp(mean), rel=1e-4)
    assert found.low == pytest.approx(math.exp(mean - t * s / math.sqrt(3)), rel=2e-3)
    assert found.high == pytest.approx(math.exp(mean + t * s / math.sqrt(3)), rel=2e-3)


def test_floors_alone_give_no_typical_value():
    assert typical_value(sample([10_000.0], [0], [1]), BASELINE_PRIOR) is None


@pytest.mark.parametrize("pattern", PATTERNS, ids=lambda p: p.kind)
def test_every_claim_says_what_would_decide_it_in_terms_of_intervals(pattern):
    claim = Claim(
        id="c", made_at="t", kind=pattern.kind, knot_id="k", share=0.6, wraps=3, load_n=2_000.0
    )
    supports, contradicts = say_deciders(claim)
    assert supports != contradicts
    assert any(word in supports for word in ("interval", "bound"))
    assert pattern_of(pattern.kind) is pattern
    if "share" in pattern.gaps:
        assert any(x in supports + contradicts for x in ("60", "40"))


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        (
            PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.6, need=1, of=1),
            "in its one pull",
        ),
        (
            PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.6, need=5, of=5),
            "in all of 5 pulls",
        ),
        (
            PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.625, need=4, of=5),
            "holds 62.5 % of baseline",
        ),
        (PassCriterion(measure=Measure.CYCLES, threshold=50, need=4, of=5), "survives 50 cycles"),
    ],
)
def test_a_criterion_is_said_like_a_technician_would(rule, words):
    assert words in say_criterion(rule)
