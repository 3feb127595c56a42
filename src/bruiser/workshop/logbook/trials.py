"""Tying trials of a campaign, by knot and lot."""

from __future__ import annotations

from dataclasses import dataclass, field

from bruiser.core.records.preparation import PrepStep, TyingTrial
from bruiser.core.records.records import Knot, Lot
from bruiser.workshop.logbook.entries import Logbook


@dataclass(frozen=True)
class Trials:
    """Tying trials of the campaign: by knot id and lot id, with the specimen each belongs to."""

    rows: dict[tuple[str, str], list[tuple[str, TyingTrial]]] = field(default_factory=dict)

    def of(self, knot: Knot, lot: Lot) -> tuple[list[tuple[str, TyingTrial]], bool]:
        """Trials in a lot; those in other lots where there are none, and whether that is so."""
        own = self.rows.get((knot.id, lot.id), [])
        if own:
            return own, False
        others = [t for (k, _), rows in self.rows.items() if k == knot.id for t in rows]
        return others, bool(others)


def trials_of(logbook: Logbook) -> Trials:
    """Every tying trial that was not taken back."""
    found = Trials()
    for entry in logbook.entries:
        s = entry.specimen
        if s.knot_a is None:
            continue
        own = found.rows.setdefault((s.knot_a.id, s.lot.id), [])
        for step in entry.prepared:
            if step.step is PrepStep.TRIAL and step.trial is not None and not step.withdrawn:
                own.append((s.id, step.trial))
    return found
