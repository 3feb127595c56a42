"""What a plan costs, and its specimens put into the queue in a shuffled order."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np

from bruiser.core.planning.bench_time import (
    Job,
    Slot,
    StepTime,
    WorkStep,
    learn,
    pull_seconds,
    schedule,
)
from bruiser.core.planning.pull_order import Candidate, fixture_changes, order_pulls
from bruiser.core.planning.safety import break_strain_guess
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.records import Role, Specimen
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S
from bruiser.workshop.desk.cutting import cut_length_m, queued_m
from bruiser.workshop.logbook.commands import PlanSpecimen, Together
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.cell_specimens import plan_specimens
from bruiser.workshop.plan.plan_cells import PlanDraft


@dataclass(frozen=True, kw_only=True)
class LotNeed:
    """Cord a plan takes of a lot's hanks, and what is on hand beyond what is queued already."""

    name: str
    specimens: int
    needed_m: float
    on_hand_m: float

    @property
    def short_m(self) -> float:
        """Metres that are missing; 0 when there is enough."""
        return max(0.0, self.needed_m - self.on_hand_m)


@dataclass(frozen=True, kw_only=True)
class Outlook:
    """What a plan costs: specimens, cord by lot, bench hours, and when it would end."""

    specimens: int
    baselines: int
    needs: tuple[LotNeed, ...]
    seconds: float
    ends: datetime | None
    learned: int

    @property
    def short(self) -> tuple[LotNeed, ...]:
        """Lots that are short."""
        return tuple(n for n in self.needs if n.short_m > 0)


def specimen_seconds(specimen: Specimen, times: dict[WorkStep, StepTime]) -> float:
    """Time of one specimen at the bench; the pull from its travel where none was recorded."""
    knots = sum(k is not None for k in (specimen.knot_a, specimen.knot_b))
    pull = times[WorkStep.PULL].seconds
    if times[WorkStep.PULL].count == 0:
        travel = break_strain_guess(specimen.lot.material) * specimen.span_m
        pull = pull_seconds(travel, TRAVEL_RATE_M_S)
    each = sum(times[s].seconds for s in (WorkStep.TIE, WorkStep.SET, WorkStep.UNTIE))
    added = specimen.method.added_seconds(times[WorkStep.UNTIE].seconds, pull)
    return (
        knots * each
        + pull
        + added
        + times[WorkStep.MOUNT].seconds
        + times[WorkStep.INSPECT].seconds
    )


def outlook(logbook: Logbook, draft: PlanDraft, begin: datetime) -> Outlook:
    """What a draft costs, and what is missing for it."""
    made = plan_specimens(logbook, draft)
    times = learn(logbook.recorded_times())
    needs = []
    lengths: dict[tuple[Specimen, str], float] = {}

    def length(s: Specimen, lot_id: str) -> float:
        key = (replace(s, pair=""), lot_id)
        if key not in lengths:
            lengths[key] = cut_length_m(logbook, s, lot_id)
        return lengths[key]

    for stock_id in dict.fromkeys(i for s in made for i in s.stock_ids):
        own = [s for s in made if stock_id in s.stock_ids]
        lot = logbook.lot(stock_id)
        needs.append(
            LotNeed(
                name=lot.name,
                specimens=len(own),
                needed_m=math.fsum(length(s, stock_id) for s in own),
                on_hand_m=max(0.0, logbook.stock.on_hand_m(stock_id) - queued_m(logbook, lot)),
            )
        )
    found = candidates(made)
    placed = order_pulls(found, (), np.random.default_rng(draft.seed))
    by_key = {str(n): s for n, s in enumerate(made)}
    jobs = [_job(p.key, by_key[p.key], times) for p in placed]
    changes = fixture_changes(placed, found)
    seconds = math.fsum(j.seconds for j in jobs) + changes * times[WorkStep.FIXTURE].seconds
    slots = schedule(jobs, draft.hours_a_day)
    return Outlook(
        specimens=len(made),
        baselines=sum(s.role is Role.BASELINE for s in made),
        needs=tuple(needs),
        seconds=seconds,
        ends=begin + timedelta(seconds=slots[-1].end_s) if slots else None,
        learned=sum(t.count for t in times.values()),
    )


def _job(key: str, s: Specimen, times: dict[WorkStep, StepTime]) -> Job:
    keep = math.inf if s.lot.keep_s is None else s.lot.keep_s
    return Job(key=key, seconds=specimen_seconds(s, times), soak_s=s.lot.soak_s or 0.0, keep_s=keep)


def fixture_words(s: Specimen) -> str:
    """What must be mounted for a specimen."""
    held = f"{LAYOUTS[s.layout_key].title}, pin {1000 * s.pin_diameter_m:g} mm"
    return held if s.fixture is None else f"{held}, {s.fixture.name}"


def candidates(made: list[Specimen], *, by_note: bool = False) -> list[Candidate]:
    """Specimens as the order sees them, by their number; those alike are one group.

    Parameters
    ----------
    by_note : bool
        Whether those with another note are another group, as those of a round are.
    """
    return [
        Candidate(
            str(n),
            f"{s.lot.id}/{s.title}/{s.note if by_note else ''}",
            f"{fixture_words(s)}, {s.method.key}",
        )
        for n, s in enumerate(made)
    ]


def timetable(logbook: Logbook, hours_a_day: float, now_s: float) -> dict[str, Slot]:
    """When each specimen of the queue comes to the bench, by its id, if work begins now."""
    times = learn(logbook.recorded_times())
    jobs = []
    alike: dict[int, Job] = {}
    for waiting in logbook.waiting:
        kind = waiting.kind
        if id(kind) not in alike:
            alike[id(kind)] = _job("", kind, times)
        job = alike[id(kind)]
        earliest = job.soak_s
        if waiting.window is not None:
            earliest = max(0.0, waiting.window.ready_s - now_s)
        jobs.append(replace(job, key=waiting.specimen_id, earliest_s=earliest))
    slots = schedule(jobs, hours_a_day)
    return {slot.key: slot for slot in slots}


def queue_plan(workshop: Workshop, logbook: Logbook, draft: PlanDraft) -> list[Specimen]:
    """Put a draft's specimens into the queue in a shuffled order; the seed is kept in their note.

    What is queued already stays where it is; the new ones come after it.
    """
    made = plan_specimens(logbook, draft)
    rng = np.random.default_rng(draft.seed)
    ordered = []
    turns = () if draft.round else draft.technicians
    for place in order_pulls(candidates(made, by_note=draft.round), turns, rng):
        specimen = made[int(place.key)]
        note = f"block {place.block}, order seed {draft.seed}"
        who = place.technician or specimen.note
        if who:
            note += f", {who}"
        if draft.round and specimen.note:
            note += ", round"
        ordered.append(replace(specimen, note=note))
    return queue_in_order(workshop, logbook, ordered, rng)


def queue_in_order(
    workshop: Workshop, logbook: Logbook, ordered: list[Specimen], rng: np.random.Generator
) -> list[Specimen]:
    """Put specimens into the queue as they stand, behind what waits; they get ids and codes."""
    last, number = logbook.last_place(), logbook.last_number()
    queued = [
        replace(
            specimen,
            id=workshop.new_id(),
            code=f"S-{number + at:03d}",
            queue_position=last + at,
            seed=int(rng.integers(1, 2**31)),
        )
        for at, specimen in enumerate(ordered, start=1)
    ]
    if queued:
        parts = tuple(PlanSpecimen(s) for s in queued)
        workshop.do(Together(parts, f"queue {len(queued)} specimens"))
    return queued
