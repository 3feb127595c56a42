"""A direction is the set of loaded legs: standing part, other end, an eye, both eyes."""

from __future__ import annotations

from collections.abc import Iterable

STANDING, OTHER, EYE, SECOND_EYE = "1", "2", "eye", "second eye"
_NAMES = {
    frozenset({STANDING, OTHER}): "end to end",
    frozenset({STANDING, EYE}): "eye against one end",
    frozenset({STANDING, OTHER, EYE}): "eye against both ends",
    frozenset({STANDING, EYE, SECOND_EYE}): "both eyes against the standing part",
    frozenset({EYE}): "the eye spread as a ring",
    frozenset({STANDING}): "standing part against what it is tied to",
}


def legs_of(words: str) -> frozenset[str]:
    """Which legs a direction loads, from its words."""
    said = words.lower()
    if "both eyes" in said and "host" not in said:
        return frozenset({STANDING, EYE, SECOND_EYE})
    if ("both ends" in said and "bundle" not in said) or "eye loaded" in said:
        return frozenset({STANDING, OTHER, EYE})
    if "end to end" in said or "both parts" in said or "bundle, both ends" in said:
        return frozenset({STANDING, OTHER})
    if "ring load" in said or "spread" in said or "sideways" in said:
        return frozenset({EYE})
    if "eye" in said or "loop" in said:
        return frozenset({STANDING, EYE})
    return frozenset({STANDING})


def say_legs(legs: frozenset[str]) -> str:
    """The name that follows from some legs."""
    return _NAMES.get(legs, " and ".join(sorted(legs)))


def loads_legs(directions: Iterable[str], wanted: str) -> bool:
    """Whether one of some directions loads the legs that another names."""
    legs = legs_of(wanted)
    return any(legs_of(direction) == legs for direction in directions)
