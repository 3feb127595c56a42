"""The queue after it was made: steps recorded, the rest shuffled anew, void specimens replaced."""

from __future__ import annotations

import zlib
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from bruiser.core.errors import Refused
from bruiser.core.planning.pull_order import insert_later, order_pulls
from bruiser.core.records.preparation import Preparation, PrepStep
from bruiser.core.records.records import Specimen
from bruiser.workshop.logbook.commands import (
    Command,
    DropSpecimen,
    MoveInQueue,
    PlanSpecimen,
    Prepare,
    Together,
)
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.waiting import Waiting
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.planning import candidates


def record_step(workshop: Workshop, specimens: Sequence[Specimen], step: PrepStep, by: str) -> None:
    """Record a step of the preparation for some specimens, as one step to undo.

    Raises
    ------
    Refused
        If nobody is named: who tied and who checked stands with every result.
    """
    if not by.strip() and step is not PrepStep.SOAKING:
        raise Refused("Say who: initials are enough.")
    parts = [
        Prepare(
            Preparation(
                id=workshop.new_id(),
                specimen_id=s.id,
                made_at=workshop.now(),
                step=step,
                by=by.strip(),
            )
        )
        for s in specimens
    ]
    if parts:
        workshop.do(Together(tuple(parts), f"record {len(parts)} as {step.value}"))


def reshuffle(workshop: Workshop, logbook: Logbook, seed: int) -> None:
    """Put what waits into a new shuffled order; what was pulled keeps its place."""
    waiting = logbook.waiting
    kinds = [w.kind for w in waiting]
    placed = order_pulls(candidates(kinds), (), np.random.default_rng(seed))
    places = sorted(w.place for w in waiting)
    after = {waiting[int(p.key)].specimen_id: places[p.position - 1] for p in placed}
    moved = _moved(waiting, after)
    if moved:
        workshop.do(MoveInQueue(moved, f"shuffle the queue with seed {seed}"))


def _moved(waiting: Sequence[Waiting], after: Mapping[str, int]) -> tuple[tuple[str, int], ...]:
    """The specimens that stand at another place than before, with that."""
    return tuple(
        (w.specimen_id, after[w.specimen_id]) for w in waiting if after[w.specimen_id] != w.place
    )


def drop_waiting(workshop: Workshop, logbook: Logbook, ids: Sequence[str]) -> None:
    """Take specimens out of the queue.

    Raises
    ------
    Refused
        If one of them was pulled, cut or prepared: what was done is kept.
    """
    entries = logbook.with_ids(ids)
    for entry in entries:
        if entry.pull is not None or entry.ledger or entry.prepared:
            raise Refused(
                f"{entry.specimen.code} was begun: it stays.",
                "Pull it, or make it void with a reason.",
            )
    parts = tuple(DropSpecimen(entry.specimen) for entry in entries)
    if parts:
        workshop.do(Together(parts, f"drop {len(parts)} from the queue"))


def replacement(workshop: Workshop, logbook: Logbook, void: Specimen) -> tuple[Command, ...]:
    """The commands that put another specimen in the place of a void one, at a random later place.

    The place follows from the void specimen's id, so that it can be found again; the specimen's
    note names it. Pair mates are cut already: the new one stands alone.
    """
    waiting = logbook.waiting
    seed = zlib.crc32(void.id.encode())
    rng = np.random.default_rng(seed)
    made = replace(
        void,
        id=workshop.new_id(),
        code=f"S-{logbook.last_number() + 1:03d}",
        seed=int(rng.integers(1, 2**31)),
        pair="",
        replaces_id=void.id,
        note=f"in the place of {void.code}, place seed {seed}",
    )
    order = insert_later([w.specimen_id for w in waiting], made.id, 0, rng)
    first = logbook.last_place(pulled=True)
    first = min([first + 1, *(w.place for w in waiting)])
    places = {key: first + n for n, key in enumerate(order)}
    made = replace(made, queue_position=places.pop(made.id))
    return (PlanSpecimen(made), MoveInQueue(_moved(waiting, places)))


def replace_void(workshop: Workshop, logbook: Logbook) -> int:
    """Replace every void specimen that was not replaced; returns how many."""
    found = logbook.to_replace()
    for entry in found:
        parts = replacement(workshop, logbook, entry.specimen)
        workshop.do(Together(parts, f"replace {entry.specimen.code}"))
        logbook = read_logbook(workshop)
    return len(found)
