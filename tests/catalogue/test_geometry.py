"""A second count of what follows from geometry, worked out without looking at the entries."""

import itertools
import math
from dataclasses import replace

import pytest

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.geometry import contradictions
from bruiser.catalogue.structure import Answer, Loading
from bruiser.core.records.legs import EYE, STANDING

CATALOGUE = load_catalogue()
Y, N, V, NO_RING = Answer.YES, Answer.NO, Answer.VARIES, Answer.DOES_NOT_APPLY

# Counted on rope: free rope ends that stick out, strands that can be loaded, whether it is tied in
# a bight without an end, whether it goes round a closed ring, and how often round its host (0:
# there is none). A closed ring is reached with an end or not at all; a bend has nothing to do with
# one unless it closes a line round it.
COUNTED = {
    "alpine-butterfly": (0, 4, Y, N, 0),
    "anchor-bend": (1, 1, N, Y, 2),
    "artillery-loop": (0, 4, Y, N, 0),
    "ashley-bend": (2, 2, N, NO_RING, 0),
    "ashley-stopper": (1, 1, N, NO_RING, 0),
    "autoblock": (0, 2, Y, N, 3),
    "bachmann": (0, 2, Y, N, 4),
    "barrel-noose": (1, 2, Y, Y, 1),
    "blood-dropper-loop": (0, 4, Y, N, 0),
    "blood-knot": (2, 2, N, NO_RING, 0),
    "boa": (2, 2, Y, Y, 3),
    "bowline": (1, 2, N, Y, 0),
    "bowline-on-the-bight": (1, 4, Y, N, 0),
    "buckle-toggle": (1, 4, N, Y, 1),
    "buntline-hitch": (1, 1, N, Y, 1),
    "butterfly-bend": (2, 2, N, NO_RING, 0),
    "canadian-jam-knot": (1, 2, N, Y, 0),
    "carrick-bend": (2, 2, N, NO_RING, 0),
    "clove-binding": (2, 2, Y, Y, 2),
    "clove-hitch": (1, 2, Y, Y, 2),
    "constrictor": (2, 2, Y, Y, 2),
    "cow-hitch": (1, 2, Y, Y, 2),
    "double-dragon-loop": (1, 2, Y, Y, 0),
    "double-dragon-midline": (0, 4, Y, N, 0),
    "double-figure-eight-loop": (1, 4, Y, N, 0),
    "double-fishermans": (2, 2, N, Y, 0),
    "double-overhand-loop": (1, 2, Y, Y, 0),
    "double-overhand-sliding-loop": (1, 2, Y, Y, 0),
    "double-overhand-stopper": (1, 1, N, NO_RING, 0),
    "double-sheet-bend": (2, 2, N, Y, 0),
    "englishmans-loop": (1, 2, Y, Y, 0),
    "farrimond": (1, 2, Y, Y, 0),
    "figure-eight-bend": (2, 2, N, NO_RING, 0),
    "figure-eight-loop": (1, 2, Y, Y, 0),
    "figure-eight-midline": (0, 4, Y, N, 0),
    "figure-eight-stopper": (1, 1, N, NO_RING, 0),
    "fishermans": (2, 2, N, Y, 0),
    "flat-figure-eight": (2, 2, V, NO_RING, 0),
    "flat-overhand": (2, 2, V, NO_RING, 0),
    "four-strand-master-loop": (0, 8, Y, N, 0),
    "granny": (2, 2, N, Y, 0),
    "halter-hitch": (1, 1, Y, Y, 1),
    "highwaymans": (1, 1, Y, Y, 0.5),
    "honda-loop": (1, 2, N, Y, 0),
    "hunters-bend": (2, 2, N, NO_RING, 0),
    "klemheist": (0, 2, Y, N, 4),
    "midshipmans-hitch": (1, 2, N, Y, 0),
    "munter-lockoff": (1, 2, Y, N, 1),
    "neck-halter": (1, 2, N, Y, 0),
    "overhand-loop": (1, 2, Y, Y, 0),
    "overhand-midline": (0, 4, Y, N, 0),
    "overhand-stopper": (1, 1, N, NO_RING, 0),
    "perfection-loop": (1, 2, Y, Y, 0),
    "prusik": (0, 2, Y, N, 4),
    "reef": (2, 2, N, Y, 0),
    "ring-bend": (2, 2, N, Y, 0),
    "rolling-hitch": (1, 1, Y, Y, 3),
    "rolling-hitch-on-rope": (1, 1, N, Y, 2),
    "round-turn-two-half-hitches": (1, 1, N, Y, 1.5),
    "sheet-bend": (2, 2, N, Y, 0),
    "slip-knot": (1, 2, Y, Y, 0),
    "slipped-half-hitch": (1, 1, Y, Y, 1),
    "slipped-lowering-loop": (1, 2, Y, Y, 1),
    "stevedore": (1, 1, N, NO_RING, 0),
    "strangle": (2, 2, N, Y, 2),
    "surgeons-bend": (2, 2, N, Y, 0),
    "surgeons-binding": (2, 2, N, Y, 1),
    "surgeons-join": (2, 2, N, NO_RING, 0),
    "taut-line-hitch": (1, 2, N, Y, 0),
    "tensionless-wrap": (1, 1, N, Y, 3),
    "thief": (2, 2, N, Y, 0),
    "timber-hitch": (1, 1, Y, Y, 1),
    "triple-fishermans": (2, 2, N, Y, 0),
    "truckers-hitch": (1, 2, Y, Y, 0),
    "twin-bowline-bend": (2, 2, N, Y, 0),
    "twin-eye-adjusted": (1, 4, Y, N, 0),
    "zeppelin-bend": (2, 2, N, NO_RING, 0),
}


