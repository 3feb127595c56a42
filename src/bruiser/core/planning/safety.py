"""Energy stored in a loaded specimen, the speed a parted end can reach, and the stroke it takes.

No safe distance is ever computed: none in a workshop makes a parting line safe. The lane is guarded
and stays empty while anything is loaded.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

# Strain at break, roughly, by material and (for nylon) construction: for planning before the lot
# was measured. Upper ends, so that stroke and energy err to the safe side.
_BREAK_STRAIN: dict[str, float] = {
    "nylon": 0.40,
    "polyester": 0.20,
    "polypropylene": 0.25,
    "polyethylene": 0.25,
    "hmpe": 0.06,
    "aramid": 0.06,
    "manila": 0.15,
    "hemp": 0.15,
    "sisal": 0.15,
    "cotton": 0.25,
}
_ANY_STRAIN = 0.45
ASSUMPTIONS = (
    "E = 1/2 F x + 1/2 C F²: a straight line to the break; real cord stiffens, so less",
    "speed = sqrt(2 E / m), m the cord between the pins; shackles and pins fly slower and hit "
    "harder",
    "upper bound: F e^(3 CV), nothing lost to permanent set",
)


@dataclass(frozen=True, kw_only=True)
class LoadedSpan:
    """A specimen as it will be loaded.

    Parameters
    ----------
    break_n, break_cv : float
        Expected breaking load of the specimen and its coefficient of variation.
    free_length_m : float
        Cord between the pins that stretches.
    break_strain : float
        Strain at the expected break.
    mass_per_length_kg_m : float
    seating_m : float
        Cord that knots give out while seating and drawing.
    set_share : float
        Share of the strain that does not come back; 0 is the safe assumption.
    """

    break_n: float
    break_cv: float
    free_length_m: float
    break_strain: float
    mass_per_length_kg_m: float
    seating_m: float = 0.0
    set_share: float = 0.0


@dataclass(frozen=True, kw_only=True)
class StoredEnergy:
    """Energy at the expected break and at its upper bound, and the speeds they allow."""

    expected_j: float
    upper_j: float
    recoil_m_s: float
    recoil_upper_m_s: float
    assumptions: tuple[str, ...]


def break_strain_guess(material: str) -> float:
    """Strain at break to plan with where none was measured; rough, and on the high side."""
    return _BREAK_STRAIN.get(material.strip().lower(), _ANY_STRAIN)


def upper_break_n(break_n: float, cv: float) -> float:
    """Breaking load to be ready for: F e^(3 CV)."""
    return break_n * math.exp(3.0 * cv)


def stored_energy(specimen: LoadedSpan, compliance_m_per_n: float) -> StoredEnergy:
    """Energy a specimen and the bench give back when it parts.

    Parameters
    ----------
    specimen : Specimen
    compliance_m_per_n : float
        Stretch of the bench itself per newton.

    Notes
    -----
    E = 1/2 F x_e + 1/2 C F^2, x_e = (1 - set) eps L: the straight line from nothing to the break.
    Cordage stiffens as it is loaded, so its true curve lies below the line and E is not
    exceeded. Speed v = sqrt(2 E / m), m the mass of the cord between the pins; for a linear cord
    that is released this is the speed of the free end, v^2 = F eps / mu. Upper bound: F e^(3 CV),
    no permanent set, all of it in the cord.
    """
    mass = specimen.mass_per_length_kg_m * specimen.free_length_m

    def energy(load_n: float, strain: float) -> float:
        return 0.5 * load_n * strain * specimen.free_length_m + 0.5 * compliance_m_per_n * load_n**2

    elastic = specimen.break_strain * (1.0 - specimen.set_share)
    high_n = upper_break_n(specimen.break_n, specimen.break_cv)
    high_strain = specimen.break_strain * high_n / specimen.break_n
    expected = energy(specimen.break_n, elastic)
    upper = energy(high_n, high_strain)
    return StoredEnergy(
        expected_j=expected,
        upper_j=upper,
        recoil_m_s=math.sqrt(2.0 * expected / mass),
        recoil_upper_m_s=math.sqrt(2.0 * upper / mass),
        assumptions=ASSUMPTIONS,
    )


def needed_stroke_m(specimen: LoadedSpan, compliance_m_per_n: float) -> float:
    """Travel until the upper break: stretch, seating and draw, and the bench's own stretch."""
    high_n = upper_break_n(specimen.break_n, specimen.break_cv)
    strain = specimen.break_strain * high_n / specimen.break_n
    return strain * specimen.free_length_m + specimen.seating_m + compliance_m_per_n * high_n
