"""Rows of hanks, criteria, claims, factors, readings and structures, and what guards them."""

from dataclasses import replace

import pytest
import sqlalchemy as sa
from tests.build import KNOT, LOT, ROW, SPECIMEN

from bruiser.core.choice.brief import Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.errors import StoreError
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.store import briefs, campaigns, stock
from bruiser.store.briefs import OwnStructure
from bruiser.store.opening import create_campaign

HANK = Hank(id="h", lot_id="l1", label="P8/1", kind=HankKind.SPOOL)
ENTRY = StockEntry(
    id="e",
    hank_id="h",
    made_at="2026-01-01",
    move=StockMove.RECEIVED,
    change_m=60.25,
    specimen_id=None,
    note="as measured",
)
CRITERION = Criterion(
    id="c1",
    made_at="2026-01-01",
    rule=PassCriterion(measure=Measure.DRAW_D, threshold=2.5, need=3, of=4, at_least=False),
    lot_ids=("l1",),
    knot_ids=("k1",),
)
CLAIM = Claim(
    id="m1",
    made_at="2026-01-01",
    kind=ClaimKind.WRAPS_HOLD,
    knot_id="k1",
    other_knot_id=None,
    lot_id="l1",
    share=None,
    wraps=3,
    load_n=2_000.0,
)
FACTOR = DesignFactorEntry(id="d1", made_at="2026-01-01", value=10.0, source="local code")
READING = CordReading(
    id="r1", knot_id="k1", lot_id="l1", length_m=0.19, made_at="2026-01-01", note="untied"
)
OWN = OwnStructure(key="ridge-loop", text='family = "end loop"', based_on="", made_at="2026-01-01")


@pytest.fixture
def file(tmp_path):
    with create_campaign(tmp_path / "a.bruiser") as made:
        with made.writing() as c:
            campaigns.insert_campaign(c, ROW)
            campaigns.insert_lot(c, LOT)
            campaigns.insert_knot(c, KNOT)
            stock.insert_hank(c, HANK)
            stock.insert_entry(c, ENTRY)
            briefs.insert_criterion(c, CRITERION)
            briefs.insert_claim(c, CLAIM)
            briefs.insert_factor(c, FACTOR)
            briefs.replace_uses(c, ("guy", "post"))
            briefs.put_structure(c, OWN)
            stock.insert_cord_reading(c, READING)
        yield made


def test_everything_comes_back_as_it_went_in(file):
    with file.reading() as c:
        brief, on_hand = briefs.load_brief(c), stock.load_stock(c)
        assert brief.criteria == (CRITERION,)
        assert brief.claims == (CLAIM,)
        assert brief.factors == (FACTOR,)
        assert brief.uses == ("guy", "post")
        assert on_hand.hanks == (HANK,)
        assert stock.load_ledger(c) == [ENTRY]
        assert stock.load_cord_readings(c) == [READING]
        assert briefs.load_structures(c) == [OWN]


@pytest.mark.parametrize(
    ("table", "column", "value"),
    [
        ("stock_entry", "change_m", "99.0"),
        ("criterion", "threshold", "0.1"),
        ("claim", "share", "0.1"),
        ("design_factor", "value", "1.5"),
    ],
)
def test_what_was_written_is_never_changed(file, table, column, value):
    with pytest.raises(StoreError, match="append-only"), file.writing() as c:
        c.execute(sa.text(f"UPDATE {table} SET {column} = {value}"))


@pytest.mark.parametrize(
    "write",
    [
        lambda c: stock.insert_hank(c, replace(HANK, id="h2")),
        lambda c: stock.insert_entry(c, replace(ENTRY, id="e2", hank_id="nowhere")),
        lambda c: briefs.insert_factor(c, replace(FACTOR, id="d2", value=0.5)),
        lambda c: briefs.insert_factor(c, replace(FACTOR, id="d2", source="")),
        lambda c: briefs.insert_claim(c, replace(CLAIM, id="m2", knot_id="nobody")),
        lambda c: stock.insert_cord_reading(c, replace(READING, id="r2", length_m=0.0)),
        lambda c: campaigns.insert_lot(c, replace(LOT, id="l2")),
        lambda c: campaigns.insert_lot(c, replace(LOT, id="l2", name="x", stock_lot_id="none")),
    ],
    ids=["label", "hank", "factor", "source", "knot", "cord", "name", "stock"],
)
def test_the_tables_refuse_what_makes_no_sense(file, write):
    with pytest.raises(StoreError), file.writing() as c:
        write(c)


def test_what_depends_on_a_lot_or_a_knot_is_counted(file):
    with file.writing() as c:
        for number in (1, 2):
            one = replace(SPECIMEN, id=f"s{number}", code=f"S-{number}", queue_position=number)
            campaigns.insert_specimen(c, one)
    with file.reading() as c:
        of_lot = campaigns.lot_dependents(c, "l1")
        of_knot = campaigns.knot_dependents(c, "k1")
    assert "2 specimens (S-1, S-2)" in of_lot
    assert any("hank" in x for x in of_lot)
    assert "2 specimens (S-1, S-2)" in of_knot
    assert any("claim" in x for x in of_knot)
    assert any("cord" in x for x in of_knot)


def test_a_newer_own_structure_takes_the_place_of_the_older(file):
    newer = replace(OWN, text='family = "bend"')
    with file.writing() as c:
        briefs.put_structure(c, newer)
    with file.reading() as c:
        assert briefs.load_structures(c) == [newer]
    with file.writing() as c:
        briefs.drop_structure(c, OWN.key)
    with file.reading() as c:
        assert briefs.load_structures(c) == []


def test_uses_are_replaced_as_a_whole_in_their_order(file):
    with file.writing() as c:
        briefs.replace_uses(c, ("stopper", "guy"))
    with file.reading() as c:
        assert briefs.load_brief(c).uses == ("stopper", "guy")
