"""The work of a group: all that its pulls tried besides breaking, and what they say of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.core.behaviour.duties import (
    AdvantagePull,
    AdvantageResult,
    BulkPull,
    BulkResult,
    ReleasePull,
    ReleaseResult,
    RetentionPull,
    RetentionResult,
    measure_advantage,
    measure_bulk,
    measure_release,
    measure_retention,
)
from bruiser.core.behaviour.holding import HoldPull, HoldResult, measure_holds
from bruiser.core.statistics.censored import Sample


@dataclass(frozen=True, kw_only=True)
class WorkPulls:
    """The pulls of one group by the work they tried; a pull stands in one of them."""

    slides: tuple[HoldPull, ...] = ()
    seats: tuple[HoldPull, ...] = ()
    releases: tuple[ReleasePull, ...] = ()
    advantages: tuple[AdvantagePull, ...] = ()
    retentions: tuple[RetentionPull, ...] = ()
    bulks: tuple[BulkPull, ...] = ()

    @property
    def any(self) -> bool:
        """Whether there is any."""
        return bool(
            self.slides
            or self.seats
            or self.releases
            or self.advantages
            or self.retentions
            or self.bulks
        )


@dataclass(frozen=True, kw_only=True)
class WorkResult:
    """What a group does besides breaking; None where it was not tried."""

    grip: HoldResult | None = None
    seat: HoldResult | None = None
    release: ReleaseResult | None = None
    advantage: AdvantageResult | None = None
    retention: RetentionResult | None = None
    bulk: BulkResult | None = None


NO_WORK = WorkPulls()
NOTHING_DONE = WorkResult()


def measure_works(groups: Sequence[tuple[WorkPulls, Sample | None]]) -> list[WorkResult]:
    """What several groups do besides breaking.

    Parameters
    ----------
    groups : sequence of (pulls, baseline)
        The pulls of each, and the plain rope of its cord where that was measured.
    """
    grips = measure_holds([(w.slides, base) for w, base in groups])
    seats = measure_holds([(w.seats, base) for w, base in groups])
    return [
        WorkResult(
            grip=grip,
            seat=seat,
            release=measure_release(w.releases),
            advantage=measure_advantage(w.advantages),
            retention=measure_retention(w.retentions),
            bulk=measure_bulk(w.bulks),
        )
        for (w, _), grip, seat in zip(groups, grips, seats, strict=True)
    ]
