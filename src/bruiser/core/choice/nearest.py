"""Which tested cordage comes nearest to one that was not tested, and in what it differs."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

FAR_MATERIAL, FAR_CONSTRUCTION, FAR_CONDITION = 4.0, 2.0, 1.0
PER_DOUBLING = 1.5


@dataclass(frozen=True, kw_only=True)
class Cordage:
    """What is known of a cordage before it is pulled; the diameter in metre."""

    key: str
    name: str
    material: str
    construction: str
    diameter_m: float
    condition: str = "new, dry"


@dataclass(frozen=True)
class Near:
    """A tested cordage, how far away it is, and what differs in words; empty where nothing does."""

    cordage: Cordage
    distance: float
    differs: tuple[str, ...]


def nearest(wanted: Cordage, tested: Iterable[Cordage], most: int = 3) -> tuple[Near, ...]:
    """The nearest tested cordages, nearest first; none of their numbers holds for the wanted one.

    Notes
    -----
    Another material counts 4, another construction 2, another condition 1, and every doubling of
    the diameter 1.5: an order of what knots were seen to care about, not a measurement.
    """
    found = [_near(wanted, one) for one in tested if one.key != wanted.key]
    return tuple(sorted(found, key=lambda n: (n.distance, n.cordage.name))[:most])


def _near(wanted: Cordage, other: Cordage) -> Near:
    away, differs = 0.0, []
    for cost, field in (
        (FAR_MATERIAL, "material"),
        (FAR_CONSTRUCTION, "construction"),
        (FAR_CONDITION, "condition"),
    ):
        mine, theirs = getattr(wanted, field), getattr(other, field)
        if mine.strip().lower() != theirs.strip().lower():
            away += cost
            differs.append(f"{theirs} instead of {mine or 'an unknown ' + field}")
    doublings = abs(math.log2(other.diameter_m / wanted.diameter_m))
    if doublings > 1e-3:
        away += PER_DOUBLING * doublings
        differs.append(f"{1000 * other.diameter_m:g} mm instead of {1000 * wanted.diameter_m:g} mm")
    return Near(other, away, tuple(differs))
