"""Every pattern of a claim judged on pulls that support, contradict or leave it open."""

from dataclasses import replace

import pytest

from bruiser.core.choice.brief import Brief, Claim
from bruiser.core.memory import Memory
from bruiser.core.performance.claims import ClaimKind, ClaimVerdict
from bruiser.core.records.records import CROSSED, DRESSED, Exclusion, Gave, JamLevel
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.results.claiming import judge_claims
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.overview import Filters, SheetQuery, overview
from tests.build import Situation

EIGHT, BOWLINE, SHEET, PRUSIK = ("figure-eight-loop", "bowline", "sheet-bend", "prusik")
CORD, THIN = "lot R8", "lot T5"
HITCH = {"method": "cord on rope", "gave": Gave.CAME_OUT}


@pytest.fixture(scope="module")
def made():
    """A cord in which bowlines keep two thirds, and a thin one that was pulled less."""
    s = Situation()
    cord, thin = s.lot("R8"), s.lot("T5", diameter_m=0.005)
    host = s.lot("H10", plain=(), diameter_m=0.010)
    s.pull(BOWLINE, cord, 6_600.0, 6_700.0, 6_800.0, 6_900.0, 7_000.0, jam=JamLevel.HAND)
    s.pull(BOWLINE, cord, 7_100.0, jam=JamLevel.HAND, variant="two turns")
    s.pull(BOWLINE, thin, 6_400.0, 6_900.0, 7_100.0, jam=JamLevel.HAND)
    s.pull(EIGHT, thin, 7_300.0, 7_500.0, 7_700.0, 7_600.0, 7_400.0, jam=JamLevel.TOOL)
    levels = (7_000.0, 7_200.0, 7_350.0, 7_550.0, 7_700.0)
    for number, load in enumerate(levels):
        for dressing, more in ((DRESSED, 1.0), (CROSSED, 0.975 + 0.002 * number)):
            s.pull(EIGHT, cord, load * more, pair=f"h{number}", dressing=dressing)
    s.pull(EIGHT, cord, 5_000.0, method="sustained hold", gave=Gave.STOPPED)
    s.pull(SHEET, cord, 4_000.0, 4_300.0, 4_500.0, 4_700.0, gave=Gave.CAME_OUT)
    for wraps in (1, 2, 3):
        loads = (1_900.0 * wraps, 2_000.0 * wraps, 2_100.0 * wraps)
        s.pull(PRUSIK, cord, *loads, values=(("wraps", wraps),), lot_b=host, **HITCH)
    s.knot("double-sheet-bend")
    for entry in s.entries[::2]:
        s.change(entry.specimen.id, pull=replace(entry.pull, technician="MR"))
    return s.logbook()


def knot_id(structure):
    return f"knot {structure} plain"


@pytest.fixture(scope="module")
def judge(made):
    gathered = gather(made)
    results = all_results(gathered)

    def one(kind, knot, lot, **more):
        if "other" in more:
            more["other_knot_id"] = knot_id(more.pop("other"))
        claim = Claim(
            id="c", made_at="2026-01-01", kind=kind, knot_id=knot_id(knot), lot_id=lot, **more
        )
        return judge_claims(replace(made, brief=Brief(claims=(claim,))), gathered, results)

    return one


@pytest.mark.parametrize(
    ("kind", "knot", "lot", "more", "verdict"),
    [
        (ClaimKind.KEEPS_AT_LEAST, BOWLINE, CORD, {"share": 0.6}, ClaimVerdict.SUPPORTED),
        (ClaimKind.KEEPS_AT_LEAST, BOWLINE, CORD, {"share": 0.8}, ClaimVerdict.CONTRADICTED),
        (ClaimKind.KEEPS_AT_LEAST, BOWLINE, CORD, {"share": 0.69}, ClaimVerdict.UNDECIDED),
        (ClaimKind.DOES_NOT_WEAKEN, BOWLINE, CORD, {"share": 0.1}, ClaimVerdict.CONTRADICTED),
        (ClaimKind.DOES_NOT_WEAKEN, BOWLINE, CORD, {"share": 0.5}, ClaimVerdict.SUPPORTED),
        (
            ClaimKind.STRONGER_BY,
            EIGHT,
            CORD,
            {"share": 0.2, "other": SHEET},
            ClaimVerdict.SUPPORTED,
        ),
        (
            ClaimKind.STRONGER_BY,
            SHEET,
            CORD,
            {"share": 0.0, "other": BOWLINE},
            ClaimVerdict.CONTRADICTED,
        ),
        (
            ClaimKind.STRONGER_BY,
            EIGHT,
            CORD,
            {"share": 0.05, "other": BOWLINE},
            ClaimVerdict.UNDECIDED,
        ),
        (ClaimKind.NEVER_COMES_OUT, SHEET, CORD, {}, ClaimVerdict.CONTRADICTED),
        (ClaimKind.NEVER_COMES_OUT, BOWLINE, CORD, {}, ClaimVerdict.UNDECIDED),
        (ClaimKind.NEVER_JAMS_BELOW, EIGHT, THIN, {"share": 0.9}, ClaimVerdict.CONTRADICTED),
        (ClaimKind.NEVER_JAMS_BELOW, BOWLINE, CORD, {"share": 0.5}, ClaimVerdict.UNDECIDED),
        (ClaimKind.CHANGES_LESS_THAN, EIGHT, CORD, {"share": 0.2}, ClaimVerdict.SUPPORTED),
        (ClaimKind.CHANGES_LESS_THAN, EIGHT, CORD, {"share": 0.001}, ClaimVerdict.CONTRADICTED),
        (
            ClaimKind.WRAPS_HOLD,
            PRUSIK,
            CORD,
            {"wraps": 3, "load_n": 3_000.0},
            ClaimVerdict.SUPPORTED,
        ),
        (
            ClaimKind.WRAPS_HOLD,
            PRUSIK,
            CORD,
            {"wraps": 1, "load_n": 9_000.0},
            ClaimVerdict.CONTRADICTED,
        ),
    ],
)
def test_every_pattern_is_judged(judge, kind, knot, lot, more, verdict):
    (found,) = judge(kind, knot, lot, **more)
    judgement = found.judgement
    assert judgement.verdict is verdict
    assert judgement.pulls > 0
    assert judgement.pull_ids
    if verdict is not ClaimVerdict.UNDECIDED:
        assert judgement.more_pulls == 0


