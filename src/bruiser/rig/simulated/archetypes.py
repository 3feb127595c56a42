"""Synthetic knots: how each grips, seats, weakens, jams and shakes loose."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from bruiser.rig.simulated.cords import Cord


class Kind(StrEnum):
    """By which equation a knot fails."""

    NIP = "nip"
    MIDLINE = "midline"
    DOUBLE = "double"
    FRICTION = "friction"
    ADJUSTABLE = "adjustable"
    TENSIONING = "tensioning"
    BINDING = "binding"
    STOPPER = "stopper"
    RELEASE = "release"


@dataclass(frozen=True, kw_only=True)
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
    loosen : float
        Chance of working looser at each slack and snatch.
    kind : Kind
        By which equation it fails.
    ring, reverse : tuple of float
        Factors on efficiency and on grip when the eye is spread, and when pulled the wrong way.
    wraps, grip_share : float
        Of a rope grip: number of wraps, and H0 as a share of the cord's strength.
    bulk_d : float
        Of a stopper: its bulk without load, in diameters.
    turns : float
        Of a tensioning system: half turns the hand line passes; of a binding: its turns.
    riding : bool
        Of an adjustable loop: a turn rides on the one before it and bites by itself.
    lock_turns : float
        Of a tensioning system: half turns that hold at its loop while it is locked off.
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
    loosen: float = 0.1
    kind: Kind = Kind.NIP
    ring: tuple[float, float] = (0.95, 0.8)
    reverse: tuple[float, float] = (0.95, 0.8)
    wraps: float = 0.0
    grip_share: float = 0.012
    bulk_d: float = 0.0
    turns: float = 0.0
    riding: bool = False
    lock_turns: float = 1.0


_EIGHT = ((0.85, 0.9), (0.97, 1.0))
_BOWLINE = ((0.80, 0.35), (0.9, 0.8))
_FLAT = ((1.0, 1.0), (0.9, 0.6))


_COLUMNS = (
    *("efficiency", "cv", "wrap_angle", "pinch", "bite", "seating_d", "seating_share"),
    *("engaged_d", "capsize_chance", "jam_base", "jam_slope", "loosen"),
)


def _made(*numbers: float, ways: tuple[tuple[float, float], ...] = ()) -> Archetype:
    """A row of the table below, by its columns; `ways` are those of ring and reverse."""
    row: dict[str, Any] = dict(zip(_COLUMNS, numbers, strict=False))
    row |= dict(zip(("ring", "reverse"), ways, strict=False))
    return Archetype(**row)


ARCHETYPES: dict[str, Archetype] = {
    "figure-eight-loop": _made(
        0.74, 0.04, 10, 2.2, 0.050, 7, 0.10, 16, 0.01, -1.0, 6.0, 0.02, ways=_EIGHT
    ),
    "overhand-loop": _made(0.61, 0.05, 7.5, 2.4, 0.050, 5, 0.09, 11, 0.01, -0.2, 7.5, 0.02),
    "bowline": _made(0.68, 0.06, 8, 1.8, 0.045, 6, 0.08, 12, 0.06, -4.5, 4.5, 0.18, ways=_BOWLINE),
    "double-bowline": _made(
        0.71, 0.05, 9, 1.9, 0.045, 7, 0.09, 16, 0.03, -4.0, 4.5, 0.10, ways=_BOWLINE
    ),
    "reef": _made(0.45, 0.08, 4.5, 1.2, 0.040, 4, 0.06, 7, 0.30, -2.5, 4.0, 0.15, ways=_FLAT),
    "sheet-bend": _made(
        0.52, 0.07, 5.5, 1.4, 0.035, 4.5, 0.07, 8, 0.05, -3.8, 4.0, 0.25, ways=_FLAT
    ),
    "double-fishermans": _made(0.68, 0.04, 12, 2.3, 0.060, 8, 0.12, 20, 0.0, 0.5, 8.0, 0.01),
    "flat-overhand": _made(0.50, 0.07, 7, 1.6, 0.045, 6, 0.07, 10, 0.45, -1.0, 6.0, 0.02),
    "clove-hitch": _made(0.64, 0.06, 6, 1.1, 0.030, 4, 0.06, 9, 0.02, -2.0, 4.5, 0.12),
    "drum-termination": _made(0.97, 0.02, 25, 3.0, 0.100, 2, 0.05, 60, 0.0, -8.0, 2.0, 0.0),
}


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


NEVER = 9.0


def _nip_slip(a: Archetype, cord: Cord, fitness: float, engaged: float) -> float:
    if grips(a, cord, 2.0, fitness, engaged) >= 1:
        return NEVER
    low, high = 1e-5, 2.0
    if grips(a, cord, low, fitness, engaged) < 1:
        return 0.0
    for _ in range(30):
        middle = 0.5 * (low + high)
        if grips(a, cord, middle, fitness, engaged) >= 1:
            low = middle
        else:
            high = middle
    return low


def fits_host(ratio: float) -> float:
    """How well a cord grips a rope: 1 while cord over host diameter is 0.55 to 0.85.

    A cord as thick as its host cannot bend round it closely: a fifth is left.
    """
    outside = max(0.55 - ratio, ratio - 0.85, 0.0)
    return math.exp(-((outside / 0.12) ** 2))


def beds(a: Archetype, diameter_mm: float) -> float:
    """How closely the wraps of an adjustable loop lie on its own line, against line of 8 mm.

    Notes
    -----
    (8 / d)^(1/3): thick line is stiff and its turns stand off. A riding turn is bent over the one
    before it and closes whatever the line.
    """
    if a.kind is not Kind.ADJUSTABLE or a.riding:
        return 1.0
    return math.pow(8.0 / diameter_mm, 1.0 / 3.0)


def bulk_d(a: Archetype, share: float) -> float:
    """Bulk of a stopper in diameters under a load: b0 (1 - 0.35 f / (f + 0.25))."""
    return a.bulk_d * (1.0 - 0.35 * share / (share + 0.25))


def _through_share(a: Archetype, seat_d: float) -> float:
    """Load share at which a stopper's bulk is down to its seat."""
    left = a.bulk_d / seat_d - 1.0 if seat_d > 0 else NEVER
    if left <= 0:
        return 0.02
    # b0 (1 - 0.35 f / (f + 0.25)) = seat, solved for f
    need = (1.0 - seat_d / a.bulk_d) / 0.35
    return NEVER if need >= 1 else 0.25 * need / (1.0 - need)


