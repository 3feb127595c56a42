"""What is typed about lots, hanks and cuts."""

from dataclasses import replace

import pytest

from bruiser.core.errors import Refused
from bruiser.core.records.stock import HankKind, StockMove
from bruiser.core.units import UnitChoice
from bruiser.workshop.desk import cutting, lot_entry
from bruiser.workshop.desk.cutting import cut_length_m, cut_parts
from bruiser.workshop.desk.lot_commands import DropHank, DropLot
from bruiser.workshop.logbook.live import read_logbook
from tests.build import HANK, LOT
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

GOOD = {
    "name": "N6",
    "material": "nylon",
    "construction": "kernmantle",
    "condition": "new, dry",
    "diameter": "6 mm",
    "diameter_means": "nominal",
    "rating": "8 kN",
    "rating_means": "minimum",
}


def checked(logbook, units=None, **changes):
    return lot_entry.check_lot(logbook, GOOD | changes, units or UnitChoice())


@pytest.mark.parametrize(
    ("field", "text", "attribute", "value"),
    [
        ("diameter", "8", "diameter_m", 0.008),
        ("diameter", "5/16 in", "diameter_m", 0.0254 * 5 / 16),
        ("diameter", "6,4 mm", "diameter_m", 0.0064),
        ("rating", "2900 lbf", "rated_strength_n", 2900 * 4.4482216152605),
        ("rating", "1300 kgf", "rated_strength_n", 1300 * 9.80665),
        ("rating", "", "rated_strength_n", None),
        ("mass", "49.6", "mass_per_length_kg_m", 0.0496),
        ("mass", "0.03 lb/ft", "mass_per_length_kg_m", 0.03 * 0.45359237 / 0.3048),
        ("stretch", "3.1", "static_elongation", 0.031),
        ("stretch", "3,1 %", "static_elongation", 0.031),
        ("history", " two seasons ", "history", "two seasons"),
    ],
)
def test_a_lot_is_read_in_any_unit(stocked, field, text, attribute, value):
    lot, found = checked(read_logbook(stocked), **{field: text})
    assert found.errors == {}
    got = getattr(lot, attribute)
    assert got == (value if value is None or isinstance(value, str) else pytest.approx(value))


@pytest.mark.parametrize(
    ("text", "width", "thickness", "shown"),
    [
        ("25 x 2 mm", 0.025, 0.002, "25 x 2 mm"),
        ("25 mm × 2,2 mm", 0.025, 0.0022, "25 x 2.2 mm"),
        ("1 in x 1/8 in", 0.0254, 0.0254 / 8, "25.4 x 3.2 mm"),
        ("25x2", 0.025, 0.002, "25 x 2 mm"),
    ],
)
def test_webbing_is_width_by_thickness(stocked, text, width, thickness, shown):
    lot, found = checked(
        read_logbook(stocked), construction="tubular webbing", diameter=text, rating="12 kN"
    )
    assert found.errors == {}
    assert found.asks == {}
    assert (lot.diameter_m, lot.thickness_m) == (pytest.approx(width), pytest.approx(thickness))
    assert lot.flat
    assert UnitChoice().section_text(lot.diameter_m, lot.thickness_m) == shown
    assert lot_entry.lot_texts(lot, UnitChoice())["diameter"] == shown


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"diameter": "25 mm", "construction": "tubular webbing"}, "diameter", "25 x 2 mm"),
        ({"diameter": "25 x mm"}, "diameter", "number"),
        ({"diameter": "2 x 25 mm"}, "diameter", "width comes first"),
        ({"diameter": "25 x"}, "diameter", "thickness"),
        ({"diameter": "x 2 mm"}, "diameter", "width"),
        ({"name": " "}, "name", "name"),
        ({"name": "p8"}, "name", "Another lot"),
        ({"material": ""}, "material", "made of"),
        ({"construction": ""}, "construction", "how it is made"),
        ({"condition": ""}, "condition", "condition"),
        ({"diameter": ""}, "diameter", "diameter"),
        ({"diameter": "thick"}, "diameter", "no number"),
        ({"diameter": "0"}, "diameter", "above zero"),
        ({"diameter": "8 kN"}, "diameter", "no unit of length"),
        ({"rating": "-3 kN"}, "rating", "negative"),
        ({"stretch": "140 %"}, "stretch", "100 %"),
        ({"diameter_means": "measured"}, "reference_tension", "tension"),
    ],
)
def test_a_wrong_field_is_named_and_nothing_is_stored(stocked, changes, field, words):
    logbook = read_logbook(stocked)
    found = lot_entry.store_lot(stocked, logbook, GOOD | changes)
    assert list(found.errors) == [field]
    assert words in found.errors[field]
    assert not found.stored
    assert len(read_logbook(stocked).lots) == 1


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"rating": "8000 kN"}, "rating"),
        ({"rating": "8 N"}, "rating"),
        ({"rating": "80 lbf"}, "rating"),
        ({"diameter": "6 in", "rating": ""}, "diameter"),
        ({"diameter": "0.6 m", "rating": ""}, "diameter"),
    ],
)
def test_a_slip_of_unit_asks_before_it_is_stored(stocked, changes, field):
    logbook = read_logbook(stocked)
    found = lot_entry.store_lot(stocked, logbook, GOOD | changes)
    assert list(found.asks) == [field]
    assert "Is the unit right?" in found.asks[field]
    assert not found.stored
    again = lot_entry.store_lot(stocked, logbook, GOOD | changes, anyway=True)
    assert again.stored
    assert len(read_logbook(stocked).lots) == 2


