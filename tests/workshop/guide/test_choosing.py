"""Choosing on built pulls: ratings with what they rest on, requirements, reasons, ranking."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.catalogue import Answer, load_catalogue
from bruiser.core.behaviour.jamming import fit_jams, jam_load
from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.choice.nearest import Cordage
from bruiser.core.choice.ranking import DRAWS
from bruiser.core.choice.rating import Missing, Rating, RatingLimits
from bruiser.core.choice.use_profile import shipped_profiles
from bruiser.core.performance.uncertain import interval_of, opening
from bruiser.core.records.preparation import Hands
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.guide.choosing import Shelf, choose, lots_tested, near_lots, rate_for
from bruiser.workshop.guide.rating_knots import Conditions, came_out_of
from bruiser.workshop.guide.requirements import by_pulls, by_structure, say_needs
from bruiser.workshop.results.lot_results import all_results
from tests.usual import usual

USES = shipped_profiles()
LIMITS = RatingLimits()


@pytest.fixture(scope="module")
def shelf():
    logbook = usual().logbook()
    gathered = gather(logbook)
    return Shelf(logbook=logbook, gathered=gathered, results=all_results(gathered))


def lot_id(shelf, name):
    return next(lot.id for lot in shelf.logbook.lots if lot.name == name)


def rated(shelf, lot, knot, how=None, limits=LIMITS):
    rows = rate_for(shelf, lot_id(shelf, lot), limits, how or Conditions())
    return next(r for r in rows if r.name == knot)


def chosen(shelf, use, lot, **changes):
    profile = replace(USES[use], **changes)
    return choose(shelf, lot_id(shelf, lot), profile, LIMITS)


def test_five_ratings_stand_on_their_own_scales_with_n_and_basis(shelf):
    one = rated(shelf, "R8", "Bowline")
    assert set(one.gauges) == set(Rating)
    for rating, gauge in one.gauges.items():
        found = gauge.measured
        assert found.n > 0
        assert found.basis
        assert found.interval.low <= found.interval.value <= found.interval.high
        assert found.draws.shape == (DRAWS,)
        assert found.pull_ids, rating
        assert gauge.band
    strength = one.gauges[Rating.STRENGTH].measured
    assert strength.interval == one.row.efficiency.interval
    drawn = interval_of(strength.draws)
    assert drawn.value == pytest.approx(strength.interval.value, abs=0.005)
    assert (drawn.low, drawn.high) == pytest.approx(
        (strength.interval.low, strength.interval.high), abs=0.01
    )


def test_the_weakest_of_several_ways_counts_and_the_use_says_which_count(shelf):
    both = rated(shelf, "R8", "Alpine butterfly")
    weakest = both.gauges[Rating.STRENGTH].measured
    assert "weakest of 2 ways (eye against one end)" in weakest.basis
    along = rated(shelf, "R8", "Alpine butterfly", Conditions(directions=("end to end",)))
    assert along.gauges[Rating.STRENGTH].measured.interval.low >= weakest.interval.low
    ring = rated(shelf, "N7", "Bowline").gauges[Rating.STRENGTH].found
    assert ring == Missing("never pulled until it gave", ring.pull_ids)
    assert ring.pull_ids
    post = rated(shelf, "N7", "Figure-eight loop", Conditions(host="post"))
    assert "never pulled on a post" in post.gauges[Rating.STRENGTH].found.why


def test_what_was_not_measured_says_why(shelf):
    loop = rated(shelf, "R8", "Overhand loop")
    assert "no knot was untied" in loop.gauges[Rating.OPENING].found.why
    eight = rated(shelf, "N7", "Figure-eight loop")
    assert "none was untied after more than 22 %" in eight.gauges[Rating.OPENING].found.why
    early = rated(shelf, "N7", "Figure-eight loop", Conditions(load=0.2))
    assert early.gauges[Rating.OPENING].measured is not None
    cold = rated(shelf, "R8", "Bowline", Conditions(hands=Hands.COLD))
    assert "no trial with cold and wet" in cold.gauges[Rating.TYING].found.why


def test_staying_tied_is_the_weakest_criterion_under_the_campaigns_limits(shelf):
    sheet = rated(shelf, "R8", "Sheet bend").gauges[Rating.SECURITY]
    assert sheet.band == "lets go"
    assert "weakest: 4 of 4 came out" in sheet.measured.basis
    butterfly = rated(shelf, "R8", "Alpine butterfly")
    out, gave, pulls = came_out_of(butterfly.case)
    assert (out, gave, len(pulls)) == (0, 8, 8)
    strict = RatingLimits(security=replace(SecurityLimits(), came_out=(0.01, 0.06)))
    same = rated(shelf, "R8", "Bowline").gauges[Rating.SECURITY].measured.interval
    harder = rated(shelf, "R8", "Bowline", limits=strict)
    assert harder.gauges[Rating.SECURITY].measured.interval.value < same.value


def test_trials_of_another_cordage_are_used_and_said_to_be(shelf):
    worn = rated(shelf, "T6", "Figure-eight loop").gauges[Rating.TYING].measured
    assert worn.caveat == "tied in other cordage"
    behind = [shelf.logbook.by_pull[p].specimen for p in worn.pull_ids]
    assert len(behind) == worn.n
    assert {s.knot_a.name for s in behind} == {"Figure-eight loop"}
    assert all(s.lot.name != "T6" for s in behind)
    own = rated(shelf, "R8", "Figure-eight loop").gauges[Rating.TYING].measured
    assert own.caveat == ""


def test_the_short_list_is_ranked_and_everything_else_has_a_reason(shelf):
    found = chosen(shelf, "tether-loop", "R8")
    names = [one.rated.name for one in found.listed]
    assert names[0] == "Bowline"
    assert set(names) == {
        *("Bowline", "Alpine butterfly"),
        *("Bowline, round turn (double)", "Figure-eight loop"),
    }
    scores = [one.ranked.score.value for one in found.listed]
    assert scores == sorted(scores, reverse=True)
    assert all(one.why for one in found.listed)
    reasons = {t.name: t.words for t in found.not_ranked}
    assert "opening after 60 % not measured" in reasons["Overhand loop"]
    assert reasons["Artillery loop"].startswith("never pulled in R8")
    assert "Sheet bend" in found.other_kinds
    listed = set(names) | set(reasons) | {t.name for t in found.excluded} | set(found.other_kinds)
    assert {k.title for k in shelf.logbook.knots_in_play} <= listed


def test_no_knot_with_an_unmeasured_rating_that_counts_is_ever_ranked(shelf):
    for lot in lots_tested(shelf):
        for profile in USES.values():
            found = choose(shelf, lot.id, profile, LIMITS)
            for one in found.listed:
                needed = {r for r, w in profile.weights.items() if w > 0}
                assert all(one.rated.gauges[r].measured is not None for r in needed)
            for turned in (*found.not_ranked, *found.excluded):
                assert turned.words
            ranked = {one.rated.name for one in found.listed}
            assert not ranked & {t.name for t in (*found.not_ranked, *found.excluded)}


@pytest.mark.parametrize(
    ("use", "lot", "changes", "knot", "reason"),
    [
        ("tether-loop", "T6", {}, "Bowline", "came out 2 of 4"),
        ("tether-loop", "T6", {}, "Figure-eight loop", "with a chance of only"),
        ("tether-loop", "R8", {"no_end": True}, "Bowline, round turn (double)", "needs an end"),
        ("tether-loop", "R8", {"closed_ring": True}, "Alpine butterfly", "closed ring"),
        ("post", "N7", {}, "Clove hitch", "came out 4 of 4"),
        ("line-joined", "R8", {"slippery": True}, "Sheet bend", "came out 4 of 4"),
        ("hand-hold", "N7", {"directions": ("end to end",)}, "Artillery loop", "not meant"),
    ],
)
def test_a_hard_requirement_excludes_with_its_reason(shelf, use, lot, changes, knot, reason):
    found = chosen(shelf, use, lot, **changes)
    turned = next(t for t in found.excluded if t.name == knot)
    assert reason in turned.words
    assert knot not in [one.rated.name for one in found.listed]


def test_a_direction_that_let_go_excludes_with_its_pulls(shelf):
    found = chosen(
        shelf, "hand-hold", "N7", directions=("end to end, with loss",), families=(), no_end=False
    )
    turned = next(t for t in found.excluded if t.name == "Artillery loop")
    assert "let go end to end, with loss: 3 of 3" in turned.words
    (let_go,) = [r for r in turned.reasons if r.words.startswith("let go")]
    assert all(shelf.logbook.by_pull[p].specimen.knot_a.name == "Artillery loop"
               for p in let_go.pull_ids)  # fmt: skip


def test_coming_out_in_another_condition_of_the_same_cordage_counts(shelf):
    logbook = shelf.logbook
    wet = lot_id(shelf, "R8 wet")
    assert logbook.lot(wet).stock_id == logbook.lot(lot_id(shelf, "R8")).stock_id
    dry, other = rated(shelf, "R8", "Bowline"), rated(shelf, "T6", "Bowline")
    bowline = load_catalogue()["bowline"]
    assert by_pulls(dry, bowline, USES["line-joined"], [dry]) == []
    (refusal,) = by_pulls(dry, bowline, USES["line-joined"], [dry, other])
    assert refusal.words == "came out 2 of 4 worn"
    assert len(refusal.pull_ids) == 4
    lenient = replace(USES["line-joined"], stays=False)
    assert by_pulls(dry, bowline, lenient, [dry, other]) == []


def test_a_cordage_that_was_not_tested_gets_no_numbers_but_its_nearest(shelf):
    found = chosen(shelf, "tether-loop", "R10")
    assert not found.tested
    assert (found.listed, found.not_ranked, found.excluded) == ((), (), ())
    assert found.near[0].cordage.name == "R8"
    assert "8 mm instead of 10 mm" in found.near[0].differs
    like = near_lots(
        shelf,
        Cordage(key="x", name="x", material="nylon", construction="kernmantle", diameter_m=0.007),
    )
    assert (like[0].cordage.name, like[0].differs) == ("N7", ())


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        (Answer.NO, "needs an end"),
        (Answer.VARIES, "needs an end (varies)"),
        (Answer.NOT_ESTABLISHED, "tying without an end is not established"),
    ],
)
def test_only_a_yes_of_the_catalogue_meets_a_requirement(answer, says):
    butterfly = load_catalogue()["alpine-butterfly"]
    profile = replace(USES["tether-loop"], no_end=True)
    assert by_structure(butterfly, profile) == []
    (refusal,) = by_structure(replace(butterfly, in_the_bight=answer), profile)
    assert refusal.words == says
    assert by_structure(None, profile)[0].words == "not in the catalogue"


def test_what_a_use_asks_is_said_in_words():
    everything = replace(USES["hand-hold"], closed_ring=True, host="post", slippery=True, load=0.4)
    said = say_needs(everything)
    assert "opens without a tool after 40 % of the rope" in said
    assert len(said) == 9


def test_opening_is_drawn_from_the_jamming_curve(shelf):
    rng = np.random.default_rng(3)
    share, level = np.array([0.3, 0.4, 0.5, 0.6, 0.7, 0.8]), np.array([0, 0, 1, 2, 1, 3])
    fit = fit_jams(share, level)
    assert jam_load(share, level).fit.weight == pytest.approx(fit.weight)
    drawn = interval_of(opening(fit, 0.6, 60_000, rng))
    low, mean, high = (1 - float(v[0]) for v in reversed(fit.chance(np.array([0.6]))))
    assert float(opening(fit, 0.6, 60_000, rng).mean()) == pytest.approx(mean, abs=0.005)
    assert (drawn.low, drawn.high) == pytest.approx((low, high), abs=0.02)
    opened = fit_jams(np.array([0.5, 0.6, 0.7]), np.array([0, 0, 1]))
    assert opened.chance(np.array([0.5]))[1] < 0.2


def test_a_hand_hold_asks_for_legs_and_not_for_wording():
    fits = {
        key
        for key, s in load_catalogue().items()
        if s.family == "midline loop"
        and not [r for r in by_structure(s, shipped_profiles()["hand-hold"]) if "loaded" in r.words]
    }
    # By its wording only the butterfly, which says “eye against either end”, would fit.
    assert {"alpine-butterfly", "figure-eight-midline"} < fits
