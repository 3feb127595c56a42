"""Synthetic cords: how each stretches, grips and varies. Loads in newton, lengths in mm."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace


@dataclass(frozen=True)
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

    def strain(self, share: float) -> float:
        """Virgin strain at a share of the breaking load."""
        early = (1 - math.exp(-share / self.toe_share)) / (1 - math.exp(-1 / self.toe_share))
        return self.break_strain * (self.toe * early + (1 - self.toe) * share)

    def friction_at(self, share: float) -> float:
        """Coefficient of friction at a share of the breaking load."""
        return self.friction * math.pow(max(share, 1e-4) / 0.1, -0.08)

    def soaked(self) -> Cord:
        """The same cord wet."""
        return replace(
            self,
            strength_n_per_mm2=self.strength_n_per_mm2 * self.wet_strength,
            friction=self.friction * self.wet_friction,
        )


CORDS: dict[str, Cord] = {
    "nylon kernmantle": Cord(
        250, 0.24, 0.25, 0.06, 0.25, 0.70, 0.30, 0.20, 0.045, 0.90, 0.90, 0.03, 0.02, 0.55
    ),
    "nylon 3-strand": Cord(
        200, 0.38, 0.45, 0.10, 0.30, 0.75, 0.30, 0.20, 0.050, 0.88, 0.88, 0.04, 0.03, 0.60
    ),
    "polyester double braid": Cord(
        220, 0.15, 0.35, 0.08, 0.30, 0.60, 0.25, 0.18, 0.040, 0.95, 0.99, 0.03, 0.02, 0.50
    ),
    "HMPE hollow braid": Cord(
        950, 0.045, 0.40, 0.05, 0.45, 0.60, 0.25, 0.09, 0.025, 0.95, 1.0, 0.035, 0.03, 0.70
    ),
}
