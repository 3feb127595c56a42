"""How long the bench is busy: steps of a specimen, learned from recorded times, and the end."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum

import numpy as np

ENOUGH_TIMES = 3


class Step(StrEnum):
    """What takes time at the bench."""

    TIE = "tie and dress"
    SET = "set and check"
    MOUNT = "mount"
    PULL = "pull"
    INSPECT = "inspect"
    UNTIE = "untie"
    FIXTURE = "change a fixture"


DEFAULT_S: dict[Step, float] = {
    Step.TIE: 120.0,
    Step.SET: 60.0,
    Step.MOUNT: 60.0,
    Step.PULL: 60.0,
    Step.INSPECT: 60.0,
    Step.UNTIE: 60.0,
    Step.FIXTURE: 300.0,
}


@dataclass(frozen=True)
class StepTime:
    """Time of a step in second, and from how many recorded ones; 0 is the stated default."""

    seconds: float
    count: int = 0


def learn(recorded: Mapping[Step, Sequence[float]]) -> dict[Step, StepTime]:
    """Time of every step: the median of recorded ones from three on, else the default.

    Parameters
    ----------
    recorded : mapping
        Seconds by step.
    """
    found = {}
    for step, default in DEFAULT_S.items():
        times = [t for t in recorded.get(step, ()) if t > 0]
        enough = len(times) >= ENOUGH_TIMES
        seconds = float(np.median(times)) if enough else default
        found[step] = StepTime(seconds, len(times) if enough else 0)
    return found


def pull_seconds(travel_m: float, rate_m_s: float) -> float:
    """Time under way at a rate: travel to the break, and back."""
    return 2.0 * travel_m / rate_m_s


@dataclass(frozen=True)
class Job:
    """One specimen's time at the bench.

    Parameters
    ----------
    seconds : float
        From tying to untying.
    soak_s : float
        Conditioning before it may be pulled; 0 for none.
    keep_s : float
        How long after conditioning it may still be pulled; infinite for always.
    """

    key: str
    seconds: float
    soak_s: float = 0.0
    keep_s: float = math.inf


@dataclass(frozen=True)
class Slot:
    """When a specimen is at the bench, and its conditioning window."""

    key: str
    start: datetime
    end: datetime
    soak_from: datetime | None = None
    ready_from: datetime | None = None
    too_old_after: datetime | None = None
    before_hours: bool = field(default=False)


def schedule(jobs: Sequence[Job], begin: datetime, hours_a_day: float) -> list[Slot]:
    """Lay jobs one after another over working days.

    Parameters
    ----------
    jobs : sequence of Job
        In the order of the pulls.
    begin : datetime
        First minute of the first day; every day begins at that hour. Weekends count as days.
    hours_a_day : float
        Above zero.

    Returns
    -------
    list of Slot
        A job that does not fit into the rest of a day begins the next; one longer than a day fills
        it. Soaking is begun so that the specimen is ready when its turn comes; `before_hours` says
        that this is before the day's work.

    Raises
    ------
    ValueError
        If the day has no hours.
    """
    if hours_a_day <= 0:
        raise ValueError("a working day needs hours")
    day = timedelta(hours=hours_a_day)
    opens, at = begin, begin
    slots = []
    for job in jobs:
        length = timedelta(seconds=job.seconds)
        if at > opens and at + length > opens + day:
            opens += timedelta(days=1)
            at = opens
        soak_from = ready = old = None
        if job.soak_s > 0:
            ready = at
            soak_from = at - timedelta(seconds=job.soak_s)
            old = None if math.isinf(job.keep_s) else at + timedelta(seconds=job.keep_s)
        early = soak_from is not None and soak_from < opens
        slots.append(Slot(job.key, at, at + length, soak_from, ready, old, early))
        at += length
    return slots
