"""Draw against load, cycles survived, and the criteria of staying tied side by side."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, in_percent
from bruiser.figures.pull_marks import mark_shapes


@dataclass(frozen=True)
class DrawLine:
    """Draw of one pull in diameters against its share of the plain rope."""

    key: str
    share: tuple[float, ...]
    draw_d: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class DrawEnd:
    """A tail measured afterwards: where its pull ended and how far it had drawn."""

    key: str
    share: float
    draw_d: float
    kind: Outcome
    label: str


@dataclass(frozen=True, kw_only=True)
class DrawChart:
    """Draw against load of one knot.

    Parameters
    ----------
    band : tuple of (share, low, middle, high), or empty
        The range seen, in diameters.
    given_d : float or None
        Shortest tail given, in diameters.
    """

    name: str
    lines: tuple[DrawLine, ...]
    ends: tuple[DrawEnd, ...]
    band: tuple[tuple[float, float, float, float], ...] = ()
    given_d: float | None = None


def draw_figure(chart: DrawChart, width: float, height: float) -> Figure:
    """Draw the chart; a spot a measured tail."""
    pen = Pen()
    shares = [1.0, *(e.share for e in chart.ends), *(v for x in chart.lines for v in x.share)]
    draws = [1.0, *(e.draw_d for e in chart.ends), *(v for x in chart.lines for v in x.draw_d)]
    if chart.given_d is not None and chart.given_d < 4 * max(draws):
        draws.append(chart.given_d)
    frame = Frame(
        left=11,
        top=8,
        right=width - 8,
        bottom=height - 11,
        x_axis=ChartAxis(
            low=0.0,
            high=min(1.6, max(shares)),
            say=in_percent,
            label="load, share of the plain rope",
            count=5,
        ),
        y_axis=ChartAxis(
            low=0.0, high=1.06 * max(draws), label="tail draw, in cord diameters", count=5
        ),
    )
    frame.draw(pen)
    if chart.band:
        xs, low, middle, high = (list(column) for column in zip(*chart.band, strict=True))
        pen.add(frame.band(xs, low, high, "plum-wash"))
        pen.add(frame.line(xs, middle, "plum", 0.7))
    for line in chart.lines:
        pen.add(frame.line(list(line.share), list(line.draw_d), "muted", 0.25))
    if chart.given_d is not None and chart.given_d <= frame.y_axis.high:
        y = frame.y(chart.given_d)
        pen.add(Line(((frame.left, y), (frame.right, y)), "brick", width=0.4, dash=True))
        pen.add(
            Text(
                frame.right - 1,
                y - 1.2,
                "shortest tail given",
                style="small",
                colour="brick",
                anchor="end",
            )
        )
    for end in chart.ends:
        x, y = frame.x(end.share), frame.y(end.draw_d)
        pen.add(*mark_shapes(end.kind, x, y, 1.0))
        pen.spot(Spot(key=end.key, x=x - 2, y=y - 2, width=4, height=4, label=end.label))
    rows = [
        (chart.name, e.label, e.kind.value, f"{e.share:.4f}", f"{e.draw_d:.3f}") for e in chart.ends
    ]
    keys = [e.key for e in chart.ends]
    for line in chart.lines:
        for share, draw in zip(line.share, line.draw_d, strict=True):
            rows.append((chart.name, "gauge", "", f"{share:.4f}", f"{draw:.3f}"))
            keys.append(line.key)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=f"Draw against load, {chart.name}",
        header=("knot", "reading", "outcome", "share of plain rope", "draw in d"),
        rows=tuple(rows),
        keys=tuple(keys),
    )


@dataclass(frozen=True, kw_only=True)
class SurvivalCurve:
    """Share still tied by count: steps of (count, share, low, high, at risk)."""

    name: str
    what: str
    most: int
    steps: tuple[tuple[int, float, float, float, int], ...]
    behind: str = ""


def survival_figure(curves: tuple[SurvivalCurve, ...], width: float, height: float) -> Figure:
    """Draw product-limit curves one under the other, with the numbers at risk."""
    pen = Pen()
    rows: list[tuple[str, ...]] = []
    keys = []
    each = height / max(1, len(curves))
    for n, curve in enumerate(curves):
        top = n * each
        frame = Frame(
            left=14,
            top=top + 8,
            right=width - 8,
            bottom=top + each - 15,
            x_axis=ChartAxis(low=0.0, high=max(1.0, float(curve.most)), label="", count=5),
            y_axis=ChartAxis(
                low=0.0,
                high=1.0,
                say=in_percent,
                label=f"still tied after so many {curve.what}, {curve.name}",
                count=3,
            ),
        )
        frame.draw(pen)
        ends = [*(s[0] for s in curve.steps[1:]), curve.most]
        for step, end in zip(curve.steps, ends, strict=True):
            x0, x1 = frame.x(step[0]), frame.x(end)
            pen.add(
                Box(
                    x0,
                    frame.y(step[3]),
                    x1 - x0,
                    frame.y(step[2]) - frame.y(step[3]),
                    radius=0,
                    fill="plum-wash",
                )
            )
        path = [(frame.x(0), frame.y(1.0))]
        for step, end in zip(curve.steps, ends, strict=True):
            path += [(frame.x(step[0]), frame.y(step[1])), (frame.x(end), frame.y(step[1]))]
            rows.append(
                (
                    curve.name,
                    curve.what,
                    str(step[0]),
                    *(f"{v:.4f}" for v in step[1:4]),
                    str(step[4]),
                )
            )
            keys.append(curve.behind)
        pen.add(Line(tuple(path), "plum", width=0.8))
        base = frame.bottom + 9
        pen.add(Text(1, base, "at risk", style="small", colour="muted"))
        last = -20.0
        for step in curve.steps:
            x = frame.x(step[0])
            if x > last + 6:
                pen.add(Text(x, base, str(step[4]), anchor="middle"))
                last = x
        if curve.behind:
            spot = Spot(
                key=curve.behind,
                x=frame.left,
                y=frame.top,
                width=frame.right - frame.left,
                height=frame.bottom - frame.top,
                label=f"{curve.name}: the share still tied after each count of cycles; "
                "press it for the pulls behind it.",
            )
            pen.spot(spot)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Still tied after cycles and shaking",
        header=("knot", "counted", "after", "still tied", "low", "high", "at risk"),
        rows=tuple(rows),
        keys=tuple(keys),
    )


@dataclass(frozen=True, kw_only=True)
class CriterionCell:
    """One criterion of one knot.

    Parameters
    ----------
    place, low, high : float or None
        Value and interval graded from 0, poor, to 1, good; None where not measured.
    """

    text: str
    place: float | None
    low: float | None
    high: float | None
    weakest: bool
    behind: str
    tooltip: str


@dataclass(frozen=True, kw_only=True)
class SecurityRow:
    """One knot with its criteria, weakest first where it matters."""

    key: str
    name: str
    words: str
    cells: tuple[CriterionCell, ...]


_NAMES, _ROW, _HEAD = 50.0, 10.4, 7.0


def security_figure(
    criteria: tuple[str, ...], rows: tuple[SecurityRow, ...], chosen: str, width: float
) -> Figure:
    """Draw the criteria side by side: right is good, the weakest is framed."""
    pen = Pen()
    room = (width - _NAMES) / max(1, len(criteria))
    for n, name in enumerate(criteria):
        x = _NAMES + n * room
        pen.add(Text(x + 1, 4.5, name, style="strong-small", max_width=room - 2))
    table = []
    keys = []
    for n, row in enumerate(rows):
        top = _HEAD + n * _ROW
        if row.key == chosen:
            pen.add(Box(0, top, width, _ROW, fill="plum-wash"))
        pen.add(Line(((0, top), (width, top)), "line", width=0.2))
        pen.add(Text(1.4, top + 4.6, row.name, style="strong", max_width=_NAMES - 3))
        pen.add(
            Text(1.4, top + 8.6, row.words, style="small", colour="muted", max_width=_NAMES - 3)
        )
        pen.spot(Spot(key=f"row:{row.key}", x=0, y=top, width=_NAMES, height=_ROW, label=row.name))
        for k, cell in enumerate(row.cells):
            x = _NAMES + k * room
            _draw_cell(pen, cell, x, top, room)
            table.append((row.name, criteria[k], cell.text, "weakest" if cell.weakest else ""))
            keys.append(cell.behind)
    height = _HEAD + len(rows) * _ROW + 6
    words = "◂ poor   good ▸     framed: the weakest, which decides     bar: 95 % interval"
    pen.add(Text(_NAMES + 1, height - 1.2, words, style="small", colour="muted"))
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Will it stay tied",
        header=("knot", "criterion", "measured", "verdict"),
        rows=tuple(table),
        keys=tuple(keys),
    )


def _draw_cell(pen: Pen, cell: CriterionCell, x: float, top: float, room: float) -> None:
    inside = room - 6
    if cell.weakest:
        pen.add(
            Box(
                x + 0.4,
                top + 0.5,
                room - 2,
                _ROW - 1.0,
                radius=1.0,
                fill=None,
                stroke="plum",
                line=0.5,
            )
        )
    if cell.place is None:
        pen.add(
            Text(x + 2, top + 6.0, cell.text, style="small", colour="muted", max_width=room - 4)
        )
        return
    y = top + 3.2
    pen.add(Line(((x + 2, y), (x + 2 + inside, y)), "line", width=0.3))
    low, high = cell.low or 0.0, 1.0 if cell.high is None else cell.high
    pen.add(
        Box(
            x + 2 + low * inside,
            y - 1.1,
            max((high - low) * inside, 0.5),
            2.2,
            radius=1.0,
            fill="plum-soft",
        )
    )
    at = x + 2 + cell.place * inside
    pen.add(Line(((at, y - 1.8), (at, y + 1.8)), "plum", width=0.8))
    pen.add(Text(x + 1.4, top + 8.4, cell.text, max_width=room - 2))
    pen.spot(Spot(key=cell.behind, x=x, y=top, width=room - 1, height=_ROW, label=cell.tooltip))
