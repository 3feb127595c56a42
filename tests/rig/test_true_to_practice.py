"""What practice insists on holds on the medians of the simulated bench."""

import pytest
from validation.practice import STATEMENTS, Ordering
from validation.practice_report import lines


def made(statement, seeds):
    found = statement(seeds)
    return found if isinstance(found, list) else [found]


@pytest.mark.parametrize("statement", STATEMENTS)
def test_an_ordering_of_practice_holds(statement):
    wrong = [(o.name, o.medians) for o in made(statement, 30) if not o.holds]
    assert wrong == []


@pytest.mark.slow
@pytest.mark.parametrize("statement", STATEMENTS)
def test_an_ordering_of_practice_holds_over_two_hundred_seeds(statement):
    found = made(statement, 200)
    assert [(o.name, o.medians) for o in found if not o.holds] == []
    assert min(o.share for o in found) > 0.5


def test_a_statement_that_does_not_hold_says_so():
    false = Ordering("up is down", (("up", 1.0), ("down", 2.0)), False, 0.0, 5, "")
    assert "**no**" in lines([false])[-1]
    assert "0 % of 5" in lines([false])[-1]
