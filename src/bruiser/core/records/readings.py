"""Readings a method takes while it runs, beyond the trace and the findings afterwards."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.layouts import End
from bruiser.core.records.records import JamLevel

WOULD_NOT = "it would not"
"""Note of a reading whose force did not do what was tried: it would not free, slide, or pass."""


GAVE_NOTE = "gave"
"""Note of a slide during which something gave: the finding says whether it slid or broke."""


class Sheath(StrEnum):
    """How the sheath looks where a grip slid, or where it gripped."""

    CLEAN = "clean"
    GLAZED = "glazed"
    TORN = "torn"


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
    BY_HAND = "slid by hand"
    SHEATH = "sheath"
    MOVED = "force to move"
    WIDTH = "width"
    LEDGE = "over a ledge"


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
        release, to slide by hand, to move a binding or to bring a knot over a ledge in newton;
        greatest width in metre; share of the load kept; 1 for slid and 0 for held.
    end, level : End, JamLevel or None
        Of an untying attempt: the knot and what it took.
    note : str
        What is said beside it; of a sheath looked at, the :class:`Sheath` it is.
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

    @property
    def sheath(self) -> Sheath | None:
        """How the sheath looked; None for any other reading."""
        return Sheath(self.note) if self.takes is Takes.SHEATH else None

    @property
    def refused(self) -> bool:
        """Whether what was tried with this force did not happen."""
        return self.note.startswith(WOULD_NOT)


REFUSABLE = (Takes.RELEASE, Takes.BY_HAND, Takes.LEDGE)
"""Readings of a force that may not have been enough."""


def survived(readings: Sequence[Reading], takes: Takes) -> int:
    """How many cycles or shakes were gone through whole."""
    return max((r.number for r in readings if r.takes is takes), default=0)


BY_HAND = (JamLevel.SHAKEN, JamLevel.HAND, JamLevel.WORKED)


def never_untied(level: JamLevel | None) -> bool:
    """Whether a knot was not untied: it came open with a tool, but not cut or fused."""
    return level in (JamLevel.CUT, JamLevel.FUSED)


def opens_by_hand(level: JamLevel) -> bool:
    """Whether a knot still opens without a tool."""
    return level in BY_HAND


def jams_from_n(readings: Sequence[Reading], end: End) -> float | None:
    """Load from which a knot no longer opened by hand; None while it did at every step."""
    tried = [r for r in readings if r.takes is Takes.UNTYING and r.end is end]
    hard = [r.load_n for r in tried if r.level is not None and not opens_by_hand(r.level)]
    return min(hard, default=None)
