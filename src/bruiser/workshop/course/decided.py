"""Criteria that are decided before their last pull, and what of the queue is not needed then."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.choice.criteria import Met
from bruiser.core.memory import Memory
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Specimen
from bruiser.core.words import count
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.waiting import Waiting
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.proposals import PROPOSED
from bruiser.workshop.plan.queueing import drop_waiting
from bruiser.workshop.results.judging import Judged, early_words, judge_lot
from bruiser.workshop.results.lot_results import all_results


@dataclass(frozen=True, kw_only=True)
class Decided:
    """A group whose criteria are all decided, with what still waits of it.

    Parameters
    ----------
    rest : tuple of str
        Specimens, by id, that wait and were not begun.
    begun : int
        How many more wait that were cut or tied already: they stay.
    """

    name: str
    lot_name: str
    words: str
    rest: tuple[str, ...]
    begun: int

    @property
    def sentence(self) -> str:
        """What is said of it at the bench."""
        said = f"{self.name} in {self.lot_name}: {self.words}."
        if self.begun:
            said += f" {count(self.begun, 'specimen')} more of it begun already: they stay."
        return said


def decided_early(logbook: Logbook, memory: Memory) -> tuple[Decided, ...]:
    """Groups with specimens that wait, whose criteria are all decided before their last pull."""
    if not logbook.brief.criteria_in_force:
        return ()
    waiting = [w for w in logbook.waiting if _for_a_criterion(w)]
    lots = tuple(dict.fromkeys(w.kind.lot.id for w in waiting))
    if not lots:
        return ()
    gathered = gather(logbook, lot_ids=lots)
    results = all_results(gathered, lots=lots, memory=memory)
    found = []
    for lot_id in lots:
        by_knot: dict[str, list[Judged]] = {}
        for judged in judge_lot(logbook, results[lot_id], gathered):
            by_knot.setdefault(judged.knot_id, []).append(judged)
        for knot_id, own in by_knot.items():
            mine = [w for w in waiting if _is_of(w.kind, lot_id, knot_id)]
            decided = all(j.result.met is not Met.OPEN for j in own)
            if not mine or not decided or not any(j.result.not_needed for j in own):
                continue
            words = [w for j in own if (w := early_words(j.result))]
            found.append(
                Decided(
                    name=own[0].name,
                    lot_name=results[lot_id].baseline.lot.name,
                    words="; ".join(dict.fromkeys(words)),
                    rest=tuple(w.specimen_id for w in mine if not w.begun),
                    begun=sum(w.begun for w in mine),
                )
            )
    return tuple(found)


def put_back(workshop: Workshop, logbook: Logbook, decided: Decided) -> None:
    """Take the rest out of the queue: its cord stays in stock."""
    drop_waiting(workshop, logbook, decided.rest)


def _for_a_criterion(waiting: Waiting) -> bool:
    """Whether a specimen waits for a criterion to be judged, not to choose a winner."""
    kind = waiting.kind
    return (
        kind.knot_a is not None
        and kind.method.key == MethodPlan().key
        and not waiting.note.startswith(PROPOSED)
    )


def _is_of(kind: Specimen, lot_id: str, knot_id: str) -> bool:
    return kind.lot.id == lot_id and kind.knot_a is not None and kind.knot_a.id == knot_id