def slip_share(
    archetype: Archetype,
    cord: Cord,
    fitness: float,
    engaged: float = 1.0,
    *,
    ratio: float = 0.7,
    seat_d: float = 0.0,
) -> float:
    """Load share at which the knot starts to slip; :data:`NEVER` when it does not.

    Parameters
    ----------
    ratio : float
        Of a rope grip: cord over host diameter.
    seat_d : float
        Of a stopper: width of the hole in diameters.

    Notes
    -----
    Nips, midline and double loops: the grip condition of :func:`grips`. Rope grips, adjustable
    loops: ln H = ln H0 + 2 pi mu_eff w, mu_eff falling as the ratio leaves 0.55 to 0.85. Systems:
    what is locked off passes `turns` half turns, H = H0 e^(mu pi turns). Stoppers: the load at
    which the bulk is down to the seat. Bindings and quick releases grip as nips, scaled by `turns`.
    """
    a = archetype
    if a.kind in (Kind.FRICTION, Kind.ADJUSTABLE):
        mu = cord.friction * (fits_host(ratio) if a.kind is Kind.FRICTION else 1.0)
        return min(NEVER, a.grip_share * fitness * math.exp(2 * math.pi * mu * a.wraps) * engaged)
    if a.kind is Kind.TENSIONING:
        hold = a.grip_share * fitness * math.exp(cord.friction * math.pi * a.turns) * engaged
        return min(NEVER, hold)
    if a.kind is Kind.STOPPER:
        return _through_share(a, seat_d) * fitness if seat_d else NEVER
    return _nip_slip(a, cord, fitness, engaged)


def advantage(a: Archetype, cord: Cord) -> tuple[float, float]:
    """Theoretical and real advantage of a tensioning system.

    Notes
    -----
    Three parts hold the load; each half turn of friction passes on e^(-mu pi / 2) of the pull, so
    that the parts are 1, q, q^2 of the hand's and the real advantage is their sum.
    """
    q = math.exp(-cord.friction * math.pi / 2)
    parts = round(a.turns)
    return float(parts), sum(q**k for k in range(parts))


def kept_share(a: Archetype, cord: Cord) -> float:
    """Tension that a system keeps after its lock-off, as a share of what was hauled in.

    Notes
    -----
    1 - 0.48 e^(-mu pi t): the line runs back until the friction of its t half turns at the loop
    holds it; one plain, two with the self-locking turn.
    """
    return 1.0 - 0.48 * math.exp(-cord.friction * math.pi * a.lock_turns)


def residual_grip(a: Archetype, cord: Cord, cycles: float, fitness: float) -> float:
    """What a binding still grips with after load cycles, of its first grip.

    Notes
    -----
    1 - c ln(1 + cycles), c = 0.06 / (fitness turns mu / 0.2): faster on slick and soft hosts.
    """
    rate = 0.06 / max(fitness * a.turns * cord.friction / 0.2, 1e-3)
    return max(0.0, 1.0 - rate * math.log1p(cycles))


def release_force_share(a: Archetype, cord: Cord, share: float) -> float:
    """Pull on the tail that frees a quick release, as a share of the cord's strength."""
    return 0.01 + 0.6 * cord.friction * share * max(a.turns, 1.0) / 2.0


def slack_force_share(a: Archetype, cord: Cord, share: float) -> float:
    """Hand force that slides a slack grip, as a share of the strength; it grows once loaded.

    What grips more is also harder to shift: sqrt(H0 / 0.012).
    """
    hard = math.sqrt(a.grip_share / 0.012)
    return 0.0015 * hard * max(a.wraps, 1.0) * cord.friction / 0.2 * (1.0 + 3.0 * share)


def binding_grip_share(a: Archetype, cord: Cord, fitness: float) -> float:
    """Force that moves a fresh binding along its host, as a share of the cord's strength."""
    return 0.015 * max(a.turns, 1.0) * cord.friction / 0.2 * fitness


def width_d(a: Archetype) -> float:
    """Greatest width of a set knot in diameters: a stopper's bulk, else by the cord in it."""
    return a.bulk_d or 0.85 * math.sqrt(a.engaged_d)


def ledge_share(a: Archetype, wide_d: float) -> float:
    """Force that draws a knot over a ledge, as a share of the strength.

    Notes
    -----
    Grows with the cube of its width; one that rolls away from the ledge takes a third.
    """
    rolls = 0.33 if a.capsize_chance > 0.4 else 1.0
    return 0.006 * rolls * (wide_d / 3.0) ** 3
