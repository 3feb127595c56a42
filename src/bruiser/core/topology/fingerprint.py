"""Which knot a recipe is: its curves, closed, and what is asserted of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from bruiser.core.errors import InputError
from bruiser.core.topology.codes import ABOVE, BELOW, Closed, closed, halves, joined, whole
from bruiser.core.topology.crossings import Diagram
from bruiser.core.topology.polynomials import Polynomial, alexander, jones
from bruiser.core.topology.unknotting import in_the_bight

BIGHT, MIRROR, OPPOSITE = "bight", "mirror", "opposite"
PARTS, RINGS, ON_HOST = "parts", "rings", "on its host"


@dataclass(frozen=True)
class Invariants:
    """A closed curve, or several, with its planar code and polynomials."""

    closed: Closed
    alexander: Polynomial
    jones: Polynomial

    @property
    def own_mirror(self) -> bool:
        """Whether Jones cannot tell it from its mirror image."""
        return self.jones == mirrored(self.jones)


def mirrored(p: Polynomial) -> Polynomial:
    """The Jones polynomial of the mirror image: t turned into 1/t."""
    high = p.lowest + len(p.coefficients) - 1
    return Polynomial(tuple(reversed(p.coefficients)), -high)


def closed_curves(layout: Diagram, *, behind: bool = False) -> dict[str, Closed]:
    """Every curve that is looked at, by name.

    A rope's key is the rope alone with its ends joined above, with `` below`` joined below; with
    `` 1`` and `` 2`` its parts before and after the cut, and with `` parts`` both as a link, once
    more with the hosts (`` parts on its host``); a join goes by its own name; ``rings`` is every
    rope closed by itself, ``on its host`` with the hosts.
    `behind` closes as someone does who looks at the back: above for below.
    """
    near, far = (BELOW, ABOVE) if behind else (ABOVE, BELOW)
    found: dict[str, Closed] = {}
    for rope in layout.recipe.ropes:
        found[rope.key] = closed(layout, [whole(layout, rope.key)], near)
        found[f"{rope.key} below"] = closed(layout, [whole(layout, rope.key)], far)
    for key, at in layout.recipe.cuts.items():
        parts = halves(layout, key, at)
        for n, half in enumerate(parts, start=1):
            found[f"{key} {n}"] = closed(layout, [half], near)
        found[f"{key} {PARTS}"] = closed(layout, parts, near)
        if layout.recipe.hosts:
            hosts = [whole(layout, host.key) for host in layout.recipe.hosts]
            found[f"{key} {PARTS} {ON_HOST}"] = closed(layout, [*parts, *hosts], near)
    for name, loops in layout.recipe.joins.items():
        found[name] = closed(layout, [joined(layout, steps) for steps in loops], near)
    keys = [rope.key for rope in layout.recipe.ropes]
    if len(keys) > 1:
        found[RINGS] = closed(layout, [whole(layout, key) for key in keys], near)
    if layout.recipe.hosts:
        every = [*keys, *(host.key for host in layout.recipe.hosts)]
        found[ON_HOST] = closed(layout, [whole(layout, key) for key in every], near)
    return found


def invariants(layout: Diagram) -> dict[str, Invariants]:
    """The invariants of every curve of a knot."""
    return {
        name: Invariants(curve, alexander(curve), jones(curve))
        for name, curve in closed_curves(layout).items()
    }


def check(layout: Diagram, found: Mapping[str, Invariants]) -> None:
    """Check what a recipe expects of itself.

    ``bight`` expects ``yes`` or ``no`` of every rope; ``mirror`` lists curves that equal their
    mirror image; ``opposite`` lists pairs of curves of opposite hand; anything else is a curve
    with its Alexander polynomial.

    Raises
    ------
    InputError
        If something does not hold; it says what was expected and what came out.
    """
    key = layout.recipe.key

    def refuse(what: str, said: object, is_: object) -> InputError:
        return InputError(f"{key}: {what} is expected to be {said}, and it is {is_}.", where=key)

    for name, said in layout.recipe.expect.items():
        if name == BIGHT:
            for rope in layout.recipe.ropes:
                got = in_the_bight(layout, rope.key)
                if got.value != said:
                    raise refuse(f"tying rope {rope.key} in the bight", said, got)
        elif name == MIRROR:
            for curve in said:
                if not found[curve].own_mirror:
                    raise refuse(f"{curve}", "its own mirror image", f"J {found[curve].jones}")
        elif name == OPPOSITE:
            for one, two in said:
                if found[one].jones != mirrored(found[two].jones):
                    raise refuse(f"{one}", f"of the other hand than {two}", found[one].jones)
        elif name not in found:
            raise InputError(f"{key}: it expects something of “{name}”, which is no curve of it.")
        elif str(found[name].alexander) != said:
            raise refuse(f"the polynomial of {name}", said, found[name].alexander)
