"""Readings a method takes while it runs, beyond the trace and the findings afterwards."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.layouts import End
from bruiser.core.records.records import JamLevel


class Takes(StrEnum):
    """What a reading is of."""

    UNTYING = "untying"
    CYCLE = "cycle"
    SHAKE = "shake"
    HELD = "held"
    SLID = "slid"
    TWO_LOADS = "two loads"
    KEPT = "kept"
    RELEASE = "release"


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One reading of a method.

    Parameters
    ----------
    number : int
        Which step, cycle or shake it was taken at, from 1.
    load_n : float
        Load it belongs to: the peak seen, the level held, the load at which it slid.
    value : float or None
        Seconds to untie; draw or creep in metre; seconds held; load in the hand line or to
        release in newton; share of the load kept; 1 for slid and 0 for held.
    end, level : End, JamLevel or None
        Of an untying attempt: the knot and what it took.
    """

    id: str
    pull_id: str
    made_at: str
    takes: Takes
    number: int
    load_n: float
    value: float | None = None
    end: End | None = None
    level: JamLevel | None = None
    note: str = ""


def survived(readings: Sequence[Reading], takes: Takes) -> int:
    """How many cycles or shakes were gone through whole."""
    return max((r.number for r in readings if r.takes is takes), default=0)


BY_HAND = (JamLevel.SHAKEN, JamLevel.HAND, JamLevel.WORKED)


def opens_by_hand(level: JamLevel) -> bool:
    """Whether a knot still opens without a tool."""
    return level in BY_HAND


def jams_from_n(readings: Sequence[Reading], end: End) -> float | None:
    """Load from which a knot no longer opened by hand; None while it did at every step."""
    tried = [r for r in readings if r.takes is Takes.UNTYING and r.end is end]
    hard = [r.load_n for r in tried if r.level is not None and not opens_by_hand(r.level)]
    return min(hard, default=None)
