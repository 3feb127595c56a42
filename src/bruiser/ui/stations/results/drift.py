"""The sheet of drift: every pull against its own group, along the order, the days, the hands."""

from __future__ import annotations

import math
from datetime import date
from functools import partial

from bruiser.core.units import UnitChoice
from bruiser.figures.drift_chart import DriftChart, DriftMark, drift_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.results.lot_results import KnotResult
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import say_drift

BY = {"order": "Test order", "day": "Day"}


def drift_sheet(found: Overview, by: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `by` is ``order`` or ``day``."""
    people = sorted({c.technician for r in found.rows for c in r.result.data.context})
    first = _first_day(found.rows)
    marks = [m for row in found.rows for m in _marks(row, by, people, first)]
    families = [f for r in found.shown for f in r.families]
    drifts = [d for f in families for d in f.drifts]
    hands = [f.technicians for f in families if f.technicians is not None]
    mine = [d for d in drifts if d.by == by]
    shown = mine[0] if len(families) == 1 and mine else None
    behind = {"n:drift": Behind("Every pull that gave", tuple(m.key for m in marks))}
    lines = _family_lines(found) if len(families) > 1 else []
    word = "test order" if by == "order" else "day, counted from the first"
    chart = DriftChart(
        by=word,
        marks=tuple(marks),
        change=None if shown is None else (shown.change, shown.low, shown.high),
        warns=shown is not None and shown.warns,
        people=tuple(p or "not recorded" for p in people),
    )
    sentence = say_drift(drifts, hands[0] if hands else None)
    if len(families) > 1:
        warned = sum(d.warns for d in drifts) + sum(h.warns for h in hands)
        checks = len(drifts) + len(hands)
        sentence = (
            f"{warned} of {checks} checks in {len(families)} families of knots warn of drift."
        )
        if warned and warned <= max(1, round(0.05 * checks)):
            sentence += " By chance alone one in twenty would."
    return Sheet(
        about=about_lots(found, units),
        main=partial(drift_figure, chart) if marks else None,
        sentence=sentence,
        parts=(),
        lines=tuple(lines),
        behind=behind,
        empty="Too few pulls gave to say anything about drift.",
    )


def _first_day(rows: tuple[KnotResult, ...]) -> float:
    days = [c.day for r in rows for c in r.result.data.context if c.day is not None]
    return min(days, default=0.0)


def _marks(row: KnotResult, by: str, people: list[str], first: float) -> list[DriftMark]:
    sample, context = row.result.data.sample, row.result.data.context
    gave = sample.events > 0
    if gave.sum() < 2 or len(context) != len(gave):
        return []
    middle = float(sample.ln_load[gave].mean())
    codes = {m.pull_id: m.code for m in row.marks}
    marks = []
    for pull, x, e, c in zip(sample.pull_ids, sample.ln_load, gave, context, strict=True):
        place = c.order if by == "order" else c.day
        if not e or place is None:
            continue
        away = math.expm1(float(x) - middle)
        shown = place if by == "order" else place - first + 1
        when = "" if c.day is None else f", {date.fromordinal(int(c.day)).isoformat()}"
        marks.append(
            DriftMark(
                key=pull,
                place=shown,
                away=away,
                person=people.index(c.technician),
                label=f"{codes.get(pull, '')}: {100 * away:+.1f} %, "
                f"{row.key.knot}{when}, {c.technician}",
            )
        )
    return marks


def _family_lines(found: Overview) -> list[ResultLine]:
    """What every family that warns says; one line each."""
    said: list[str] = []
    for results in found.shown:
        for family in results.families:
            bad = [d for d in family.drifts if d.warns]
            people = family.technicians
            if bad or (people is not None and people.warns):
                warned = people if people is not None and people.warns else None
                said.append(f"{family.cordage}: {say_drift(bad, warned)}")
    return [ResultLine(words, "brick", "n:drift") for words in said]
