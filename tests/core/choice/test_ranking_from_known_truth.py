"""Chances of being first are worth what they say: campaigns from known truth, fixed seeds."""

import pytest
from validation.ranking import ranking_cell


def check(tally, allowed):
    assert tally.coverage > 0.95 - allowed
    assert tally.range_coverage > 0.90 - allowed
    assert tally.wrongly_apart < 0.05
    for _, said, was, n in tally.calibration():
        error = 3 * (said * (1 - said) / n) ** 0.5
        assert abs(said - was) < 0.02 + error, (said, was, n)


@pytest.mark.long
def test_a_few_campaigns_are_called_right():
    check(ranking_cell(3, 5, 60, seed=5), 0.06)


@pytest.mark.slow
@pytest.mark.parametrize(("knots", "pulls"), [(2, 4), (4, 4), (4, 8)])
def test_many_campaigns_are_called_right(knots, pulls):
    check(ranking_cell(knots, pulls, 400), 0.03)
