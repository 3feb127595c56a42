"""The adaptive jam ladder of a knot in a lot: tries so far, and the next fresh specimen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from bruiser.core.behaviour.jam_ladder import (
    ENOUGH_TRIES,
    LOW_CAP,
    USUAL_CAP,
    JamTry,
    LadderEnd,
    LadderState,
    next_try,
)
from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.memory import Memory
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import Knot, Lot, Specimen
from bruiser.core.words import count
from bruiser.store.questions import EntryQuery
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.commands import MoveInQueue, PlanSpecimen, Together
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.cell_specimens import one_specimen
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.results.lot_results import LotResults, all_results

JAM_TEST = "jam ladder"
"""How the note of a specimen begins that is a try of such a ladder."""
_PREDICTIVE = 1.6449


@dataclass(frozen=True, kw_only=True)
class JamLadder:
    """A ladder of one knot in one lot.

    Parameters
    ----------
    waiting : int
        Tries that wait to be pulled, untied and inspected.
    """

    lot: Lot
    knot: Knot
    ladder: LadderState
    waiting: int = 0


def ladders_begun(logbook: Logbook, memory: Memory) -> tuple[JamLadder, ...]:
    """Every ladder that was begun, the one worked on last first."""
    mine = _all_tries(logbook)
    lots = tuple(dict.fromkeys(e.specimen.lot.id for e in mine))
    if not lots:
        return ()
    results = all_results(gather(logbook, lot_ids=lots), lots=lots, memory=memory)
    pairs: dict[tuple[str, str], list[Entry]] = {}
    for e in mine:
        if e.specimen.knot_a is not None:
            pairs.setdefault((e.specimen.lot.id, e.specimen.knot_a.id), []).append(e)
    found = [(own, _ladder(own, results[lot_id])) for (lot_id, _), own in pairs.items()]
    found.sort(key=lambda pair: -pair[0][-1].specimen.queue_position)
    return tuple(ladder for _, ladder in found)


def ladder_for(logbook: Logbook, lot: Lot, knot: Knot, memory: Memory) -> JamLadder:
    """The ladder of a knot in a lot, begun or not."""
    for one in ladders_begun(logbook, memory):
        if (one.lot.id, one.knot.id) == (lot.id, knot.id):
            return one
    results = all_results(gather(logbook, lot_ids=(lot.id,)), lots=(lot.id,), memory=memory)
    return JamLadder(lot=lot, knot=knot, ladder=next_try((), cap_of(results[lot.id], knot)))


def _all_tries(logbook: Logbook) -> list[Entry]:
    return list(logbook.find(EntryQuery(noted=JAM_TEST)))


def a_try_waits(logbook: Logbook) -> bool:
    """Whether a try is in the queue: cheap to know, unlike where ladders stand."""
    return bool(logbook.find(EntryQuery(stages=(Stage.PLANNED,), noted=JAM_TEST), last=1))


def _ladder(own: Sequence[Entry], results: LotResults) -> JamLadder:
    specimen = own[0].specimen
    knot = specimen.knot_a
    assert knot is not None
    tries = [t for e in own if (t := _try(e, results.baseline.median_n)) is not None]
    waiting = sum(e.stage in (Stage.PLANNED, Stage.RUNNING, Stage.PULLED) for e in own)
    ladder = next_try(tries, cap_of(results, knot))
    return JamLadder(lot=specimen.lot, knot=knot, ladder=ladder, waiting=waiting)


def _try(entry: Entry, baseline_n: float | None) -> JamTry | None:
    """What a try said; None where the knot gave before it was untied."""
    if entry.stage is not Stage.INSPECTED or baseline_n is None or entry.excluded is not None:
        return None
    read = [r for r in entry.readings if r.takes is Takes.UNTYING and r.level in JAM_ORDER]
    if not read:
        return None
    worst = max(read, key=lambda r: JAM_ORDER[r.level] if r.level is not None else 0)
    assert worst.level is not None
    return JamTry(share=worst.load_n / baseline_n, level=JAM_ORDER[worst.level])


def cap_of(results: LotResults, knot: Knot) -> float:
    """The share that 95 of 100 such knots hold, as far as their pulls say; else the usual cap."""
    typical = results.baseline.median_n
    for row in results.knots:
        estimate = row.rated.estimate
        if row.knot.id == knot.id and estimate is not None and typical is not None:
            low = math.exp(estimate.mu - _PREDICTIVE * estimate.sigma) / typical
            return min(max(low, 0.1), 1.0)
    return USUAL_CAP


def try_specimen(logbook: Logbook, at: JamLadder) -> Specimen:
    """The next fresh specimen, without id and code."""
    share = at.ladder.next_share or USUAL_CAP
    values = (("first", share), ("hold", 10.0), ("last", share), ("step", 0.1))
    made = one_specimen(logbook, PlanDraft(), at.lot, at.knot, 1)
    note = f"{JAM_TEST}, try {at.ladder.tries + 1} at {100 * share:.0f} %"
    return replace(made, method=MethodPlan("stepped load", values), note=note)


def queue_try(workshop: Workshop, logbook: Logbook, at: JamLadder) -> Specimen:
    """Put the next try at the head of the queue."""
    waiting = logbook.waiting
    first = min((w.place for w in waiting), default=logbook.last_place() + 1)
    moved = MoveInQueue(tuple((w.specimen_id, w.place + 1) for w in waiting))
    made = replace(
        try_specimen(logbook, at),
        id=workshop.new_id(),
        code=f"S-{logbook.last_number() + 1:03d}",
        queue_position=first,
        seed=logbook.last_number() + 1,
    )
    workshop.do(Together((moved, PlanSpecimen(made)), "queue the next try of the jam ladder"))
    return made


def ladder_words(at: JamLadder) -> str:
    """Where a ladder stands, in a sentence or two."""
    f = at.ladder
    said = f"Jam ladder of {at.knot.title} in {at.lot.name}: {count(f.tries, 'try', 'tries')}"
    if f.j50 is not None:
        high = "over 200" if f.j50.high > 2.0 else f"{100 * f.j50.high:.0f}"
        middle = min(f.j50.value, 2.0)
        said += f"; half jam at about {100 * middle:.0f} % ({100 * f.j50.low:.0f} to {high})"
    said += "."
    if f.end is LadderEnd.ABOVE_CAP:
        said += f" It lies above {100 * f.cap:.0f} %, which these knots hold: enough."
    elif f.end is LadderEnd.NARROW:
        said += " Narrow enough: it is over."
        if f.tries < ENOUGH_TRIES:
            said += f" Below {ENOUGH_TRIES} tries it may still move."
    elif f.end is LadderEnd.MOST:
        said += " That many tries do not tell it more narrowly: it is over."
    elif at.waiting:
        said += f" {count(at.waiting, 'try', 'tries')} wait to be pulled, untied and inspected."
    elif f.next_share is not None:
        said += f" Next: a fresh one at {100 * f.next_share:.0f} %."
    if f.end is None and f.cap <= LOW_CAP:
        said += f" With a cap of {100 * f.cap:.0f} % it may stay open."
    return said
