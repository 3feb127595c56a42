"""A diagram changed: its mirror image, and crossings that go the other way."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np

from bruiser.core.topology.crossings import Crossing, Diagram

_SAME_PLACE_D = 0.75


def reflected(layout: Diagram) -> Diagram:
    """The knot as the other hand ties it: left for right, over and under kept."""
    turn = np.array([-1.0, 1.0])
    cuts = {key: (-x, y) for key, (x, y) in layout.recipe.cuts.items()}
    return replace(
        layout,
        recipe=replace(layout.recipe, cuts=cuts),
        curves={k: replace(c, points=c.points * turn) for k, c in layout.curves.items()},
        crossings=tuple(replace(c, x=-c.x) for c in layout.crossings),
    )


def turned_over(layout: Diagram, numbers: Collection[int]) -> Diagram:
    """The diagram with the crossings of these numbers the other way."""
    return replace(
        layout,
        known_heights=None,
        crossings=tuple(_swapped(c) if n in numbers else c for n, c in enumerate(layout.crossings)),
    )


def _swapped(c: Crossing) -> Crossing:
    return replace(c, over=c.under, under=c.over)


def differing(one: Diagram, two: Diagram) -> tuple[int, ...] | None:
    """The crossings of `one` that go the other way in `two`, which is laid out alike.

    None where the two are not laid out alike: crossings in other places, or of other lines.
    """
    if len(one.crossings) != len(two.crossings):
        return None
    found = []
    for n, c in enumerate(one.crossings):
        near = min(two.crossings, key=lambda d: (d.x - c.x) ** 2 + (d.y - c.y) ** 2)
        if (near.x - c.x) ** 2 + (near.y - c.y) ** 2 > _SAME_PLACE_D**2:
            return None
        if {near.over.line, near.under.line} != {c.over.line, c.under.line}:
            return None
        if _first_over(c) != _first_over(near):
            found.append(n)
    return tuple(found)


def _first_over(c: Crossing) -> bool:
    """Whether the pass that is met first along the ropes, in the order of their names, is over."""
    return (c.over.line, c.over.at) < (c.under.line, c.under.at)
