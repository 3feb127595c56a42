"""What is known of a lot: its baseline, its rating beside it, and working loads of its knots."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.choice.working_load import DesignFactor, WorkingLoads, working_loads
from bruiser.core.records.records import Finding, Gave, Lot, Outcome
from bruiser.core.statistics.posterior import BASELINE_PRIOR, typical_value
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.lot_results import BaselineResult, KnotResult, LotResults, PullMark

ENOUGH_BASELINE = 5
FLOOR_SHARE = 0.95


@dataclass(frozen=True, kw_only=True)
class BaselineFacts:
    """The plain rope of a lot in words and numbers.

    Parameters
    ----------
    interval : Interval or None
        Typical strength in newton with its 95 % interval.
    missing : tuple of str
        What is not there, or weakens it.
    rating_share : float or None
        Typical measured strength over the rating.
    """

    marks: tuple[PullMark, ...]
    interval: Interval | None
    estimate_words: str
    missing: tuple[str, ...]
    rating_words: str
    rating_share: float | None


def _why_floor(logbook: Logbook, mark: PullMark) -> str:
    entry = logbook.by_pull[mark.pull_id]
    finding: Finding | None = entry.finding
    if finding is None or finding.gave is Gave.STOPPED or finding.place is None:
        return "were stopped before they broke"
    return "broke at the termination"


def baseline_facts(logbook: Logbook, results: LotResults, units: UnitChoice) -> BaselineFacts:
    """Say what the straight pulls of a lot in its condition are worth."""
    base: BaselineResult = results.baseline
    lot, counts = base.lot, base.counts
    total = counts.specimens
    missing: list[str] = []
    if total == 0:
        missing.append(
            f"No straight pulls of {lot.name} in this condition. A rating is no baseline: "
            "without straight pulls no share of the rope can be given."
        )
    marks = tuple(m for m in base.marks if not m.left_out)
    floors = [m for m in marks if m.kind is Outcome.OUTLASTED]
    for why in dict.fromkeys(_why_floor(logbook, m) for m in floors):
        same = [m for m in floors if _why_floor(logbook, m) == why]
        highest = max(m.load_n for m in same)
        verb = why if len(same) > 1 else why.replace("were", "was").replace("they", "it")
        missing.append(
            f"{len(same)} of {total} baseline pulls {verb}, so the true strength of those is at "
            f"least what was read; the highest read {units.force_text(highest)}."
        )
    if 0 < counts.broke < ENOUGH_BASELINE:
        missing.append(
            f"{counts.broke} of the {ENOUGH_BASELINE} clear breaks that steady the number are "
            "there; every interval of this lot is wider for it."
        )
    if counts.void:
        missing.append(f"{counts.void} void, kept and not counted.")
    if len(marks) < len(base.marks):
        missing.append(f"{len(base.marks) - len(marks)} left out of the results with a reason.")
    interval = typical_value(base.result.data.sample, BASELINE_PRIOR)
    typical_n = None if interval is None else interval.value
    return BaselineFacts(
        marks=marks,
        interval=interval,
        estimate_words=_estimate_words(base, interval, units),
        missing=tuple(missing),
        rating_words=_rating_words(lot, typical_n, units),
        rating_share=None
        if typical_n is None or lot.rated_strength_n is None
        else typical_n / lot.rated_strength_n,
    )


def _estimate_words(base: BaselineResult, interval: Interval | None, units: UnitChoice) -> str:
    total = base.counts.specimens
    pulls = count(total, "pull")
    if interval is None:
        return "" if not total else f"Nothing broke clear in {pulls}: no typical strength yet."
    text = f"Typical {units.force_text(interval.value)}"
    low, high = units.force_number(interval.low), units.force_text(interval.high)
    return f"{text}, between {low} and {high} (95 %), from {pulls}."


def _rating_words(lot: Lot, typical_n: float | None, units: UnitChoice) -> str:
    if lot.rated_strength_n is None:
        return "No rated strength entered."
    means = {
        "minimum": "as a minimum",
        "average": "as an average",
        "unknown": "without saying whether minimum or average",
    }[lot.rating_means]
    text = f"Rated {units.force_text(lot.rated_strength_n)} {means}."
    if typical_n is None:
        return text
    share = 100 * typical_n / lot.rated_strength_n
    return f"{text} Measured here: {share:.0f} % of the rating."


@dataclass(frozen=True, kw_only=True)
class KnotLoads:
    """Working loads of one knot in a lot; `loads` is None without a design factor."""

    name: str
    loads: WorkingLoads | None
    basis: str
    warning: str


def knot_loads(logbook: Logbook, lot: Lot, row: KnotResult | None, units: UnitChoice) -> KnotLoads:
    """Working load by the four schools for a knot of a lot, or for one that was not measured."""
    entry = logbook.brief.factor
    name = "" if row is None else row.name
    warning = ""
    if row is None or row.efficiency.interval is None:
        warning = (
            "Not measured in this lot and condition: what stands here rests on the maker's rating "
            "alone, not on pulls."
        )
    elif lot.rated_strength_n is None:
        warning = "No rated strength entered: only the measured floor can be given."
    if entry is None:
        return KnotLoads(name=name, loads=None, basis="", warning=warning)
    eff = None
    floor_n, events, confidence = None, 0, 0.95
    if row is not None:
        interval = row.efficiency.interval
        eff = None if interval is None else interval.value
        bound = row.result.tolerance.get(FLOOR_SHARE)
        counts = row.efficiency.counts
        events = counts.broke + counts.came_out
        if bound is not None:
            floor_n, confidence = bound.load_n, bound.confidence
    words = (
        f"{100 * FLOOR_SHARE:g} % of such knots hold at least this, "
        f"{100 * confidence:g} % confidence"
    )
    loads = working_loads(
        DesignFactor(entry.value, entry.source),
        rated_n=lot.rated_strength_n,
        efficiency=eff,
        floor_n=floor_n,
        events=events,
        say=units.force_text,
        floor_words=words,
    )
    default, floor = loads.default, loads.schools[-1].load_n
    if default is not None and floor is not None and floor < (default.load_n or 0.0):
        warning = (
            "The measured floor is lower than the figure taken by default, from too few failures "
            "to be the default. Do not go above it. " + warning
        ).strip()
    failures = {0: "No observed failure", 1: "1 observed failure"}.get(
        events, f"{events} observed failures"
    )
    return KnotLoads(
        name=name, loads=loads, basis=f"{failures} behind the measured figures", warning=warning
    )
