"""What holds in a brief after everything that was written, changed and withdrawn."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.choice.brief import Brief, Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail

RULE = PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.6, need=4, of=5)
FIRST = Criterion(id="c1", made_at="2026-01-01", rule=RULE, lot_ids=("l1",), knot_ids=("k1", "k2"))
CLAIM = Claim(id="m1", made_at="2026-01-01", kind=ClaimKind.KEEPS_AT_LEAST, knot_id="k1", share=0.6)


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
    ten = DesignFactorEntry(id="d1", made_at="t", value=10.0, source="code")
    five = DesignFactorEntry(id="d2", made_at="t", value=5.0, source="maker")
    none = replace(five, id="d3", withdrawn=True)
    assert Brief().factor is None
    assert Brief(factors=(ten, five)).factor is five
    assert Brief(factors=(ten, five, none)).factor is None
    assert Brief(factors=(ten, none, five)).factor is five


def test_an_earlier_wording_that_is_not_on_record_ends_the_history():
    orphan = replace(FIRST, supersedes="lost")
    assert Brief(criteria=(orphan,)).earlier(orphan) == ()
    assert Brief(criteria=(orphan,)).criteria_in_force == (orphan,)


LOT = Lot(
    id="l1",
    name="P8",
    material="polyester",
    construction="braid",
    diameter_m=0.008,
    condition="dry",
)
BOWLINE = Knot(id="k1", structure="bowline", variant="plain", name="Bowline", family="end loop")
ROUND = Knot(id="k2", structure="bowline", variant="round turn", name="Bowline", family="end loop")


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
    plain = Specimen(
        id="s",
        code="S-1",
        role=Role.BASELINE,
        lot=LOT,
        layout_key="baseline",
        queue_position=1,
        span_m=0.4,
    )
    knot_a, knot_b = knots
    made = replace(
        plain,
        role=Role.KNOT,
        layout_key=layout,
        knot_a=knot_a,
        knot_b=knot_b,
        tails=(Tail("tail_a", 0.1),),
    )
    assert made.title == title
    assert made.tail_length_m("tail_a") == 0.1
    assert made.tail_length_m("tail_b") is None
    assert plain.title == "Plain rope, baseline"
    assert plain.layout is LAYOUTS["baseline"]
