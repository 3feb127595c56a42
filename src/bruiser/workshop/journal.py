"""The logbook as read: every specimen with its pull, trace and finding, and what waits."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from bruiser.core.records import Finding, Gave, Knot, Lot, Pull, Specimen
from bruiser.core.trace import TraceResult
from bruiser.store import campaigns, pulls
from bruiser.store.traces import Floats
from bruiser.workshop.workshop import Workshop


class Stage(StrEnum):
    """How far a specimen has got, told by its own evidence."""

    PLANNED = "planned"
    RUNNING = "running"
    PULLED = "pulled"
    INSPECTED = "inspected"
    VOID = "void"


@dataclass(frozen=True)
class Entry:
    """One specimen and all that happened to it."""

    specimen: Specimen
    pull: Pull | None = None
    analysis: TraceResult | None = None
    finding: Finding | None = None
    history: tuple[Finding, ...] = ()

    @property
    def stage(self) -> Stage:
        """How far it has got."""
        if self.finding is not None:
            return Stage.VOID if self.finding.gave is Gave.VOID else Stage.INSPECTED
        if self.pull is None:
            return Stage.PLANNED
        return Stage.RUNNING if self.pull.ended_at is None else Stage.PULLED


@dataclass(frozen=True)
class Journal:
    """The campaign's records at one moment."""

    lots: tuple[Lot, ...]
    knots: tuple[Knot, ...]
    entries: tuple[Entry, ...]
    by_pull: dict[str, Entry] = field(default_factory=dict)

    def at(self, stage: Stage) -> tuple[Entry, ...]:
        """Entries at a stage, in queue order."""
        return tuple(e for e in self.entries if e.stage is stage)

    def next_to_pull(self) -> Entry | None:
        """The next specimen for the bench."""
        waiting = self.at(Stage.PLANNED)
        return waiting[0] if waiting else None

    def next_to_inspect(self) -> Entry | None:
        """The pulled specimen that has waited longest for its findings."""
        waiting = [(e.pull.ended_at or "", e) for e in self.at(Stage.PULLED) if e.pull is not None]
        return min(waiting, key=lambda pair: pair[0])[1] if waiting else None

    def siblings(self, specimen: Specimen) -> tuple[Entry, ...]:
        """Inspected specimens of the same lot with the same knots."""
        return tuple(
            e
            for e in self.at(Stage.INSPECTED)
            if e.specimen.lot.id == specimen.lot.id
            and e.specimen.knot_a == specimen.knot_a
            and e.specimen.knot_b == specimen.knot_b
        )


def read_journal(workshop: Workshop) -> Journal:
    """Read the whole logbook in one consistent look."""
    with workshop.file.reading() as connection:
        lots = campaigns.load_lots(connection)
        knots = campaigns.load_knots(connection)
        specimens = campaigns.load_specimens(connection)
        all_pulls = pulls.load_pulls(connection)
        analyses = pulls.load_analyses(connection)
        findings = pulls.load_findings(connection)
    newest = {pull.specimen_id: pull for pull in all_pulls}
    entries = []
    for specimen in specimens:
        pull = newest.get(specimen.id)
        if pull is None:
            entries.append(Entry(specimen))
            continue
        history = tuple(findings.get(pull.id, ()))
        current = history[-1] if history and not history[-1].withdrawn else None
        entries.append(Entry(specimen, pull, analyses.get(pull.id), current, history))
    return Journal(
        tuple(lots),
        tuple(knots),
        tuple(entries),
        {e.pull.id: e for e in entries if e.pull is not None},
    )


@dataclass(frozen=True)
class TraceRecord:
    """A stored trace as it was recorded: load before zero, travel, and the time of each."""

    time_s: Floats
    load_n: Floats
    travel_m: Floats


def read_trace(workshop: Workshop, pull: Pull) -> TraceRecord:
    """Read a pull's samples."""
    with workshop.file.reading() as connection:
        load_n, travel_m = pulls.load_samples(connection, pull.id)
    return TraceRecord(np.arange(len(load_n)) / pull.sample_rate_hz, load_n, travel_m)
