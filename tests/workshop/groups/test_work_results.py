"""Grip, release, advantage, retention, seat and edges from the pulls of a campaign."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.catalogue import load_catalogue
from bruiser.core.choice.brief import Claim
from bruiser.core.choice.rating import Measured, Missing
from bruiser.core.performance.claims import ClaimKind, ClaimVerdict
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.readings import GAVE_NOTE, WOULD_NOT, Takes
from bruiser.core.records.records import Gave, JamLevel, LengthAfter, Role
from bruiser.core.units import UnitChoice
from bruiser.formats.results_json import report_json
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.groups.work_results import edge_rows, eyes_rows, work_rows
from bruiser.workshop.guide.rating_work import METHOD_OF_FAMILY, family_at_work, work_security
from bruiser.workshop.results.claiming import judge_claims
from bruiser.workshop.results.lot_results import all_results, campaign_report
from bruiser.workshop.results.work_words import say_edge, say_eyes, say_work
from tests.build import Situation, post

CORD = "lot R8"
PLATE, EDGE = post(0.012, "plate", "plate 1"), post(0.010, "edge", "edge 1")


@pytest.fixture(scope="module")
def made():
    s = Situation()
    cord = s.lot("R8")
    host = s.lot("R11", diameter_m=0.011)

    def slid(load, value, note="", force=60.0):
        return lambda e: [
            s.reading(e, Takes.SLID, 1, load, value, note=note),
            s.reading(e, Takes.BY_HAND, 1, 0.0, force, note="" if force < 150 else WOULD_NOT),
        ]

    for wraps, loads in ((2, (1_900.0, 2_000.0, 2_100.0)), (3, (3_900.0, 4_000.0, 4_100.0))):
        for load in loads:
            s.pull(
                "prusik", cord, load, gave=Gave.STOPPED, method="cord on rope", lot_b=host,
                values=(("wraps", float(wraps)),), jam=JamLevel.HAND,
                readings=slid(load, 1.0),
            )  # fmt: skip
    s.pull(
        "prusik", cord, 5_000.0, gave=Gave.BROKE, method="cord on rope", lot_b=host,
        values=(("wraps", 3.0),), readings=slid(5_000.0, 1.0, GAVE_NOTE, 200.0),
    )  # fmt: skip
    for load in (900.0, 1_000.0, 1_100.0):
        s.pull(
            "klemheist", cord, load, gave=Gave.STOPPED, method="cord on rope", lot_b=host,
            values=(("wraps", 3.0),), readings=slid(load, 1.0),
        )  # fmt: skip
    s.pull(
        "taut-line-hitch", cord, 4_000.0, 4_000.0, gave=Gave.STOPPED, method="slide test",
        readings=slid(4_000.0, 0.0),
    )  # fmt: skip
    for force, note in ((100.0, ""), (120.0, ""), (400.0, WOULD_NOT)):
        s.pull(
            "halter-hitch", cord, 2_000.0, gave=Gave.STOPPED, method="release test",
            fixture=post(),
            readings=lambda e, f=force, n=note: [
                s.reading(e, Takes.RELEASE, 1, 2_000.0, f, note=n)
            ],
        )  # fmt: skip
    s.pull("halter-hitch", cord, 900.0, gave=Gave.CAME_OUT, method="release test", fixture=post())
    for hand, kept in ((450.0, 0.9), (470.0, 0.8), (500.0, 0.0)):
        s.pull(
            "truckers-hitch", cord, 1_000.0, gave=Gave.STOPPED, method="advantage test",
            readings=lambda e, h=hand, k=kept: [
                s.reading(e, Takes.TWO_LOADS, 1, 1_000.0, h),
                s.reading(e, Takes.KEPT, 1, 1_000.0, k),
            ],
        )  # fmt: skip
    for after in (320.0, 300.0, 310.0, 0.0):
        s.pull(
            "clove-binding", cord, 1_000.0, gave=Gave.STOPPED, method="retention test",
            fixture=post(), jam=JamLevel.CUT,
            readings=lambda e, a=after: [
                s.reading(e, Takes.MOVED, 1, 0.0, 400.0),
                s.reading(e, Takes.MOVED, 2, 0.0, a),
            ],
        )  # fmt: skip
    for after in (390.0, 380.0, 395.0):
        s.pull(
            "constrictor", cord, 1_000.0, gave=Gave.STOPPED, method="retention test",
            fixture=post(),
            readings=lambda e, a=after: [
                s.reading(e, Takes.MOVED, 1, 0.0, 400.0),
                s.reading(e, Takes.MOVED, 2, 0.0, a),
            ],
        )  # fmt: skip
    s.pull(
        "figure-eight-stopper", cord, 3_000.0, 3_300.0, gave=Gave.CAME_OUT,
        method="stopper through a plate", fixture=PLATE,
    )  # fmt: skip
    s.pull(
        "figure-eight-stopper", cord, 5_000.0, gave=Gave.BROKE,
        method="stopper through a plate", fixture=PLATE,
    )  # fmt: skip
    s.pull(
        "sheet-bend", cord, 1_000.0, gave=Gave.STOPPED, method="bulk and snag",
        readings=lambda e: [
            s.reading(e, Takes.WIDTH, 1, 0.0, 0.024),
            s.reading(e, Takes.LEDGE, 1, 0.0, 80.0),
        ],
    )  # fmt: skip
    s.pull("bowline", cord, 6_000.0, 6_200.0, 6_100.0, jam=JamLevel.HAND)
    s.pull("bowline", cord, 900.0, gave=Gave.STOPPED, method="slack and snatch")
    s.pull(
        "bowline", cord, 4_000.0, 4_100.0, 4_200.0, place="nip_a", method="over an edge",
        fixture=EDGE,
    )  # fmt: skip
    for load, where in ((5_000.0, "edge"), (5_200.0, "edge"), (9_000.0, "span")):
        edged = s.specimen(cord, MethodPlan("over an edge"), role=Role.BASELINE, fixture=EDGE)
        s._add(edged, load, Gave.BROKE, where)
    s.pull("overhand-loop", cord, 6_000.0, 6_300.0, 6_100.0, jam=JamLevel.CUT)
    return s.logbook()


@pytest.fixture(scope="module")
def rows(made):
    return {(r.knot.structure, r.key.wraps): r for r in work_rows(gather(made), CORD)}


def test_a_break_during_a_slide_is_at_least_and_wraps_are_kept_apart(rows):
    two, three = rows["prusik", 2].result.grip, rows["prusik", 3].result.grip
    assert (two.gave, two.held) == (3, 0)
    assert (three.gave, three.held, three.at_least_n) == (3, 1, 5_000.0)
    assert three.interval.value > two.interval.value
    assert two.share.value == pytest.approx(0.2, rel=0.05)
    assert (three.slides_by_hand.yes, three.slides_by_hand.no) == (3, 1)
    assert two.frees_by_hand.yes == 3
    assert rows["prusik", 2].ratio == pytest.approx(8 / 11)
    taut = rows["taut-line-hitch", 0].result.grip
    assert (taut.interval, taut.at_least_n) == (None, 4_000.0)


def test_every_other_work_is_measured_from_its_own_readings(rows):
    release = rows["halter-hitch", 0].result.release
    assert release.freed.value == pytest.approx(2 / 3)
    assert release.freed_itself.value == pytest.approx(1 / 4)
    assert release.force_share.value == pytest.approx((0.05 * 0.06) ** 0.5)
    advantage = rows["truckers-hitch", 0].result.advantage
    assert 2.0 < advantage.advantage.value < 2.2
    assert advantage.slack == 1
    retention = rows["clove-binding", 0].result.retention
    assert (retention.n, retention.slack, retention.cut.yes) == (4, 1, 4)
    assert retention.kept.value == pytest.approx(0.775, abs=0.01)
    seat = rows["figure-eight-stopper", 0].result.seat
    assert (seat.gave, seat.held) == (2, 1)
    assert rows["sheet-bend", 0].result.bulk.width_d.value == pytest.approx(3.0)


def test_an_edges_own_share_of_the_rope_is_no_baseline(made):
    gathered = gather(made)
    (row,) = edge_rows(gathered, CORD)
    assert (row.found.gave, row.found.held) == (2, 1)
    assert row.found.at_least_n == 9_000.0
    assert all_results(gathered)[CORD].baseline.counts.specimens == 5
    assert "Plain rope over edge 1" in say_edge(row, UnitChoice())


def test_every_kind_of_work_is_said_without_a_claim_above_what_was_tried(rows):
    said = {k: say_work(r, UnitChoice(), 3.0) for k, r in rows.items()}
    assert all(len(s) == 1 and s[0].endswith(".") for s in said.values())
    assert "did not slide" in said["taut-line-hitch", 0][0]
    assert "1 came slack" in said["clove-binding", 0][0]
    assert "where 3 would be" in said["truckers-hitch", 0][0]
    assert "2 of 3" not in said["halter-hitch", 0][0]
    assert "of those" not in said["constrictor", 0][0]


def test_only_pulls_by_methods_that_speak_to_strength_enter_it(made):
    knots = {r.knot.structure: r for r in all_results(gather(made))[CORD].knots}
    assert {r.group.method for r in knots.values()} <= {"ramp to failure", "over an edge"}
    document = report_json(campaign_report(made))
    assert '"grip"' in document
    report = campaign_report(made)
    shaken = [g for g in report.groups if "slack and snatch" in str(g.data.knot)]
    assert shaken
    assert all(g.data.counts.specimens == 0 for g in shaken)


CLAIMS = [
    (ClaimKind.GRIPS_MORE, "prusik", "klemheist", 0.5, ClaimVerdict.SUPPORTED),
    (ClaimKind.GRIPS_MORE, "klemheist", "prusik", 0.0, ClaimVerdict.CONTRADICTED),
    (ClaimKind.HAULS, "truckers-hitch", None, 0.5, ClaimVerdict.SUPPORTED),
    (ClaimKind.HAULS, "truckers-hitch", None, 0.95, ClaimVerdict.CONTRADICTED),
    (ClaimKind.RETAINS, "constrictor", None, 0.8, ClaimVerdict.SUPPORTED),
    (ClaimKind.RETAINS, "clove-binding", None, 0.5, ClaimVerdict.CONTRADICTED),
    (ClaimKind.NEVER_SHAKES_LOOSE, "bowline", None, None, ClaimVerdict.UNDECIDED),
    (ClaimKind.NEVER_SHAKES_LOOSE, "halter-hitch", None, None, ClaimVerdict.CONTRADICTED),
    (ClaimKind.OPENS_EASIER, "bowline", "overhand-loop", 0.1, ClaimVerdict.SUPPORTED),
    (ClaimKind.EDGE_TAKES, "bowline", None, 0.05, ClaimVerdict.SUPPORTED),
    (ClaimKind.KEEPS_AT_LEAST, "halter-hitch", None, 0.4, None),
    (ClaimKind.KEEPS_AT_LEAST, "prusik", None, 0.4, None),
]


@pytest.mark.parametrize(("kind", "knot", "other", "share", "verdict"), CLAIMS)
def test_a_claim_is_decided_only_by_pulls_that_can_speak_to_it(
    made, kind, knot, other, share, verdict
):
    claim = Claim(
        id="c", made_at="2026-01-01", kind=kind, knot_id=f"knot {knot} plain", lot_id=CORD,
        other_knot_id=None if other is None else f"knot {other} plain", share=share,
    )  # fmt: skip
    gathered = gather(made)
    brief = replace(made.brief, claims=(claim,))
    (found,) = judge_claims(replace(made, brief=brief), gathered, all_results(gathered))
    if verdict is None:
        assert found.judgement is None
        assert found.why
    else:
        assert found.judgement.verdict is verdict


def points(rows, structure, wraps, holds):
    row = rows[structure, wraps]
    family = load_catalogue()[structure].families
    mine = family_at_work(family, ("quick release",) if "quick release" in family else ())
    return work_security(mine, [row], holds, np.random.default_rng(3))


def test_each_family_is_judged_by_its_own_work(rows):
    strong, weak = points(rows, "prusik", 3, 0.1), points(rows, "prusik", 2, 0.4)
    assert strong.interval.value == pytest.approx(1.0)
    assert weak.interval.value < 0.2
    assert "asked for" in weak.basis
    held = points(rows, "taut-line-hitch", 0, 0.2)
    assert isinstance(held, Measured)
    assert "without giving" in held.basis
    firm, loose = points(rows, "constrictor", 0, 0.1), points(rows, "clove-binding", 0, 0.1)
    assert firm.interval.value > loose.interval.value
    release = points(rows, "halter-hitch", 0, 0.1)
    assert "freed on demand" in release.basis
    assert "stayed when shaken" in release.basis
    assert isinstance(points(rows, "truckers-hitch", 0, 0.1), Measured)
    assert isinstance(points(rows, "figure-eight-stopper", 0, 0.25), Measured)


@pytest.mark.parametrize("family", METHOD_OF_FAMILY)
def test_what_was_not_measured_says_what_to_pull(family):
    found = work_security(family, [], 0.1, np.random.default_rng(1))
    assert isinstance(found, Missing)
    assert METHOD_OF_FAMILY[family] in found.why


def test_two_eyes_are_measured_after_the_pull_with_what_slipped_between_them():
    s = Situation()
    cord = s.lot("R8")
    s.pull("bowline-on-the-bight", cord, 7_000.0, 7_100.0, layout_key="double_loop")
    for n, (a, b) in enumerate(((0.24, 0.18), (0.22, 0.18)), start=5):
        entry = s.entries[n]
        eyes = (
            LengthAfter(key="eye_a", after_m=a, before_m=0.20),
            LengthAfter(key="eye_a2", after_m=b, before_m=0.20),
        )
        s.change(entry.specimen.id, finding=replace(entry.finding, lengths=eyes))
    (row,) = eyes_rows(gather(s.logbook()), CORD)
    assert row.difference_m == pytest.approx(-0.05)
    assert row.slipped_m == pytest.approx((0.03 + 0.02) / 2)
    assert row.shares[0] == pytest.approx(0.18 / 0.41)
    assert "on one pin" in say_eyes(row, UnitChoice())
