"""Commands: each writes in one transaction, reports what it touched, and knows its inverse."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace

from bruiser.core.preparation import Preparation
from bruiser.core.records import Finding, Specimen
from bruiser.store import campaigns, preparations, pulls
from bruiser.store.campaign_file import Connection


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

    def inverse(self) -> Command | None:
        """The command that takes it back, or None where that makes no sense."""
        return None

    def renewed(self, new_id: str) -> Command:
        """The same command as a redo; append-only rows need a new id."""
        del new_id
        return self


@dataclass(frozen=True)
class PlanSpecimen(Command):
    """Put a specimen into the queue."""

    specimen: Specimen
    title: str = "plan the specimen"

    def apply(self, connection: Connection) -> Changes:
        campaigns.insert_specimen(connection, self.specimen)
        return Changes(frozenset({"specimen"}), (self.specimen.id,))

    def inverse(self) -> Command | None:
        return DropSpecimen(self.specimen)


@dataclass(frozen=True)
class DropSpecimen(Command):
    """Take a specimen that was never pulled out of the queue."""

    specimen: Specimen
    title: str = "drop the specimen"

    def apply(self, connection: Connection) -> Changes:
        campaigns.delete_specimen(connection, self.specimen.id)
        return Changes(frozenset({"specimen"}), (self.specimen.id,))

    def inverse(self) -> Command | None:
        return PlanSpecimen(self.specimen)


@dataclass(frozen=True)
class MoveInQueue(Command):
    """Give specimens new places in the queue; both sides are places by specimen id."""

    after: tuple[tuple[str, int], ...]
    before: tuple[tuple[str, int], ...]
    title: str = "change the order"

    def apply(self, connection: Connection) -> Changes:
        campaigns.place_specimens(connection, dict(self.after))
        return Changes(frozenset({"specimen"}), tuple(k for k, _ in self.after))

    def inverse(self) -> Command | None:
        return MoveInQueue(self.before, self.after, self.title)


@dataclass(frozen=True)
class Prepare(Command):
    """Record a step of the preparation; taking it back adds a row that says so."""

    done: Preparation
    withdrawal_id: str
    title: str = "record the preparation"

    def apply(self, connection: Connection) -> Changes:
        preparations.insert_preparation(connection, self.done)
        return Changes(frozenset({"preparation"}), (self.done.specimen_id,))

    def inverse(self) -> Command | None:
        flipped = not self.done.withdrawn
        back = replace(self.done, id=self.withdrawal_id, note="undone", withdrawn=flipped)
        return Prepare(back, self.done.id, self.title)

    def renewed(self, new_id: str) -> Command:
        done = replace(self.done, id=new_id)
        return replace(self, done=done, withdrawal_id=f"{new_id}-withdrawn")


@dataclass(frozen=True)
class AcceptFinding(Command):
    """Store what was found after a pull."""

    finding: Finding
    withdrawal_id: str
    title: str = "accept the findings"

    def apply(self, connection: Connection) -> Changes:
        pulls.insert_finding(connection, self.finding)
        return Changes(frozenset({"finding"}), (self.finding.pull_id,))

    def inverse(self) -> Command | None:
        return WithdrawFinding(self.finding, self.withdrawal_id)

    def renewed(self, new_id: str) -> Command:
        finding = replace(self.finding, id=new_id, supersedes=self.withdrawal_id)
        return replace(self, finding=finding, withdrawal_id=f"{new_id}-withdrawn")


@dataclass(frozen=True)
class WithdrawFinding(Command):
    """Take a finding back: the entry stays, a new one says it no longer holds."""

    finding: Finding
    id: str
    title: str = "withdraw the findings"

    def apply(self, connection: Connection) -> Changes:
        row = replace(
            self.finding,
            id=self.id,
            supersedes=self.finding.id,
            reason="undone",
            withdrawn=True,
            draws=(),
            inspections=(),
        )
        pulls.insert_finding(connection, row)
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

    def inverse(self) -> Command | None:
        back = [part.inverse() for part in reversed(self.parts)]
        kept = tuple(part for part in back if part is not None)
        return Together(kept, self.title) if len(kept) == len(back) else None

    def renewed(self, new_id: str) -> Command:
        parts = tuple(p.renewed(f"{new_id}-{n}") for n, p in enumerate(self.parts))
        return replace(self, parts=parts)