def test_a_claim_about_every_lot_is_judged_where_its_knot_was_pulled(judge):
    found = judge(ClaimKind.KEEPS_AT_LEAST, BOWLINE, None, share=0.6)
    assert {j.lot_name for j in found} == {"R8", "T5"}


@pytest.mark.parametrize(
    ("kind", "knot", "lot", "more", "why"),
    [
        (ClaimKind.KEEPS_AT_LEAST, "double-sheet-bend", CORD, {"share": 0.5}, "not pulled in"),
        (ClaimKind.CHANGES_LESS_THAN, BOWLINE, CORD, {"share": 0.1}, "dressed and crossed"),
        (ClaimKind.NEVER_JAMS_BELOW, SHEET, CORD, {"share": 0.5}, "untied afterwards"),
        (ClaimKind.WRAPS_HOLD, BOWLINE, CORD, {"wraps": 2, "load_n": 1.0}, "no slide tests"),
        (ClaimKind.WRAPS_HOLD, PRUSIK, CORD, {"wraps": 9, "load_n": 1.0}, "beyond what was tested"),
        (
            ClaimKind.STRONGER_BY,
            BOWLINE,
            CORD,
            {"share": 0.1, "other": "double-sheet-bend"},
            "one of the two",
        ),
    ],
)
def test_where_nothing_can_be_said_it_says_why(judge, kind, knot, lot, more, why):
    (found,) = judge(kind, knot, lot, **more)
    assert found.judgement is None
    assert why in found.why


ASKED = SheetQuery(sheet="strength", lot_ids=(CORD,))


def test_filters_take_groups_and_pulls_away_and_letters_follow(made):
    memory = Memory()
    whole = overview(made, ASKED, memory)
    half = overview(made, replace(ASKED, filters=Filters(technician="MR")), memory)
    assert 0 < sum(len(r.marks) for r in half.rows) < sum(len(r.marks) for r in whole.rows)
    assert half.judged == {}
    plain = overview(made, replace(ASKED, filters=Filters(variant="plain")), memory)
    assert len(plain.rows) == len(whole.rows) - 1
    assert {r.knot.variant for r in plain.rows} == {"plain"}
    crossed = overview(made, replace(ASKED, filters=Filters(dressing="crossed")), memory)
    assert [r.key.dressing for r in crossed.rows] == ["crossed"]


def test_an_excluded_pull_recomputes_its_own_group_only(made):
    memory = Memory()
    before = overview(made, ASKED, memory)
    known = memory.computed
    overview(made, ASKED, memory)
    assert memory.computed == known
    row = next(r for r in before.rows if r.knot.title == "Bowline")
    pull_id = row.marks[0].pull_id
    gone = Exclusion(id="x", pull_id=pull_id, made_at="", excluded=True, reason="bent pin")
    entries = tuple(
        replace(e, exclusions=(gone,)) if e.pull.id == pull_id else e for e in made.entries
    )
    left_out = replace(made, specimens=entries)
    after = overview(left_out, ASKED, memory)
    # Its group, its family, and the family of the one group as it was with the pull in: that
    # group itself is as before, and so is known.
    assert memory.computed == known + 3
    changed = next(r for r in after.rows if r.key == row.key)
    assert len(changed.efficiency.pull_ids) == len(row.efficiency.pull_ids) - 1
    assert changed.whole.efficiency.interval == row.efficiency.interval
    assert [m.left_out for m in changed.marks if m.left_out] == ["bent pin"]


def test_the_floor_follows_share_and_confidence(made):
    memory = Memory()
    easy = overview(made, replace(ASKED, floor_share=0.9, confidence=0.9), memory)
    hard = overview(made, replace(ASKED, floor_share=0.99, confidence=0.99), memory)
    assert easy.floors.keys() == hard.floors.keys()
    assert easy.floors
    for key, bound in easy.floors.items():
        assert hard.floors[key].load_n < bound.load_n
    tails = [c.kind for b in hard.floors.values() for c in b.caveats]
    assert set(tails) == {"tail assumed"}
