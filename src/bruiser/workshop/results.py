"""Results of a lot: baseline and every knot, each number with the pulls behind it."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from bruiser.core.censored import make_sample
from bruiser.core.efficiency import Efficiency
from bruiser.core.groups import GroupKey, labels
from bruiser.core.jamming import JAM_ORDER
from bruiser.core.layouts import End
from bruiser.core.measurement import LoadCell
from bruiser.core.methods import RAMP
from bruiser.core.outcomes import Evidence, Says, evidence_of
from bruiser.core.rate import Rated
from bruiser.core.records import Finding, Gave, Knot, Lot, Role, Specimen
from bruiser.core.report import (
    Family,
    GroupData,
    GroupResult,
    PullContext,
    Report,
    make_report,
)
from bruiser.core.strength import Estimate, OutcomeCounts, estimate
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
    result: GroupResult
    marks: tuple[Mark, ...]

    @property
    def counts(self) -> OutcomeCounts:
        """Specimens by outcome."""
        return self.result.data.counts

    @property
    def estimate(self) -> Estimate | None:
        """Maximum-likelihood strength."""
        return self.result.estimate

    @property
    def median_n(self) -> float | None:
        """Typical strength in newton."""
        return None if self.estimate is None else self.estimate.median_n


@dataclass(frozen=True)
class KnotResult:
    """One knot in one lot; knots that share a letter cannot be told apart."""

    key: GroupKey
    knot: Knot
    lot: Lot
    result: GroupResult
    rated: Rated
    marks: tuple[Mark, ...]
    letters: str
    chance_best: float | None

    @property
    def name(self) -> str:
        """The knot, with its pin or dressing where a lot has more than one."""
        return str(self.result.data.knot)

    @property
    def efficiency(self) -> Efficiency:
        """Share of the plain rope's strength kept."""
        return self.rated.efficiency


@dataclass(frozen=True)
class LotResults:
    """A lot's baseline and knots, strongest first."""

    baseline: BaselineResult
    knots: tuple[KnotResult, ...]
    families: tuple[Family, ...]


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


Tried = tuple[Entry, Finding, str]


def _baseline_group(journal: Journal, lot: Lot) -> tuple[GroupData, list[Tried]]:
    """The plain rope of a lot, from its own straight pulls."""
    entries = [
        e
        for e in journal.entries
        if e.specimen.role is Role.BASELINE and e.specimen.lot.id == lot.id
    ]
    rows, tried = [], []
    for entry, finding, said in _usable(entries):
        event = said.baseline is Says.EVENT
        rows.append((finding.pull_id, finding.peak_load_n, int(event), int(not event)))
        tried.append((entry, finding, _kind(finding, [said.baseline])))
    counts = _counts([t[2] for t in tried], sum(e.stage is Stage.VOID for e in entries))
    data = GroupData(lot.name, lot.condition, None, make_sample(rows), counts, cells=_cells(tried))
    return data, tried


def group_key(specimen: Specimen, end: End) -> GroupKey | None:
    """The group a specimen's knot belongs to; None where no knot is tied."""
    knot = specimen.knot_at(end)
    if knot is None:
        return None
    lot, pin = specimen.lot, specimen.pin_diameter_m
    host = f"pin {1000 * pin:g} mm, D/d {pin / lot.diameter_m:.1f}" if pin else ""
    if specimen.fixture is not None:
        f = specimen.fixture
        host = f"{f.name}, {f.finish} {f.material}, D/d {f.diameter_m / lot.diameter_m:.1f}"
    plan = specimen.method
    return GroupKey(
        knot.title,
        lot.name,
        lot.condition,
        "" if specimen.lot_b is None else specimen.lot_b.name,
        host,
        "ramp" if plan.key == RAMP else replace(plan, direction="").words,
        plan.direction,
        specimen.dressing,
    )


