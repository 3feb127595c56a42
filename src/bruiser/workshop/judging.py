"""Pass criteria judged on the pulls of each group they cover, and when they were written."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from bruiser.core.brief import Criterion
from bruiser.core.criteria import (
    CriterionResult,
    Measure,
    PassCriterion,
    Reading,
    judge_criterion,
)
from bruiser.core.jamming import JAM_ORDER
from bruiser.core.layouts import End
from bruiser.core.outcomes import Says, evidence_of
from bruiser.core.records import Finding, Gave, JamLevel, Specimen
from bruiser.workshop.journal import Entry, Journal
from bruiser.workshop.results import LotResults


@dataclass(frozen=True)
class Judged:
    """A criterion on one group of one lot.

    Parameters
    ----------
    late : int
        Pulls of the group made before this wording was written; 0 when it was fixed in time.
    earlier : tuple of Criterion
        Wordings it took the place of, newest first.
    """

    criterion: Criterion
    lot_id: str
    knot_id: str
    name: str
    result: CriterionResult
    late: int
    earlier: tuple[Criterion, ...]


def _ends_of(specimen: Specimen, knot_id: str) -> list[End]:
    knots = {End.A: specimen.knot_a, End.B: specimen.knot_b}
    return [end for end, knot in knots.items() if knot is not None and knot.id == knot_id]


def _value(
    entry: Entry, finding: Finding, ends: list[End], rule: PassCriterion, baseline_n: float | None
) -> tuple[float, bool] | None:
    """Value of one specimen and whether it is only a floor; None where nothing can be read."""
    s = entry.specimen
    said = [evidence_of(s, finding).holding[end] for end in ends]
    held_on = Says.EVENT not in said
    if rule.measure in (Measure.HOLDS_SHARE, Measure.BREAKS_AT_KNOT):
        if baseline_n is None:
            return None
        share = finding.peak_load_n / baseline_n
        if rule.measure is Measure.HOLDS_SHARE:
            return share, held_on
        if held_on:
            return 0.0, True
        return (share if finding.gave is Gave.BROKE else 0.0), False
    if rule.measure is Measure.DRAW_D:
        mine = {t.key for t in s.layout.tails if t.end in ends}
        draws = [d.draw_m / s.lot.diameter_m for d in finding.draws if d.key in mine]
        return (max(draws), False) if draws else None
    if rule.measure is Measure.OPENS:
        levels = [x.jam_level for x in finding.inspections if x.end in ends]
        tried = [JAM_ORDER[level] for level in levels if level in JAM_ORDER]
        if not tried:
            return None
        return float(max(tried) <= JAM_ORDER[JamLevel.WORKED]), False
    return None


def _readings(
    entries: Iterable[Entry], knot_id: str, rule: PassCriterion, baseline_n: float | None
) -> list[Reading]:
    """One reading a specimen, in the order pulled; one that says nothing counts as a floor."""
    found = []
    for entry in entries:
        if entry.finding is None:
            continue
        ends = _ends_of(entry.specimen, knot_id)
        read = _value(entry, entry.finding, ends, rule, baseline_n)
        unknown = 0.0 if rule.at_least else -1.0
        value, floor = (unknown, True) if read is None else read
        found.append(Reading(entry.finding.pull_id, value, floor))
    return found


def _started(entry: Entry) -> str:
    return "" if entry.pull is None else entry.pull.started_at


def judge_lot(journal: Journal, results: LotResults) -> list[Judged]:
    """Every criterion in force on every group of a lot that it covers and that was pulled."""
    lot = results.baseline.lot
    found = []
    for criterion in journal.brief.criteria_in_force:
        for row in results.knots:
            if not criterion.covers(lot.id, row.knot.id):
                continue
            counted = sorted((t.entry for t in row.group.tried), key=_started)
            all_pulls = [*counted, *(t.entry for t in row.group.excluded)]
            median_n = results.baseline.median_n
            readings = _readings(counted, row.knot.id, criterion.rule, median_n)
            late = sum(_started(e) < criterion.made_at for e in all_pulls)
            found.append(
                Judged(
                    criterion,
                    lot.id,
                    row.knot.id,
                    row.name,
                    judge_criterion(criterion.rule, readings),
                    late,
                    journal.brief.earlier(criterion),
                )
            )
    return found
