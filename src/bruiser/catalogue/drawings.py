"""The recipes of the catalogue: which structures have a drawing, and what each is proven to be."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from hashlib import sha256
from importlib.resources import files

from bruiser.catalogue.toml_text import LONGEST, read_toml
from bruiser.core.errors import InputError
from bruiser.core.topology.crossings import Diagram, lay_out
from bruiser.core.topology.edits import slipped, stopped
from bruiser.core.topology.fingerprint import Invariants, check, closed_curves, invariants
from bruiser.core.topology.heights import pass_heights
from bruiser.core.topology.polynomials import Polynomial
from bruiser.core.topology.recipe import Recipe, read_recipe
from bruiser.core.topology.unknotting import Bight, in_the_bight


@dataclass(frozen=True)
class Drawn:
    """A structure's recipe laid out, and whether another recipe proves the same knot."""

    key: str
    layout: Diagram
    recipes: int


@lru_cache(maxsize=1)
def recipe_texts() -> dict[str, str]:
    """The files of every recipe, by structure.

    A second recipe has ``.2`` after its key, that of a variant ``@AXIS=OPTION``.
    """
    folder = files("bruiser.catalogue").joinpath("paths")
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            found[entry.name.removesuffix(".toml")] = entry.read_text(encoding="utf-8")
    return found


_own: dict[str, str] = {}
_forget: list[Callable[[], None]] = []


def on_other_own(clear: Callable[[], None]) -> None:
    """Have a memory of drawings cleared when a campaign's own recipes change."""
    _forget.append(clear)


def offer_own(texts: Mapping[str, str]) -> None:
    """Draw a campaign's own structures by these recipes, and those of no other campaign."""
    if dict(texts) == _own:
        return
    _own.clear()
    _own.update(texts)
    for clear in (drawn.cache_clear, _variant.cache_clear, proven.cache_clear, *_forget):
        clear()


def recipe_from_text(key: str, text: str) -> Recipe:
    """A recipe as it is typed: a whole one, or the path of a single rope alone.

    Raises
    ------
    InputError
        If it cannot be read.
    """
    if len(text) > LONGEST:
        raise InputError(f"{key}: this is longer than any recipe.", where=key)
    if "=" not in text:
        return read_recipe(key, {"ropes": [{"id": "A", "path": text}]})
    try:
        return read_recipe(key, read_toml(text, key))
    except InputError as error:
        if error.headline.startswith(f"{key} cannot be read"):
            raise InputError(f"{key}: this is no recipe. {error}", where=key) from error
        raise


def looked_over(key: str, text: str) -> tuple[Diagram, tuple[str, ...]]:
    """A recipe of one's own laid out and checked, and what about it is doubtful.

    Raises
    ------
    InputError
        If its path does not fit its crossings, or it is not the knot that it expects to be.
    """
    layout = lay_out(recipe_from_text(key, text))
    doubts = list(layout.doubts)
    if len(layout.crossings) <= _MOST_LOOKED_OVER:
        found = invariants(layout)
        check(layout, found)
        doubts += [
            f"rope {rope.key} ends inside: joined above it is another knot than below"
            for rope in layout.recipe.ropes
            if found[rope.key].jones != found[f"{rope.key} below"].jones
        ]
    return layout, tuple(doubts)


@cache
def drawn(key: str) -> Drawn | None:
    """A structure's drawing; None where it has none."""
    if key in _own:
        return Drawn(key, lay_out(recipe_from_text(key, _own[key])), 1)
    text = recipe_texts().get(key)
    if text is None:
        return None
    others = sum(name.rpartition(".")[0] == key for name in recipe_texts())
    layout = lay_out(read_recipe(key, tomllib.loads(text)))
    known = _solved_heights().get(digest_of(text))
    solved = None if known is None else tuple(known)
    return Drawn(key, replace(layout, known_heights=solved), 1 + others)


def digest_of(text: str) -> str:
    """What tells a recipe's content from another."""
    return sha256(text.encode("utf-8")).hexdigest()[:16]


@lru_cache(maxsize=1)
def _solved_heights() -> dict[str, list[float]]:
    """Heights by content, from ``./run heights``; others are solved when they are asked for."""
    kept = files("bruiser.catalogue").joinpath("heights.json")
    found: dict[str, list[float]] = json.loads(kept.read_text(encoding="utf-8"))
    return found


def solve_heights() -> str:
    """The heights of every recipe by its content, as JSON."""
    found = {}
    for name, text in sorted(recipe_texts().items()):
        layout = lay_out(read_recipe(name, tomllib.loads(text)))
        heights = [round(z, 3) for line in pass_heights(layout).values() for _, z in line]
        found[digest_of(text)] = heights
    return json.dumps(found, indent=0, separators=(",", ":")).replace(",\n", ",")


_KEEPS_PATH = ("hand", "made", "method", "tying")
"""Axes that leave the path: the other hand is its mirror image, the rest how it was made."""
_EDITS: Mapping[tuple[str, str], Callable[[Diagram, str], Diagram | None]] = {
    ("slip", "slipped"): slipped,
    ("backup", "stopper"): stopped,
    ("finish", "stopper"): stopped,
}
"""Options that are made from what is drawn by an edit of the last rope's tail."""


