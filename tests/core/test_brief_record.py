"""What holds in a brief after everything that was written, changed and withdrawn."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.choice.brief import Brief, Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.rating.claims import ClaimKind
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail

RULE = PassCriterion(Measure.HOLDS_SHARE, 0.6, 4, 5)
FIRST = Criterion("c1", "2026-01-01", RULE, ("l1",), ("k1", "k2"))
CLAIM = Claim("m1", "2026-01-01", ClaimKind.KEEPS_AT_LEAST, "k1", share=0.6)


def chain(length):
    """A criterion changed `length` - 1 times."""
    later = (
        replace(FIRST, id=f"c{n}", made_at=f"2026-01-{n:02}", supersedes=f"c{n - 1}")
        for n in range(2, length + 1)
    )
    return (FIRST, *later)


@given(st.integers(1, 9))
def test_only_the_last_wording_holds_and_knows_all_before_it(length):
    wordings = chain(length)
    brief = Brief(criteria=wordings)
    (now,) = brief.criteria_in_force
    assert now is wordings[-1]
    assert brief.earlier(now) == tuple(reversed(wordings[:-1]))


@given(st.integers(1, 9))
def test_a_withdrawn_criterion_is_gone_whatever_its_history(length):
    wordings = chain(length)
    gone = replace(wordings[-1], id="gone", supersedes=wordings[-1].id, withdrawn=True)
    assert Brief(criteria=(*wordings, gone)).criteria_in_force == ()


@pytest.mark.parametrize(
    ("lots", "knots", "lot", "knot", "covers"),
    [
        ((), (), "any", "any", True),
        (("l1",), (), "l1", "any", True),
        (("l1",), (), "l2", "any", False),
        ((), ("k1",), "any", "k1", True),
        ((), ("k1",), "any", "k2", False),
        (("l1", "l2"), ("k1",), "l2", "k1", True),
        (("l1", "l2"), ("k1",), "l2", "k3", False),
    ],
)
def test_an_empty_scope_is_everything(lots, knots, lot, knot, covers):
    assert replace(FIRST, lot_ids=lots, knot_ids=knots).covers(lot, knot) is covers


def test_claims_hold_until_withdrawn_and_again_when_that_is_undone():
    gone = replace(CLAIM, id="m2", supersedes="m1", withdrawn=True)
    back = replace(CLAIM, id="m3", supersedes="m2")
    other = replace(CLAIM, id="m9", knot_id="k2")
    assert Brief(claims=(CLAIM, other)).claims_in_force == (CLAIM, other)
    assert Brief(claims=(CLAIM, other, gone)).claims_in_force == (other,)
    assert Brief(claims=(CLAIM, other, gone, back)).claims_in_force == (other, back)


def test_the_last_factor_counts_unless_it_withdraws():
    ten = DesignFactorEntry("d1", "t", 10.0, "code")
    five = DesignFactorEntry("d2", "t", 5.0, "maker")
    none = replace(five, id="d3", withdrawn=True)
    assert Brief().factor is None
    assert Brief(factors=(ten, five)).factor is five
    assert Brief(factors=(ten, five, none)).factor is None
    assert Brief(factors=(ten, none, five)).factor is five


def test_an_earlier_wording_that_is_not_on_record_ends_the_history():
    orphan = replace(FIRST, supersedes="lost")
    assert Brief(criteria=(orphan,)).earlier(orphan) == ()
    assert Brief(criteria=(orphan,)).criteria_in_force == (orphan,)


LOT = Lot("l1", "P8", "polyester", "braid", 0.008, "dry")
BOWLINE = Knot("k1", "bowline", "plain", "Bowline", "end loop")
ROUND = Knot("k2", "bowline", "round turn", "Bowline", "end loop")


def test_a_condition_is_cut_from_the_hanks_of_its_lot():
    assert LOT.stock_id == "l1"
    assert replace(LOT, id="l2", stock_lot_id="l1").stock_id == "l1"


@pytest.mark.parametrize(
    ("knots", "layout", "title"),
    [
        ((BOWLINE, BOWLINE), "loop_pair", "Bowline, both ends"),
        ((BOWLINE, ROUND), "loop_pair", "Bowline and Bowline, round turn"),
        ((ROUND, None), "loop_single", "Bowline, round turn"),
    ],
)
def test_a_specimen_is_called_by_its_knots(knots, layout, title):
    made = Specimen("s", "S-1", Role.KNOT, LOT, layout, 1, 0.4, *knots, (Tail("tail_a", 0.1),))
    assert made.title == title
    assert made.tail_length_m("tail_a") == 0.1
    assert made.tail_length_m("tail_b") is None
    plain = Specimen("s", "S-1", Role.BASELINE, LOT, "baseline", 1, 0.4)
    assert plain.title == "Plain rope, baseline"
    assert plain.layout is LAYOUTS["baseline"]
