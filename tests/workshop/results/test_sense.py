"""No claim above what was tried: everything said of the demo and of odd campaigns, read again."""

import pytest

from tests.sense import everything_said, misworded, nonsense, odd_campaign, pulls_said, tops


def complaints(logbook):
    found = []
    known = {lot.id: tops(logbook, lot.id) for lot in logbook.lots}
    for lot, where, text, counts in everything_said(logbook):
        wrong = nonsense(text, *known[lot.id], counts=counts)
        found += [f"{where}: {w}: {text}" for w in wrong]
    for entry, words in pulls_said(logbook):
        if misworded(entry, words):
            found.append(f"{entry.specimen.code}: a break worded as a slide: {words}")
    return list(dict.fromkeys(found))


def test_everything_said_of_the_demo_makes_sense(logbook):
    assert complaints(logbook) == []


@pytest.mark.parametrize("tens", range(4))
def test_everything_said_of_an_odd_campaign_makes_sense(tens):
    for seed in range(10 * tens, 10 * tens + 10):
        assert complaints(odd_campaign(seed)) == [], seed


@pytest.mark.slow
@pytest.mark.parametrize("fifties", range(10))
def test_everything_said_of_five_hundred_odd_campaigns_makes_sense(fifties):
    for seed in range(1000 + 50 * fifties, 1050 + 50 * fifties):
        assert complaints(odd_campaign(seed)) == [], seed


@pytest.mark.parametrize(
    ("text", "counts"),
    [
        ("It held 9.00 kN", True),
        ("Bowline keeps between 58 and 144 % of the plain rope", True),
        ("open up to 97 %", False),
        ("It never slid.", True),
        ("typically nan kN", False),
    ],
)
def test_the_checker_finds_what_is_wrong(text, counts):
    assert nonsense(text, 6_000.0, 0.6, counts=counts)


@pytest.mark.parametrize(
    "text",
    [
        "It held 5.90 kN",
        "Bowline keeps 58 % and more of the plain rope",
        "open up to 60 %",
        "It never slid in 4 pulls.",
        "Strengths fall: -12 % from first to last (-130 to +40 %)",
    ],
)
def test_the_checker_lets_sense_pass(text):
    assert nonsense(text, 6_000.0, 0.6, counts=True) == []