def test_what_was_not_touched_keeps_its_exact_value(stocked):
    exact = replace(LOT, diameter_m=0.0079876, rated_strength_n=12_999.4, static_elongation=0.0312)
    stocked.do(lot_entry.EditLot(exact))
    units = UnitChoice("lbf", "in")
    texts = lot_entry.lot_texts(exact, units)
    assert texts["rating"].endswith("lbf")
    lot, _ = lot_entry.check_lot(read_logbook(stocked), texts | {"age": "old"}, units, exact)
    assert lot == replace(exact, age="old")
    changed, _ = lot_entry.check_lot(
        read_logbook(stocked), texts | {"rating": "3000 lbf"}, units, exact
    )
    assert changed.rated_strength_n == pytest.approx(3000 * 4.4482216152605)
    assert changed.diameter_m == exact.diameter_m


def test_a_change_that_changes_nothing_is_no_step(stocked):
    before = stocked.undo_title
    logbook = read_logbook(stocked)
    found = lot_entry.store_lot(stocked, logbook, lot_entry.lot_texts(LOT, stocked.units), LOT)
    assert found.stored == LOT.id
    assert stocked.undo_title == before


def test_a_lot_is_entered_changed_undone_and_done_again(stocked):
    new = lot_entry.store_lot(stocked, read_logbook(stocked), GOOD).stored
    lot = read_logbook(stocked).lot(new)
    texts = lot_entry.lot_texts(lot, stocked.units) | {"condition": "worn"}
    lot_entry.store_lot(stocked, read_logbook(stocked), texts, lot)
    assert read_logbook(stocked).lot(new).condition == "worn"
    stocked.undo()
    assert read_logbook(stocked).lot(new).condition == "new, dry"
    stocked.redo()
    assert read_logbook(stocked).lot(new).condition == "worn"


def test_a_lot_that_pulls_depend_on_is_not_deleted(stocked):
    with pytest.raises(Refused, match="cannot be deleted") as refused:
        stocked.do(DropLot(LOT))
    assert "specimen" in str(refused.value)
    assert "Archive" in refused.value.remedy
    free = lot_entry.store_lot(stocked, read_logbook(stocked), GOOD).stored
    stocked.do(DropLot(read_logbook(stocked).lot(free)))
    assert len(read_logbook(stocked).lots) == 1
    stocked.undo()
    assert read_logbook(stocked).lot(free).name == "N6"


@pytest.mark.parametrize(
    ("texts", "field"),
    [
        ({"label": "", "length": "30"}, "label"),
        ({"label": "P8/1", "length": "30"}, "label"),
        ({"label": "P8/2", "length": ""}, "length"),
        ({"label": "P8/2", "length": "0"}, "length"),
        ({"label": "P8/2", "length": "30 kg"}, "length"),
    ],
)
def test_a_hank_needs_its_own_label_and_a_length(stocked, texts, field):
    logbook = read_logbook(stocked)
    found = lot_entry.store_hank(stocked, logbook, LOT, texts | {"kind": "hank"})
    assert list(found.errors) == [field]


def test_a_hank_shorter_than_one_specimen_asks(stocked):
    logbook = read_logbook(stocked)
    short = {"label": "P8/2", "kind": "hank", "length": "60 cm"}
    found = lot_entry.store_hank(stocked, logbook, LOT, short)
    assert "shorter than one specimen" in found.asks["length"]
    assert len(read_logbook(stocked).stock.hanks) == 1
    assert lot_entry.store_hank(stocked, logbook, LOT, short, anyway=True).stored
    assert read_logbook(stocked).stock.on_hand_m(LOT.id) == pytest.approx(20.6)
    long = {"label": "P8/3", "kind": "spool", "length": "200 ft"}
    assert lot_entry.store_hank(stocked, logbook, LOT, long).stored
    assert read_logbook(stocked).stock.on_hand_m(LOT.id) == pytest.approx(20.6 + 60.96)


