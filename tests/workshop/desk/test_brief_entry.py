"""What is typed in the brief."""

import pytest

from bruiser.core.choice.criteria import Measure
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.records.records import Knot
from bruiser.workshop.desk import brief_entry
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.logbook.live import read_logbook
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

ASKED = {"measure": "holds a share of the baseline", "threshold": "60 %", "need": "4", "of": "5"}
OTHER = Knot(
    id="k2",
    structure="figure-eight-loop",
    variant="plain",
    name="Figure-eight loop",
    family="end loop",
)


@pytest.mark.parametrize(
    ("measure", "threshold", "value", "words"),
    [
        (Measure.HOLDS_SHARE, "60", 0.6, "Holds 60 % of baseline or more, in 4 of 5 pulls"),
        (Measure.BREAKS_AT_KNOT, "55 %", 0.55, "Breaks at the test knot at 55 %"),
        (Measure.DRAW_D, "2.5", 2.5, "Tails draw 2.5 d or less"),
        (Measure.OPENS, "", 1.0, "Opens without a tool"),
        (Measure.CYCLES, "200", 200.0, "Survives 200 cycles"),
    ],
)
def test_a_criterion_is_written_and_said(stocked, measure, threshold, value, words):
    texts = ASKED | {"measure": measure.value, "threshold": threshold}
    assert brief_entry.store_criterion(stocked, texts, ["l1"], []).stored
    logbook = read_logbook(stocked)
    (criterion,) = logbook.brief.criteria_in_force
    assert criterion.rule.threshold == pytest.approx(value)
    assert criterion.rule.at_least is (measure is not Measure.DRAW_D)
    assert brief_entry.criterion_words(criterion).startswith(words)
    assert brief_entry.scope_words(logbook, criterion) == "every knot · in P8"
    again = brief_entry.criterion_texts(criterion)
    assert (again["measure"], again["need"], again["of"]) == (measure.value, "4", "5")


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"threshold": ""}, "threshold"),
        ({"threshold": "160 %"}, "threshold"),
        ({"need": "6"}, "need"),
        ({"need": "0"}, "need"),
        ({"of": "many"}, "of"),
        ({"of": ""}, "of"),
        ({"measure": Measure.CYCLES.value, "threshold": "2.5"}, "threshold"),
        ({"measure": Measure.DRAW_D.value, "threshold": "3 mm"}, "threshold"),
    ],
)
def test_a_wrong_criterion_is_not_written(stocked, changes, field):
    found = brief_entry.store_criterion(stocked, ASKED | changes, [], [])
    assert list(found.errors) == [field]
    assert read_logbook(stocked).brief.criteria == ()


def test_a_change_needs_a_reason_and_keeps_the_old_wording(stocked):
    brief_entry.store_criterion(stocked, ASKED, [], ["k1"])
    (first,) = read_logbook(stocked).brief.criteria_in_force
    changed = ASKED | {"need": "3", "of": "4"}
    assert list(brief_entry.store_criterion(stocked, changed, [], ["k1"], first).errors) == [
        "comment"
    ]
    brief_entry.store_criterion(stocked, changed | {"comment": "short"}, [], ["k1"], first)
    brief = read_logbook(stocked).brief
    (now,) = brief.criteria_in_force
    assert (now.rule.need, now.rule.of) == (3, 4)
    assert brief.earlier(now) == (first,)
    stocked.undo()
    (back,) = read_logbook(stocked).brief.criteria_in_force
    assert back.rule == first.rule
    stocked.redo()
    (again,) = read_logbook(stocked).brief.criteria_in_force
    assert again.rule == now.rule
    brief_entry.withdraw_criterion(stocked, again)
    assert read_logbook(stocked).brief.criteria_in_force == ()
    stocked.undo()
    assert len(read_logbook(stocked).brief.criteria_in_force) == 1
    assert read_logbook(stocked).brief.criteria == (first, again)


CLAIM = {"kind": "", "knot": "k1", "other": "", "lot": "", "share": "", "wraps": "", "load": ""}


