"""A logbook whose specimens were all read: what exports, checks and tests look at."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from math import fsum

from bruiser.core.planning.bench_time import WorkStep
from bruiser.core.records.preparation import PrepStep
from bruiser.core.records.records import Specimen
from bruiser.core.records.stock import StockEntry
from bruiser.store import stock
from bruiser.store.lines import FoundRow, LineQuery, Peaks
from bruiser.store.open_campaign import Connection
from bruiser.store.preparations import TrialRow
from bruiser.store.questions import EntryQuery, TallyRow
from bruiser.store.waiting import Queued
from bruiser.workshop.logbook.books import Books, load_books
from bruiser.workshop.logbook.entries import Entry, Stage, are_unsettled, load_entries
from bruiser.workshop.logbook.lines import SORTED_BY, SpecimenLine, in_order, line_of
from bruiser.workshop.logbook.logbook import (
    LATEST,
    Logbook,
    SpecimenKind,
    are_alike,
    data_lines_of,
    kind_of,
    times_of,
)
from bruiser.workshop.logbook.tally import Tally
from bruiser.workshop.logbook.waiting import Waiting, waiting_of


@dataclass(frozen=True, kw_only=True)
class WholeLogbook(Logbook):
    """A logbook whose specimens were all read: for exports, checks and tests."""

    specimens: tuple[Entry, ...] = ()
    whole_ledger: tuple[StockEntry, ...] = ()

    def find(self, asked: EntryQuery, last: int | None = None) -> tuple[Entry, ...]:
        found = tuple(e for e in self.specimens if _is_meant(e, asked))
        return found if last is None else found[max(0, len(found) - last) :]

    def with_ids(self, ids: Collection[str]) -> tuple[Entry, ...]:
        wanted = set(ids)
        return tuple(e for e in self.specimens if e.specimen.id in wanted)

    @cached_property
    def by_pull(self) -> Mapping[str, Entry]:
        return {e.pull.id: e for e in self.specimens if e.pull is not None}

    def every(self) -> Iterator[Entry]:
        return iter(self.specimens)

    @cached_property
    def queued(self) -> tuple[Queued, ...]:
        found = (e.specimen for e in self.at(Stage.PLANNED))
        return tuple(Queued(s.queue_position, s.code, s.id, s.lot.id) for s in found)

    @cached_property
    def waiting(self) -> tuple[Waiting, ...]:
        return tuple(waiting_of(e, self.stock) for e in self.at(Stage.PLANNED))

    @cached_property
    def lines(self) -> tuple[SpecimenLine, ...]:
        return in_order(line_of(e, self.state(e)) for e in self.specimens)

    def line_ids(self, asked: LineQuery) -> list[str]:
        stages = {e.specimen.id: e.stage for e in self.specimens}
        meant = [line for line in self.lines if _is_listed(line, stages, asked)]
        meant.sort(key=SORTED_BY[asked.order.value], reverse=asked.falling)
        return [line.specimen_id for line in meant]

    def lines_of(self, ids: Collection[str]) -> dict[str, SpecimenLine]:
        return {line.specimen_id: line for line in self.lines if line.specimen_id in ids}

    @property
    def unsettled(self) -> tuple[str, ...]:
        found = [(e.history[-1], e.pull) for e in self.specimens if are_unsettled(e.history)]
        found.sort(key=lambda pair: (pair[0].made_at, pair[0].id))
        return tuple(pull.id for _, pull in found if pull is not None)

    def newest_found(self, most: int) -> tuple[SpecimenLine, ...]:
        found = [e for e in self.specimens if e.finding is not None]
        found.sort(key=lambda e: e.history[-1].made_at, reverse=True)
        return tuple(line_of(e, self.state(e)) for e in found[:most])

    def trial_rows(self) -> list[TrialRow]:
        return [
            TrialRow(
                specimen_id=e.specimen.id,
                knot_id=e.specimen.knot_a.id,
                lot_id=e.specimen.lot.id,
                pull_id=None if e.pull is None else e.pull.id,
                found=e.finding is not None,
                trial=step.trial,
            )
            for e in self.specimens
            if e.specimen.knot_a is not None
            for step in e.prepared
            if step.step is PrepStep.TRIAL and step.trial is not None and not step.withdrawn
        ]

    def data_lines(self) -> Iterator[str]:
        found = (
            FoundRow(
                e.finding.id,
                e.excluded is not None,
                None if (a := e.analysis) is None else Peaks(a.peak_n, a.first_slip_n, a.capsize_n),
                len(e.readings),
            )
            for e in self.specimens
            if e.finding is not None
        )
        trials = (
            (p.id, p.withdrawn) for e in self.specimens for p in e.prepared if p.trial is not None
        )
        return data_lines_of(found, trials)

    @cached_property
    def tally(self) -> Tally:
        found = Counter(
            (e.specimen.lot.id, e.specimen.role.value, e.specimen.method.key, e.stage.value)
            for e in self.specimens
        )
        return Tally(
            TallyRow(lot_id=lot_id, role=role, method=method, stage=stage, count=count)
            for (lot_id, role, method, stage), count in found.items()
        )

    @property
    def simulated(self) -> bool:
        return any(e.pull is not None and e.pull.remains is not None for e in self.specimens)

    def siblings(self, specimen: Specimen, last: int = LATEST) -> tuple[Entry, ...]:
        found = [e for e in self.at(Stage.INSPECTED) if are_alike(e.specimen, specimen)]
        return tuple(found[max(0, len(found) - last) :])

    def to_replace(self) -> tuple[Entry, ...]:
        replaced = {e.specimen.replaces_id for e in self.specimens}
        return tuple(e for e in self.at(Stage.VOID) if e.specimen.id not in replaced)

    def was_replaced(self, specimen_id: str) -> bool:
        return any(e.specimen.replaces_id == specimen_id for e in self.specimens)

    def codes(self) -> Mapping[str, str]:
        return {e.specimen.code: e.specimen.id for e in self.specimens}

    def last_place(self, *, pulled: bool = False) -> int:
        places = [
            e.specimen.queue_position for e in self.specimens if e.pull is not None or not pulled
        ]
        return max(places, default=0)

    def recorded_times(self) -> dict[WorkStep, list[float]]:
        newest = sorted(
            (e for e in self.specimens if e.pull is not None),
            key=lambda e: "" if e.pull is None else e.pull.started_at,
            reverse=True,
        )
        spans = [(e.pull.started_at, e.pull.ended_at) for e in newest if e.pull and e.pull.ended_at]
        found = [e.finding for e in newest if e.finding is not None][:LATEST]
        untied = [fsum(i.untie_s for i in f.inspections if i.untie_s) for f in found]
        return times_of(spans[:LATEST], untied)

    def kinds(self, lot_ids: Collection[str]) -> Counter[SpecimenKind]:
        return Counter(
            kind
            for e in self.of_lots(lot_ids)
            if e.stage is not Stage.VOID and (kind := kind_of(e.specimen)) is not None
        )

    def pulls_of(
        self,
        lot_ids: Collection[str],
        knot_ids: Collection[str],
        *,
        before: str | None = None,
        stage: Stage | None = None,
    ) -> int:
        return sum(
            e.pull is not None
            and (not lot_ids or e.specimen.lot.id in lot_ids)
            and any(
                k is not None and (not knot_ids or k.id in knot_ids)
                for k in (e.specimen.knot_a, e.specimen.knot_b)
            )
            and (before is None or e.pull.started_at < before)
            and stage in (None, e.stage)
            for e in self.specimens
        )

    def pulled_pairs(self) -> set[tuple[str, str]]:
        return {
            (e.specimen.lot.id, e.specimen.knot_a.id)
            for e in self.specimens
            if e.finding is not None and e.specimen.knot_a is not None
        }

    def ledger(self, hank_ids: Collection[str]) -> list[StockEntry]:
        return [line for line in self.whole_ledger if line.hank_id in hank_ids]

    def instruments(self) -> list[str]:
        return sorted({e.pull.instrument for e in self.specimens if e.pull is not None})

    def technicians(self) -> list[str]:
        return sorted({e.pull.technician for e in self.specimens if e.pull is not None})


def _is_meant(entry: Entry, asked: EntryQuery) -> bool:
    s = entry.specimen
    return (
        (asked.stages is None or entry.stage in asked.stages)
        and (asked.lot_ids is None or s.lot.id in asked.lot_ids)
        and (asked.methods is None or s.method.key in asked.methods)
        and asked.role in (None, s.role)
        and (asked.knot_id is None or (s.knot_a is not None and s.knot_a.id == asked.knot_id))
        and s.note.startswith(asked.noted)
        and (not asked.with_trial or any(p.trial is not None for p in entry.prepared))
        and (not asked.step or any(p.step == asked.step for p in entry.prepared))
    )


def read_now(logbook: Logbook, entries: Iterable[Entry]) -> WholeLogbook:
    """A logbook that holds some specimens and needs no open campaign any more."""
    books = {f.name: getattr(logbook, f.name) for f in fields(Books)}
    return WholeLogbook(**books, specimens=tuple(entries))


def load_logbook(connection: Connection, trade: str) -> WholeLogbook:
    """Read a whole campaign over a connection."""
    books = load_books(connection, trade)
    return WholeLogbook(
        **{f.name: getattr(books, f.name) for f in fields(Books)},
        specimens=tuple(load_entries(connection, books)),
        whole_ledger=tuple(stock.load_ledger(connection)),
    )


def _is_listed(line: SpecimenLine, stages: Mapping[str, Stage], asked: LineQuery) -> bool:
    return (
        asked.lot_id in ("", line.lot_id)
        and asked.technician in ("", line.technician)
        and asked.gave in ("", line.gave)
        and (not asked.stages or stages[line.specimen_id] in asked.stages)
    )
