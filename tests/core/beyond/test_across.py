"""Knots across cordages: what is predicted, what is refused, and what takes predictions back."""

import math

import numpy as np
import pytest
from validation.across import World, campaign, count_campaigns

from bruiser.core.beyond.across import (
    CellKind,
    Doubt,
    MeasuredCell,
    UnusedCell,
    lay_across,
    moments,
    report_across,
)
from bruiser.core.beyond.rules import CrossedPrior
from bruiser.core.performance.evidence import GroupData
from bruiser.core.performance.report import make_report
from bruiser.core.statistics.censored import make_sample
from bruiser.core.statistics.posterior import KNOT_PRIOR, posterior
from bruiser.core.statistics.strength import Interval, OutcomeCounts

SHARES = {
    ("bowline", "R8"): 0.70, ("bowline", "R9"): 0.68, ("bowline", "T6"): 0.73,
    ("eight", "R8"): 0.78, ("eight", "R9"): 0.75, ("eight", "W5"): 0.77,
    ("sheet bend", "R8"): 0.52, ("sheet bend", "T6"): 0.55,
    ("overhand", "R9"): 0.58, ("overhand", "W5"): 0.60, ("overhand", "T6"): 0.61,
}  # fmt: skip


def cells(shares, error=0.04):
    return [
        MeasuredCell(
            cordage=cordage,
            knot=knot,
            ln_share=math.log(share),
            error=error,
            shared=0.015,
            efficiency=Interval(share, share - 0.05, share + 0.05),
            pull_ids=(f"{knot} {cordage}",),
        )
        for (knot, cordage), share in shares.items()
    ]


def doubts(across):
    return {note.doubt: note for note in across.notes}


def test_what_was_not_pulled_is_predicted_and_what_was_stays_as_measured():
    across = lay_across(cells(SHARES))
    measured = {(c.knot, c.cordage): c for c in across.cells if c.kind is CellKind.MEASURED}
    predicted = {(c.knot, c.cordage): c for c in across.cells if c.kind is CellKind.PREDICTED}
    assert set(measured) == set(SHARES)
    assert {at: c.share.value for at, c in measured.items()} == SHARES
    assert len(measured) + len(predicted) == 16
    assert across.refused == ()
    for at, cell in predicted.items():
        assert cell.pull_ids == ()
        inside = cell.share
        assert 0.3 < inside.low < inside.value < inside.high < 1.1, at
        # One more cordage is less certain than the typical, and no more than this one.
        typical, new = across.typical[at[0]], across.new_cordage[at[0]]
        width = [math.log(i.high / i.low) for i in (typical, inside, new)]
        assert width == sorted(width)
    assert set(across.typical) == set(across.new_cordage) == {k for k, _ in SHARES}
    assert across.cell("eight", "T6").share.value > across.cell("sheet bend", "W5").share.value
    assert (across.check.cells, across.check.withdrawn) == (11, False)
    assert Doubt.WEAK_SPARED in doubts(across)
    assert Doubt.FEW_CORDAGES not in doubts(across)


def test_nothing_measured_says_nothing():
    assert (
        lay_across([], [UnusedCell(cordage="R8", knot="bowline", doubt=Doubt.FLOORS_ONLY)]) is None
    )


def test_one_cordage_predicts_no_other():
    across = lay_across(cells({at: s for at, s in SHARES.items() if at[1] == "R8"}))
    assert doubts(across)[Doubt.ONE_CORDAGE].about == ("R8",)
    assert all(c.kind is CellKind.MEASURED for c in across.cells)
    assert across.spread is None
    assert set(across.new_cordage) == {"bowline", "eight", "sheet bend"}
    new = across.new_cordage["bowline"]
    assert new.high / new.low > 1.5, "mostly prior"
    assert across.check.cells == 0


def test_few_cordages_and_a_knot_in_one_are_said():
    two = {at: s for at, s in SHARES.items() if at[1] in ("R8", "T6")}
    said = doubts(lay_across(cells(two)))
    assert said[Doubt.FEW_CORDAGES].number == 2
    assert set(said[Doubt.KNOT_IN_ONE].about) == {"eight", "overhand"}
    assert said[Doubt.RESTS_ON_PRIOR].number > 1.2


def test_floors_and_missing_plain_rope_are_named_and_stay_refused():
    left = [
        UnusedCell(cordage="N4", knot="bowline", doubt=Doubt.NO_PLAIN_ROPE),
        UnusedCell(cordage="T6", knot="prusik", doubt=Doubt.FLOORS_ONLY),
        UnusedCell(cordage="T6", knot="eight", doubt=Doubt.FLOORS_ONLY),
    ]
    across = lay_across(cells(SHARES), left)
    said = doubts(across)
    assert said[Doubt.NO_PLAIN_ROPE].about == ("N4",)
    assert said[Doubt.FLOORS_ONLY].about == ("prusik in T6", "eight in T6")
    assert set(across.refused) == {("bowline", "N4"), ("prusik", "T6")}
    # Of a knot and a cordage that are measured elsewhere a range can be said.
    assert across.cell("eight", "T6").kind is CellKind.PREDICTED


