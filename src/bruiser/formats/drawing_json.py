"""A knot's drawing for anyone's check: curves in space, planar codes, polynomials."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from bruiser.catalogue.drawings import other_hand, variant_drawn
from bruiser.core.errors import InputError
from bruiser.core.topology.changes import reflected
from bruiser.core.topology.fingerprint import Invariants, invariants
from bruiser.core.topology.heights import in_space
from bruiser.core.topology.unknotting import in_the_bight


def drawing_json(key: str, choices: Mapping[str, str]) -> dict[str, Any]:
    """A structure's drawing as ``bruiser-drawing-1``.

    Raises
    ------
    InputError
        If it has no drawing.
    """
    variant = variant_drawn(key, choices)
    if variant is None:
        raise InputError(f"{key} has no drawing.", "bruiser-cli drawing --list names those there.")
    found, layout = variant.drawn, variant.drawn.layout
    if other_hand(choices):
        layout = reflected(layout)
    known = invariants(layout)
    space = in_space(layout)
    ropes = {rope.key: rope for rope in layout.recipe.ropes}
    return {
        "format": "bruiser-drawing-1",
        "key": key,
        "variant": dict(choices),
        "crossings": len(layout.crossings),
        "recipes": found.recipes,
        "ropes": [
            {
                "id": name,
                "ends": list(rope.ends),
                "points": [[round(float(v), 4) for v in p] for p in space[name]],
            }
            for name, rope in ropes.items()
        ],
        "bight": {name: in_the_bight(layout, name).value for name in ropes},
        "codes": {_called(name, ropes): _curve(curve) for name, curve in known.items()},
    }


def _called(name: str, ropes: Mapping[str, object]) -> str:
    """How a curve is called outside: the rope alone, closed over or under itself."""
    alone = len(ropes) == 1
    if name in ropes:
        return "closed_over" if alone else f"{name} closed_over"
    if name.endswith(" below"):
        return "closed_under" if alone else f"{name.removesuffix(' below')} closed_under"
    return name


def _curve(found: Invariants) -> dict[str, Any]:
    return {
        "code": [list(x) for x in found.closed.code],
        "components": found.closed.components,
        "alexander": list(found.alexander.coefficients),
        "jones": {
            "lowest": found.jones.lowest,
            "coefficients": list(found.jones.coefficients),
            "powers": "t" if found.closed.components % 2 else "t^(1/2)",
        },
    }
