"""Commands: each writes in one transaction and reports what it touched.

How one is taken back is noted row by row while it runs (:mod:`bruiser.store.undo_log`); a command
only says whether it has to stand.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

from bruiser.core.errors import Refused
from bruiser.core.records.preparation import Preparation
from bruiser.core.records.records import Finding, Specimen
from bruiser.store import campaigns, preparations, pulls
from bruiser.store.dependents import needed_by
from bruiser.store.open_campaign import Connection


@dataclass(frozen=True)
class Changes:
    """Which tables a command touched, and the ids of the rows."""

    tables: frozenset[str]
    ids: tuple[str, ...] = ()


class Command(ABC):
    """Something the technician does."""

    title: str = ""

    @abstractmethod
    def apply(self, connection: Connection) -> Changes:
        """Write it."""

    @property
    def undoable(self) -> bool:
        """Whether it can be taken back at all."""
        return True

    def refuse_undo(self, connection: Connection) -> None:  # noqa: B027  (most never refuse)
        """Raise :class:`~bruiser.core.errors.Refused` where what it did has to stand."""


@dataclass(frozen=True)
class PlanSpecimen(Command):
    """Put a specimen into the queue."""

    specimen: Specimen
    title: str = "plan the specimen"

    def apply(self, connection: Connection) -> Changes:
        campaigns.insert_specimen(connection, self.specimen)
        return Changes(frozenset({"specimen"}), (self.specimen.id,))


@dataclass(frozen=True)
class DropSpecimen(Command):
    """Take a specimen that was never pulled out of the queue."""

    specimen: Specimen
    title: str = "drop the specimen"

    def apply(self, connection: Connection) -> Changes:
        found = needed_by(connection, "specimen", self.specimen.id, "tail")
        if found:
            raise Refused(f"{self.specimen.code} is needed by {', '.join(found)}.", "It stays.")
        campaigns.delete_specimen(connection, self.specimen.id)
        return Changes(frozenset({"specimen"}), (self.specimen.id,))


@dataclass(frozen=True)
class MoveInQueue(Command):
    """Give specimens new places in the queue, by their ids."""

    places: tuple[tuple[str, int], ...]
    title: str = "change the order"

    def apply(self, connection: Connection) -> Changes:
        campaigns.place_specimens(connection, dict(self.places))
        return Changes(frozenset({"specimen"}), tuple(k for k, _ in self.places))


@dataclass(frozen=True)
class Prepare(Command):
    """Record a step of the preparation."""

    done: Preparation
    title: str = "record the preparation"

    def apply(self, connection: Connection) -> Changes:
        preparations.insert_preparation(connection, self.done)
        return Changes(frozenset({"preparation"}), (self.done.specimen_id,))


@dataclass(frozen=True)
class AcceptFinding(Command):
    """Store what was found after a pull."""

    finding: Finding
    title: str = "accept the findings"

    def apply(self, connection: Connection) -> Changes:
        earlier = self.finding.supersedes
        if earlier is not None and not pulls.has_finding(connection, earlier):
            raise Refused("What this corrects was taken back meanwhile.", "Look at it again.")
        pulls.insert_finding(connection, self.finding)
        return Changes(frozenset({"finding"}), (self.finding.pull_id,))


@dataclass(frozen=True)
class Together(Command):
    """Several commands as one step: all of them in one transaction, or none."""

    parts: tuple[Command, ...]
    title: str = ""

    def apply(self, connection: Connection) -> Changes:
        done = [part.apply(connection) for part in self.parts]
        tables = frozenset(t for c in done for t in c.tables)
        return Changes(tables, tuple(i for c in done for i in c.ids))

    @property
    def undoable(self) -> bool:
        return all(part.undoable for part in self.parts)

    def refuse_undo(self, connection: Connection) -> None:
        for part in self.parts:
            part.refuse_undo(connection)