def test_the_cut_length_is_the_sum_of_its_parts(stocked):
    logbook = read_logbook(stocked)
    specimen = logbook.entries[0].specimen
    parts = {p.name: p.length_m for p in cut_parts(logbook, specimen)}
    d = LOT.diameter_m
    knot = logbook.catalogue["bowline"].cord_rule({}).cord_d * d
    pins = 2 * 3.14159265 * (0.012 + d)
    by_hand = 0.4 + 2 * knot + 0.1 + 0.11 + pins + 0.05
    assert parts["span"] == 0.4
    assert cut_length_m(logbook, specimen) == pytest.approx(by_hand, abs=0.01)
    assert cut_length_m(logbook, specimen) >= by_hand


def test_cutting_takes_from_the_hank_and_undo_gives_back(stocked):
    logbook = read_logbook(stocked)
    ((specimen_id, code, length),) = cutting.to_cut(logbook, LOT)
    assert code == "S-001"
    lot_entry.cut(stocked, specimen_id, HANK.id, length)
    after = read_logbook(stocked)
    assert after.stock.left_m(HANK.id) == pytest.approx(20.0 - length)
    assert cutting.to_cut(after, LOT) == []
    assert cutting.cut_unloaded(after, LOT) == [("s1", "S-001")]
    with pytest.raises(Refused, match="cut already"):
        lot_entry.cut(stocked, specimen_id, HANK.id, length)
    stocked.undo()
    assert read_logbook(stocked).stock.left_m(HANK.id) == pytest.approx(20.0)
    stocked.redo()
    assert read_logbook(stocked).stock.left_m(HANK.id) == pytest.approx(20.0 - length)
    moves = [e.move for e in read_logbook(stocked).ledger([HANK.id])]
    assert moves == [StockMove.RECEIVED, StockMove.CUT]


def test_a_hank_that_is_too_short_is_refused_and_says_by_how_much(stocked):
    with pytest.raises(Refused, match=r"1\.00 m too little"):
        lot_entry.cut(stocked, "s1", HANK.id, 21.0)


def test_a_rest_below_the_offcut_minimum_is_written_off(stocked):
    lot_entry.cut(stocked, "s1", HANK.id, 19.7)
    after = read_logbook(stocked)
    assert after.stock.left_m(HANK.id) == 0
    assert after.ledger([HANK.id])[-1].move is StockMove.WASTE
    stocked.undo()
    assert read_logbook(stocked).stock.left_m(HANK.id) == pytest.approx(20.0)


def test_an_offcut_goes_back_when_it_is_long_enough(stocked):
    lot_entry.cut(stocked, "s1", HANK.id, 2.0)
    logbook = read_logbook(stocked)
    for rest, words in (("2.5 m", "no more can go back"), ("0.3 m", "not kept")):
        with pytest.raises(Refused, match=words):
            lot_entry.put_back(stocked, logbook, LOT, {"specimen": "s1", "rest": rest})
    wrong = lot_entry.put_back(stocked, logbook, LOT, {"specimen": "s1", "rest": ""})
    assert list(wrong.errors) == ["rest"]
    assert lot_entry.put_back(stocked, logbook, LOT, {"specimen": "s1", "rest": "1.2"}).stored
    after = read_logbook(stocked).stock
    offcut = next(h for h in after.hanks if h.kind is HankKind.OFFCUT)
    assert offcut.label == "S-001 rest"
    assert after.on_hand_m(LOT.id) == pytest.approx(18.0 + 1.2)
    stocked.undo()
    assert read_logbook(stocked).stock.on_hand_m(LOT.id) == pytest.approx(18.0)


def test_what_was_loaded_never_goes_back(workshop):
    logbook = read_logbook(workshop)
    pulled = next(e for e in logbook.entries if e.pull is not None)
    lot = pulled.specimen.lot
    with pytest.raises(Refused, match="loaded"):
        lot_entry.put_back(workshop, logbook, lot, {"specimen": pulled.specimen.id, "rest": "0.9"})


def test_a_hank_that_was_cut_from_stays_on_record(stocked):
    received = read_logbook(stocked).ledger([HANK.id])[0]
    lot_entry.cut(stocked, "s1", HANK.id, 2.0)
    with pytest.raises(Refused, match="stays on record"):
        stocked.do(DropHank(HANK, received))


def test_a_hank_too_short_for_a_straight_pull_asks_before_anything_is_planned(fresh):
    made = lot_entry.store_lot(fresh, read_logbook(fresh), GOOD).stored
    logbook = read_logbook(fresh)
    short = {"label": "N6/1", "kind": "hank", "length": "0.9"}
    found = lot_entry.store_hank(fresh, logbook, logbook.lot(made), short)
    assert "shorter than one specimen" in found.asks["length"]
    long = lot_entry.store_hank(fresh, logbook, logbook.lot(made), short | {"length": "40"})
    assert long.stored
