"""Results as JSON for other programs; loads in newton, shares as fractions."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from bruiser.core.behaviour.duties import (
    AdvantageResult,
    BulkResult,
    ReleaseResult,
    RetentionResult,
)
from bruiser.core.behaviour.holding import HoldResult, YesNo
from bruiser.core.behaviour.jamming import JamResult
from bruiser.core.behaviour.work import WorkResult
from bruiser.core.beyond.across import Across
from bruiser.core.json_records import write_document
from bruiser.core.performance.efficiency import AGAINST_WORDS
from bruiser.core.performance.report import Family, GroupResult, Report
from bruiser.core.statistics.strength import Interval

FORMAT = "bruiser-results-1"


def interval_json(interval: Interval | None) -> dict[str, float | None] | None:
    """A value with its interval; an open side is null."""
    if interval is None:
        return None
    return {"value": interval.value, "low": interval.low, "high": interval.high}


def _jam_json(jam: JamResult | None) -> dict[str, Any] | None:
    if jam is None:
        return None
    if jam.j50 is None:
        return {"value": None, "low": jam.above, "high": jam.below, "decided": False}
    return {**(interval_json(jam.j50) or {}), "decided": True}


def _ratio_json(found: Interval | None) -> dict[str, float | None] | None:
    """A typical ratio; from one reading it has no interval."""
    if found is None:
        return None
    if math.isinf(found.high):
        return {"value": found.value, "low": None, "high": None}
    return interval_json(found)


def _answers_json(said: YesNo) -> dict[str, int]:
    return {"yes": said.yes, "no": said.no}


def _hold_json(found: HoldResult | None, gave: str) -> dict[str, Any] | None:
    if found is None:
        return None
    typical = found.interval
    likely = found.estimate
    return {
        "mle": None if likely is None else {"mu": likely.mu, "sigma": likely.sigma},
        "value": None if typical is None else typical.value,
        "low": None if typical is None else typical.low,
        "high": None if typical is None else typical.high,
        "share": interval_json(found.share),
        "n": {gave: found.gave, "held": found.held},
        "at_least": found.at_least_n or None,
        "slides_by_hand": _answers_json(found.slides_by_hand),
        "frees_by_hand": _answers_json(found.frees_by_hand),
        "sheath": {look.value: n for look, n in found.sheaths},
    }


def _release_json(found: ReleaseResult | None) -> dict[str, Any] | None:
    if found is None:
        return None
    return {
        "n": found.n,
        "freed": interval_json(found.freed),
        "freed_itself": interval_json(found.freed_itself),
        "force_share": _ratio_json(found.force_share),
    }


def _advantage_json(found: AdvantageResult | None) -> dict[str, Any] | None:
    if found is None:
        return None
    value = _ratio_json(found.advantage) or {"value": None, "low": None, "high": None}
    return {"n": found.n, **value, "kept": _ratio_json(found.kept), "slack": found.slack}


def _retention_json(found: RetentionResult | None) -> dict[str, Any] | None:
    if found is None:
        return None
    return {
        "n": found.n,
        "kept": _ratio_json(found.kept),
        "slack": found.slack,
        "cut": _answers_json(found.cut),
    }


def _bulk_json(found: BulkResult | None) -> dict[str, Any] | None:
    if found is None:
        return None
    return {
        "n": found.n,
        "width_d": _ratio_json(found.width_d),
        "force": _ratio_json(found.force_n),
        "passed": interval_json(found.passed),
    }


def _work_json(work: WorkResult) -> dict[str, Any]:
    """What a group does besides breaking; null where it was not tried."""
    return {
        "grip": _hold_json(work.grip, "slid"),
        "release": _release_json(work.release),
        "advantage": _advantage_json(work.advantage),
        "retention": _retention_json(work.retention),
        "seat": _hold_json(work.seat, "through"),
        "bulk": _bulk_json(work.bulk),
    }


def group_json(result: GroupResult) -> dict[str, Any]:
    """One group."""
    data, found, rated = result.data, result.estimate, result.rated
    efficiency = None if rated is None else rated.efficiency
    bounds = {f"p{100 * share:.0f}": b.load_n for share, b in result.tolerance.items()}
    wraps = result.wraps
    return {
        "cordage": data.cordage,
        "condition": data.condition,
        "knot": data.knot,
        "n": {
            "broke": data.counts.broke,
            "came_out": data.counts.came_out,
            "outlasted": data.counts.outlasted,
            "void": data.counts.void,
        },
        "mle": None
        if found is None
        else {"mu": found.mu, "sigma": found.sigma, "log_likelihood": found.log_likelihood},
        "efficiency": None if efficiency is None else interval_json(efficiency.interval),
        "efficiency_prior_free": None
        if efficiency is None
        else interval_json(efficiency.prior_free),
        "efficiency_plain_mean": None if efficiency is None else efficiency.plain_mean,
        "tolerance": bounds or None,
        "came_out_share": None if rated is None else interval_json(rated.came_out),
        "j50": _jam_json(result.jam),
        "cycles_survival": [
            {"cycles": s.cycles, "share": s.share, "low": s.low, "high": s.high, "by": by}
            for by, steps in (("cycles", result.survival), ("shaking", result.shaken))
            for s in steps
        ],
        "wraps": None
        if wraps is None
        else {
            "intercept": wraps.intercept,
            "per_wrap": wraps.per_wrap,
            "sigma": wraps.sigma,
        },
        **_work_json(result.work),
        "caveats": [str(c) for c in result.caveats],
        "cordage_b": data.cordage_b or None,
        "reference": result.reference or None,
        "efficiency_other": None
        if result.other is None
        else interval_json(result.other.efficiency.interval),
        "efficiency_at_least": None if efficiency is None else efficiency.at_least,
        "mle_breaking": None
        if result.breaking is None
        else {"mu": result.breaking.mu, "sigma": result.breaking.sigma},
        "untie_s": interval_json(result.untie_s),
        "method": None if efficiency is None else efficiency.method,
        "definition": None if efficiency is None else AGAINST_WORDS[efficiency.against],
        "measurement": None if efficiency is None else efficiency.measurement,
        "prior": None if efficiency is None else efficiency.prior,
        "pulls": list(data.sample.pull_ids),
    }


def _comparisons_json(family: Family) -> list[dict[str, Any]]:
    return [
        {
            "cordage": family.cordage,
            "condition": family.condition,
            "a": family.knots[c.a],
            "b": family.knots[c.b],
            "difference_ln": c.difference,
            "p": c.p,
            "p_adjusted": c.p_adjusted,
        }
        for c in family.comparisons
    ]


def _drift_json(family: Family) -> list[dict[str, Any]]:
    where = {"cordage": family.cordage, "condition": family.condition}
    rows: list[dict[str, Any]] = [
        {**where, "by": d.by, "change": d.change, "low": d.low, "high": d.high, "warns": d.warns}
        for d in family.drifts
    ]
    people = family.technicians
    if people is not None:
        who = f"{people.first} against {people.second}"
        more = {"p_adjusted": people.p_adjusted, "warns": people.warns}
        rows.append({**where, "by": f"technician: {who}", "change": people.difference, **more})
    return rows


def _best_json(family: Family) -> list[dict[str, Any]]:
    """Chance of best among the knots of one cordage, family by family where they are known."""
    rows: list[dict[str, Any]] = []
    for name in dict.fromkeys(r.data.family for r in family.results):
        pairs = zip(family.results, family.chance_best, strict=True)
        knots = {
            str(r.data.knot): chance
            for r, chance in pairs
            if chance is not None and r.data.family == name
        }
        where = {"cordage": family.cordage, "condition": family.condition}
        if knots or not name:
            rows.append({**where, "knots": knots, **({"family": name} if name else {})})
    return rows


def across_json(across: Across, condition: str, caveats: Sequence[str]) -> dict[str, Any]:
    """Knots across cordages, of one set of groups that compare.

    Parameters
    ----------
    caveats : sequence of str
        What is refused and what weakens it, in words.
    """
    cells = [
        {
            "cordage": c.cordage,
            "knot": c.knot,
            "kind": c.kind.value,
            **(interval_json(c.share) or {}),
        }
        for c in across.cells
    ]
    return {
        "condition": condition,
        "cells": cells,
        "typical": _by_knot(across.typical),
        "new_cordage": _by_knot(across.new_cordage),
        "spread": interval_json(across.spread),
        "check": {
            "cells": across.check.cells,
            "inside": across.check.inside,
            "withdrawn": across.check.withdrawn,
        },
        "caveats": list(caveats),
        "prior": across.prior.words(),
        "not_said": [{"knot": knot, "cordage": cordage} for knot, cordage in across.refused],
    }


def _by_knot(found: dict[str, Interval]) -> list[dict[str, Any]]:
    return [{"knot": knot, **(interval_json(share) or {})} for knot, share in found.items()]


def report_json(report: Report, across: Sequence[dict[str, Any]] = ()) -> str:
    """The whole document; `across` as :func:`across_json` makes it."""
    document = {
        "format": FORMAT,
        "groups": [group_json(g) for g in report.groups],
        "comparisons": [row for f in report.families for row in _comparisons_json(f)],
        "chance_best": [row for f in report.families for row in _best_json(f)],
        "drift": [row for f in report.families for row in _drift_json(f)],
        "across": list(across),
    }
    return write_document(document)
