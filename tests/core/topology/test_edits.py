"""Variants of a drawing: a slipped tuck, a stopper on the tail, and paths of their own."""

from __future__ import annotations

import numpy as np
import pytest

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import (
    WRONG,
    drawn,
    drawn_keys,
    proven,
    recipe_texts,
    validate,
    variant_drawn,
)
from bruiser.core.topology.codes import ABOVE, closed, halves, whole
from bruiser.core.topology.edits import slipped, stopped
from bruiser.core.topology.heights import THICK, height_at, pass_heights
from bruiser.core.topology.polynomials import alexander, jones

CATALOGUE = load_catalogue()
SLIPPED = [
    key
    for key in drawn_keys()
    if any(a.key == "slip" for a in CATALOGUE[key].axes)
    and not variant_drawn(key, {"slip": "slipped"}).missing
]


def closing(layout, key):
    curve = closed(layout, [whole(layout, key)], ABOVE)
    return alexander(curve), jones(curve)


def test_most_structures_that_are_slipped_are_drawn_so():
    asked = [k for k in drawn_keys() if any(a.key == "slip" for a in CATALOGUE[k].axes)]
    assert len(SLIPPED) >= 0.8 * len(asked)


@pytest.mark.parametrize("key", SLIPPED)
def test_a_slipped_tuck_cut_at_its_draw_loop_is_the_knot_it_was_made_from(key):
    plain, made = drawn(key).layout, variant_drawn(key, {"slip": "slipped"}).drawn.layout
    rope = plain.recipe.ropes[-1].key
    before = len(plain.curves[rope].points)
    # The way back turns round after the tail's end and a little more.
    x, y = made.curves[rope].points[before + 11]
    first, _ = halves(made, rope, (x, y))
    cut = closed(made, [first], ABOVE)
    assert len(made.crossings) > len(plain.crossings)
    if closing(plain, rope) == closing_below(plain, rope):
        assert (alexander(cut), jones(cut)) == closing(plain, rope)
    found = pass_heights(made)
    for c in made.crossings:
        assert height_at(found, c.over) - height_at(found, c.under) >= THICK - 1e-6


def closing_below(layout, key):
    curve = closed(layout, [whole(layout, key)], "below")
    return alexander(curve), jones(curve)


def test_a_draw_loop_lets_a_slipped_figure_eight_go():
    made = slipped(drawn("figure-eight-stopper").layout, "A")
    assert closing(made, "A")[0].is_one


def test_a_stopper_adds_a_trefoil():
    plain = drawn("figure-eight-stopper").layout
    made = stopped(plain, "A")
    assert len(made.crossings) == len(plain.crossings) + 3
    one = alexander(closed(plain, [whole(plain, "A")], ABOVE))
    two = alexander(closed(made, [whole(made, "A")], ABOVE))
    trefoil = closing(drawn("overhand-stopper").layout, "A")[0]
    assert two.coefficients == tuple(np.convolve(one.coefficients, trefoil.coefficients))


@pytest.mark.parametrize("name", [n for n in recipe_texts() if "@" in n and WRONG not in n])
def test_a_path_of_a_variant_belongs_to_an_option_and_is_what_it_says(name):
    key, choice = name.split("@")
    axis, option = choice.split("=")
    structure = CATALOGUE[key]
    assert option in [o.key for a in structure.axes if a.key == axis for o in a.options[1:]]
    validate(name)
    found = variant_drawn(key, {axis: option})
    assert found.missing == ()
    assert found.drawn.key == name


@pytest.mark.parametrize("name", [n for n in recipe_texts() if f"@{WRONG}=" in n])
def test_a_wrong_tie_is_wrong(name):
    validate(name)
    right = proven(name.split("@")[0])
    assert proven(name)["splice"].alexander != right["splice"].alexander


def test_what_cannot_be_shown_is_named():
    found = variant_drawn("bowline", {"turns": "round-turn", "backup": "overhand"})
    assert found.missing == ("backup",)
    assert variant_drawn("bowline", {"hand": "mirrored"}).missing == ()
    assert variant_drawn("boa", {}) is None
