"""What the analysis of a trace says, and the settings it said it with."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]


class TraceEnd(StrEnum):
    """How the trace itself ends, in the analysis' opinion."""

    BROKE = "broke"
    RAN_OUT = "ran_out"
    STOPPED = "stopped"
    LOST = "lost"


TRACE_END_WORDS: dict[TraceEnd, str] = {
    TraceEnd.BROKE: "broke",
    TraceEnd.RAN_OUT: "ran out",
    TraceEnd.STOPPED: "was stopped, still holding",
    TraceEnd.LOST: "ended in a lost signal",
}

FLAG_WORDS: dict[str, str] = {
    "clipped": "the load cell was at its limit: the peak is at least this",
    "dropout": "readings are missing",
    "stuck": "the reading stood still while the bench moved",
    "spikes": "single wild readings were passed over",
    "disconnected": "the signal was lost before the end",
    "undersampled": "too few readings to catch the peak or the break; look for yourself",
    "drift": "the zero moved during the pull",
    "no_zero": "nothing at rest before the pull: the zero is a guess",
    "reversed_columns": "travel falls while load rises: two columns may be swapped",
    "implausible_rate": "the time cannot be in seconds: check its unit",
    "strands": "it parted strand by strand; the first is taken",
    "capsize": "the knot changed form under load",
    "clock": "the clock went backwards: time was rebuilt from the count",
    "no_travel": "no travel was recorded: no stiffness, energy or rate",
}


@dataclass(frozen=True, kw_only=True)
class TraceSettings:
    """What the analysis goes by; every result can be had again with others.

    Parameters
    ----------
    diameter_m : float or None
        Of the cord, where it is known.
    onset_travel_m : float or None
        Travel without a new load record that makes a drop a slip; None for max(3 mm, 0.6 d).
    slip_share : float
        Smallest drop that counts, as a share of the peak.
    break_share : float
        Drop from the local top that a break has at least.
    mean_s : float
        Window of the running mean.
    bedding_share, bedding_size : float
        Below this share of the peak a drop under this size is bedding in.
    capsize_share, capsize_d : float
        Drop and travel to re-load, in diameters, of a capsize.
    """

    diameter_m: float | None = None
    onset_travel_m: float | None = None
    slip_share: float = 0.004
    break_share: float = 0.27
    mean_s: float = 0.005
    bedding_share: float = 0.30
    bedding_size: float = 0.10
    capsize_share: float = 0.19
    capsize_d: float = 0.2

    @property
    def onset_m(self) -> float:
        """Travel without a new load record that makes a drop a slip."""
        if self.onset_travel_m is not None:
            return self.onset_travel_m
        return max(0.003, 0.6 * (self.diameter_m or 0.0))

    @property
    def capsize_m(self) -> float:
        """Travel to re-load after a capsize."""
        return self.capsize_d * (self.diameter_m or 0.008)


@dataclass(frozen=True, kw_only=True, slots=True)
class Slip:
    """A sudden loss of load that the specimen recovered from.

    Parameters
    ----------
    released_m : float
        Length it released: the drop over the stiffness with which it was loaded again.
    """

    index: int
    time_s: float
    load_n: float
    drop_n: float
    released_m: float = 0.0


@dataclass(frozen=True, kw_only=True, slots=True)
class TraceResult:
    """What the analysis read off a trace; loads are after the zero is taken off.

    Parameters
    ----------
    capsized, capsize_n : bool, float or None
        Whether the knot changed form under load, and at which.
    preload_n : float
        Load at the end of seating: where the drops of bedding in end.
    stiffness_n_per_m : float
        Secant from 10 to 50 % of the peak; 0 without travel.
    tail_draw_m : float or None
        What the tail gauge moved, where there is one.
    advantage : float or None
        Load over that of the second channel, where there is one.
    draw_by_load_m : tuple of float
        What the tail gauge had moved at 1/20, 2/20, ... of the peak; empty without one.
    """

    zero_n: float
    noise_n: float
    peak_n: float
    peak_index: int
    peak_time_s: float
    end: TraceEnd
    end_index: int
    end_time_s: float
    slips: tuple[Slip, ...]
    first_slip_n: float | None
    travel_to_peak_m: float
    energy_j: float
    rate_m_s: float
    flags: tuple[str, ...]
    capsized: bool = False
    capsize_n: float | None = None
    preload_n: float = 0.0
    stiffness_n_per_m: float = 0.0
    sample_rate_hz: float = 0.0
    start_index: int = 0
    tail_draw_m: float | None = None
    advantage: float | None = None
    draw_by_load_m: tuple[float, ...] = ()

    @property
    def doubts(self) -> tuple[str, ...]:
        """Every flag in words."""
        return tuple(FLAG_WORDS.get(flag, flag) for flag in self.flags)
