"""Pass criteria judged on the pulls of each group they cover, and when they were written."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.choice.brief import Criterion
from bruiser.core.choice.criteria import (
    AT_THE_END,
    EARLY,
    FROM_PULL,
    CriterionResult,
    Measure,
    Observed,
    PassCriterion,
    judge_criterion,
    judge_interval,
)
from bruiser.core.performance.efficiency import Priors, tabulate
from bruiser.core.records.layouts import End
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.outcomes import Says, evidence_of
from bruiser.core.records.records import Finding, Gave, JamLevel, Knot, Specimen
from bruiser.core.statistics.posterior import ratio_quantiles
from bruiser.workshop.groups.gathering import Gathered, Tried, data_of
from bruiser.workshop.groups.knot_cases import KnotCase, knot_cases
from bruiser.workshop.groups.slipping import count_cycles
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.lot_results import BaselineResult, KnotResult, LotResults


@dataclass(frozen=True, kw_only=True)
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
        share = finding.peak_load_n / s.layout.shares / baseline_n
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
) -> list[Observed]:
    """One reading a specimen, in the order pulled; one that says nothing counts as a floor."""
    found = []
    for entry in entries:
        if entry.finding is None:
            continue
        ends = _ends_of(entry.specimen, knot_id)
        read = _value(entry, entry.finding, ends, rule, baseline_n)
        unknown = 0.0 if rule.at_least else -1.0
        value, floor = (unknown, True) if read is None else read
        found.append(Observed(entry.finding.pull_id, value, floor))
    return found


def _started(entry: Entry) -> str:
    return "" if entry.pull is None else entry.pull.started_at


def _cycled(case: KnotCase) -> tuple[list[Entry], list[Observed]]:
    """Cycles that a knot was taken through: a floor where it was still tied at the end."""
    tried = sorted(case.that_tell(Tells.CYCLES), key=lambda t: _started(t.entry))
    counts = count_cycles(tuple(tried)).pulls
    readings = [Observed(pull, float(n), not came_out) for pull, n, came_out in counts]
    return [t.entry for t in tried], readings


def judge_lot(logbook: Logbook, results: LotResults, gathered: Gathered) -> list[Judged]:
    """Every criterion in force on every group of a lot that it covers and that was pulled.

    Cycles survived are judged on the pulls made in cycles, all others on those of each group.
    """
    lot = results.baseline.lot
    found = []
    for criterion in logbook.brief.criteria_in_force:
        rule = criterion.rule

        def add(
            knot: Knot,
            name: str,
            entries: list[Entry],
            readings: list[Observed],
            criterion: Criterion = criterion,
            row: KnotResult | None = None,
        ) -> None:
            if criterion.covers(lot.id, knot.id):
                late = sum(_started(e) < criterion.made_at for e in entries)
                earlier = logbook.brief.earlier(criterion)
                if row is None or criterion.rule.measure is not Measure.INTERVAL:
                    result = judge_criterion(criterion.rule, readings)
                else:
                    result = _by_interval(criterion, earlier, row, results.baseline)
                found.append(
                    Judged(
                        criterion=criterion,
                        lot_id=lot.id,
                        knot_id=knot.id,
                        name=name,
                        result=result,
                        late=late,
                        earlier=earlier,
                    )
                )

        if rule.measure is Measure.CYCLES:
            for case in knot_cases(gathered, lot.id):
                add(case.knot, case.name, *_cycled(case))
            continue
        for row in results.knots:
            counted = sorted((t.entry for t in row.group.tried), key=_started)
            readings = _readings(counted, row.knot.id, rule, results.baseline.median_n)
            left_out = [t.entry for t in row.group.excluded]
            add(row.knot, row.name, [*counted, *left_out], readings, row=row)
    return found


def _by_interval(
    criterion: Criterion, earlier: Sequence[Criterion], row: KnotResult, base: BaselineResult
) -> CriterionResult:
    """Judge an interval after every pull that was made, as the rule allows."""
    rule = criterion.rule
    tried = sorted(row.group.tried, key=lambda t: _started(t.entry))
    ids = [t.finding.pull_id for t in tried]
    lows: list[tuple[float, float] | None] = [None] * len(tried)
    rope = tabulate([base.result.data.sample], Priors().baseline).of(base.result.data.sample)
    samples = [
        data_of(replace(row.group, tried=tuple(tried[:n])), row.name).sample
        for n in range(FROM_PULL, min(len(tried), rule.of) + 1)
    ]
    table = tabulate(samples, Priors().knot)
    for n, sample in enumerate(samples, start=FROM_PULL - 1):
        own = table.of(sample)
        if own is not None and rope is not None:
            early, end = np.exp(ratio_quantiles(own, rope, (EARLY, AT_THE_END))[:, 0])
            lows[n] = float(early), float(end)
    return judge_interval(rule, ids, lows, _looks(criterion, earlier, tried))


def _looks(criterion: Criterion, earlier: Sequence[Criterion], tried: Sequence[Tried]) -> int:
    """How often an earlier n of the same interval was reached before it was raised."""
    found, later = 0, criterion
    for was in earlier:
        made = sum(_started(t.entry) < later.made_at for t in tried)
        same = was.rule.measure is Measure.INTERVAL and not was.withdrawn
        found += same and was.rule.of < later.rule.of and made >= was.rule.of
        later = was
    return found


def early_words(result: CriterionResult) -> str:
    """What is said of a criterion that was decided before its last pull, or looked at too often.

    Passes over pulls are never given as a share then: it would be biased.
    """
    if result.looks:
        times = "once" if result.looks == 1 else f"{result.looks} times"
        return f"looked at {times} before its number of pulls was raised: no pass"
    if result.after is None or not result.not_needed:
        return ""
    said = f"{result.met} after {result.after}, the rest not needed"
    if result.criterion.measure is Measure.INTERVAL:
        said += " (stopped early; the typical value runs about 1 % high)"
    return said
