"""The claims of the brief judged on the pulls: supported, contradicted, or not decided."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.choice.brief import Claim
from bruiser.core.performance.claims import (
    ClaimJudgement,
    ClaimKind,
    ClaimVerdict,
    judge_interval,
    judge_never,
)
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import METHOD_OF, RAMP, tells
from bruiser.core.records.records import DRESSED, Outcome
from bruiser.core.statistics.strength import Interval
from bruiser.workshop.groups.gathering import Gathered
from bruiser.workshop.groups.jam_results import jam_row
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.wrap_results import wrap_row, wrap_tests
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.comparing import compare_rows, partners
from bruiser.workshop.results.lot_results import KnotResult, LotResults
from bruiser.workshop.results.work_claims import (
    edge_takes,
    grips_more,
    hauls,
    never_shaken,
    opens_easier,
    retains,
)


@dataclass(frozen=True, kw_only=True)
class JudgedClaim:
    """A claim with what the pulls of one lot say of it.

    Parameters
    ----------
    judgement : ClaimJudgement or None
        None where nothing was pulled that could say anything.
    scale : str
        What the interval is of: ``share``, ``points``, ``rate`` or ``load``.
    why : str
        What is missing where nothing can be said.
    """

    claim: Claim
    lot_id: str
    lot_name: str
    judgement: ClaimJudgement | None
    scale: str
    why: str = ""


@dataclass(frozen=True)
class _Bench:
    """All a judge may look at."""

    logbook: Logbook
    gathered: Gathered
    results: dict[str, LotResults]

    def row(self, lot_id: str, knot_id: str | None) -> KnotResult | None:
        """The group of a knot pulled the usual way; of several, the one with most pulls."""
        own = [
            r
            for r in self.results[lot_id].knots
            if r.knot.id == knot_id
            and r.key.dressing == DRESSED
            and not r.key.cordage_b
            and not r.key.state
        ]
        usual = [r for r in own if tells(r.group.method, Tells.USUAL)]
        directed = [r for r in own if METHOD_OF[r.group.method].directed]
        return max(usual or directed, key=lambda r: r.efficiency.counts.specimens, default=None)


def judge_claims(
    logbook: Logbook, gathered: Gathered, results: dict[str, LotResults]
) -> tuple[JudgedClaim, ...]:
    """Every claim in force in every lot it is about, in the order of the brief.

    A claim about every lot is judged in each lot in which its knot was pulled; where it was
    pulled in none it is listed once, undecided.
    """
    bench = _Bench(logbook, gathered, results)
    found: list[JudgedClaim] = []
    for claim in logbook.brief.claims_in_force:
        lots = [claim.lot_id] if claim.lot_id is not None else _lots_with(bench, claim)
        judged = [_judge(bench, claim, lot_id) for lot_id in lots if lot_id in results]
        if not judged:
            judged = [
                JudgedClaim(
                    claim=claim,
                    lot_id=claim.lot_id or "",
                    lot_name="",
                    judgement=None,
                    scale="",
                    why="no pulls yet",
                )
            ]
        found += judged
    return tuple(found)


def _lots_with(bench: _Bench, claim: Claim) -> list[str]:
    return [
        lot_id
        for lot_id, own in bench.gathered.tied.items()
        if any(g.knot is not None and g.knot.id == claim.knot_id for g in own.values())
    ]


Judge = Callable[["_Bench", Claim, str], tuple[ClaimJudgement | None, str, str]]


def _judge(bench: _Bench, claim: Claim, lot_id: str) -> JudgedClaim:
    judgement, scale, why = _JUDGES[claim.kind](bench, claim, lot_id)
    return JudgedClaim(
        claim=claim,
        lot_id=lot_id,
        lot_name=bench.logbook.lot(lot_id).name,
        judgement=judgement,
        scale=scale,
        why=why,
    )


def _keeps(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    row = bench.row(lot_id, claim.knot_id)
    least = claim.share or 0.0
    if claim.kind is ClaimKind.DOES_NOT_WEAKEN:
        least = 1.0 - least
    if row is None:
        return None, "share", "not pulled in this lot"
    eff = row.efficiency
    interval, n = eff.interval, eff.counts.specimens
    if interval is None and eff.at_least is not None and eff.at_least >= least:
        # Nothing gave: every pull held at least that, but how many such knots would is not known.
        interval = Interval(eff.at_least, 0.0, math.inf)
    judged = judge_interval(claim.kind, interval, n, lower=least, pull_ids=eff.pull_ids)
    why = "; ".join(str(c) for c in eff.caveats) if eff.interval is None else ""
    return judged, "share", why


def _stronger(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    first, second = bench.row(lot_id, claim.knot_id), bench.row(lot_id, claim.other_knot_id)
    if first is None or second is None:
        return None, "points", "one of the two was not pulled in this lot"
    points = compare_rows((first, second), bench.results).contrasts[0].points
    n = min(r.efficiency.counts.specimens for r in (first, second))
    ids = (*first.efficiency.pull_ids, *second.efficiency.pull_ids)
    judged = judge_interval(claim.kind, points, n, lower=claim.share or 0.0, pull_ids=ids)
    return judged, "points", ""


def _changes(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    """Dressed less crossed: by partners from one hank where there are any, else by the groups."""
    margin = claim.share or 0.0
    results = bench.results[lot_id]
    for pair in partners(results):
        points = pair.points
        mine = pair.knot == bench.logbook.knot(claim.knot_id or "").title
        if mine and points is not None and pair.paired is not None:
            ids = tuple(pull for both in pair.pairs for pull in both)
            judged = judge_interval(
                claim.kind,
                Interval(*points),
                pair.paired.pairs,
                lower=-margin,
                upper=margin,
                pull_ids=ids,
            )
            return judged, "points", f"{pair.paired.pairs} pairs from one hank each"
    own = [
        r
        for r in results.knots
        if r.knot.id == claim.knot_id and r.group.method == RAMP and not r.key.state
    ]
    dressed = next((r for r in own if r.key.dressing == DRESSED), None)
    crossed = next((r for r in own if r.key.dressing != DRESSED), None)
    if dressed is None or crossed is None:
        return None, "points", "not pulled both dressed and crossed in this lot"
    points_of = compare_rows((dressed, crossed), bench.results).contrasts[0].points
    n = min(r.efficiency.counts.specimens for r in (dressed, crossed))
    ids = (*dressed.efficiency.pull_ids, *crossed.efficiency.pull_ids)
    judged = judge_interval(claim.kind, points_of, n, lower=-margin, upper=margin, pull_ids=ids)
    return judged, "points", ""


def _never_jams(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    base = bench.results[lot_id].baseline.median_n
    if base is None:
        return None, "rate", "no measured baseline"
    limit = (claim.share or 0.0) * base
    jammed, opened = [], []
    for case in knot_cases(bench.gathered, lot_id):
        if case.knot.id != claim.knot_id:
            continue
        for seen in jam_row(case, base).attempts:
            if JAM_ORDER[seen.level] >= 2 and seen.load_n <= limit:
                jammed.append(seen)
            elif JAM_ORDER[seen.level] < 2:
                opened.append(seen)
    # A knot that opened after more than the limit had seen the limit too; one knot counts once.
    knots = {(s.pull_id, s.end) for s in (*jammed, *opened)}
    stuck = {(s.pull_id, s.end) for s in jammed}
    ids = tuple(dict.fromkeys(s.pull_id for s in (*jammed, *opened)))
    if not knots:
        return None, "rate", "no knot of this kind was untied afterwards"
    return judge_never(claim.kind, len(stuck), len(knots), pull_ids=ids), "rate", ""


_COMES_OUT = (Tells.SLIP, Tells.DIRECTIONS, Tells.CYCLES, Tells.LOOSENING)
"""What a method must tell for a knot to have had the chance to come out."""


def _never_out(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    groups = [
        g
        for g in bench.gathered.tied[lot_id].values()
        if g.knot is not None
        and g.knot.id == claim.knot_id
        and any(tells(g.method, what) for what in _COMES_OUT)
    ]
    tried = [t for g in groups for t in g.tried]
    if not tried:
        return None, "rate", "not pulled in this lot by a method that would bring it out"
    out = sum(t.kind is Outcome.CAME_OUT for t in tried)
    ids = tuple(t.finding.pull_id for t in tried)
    return judge_never(claim.kind, out, len(tried), pull_ids=ids), "rate", ""


def _wraps(bench: _Bench, claim: Claim, lot_id: str) -> tuple[ClaimJudgement | None, str, str]:
    tests = wrap_tests(bench.gathered, lot_id)
    structure = bench.logbook.knot(claim.knot_id or "").structure
    alike = {k.id for k in bench.logbook.knots if k.structure == structure}
    key = next((k for k in tests if k[0] in alike), None)
    load, wraps = claim.load_n or 0.0, claim.wraps or 0
    if key is None:
        return None, "load", "no slide tests with this hitch in this lot"
    row = wrap_row(bench.logbook, lot_id, key, tests[key], load)
    certificate = next((c for c in row.certificates if c.wraps == wraps), None)
    if certificate is None or row.fit is None:
        return None, "load", row.refused or f"{wraps} wraps lie beyond what was tested"
    lower = min(certificate.by_likelihood_n, certificate.by_posterior_n)
    middle = row.fit.median_n(wraps)
    # The one-sided bound decides; above the typical grip the interval is mirrored on the ln scale.
    interval = Interval(middle, lower, middle * middle / lower)
    ids = tuple(m.pull_id for m in row.marks)
    judged = judge_interval(claim.kind, interval, len(row.marks), lower=load, pull_ids=ids)
    return judged, "load", ""


_JUDGES: dict[ClaimKind, Judge] = {
    ClaimKind.KEEPS_AT_LEAST: _keeps,
    ClaimKind.DOES_NOT_WEAKEN: _keeps,
    ClaimKind.STRONGER_BY: _stronger,
    ClaimKind.CHANGES_LESS_THAN: _changes,
    ClaimKind.NEVER_JAMS_BELOW: _never_jams,
    ClaimKind.NEVER_COMES_OUT: _never_out,
    ClaimKind.WRAPS_HOLD: _wraps,
    ClaimKind.GRIPS_MORE: lambda b, c, lot: grips_more(b.gathered, c, lot),
    ClaimKind.NEVER_SHAKES_LOOSE: lambda b, c, lot: never_shaken(b.gathered, c, lot),
    ClaimKind.HAULS: lambda b, c, lot: hauls(b.logbook, b.gathered, c, lot),
    ClaimKind.OPENS_EASIER: lambda b, c, lot: opens_easier(b.gathered, b.results, c, lot),
    ClaimKind.EDGE_TAKES: lambda b, c, lot: edge_takes(b.results, c, lot),
    ClaimKind.RETAINS: lambda b, c, lot: retains(b.gathered, c, lot),
}

VERDICT_WORDS = {
    ClaimVerdict.SUPPORTED: "supported",
    ClaimVerdict.CONTRADICTED: "contradicted",
    ClaimVerdict.UNDECIDED: "not decided",
}
