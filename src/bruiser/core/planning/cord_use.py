"""Cord a knot takes and the tail it wants, for a diameter; corrected by measured specimens."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

ENOUGH_MEASURED = 3


@dataclass(frozen=True, kw_only=True)
class CordReading:
    """Cord that was measured in one tied knot of a lot."""

    id: str
    knot_id: str
    lot_id: str
    length_m: float
    made_at: str
    note: str = ""


@dataclass(frozen=True, kw_only=True)
class CordUse:
    """Cord a knot takes, in diameters, by the catalogue and as measured.

    `measured_d` is the mean of the measured knots, None before there are enough; `spread_d` their
    standard deviation.
    """

    catalogue_d: float
    measured_d: float | None
    spread_d: float | None
    count: int

    @property
    def best_d(self) -> float:
        """The figure to cut by: measured where known, else the catalogue's."""
        return self.catalogue_d if self.measured_d is None else self.measured_d

    def length_m(self, diameter_m: float) -> float:
        """Cord in metre for a diameter."""
        return self.best_d * diameter_m


def cord_use(catalogue_d: float, measured_d: Sequence[float]) -> CordUse:
    """Correct the catalogue's figure by measured knots.

    Parameters
    ----------
    catalogue_d : float
        Cord in diameters by the catalogue.
    measured_d : sequence of float
        Measured cord over diameter, one a knot.

    Returns
    -------
    CordUse
        With the measured mean from three readings on: one or two tied knots say more of the
        person who tied them than of the knot.
    """
    count = len(measured_d)
    if count < ENOUGH_MEASURED:
        return CordUse(catalogue_d=catalogue_d, measured_d=None, spread_d=None, count=count)
    mean = math.fsum(measured_d) / count
    spread = math.sqrt(math.fsum((x - mean) ** 2 for x in measured_d) / (count - 1))
    return CordUse(catalogue_d=catalogue_d, measured_d=mean, spread_d=spread, count=count)
