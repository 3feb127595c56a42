"""Grip against the number of wraps: tests, fit, what is shown to hold, and what is refused."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, Say
from bruiser.figures.pull_marks import mark_shapes


@dataclass(frozen=True, kw_only=True)
class WrapPoint:
    """One slide test."""

    key: str
    wraps: int
    load_n: float
    slid: bool
    label: str


@dataclass(frozen=True, kw_only=True)
class WrapBound:
    """For one number of wraps: typical grip and the load it is shown to hold, in newton."""

    wraps: int
    typical_n: float
    shown_n: float
    holds: bool


@dataclass(frozen=True, kw_only=True)
class WrapChart:
    """One hitch of one cord on one host."""

    name: str
    points: tuple[WrapPoint, ...]
    bounds: tuple[WrapBound, ...]
    target_n: float
    cord_n: float | None
    most_tested: int


def wrap_figure(chart: WrapChart, width: float, height: float, say_load: Say) -> Figure:
    """Draw it, load logarithmic; nothing is drawn more than a wrap beyond what was tested."""
    pen = Pen()
    loads = [p.load_n for p in chart.points] + [chart.target_n]
    loads += [v for b in chart.bounds for v in (b.typical_n, b.shown_n)]
    loads += [] if chart.cord_n is None else [chart.cord_n]
    last = chart.most_tested + 2
    first = min(p.wraps for p in chart.points)
    frame = Frame(
        left=18,
        top=9,
        right=width - 4,
        bottom=height - 12,
        x_axis=ChartAxis(low=first - 0.5, high=last + 0.5, label="wraps", count=last - first + 1),
        y_axis=ChartAxis(
            low=0.8 * min(loads),
            high=1.25 * max(loads),
            say=say_load,
            label=f"grip, {chart.name}",
            logarithmic=True,
        ),
    )
    frame.draw(pen)
    start = frame.x(chart.most_tested + 1.5)
    pen.add(
        Box(start, frame.top, frame.right - start, frame.bottom - frame.top, radius=0, fill="sunk")
    )
    wide, tall = frame.right - start, frame.bottom - frame.top
    for n in range(1, int((wide + tall) / 8.0) + 1):
        # A hatch from the lower left: each line meets the right side or the top.
        away = 8.0 * n
        first_end = (start + max(0.0, away - tall), frame.top + max(0.0, tall - away))
        last_end = (start + min(away, wide), frame.bottom - max(0.0, away - wide))
        pen.add(Line((first_end, last_end), "line", width=0.3))
    middle = (start + frame.right) / 2
    pen.add(
        Text(middle, frame.top + 6, "not judged:", style="small", colour="muted", anchor="middle")
    )
    pen.add(Text(middle, frame.top + 10, "too far", style="small", colour="muted", anchor="middle"))
    _across(pen, frame, chart.target_n, "wanted load", "brick")
    if chart.cord_n is not None:
        _across(pen, frame, chart.cord_n, "the cord breaks", "muted")
    if chart.bounds:
        xs = [float(b.wraps) for b in chart.bounds]
        pen.add(frame.line(xs, [b.typical_n for b in chart.bounds], "plum", 0.7))
    for bound in chart.bounds:
        x, y = frame.x(bound.wraps), frame.y(bound.shown_n)
        tone = "moss" if bound.holds else "ochre"
        pen.add(Line(((x - 3, y), (x + 3, y)), tone, width=0.9))
        pen.add(Line(((x, y), (x, frame.y(bound.typical_n))), tone, width=0.4))
        words = "shown to hold" if bound.holds else "not shown"
        if bound.wraps > chart.most_tested:
            pen.add(
                Text(
                    x - 4, y + 1, f"{words}, extrapolated", style="small", colour=tone, anchor="end"
                )
            )
        else:
            pen.add(Text(x + 4, y + 1, words, style="small", colour=tone))
    for point in chart.points:
        x, y = frame.x(point.wraps - 0.18), frame.y(point.load_n)
        kind = Outcome.CAME_OUT if point.slid else Outcome.OUTLASTED
        pen.add(*mark_shapes(kind, x, y, 1.0))
        pen.spot(Spot(key=point.key, x=x - 2, y=y - 2, width=4, height=4, label=point.label))
    rows = [
        (str(p.wraps), p.label, "slid" if p.slid else "held", f"{p.load_n:.1f}", "", "")
        for p in chart.points
    ]
    for b in chart.bounds:
        outcome = "shown to hold" if b.holds else "not shown"
        rows.append((str(b.wraps), "fit", outcome, "", f"{b.typical_n:.1f}", f"{b.shown_n:.1f}"))
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=f"Grip against wraps, {chart.name}",
        header=("wraps", "test", "outcome", "load, N", "typical grip, N", "lower bound, N"),
        rows=tuple(rows),
        keys=(*(p.key for p in chart.points), *("" for _ in chart.bounds)),
    )


def _across(pen: Pen, frame: Frame, load_n: float, words: str, tone: str) -> None:
    y = frame.y(load_n)
    pen.add(Line(((frame.left, y), (frame.right, y)), tone, width=0.4, dash=True))
    pen.add(Text(frame.left + 1, y - 1.2, words, style="small", colour=tone))
