"""Every pattern of a claim judged on pulls that support, contradict or leave it open."""

from dataclasses import replace

import pytest

from bruiser.core.choice.brief import Brief, Claim
from bruiser.core.memory import Memory
from bruiser.core.rating.claims import ClaimKind, Verdict
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.logbook.entries import read_logbook
from bruiser.workshop.results.claiming import judge_claims
from bruiser.workshop.results.gathering import gather
from bruiser.workshop.results.lot_results import all_results
from bruiser.workshop.results.overview import Asked, Filters, overview

EIGHT = "Figure-eight loop"


@pytest.fixture(scope="module")
def judge(logbook):
    gathered = gather(logbook)
    results = all_results(gathered)
    knots = {k.title: k.id for k in logbook.knots}
    lots = {x.name: x.id for x in logbook.lots}

    def one(kind, knot, lot, **more):
        if "other" in more:
            more["other_knot_id"] = knots[more.pop("other")]
        claim = Claim(
            id="c",
            made_at="2026-01-01",
            kind=kind,
            knot_id=knots[knot],
            lot_id=lots.get(lot),
            **more,
        )
        asked = replace(logbook, brief=Brief(claims=(claim,)))
        return judge_claims(asked, gathered, results)

    return one


@pytest.mark.parametrize(
    ("kind", "knot", "lot", "more", "verdict"),
    [
        (ClaimKind.KEEPS_AT_LEAST, "Bowline", "P8-B", {"share": 0.6}, Verdict.SUPPORTED),
        (ClaimKind.KEEPS_AT_LEAST, "Bowline", "P8-B", {"share": 0.8}, Verdict.CONTRADICTED),
        (ClaimKind.KEEPS_AT_LEAST, "Bowline", "P8-B", {"share": 0.7}, Verdict.UNDECIDED),
        (ClaimKind.DOES_NOT_WEAKEN, "Bowline", "P8-B", {"share": 0.1}, Verdict.CONTRADICTED),
        (ClaimKind.DOES_NOT_WEAKEN, "Bowline", "P8-B", {"share": 0.5}, Verdict.SUPPORTED),
        (
            ClaimKind.STRONGER_BY,
            EIGHT,
            "P8-B",
            {"share": 0.2, "other": "Sheet bend"},
            Verdict.SUPPORTED,
        ),
        (
            ClaimKind.STRONGER_BY,
            "Sheet bend",
            "P8-B",
            {"share": 0.0, "other": "Bowline"},
            Verdict.CONTRADICTED,
        ),
        (
            ClaimKind.STRONGER_BY,
            EIGHT,
            "P8-B",
            {"share": 0.05, "other": "Bowline"},
            Verdict.UNDECIDED,
        ),
        (ClaimKind.NEVER_COMES_OUT, "Sheet bend", "P8-B", {}, Verdict.CONTRADICTED),
        (ClaimKind.NEVER_COMES_OUT, "Bowline", "P8-B", {}, Verdict.UNDECIDED),
        (ClaimKind.NEVER_JAMS_BELOW, EIGHT, "N6-K", {"share": 0.9}, Verdict.CONTRADICTED),
        (ClaimKind.NEVER_JAMS_BELOW, "Bowline", "P8-B", {"share": 0.5}, Verdict.UNDECIDED),
        (ClaimKind.CHANGES_LESS_THAN, EIGHT, "N7-T", {"share": 0.2}, Verdict.SUPPORTED),
        (ClaimKind.CHANGES_LESS_THAN, EIGHT, "N7-T", {"share": 0.01}, Verdict.CONTRADICTED),
        (
            ClaimKind.WRAPS_HOLD,
            "Triple sliding hitch",
            "N7-T",
            {"wraps": 3, "load_n": 3_000.0},
            Verdict.SUPPORTED,
        ),
        (
            ClaimKind.WRAPS_HOLD,
            "Triple sliding hitch",
            "N7-T",
            {"wraps": 1, "load_n": 9_000.0},
            Verdict.CONTRADICTED,
        ),
    ],
)  # fmt: skip
def test_every_pattern_is_judged(judge, kind, knot, lot, more, verdict):
    (found,) = judge(kind, knot, lot, **more)
    judgement = found.judgement
    assert judgement.verdict is verdict
    assert judgement.pulls > 0
    assert judgement.pull_ids
    if verdict is not Verdict.UNDECIDED:
        assert judgement.more_pulls == 0


