"""Results as JSON for other programs; loads in newton, shares as fractions."""

from __future__ import annotations

import json
import math
from typing import Any

from bruiser.core.strength import Efficiency, Estimate, Interval, OutcomeCounts

FORMAT = "bruiser-results-1"


def counts_json(counts: OutcomeCounts) -> dict[str, int]:
    """Specimens by outcome."""
    return {
        "broke": counts.broke,
        "came_out": counts.came_out,
        "outlasted": counts.outlasted,
        "void": counts.void,
    }


def interval_json(interval: Interval | None) -> dict[str, float | None] | None:
    """A value with its interval; an open side is null."""
    if interval is None:
        return None
    sides = {"value": interval.value, "low": interval.low, "high": interval.high}
    return {key: side if math.isfinite(side) else None for key, side in sides.items()}


def group_json(
    cordage: str,
    condition: str,
    knot: str | None,
    counts: OutcomeCounts,
    found: Estimate | None,
    efficiency: Efficiency | None,
    pulls: tuple[str, ...],
) -> dict[str, Any]:
    """One group: the baseline (knot None) or a knot."""
    return {
        "cordage": cordage,
        "condition": condition,
        "knot": knot,
        "n": counts_json(counts),
        "mle": None
        if found is None
        else {"mu": found.mu, "sigma": found.sigma, "log_likelihood": found.log_likelihood},
        "efficiency": None if efficiency is None else interval_json(efficiency.interval),
        "efficiency_at_least": None if efficiency is None else efficiency.at_least,
        "efficiency_plain_mean": None if efficiency is None else efficiency.plain_mean,
        "method": None if efficiency is None else efficiency.method,
        "caveats": [] if efficiency is None else list(efficiency.caveats),
        "pulls": list(pulls),
    }


def results_text(groups: list[dict[str, Any]]) -> str:
    """The whole document."""
    return json.dumps({"format": FORMAT, "groups": groups}, indent=1)