@pytest.mark.parametrize(
    ("kind", "texts", "words"),
    [
        (
            ClaimKind.KEEPS_AT_LEAST,
            {"share": "60"},
            "Bowline keeps at least 60 % of the rope",
        ),
        (
            ClaimKind.STRONGER_BY,
            {"other": "k2", "share": "5", "lot": "l1"},
            "Bowline is stronger than Figure-eight loop by at least 5 points in P8",
        ),
        (
            ClaimKind.DOES_NOT_WEAKEN,
            {"share": "1"},
            "Bowline does not weaken the rope by more than 1 point",
        ),
        (
            ClaimKind.NEVER_JAMS_BELOW,
            {"share": "50"},
            "Bowline never jams below 50 % of baseline",
        ),
        (ClaimKind.NEVER_COMES_OUT, {"lot": "l1"}, "Bowline never comes out in P8"),
        (
            ClaimKind.CHANGES_LESS_THAN,
            {"share": "4", "lot": "l1"},
            "Dressing changes the strength of Bowline by less than 4 points in P8",
        ),
        (
            ClaimKind.WRAPS_HOLD,
            {"wraps": "3", "load": "450 lbf", "lot": "l1"},
            "3 wraps of Bowline hold 2.00 kN in P8",
        ),
    ],
)
def test_every_pattern_is_filled_in_stored_and_said(stocked, kind, texts, words):
    stocked.do(AddKnot(OTHER))
    assert brief_entry.store_claim(stocked, CLAIM | {"kind": kind.value} | texts).stored
    logbook = read_logbook(stocked)
    (claim,) = logbook.brief.claims_in_force
    assert brief_entry.claim_words(logbook, claim, stocked.units) == words
    brief_entry.withdraw_claim(stocked, claim)
    assert read_logbook(stocked).brief.claims_in_force == ()
    stocked.undo()
    (back,) = read_logbook(stocked).brief.claims_in_force
    assert back.kind is kind


@pytest.mark.parametrize(
    ("kind", "texts", "field"),
    [
        (ClaimKind.KEEPS_AT_LEAST, {}, "share"),
        (ClaimKind.KEEPS_AT_LEAST, {"share": "120"}, "share"),
        (ClaimKind.KEEPS_AT_LEAST, {"share": "60", "knot": ""}, "knot"),
        (ClaimKind.STRONGER_BY, {"share": "5"}, "other"),
        (ClaimKind.STRONGER_BY, {"share": "5", "other": "k1"}, "other"),
        (ClaimKind.NEVER_COMES_OUT, {}, "lot"),
        (ClaimKind.WRAPS_HOLD, {"wraps": "x", "load": "2 kN"}, "wraps"),
        (ClaimKind.WRAPS_HOLD, {"wraps": "3", "load": "0"}, "load"),
    ],
)
def test_a_claim_with_a_gap_is_not_entered(stocked, kind, texts, field):
    found = brief_entry.store_claim(stocked, CLAIM | {"kind": kind.value} | texts)
    assert list(found.errors) == [field]
    assert read_logbook(stocked).brief.claims == ()


@pytest.mark.parametrize(
    ("texts", "field"),
    [
        ({"factor": "", "source": "code"}, "factor"),
        ({"factor": "0.5", "source": "code"}, "factor"),
        ({"factor": "ten", "source": "code"}, "factor"),
        ({"factor": "10", "source": "  "}, "source"),
    ],
)
def test_a_design_factor_has_no_default_and_needs_its_source(stocked, texts, field):
    assert read_logbook(stocked).brief.factor is None
    found = brief_entry.store_factor(stocked, texts)
    assert list(found.errors) == [field]


def test_the_last_design_factor_counts_and_undo_brings_the_one_before_back(stocked):
    for value in ("10", "8,5"):
        brief_entry.store_factor(stocked, {"factor": value, "source": f"code {value}"})
    assert read_logbook(stocked).brief.factor.value == 8.5
    stocked.undo()
    assert read_logbook(stocked).brief.factor.value == 10
    stocked.undo()
    assert read_logbook(stocked).brief.factor is None
    stocked.redo()
    assert read_logbook(stocked).brief.factor.value == 10


def test_settings_are_changed_and_undone(stocked):
    brief_entry.change_campaign(stocked, force_unit="lbf", length_unit="in", trade="sailing")
    assert (stocked.units.force, stocked.units.length) == ("lbf", "in")
    assert stocked.campaign.trade == "sailing"
    step = stocked.undo_title
    brief_entry.change_campaign(stocked, trade="sailing")
    assert stocked.undo_title == step
    assert brief_entry.store_offcut_minimum(stocked, {"offcut": "2"}).stored
    assert stocked.campaign.offcut_minimum_m == pytest.approx(0.6096)
    assert brief_entry.store_offcut_minimum(stocked, {"offcut": "-1"}).errors
    stocked.undo()
    stocked.undo()
    assert stocked.units.force == "kN"


def test_uses_are_chosen_and_taken_away(stocked):
    for use, on in (("post", True), ("guy", True), ("post", False)):
        brief_entry.choose_use(stocked, read_logbook(stocked), use, on)
    assert read_logbook(stocked).brief.uses == ("guy",)
    stocked.undo()
    assert set(read_logbook(stocked).brief.uses) == {"post", "guy"}
