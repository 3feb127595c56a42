"""What is put on the simulated bench, and how it is tied, held and pulled."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from bruiser.core.records.layouts import End, Layout, lay
from bruiser.core.records.legs import BACKWARDS, EYE, SECOND_EYE, legs_of
from bruiser.rig.simulated.archetypes import Kind, beds
from bruiser.rig.simulated.variants import Tying

CROSSED_FITNESS, CROSSED_EFFICIENCY = 0.78, 0.965
_SLICK = {"polished": 0.72, "painted": 0.85, "smooth": 0.80, "galvanised": 0.9, "turned": 0.9}
_ON_HOSTS = ("hitch", "friction", "tensioning", "binding", "stopper", "quick_release")
_ROUGH = {"bark": 1.15, "rough": 1.12, "sanded": 1.1}


@dataclass(frozen=True, kw_only=True)
class SpecimenSetup:
    """What is put on the simulated bench.

    Parameters
    ----------
    cord : str
        Key of the synthetic cord.
    diameter_mm, span_mm : float
        Cord diameter and free length.
    layout : str
        Key of the layout.
    knots : dict
        The knot at each end; empty for a baseline.
    tails_mm : dict
        Tail length by the key of the layout's tail.
    pin_mm : float
        Pin diameter.
    lot_seed, seed : int
        Seeds of the lot's and the specimen's own randomness.
    machine_mm_per_n : float
        Compliance of frame and cell.
    flaw_chance : float
        Chance of a hidden flaw in the span.
    wet : bool
        Soaked: the cord's wet factors apply to strength and friction.
    wear : float
        Strength left in a worn cord, as a share.
    crossed : bool
        Tied with strands crossed.
    direction : str
        Which legs are pulled, in the catalogue's words, or ``ring load``.
    host_mm, host_finish : float, str
        What a hitch is tied round; 0 for a pin of 12 mm.
    seat_d : float
        Width of the hole a stopper is pulled against, in diameters.
    edge_mm : float
        Diameter of an edge the span runs over; 0 for none.
    other_cord, other_mm : str, float
        The other line of a bend, or the host rope; empty for the same.
    uneven : float
        Of a double loop: how much longer one eye is, as a share of its length.
    cut_share : float
        Share of the section cut through: in the eye of a midline loop, in the span of plain rope.
    iced, muddy : bool
        What lies between the strands.
    """

    cord: str
    diameter_mm: float
    span_mm: float
    layout: str
    knots: dict[End, Tying]
    tails_mm: dict[str, float] = field(default_factory=dict)
    pin_mm: float = 12.0
    lot_seed: int = 0
    seed: int = 0
    machine_mm_per_n: float = 2e-4
    flaw_chance: float = 0.0
    wet: bool = False
    wear: float = 1.0
    crossed: bool = False
    direction: str = ""
    host_mm: float = 0.0
    host_finish: str = ""
    seat_d: float = 2.0
    edge_mm: float = 0.0
    other_cord: str = ""
    other_mm: float = 0.0
    uneven: float = 0.0
    cut_share: float = 0.0
    iced: bool = False
    muddy: bool = False

    @property
    def lies(self) -> Layout:
        """Its places on the bench."""
        return lay(self.layout, over_edge=self.edge_mm > 0)


@dataclass(frozen=True)
class Ways:
    """What direction, dressing and host do to a knot: factors on strength, grip and capsizing."""

    strength: float = 1.0
    grip: float = 1.0
    capsize: float = 1.0


def _direction(setup: SpecimenSetup, tied: Tying) -> Ways:
    words, a = setup.direction.lower(), tied.archetype
    if not words:
        return Ways()
    legs = legs_of(words)
    one_of_two = a.kind is Kind.DOUBLE and len(legs & {EYE, SECOND_EYE}) == 1
    if one_of_two or (legs and legs <= {EYE, SECOND_EYE}):
        return Ways(*a.ring)
    if BACKWARDS in legs or any(w in words for w in ("reverse", "wrong", "alone")):
        return Ways(*a.reverse)
    if a.kind is Kind.MIDLINE:
        if "with loss" in words:
            return Ways(0.88, 0.55, 3.0)
        if "both ends" in words or "eye loaded" in words:
            return Ways(1.03, 0.95, 1.0)
        if "eye against" in words:
            return Ways(0.97, 0.85, 1.6)
    return Ways()


def _host(setup: SpecimenSetup) -> Ways:
    if setup.layout not in _ON_HOSTS or setup.host_mm <= 0:
        return Ways()
    words = setup.host_finish.lower()
    slick = min((f for w, f in _SLICK.items() if w in words), default=1.0)
    rough = max((f for w, f in _ROUGH.items() if w in words), default=1.0)
    ratio = setup.host_mm / setup.diameter_mm
    bent = (1 - 0.5 / (1 + ratio)) / (1 - 0.5 / 2.5)
    return Ways(min(1.08, bent), slick * rough)


ICE_GRIP, MUD_GRIP = 0.5, 0.75
"""What ice and mud between the strands leave of a knot's grip."""


def _between(setup: SpecimenSetup) -> Ways:
    ice = ICE_GRIP if setup.iced else 1.0
    return Ways(grip=ice * (MUD_GRIP if setup.muddy else 1.0))


def ways(setup: SpecimenSetup, tied: Tying) -> Ways:
    """All that a specimen's setup does to one of its knots.

    Notes
    -----
    Crossed strands take grip and a little strength. A slick host takes grip, a thin one strength
    (1 - 0.5 / (1 + D/d), against D/d 1.5). Unlike diameters in a bend take grip, sqrt(d/D). An eye
    of a double loop that is longer by a share u leaves the other to carry 1 + 0.6 u of its half.
    """
    found = [_direction(setup, tied), _host(setup), _between(setup)]
    found.append(Ways(grip=beds(tied.archetype, setup.diameter_mm)))
    if setup.crossed:
        found.append(Ways(CROSSED_EFFICIENCY, CROSSED_FITNESS, 1.8))
    if setup.other_mm and setup.layout == "bend":
        thin, thick = sorted((setup.diameter_mm, setup.other_mm))
        found.append(Ways(1.0, math.sqrt(thin / thick)))
    if setup.uneven and tied.archetype.kind is Kind.DOUBLE:
        found.append(Ways(1.0 / (1.0 + 0.6 * setup.uneven)))
    return Ways(
        math.prod(w.strength for w in found),
        math.prod(w.grip for w in found),
        math.prod(w.capsize for w in found),
    )
