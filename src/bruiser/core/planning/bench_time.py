"""How long the bench is busy: steps of a specimen, learned from recorded times, and the end."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

ENOUGH_TIMES = 3
DAY_S = 86_400.0


class WorkStep(StrEnum):
    """What takes time at the bench."""

    TIE = "tie and dress"
    SET = "set and check"
    MOUNT = "mount"
    PULL = "pull"
    INSPECT = "inspect"
    UNTIE = "untie"
    FIXTURE = "change a fixture"


DEFAULT_S: dict[WorkStep, float] = {
    WorkStep.TIE: 120.0,
    WorkStep.SET: 60.0,
    WorkStep.MOUNT: 60.0,
    WorkStep.PULL: 60.0,
    WorkStep.INSPECT: 60.0,
    WorkStep.UNTIE: 60.0,
    WorkStep.FIXTURE: 300.0,
}


@dataclass(frozen=True)
class StepTime:
    """Time of a step in second, and from how many recorded ones; 0 is the stated default."""

    seconds: float
    count: int = 0


def learn(recorded: Mapping[WorkStep, Sequence[float]]) -> dict[WorkStep, StepTime]:
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


@dataclass(frozen=True, kw_only=True)
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
    earliest_s : float
        Not at the bench before this: its soak cannot have ended.
    """

    key: str
    seconds: float
    soak_s: float = 0.0
    keep_s: float = math.inf
    earliest_s: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Slot:
    """When a specimen is at the bench, in second since the first day's beginning.

    `soak_from_s` is before the day's work where `before_hours` says so.
    """

    key: str
    start_s: float
    end_s: float
    soak_from_s: float | None = None
    too_old_after_s: float | None = None
    before_hours: bool = False


def schedule(jobs: Sequence[Job], hours_a_day: float) -> list[Slot]:
    """Lay jobs one after another over working days.

    Parameters
    ----------
    jobs : sequence of Job
        In the order of the pulls.
    hours_a_day : float
        Above zero. Days begin 24 hours apart; every day is a working day.

    Returns
    -------
    list of Slot
        A job that does not fit into the rest of a day begins the next; one longer than a day fills
        it. One that is not ready at its turn lets the next ready one go first. Soaking
        begins so that the specimen is ready when its turn comes, and it is too old once its time
        to be kept has passed since.

    Raises
    ------
    ValueError
        If the day has no hours.
    """
    if hours_a_day <= 0:
        raise ValueError("a working day needs hours")
    day, opens, at = 3600.0 * hours_a_day, 0.0, 0.0
    slots = []
    waiting = list(jobs)
    while waiting:
        job = next((j for j in waiting if j.earliest_s <= at + 1e-6), None)
        if job is None:
            job = min(waiting, key=lambda j: j.earliest_s)
            at = job.earliest_s
            while at >= opens + day:
                opens += DAY_S
            at = max(at, opens)
        waiting.remove(job)
        if at > opens and at + job.seconds > opens + day + 1e-6:
            opens += DAY_S * max(1.0, math.ceil((at - opens) / DAY_S))
            at = opens
        soak = at - job.soak_s if job.soak_s > 0 else None
        old = at + job.keep_s if job.soak_s > 0 and math.isfinite(job.keep_s) else None
        early = soak is not None and soak < opens
        slots.append(
            Slot(
                key=job.key,
                start_s=at,
                end_s=at + job.seconds,
                soak_from_s=soak,
                too_old_after_s=old,
                before_hours=early,
            )
        )
        at += job.seconds
    return slots
