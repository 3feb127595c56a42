"""Departures of every pull from its own group, along the test order or the day."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Disc, Figure, Line, Pen, Shape, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, in_percent


@dataclass(frozen=True, kw_only=True)
class DriftMark:
    """One pull that gave: where it stands, and how far above its group, as a share."""

    key: str
    place: float
    away: float
    person: int
    label: str


@dataclass(frozen=True, kw_only=True)
class DriftChart:
    """The marks with the fitted line from first to last, if there is one.

    `people` names the technicians, each with a mark of its own.
    """

    by: str
    marks: tuple[DriftMark, ...]
    change: tuple[float, float, float] | None
    warns: bool
    people: tuple[str, ...]


def person_shapes(person: int, x: float, y: float, size: float) -> list[Shape]:
    """The mark of a technician: a ring, a plus, a cross; a diamond for any other."""
    if person == 0:
        return [Disc(x, y, size, fill=None, stroke="plum", width=0.45)]
    if person == 1:
        ends = (((x - size, y), (x + size, y)), ((x, y - size), (x, y + size)))
        return [Line(end, "storm", width=0.5) for end in ends]
    if person == 2:
        s = 0.8 * size
        ends = (((x - s, y - s), (x + s, y + s)), ((x - s, y + s), (x + s, y - s)))
        return [Line(end, "moss", width=0.5) for end in ends]
    diamond = ((x - size, y), (x, y - size), (x + size, y), (x, y + size))
    return [Line(diamond, "ochre", width=0.4, fill=None, closed=True)]


def drift_figure(chart: DriftChart, width: float, height: float) -> Figure:
    """Draw it; the wedge is the interval of the change, hinged at the first pull."""
    pen = Pen()
    places = [m.place for m in chart.marks] or [0.0, 1.0]
    reach = max([0.05, *(abs(m.away) for m in chart.marks)])
    low, high = min(places), max(places)
    frame = Frame(
        left=15,
        top=9,
        right=width - 4,
        bottom=height - 16,
        x_axis=ChartAxis(low=low - 0.5, high=high + 0.5, label=chart.by, count=8),
        y_axis=ChartAxis(
            low=-1.1 * reach,
            high=1.1 * reach,
            say=in_percent,
            label="above or below the group's own mean",
            count=6,
        ),
    )
    frame.draw(pen)
    zero = frame.y(0.0)
    pen.add(Line(((frame.left, zero), (frame.right, zero)), "muted", width=0.4))
    if chart.change is not None:
        value, least, most = chart.change
        tone = "brick" if chart.warns else "plum"
        ends = [low, high]
        pen.add(frame.band(ends, [-least / 2, least / 2], [-most / 2, most / 2], "plum-wash"))
        pen.add(frame.line(ends, [-value / 2, value / 2], tone, 0.8))
    for mark in chart.marks:
        x, y = frame.x(mark.place), frame.y(mark.away)
        pen.add(*person_shapes(mark.person, x, y, 1.1))
        pen.spot(Spot(key=mark.key, x=x - 1.6, y=y - 1.6, width=3.2, height=3.2, label=mark.label))
    x = frame.left
    for n, person in enumerate(chart.people):
        pen.add(*person_shapes(n, x + 1.2, height - 2.6, 1.1))
        pen.add(Text(x + 3.6, height - 1.6, person, style="small", colour="muted"))
        x += 10.0 + 1.75 * len(person)
    who = (*chart.people, "")
    rows = tuple(
        (m.label, f"{m.place:g}", f"{m.away:.4f}", who[min(m.person, len(who) - 1)])
        for m in chart.marks
    )
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=f"Drift with the {chart.by}",
        header=("pull", chart.by, "away from its group", "technician"),
        rows=rows,
        keys=tuple(m.key for m in chart.marks),
    )
