"""The rule for the next pull on campaigns of known truth: `./run validate next`, reduced."""

import numpy as np
import pytest
from validation.next_pulls import WIDE, saving, whole_rule


@pytest.mark.long
def test_pulls_are_saved_beside_the_same_number_of_each():
    assert min(saving(8, WIDE, 60)) > 0.08


@pytest.mark.long
def test_the_whole_rule_stops_and_its_intervals_hold():
    found = whole_rule(6, WIDE, 40)
    assert len(found.pulls) == 40
    assert max(found.pulls) <= 8 * 6
    assert np.median(found.pulls) < 40
    assert np.mean(found.all_hold) > 0.91
    assert np.mean(found.after) > 0.87
    assert np.mean(found.lost) < 1.0
