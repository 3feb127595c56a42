"""Conditions paired over cordages: Student's t on one difference a cordage."""

import math

import numpy as np
import pytest
from scipy.stats import ttest_1samp

from bruiser.core.beyond.paired import PairedCell, pair_conditions


def cell(cordage, difference, error=0.05, knot="bowline"):
    return PairedCell(cordage=cordage, knot=knot, difference=difference, error=error)


def test_one_difference_a_cordage_and_students_t_over_them():
    values = [-0.20, -0.12, -0.25, -0.18]
    found = pair_conditions("dry", "wet", [cell(f"c{n}", v) for n, v in enumerate(values)])
    wanted = ttest_1samp(values, 0.0).confidence_interval(0.95)
    assert math.log(found.ratio.value) == pytest.approx(np.mean(values))
    assert (math.log(found.ratio.low), math.log(found.ratio.high)) == pytest.approx(tuple(wanted))
    assert (len(found.cordages), found.knots) == (4, 4)


def test_knots_of_a_cordage_are_weighed_by_their_precision():
    cells = [cell("a", -0.1, 0.02), cell("a", -0.4, 0.2, "eight"), cell("b", -0.1)]
    found = pair_conditions("dry", "wet", cells)
    first = (-0.1 / 0.02**2 - 0.4 / 0.2**2) / (1 / 0.02**2 + 1 / 0.2**2)
    assert math.log(found.ratio.value) == pytest.approx((first - 0.1) / 2)


def test_from_one_cordage_nothing_is_said_of_others():
    assert pair_conditions("dry", "wet", [cell("a", -0.1)]).ratio is None
