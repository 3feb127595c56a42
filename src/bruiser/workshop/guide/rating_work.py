"""Staying tied, for what never breaks: judged by the work a family is for.

A grip and a stopper are judged by the load they hold against the load the use asks for, a binding
by what it retains, a quick release by whether it holds shaken and frees on demand, a tensioning
system by what its lock-off keeps. The weakest of what was measured decides.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.behaviour.holding import HoldResult
from bruiser.core.choice.ranking import DRAWS
from bruiser.core.choice.rating import Measured, Missing
from bruiser.core.performance.uncertain import around, grades, interval_of, share
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval
from bruiser.workshop.groups.work_results import WorkRow
from bruiser.workshop.results.result_words import percent

ENOUGH, TOO_LITTLE = 1.5, 0.75
"""A grip of one and a half times the load asked for is good; one of three quarters is poor."""
_KEPT, _FREES, _STAYS = (0.8, 0.3), (0.95, 0.6), (0.95, 0.6)
METHOD_OF_FAMILY = {
    "friction hitch": "cord on rope",
    "adjustable loop": "slide test",
    "stopper": "stopper through a plate",
    "quick release": "release test",
    "tensioning system": "advantage test",
    "binding": "retention test",
}
"""The method that says whether a family does what it is for."""
_ASKS = {
    "friction hitch": "its grip",
    "adjustable loop": "its grip",
    "stopper": "what pulls it through",
    "quick release": "how it lets go",
    "tensioning system": "what it keeps",
    "binding": "what it retains",
}


@dataclass(frozen=True, kw_only=True)
class _Criterion:
    """One criterion: points in draws, what was measured in words, and the pulls behind it."""

    points: Floats
    said: str
    pulls: tuple[str, ...]


def family_at_work(families: Iterable[str], asked: Iterable[str]) -> str:
    """The family whose work a knot is judged by; empty where it is judged by what breaks.

    Parameters
    ----------
    families : iterable of str
        All families of the structure, the first before the others.
    asked : iterable of str
        Families that the use asks for; empty for any.
    """
    own, wanted = list(families), list(asked)
    fits = [f for f in own if not wanted or f in wanted] or own
    return fits[0] if fits and fits[0] in METHOD_OF_FAMILY else ""


def what_lifts(family: str) -> str:
    """What has to be pulled for a knot of a family to be judged, in words."""
    return f"{_ASKS[family]} was not measured: a {METHOD_OF_FAMILY[family]} would say"


def work_security(
    family: str, rows: Sequence[WorkRow], holds: float, rng: np.random.Generator
) -> Measured | Missing:
    """Points of the weakest criterion of a knot's work.

    Parameters
    ----------
    family : str
        The family whose work is asked for.
    rows : sequence of WorkRow
        The knot at its work in one lot; of several ways it was held, the best counts.
    holds : float
        Load that the use asks it to hold, as a share of the cord's plain rope.
    """
    best: tuple[float, list[_Criterion], WorkRow] | None = None
    for row in rows:
        found = _criteria(family, row, holds, rng)
        if found:
            points = np.min([c.points for c in found], axis=0)
            middle = float(np.median(points))
            if best is None or middle > best[0]:
                best = (middle, found, row)
    pulls = tuple(p for row in rows for p in row.pull_ids)
    if best is None:
        return Missing(what_lifts(family), pulls)
    _, found, row = best
    points = np.min([c.points for c in found], axis=0)
    weakest = min(found, key=lambda c: float(c.points.mean()))
    others = [c.said for c in found if c is not weakest]
    basis = f"{'weakest: ' if others else ''}{weakest.said}"
    basis += f"; also {', '.join(others)}" if others else ""
    basis += f"; with {row.key.wraps} wraps" if row.key.wraps else ""
    behind = tuple(dict.fromkeys(p for c in found for p in c.pulls))
    return Measured(
        interval=interval_of(points), n=len(behind), basis=basis, draws=points, pull_ids=behind
    )


def _criteria(
    family: str, row: WorkRow, holds: float, rng: np.random.Generator
) -> list[_Criterion]:
    work, found = row.result, list[_Criterion]()
    if work.grip is not None and family in ("friction hitch", "adjustable loop"):
        found += _held(work.grip, row, holds, "slid", rng)
    if work.seat is not None and family == "stopper":
        found += _held(work.seat, row, holds, "pulled through", rng)
    if work.release is not None and family == "quick release":
        r = work.release
        for answered, (good, poor), words, lacking in (
            (r.freed, _FREES, "freed on demand", False),
            (r.freed_itself, _STAYS, "stayed when shaken", True),
        ):
            if answered is not None:
                value = 1 - answered.value if lacking else answered.value
                drawn = share(value * r.n, r.n, DRAWS, rng)
                said = f"{percent(value)} % {words}"
                found.append(
                    _Criterion(points=grades(drawn, good, poor), said=said, pulls=r.pull_ids)
                )
    if work.retention is not None and family == "binding":
        k = work.retention
        still = share(k.n - k.slack, k.n, DRAWS, rng)
        kept = still if k.kept is None else still * around(_closed(k.kept), DRAWS, rng)
        kept = np.zeros(DRAWS) if k.slack == k.n else kept
        said = f"{k.slack} of {k.n} came slack"
        said += "" if k.kept is None else f", the others kept {percent(k.kept.value)} %"
        found.append(_Criterion(points=grades(kept, *_KEPT), said=said, pulls=k.pull_ids))
    if work.advantage is not None and family == "tensioning system":
        a = work.advantage
        if a.kept is not None:
            drawn = around(_closed(a.kept), DRAWS, rng)
            said = f"kept {percent(a.kept.value)} % after the lock-off"
            found.append(_Criterion(points=grades(drawn, *_KEPT), said=said, pulls=a.pull_ids))
    return found


def _held(
    found: HoldResult, row: WorkRow, holds: float, verb: str, rng: np.random.Generator
) -> list[_Criterion]:
    """A grip or a stopper against the load asked for."""
    asked = f"{percent(holds)} % asked for"
    if found.share is not None:
        drawn = around(found.share, DRAWS, rng) / holds
        said = f"{verb} at {percent(found.share.value)} % of the rope, {asked}"
    elif found.at_least_n and row.lot_n is not None and not found.gave:
        least = found.at_least_n / row.lot_n
        if least < holds:
            return []
        drawn = np.full(DRAWS, least / holds)
        said = f"held {percent(least)} % of the rope without giving, {asked}"
    else:
        return []
    return [_Criterion(points=grades(drawn, ENOUGH, TOO_LITTLE), said=said, pulls=found.pull_ids)]


def _closed(found: Interval) -> Interval:
    """An interval to be drawn from; one reading is taken to be as uncertain as half and double."""
    if np.isfinite(found.high):
        return found
    return Interval(found.value, found.value / 2, found.value * 2)