def test_every_structure_was_counted():
    assert set(COUNTED) == set(CATALOGUE)


@pytest.mark.parametrize("key", CATALOGUE)
def test_an_entry_agrees_with_the_second_count(key):
    s = CATALOGUE[key]
    turns = s.host_turns(s.plain)
    assert (s.ends, s.legs, s.in_the_bight, s.closed_ring, turns) == COUNTED[key]
    assert s.needs_end is (Y if s.in_the_bight is N else N)


@pytest.mark.parametrize("key", CATALOGUE)
def test_no_variant_asks_for_less_cord_than_its_turns_take(key):
    s = CATALOGUE[key]
    turns = COUNTED[key][4]
    if turns:
        # The middle of the cord runs at (D + d) / 2 from the axis: pi (D + d) a turn.
        one_turn = math.pi * (s.host.d_over_d + 1)
        assert s.bare_cord_d(s.plain) == pytest.approx(turns * one_turn)
    for picked in itertools.product(*([(a.key, o.key) for o in a.options] for a in s.axes)):
        choices = dict(picked)
        assert s.cord_rule(choices).cord_d >= s.bare_cord_d(choices), choices
    assert contradictions(s) == {}


@pytest.mark.parametrize(
    ("key", "changes", "field", "number"),
    [
        ("tensionless-wrap", {"cord_use_d": 20.0}, "cord_use_d", "85"),
        ("clove-hitch", {"cord_use_d": 22.0}, "cord_use_d", "31"),
        ("sheet-bend", {"ends": 1}, "ends", "2"),
        ("alpine-butterfly", {"legs": 2}, "legs", "4"),
        ("alpine-butterfly", {"tail_usual_d": 12.0}, "tail_usual_d", "12"),
        ("alpine-butterfly", {"closed_ring": Y}, "closed_ring", "0"),
        ("alpine-butterfly", {"needs_end": Y}, "needs_end", "0"),
        ("clove-hitch", {"host": None}, "layout", "0"),
        (
            "sheet-bend",
            {"loadings": (Loading("eye on a pin", frozenset({STANDING, EYE})),)},
            "directions",
            "none",
        ),
    ],
)
def test_an_entry_that_contradicts_its_geometry_is_named_with_its_number(
    key, changes, field, number
):
    found = contradictions(replace(CATALOGUE[key], **changes))
    assert number in found[field]
