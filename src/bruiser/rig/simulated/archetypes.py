"""Synthetic knots: how each grips, seats, weakens and jams; keyed by catalogue structure."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.rig.simulated.cords import Cord


@dataclass(frozen=True)
class Archetype:
    """One synthetic knot.

    Parameters
    ----------
    efficiency, cv : float
        Share of the cord's strength at which the cord breaks in it, and its spread.
    wrap_angle, pinch, bite : float
        Theta, kappa and tau0 of the grip condition.
    seating_d, seating_share : float
        Cord drawn in while seating, in diameters, and the load share over which it comes.
    engaged_d : float
        Cord engaged inside the knot, in diameters: how far a tail runs before it is out.
    capsize_chance : float
        Chance of changing form under load.
    jam_base, jam_slope : float
        Jam score j0 + j1 x (peak as a share of the cord's strength).
    """

    efficiency: float
    cv: float
    wrap_angle: float
    pinch: float
    bite: float
    seating_d: float
    seating_share: float
    engaged_d: float
    capsize_chance: float
    jam_base: float
    jam_slope: float


ARCHETYPES: dict[str, Archetype] = {
    "figure-eight-loop": Archetype(0.74, 0.04, 10, 2.2, 0.050, 7, 0.10, 16, 0.01, -1.0, 6.0),
    "overhand-loop": Archetype(0.61, 0.05, 7.5, 2.4, 0.050, 5, 0.09, 11, 0.01, -0.2, 7.5),
    "bowline": Archetype(0.68, 0.06, 8, 1.8, 0.045, 6, 0.08, 12, 0.06, -4.5, 4.5),
    "double-bowline": Archetype(0.71, 0.05, 9, 1.9, 0.045, 7, 0.09, 16, 0.03, -4.0, 4.5),
    "sheet-bend": Archetype(0.52, 0.07, 5.5, 1.4, 0.035, 4.5, 0.07, 8, 0.05, -3.8, 4.0),
    "double-fishermans": Archetype(0.68, 0.04, 12, 2.3, 0.060, 8, 0.12, 20, 0.0, 0.5, 8.0),
    "flat-overhand": Archetype(0.50, 0.07, 7, 1.6, 0.045, 6, 0.07, 10, 0.45, -1.0, 6.0),
    "clove-hitch": Archetype(0.64, 0.06, 6, 1.1, 0.030, 4, 0.06, 9, 0.02, -2.0, 4.5),
    "drum-termination": Archetype(0.97, 0.02, 25, 3.0, 0.100, 2, 0.05, 60, 0.0, -8.0, 2.0),
}


_VARIANTS = {("bowline", ("turns", "round-turn")): "double-bowline"}


def archetype_key(structure: str, choices: tuple[tuple[str, str], ...] = ()) -> str | None:
    """The synthetic knot of a variant, or None where the simulator has none for its structure."""
    for choice in choices:
        if (structure, choice) in _VARIANTS:
            return _VARIANTS[structure, choice]
    return structure if structure in ARCHETYPES else None


def grips(archetype: Archetype, cord: Cord, share: float, fitness: float, engaged: float) -> float:
    """Grip over need: the knot holds while this is 1 or more.

    Parameters
    ----------
    share : float
        Load as a share of the cord's breaking load.
    fitness : float
        h: 1 when well dressed on a fitting host, lower when crossed, loose or slick.
    engaged : float
        Share of the engaged length still inside the knot.

    Notes
    -----
    (mu kappa + tau0 / f) e^(mu Theta) h, with kappa, tau0 and Theta scaled by `engaged`.
    """
    mu = cord.friction_at(share)
    hold = mu * archetype.pinch * engaged + archetype.bite * engaged / max(share, 1e-6)
    return hold * math.exp(mu * archetype.wrap_angle * engaged) * fitness


def slip_share(archetype: Archetype, cord: Cord, fitness: float, engaged: float = 1.0) -> float:
    """Load share at which the knot starts to slip; 9 when it never does."""
    if grips(archetype, cord, 2.0, fitness, engaged) >= 1:
        return 9.0
    low, high = 1e-5, 2.0
    if grips(archetype, cord, low, fitness, engaged) < 1:
        return 0.0
    for _ in range(40):
        middle = 0.5 * (low + high)
        if grips(archetype, cord, middle, fitness, engaged) >= 1:
            low = middle
        else:
            high = middle
    return low