def _knot_group(
    journal: Journal, lot: Lot, key: GroupKey, name: str
) -> tuple[GroupData, list[Tried]]:
    """One group of a lot: holding and breaking strength, and what it took to untie."""
    rows, breaks, tried, jams, untied, void = [], [], [], [], [], 0
    for entry in journal.entries:
        s = entry.specimen
        ends = [end for end in End if s.lot.id == lot.id and group_key(s, end) == key]
        void += bool(ends) and entry.stage is Stage.VOID
        if not ends or entry.stage is not Stage.INSPECTED or entry.finding is None:
            continue
        finding, said = entry.finding, evidence_of(s, entry.finding)
        mine = [said.holding[end] for end in ends]
        broke = [said.breaking[end] for end in ends].count(Says.EVENT)
        events, floors = mine.count(Says.EVENT), mine.count(Says.FLOOR)
        rows.append((finding.pull_id, finding.peak_load_n, events, floors))
        breaks.append((finding.pull_id, finding.peak_load_n, broke, len(ends) - broke))
        tried.append((entry, finding, _kind(finding, mine)))
        for seen in finding.inspections:
            if seen.end not in ends or seen.jam_level not in JAM_ORDER:
                continue
            jams.append((finding.peak_load_n, JAM_ORDER[seen.jam_level]))
            if seen.untie_s:
                untied.append((finding.pull_id, seen.untie_s, int(not seen.gave_up), seen.gave_up))
    data = GroupData(
        lot.name,
        lot.condition,
        name,
        make_sample(rows),
        _counts([t[2] for t in tried], void),
        jam_load_n=np.array([j[0] for j in jams], dtype=np.float64),
        jam_level=np.array([j[1] for j in jams], dtype=np.float64),
        rating_n=lot.rated_strength_n,
        breaking=make_sample(breaks),
        untie=make_sample([(p, t, e, int(up)) for p, t, e, up in untied]),
        context=tuple(_context(t[0]) for t in tried),
        cells=_cells(tried),
    )
    return data, tried


def _context(entry: Entry) -> PullContext:
    pull = entry.pull
    if pull is None:
        return PullContext()
    day = date.fromisoformat(pull.started_at[:10]).toordinal()
    return PullContext(entry.specimen.queue_position, day, pull.technician)


def _cells(tried: list[Tried]) -> tuple[LoadCell, ...]:
    """The load cells of some pulls; their class is not recorded yet."""
    pulls = [entry.pull for entry, _, _ in tried if entry.pull is not None]
    found = {
        p.instrument: LoadCell(p.instrument, p.capacity_n, p.resolution_n, None) for p in pulls
    }
    return tuple(found.values())


def _mark(entry: Entry, finding: Finding, kind: str, reference_n: float | None) -> Mark:
    share = None if reference_n is None else finding.peak_load_n / reference_n
    return Mark(finding.pull_id, entry.specimen.code, kind, finding.peak_load_n, share)


def baseline_median_n(journal: Journal, lot: Lot) -> float | None:
    """Typical strength of the plain rope of a lot, or None where it was not measured."""
    found = estimate(_baseline_group(journal, lot)[0].sample)
    return None if found is None else found.median_n


def _tied_groups(journal: Journal, lot: Lot) -> dict[GroupKey, Knot]:
    """Groups that were pulled in a lot with their knots, by name."""
    found: dict[GroupKey, Knot] = {}
    for e in journal.entries:
        if e.specimen.lot.id != lot.id or e.finding is None:
            continue
        for end in End:
            key, knot = group_key(e.specimen, end), e.specimen.knot_at(end)
            if key is not None and knot is not None:
                found[key] = knot
    return dict(sorted(found.items()))


def campaign_report(journal: Journal) -> Report:
    """Every baseline and knot of the campaign."""
    groups = []
    for lot in journal.lots:
        groups.append(_baseline_group(journal, lot)[0])
        names = labels(list(_tied_groups(journal, lot)))
        groups += [_knot_group(journal, lot, key, name)[0] for key, name in names.items()]
    return make_report(groups)


def lot_results(journal: Journal, lot: Lot) -> LotResults:
    """Baseline and knots of a lot; knots without any finding are left out."""
    plain, plain_tried = _baseline_group(journal, lot)
    tied = _tied_groups(journal, lot)
    names = labels(list(tied))
    gathered = [_knot_group(journal, lot, key, names[key]) for key in tied]
    report = make_report([plain, *(data for data, _ in gathered)])
    base = report.groups[0]
    reference = None if base.estimate is None else base.estimate.median_n
    family = report.families[0] if report.families else None
    rows = []
    for k, (key, (_, tried)) in enumerate(zip(tied, gathered, strict=True)):
        result = report.groups[k + 1]
        if result.rated is None or family is None:
            raise ValueError(f"{key.knot} was not rated")
        rows.append(
            KnotResult(
                key,
                tied[key],
                lot,
                result,
                result.rated,
                tuple(_mark(*t, reference) for t in tried),
                family.letters[k],
                family.chance_best[k],
            )
        )
    rows.sort(key=lambda r: (-_order(r), r.name))
    marks = tuple(_mark(*t, reference) for t in plain_tried)
    return LotResults(BaselineResult(lot, base, marks), tuple(rows), report.families)


def _order(row: KnotResult) -> float:
    if row.efficiency.interval is not None:
        return row.efficiency.interval.value
    known = [m.share for m in row.marks if m.share is not None]
    return max(known, default=-1.0)


def say_result(row: KnotResult) -> str:
    """The technician's line for one knot, made from its numbers."""
    eff, name = row.efficiency, row.name
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
    why = "; ".join(str(c) for c in eff.caveats)
    return f"{name}: {pulls_word}, not enough to give an interval ({why})."
