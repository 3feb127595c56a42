"""A pull at one moment: where it stands, what it shows, and where it is stopped."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.records import PullEnd
from bruiser.rig.instrument import Stop


class Phase(StrEnum):
    """Where a pull stands."""

    READY = "ready"
    ARMED = "armed"
    PULLING = "pulling"
    HELD = "held"
    SLACKING = "slacking"
    GAVE = "gave"
    ENDED = "ended"


@dataclass(frozen=True)
class Limits:
    """Where a pull is stopped by the application, besides the bench's own limits.

    Parameters
    ----------
    time_s : float
        Longest time the bench may be moving or holding under load, counted in samples.
    """

    load_n: float = math.inf
    travel_m: float = math.inf
    time_s: float = math.inf

    def reached(self, load_n: float, travel_m: float, time_s: float) -> PullEnd | None:
        """Which limit is reached, if any."""
        if load_n >= self.load_n:
            return PullEnd.LOAD_LIMIT
        if travel_m >= self.travel_m:
            return PullEnd.TRAVEL_LIMIT
        return PullEnd.TIME_LIMIT if time_s >= self.time_s else None


@dataclass(frozen=True, kw_only=True)
class Live:
    """What the bench shows at one moment; loads after the zero is taken off.

    Parameters
    ----------
    rate_m_s : float
        Travel rate over the last half second.
    at_target : bool
        Whether the load or position it was sent to is reached.
    limit : PullEnd or None
        The application's own limit that stopped it.
    slips : tuple of (int, float)
        Sample and load at each slip seen so far.
    drawn_m : float or None
        What the tail gauge shows, where the bench has one.
    last_n : float
        The last load that was read before what is shown went blank.
    """

    phase: Phase
    load_n: float
    highest_n: float
    travel_m: float
    samples: int
    samples_lost: int
    load_is_on: bool
    stopped_by: Stop
    fault: str
    rate_m_s: float = 0.0
    at_target: bool = False
    limit: PullEnd | None = None
    slips: tuple[tuple[int, float], ...] = ()
    drawn_m: float | None = None
    last_n: float = 0.0
