"""Groups against one another: pairs in points, partners from one hank, knots by cordage."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from bruiser.core.performance.groups import GroupKey
from bruiser.core.records.records import DRESSED
from bruiser.core.statistics.compare import Paired, compare_paired, locate
from bruiser.core.statistics.contrast import Contrast, Side, contrasts, pulls_to_tell_apart
from bruiser.core.statistics.posterior import BASELINE_PRIOR, Marginal, posterior
from bruiser.workshop.groups.gathering import Group
from bruiser.workshop.results.lot_results import KnotResult, LotResults


@dataclass(frozen=True)
class Compared:
    """Some groups compared pair by pair.

    Parameters
    ----------
    more : tuple of int or None
        For every contrast, how many more pulls of each would be expected to tell the two apart.
    """

    rows: tuple[KnotResult, ...]
    contrasts: tuple[Contrast, ...]
    more: tuple[int | None, ...]


def rope_marginal(results: LotResults) -> Marginal | None:
    """Posterior of a lot's ln plain strength; None where no straight pull broke clear."""
    sample = results.baseline.result.data.sample
    if sample.event_count == 0:
        return None
    return posterior([sample], BASELINE_PRIOR).table()


def sides_of(rows: Sequence[KnotResult], results: dict[str, LotResults]) -> list[Side]:
    """Groups with the plain ropes they are measured against, ready to be compared.

    Parameters
    ----------
    rows : sequence of KnotResult
        Groups of one lot or of several.
    results : dict
        Results by lot id; the plain ropes come from there.
    """
    by_name = {
        (r.baseline.result.data.cordage, r.baseline.lot.condition): r for r in results.values()
    }
    known: dict[str, Marginal | None] = {}
    sides = []
    for row in rows:
        key = (row.result.reference, row.lot.condition)
        base = by_name.get(key)
        name = "|".join(key)
        if name not in known:
            known[name] = None if base is None else rope_marginal(base)
        plain = None if base is None else base.baseline.result
        sides.append(
            Side(
                marginal=row.efficiency.marginal,
                baseline=known[name],
                base_key=name,
                located=locate(row.result.data.sample, row.result.estimate),
                base_located=None if plain is None else locate(plain.data.sample, plain.estimate),
            )
        )
    return sides


def compare_rows(rows: Sequence[KnotResult], results: dict[str, LotResults]) -> Compared:
    """Compare groups of one lot or of several; arguments as :func:`sides_of`."""
    found = contrasts(sides_of(rows, results))
    fewest = [r.efficiency.counts.specimens for r in rows]
    more = tuple(pulls_to_tell_apart(c, min(fewest[c.a], fewest[c.b])) for c in found)
    return Compared(tuple(rows), tuple(found), more)


@dataclass(frozen=True, kw_only=True)
class Partners:
    """Specimens cut side by side from one hank, one in each state.

    Parameters
    ----------
    knot, states : str, tuple of str
        The knot, and what sets the first and the second apart.
    pairs : tuple of (str, str)
        Pulls of the first and of the second.
    left_out : int
        Pairs in which a partner is only a floor, or is missing.
    """

    first: str
    second: str
    knot: str
    states: tuple[str, str]
    lot_name: str
    paired: Paired | None
    pairs: tuple[tuple[str, str], ...]
    left_out: int
    baseline_n: float | None
    typical: float | None

    @property
    def points(self) -> tuple[float, float, float] | None:
        """Difference of the first less the second in shares of the plain rope, with 95 %.

        The ratio's interval times the second's typical share.
        """
        if self.paired is None or self.typical is None:
            return None
        r = self.paired.ratio
        return tuple(self.typical * (v - 1) for v in (r.value, r.low, r.high))  # type: ignore[return-value]


def partners(results: LotResults) -> tuple[Partners, ...]:
    """Every pair of groups of a lot that was cut pair by pair, dressed before crossed."""
    marked = [r for r in results.knots if any(t.entry.specimen.pair for t in r.group.tried)]
    marked.sort(key=lambda r: (r.key.dressing != DRESSED or bool(r.key.state), r.name))
    found = []
    for n, first in enumerate(marked):
        for second in marked[n + 1 :]:
            a, b = _by_pair(first.group), _by_pair(second.group)
            both = [key for key in a if key in b]
            if both and first.key.knot == second.key.knot:
                found.append(_partners(results, first, second, both))
    return tuple(found)


def _by_pair(group: Group) -> dict[str, tuple[str, float, bool]]:
    """Pull, load and whether it gave, by the mark of the pair."""
    return {
        t.entry.specimen.pair: (t.finding.pull_id, t.load_n, t.events > 0)
        for t in group.tried
        if t.entry.specimen.pair
    }


def _partners(
    results: LotResults, first: KnotResult, second: KnotResult, both: list[str]
) -> Partners:
    a, b = _by_pair(first.group), _by_pair(second.group)
    gave = [k for k in both if a[k][2] and b[k][2]]
    ln_a, ln_b = (np.log(np.array([side[k][1] for k in gave])) for side in (a, b))
    paired = compare_paired(ln_a, ln_b) if len(gave) > 1 else None
    interval = second.efficiency.interval
    whole = len(set(_by_pair(first.group)) | set(_by_pair(second.group)))
    return Partners(
        first=first.name,
        second=second.name,
        knot=first.key.knot,
        states=(_state(first.key, second.key), _state(second.key, first.key)),
        lot_name=results.baseline.lot.name,
        paired=paired,
        pairs=tuple((a[k][0], b[k][0]) for k in gave),
        left_out=whole - len(gave),
        baseline_n=results.baseline.median_n,
        typical=None if interval is None else interval.value,
    )


def _state(own: GroupKey, other: GroupKey) -> str:
    """What sets a group apart from another of the same knot."""
    names = [f.name for f in fields(GroupKey) if getattr(own, f.name) != getattr(other, f.name)]
    return ", ".join(getattr(own, name) or f"no {name}" for name in names)


@dataclass(frozen=True)
class Matrix:
    """Knots down, cordages across; a cell without pulls is None."""

    knots: tuple[str, ...]
    lots: tuple[str, ...]
    cells: dict[tuple[str, str], KnotResult]


def knot_by_cordage(results: dict[str, LotResults]) -> Matrix:
    """Efficiencies of every knot in every cordage; the strongest on the whole come first.

    Of several ways a knot was pulled in one lot the one with most pulls stands in the cell.
    """
    cells: dict[tuple[str, str], KnotResult] = {}
    lots = {}
    for lot_id, found in results.items():
        lots[lot_id] = found.baseline.lot.name
        for row in found.knots:
            name = ", ".join(
                [row.key.knot, *([row.key.dressing] if row.key.dressing != DRESSED else [])]
            )
            known = cells.get((name, lot_id))
            n = row.efficiency.counts.specimens
            if known is None or n > known.efficiency.counts.specimens:
                cells[name, lot_id] = row
    used = [lot_id for lot_id in lots if any(key[1] == lot_id for key in cells)]

    def weight(name: str) -> tuple[int, float]:
        own = [r for (k, _), r in cells.items() if k == name]
        seen = [i.value for r in own if (i := r.efficiency.interval) is not None]
        return -len(own), -math.fsum(seen) / max(1, len(seen))

    knots = sorted({name for name, _ in cells}, key=lambda name: (*weight(name), name))
    named = {(k, lots[lot_id]): r for (k, lot_id), r in cells.items()}
    return Matrix(tuple(knots), tuple(lots[k] for k in used), named)
