"""Variants brought into play, cord measured, structures of one's own."""

import pytest

from bruiser.core.errors import Refused
from bruiser.workshop.desk import brief_entry, knot_entry
from bruiser.workshop.desk.cutting import cord_use_of
from bruiser.workshop.logbook.live import read_logbook
from tests.build import KNOT
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

ROUND_TURN = {"turns": "round-turn", "finish": "stopper"}


def bowline(workshop):
    return read_logbook(workshop).catalogue["bowline"]


def test_a_variant_is_chosen_not_typed(stocked):
    structure = bowline(stocked)
    logbook = read_logbook(stocked)
    plain = knot_entry.bring_into_play(stocked, logbook, structure, structure.plain)
    assert plain == KNOT.id
    made = knot_entry.bring_into_play(stocked, logbook, structure, structure.plain | ROUND_TURN)
    knot = read_logbook(stocked).knot(made)
    assert dict(knot.choices) == ROUND_TURN
    assert knot.title == "Bowline, round turn (double), stopper on the tail"
    again = knot_entry.bring_into_play(stocked, read_logbook(stocked), structure, ROUND_TURN)
    assert again == made
    stocked.undo()
    assert len(read_logbook(stocked).knots) == 1


def test_the_trade_decides_which_name_comes_first(stocked):
    brief_entry.change_campaign(stocked, trade="rigging")
    (knot,) = read_logbook(stocked).knots
    assert knot.name == "Bowling knot"
    brief_entry.change_campaign(stocked, trade="weaving")
    assert read_logbook(stocked).knots[0].name == "Bowline"


def test_a_knot_that_is_tied_cannot_be_deleted_but_archived(stocked):
    (knot,) = read_logbook(stocked).knots
    with pytest.raises(Refused, match="1 specimen"):
        knot_entry.drop(stocked, knot)
    knot_entry.archive(stocked, knot)
    logbook = read_logbook(stocked)
    assert logbook.knots_in_play == ()
    assert logbook.entries[0].specimen.knot_a.archived
    knot_entry.bring_into_play(stocked, logbook, bowline(stocked), {})
    assert len(read_logbook(stocked).knots_in_play) == 1


def test_a_knot_that_a_claim_is_about_cannot_be_deleted(stocked):
    structure = bowline(stocked)
    made = knot_entry.bring_into_play(stocked, read_logbook(stocked), structure, ROUND_TURN)
    texts = {"kind": "keeps at least", "knot": made, "share": "60"}
    kinds = {k.value: k for k in brief_entry.ClaimKind}
    texts["kind"] = next(k for k in kinds if "keeps" in k)
    assert brief_entry.store_claim(stocked, texts).stored
    with pytest.raises(Refused, match="claim"):
        knot_entry.drop(stocked, read_logbook(stocked).knot(made))


def test_cord_and_tails_are_worked_out_for_every_lot(stocked):
    structure = bowline(stocked)
    logbook = read_logbook(stocked)
    use, (row,) = knot_entry.variant_cord(logbook, structure, {"finish": "stopper"})
    plain = structure.cord_rule({})
    assert use.catalogue_d == plain.cord_d + 9
    assert row.catalogue_m == pytest.approx((plain.cord_d + 9) * 0.008)
    assert row.tail_floor_m == pytest.approx((plain.tail_floor_d + 6) * 0.008)
    assert row.tail_usual_m >= row.tail_floor_m
    assert row.measured_m is None


def test_cord_is_corrected_from_three_measured_knots_on(stocked):
    lengths = ("180 mm", "19.0 cm", "0.2 m")
    for n, text in enumerate(lengths):
        logbook = read_logbook(stocked)
        assert cord_use_of(logbook, KNOT).measured_d is None, n
        assert knot_entry.store_cord(stocked, logbook, KNOT, {"lot": "l1", "cord": text}).stored
    logbook = read_logbook(stocked)
    use = cord_use_of(logbook, KNOT)
    by_hand = [0.18 / 0.008, 0.19 / 0.008, 0.20 / 0.008]
    assert use.measured_d == pytest.approx(sum(by_hand) / 3)
    assert use.spread_d == pytest.approx(1.25)
    assert use.best_d == use.measured_d
    _, (row,) = knot_entry.variant_cord(logbook, bowline(stocked), {})
    assert row.measured_m == pytest.approx(0.19)
    assert row.catalogue_m != row.measured_m
    stocked.undo()
    assert cord_use_of(read_logbook(stocked), KNOT).measured_d is None


