"""Synthetic cords: how each stretches, grips and varies. Loads in newton, lengths in mm."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any


@dataclass(frozen=True, kw_only=True)
class Cord:
    """One synthetic cord.

    Parameters
    ----------
    strength_n_per_mm2 : float
        Breaking load is this times the diameter squared.
    break_strain : float
        Strain at the breaking load.
    toe, toe_share : float
        Share of the strain that comes early, and the load share over which it comes.
    set_share : float
        Permanent set as a share of the largest strain.
    unload_bend, reload_bend : float
        Curvature of the unloading and reloading branches.
    friction : float
        Coefficient at a tenth of the breaking load.
    stick : float
        1 - kinetic over static grip.
    wet_friction, wet_strength : float
        Factors when wet.
    lot_cv, specimen_cv : float
        Spread of strength between lots and inside one.
    bend_loss : float
        k in 1 / (1 + k / (1 + D/d)) over a pin.
    creep : float
        A: strain that comes with time, per load share.
    laid : bool
        Whether it is laid of strands, which can part one after another.
    melts : bool
        Whether slip work can fuse it.
    """

    strength_n_per_mm2: float
    break_strain: float
    toe: float
    toe_share: float
    set_share: float
    unload_bend: float
    reload_bend: float
    friction: float
    stick: float
    wet_friction: float
    wet_strength: float
    lot_cv: float
    specimen_cv: float
    bend_loss: float
    creep: float = 0.004
    laid: bool = False
    melts: bool = True

    def strain(self, share: float) -> float:
        """Virgin strain at a share of the breaking load."""
        early = (1 - math.exp(-share / self.toe_share)) / (1 - math.exp(-1 / self.toe_share))
        return self.break_strain * (self.toe * early + (1 - self.toe) * share)

    def friction_at(self, share: float) -> float:
        """Coefficient of friction at a share of the breaking load."""
        return self.friction * math.pow(max(share, 1e-4) / 0.1, -0.08)

    def soaked(self, *, frozen: bool = False) -> Cord:
        """The same cord wet; frozen, the water takes strength alone."""
        return replace(
            self,
            strength_n_per_mm2=self.strength_n_per_mm2 * self.wet_strength,
            friction=self.friction * (1.0 if frozen else self.wet_friction),
        )


_COLUMNS = (
    *("strength_n_per_mm2", "break_strain", "toe", "toe_share", "set_share", "unload_bend"),
    *("reload_bend", "friction", "stick", "wet_friction", "wet_strength", "lot_cv"),
    *("specimen_cv", "bend_loss"),
)


def _cord(*numbers: float, creep: float, laid: bool = False, melts: bool = True) -> Cord:
    """A row of the table below, by its columns."""
    row: dict[str, Any] = dict(zip(_COLUMNS, numbers, strict=True))
    return Cord(**row, creep=creep, laid=laid, melts=melts)


CORDS: dict[str, Cord] = {
    "nylon kernmantle": _cord(
        250, 0.24, 0.25, 0.06, 0.25, 0.70, 0.30, 0.20, 0.045, 0.90, 0.90, 0.03, 0.02, 0.55,
        creep=0.010,
    ),
    "nylon 3-strand": _cord(
        200, 0.38, 0.45, 0.10, 0.30, 0.75, 0.30, 0.20, 0.050, 0.88, 0.88, 0.04, 0.03, 0.60,
        creep=0.014, laid=True,
    ),
    "polyester double braid": _cord(
        220, 0.15, 0.35, 0.08, 0.30, 0.60, 0.25, 0.18, 0.040, 0.95, 0.99, 0.03, 0.02, 0.50,
        creep=0.004,
    ),
    "polypropylene 3-strand": _cord(
        140, 0.22, 0.30, 0.08, 0.35, 0.75, 0.30, 0.155, 0.060, 0.97, 1.0, 0.05, 0.04, 0.60,
        creep=0.020, laid=True,
    ),
    "HMPE hollow braid": _cord(
        950, 0.045, 0.40, 0.05, 0.45, 0.60, 0.25, 0.09, 0.025, 0.95, 1.0, 0.035, 0.03, 0.70,
        creep=0.003,
    ),
    "manila 3-strand": _cord(
        72, 0.12, 0.40, 0.10, 0.50, 0.70, 0.35, 0.32, 0.050, 1.05, 0.95, 0.08, 0.06, 0.80,
        creep=0.004, laid=True, melts=False,
    ),
    "utility braid": _cord(
        130, 0.22, 0.40, 0.07, 0.30, 0.70, 0.30, 0.18, 0.050, 0.92, 0.93, 0.06, 0.045, 0.55,
        creep=0.008,
    ),
    "tubular webbing": _cord(
        200, 0.26, 0.30, 0.06, 0.30, 0.70, 0.30, 0.22, 0.050, 0.90, 0.88, 0.035, 0.025, 0.40,
        creep=0.010,
    ),
}  # fmt: skip

_OF_MATERIAL = {
    "nylon": ("nylon 3-strand", "nylon kernmantle"),
    "polyamide": ("nylon 3-strand", "nylon kernmantle"),
    "polyester": ("utility braid", "polyester double braid"),
    "polypropylene": ("polypropylene 3-strand", "utility braid"),
    "polyethylene": ("polypropylene 3-strand", "utility braid"),
    "hmpe": ("HMPE hollow braid", "HMPE hollow braid"),
    "aramid": ("HMPE hollow braid", "HMPE hollow braid"),
    "manila": ("manila 3-strand", "manila 3-strand"),
    "hemp": ("manila 3-strand", "manila 3-strand"),
    "sisal": ("manila 3-strand", "manila 3-strand"),
    "cotton": ("manila 3-strand", "utility braid"),
}
"""The synthetic cords that come nearest to a material: laid of strands, and otherwise."""
_LAID = ("strand", "laid", "hawser")


def nearest_cord(material: str, construction: str) -> str:
    """The synthetic cord that comes nearest to a description, for practice only.

    What is unlike all of them pulls as the utility braid does.
    """
    made = construction.lower()
    if "web" in made or "tape" in made:
        return "tubular webbing"
    for name, (laid, other) in _OF_MATERIAL.items():
        if name in material.lower():
            return laid if any(word in made for word in _LAID) else other
    return "utility braid"
