"""One knot of a simulated specimen while it is loaded."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from bruiser.core.records.layouts import End
from bruiser.rig.simulated.archetypes import Archetype, Kind, slip_share
from bruiser.rig.simulated.cords import Cord

SLIDES = (Kind.FRICTION, Kind.ADJUSTABLE, Kind.TENSIONING)
SLIDE_D = 12.0
GLAZE_D = 5.0


STUB_D = 8.0


def stub_grip(tail_d: float) -> float:
    """What a short tail leaves of a knot's grip: 1 from :data:`STUB_D` diameters on.

    Notes
    -----
    1 - 0.6 e^(-tail / 1.5 d): the last tuck is closed by the tail that leaves it, and a stub of a
    diameter or two lets it open.
    """
    if tail_d >= STUB_D:
        return 1.0
    return 1.0 - 0.6 * math.exp(-max(tail_d, 0.0) / 1.5)


@dataclass(kw_only=True)
class KnotState:
    """A knot with what has happened to it.

    Parameters
    ----------
    place : str
        Key of its place in the layout.
    strength_n : float
        Load at which the cord breaks in it.
    fitness : float
        h of the grip condition.
    capsize_n : float
        Load at which it changes form; infinite for never.
    tails, drawn : dict
        Length of each tail, and how far it has drawn, in mm.
    """

    end: End
    place: str
    archetype: Archetype
    cord: Cord
    cord_n: float
    diameter_mm: float
    strength_n: float
    fitness: float
    capsize_n: float
    tails: dict[str, float]
    drawn: dict[str, float]
    ratio: float = 0.7
    seat_d: float = 0.0
    backup_n: float = 0.0
    slip_n: float = math.inf
    running: str = ""
    target_n: float = 0.0
    capsized: bool = False
    capsized_n: float = math.nan
    slid_mm: float = 0.0
    glazed: bool = False
    loosened: int = 0
    heat_j: float = 0.0
    slips: int = field(default=0)

    @property
    def slides(self) -> bool:
        """Whether it slides along something, or feeds through itself, instead of losing a tail."""
        return self.archetype.kind in SLIDES or not self.tails

    def engaged(self) -> float:
        """Share of the engaged length still held, given the tail that has drawn furthest."""
        if self.slides or self.archetype.kind is Kind.STOPPER:
            return 1.0
        left = min(self.tails[k] - self.drawn[k] for k in self.tails)
        length = self.archetype.engaged_d * self.diameter_mm
        return min(1.0, max(0.0, (left + length) / length))

    def slip_load(self) -> float:
        """Load at which it slips next; a backup takes over when the tail has drawn up to it."""
        engaged = self.engaged()
        share = slip_share(
            self.archetype, self.cord, self.fitness, engaged, ratio=self.ratio, seat_d=self.seat_d
        )
        load = share * self.cord_n
        if self.backup_n and engaged < 1.0 and load < self.backup_n:
            return self.backup_n
        return load

    def overcome(self, load_n: float) -> None:
        """A load that a backup drawn up against the knot could not hold goes through it."""
        if self.engaged() < 1.0 and load_n >= self.backup_n:
            self.backup_n = 0.0

    def gone(self) -> bool:
        """Whether it has slid off what it held, or run out of engaged length."""
        if self.archetype.kind is Kind.STOPPER:
            return self.slips > 0
        if self.slides:
            far = SLIDE_D if self.archetype.kind in SLIDES else self.archetype.engaged_d
            return self.slid_mm > far * self.diameter_mm
        return self.engaged() <= 0.0

    def slide(self, moved_mm: float, load_n: float) -> None:
        """Record a slip of some length under a load, with its heat and its glaze."""
        self.slid_mm += moved_mm
        self.heat_j += load_n * moved_mm / 1000.0
        if self.running in self.drawn:
            self.drawn[self.running] += moved_mm
        if (
            self.archetype.kind in SLIDES
            and not self.glazed
            and self.slid_mm > GLAZE_D * self.diameter_mm
        ):
            self.glazed = True
            self.fitness *= 0.8

    @property
    def fused(self) -> bool:
        """Whether slip work has melted it: over 110 J for every gram engaged."""
        grams = 0.65e-3 * self.archetype.engaged_d * self.diameter_mm**3
        return self.cord.melts and self.heat_j > 110.0 * grams
