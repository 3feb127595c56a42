"""All pulls of one knot in one lot, whatever the method: what slipping and jamming look at."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, fields, replace

from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.records import DRESSED, Knot, Lot
from bruiser.workshop.groups.gathering import Gathered, Group, Tried


@dataclass(frozen=True, kw_only=True)
class KnotCase:
    """One knot as tied in one lot, with the groups of every method it was pulled by."""

    lot: Lot
    knot: Knot
    name: str
    groups: tuple[Group, ...]

    @property
    def key(self) -> str:
        """What tells it from others, in one text."""
        return f"{self.lot.id}|{self.name}"

    def that_tell(self, what: Tells) -> tuple[Tried, ...]:
        """The pulls made by methods that can say something."""
        return tuple(t for g in self.groups if tells(g.method, what) for t in g.tried)

    @property
    def content(self) -> Hashable:
        """All it rests on: lot and knot, and of every pull what was tied, found, and read."""
        return (
            self.lot,
            self.knot,
            self.name,
            tuple((g.method, g.key, tuple(_rests_on(t) for t in g.tried)) for g in self.groups),
        )

    @property
    def pull_ids(self) -> tuple[str, ...]:
        """Every pull of it that counts."""
        return tuple(t.finding.pull_id for g in self.groups for t in g.tried)


def _rests_on(t: Tried) -> Hashable:
    """All of a pull, field by field, but for what the bench itself said lay on it."""
    pull = t.entry.pull
    return (
        replace(t.entry, pull=None),
        None if pull is None else replace(pull, remains=None),
        *(getattr(t, f.name) for f in fields(t) if f.name != "entry"),
    )


def knot_cases(gathered: Gathered, lot_id: str) -> tuple[KnotCase, ...]:
    """The knots of a lot, by name; dressings, unlike lines and states are cases of their own."""
    found: dict[str, list[Group]] = {}
    for key, group in gathered.tied[lot_id].items():
        parts = [key.knot]
        parts += [f"to {key.cordage_b}"] if key.cordage_b else []
        parts += [key.dressing] if key.dressing != DRESSED else []
        parts += [key.state] if key.state else []
        found.setdefault(", ".join(parts), []).append(group)
    return tuple(
        KnotCase(lot=own[0].lot, knot=knot, name=name, groups=tuple(own))
        for name, own in sorted(found.items())
        if (knot := own[0].knot) is not None
    )
