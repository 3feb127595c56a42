"""The sheet of slipping: criteria side by side, and of one knot draw, cycles and directions."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial

from bruiser.core.behaviour.security import CRITERIA, SecurityCriterion, SecurityLimits
from bruiser.core.behaviour.slip import DrawBand
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.direction_chart import direction_figure
from bruiser.figures.display import Figure
from bruiser.figures.rungs import Rung, Rungs, rungs_figure
from bruiser.figures.slip_charts import (
    CriterionCell,
    DrawChart,
    DrawEnd,
    DrawLine,
    SecurityRow,
    SurvivalCurve,
    draw_figure,
    security_figure,
    survival_figure,
)
from bruiser.ui.stations.results.sheet import Behind, Draw, Part, ResultLine, Sheet
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.findings.directions import direction_matrix, direction_rows, most_n
from bruiser.workshop.groups.slipping import Counted, SlipRow
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import (
    percent,
    say_criterion_seen,
    say_security,
    say_tails,
)
from bruiser.workshop.results.tail_lengths import TailLength, say_tail_lengths, tail_lengths

COLUMNS = {
    "onset": "First slip",
    "draw_d": "Draw at 30 %",
    "came_out": "Came out",
    "cycles": "Cycles",
    "shakes": "Shaking",
}


def slip_sheet(found: Overview, logbook: Logbook, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the row looked at."""
    many = len(found.shown) > 1
    behind: dict[str, Behind] = {}
    rows = tuple(_row(r, many, behind) for r in found.slip)
    row = next((r for r in found.slip if r.case.key == chosen), None)
    row = row or next((r for r in found.slip if r.measured), None)
    key = "" if row is None else row.case.key
    parts = () if row is None else _parts(row, logbook, units, behind)
    lines = []
    lengths = [] if row is None else tail_lengths(found.slip, row)
    if lengths:
        pulls = tuple(p for t in lengths for p in t.row.slip_pulls)
        by_tail = f"n:tails|{key}"
        behind[by_tail] = Behind(f"{lengths[0].row.case.knot.name} by its tail", pulls)
        said = say_tail_lengths(lengths, units)
        lines += [ResultLine(text, "ink", by_tail) for text in said]
        parts = (Part("tails", "Tail length", _tails_chart(lengths, behind)), *parts)
    if row is not None:
        tails = say_tails(row, units)
        n_key = f"n:slip|{row.case.key}"
        behind[n_key] = Behind(f"Slipping of {row.case.name}", row.slip_pulls)
        lines += [ResultLine(tails, "ink", n_key)] if tails else []
        lines.append(ResultLine(_limits_words(found.asked.security), "muted"))
    main: Draw | None = None
    if rows:
        main = only_width(partial(security_figure, tuple(COLUMNS.values()), rows, key))
    return Sheet(
        about=about_lots(found, units),
        main=main,
        sentence="" if row is None else say_security(row),
        parts=parts,
        lines=tuple(lines),
        behind=behind,
        empty="Nothing that could slip has been pulled and inspected in this lot yet.",
    )


def _tails_chart(lengths: Sequence[TailLength], behind: dict[str, Behind]) -> Draw:
    """Share that came out by the length of the tail, with the draw beside it."""
    rungs = []
    for t in lengths:
        spot = f"n:tail|{t.row.case.key}"
        behind[spot] = Behind(f"{t.row.case.name}", t.row.slip_pulls)
        share = t.came_out
        rungs.append(
            Rung(
                key=f"tail|{t.row.case.key}",
                name=t.said,
                words="came out, of those that gave",
                value=None if share is None else share.value,
                low=None if share is None else share.low,
                high=None if share is None else share.high,
                columns=(
                    f"{t.out} of {t.gave}",
                    "–" if t.given_d is None else f"{t.given_d:.1f} d",
                    "–" if t.drawn_d is None else f"{t.drawn_d:.1f} d",
                ),
                behind=spot,
            )
        )
    chart = Rungs(
        title="How long a tail is enough",
        rows=tuple(rungs),
        headings=("came out", "shortest", "drew at most"),
        widths=(20.0, 20.0, 26.0),
        label="share that came out",
    )
    return only_width(partial(rungs_figure, chart))


def only_width(draw: Callable[[float], Figure]) -> Draw:
    """A drawing that is as tall as its rows need, whatever the room."""
    return lambda width, _height: draw(width)


def _limits_words(limits: SecurityLimits) -> str:
    good = [f"{name} {_bound(limits, key)}" for key, name in CRITERIA.items()]
    return f"Good at the right end, poor at the left: {'; '.join(good)}."


def _bound(limits: SecurityLimits, key: str) -> str:
    good, poor = getattr(limits, key)
    if key == "draw_d":
        return f"{good:g} d and {poor:g} d"
    return f"{percent(good)} % and {percent(poor)} %"


