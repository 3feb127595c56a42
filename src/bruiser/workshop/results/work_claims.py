"""Claims about a knot's work: grip, shaking, advantage, opening, edges, retention.

Each is decided only by pulls whose method can speak to it.
"""

from __future__ import annotations

import numpy as np

from bruiser.core.behaviour.jamming import HARD_PULL
from bruiser.core.choice.brief import Claim
from bruiser.core.performance.claims import ClaimJudgement, judge_interval, judge_never
from bruiser.core.performance.uncertain import around, interval_of, opening
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import METHOD_OF, tells
from bruiser.core.records.records import Outcome
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval
from bruiser.workshop.groups.gathering import Gathered
from bruiser.workshop.groups.jam_results import JamRow, jam_curve, jam_row
from bruiser.workshop.groups.knot_cases import knot_cases
from bruiser.workshop.groups.work_results import WorkRow, work_rows
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.comparing import compare_rows
from bruiser.workshop.results.lot_results import KnotResult, LotResults

DRAWS = 4_000
Found = tuple[ClaimJudgement | None, str, str]


def _works(gathered: Gathered, lot_id: str, knot_id: str | None) -> list[WorkRow]:
    return [r for r in work_rows(gathered, lot_id) if r.knot.id == knot_id]


def grips_more(gathered: Gathered, claim: Claim, lot_id: str) -> Found:
    """One grip over another, less one; of equal wraps where both were pulled with them."""
    mine = {r.key.wraps: r for r in _works(gathered, lot_id, claim.knot_id) if r.result.grip}
    other = {r.key.wraps: r for r in _works(gathered, lot_id, claim.other_knot_id) if r.result.grip}
    both = sorted(set(mine) & set(other), reverse=True)
    for wraps in both:
        a, b = mine[wraps].result.grip, other[wraps].result.grip
        if a is None or b is None or a.interval is None or b.interval is None:
            continue
        rng = np.random.default_rng(11)
        ratio = around(a.interval, DRAWS, rng) / around(b.interval, DRAWS, rng) - 1.0
        n = min(a.gave + a.held, b.gave + b.held)
        judged = judge_interval(
            claim.kind,
            interval_of(ratio),
            n,
            lower=claim.share or 0.0,
            pull_ids=(*a.pull_ids, *b.pull_ids),
        )
        return judged, "share", f"both with {wraps} wraps" if wraps else ""
    why = "one of the two never slid" if both else "not both pulled with as many wraps in this lot"
    return None, "share", why


def hauls(logbook: Logbook, gathered: Gathered, claim: Claim, lot_id: str) -> Found:
    """Real advantage as a share of the theoretical one."""
    rows = [r for r in _works(gathered, lot_id, claim.knot_id) if r.result.advantage is not None]
    found = rows[0].result.advantage if rows else None
    if found is None or found.advantage is None:
        return None, "share", "no advantage test in this lot"
    structure = logbook.catalogue.get(rows[0].knot.structure)
    theory = None if structure is None else structure.advantage
    if theory is None:
        return None, "share", "its theoretical advantage is not known"
    real = found.advantage
    share = Interval(real.value / theory, real.low / theory, real.high / theory)
    judged = judge_interval(
        claim.kind, share, found.n, lower=claim.share or 0.0, pull_ids=found.pull_ids
    )
    return judged, "share", ""


def retains(gathered: Gathered, claim: Claim, lot_id: str) -> Found:
    """What a binding keeps of its grip; one that came slack contradicts."""
    rows = [r for r in _works(gathered, lot_id, claim.knot_id) if r.result.retention is not None]
    found = rows[0].result.retention if rows else None
    if found is None:
        return None, "share", "no retention test in this lot"
    least = claim.share or 0.0
    if found.slack:
        none = Interval(0.0, 0.0, 0.0)
        why = f"{found.slack} of {found.n} came slack"
        ids = found.pull_ids
        return judge_interval(claim.kind, none, found.n, lower=least, pull_ids=ids), "share", why
    judged = judge_interval(claim.kind, found.kept, found.n, lower=least, pull_ids=found.pull_ids)
    return judged, "share", ""


def never_shaken(gathered: Gathered, claim: Claim, lot_id: str) -> Found:
    """Shaking and nothing else says whether it shakes loose."""
    tried = [
        t
        for g in gathered.tied[lot_id].values()
        if g.knot is not None and g.knot.id == claim.knot_id and tells(g.method, Tells.LOOSENING)
        for t in g.tried
    ]
    if not tried:
        return None, "rate", "never shaken in this lot"
    out = sum(t.kind is Outcome.CAME_OUT for t in tried)
    ids = tuple(t.finding.pull_id for t in tried)
    return judge_never(claim.kind, out, len(tried), pull_ids=ids), "rate", ""


def _opens(gathered: Gathered, lot_id: str, knot_id: str | None, base: float) -> JamRow | None:
    for case in knot_cases(gathered, lot_id):
        if case.knot.id == knot_id:
            row = jam_row(case, base)
            if row.attempts:
                return row
    return None


def opens_easier(
    gathered: Gathered, results: dict[str, LotResults], claim: Claim, lot_id: str
) -> Found:
    """Chance of opening without a tool, one less the other, after loads that both have seen."""
    base = results[lot_id].baseline.median_n
    if base is None:
        return None, "points", "no measured baseline"
    rows = [_opens(gathered, lot_id, k, base) for k in (claim.knot_id, claim.other_knot_id)]
    first, second = rows
    if first is None or second is None:
        return None, "points", "one of the two was not untied in this lot"
    seen = min(max(a.load_n for a in row.attempts) / base for row in (first, second))
    load = min(HARD_PULL, seen)
    drawn: list[Floats] = []
    for n, row in enumerate((first, second)):
        drawn.append(opening(jam_curve(row), load, DRAWS, np.random.default_rng([13, n])))
    found = interval_of(drawn[0] - drawn[1])
    ids = tuple(dict.fromkeys(a.pull_id for row in (first, second) for a in row.attempts))
    n = min(len(first.attempts), len(second.attempts))
    judged = judge_interval(claim.kind, found, n, lower=claim.share or 0.0, pull_ids=ids)
    return judged, "points", f"after {100 * load:.0f} % of the rope"


def edge_takes(results: dict[str, LotResults], claim: Claim, lot_id: str) -> Found:
    """What a knot keeps without the edge, less what it keeps over it."""
    mine = [r for r in results[lot_id].knots if r.knot.id == claim.knot_id]

    def of(over: bool) -> KnotResult | None:
        own = [
            r
            for r in mine
            if (METHOD_OF[r.group.method].fixture == "edge") is over
            and (over or tells(r.group.method, Tells.USUAL))
        ]
        return max(own, key=lambda r: r.efficiency.counts.specimens, default=None)

    plain, edge = of(False), of(True)
    if plain is None or edge is None:
        return None, "points", "not pulled both with and without an edge in this lot"
    points = compare_rows((plain, edge), results).contrasts[0].points
    why = ""
    if points is None and edge.efficiency.at_least is not None:
        why = "over the edge nothing gave at the knot: only the edge broke"
    n = min(r.efficiency.counts.specimens for r in (plain, edge))
    ids = (*plain.efficiency.pull_ids, *edge.efficiency.pull_ids)
    return (
        judge_interval(claim.kind, points, n, lower=claim.share or 0.0, pull_ids=ids),
        "points",
        why,
    )
