"""A direction is the set of loaded legs: standing part, other end, an eye, both eyes.

What is planned, stored and grouped by is the name that follows from the set, so that two wordings
of one direction are one direction. Words that were typed by hand are read for the legs they name.
"""

from __future__ import annotations

from collections.abc import Iterable

STANDING, OTHER, EYE, SECOND_EYE = "standing part", "other end", "eye", "second eye"
BACKWARDS = "the other way"
"""Not a leg: the standing part is led away against the way a hitch is meant to grip."""
LEGS = (STANDING, OTHER, EYE, SECOND_EYE, BACKWARDS)
Legs = frozenset[str]
RING: Legs = frozenset({EYE})
"""An eye spread from inside."""

_NAMES: dict[Legs, str] = {
    frozenset({STANDING, OTHER}): "end to end",
    frozenset({STANDING, EYE}): "eye against one end",
    frozenset({OTHER, EYE}): "eye against the other end",
    frozenset({STANDING, OTHER, EYE}): "eye against both ends",
    frozenset({STANDING, EYE, SECOND_EYE}): "both eyes against the standing part",
    frozenset({STANDING, SECOND_EYE}): "second eye against the standing part",
    frozenset({EYE, SECOND_EYE}): "the eyes pulled apart",
    RING: "the eye spread as a ring",
    frozenset({STANDING}): "standing part against what it is tied to",
    frozenset({OTHER}): "the other end alone",
    frozenset({STANDING, BACKWARDS}): "standing part the other way along the host",
    frozenset(): "round a bundle, ends free",
}
_LEGS = {name: legs for legs, name in _NAMES.items()}

ONE_LOOP = (frozenset({STANDING, EYE}), RING)
LAID: dict[str, tuple[Legs, ...]] = {
    "loop_pair": ONE_LOOP,
    "loop_single": ONE_LOOP,
    "adjustable": ONE_LOOP,
    "bend": (frozenset({STANDING, OTHER}),),
    "midline": (
        frozenset({STANDING, OTHER}),
        frozenset({STANDING, EYE}),
        frozenset({OTHER, EYE}),
        frozenset({STANDING, OTHER, EYE}),
        RING,
    ),
    "double_loop": (
        frozenset({STANDING, EYE, SECOND_EYE}),
        frozenset({STANDING, EYE}),
        frozenset({STANDING, SECOND_EYE}),
        frozenset({EYE, SECOND_EYE}),
    ),
    "friction": (frozenset({STANDING}), frozenset({STANDING, BACKWARDS})),
    "binding": (frozenset({STANDING, OTHER}), frozenset()),
}
"""The sets of legs that can be loaded on the bench, by layout; elsewhere the standing part."""


def say_legs(legs: Legs) -> str:
    """The name that follows from some legs."""
    return _NAMES.get(legs, " and ".join(x for x in LEGS if x in legs))


def legs_of(words: str) -> Legs:
    """Which legs a direction loads: its name read backwards, else what typed words say."""
    said = words.lower()
    if said in _LEGS:
        return _LEGS[said]
    if "both eyes" in said and "host" not in said:
        return frozenset({STANDING, EYE, SECOND_EYE})
    if ("both ends" in said and "bundle" not in said) or "eye loaded" in said:
        return frozenset({STANDING, OTHER, EYE})
    if "end to end" in said or "both parts" in said or "bundle, both ends" in said:
        return frozenset({STANDING, OTHER})
    if "ring load" in said or "spread" in said or "sideways" in said:
        return frozenset({EYE})
    if "wrong way" in said or BACKWARDS in said:
        return frozenset({STANDING, BACKWARDS})
    if "eye" in said or "loop" in said:
        return frozenset({STANDING, EYE})
    return frozenset({STANDING})


def named(words: str) -> str:
    """The name of a direction from whatever words; the usual way, which has none, stays empty."""
    return say_legs(legs_of(words)) if words else ""


def loads_legs(directions: Iterable[str], wanted: str) -> bool:
    """Whether one of some directions loads the legs that another names."""
    legs = legs_of(wanted)
    return any(legs_of(direction) == legs for direction in directions)
