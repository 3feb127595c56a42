"""The polynomials against known knots, and against a library of the field."""

import knot_floer_homology
import pytest
from spherogram import Link

from bruiser.catalogue.drawings import drawn_keys, proven, recipe_texts
from bruiser.core.topology.codes import Closed
from bruiser.core.topology.fingerprint import mirrored
from bruiser.core.topology.polynomials import Polynomial, alexander, jones
from bruiser.core.topology.unknotting import Bight

TREFOIL = Closed(((1, 5, 2, 4), (3, 1, 4, 0), (5, 3, 0, 2)), (1, 1, 1), 1)


def as_written(code, signs):
    return Closed(tuple(code), tuple(signs), 1)


def torus(n):
    """The closed two-strand braid of n crossings, n odd, all of one hand."""
    arcs = 2 * n
    code = []
    for k in range(n):
        under, over = (2 * k) % arcs, (2 * k + n) % arcs
        code.append((under, (over + 1) % arcs, (under + 1) % arcs, over))
    return as_written(code, [1] * n)


def test_a_curve_without_crossings_is_no_knot():
    plain = Closed((), (), 1)
    assert alexander(plain).is_one
    assert jones(plain).is_one
    assert alexander(Closed((), (), 2)).coefficients == ()


@pytest.mark.parametrize("n", [3, 5, 7, 9])
def test_two_strand_torus_knots_have_their_textbook_polynomials(n):
    found = torus(n)
    assert alexander(found).coefficients == tuple((-1) ** k for k in range(n))
    # The textbook quotient, by long division of the coefficients of its numerator.
    top = {0: 1, 3: -1}
    for p, c in ((n + 1, -1), (n + 2, 1)):
        top[p] = top.get(p, 0) + c
    quotient, left = {}, [top.get(k, 0) for k in range(n + 3)]
    for k in range(n + 1):
        quotient[k] = left[k]
        left[k + 2] += left[k]
    powers = [k for k, c in quotient.items() if c]
    wanted = Polynomial(
        tuple(quotient[k] for k in range(min(powers), max(powers) + 1)), (n - 1) // 2 + min(powers)
    )
    assert jones(found) in (wanted, mirrored(wanted))


def test_a_polynomial_is_written_from_its_highest_power():
    assert str(Polynomial((1, -3, 1))) == "t^2-3t+1"
    assert str(Polynomial((-1, 0, 2), -1)) == "2t-t^-1"
    assert str(Polynomial(())) == "0"


SINGLE = [
    (key, name)
    for key in recipe_texts()
    for name, found in proven(key).items()
    if found.closed.components == 1 and found.closed.code
]


def judged(code):
    """Knot Floer homology of a knot by the library; its diagram without kinks."""
    link = Link([list(x) for x in code])
    link.simplify("basic")
    if not link.crossings:
        return {"ranks": {(0, 0): 1}, "seifert_genus": 0}
    return knot_floer_homology.pd_to_hfk([list(x) for x in link.PD_code()])


@pytest.mark.parametrize(("key", "name"), SINGLE)
def test_the_library_of_the_field_agrees(key, name):
    """Knot Floer homology: Euler characteristic is the Alexander polynomial, genus 0 no knot."""
    found = proven(key)[name]
    judge = judged(found.closed.code)
    powers = {}
    for (a, m), rank in judge["ranks"].items():
        powers[a] = powers.get(a, 0) + (-1) ** m * rank
    low, high = min(powers), max(powers)
    theirs = [powers.get(a, 0) for a in range(low, high + 1)]
    while theirs and theirs[0] == 0:
        theirs.pop(0)
    while theirs and theirs[-1] == 0:
        theirs.pop()
    if theirs and theirs[-1] < 0:
        theirs = [-c for c in theirs]
    assert found.alexander.coefficients == tuple(theirs)
    assert (judge["seifert_genus"] == 0) == (found.alexander.is_one and found.jones.is_one)


def test_what_is_no_knot_by_the_library_is_tied_in_the_bight():
    from bruiser.catalogue.drawings import computed_bight, drawn

    compared = 0
    for key in drawn_keys():
        ropes = drawn(key).layout.recipe.ropes
        code = proven(key)[ropes[0].key].closed.code
        if len(ropes) > 1 or not code:
            continue
        judge = judged(code)
        assert computed_bight(key) is (Bight.YES if judge["seifert_genus"] == 0 else Bight.NO), key
        compared += 1
    assert compared >= 12


@pytest.mark.parametrize("key", recipe_texts())
def test_both_polynomials_give_one_determinant_of_links_too(key):
    """At t = -1 Alexander and Jones are both the determinant up to a unit; Alexander reads alike
    from either end."""
    for name, found in proven(key).items():
        up = found.alexander.coefficients
        assert up in (up[::-1], tuple(-c for c in up[::-1])), name
        determinant = abs(sum(c * (-1) ** k for k, c in enumerate(up)))
        root = -1 if found.closed.components % 2 else 1j
        seen = sum(c * root**k for k, c in enumerate(found.jones.coefficients))
        assert round(abs(seen)) == determinant, name