def test_a_mistyped_figure_is_named_and_several_take_all_predictions_back():
    world = World(rows=0.12, columns=0.05, cells=0.03, lots=8)
    made, *_ = campaign(world, np.random.default_rng(2))
    assert not lay_across(made).check.withdrawn
    one = lay_across([_off(c, 1.5) if n == 9 else c for n, c in enumerate(made)])
    assert (made[9].knot, made[9].cordage) in one.check.outside
    apart, *_ = campaign(
        World(rows=0.12, columns=0.02, cells=0.15, lots=8), np.random.default_rng(2)
    )
    across = lay_across(apart, prior=CrossedPrior(spread=0.02))
    assert across.check.withdrawn
    assert doubts(across)[Doubt.TOO_FEW_INSIDE].number == across.check.inside < across.check.cells
    assert all(c.kind is CellKind.MEASURED for c in across.cells)
    assert (across.typical, across.new_cordage) == ({}, {})
    assert across.refused


def _off(cell, factor):
    return MeasuredCell(
        cordage=cell.cordage,
        knot=cell.knot,
        ln_share=cell.ln_share + math.log(factor),
        error=cell.error,
        shared=cell.shared,
        efficiency=cell.efficiency,
    )


def test_a_cordage_of_another_kind_is_named():
    shares = {at: s * (0.3 if at[1] == "W5" else 1.0) for at, s in SHARES.items()}
    across = lay_across(cells(shares))
    assert doubts(across)[Doubt.CORDAGE_OUTSIDE].about == ("W5",)
    assert across.check.withdrawn
    without = lay_across(cells({at: s for at, s in shares.items() if at[1] != "W5"}))
    assert not without.check.withdrawn


def test_another_prior_is_recorded_with_what_it_gave():
    wide = CrossedPrior(spread=0.3)
    across, usual = lay_across(cells(SHARES), prior=wide), lay_across(cells(SHARES))
    assert across.prior == wide
    assert "0.3" in across.prior.words()
    assert across.spread.high > usual.spread.high


def test_the_moments_of_a_tabulated_posterior():
    dice = np.random.default_rng(5)
    loads = dice.normal(8.0, 0.07, 12)
    sample = make_sample([(f"p{n}", float(np.exp(x)), 1, 0) for n, x in enumerate(loads)])
    mean, sd = moments(posterior([sample], KNOT_PRIOR).table().take([0]))
    assert mean == pytest.approx(loads.mean(), abs=1e-3)
    assert sd == pytest.approx(loads.std(ddof=1) / np.sqrt(12), rel=0.2)


def group(cordage, knot, loads, **more):
    rows = [(f"{cordage} {knot} {n}", load, 1, 0) for n, load in enumerate(loads)]
    return GroupData(
        cordage=cordage,
        condition="new",
        knot=knot,
        sample=make_sample(rows),
        counts=OutcomeCounts(broke=len(rows), came_out=0, outlasted=0, void=0),
        **more,
    )


def test_a_report_is_laid_across_by_condition():
    groups = [
        group("R8", None, [10000, 10300, 9900]),
        group("R8", "bowline", [6900, 7100, 7050]),
        group("R8", "eight", [7800, 7700, 7600]),
        group("R9", None, [14000, 14400, 14200]),
        group("R9", "bowline", [9700, 9900, 9800]),
        group("W5", "bowline", [4000, 4100, 4050]),
        group("R8", "mixed bend", [5000, 5100, 5200], cordage_b="R9"),
    ]
    (across,) = report_across(make_report(groups).groups).values()
    assert set(across.cordages) == {"R8", "R9"}
    assert across.knots == ("bowline", "eight")
    assert across.cell("eight", "R9").kind is CellKind.PREDICTED
    assert doubts(across)[Doubt.NO_PLAIN_ROPE].about == ("W5",)


def test_predictions_hold_the_truth_as_often_as_they_say():
    counted = count_campaigns(World(rows=0.12, columns=0.05, cells=0.03, lots=4), 24, seed=11)
    assert len(counted.inside["cell"]) > 300
    assert counted.coverage("cell") > 0.92
    assert counted.coverage("new") > 0.92
    assert counted.coverage("typical") > 0.90
    assert counted.withdrawn <= 2
