"""An adaptive jam ladder: the load of the next try from all tries so far, a fresh specimen each.

Notes
-----
The first try goes to 45 % of the plain rope; each further one to the posterior median of J50 (the
ordinal fit of :mod:`bruiser.core.behaviour.jamming`), to the nearest 5 %, not below 10 % and not
above a cap. It ends from four tries on when the 95 % interval spans less than a factor of 2.5, or
when J50 lies above the cap with a chance of 95 %, or at sixteen. By simulation six such tries tell
J50 as well as sixteen of a fixed ladder (docs/next-pull.md).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from bruiser.core.behaviour.jamming import fit_jams
from bruiser.core.statistics.strength import Interval

FIRST, LEAST, STEP = 0.45, 0.10, 0.05
LEAST_TRIES, MOST_TRIES, ENOUGH_TRIES = 4, 16, 6
SPAN = 2.5
SURE = 0.95
USUAL_CAP = 0.60
LOW_CAP = 0.45
"""A cap so low leaves it open in a quarter of the cases."""


class LadderEnd(StrEnum):
    """Why a ladder is over."""

    NARROW = "narrow"
    ABOVE_CAP = "above the cap"
    MOST = "most tries"


@dataclass(frozen=True, kw_only=True)
class JamTry:
    """One fresh knot: the share of the plain rope it had seen, and what untying took, 0 to 3."""

    share: float
    level: int


@dataclass(frozen=True, kw_only=True)
class LadderState:
    """Where a ladder stands.

    Parameters
    ----------
    next_share : float or None
        The load of the next try as a share of the plain rope; None when it is over.
    j50 : Interval or None
        The running J50; None before the first try.
    """

    tries: int
    next_share: float | None
    j50: Interval | None
    cap: float
    end: LadderEnd | None = None


def next_try(tries: Sequence[JamTry], cap: float = USUAL_CAP) -> LadderState:
    """Where a ladder stands, and the load of the next try."""
    cap = max(cap, LEAST)
    if not tries:
        return LadderState(tries=0, next_share=_rounded(FIRST, cap), j50=None, cap=cap)
    fit = fit_jams(
        np.array([t.share for t in tries], dtype=np.float64), np.array([t.level for t in tries])
    )
    j50, end = fit.j50, None
    if len(tries) >= LEAST_TRIES and j50.high / j50.low < SPAN:
        end = LadderEnd.NARROW
    elif len(tries) >= LEAST_TRIES and fit.above(cap) >= SURE:
        end = LadderEnd.ABOVE_CAP
    elif len(tries) >= MOST_TRIES:
        end = LadderEnd.MOST
    return LadderState(
        tries=len(tries),
        next_share=None if end is not None else _rounded(j50.value, cap),
        j50=j50,
        cap=cap,
        end=end,
    )


def _rounded(share: float, cap: float) -> float:
    """To the nearest step, not above the cap and not below the least."""
    most = np.floor(cap / STEP + 1e-9) * STEP
    return float(np.clip(round(share / STEP) * STEP, LEAST, max(most, LEAST)))
