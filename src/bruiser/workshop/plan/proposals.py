"""Specimens that were proposed: those that wait, and those that confirmed a winner.

A specimen says so in its note, beside the order's seed, as every planned one does.
"""

from __future__ import annotations

from collections.abc import Sequence

from bruiser.core.choice.next_block import CONFIRM_PULLS
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook

PROPOSED = "proposed next"
"""How the note of a specimen begins that was proposed."""
CONFIRMS = "proposed next to confirm"
"""And of one that confirms the winner."""


def still_waiting(entries: Sequence[Entry]) -> int:
    """How many that were proposed are not pulled and inspected yet."""
    return sum(
        e.specimen.note.startswith(PROPOSED) and e.stage in (Stage.PLANNED, Stage.PULLED)
        for e in entries
    )


def confirmed_in(entries: Sequence[Entry]) -> tuple[str, int, int]:
    """The knot last confirmed, by id, and how many fresh pulls of it and of plain rope count.

    Parameters
    ----------
    entries : sequence of Entry
        The specimens of one lot in queue order.
    """
    made = [
        e
        for e in entries
        if e.specimen.note.startswith(CONFIRMS)
        and e.stage is Stage.INSPECTED
        and e.excluded is None
    ]
    tied = [e.specimen.knot_a.id for e in made if e.specimen.knot_a is not None]
    if not tied:
        return "", 0, 0
    return tied[-1], tied.count(tied[-1]), len(made) - len(tied)


def is_confirmed(logbook: Logbook, lot_id: str, knot_id: str) -> bool:
    """Whether a knot was confirmed in a lot by fresh pulls."""
    winner, pulls, _ = confirmed_in(logbook.of_lots((lot_id,)))
    return winner == knot_id and pulls >= CONFIRM_PULLS
