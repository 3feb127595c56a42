"""Where a simulated specimen would give if its knots did not: drums, pins, spans, edges, cuts."""

from __future__ import annotations

import math

import numpy as np

from bruiser.core.records.layouts import PlaceKind
from bruiser.rig.simulated.archetypes import ARCHETYPES
from bruiser.rig.simulated.cords import Cord
from bruiser.rig.simulated.setup import SpecimenSetup

_CUT_LOSS = 0.95
"""What a cut costs beyond the section it takes: the strands beside it bear unequally."""


def _loads_eye(direction: str) -> bool:
    """Whether a midline loop's eye bears load; end to end it lies slack."""
    return "eye" in direction and "end to end" not in direction


def weak_places(
    setup: SpecimenSetup,
    cord: Cord,
    strength_n: float,
    other_n: float,
    rng: np.random.Generator,
) -> list[tuple[float, str]]:
    """Load at which everything that is no knot would give, each with its place.

    Parameters
    ----------
    strength_n, other_n : float
        What the legs of the specimen bear together, and of the other line; infinite for none.
    """
    limits: list[tuple[float, str]] = []
    for place in setup.lies.places:
        if place.kind is PlaceKind.TERMINATION:
            drum = ARCHETYPES["drum-termination"]
            factor = drum.efficiency * math.exp(drum.cv * rng.standard_normal())
            worn = 0.96 if rng.random() < 0.06 else 1.10
            line = other_n if place.key == "termination_b" else math.inf
            limits.append((min(strength_n, line) * factor * worn, place.key))
        elif place.kind is PlaceKind.PIN:
            ratio = setup.pin_mm / setup.diameter_mm
            factor = 2 / setup.lies.shares / (1 + cord.bend_loss / (1 + ratio))
            limits.append((strength_n * factor, place.key))
        elif place.kind is PlaceKind.SPAN:
            flawed = bool(setup.knots) and rng.random() < setup.flaw_chance
            factor = rng.uniform(0.5, 0.72) if flawed else 1.0
            if setup.cut_share and not setup.knots:
                factor = _CUT_LOSS * (1.0 - setup.cut_share)
            line = other_n if place.key == "span_b" else math.inf
            limits.append((min(strength_n * factor, line), place.key))
    if setup.cut_share and setup.layout == "midline" and _loads_eye(setup.direction):
        factor = 2.0 * _CUT_LOSS * (1.0 - setup.cut_share)
        limits.append((strength_n * factor, "eye_a"))
    if setup.edge_mm:
        ratio = setup.edge_mm / setup.diameter_mm
        factor = 1 / (1 + cord.bend_loss / (1 + ratio))
        limits.append((strength_n * factor, "edge"))
    return limits
