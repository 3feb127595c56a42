"""Specimens counted by lot, role, method and stage."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence

from bruiser.core.records.methods import METHOD_OF
from bruiser.core.records.records import Role
from bruiser.store.questions import TallyRow
from bruiser.workshop.logbook.entries import Stage

BEGUN = (Stage.RUNNING, Stage.PULLED, Stage.INSPECTED, Stage.VOID)
"""Stages of specimens that do not wait any more."""


class _OfLot:
    """The counts of one lot."""

    def __init__(self, rows: Iterable[TallyRow]) -> None:
        self.rows = tuple(row for row in rows if row.count)
        self.counts: Counter[tuple[str, str]] = Counter()
        for row in self.rows:
            self.counts[row.stage, row.role] += row.count
        self.straight = frozenset(row.stage for row in self.rows if _is_straight(row))


def _is_straight(row: TallyRow) -> bool:
    return row.role == Role.BASELINE and not METHOD_OF[row.method].fixture


class Tally:
    """How many specimens there are of what."""

    def __init__(self, rows: Iterable[TallyRow] = ()) -> None:
        by_lot: defaultdict[str, list[TallyRow]] = defaultdict(list)
        for row in rows:
            by_lot[row.lot_id].append(row)
        self._take({lot_id: _OfLot(own) for lot_id, own in by_lot.items()})

    def _take(self, lots: Mapping[str, _OfLot]) -> None:
        self._lots = lots
        self._of_all: Counter[tuple[str, str]] = Counter()
        for lot in lots.values():
            self._of_all.update(lot.counts)

    def with_changes(self, changed: Sequence[TallyRow]) -> Tally:
        """The counts after some of them changed; a count that fell to nothing is there with 0."""
        if not changed:
            return self
        lots = dict(self._lots)
        for lot_id in {row.lot_id for row in changed}:
            known = {(r.role, r.method, r.stage): r for r in self.of_lot(lot_id)}
            known |= {(r.role, r.method, r.stage): r for r in changed if r.lot_id == lot_id}
            lots[lot_id] = _OfLot(known.values())
        made = Tally()
        made._take(lots)
        return made

    @property
    def rows(self) -> tuple[TallyRow, ...]:
        """Every count that is not nothing."""
        return tuple(row for lot in self._lots.values() for row in lot.rows)

    def of_lot(self, lot_id: str) -> Sequence[TallyRow]:
        """The counts of one lot."""
        return self._lots[lot_id].rows if lot_id in self._lots else ()

    def straight(self, lot_id: str) -> frozenset[str]:
        """Stages at which a lot has plain rope pulled straight, over nothing."""
        return self._lots[lot_id].straight if lot_id in self._lots else frozenset()

    def count(self, *stages: Stage, lot_id: str | None = None, role: Role | None = None) -> int:
        """How many stand at these stages, or at any; of a lot and a role, or of all."""
        counts = self._of_all
        if lot_id is not None:
            counts = self._lots[lot_id].counts if lot_id in self._lots else Counter()
        return _sum(counts, stages, role)

    def lots(self, *stages: Stage, role: Role | None = None) -> Counter[str]:
        """How many of each lot stand at these stages, or at any."""
        found = {lot_id: _sum(lot.counts, stages, role) for lot_id, lot in self._lots.items()}
        return Counter({lot_id: number for lot_id, number in found.items() if number})

    @property
    def ever_pulled(self) -> bool:
        """Whether anything was pulled."""
        return self.count(*BEGUN) > 0


def _sum(counts: Mapping[tuple[str, str], int], stages: Sequence[Stage], role: Role | None) -> int:
    return sum(
        number
        for (stage, its_role), number in counts.items()
        if (not stages or stage in stages) and (role is None or its_role == role)
    )
