import math

import numpy as np
import pytest

from bruiser.core.performance.evidence import GroupData, PullContext
from bruiser.core.performance.groups import GroupKey, merge, pool
from bruiser.core.performance.report import make_report
from bruiser.core.statistics.measurement import LoadCell
from bruiser.core.statistics.strength import OutcomeCounts
from tests.core.samples import sample, scattered

BASE = GroupData(
    cordage="P8",
    condition="dry",
    knot=None,
    sample=sample([9_800, 10_000, 10_100, 10_300]),
    counts=OutcomeCounts(broke=4),
)


def knot(name, median, seed, **more):
    s = scattered(np.random.default_rng(seed), median, 0.06, 6)
    return GroupData(
        cordage=more.pop("cordage", "P8"),
        condition="dry",
        knot=name,
        sample=s,
        counts=OutcomeCounts(broke=6),
        **more,
    )


def test_groups_come_back_in_order_with_their_letters_and_pulls():
    groups = [knot("weak", 4_000, 1), BASE, knot("strong", 7_000, 2), knot("also strong", 7_100, 3)]
    report = make_report(groups)
    assert [g.data for g in report.groups] == groups
    family = report.families[0]
    assert family.knots == ("weak", "strong", "also strong")
    assert family.letters[1] == family.letters[2] != family.letters[0]
    assert sum(family.chance_best) == pytest.approx(1, abs=1e-3)
    for g in report.groups:
        if g.rated is not None:
            assert g.rated.efficiency.pull_ids == g.data.sample.pull_ids


def test_a_knot_never_pulled_and_a_lot_without_knots_have_an_answer():
    empty = GroupData(
        cordage="P8", condition="dry", knot="new knot", sample=sample([]), counts=OutcomeCounts()
    )
    report = make_report([BASE, empty])
    assert report.groups[1].rated.efficiency.interval is None
    assert [c.kind for c in report.groups[1].caveats] == ["no pulls"]
    assert make_report([BASE]).families == ()
    assert make_report([]).groups == ()


def test_one_baseline_of_an_unlike_pair_is_pointed_out():
    report = make_report([BASE, knot("sheet bend", 4_000, 1, cordage_b="N6")])
    assert "one baseline of two" in [c.kind for c in report.groups[1].caveats]
    assert report.groups[1].reference == "P8"


def test_breaking_strength_is_kept_apart_and_untying_is_timed():
    s = sample([6_000, 6_500, 7_000, 7_200])
    breaking = sample([6_000, 6_500, 7_000, 7_200], [0, 1, 1, 1], [1, 0, 0, 0])
    data = GroupData(
        cordage="P8",
        condition="dry",
        knot="bowline",
        sample=s,
        counts=OutcomeCounts(broke=3, came_out=1),
        breaking=breaking,
        untie=sample([10, 30]),
    )
    found = make_report([BASE, data]).groups[1]
    assert found.breaking.mu > found.estimate.mu
    assert found.untie_s.value == pytest.approx(math.sqrt(300), rel=0.01)


def test_two_cells_add_their_uncertainty_and_the_record_says_so():
    one, two = (
        LoadCell(id="A", capacity_n=25_000, resolution_n=2.0, class_percent=1.0),
        LoadCell(id="B", capacity_n=25_000, resolution_n=2.0, class_percent=1.0),
    )
    base = GroupData(
        cordage="P8",
        condition="dry",
        knot=None,
        sample=BASE.sample,
        counts=BASE.counts,
        cells=(one,),
    )
    same = make_report([base, knot("k", 7_000, 2, cells=(one,))]).groups[1].rated.efficiency
    other = make_report([base, knot("k", 7_000, 2, cells=(two,))]).groups[1].rated.efficiency
    assert "cancels" in same.measurement
    assert "different load cells" in other.measurement
    assert other.interval.high > same.interval.high
    assert other.interval.value == same.interval.value
    unknown = make_report([BASE, knot("k", 7_000, 2)]).groups[1].rated.efficiency
    assert unknown.measurement == "load cells not recorded"


def test_drift_with_the_order_is_found_across_knots():
    drifting = []
    for n, name in enumerate(("a", "b")):
        data = knot(name, 7_000 - 1_000 * n, n)
        x = data.sample.ln_load - 0.04 * np.arange(6)
        s = sample(np.exp(x))
        context = tuple(PullContext(2 * k + n, None, "TV" if k % 2 else "OQ") for k in range(6))
        drifting.append(
            GroupData(
                cordage="P8",
                condition="dry",
                knot=name,
                sample=s,
                counts=OutcomeCounts(broke=6),
                context=context,
            )
        )
    family = make_report([BASE, *drifting]).families[0]
    assert family.drifts[0].warns
    assert family.drifts[0].change < -0.1
    assert not family.technicians.warns


def test_merged_groups_carry_their_caveat():
    wet, dry = (
        GroupKey(knot="k", cordage="P8", condition="wet"),
        GroupKey(knot="k", cordage="P8", condition="dry"),
    )
    parts = [sample([6_000, 6_100]), sample([7_000, 7_100])]
    together, caveats = pool(merge([wet, dry]), parts)
    assert len(together.ln_load) == len(together.pull_ids) == 4
    assert caveats[0].kind == "unequal conditions"
    assert pool(merge([wet]), parts[:1])[1] == ()
