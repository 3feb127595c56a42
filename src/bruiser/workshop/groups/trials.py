"""Tying trials of a campaign, by knot and lot."""

from __future__ import annotations

from dataclasses import dataclass, field

from bruiser.core.records.preparation import TyingTrial
from bruiser.core.records.records import Knot, Lot
from bruiser.workshop.logbook.logbook import Logbook


@dataclass(frozen=True)
class Trials:
    """Tying trials of the campaign.

    Parameters
    ----------
    rows : dict
        By knot id and lot id, each with the specimen it belongs to.
    pulls, inspected : dict
        The pull of each of those specimens, by its id; the second only of inspected ones.
    """

    rows: dict[tuple[str, str], list[tuple[str, TyingTrial]]] = field(default_factory=dict)
    pulls: dict[str, str] = field(default_factory=dict)
    inspected: dict[str, str] = field(default_factory=dict)

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
    for row in logbook.trial_rows():
        found.rows.setdefault((row.knot_id, row.lot_id), []).append((row.specimen_id, row.trial))
        if row.pull_id is not None:
            found.pulls[row.specimen_id] = row.pull_id
            if row.found:
                found.inspected[row.specimen_id] = row.pull_id
    return found