def _row(row: SlipRow, many: bool, behind: dict[str, Behind]) -> SecurityRow:
    weakest = row.verdict.weakest
    key = row.case.key
    words = "nothing measured yet"
    if weakest is not None:
        words = f"weakest: {weakest.name}"
    if many:
        words = f"{row.case.lot.name} · {words}"
    cells = []
    for name, criterion in zip(CRITERIA, row.verdict.criteria, strict=True):
        spot = f"n:{name}|{key}"
        behind[spot] = Behind(f"{row.case.name}: {criterion.name}", _pulls(row, name))
        cells.append(_cell(criterion, criterion is weakest, spot))
    return SecurityRow(key=key, name=row.case.name, words=words, cells=tuple(cells))


def _pulls(row: SlipRow, name: str) -> tuple[str, ...]:
    if name == "cycles":
        return tuple(p for p, _, _ in row.cycles.pulls)
    if name == "shakes":
        return tuple(p for p, _, _ in row.shakes.pulls)
    return row.slip_pulls


def _cell(criterion: SecurityCriterion, weakest: bool, behind: str) -> CriterionCell:
    i = criterion.interval
    if i is None:
        return CriterionCell(
            text="–",
            place=None,
            low=None,
            high=None,
            weakest=False,
            behind=behind,
            tooltip=f"{criterion.name}: not measured on this knot by any pull that counts.",
        )

    def graded(value: float) -> float:
        if not math.isfinite(value):
            return 1.0
        share = (value - criterion.poor) / (criterion.good - criterion.poor)
        return min(1.0, max(0.0, share))

    ends = sorted((graded(i.low), graded(i.high)))
    return CriterionCell(
        text=_short(criterion),
        place=graded(i.value),
        low=ends[0],
        high=ends[1],
        weakest=weakest,
        behind=behind,
        tooltip=f"{say_criterion_seen(criterion)}: what the pulls say of staying tied by this "
        "criterion, with the range they leave open.",
    )


def _short(criterion: SecurityCriterion) -> str:
    i = criterion.interval
    assert i is not None
    if criterion.name == "draw":
        return f"{i.value:.1f} d ({i.low:.1f}–{i.high:.1f})"
    if not math.isfinite(i.high):
        return f"none to {percent(i.value)} %"
    if i.value > 1:
        return f"beyond {percent(i.low)} %"
    high = "…" if i.high > 1 else percent(i.high)
    return f"{percent(i.value)} % ({percent(i.low)}–{high})"


def _parts(
    row: SlipRow,
    logbook: Logbook,
    units: UnitChoice,
    behind: dict[str, Behind],
) -> tuple[Part, ...]:
    parts = []
    if row.ends or row.curves:
        parts.append(Part("draw", "Draw", partial(draw_figure, _chart(row, units))))
    curves = tuple(
        _curve(row, what, counted, behind)
        for what, counted in (("cycles", row.cycles), ("shakes", row.shakes))
        if counted.steps
    )
    if curves:
        parts.append(Part("survival", "Cycles", partial(survival_figure, curves)))
    matrix = direction_matrix(logbook, row.case.knot.id)
    if len(matrix.directions) > 1:
        lots, rows = direction_rows(matrix, units)
        most = f"0 to {units.force_text(most_n(matrix))}"

        def draw(width: float, height: float) -> Figure:
            del height
            return direction_figure(lots, rows, width, most)

        parts.append(Part("directions", "Directions", draw))
    return tuple(parts)


def _curve(row: SlipRow, what: str, counted: Counted, behind: dict[str, Behind]) -> SurvivalCurve:
    key = f"n:{what}-curve|{row.case.key}"
    pulls = tuple(p for p, _, _ in counted.pulls)
    behind[key] = Behind(f"{row.case.name}: {count(len(pulls), 'pull')} of {what}", pulls)
    steps = tuple((s.cycles, s.share, s.low, s.high, s.at_risk) for s in counted.steps)
    return SurvivalCurve(name=row.case.name, what=what, most=counted.most, steps=steps, behind=key)


def _chart(row: SlipRow, units: UnitChoice) -> DrawChart:
    d = row.case.lot.diameter_m
    given = [t.given_m for t in row.tails if t.given_m is not None]
    codes = {t.finding.pull_id: t.entry.specimen.code for g in row.case.groups for t in g.tried}
    lines = tuple(
        DrawLine(
            c.pull_id,
            tuple(float(v) for v in c.share),
            tuple(float(v) / d for v in c.draw_m),
        )
        for c in row.curves
    )
    ends = tuple(
        DrawEnd(
            key=pull,
            share=share,
            draw_d=draw / d,
            kind=kind,
            label=f"{codes.get(pull, '')}: drew {units.length_text(draw)} ({draw / d:.1f} d)",
        )
        for pull, share, draw, kind in row.ends
    )
    return DrawChart(
        name=row.case.name,
        lines=lines,
        ends=ends,
        band=_band(row.band, d),
        given_d=min(given) / d if given else None,
    )


def _band(band: DrawBand | None, d: float) -> tuple[tuple[float, float, float, float], ...]:
    if band is None:
        return ()
    columns = (band.share, band.low_m / d, band.middle_m / d, band.high_m / d)
    return tuple(
        (float(a), float(b), float(c), float(e)) for a, b, c, e in zip(*columns, strict=True)
    )
