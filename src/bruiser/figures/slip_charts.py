"""Draw against load, cycles survived, and the criteria of staying tied side by side."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import Axis, Frame, in_percent
from bruiser.figures.ladder import mark_shapes


@dataclass(frozen=True)
class DrawLine:
    """Draw of one pull in diameters against its share of the plain rope."""

    key: str
    share: tuple[float, ...]
    draw_d: tuple[float, ...]


@dataclass(frozen=True)
class DrawEnd:
    """A tail measured afterwards: where its pull ended and how far it had drawn."""

    key: str
    share: float
    draw_d: float
    kind: Outcome
    label: str


@dataclass(frozen=True)
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
        11,
        8,
        width - 8,
        height - 11,
        Axis(0.0, min(1.6, max(shares)), in_percent, "load, share of the plain rope", 5),
        Axis(0.0, 1.06 * max(draws), label="tail draw, in cord diameters", count=5),
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
        pen.add(Line(((frame.left, y), (frame.right, y)), "brick", 0.4, dash=True))
        pen.add(Text(frame.right - 1, y - 1.2, "shortest tail given", "small", "brick", "end"))
    for end in chart.ends:
        x, y = frame.x(end.share), frame.y(end.draw_d)
        pen.add(*mark_shapes(end.kind, x, y, 1.0))
        pen.spot(Spot(end.key, x - 2, y - 2, 4, 4, end.label))
    rows = [
        (chart.name, e.label, e.kind.value, f"{e.share:.4f}", f"{e.draw_d:.3f}") for e in chart.ends
    ]
    keys = [e.key for e in chart.ends]
    for line in chart.lines:
        for share, draw in zip(line.share, line.draw_d, strict=True):
            rows.append((chart.name, "gauge", "", f"{share:.4f}", f"{draw:.3f}"))
            keys.append(line.key)
    return Figure(
        width,
        height,
        tuple(pen.shapes),
        tuple(pen.spots),
        f"Draw against load, {chart.name}",
        ("knot", "reading", "outcome", "share of plain rope", "draw in d"),
        tuple(rows),
        tuple(keys),
    )


@dataclass(frozen=True)
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
            14,
            top + 8,
            width - 8,
            top + each - 15,
            Axis(0.0, max(1.0, float(curve.most)), label="", count=5),
            Axis(0.0, 1.0, in_percent, f"still tied after so many {curve.what}, {curve.name}", 3),
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
                    0,
                    "plum-wash",
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
        pen.add(Line(tuple(path), "plum", 0.8))
        base = frame.bottom + 9
        pen.add(Text(1, base, "at risk", "small", "muted"))
        last = -20.0
        for step in curve.steps:
            x = frame.x(step[0])
            if x > last + 6:
                pen.add(Text(x, base, str(step[4]), "small", "ink", "middle"))
                last = x
        if curve.behind:
            area = (frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top)
            pen.spot(Spot(curve.behind, *area, f"The pulls behind {curve.name}"))
    return Figure(
        width,
        height,
        tuple(pen.shapes),
        tuple(pen.spots),
        "Still tied after cycles and shaking",
        ("knot", "counted", "after", "still tied", "low", "high", "at risk"),
        tuple(rows),
        tuple(keys),
    )


@dataclass(frozen=True)
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


@dataclass(frozen=True)
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
        pen.add(Text(x + 1, 4.5, name, "strong-small", "ink", "start", room - 2))
    table = []
    keys = []
    for n, row in enumerate(rows):
        top = _HEAD + n * _ROW
        if row.key == chosen:
            pen.add(Box(0, top, width, _ROW, 0.0, "plum-wash"))
        pen.add(Line(((0, top), (width, top)), "line", 0.2))
        pen.add(Text(1.4, top + 4.6, row.name, "strong", "ink", "start", _NAMES - 3))
        pen.add(Text(1.4, top + 8.6, row.words, "small", "muted", "start", _NAMES - 3))
        pen.spot(Spot(f"row:{row.key}", 0, top, _NAMES, _ROW, row.name))
        for k, cell in enumerate(row.cells):
            x = _NAMES + k * room
            _draw_cell(pen, cell, x, top, room)
            table.append((row.name, criteria[k], cell.text, "weakest" if cell.weakest else ""))
            keys.append(cell.behind)
    height = _HEAD + len(rows) * _ROW + 6
    words = "◂ poor   good ▸     framed: the weakest, which decides     bar: 95 % interval"
    pen.add(Text(_NAMES + 1, height - 1.2, words, "small", "muted"))
    return Figure(
        width,
        height,
        tuple(pen.shapes),
        tuple(pen.spots),
        "Will it stay tied",
        ("knot", "criterion", "measured", "verdict"),
        tuple(table),
        tuple(keys),
    )


def _draw_cell(pen: Pen, cell: CriterionCell, x: float, top: float, room: float) -> None:
    inside = room - 6
    if cell.weakest:
        pen.add(Box(x + 0.4, top + 0.5, room - 2, _ROW - 1.0, 1.0, None, "plum", 0.5))
    if cell.place is None:
        pen.add(Text(x + 2, top + 6.0, cell.text, "small", "muted", "start", room - 4))
        return
    y = top + 3.2
    pen.add(Line(((x + 2, y), (x + 2 + inside, y)), "line", 0.3))
    low, high = cell.low or 0.0, 1.0 if cell.high is None else cell.high
    pen.add(
        Box(x + 2 + low * inside, y - 1.1, max((high - low) * inside, 0.5), 2.2, 1.0, "plum-soft")
    )
    at = x + 2 + cell.place * inside
    pen.add(Line(((at, y - 1.8), (at, y + 1.8)), "plum", 0.8))
    pen.add(Text(x + 1.4, top + 8.4, cell.text, "small", "ink", "start", room - 2))
    pen.spot(Spot(cell.behind, x, top, room - 1, _ROW, cell.tooltip))
