"""Which knot of the catalogue a tie is, by the fingerprint of how it lies on the bench."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from math import comb

from bruiser.catalogue.drawings import drawn, drawn_keys, layout_of, on_other_own
from bruiser.core.errors import InputError
from bruiser.core.topology.changes import differing, turned_over
from bruiser.core.topology.codes import Closed
from bruiser.core.topology.crossings import Diagram
from bruiser.core.topology.fingerprint import Invariants, closed_curves, invariants, mirrored
from bruiser.core.topology.polynomials import Polynomial, alexander, jones


@dataclass(frozen=True)
class Recognised:
    """What a tie is.

    Attributes
    ----------
    keys : tuple of str
        Structures with its fingerprint; the intended one first.
    mirrored : tuple of str
        Structures whose mirror image has it.
    loose : bool
        No curve of it is knotted or linked: it falls apart when pulled.
    """

    keys: tuple[str, ...]
    mirrored: tuple[str, ...]
    loose: bool


@cache
def recognise(key: str, turned: frozenset[int]) -> Recognised:
    """Look up the tie that is a structure's drawing with some crossings the other way.

    Structures are compared that have as many ropes, ends, hosts, cuts and joins: a loop is not
    taken for a bend.

    Raises
    ------
    KeyError
        If the structure has no drawing.
    """
    told = invariants(turned_over(layout_of(key), turned))
    alike = [key, *(k for k in drawn_keys() if k != key and _shape(k) == _shape(key))]
    keys = tuple(k for k in alike if _is(told, k, mirror=False))
    return Recognised(
        keys,
        tuple(k for k in alike if _is(told, k, mirror=True)),
        key not in keys and all(_is_loose(i) for i in told.values()),
    )


@cache
def makes(key: str, other: str) -> tuple[int, ...]:
    """Crossings of one structure that make another of it when they lie the other way.

    Those in which two drawings laid out alike differ; otherwise the first single one, if any does.
    """
    one, two = drawn(key), drawn(other)
    if one is None or two is None or _shape(key) != _shape(other):
        return ()
    found = differing(one.layout, two.layout)
    if found is not None:
        return found
    singles = (frozenset({n}) for n in range(len(one.layout.crossings)))
    return next((tuple(t) for t in singles if other in recognise(key, t).keys), ())


@cache
def _shape(key: str) -> tuple[object, ...]:
    recipe = layout_of(key).recipe
    return (
        tuple(tuple(sorted(rope.ends)) for rope in recipe.ropes),
        tuple(host.kind for host in recipe.hosts),
        tuple(sorted(recipe.cuts)),
        tuple(sorted(recipe.joins)),
    )


@cache
def _curves(key: str, behind: bool) -> dict[str, Closed]:
    curves = closed_curves(layout_of(key), behind=behind)
    return dict(sorted(curves.items(), key=lambda item: len(item[1].code)))


@cache
def _alexander(key: str, behind: bool, name: str) -> Polynomial:
    return alexander(_curves(key, behind)[name])


@cache
def _jones(key: str, behind: bool, name: str) -> Polynomial:
    return jones(_curves(key, behind)[name])


def _is(told: Mapping[str, Invariants], key: str, *, mirror: bool) -> bool:
    """Whether a tie, or its mirror image, has the fingerprint of a structure from either face.

    The powers of Jones of a link depend on the sense that its curves are run through in, which
    means nothing here: only its coefficients count.
    """
    for behind in (False, True):
        for name in _curves(key, behind):
            i = told[name]
            seen = mirrored(i.jones) if mirror else i.jones
            if i.alexander.coefficients != _alexander(key, behind, name).coefficients:
                break
            theirs = _jones(key, behind, name)
            one = i.closed.components == 1
            if seen.coefficients != theirs.coefficients or (one and seen.lowest != theirs.lowest):
                break
        else:
            return True
    return False


def _is_loose(i: Invariants) -> bool:
    """Whether the curves have the polynomials of circles apart from one another.

    n circles apart have V = (-t^(1/2) - t^(-1/2))^(n - 1).
    """
    n = i.closed.components
    apart = [0] * (2 * n - 1)
    for k in range(n):
        apart[2 * k] = (-1) ** (n - 1) * comb(n - 1, k)
    seen = [c for c in i.jones.coefficients if c]
    return seen == [c for c in apart if c] and (n == 1 or not i.alexander.coefficients)


def passes(layout: Diagram) -> list[list[tuple[int, bool]]]:
    """By rope the crossings that it meets from its start to its end, and whether it goes over."""
    return [
        [
            (n, over)
            for _, n, over in sorted(
                (mine.at, n, over)
                for n, c in enumerate(layout.crossings)
                for mine, over in ((c.over, True), (c.under, False))
                if mine.line == rope.key
            )
        ]
        for rope in layout.recipe.ropes
    ]


def word_of(layout: Diagram) -> str:
    """Over and under as each rope is followed; ropes apart by a space."""
    return " ".join("".join("o" if over else "u" for _, over in rope) for rope in passes(layout))


def turned_by_word(layout: Diagram, word: str) -> frozenset[int]:
    """The crossings that lie the other way in a tie that was followed by hand.

    Raises
    ------
    InputError
        If the word has another letter, is too short or long, or calls a crossing over or under
        twice.
    """
    letters = [c for c in word.lower() if not c.isspace() and c != ","]
    strange = sorted({c for c in letters if c not in "ou"})
    if strange:
        raise InputError(f"Only o for over and u for under; not “{strange[0]}”.", where="word")
    met = [step for rope in passes(layout) for step in rope]
    if len(letters) != len(met):
        raise InputError(
            f"The rope meets {len(met)} passes from end to end; {len(letters)} are written.",
            where="word",
        )
    said: dict[int, tuple[int, bool]] = {}
    turned = set()
    for at, (letter, (n, over)) in enumerate(zip(letters, met, strict=True), start=1):
        now = letter == "o"
        if n in said and said[n][1] == now:
            how = "over" if now else "under"
            raise InputError(
                f"Passes {said[n][0]} and {at} meet in crossing {n + 1}; both are called {how}.",
                where="word",
            )
        said[n] = (at, now)
        if now != over:
            turned.add(n)
    return frozenset(turned)


def _forget_all() -> None:
    for memory in (recognise, makes, _shape, _curves, _alexander, _jones):
        memory.cache_clear()


on_other_own(_forget_all)
