"""Variants: their words, their cord and tails, whatever is chosen on the axes."""

import itertools
import random

import pytest

from bruiser.catalogue import PLAIN, load_catalogue
from bruiser.catalogue.structure import SHARED_AXES
from bruiser.core.records.families import TRADES
from bruiser.rig.simulated.variants import tying

CATALOGUE = load_catalogue()


@pytest.fixture(params=CATALOGUE.values(), ids=CATALOGUE)
def structure(request):
    return request.param


def some_variants(structure, count=40):
    """All variants of a structure, or a seeded handful of them."""
    axes = [[(a.key, o.key) for o in a.options] for a in structure.axes]
    every = [dict(v) for v in itertools.islice(itertools.product(*axes), 5000)]
    return every if len(every) <= count else random.Random(1).sample(every, count)


def test_the_plain_form_is_the_first_option_of_every_axis(structure):
    assert structure.variant_words(structure.plain) == PLAIN
    assert structure.differing(structure.plain) == {}
    assert structure.differing({}) == {}
    rule = structure.cord_rule({})
    assert rule == structure.cord_rule(structure.plain)
    assert rule.cord_d == structure.cord_use_d + sum(a.options[0].cord_d for a in structure.axes)


def test_a_variant_says_what_differs_and_nothing_else(structure):
    for choices in some_variants(structure):
        differing = structure.differing(choices)
        words = structure.variant_words(choices)
        if not differing:
            assert words == PLAIN
            continue
        names = {o.name for o in structure.chosen(differing)}
        assert set(words.split(", ")) <= {part for n in names for part in n.split(", ")}
        assert structure.variant_words(differing) == words
        assert structure.cord_rule(differing) == structure.cord_rule(choices)


def test_two_variants_never_have_the_same_words(structure):
    said = {}
    for choices in some_variants(structure, 400):
        words = structure.variant_words(choices)
        differing = tuple(sorted(structure.differing(choices).items()))
        assert said.setdefault(words, differing) == differing


def test_cord_adds_up_option_by_option(structure):
    for choices in some_variants(structure):
        options = structure.chosen(choices)
        rule = structure.cord_rule(choices)
        assert rule.cord_d == pytest.approx(structure.cord_use_d + sum(o.cord_d for o in options))
        assert rule.tail_usual_d >= rule.tail_floor_d >= 0


def test_a_name_of_a_trade_is_its_own_or_the_first(structure):
    assert structure.name_in("general") == structure.name
    for trade in TRADES[1:]:
        own = [n.name for n in structure.names if n.trade == trade]
        assert structure.name_in(trade) == (own[0] if own else structure.name)
    assert structure.name_in("no such trade") == structure.name


@pytest.mark.parametrize("axis", SHARED_AXES.values(), ids=SHARED_AXES)
def test_a_shared_axis_begins_plain_and_costs_nothing_there(axis):
    first = axis.options[0]
    assert (first.cord_d, first.tail_d, first.tail_floor_d) == (0, 0, 0)
    assert axis.option(axis.options[-1].key) is axis.options[-1]
    with pytest.raises(ValueError, match="no option"):
        axis.option("other")


def test_a_backup_needs_more_cord_and_a_longer_tail():
    backup = SHARED_AXES["backup"]
    for option in backup.options[1:]:
        assert option.cord_d > 0
        assert option.tail_floor_d > 0


@pytest.mark.parametrize(
    "key", ["figure-eight-loop", "sheet-bend", "cow-hitch", "taut-line-hitch", "zeppelin-bend"]
)
def test_a_knot_with_a_tail_can_be_backed_up_as_a_variant(key):
    s = load_catalogue()[key]
    plain = s.cord_rule({})
    for option in ("stopper", "half-hitch", "overhand", "double-overhand"):
        backed = s.cord_rule({"backup": option})
        assert backed.cord_d > plain.cord_d
        assert backed.tail_floor_d > plain.tail_floor_d
        assert "on the" in s.variant_words({"backup": option})
        assert tying(key, {"backup": option}).backup_share > 0
