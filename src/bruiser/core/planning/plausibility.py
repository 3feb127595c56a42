"""Catches slips of unit and of the decimal mark when a lot is entered; it only ever asks."""

from __future__ import annotations

from dataclasses import dataclass

THICKEST_M = 0.100
WIDEST_M = 0.300

# Rough strength over diameter squared, N/mm2, by material; wide on purpose: only an order of
# magnitude is judged. From the density and tenacity of the fibres and how much of a rope is fibre.
_STRENGTH_N_PER_MM2: dict[str, tuple[float, float]] = {
    "nylon": (120.0, 350.0),
    "polyester": (110.0, 320.0),
    "polypropylene": (70.0, 220.0),
    "polyethylene": (60.0, 200.0),
    "hmpe": (400.0, 1300.0),
    "aramid": (350.0, 1100.0),
    "manila": (45.0, 120.0),
    "hemp": (40.0, 130.0),
    "sisal": (35.0, 100.0),
    "cotton": (25.0, 110.0),
}
_ANY = (25.0, 1300.0)
_LOOSE = ("utility", "hollow")
_ORDER = 3.0


def known_materials() -> tuple[str, ...]:
    """Materials whose strength can be judged, the commonest first."""
    return tuple(_STRENGTH_N_PER_MM2)


@dataclass(frozen=True)
class StrengthRange:
    """Strength to be expected of a cordage, very roughly, in newton."""

    low_n: float
    high_n: float
    material: str


def expected_strength(material: str, construction: str, diameter_m: float) -> StrengthRange:
    """Rough range of strength for a material, construction and diameter.

    Notes
    -----
    k d^2 with k from a table by material. Utility and hollow constructions hold less fibre for
    their diameter, so their lower end is halved. An unknown material takes the widest range.
    """
    name = material.strip().lower()
    low, high = _STRENGTH_N_PER_MM2.get(name, _ANY)
    if any(word in construction.lower() for word in _LOOSE):
        low *= 0.5
    area = (1000.0 * diameter_m) ** 2
    return StrengthRange(low * area, high * area, name if name in _STRENGTH_N_PER_MM2 else "")


def rating_is_odd(
    rated_n: float, material: str, construction: str, diameter_m: float
) -> StrengthRange | None:
    """The range to be expected when a rating lies an order of magnitude off, else None.

    Off means more than threefold beyond the end of the range: enough to catch N for kN, lbf for
    N, kgf for kN, and inch for millimetre, without asking about unusual but real cordage.
    """
    expected = expected_strength(material, construction, diameter_m)
    if expected.low_n / _ORDER <= rated_n <= expected.high_n * _ORDER:
        return None
    return expected
