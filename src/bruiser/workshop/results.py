"""Results of a lot: baseline and every knot, each number with the pulls behind it."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from bruiser.core.censored import Sample
from bruiser.core.layouts import End
from bruiser.core.outcomes import Evidence, Says, evidence_of
from bruiser.core.records import Finding, Gave, Knot, Lot, Role
from bruiser.core.strength import (
    Efficiency,
    Estimate,
    OutcomeCounts,
    efficiency,
    estimate,
)
from bruiser.workshop.journal import Entry, Journal, Stage


@dataclass(frozen=True)
class Mark:
    """One pull in a result: what it was, and its share of the baseline."""

    pull_id: str
    code: str
    kind: str
    load_n: float
    share: float | None


@dataclass(frozen=True)
class BaselineResult:
    """The plain rope of a lot."""

    lot: Lot
    sample: Sample
    estimate: Estimate | None
    counts: OutcomeCounts
    marks: tuple[Mark, ...]

    @property
    def median_n(self) -> float | None:
        """Typical strength in newton."""
        return None if self.estimate is None else self.estimate.median_n


@dataclass(frozen=True)
class KnotResult:
    """One knot in one lot."""

    knot: Knot
    lot: Lot
    sample: Sample
    estimate: Estimate | None
    efficiency: Efficiency
    marks: tuple[Mark, ...]


@dataclass(frozen=True)
class LotResults:
    """A lot's baseline and knots, strongest first."""

    baseline: BaselineResult
    knots: tuple[KnotResult, ...]


def _sample(rows: list[tuple[float, int, int, str]]) -> Sample:
    loads = np.array([r[0] for r in rows], dtype=np.float64)
    return Sample(
        np.log(loads) if len(rows) else loads,
        np.array([r[1] for r in rows], dtype=np.float64),
        np.array([r[2] for r in rows], dtype=np.float64),
        tuple(r[3] for r in rows),
    )


def _kind(finding: Finding, says: Iterable[Says]) -> str:
    if Says.EVENT not in says:
        return "outlasted"
    return "broke" if finding.gave is Gave.BROKE else "came_out"


def _counts(kinds: list[str], void: int) -> OutcomeCounts:
    return OutcomeCounts(
        kinds.count("broke"), kinds.count("came_out"), kinds.count("outlasted"), void
    )


def _usable(entries: Iterable[Entry]) -> list[tuple[Entry, Finding, Evidence]]:
    return [
        (entry, entry.finding, evidence_of(entry.specimen, entry.finding))
        for entry in entries
        if entry.stage is Stage.INSPECTED and entry.finding is not None
    ]


def baseline_result(journal: Journal, lot: Lot) -> BaselineResult:
    """The plain rope of a lot, from its own straight pulls."""
    entries = [
        e
        for e in journal.entries
        if e.specimen.role is Role.BASELINE and e.specimen.lot.id == lot.id
    ]
    rows, kinds, marks = [], [], []
    for entry, finding, said in _usable(entries):
        event = said.baseline is Says.EVENT
        rows.append((finding.peak_load_n, int(event), int(not event), finding.pull_id))
        kinds.append(_kind(finding, [said.baseline]))
        marks.append((entry, finding, kinds[-1]))
    sample = _sample(rows)
    found = estimate(sample)
    void = sum(e.stage is Stage.VOID for e in entries)
    reference = None if found is None else found.median_n
    return BaselineResult(
        lot, sample, found, _counts(kinds, void), tuple(_mark(*m, reference) for m in marks)
    )


def _mark(entry: Entry, finding: Finding, kind: str, reference_n: float | None) -> Mark:
    share = None if reference_n is None else finding.peak_load_n / reference_n
    return Mark(finding.pull_id, entry.specimen.code, kind, finding.peak_load_n, share)


def knot_result(journal: Journal, knot: Knot, baseline: BaselineResult) -> KnotResult:
    """One knot in the baseline's lot: holding strength against that baseline."""
    lot = baseline.lot
    entries = [
        e
        for e in journal.entries
        if e.specimen.lot.id == lot.id and knot in (e.specimen.knot_a, e.specimen.knot_b)
    ]
    rows, kinds, marks = [], [], []
    for entry, finding, said in _usable(entries):
        mine = [said.holding[end] for end in End if entry.specimen.knot_at(end) == knot]
        events, floors = mine.count(Says.EVENT), mine.count(Says.FLOOR)
        rows.append((finding.peak_load_n, events, floors, finding.pull_id))
        kinds.append(_kind(finding, mine))
        marks.append((entry, finding, kinds[-1]))
    void = sum(e.stage is Stage.VOID for e in entries)
    sample = _sample(rows)
    return KnotResult(
        knot,
        lot,
        sample,
        estimate(sample),
        efficiency(sample, baseline.sample, _counts(kinds, void)),
        tuple(_mark(*m, baseline.median_n) for m in marks),
    )


def lot_results(journal: Journal, lot: Lot) -> LotResults:
    """Baseline and knots of a lot; knots without any pull are left out."""
    baseline = baseline_result(journal, lot)
    tied = {
        knot
        for e in journal.entries
        if e.specimen.lot.id == lot.id and e.pull is not None
        for knot in (e.specimen.knot_a, e.specimen.knot_b)
        if knot is not None
    }
    rows = [knot_result(journal, knot, baseline) for knot in tied]
    rows = [row for row in rows if row.marks or row.efficiency.counts.void]
    rows.sort(key=lambda r: (-_order(r), r.knot.name))
    return LotResults(baseline, tuple(rows))


def _order(row: KnotResult) -> float:
    if row.efficiency.interval is not None:
        return row.efficiency.interval.value
    known = [m.share for m in row.marks if m.share is not None]
    return max(known, default=-1.0)


def say_result(row: KnotResult) -> str:
    """The technician's line for one knot, made from its numbers."""
    eff, name = row.efficiency, row.knot.name
    n = eff.counts.specimens
    pulls_word = "1 pull" if n == 1 else f"{n} pulls"
    if eff.interval is not None and math.isfinite(eff.interval.high) and eff.interval.low > 0:
        low, high = 100 * eff.interval.low, 100 * eff.interval.high
        text = (
            f"{name} keeps between {low:.0f} and {high:.0f} % of the plain rope, from {pulls_word}"
        )
        if eff.counts.came_out:
            text += f"; {eff.counts.came_out} of {n} came out"
        return text + "."
    if eff.at_least is not None:
        return (
            f"Nothing gave at {name} in {pulls_word}: at least one held "
            f"{100 * eff.at_least:.0f} % of the plain rope. No upper figure can be given."
        )
    return f"{name}: {pulls_word}, not enough to give an interval ({'; '.join(eff.caveats)})."