def test_a_claim_about_every_lot_is_judged_where_its_knot_was_pulled(judge):
    found = judge(ClaimKind.KEEPS_AT_LEAST, "Bowline", None, share=0.6)
    assert {j.lot_name for j in found} == {"H4-W", "N6-K", "N7-T", "P8-B", "P8-B wet"}


@pytest.mark.parametrize(
    ("kind", "knot", "lot", "more", "why"),
    [
        (ClaimKind.KEEPS_AT_LEAST, "Double sheet bend", "P8-B", {"share": 0.5}, "not pulled in"),
        (ClaimKind.CHANGES_LESS_THAN, "Bowline", "P8-B", {"share": 0.1}, "dressed and crossed"),
        (ClaimKind.NEVER_JAMS_BELOW, "Sheet bend", "P8-B", {"share": 0.5}, "untied afterwards"),
        (ClaimKind.WRAPS_HOLD, "Bowline", "P8-B", {"wraps": 2, "load_n": 1.0}, "no slide tests"),
        (
            ClaimKind.WRAPS_HOLD,
            "Triple sliding hitch",
            "N7-T",
            {"wraps": 9, "load_n": 1.0},
            "beyond what was tested",
        ),
        (
            ClaimKind.STRONGER_BY,
            "Bowline",
            "P8-B",
            {"share": 0.1, "other": "Double sheet bend"},
            "one of the two",
        ),
    ],
)  # fmt: skip
def test_where_nothing_can_be_said_it_says_why(judge, kind, knot, lot, more, why):
    (found,) = judge(kind, knot, lot, **more)
    assert found.judgement is None
    assert why in found.why


def asked(sheet, logbook, lot="P8-B", **more):
    lot_id = next(x.id for x in logbook.lots if x.name == lot)
    return Asked(sheet=sheet, lot_ids=(lot_id,), **more)


def test_filters_take_groups_and_pulls_away_and_letters_follow(logbook):
    memory = Memory()
    whole = overview(logbook, asked("strength", logbook), memory)
    half = overview(logbook, asked("strength", logbook, filters=Filters(technician="TV")), memory)
    assert sum(len(r.marks) for r in half.rows) < sum(len(r.marks) for r in whole.rows)
    assert half.judged == {}
    plain = overview(logbook, asked("strength", logbook, filters=Filters(variant="plain")), memory)
    assert len(plain.rows) == len(whole.rows) - 1
    assert {r.knot.variant for r in plain.rows} == {"plain"}
    n7 = asked("strength", logbook, "N7-T")
    few = overview(logbook, n7, memory)
    more = overview(logbook, replace(n7, filters=Filters(every_method=True)), memory)
    assert {r.group.method for r in few.rows} < {r.group.method for r in more.rows}
    crossed = overview(logbook, replace(n7, filters=Filters(dressing="crossed")), memory)
    assert [r.key.dressing for r in crossed.rows] == ["crossed"]


def test_an_excluded_pull_recomputes_its_own_group_only(workshop):
    logbook, memory = read_logbook(workshop), Memory()
    ask = asked("strength", logbook)
    before = overview(logbook, ask, memory)
    known = memory.computed
    overview(logbook, ask, memory)
    assert memory.computed == known
    row = before.rows[1]
    exclude_pull(workshop, logbook.by_pull[row.marks[0].pull_id], "bent pin")
    after = overview(read_logbook(workshop), ask, memory)
    # Its group, its family, and the family of the one group as it was with the pull in: that
    # group itself is as before, and so is known.
    assert memory.computed == known + 3
    changed = next(r for r in after.rows if r.key == row.key)
    assert len(changed.efficiency.pull_ids) == len(row.efficiency.pull_ids) - 1
    assert changed.whole.efficiency.interval == row.efficiency.interval
    assert [m.left_out for m in changed.marks if m.left_out] == ["bent pin"]


def test_the_floor_follows_share_and_confidence(logbook):
    memory = Memory()
    easy = overview(logbook, asked("strength", logbook, floor_share=0.9, confidence=0.9), memory)
    hard = overview(logbook, asked("strength", logbook, floor_share=0.99, confidence=0.99), memory)
    assert easy.floors.keys() == hard.floors.keys()
    for key, bound in easy.floors.items():
        assert hard.floors[key].load_n < bound.load_n
    tails = [c.kind for b in hard.floors.values() for c in b.caveats]
    assert set(tails) == {"tail assumed"}
