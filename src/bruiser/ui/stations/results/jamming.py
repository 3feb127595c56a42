"""The sheet of jamming: untying outcomes of every knot, and the fitted curve of one."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from bruiser.core.records.records import JAM_WORDS
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.jam_charts import JamCurve, JamLine, JamMark, jam_curve_figure, jam_ladder
from bruiser.ui.stations.results.sheet import Behind, Part, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.groups.jam_results import JamRow, Untied
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import percent, say_jam

HEIGHT_HINT = "Easiest after a hard pull first."


def jam_sheet(found: Overview, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the row whose curve is shown."""
    many = len(found.shown) > 1
    behind: dict[str, Behind] = {}
    drawn = [r for r in found.jam if r.baseline_n is not None]
    lines = tuple(_line(r, many, behind, units) for r in drawn)
    row = next((r for r in drawn if r.case.key == chosen), None)
    row = row or next((r for r in drawn if r.jam is not None and r.jam.decided), None)
    row = row or (drawn[0] if drawn else None)
    key = "" if row is None else row.case.key
    said = []
    stepped = row is not None and any(a.stepped for a in row.attempts)
    if stepped:
        said.append(
            ResultLine(
                "Where a knot was tried at several loads its attempts count as one: it jams "
                "somewhere between the last that opened and the first that did not.",
                "muted",
            )
        )
    if drawn:
        said.append(ResultLine(HEIGHT_HINT, "muted"))
    bare = [r for r in found.jam if r.baseline_n is None]
    if bare:
        said.append(
            ResultLine(
                f"{count(len(bare), 'knot')} untied in a lot without a measured plain rope: the "
                "loads cannot be set against it.",
                "ochre",
            )
        )
    return Sheet(
        about=about_lots(found, units),
        main=only_width(partial(jam_ladder, lines, key)) if lines else None,
        sentence="" if row is None else say_jam(row),
        parts=()
        if row is None
        else (Part("curve", "Curve", partial(jam_curve_figure, _curve(row, units))),),
        lines=tuple(said),
        behind=behind,
        empty="No knot has been untied after a pull in this lot yet."
        if not bare
        else say_jam(bare[0]),
    )


def _mark(u: Untied, baseline_n: float, units: UnitChoice) -> JamMark:
    took = "" if u.seconds is None else f" in {u.seconds:.0f} s"
    given_up = ", given up" if u.gave_up else ""
    label = (
        f"{u.code}, knot {u.end}: {JAM_WORDS[u.level]}{took}{given_up}, after "
        f"{units.force_text(u.load_n)}"
    )
    return JamMark(key=u.pull_id, share=u.load_n / baseline_n, level=u.level, label=label)


def _line(row: JamRow, many: bool, behind: dict[str, Behind], units: UnitChoice) -> JamLine:
    key = f"n:jam|{row.case.key}"
    behind[key] = Behind(
        f"Untying of {row.case.name}", tuple(dict.fromkeys(a.pull_id for a in row.attempts))
    )
    words = ", ".join(f"{n} {JAM_WORDS[level]}" for level, n in row.counts.items())
    if many:
        words = f"{row.case.lot.name} · {words}"
    bound, i = "", None
    if row.jam is not None:
        i = row.jam.j50
        if row.jam.above is not None:
            bound = f"open up to {math.floor(100 * row.jam.above + 1e-9)} %"
        elif row.jam.below is not None:
            bound = f"jammed from {percent(row.jam.below)} %"
        elif i is not None:
            high = f"–{percent(i.high)}" if i.high <= 1 else " and more"
            bound = f"half at {percent(i.value)} % ({percent(i.low)}{high})"
            if i.value > 1:
                bound = f"half above {percent(i.low)} %"
    opens = row.opens_after_hard
    return JamLine(
        key=row.case.key,
        name=row.case.name,
        words=words,
        marks=tuple(_mark(a, row.baseline_n or 1.0, units) for a in row.attempts),
        value=None if i is None else i.value,
        low=None if i is None else i.low,
        high=None if i is None else i.high,
        bound=bound,
        opens="" if opens is None else f"{percent(opens.value)} %",
        untie="" if row.untie_s is None else f"{row.untie_s.value:.0f} s",
        behind=key,
    )


def _curve(row: JamRow, units: UnitChoice) -> JamCurve:
    marks = tuple(_mark(a, row.baseline_n or 1.0, units) for a in row.attempts)
    fit = None if row.jam is None else row.jam.fit
    if fit is None:
        return JamCurve(name=row.case.name, points=(), marks=marks, why_not=_why_not(row))
    top = max([1.0, *(m.share for m in marks)])
    share = np.linspace(0.02, top, 60)
    low, middle, high = fit.chance(share)
    points = tuple(
        (float(a), float(b), float(c), float(d))
        for a, b, c, d in zip(share, low, middle, high, strict=True)
    )
    return JamCurve(name=row.case.name, points=points, marks=marks)


def _why_not(row: JamRow) -> str:
    if row.jam is None:
        return "no plain rope to set the loads against"
    if row.jam.above is not None:
        return "no curve: all of them opened"
    return "no curve: all of them jammed"