@pytest.mark.parametrize(
    ("texts", "field", "words"),
    [
        ({"lot": "", "cord": "190"}, "lot", "lot"),
        ({"lot": "l1", "cord": ""}, "cord", "measure"),
        ({"lot": "l1", "cord": "190 m"}, "cord", "unit"),
        ({"lot": "l1", "cord": "1.9"}, "cord", "unit"),
    ],
)
def test_a_wrong_cord_length_is_told(stocked, texts, field, words):
    found = knot_entry.store_cord(stocked, read_logbook(stocked), KNOT, texts)
    assert list(found.errors) == [field]
    assert words in found.errors[field]


def test_a_shipped_structure_is_adapted_for_this_campaign_only(stocked):
    logbook = read_logbook(stocked)
    texts = knot_entry.structure_texts(logbook, "bowline") | {
        "cord_use_d": "27.5",
        "names": "Ridge loop: general\nBowline: sailing",
    }
    assert knot_entry.store_structure(stocked, logbook, texts, "bowline", adapt=True).stored
    after = read_logbook(stocked)
    own = after.catalogue["bowline"]
    assert own.cord_use_d == 27.5
    assert own.name == "Ridge loop"
    assert own.axes == logbook.catalogue["bowline"].axes
    assert own.look_alikes == logbook.catalogue["bowline"].look_alikes
    assert after.knots[0].name == "Ridge loop"
    knot_entry.drop_structure(stocked, after, "bowline")
    assert read_logbook(stocked).catalogue["bowline"].name == "Bowline"
    stocked.undo()
    assert read_logbook(stocked).catalogue["bowline"].name == "Ridge loop"


def test_a_new_structure_stands_beside_the_shipped_ones(stocked):
    logbook = read_logbook(stocked)
    texts = knot_entry.structure_texts(logbook, "bowline")
    taken = knot_entry.store_structure(stocked, logbook, texts, "bowline", adapt=False)
    assert list(taken.errors) == ["names"]
    texts["names"] = "Mast loop: general"
    made = knot_entry.store_structure(stocked, logbook, texts, "bowline", adapt=False)
    assert made.stored == "mast-loop"
    after = read_logbook(stocked)
    assert len(after.catalogue) == len(logbook.catalogue) + 1
    knot_entry.bring_into_play(stocked, after, after.catalogue["mast-loop"], {})
    with pytest.raises(Refused, match="in play"):
        knot_entry.drop_structure(stocked, read_logbook(stocked), "mast-loop")


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"names": ""}, "names"),
        ({"names": "Odd: juggling"}, "names"),
        ({"cord_use_d": "much"}, "cord_use_d"),
        ({"tail_usual_d": "2"}, "tail_usual_d"),
        ({"dressing": ""}, "dressing"),
        ({"front": ""}, "front"),
        ({"in_the_bight": "yes"}, "needs_end"),
    ],
)
def test_a_wrong_structure_names_its_field(stocked, changes, field):
    logbook = read_logbook(stocked)
    texts = knot_entry.structure_texts(logbook, "bowline") | changes
    found = knot_entry.store_structure(stocked, logbook, texts, "bowline", adapt=True)
    assert list(found.errors) == [field]
    assert read_logbook(stocked).own_structures == ()


@pytest.mark.parametrize(
    ("key", "changes", "field", "number"),
    [
        ("clove-hitch", {"cord_use_d": "22"}, "cord_use_d", "31 d"),
        ("bowline", {"ends": "2"}, "ends", "not 2"),
        ("sheet-bend", {"directions": "eye against one end"}, "directions", "has none"),
        ("alpine-butterfly", {"tail_usual_d": "12"}, "tail_usual_d", "12 d"),
    ],
)
def test_what_contradicts_its_geometry_is_asked_about_and_may_be_kept(
    stocked, key, changes, field, number
):
    logbook = read_logbook(stocked)
    texts = knot_entry.structure_texts(logbook, key) | changes
    found = knot_entry.store_structure(stocked, logbook, texts, key, adapt=True)
    assert (found.errors, list(found.asks), found.stored) == ({}, [field], "")
    assert number in found.asks[field]
    kept = knot_entry.store_structure(stocked, logbook, texts, key, adapt=True, anyway=True)
    assert kept.stored == key


def test_a_shipped_structure_cannot_be_removed(stocked):
    with pytest.raises(Refused, match="ships with"):
        knot_entry.drop_structure(stocked, read_logbook(stocked), "bowline")


def test_every_shipped_structure_goes_through_the_form_unchanged(stocked):
    logbook = read_logbook(stocked)
    for key in logbook.catalogue:
        texts = knot_entry.structure_texts(logbook, key)
        found = knot_entry.store_structure(stocked, logbook, texts, key, adapt=True)
        assert found.stored == key, (key, found.errors)
    assert read_logbook(stocked).catalogue == logbook.catalogue
