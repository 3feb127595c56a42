"""The recipes of the catalogue: which structures have a drawing, and what each is proven to be."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files

from bruiser.core.topology.crossings import Diagram, lay_out
from bruiser.core.topology.fingerprint import Invariants, check, invariants
from bruiser.core.topology.recipe import read_recipe
from bruiser.core.topology.unknotting import Bight, in_the_bight


@dataclass(frozen=True)
class Drawn:
    """A structure's recipe laid out, and whether another recipe proves the same knot."""

    key: str
    layout: Diagram
    recipes: int


@lru_cache(maxsize=1)
def recipe_texts() -> dict[str, str]:
    """The files of every recipe, by structure; a second recipe has ``.2`` after its key."""
    folder = files("bruiser.catalogue").joinpath("paths")
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            found[entry.name.removesuffix(".toml")] = entry.read_text(encoding="utf-8")
    return found


@cache
def drawn(key: str) -> Drawn | None:
    """A structure's drawing; None where it has none."""
    text = recipe_texts().get(key)
    if text is None:
        return None
    others = sum(name.rpartition(".")[0] == key for name in recipe_texts())
    return Drawn(key, lay_out(read_recipe(key, tomllib.loads(text))), 1 + others)


def other_hand(choices: Mapping[str, str]) -> bool:
    """Whether a variant is tied with the other hand: the mirror image of what is drawn."""
    return choices.get("hand") == "mirrored"


def drawn_keys() -> tuple[str, ...]:
    """The structures that have a drawing."""
    return tuple(key for key in recipe_texts() if "." not in key)


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
    return invariants(layout_of(key))


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