_MOST_LOOKED_OVER = 40
WRONG = "wrong"
"""The axis of drawn wrong ties: their number, from 1, among the structure's."""


@dataclass(frozen=True)
class Variant:
    """A variant's drawing, and the axes in which it is not what is drawn."""

    drawn: Drawn
    missing: tuple[str, ...]


def variant_drawn(key: str, choices: Mapping[str, str]) -> Variant | None:
    """The drawing of a variant, given by the choices that are not the plain ones.

    An option with a path of its own is drawn by it (one of them: paths are not mixed), a slipped
    tuck or a stopper by an edit of that; what neither can is named as missing. None where the
    structure has no drawing.
    """
    return _variant(key, tuple(sorted((a, o) for a, o in choices.items() if a not in _KEEPS_PATH)))


@cache
def _variant(key: str, picked: tuple[tuple[str, str], ...]) -> Variant | None:
    own = [(a, o) for a, o in picked if f"{key}@{a}={o}" in recipe_texts()][:1]
    found = drawn(f"{key}@{own[0][0]}={own[0][1]}" if own else key)
    if found is None:
        return None
    layout, missing = found.layout, []
    for choice in picked:
        if choice in own:
            continue
        edit = _EDITS.get(choice)
        edited = edit and edit(layout, layout.recipe.ropes[-1].key)
        if edited:
            layout = edited
        else:
            missing.append(choice[0])
    return Variant(Drawn(found.key, layout, found.recipes), tuple(missing))


def split_key(key: str) -> tuple[str, dict[str, str]]:
    """A structure and the choices of a path of its own: ``KEY`` or ``KEY@AXIS=OPTION``."""
    base, _, choice = key.partition("@")
    axis, equals, option = choice.partition("=")
    return base, ({axis: option} if equals else {})


def own_paths(key: str) -> tuple[str, ...]:
    """The variants and wrong ties of a structure that have a path of their own."""
    return tuple(name for name in recipe_texts() if name.startswith(f"{key}@"))


def bight_is_proven(key: str) -> bool:
    """Whether a structure's recipe asserts what the tests prove: that it can be tied in the bight,
    or that it cannot."""
    found = drawn(key)
    return found is not None and "bight" in found.layout.recipe.expect


def other_hand(choices: Mapping[str, str]) -> bool:
    """Whether a variant is tied with the other hand: the mirror image of what is drawn."""
    return choices.get("hand") == "mirrored"


def drawn_keys() -> tuple[str, ...]:
    """The structures that have a drawing."""
    return tuple(key for key in recipe_texts() if not set(".@") & set(key))


def layout_of(key: str) -> Diagram:
    """The diagram of a structure that has a drawing.

    Raises
    ------
    KeyError
        If it has none.
    """
    found = drawn(key)
    if found is None:
        raise KeyError(key)
    return found.layout


@cache
def proven(key: str) -> dict[str, Invariants]:
    """The invariants of a structure's curves, worked out once.

    Raises
    ------
    KeyError
        If the structure has no drawing.
    """
    layout = layout_of(key)
    text = recipe_texts().get(key)
    kept = None if text is None or key in _own else _kept_polynomials().get(digest_of(text))
    if kept is None:
        return invariants(layout)
    return {
        name: Invariants(curve, *_polynomials(kept[name]))
        for name, curve in closed_curves(layout).items()
    }


_Kept = tuple[list[int], int, list[int], int]
"""Coefficients and lowest power, of Alexander and of Jones."""


def _polynomials(kept: _Kept) -> tuple[Polynomial, Polynomial]:
    return Polynomial(tuple(kept[0]), kept[1]), Polynomial(tuple(kept[2]), kept[3])


@lru_cache(maxsize=1)
def _kept_polynomials() -> dict[str, dict[str, _Kept]]:
    """Polynomials by content, from ``./run heights``; a test works each of them out anew."""
    kept = files("bruiser.catalogue").joinpath("polynomials.json")
    found: dict[str, dict[str, _Kept]] = json.loads(kept.read_text(encoding="utf-8"))
    return found


def solve_polynomials() -> str:
    """The polynomials of every curve of every recipe by its content, as JSON."""
    found: dict[str, dict[str, _Kept]] = {}
    for name, text in sorted(recipe_texts().items()):
        told = invariants(lay_out(read_recipe(name, tomllib.loads(text))))
        found[digest_of(text)] = {
            curve: (
                list(made.alexander.coefficients),
                made.alexander.lowest,
                list(made.jones.coefficients),
                made.jones.lowest,
            )
            for curve, made in told.items()
        }
    return json.dumps(found, indent=0, separators=(",", ":")).replace(",\n", ",")


def validate(key: str) -> None:
    """Check that a recipe is the knot that it says.

    Raises
    ------
    InputError
        If an expectation does not hold.
    """
    found = drawn(key)
    if found is not None:
        check(found.layout, proven(key))


@cache
def computed_bight(key: str) -> Bight:
    """Whether the computation says that a structure's rope can be tied in the bight."""
    found = drawn(key)
    if found is None or len(found.layout.recipe.ropes) != 1:
        return Bight.UNKNOWN
    return in_the_bight(found.layout, found.layout.recipe.ropes[0].key)
