"""The frame of a chart: two axes with round ticks, and where a value lies in millimetre."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from bruiser.figures.display import Line, Pen, Text
from bruiser.figures.scales import ticks

Say = Callable[[float], str]


def plain_number(value: float) -> str:
    """A tick's number without needless digits."""
    return f"{value:g}"


def in_percent(value: float) -> str:
    """A share as percent."""
    return f"{100 * value:.0f} %"


@dataclass(frozen=True, kw_only=True)
class ChartAxis:
    """One axis: its ends in its own unit, how a number is written, and what it is."""

    low: float
    high: float
    say: Say = plain_number
    label: str = ""
    count: int = 6
    logarithmic: bool = False

    def share(self, value: float) -> float:
        """Where a value lies, 0 at the low end and 1 at the high one."""
        if self.logarithmic:
            span = math.log(self.high / self.low)
            return math.log(max(value, 1e-300) / self.low) / span
        return (value - self.low) / (self.high - self.low)

    @property
    def ticks(self) -> tuple[float, ...]:
        """Round numbers along it."""
        if not self.logarithmic:
            return ticks(self.low, self.high, self.count)
        first, last = math.floor(math.log10(self.low)), math.ceil(math.log10(self.high))
        every = [m * 10.0**k for k in range(first, last + 1) for m in (1, 2, 5)]
        return tuple(v for v in every if self.low <= v <= self.high)


@dataclass(frozen=True, kw_only=True)
class Frame:
    """A plot's area in millimetre with its axes."""

    left: float
    top: float
    right: float
    bottom: float
    x_axis: ChartAxis
    y_axis: ChartAxis

    def x(self, value: float) -> float:
        """Place of a value across, kept inside."""
        return self.left + min(max(self.x_axis.share(value), 0.0), 1.0) * (self.right - self.left)

    def y(self, value: float) -> float:
        """Place of a value up, kept inside."""
        share = min(max(self.y_axis.share(value), 0.0), 1.0)
        return self.bottom - share * (self.bottom - self.top)

    def draw(self, pen: Pen) -> None:
        """Grid, ticks and labels."""
        for value in self.x_axis.ticks:
            x = self.x(value)
            pen.add(Line(((x, self.top), (x, self.bottom)), "line", width=0.2))
            pen.add(
                Text(
                    x,
                    self.bottom + 4,
                    self.x_axis.say(value),
                    style="small",
                    colour="muted",
                    anchor="middle",
                )
            )
        for value in self.y_axis.ticks:
            y = self.y(value)
            pen.add(Line(((self.left, y), (self.right, y)), "line", width=0.2))
            pen.add(
                Text(
                    self.left - 1.5,
                    y + 1,
                    self.y_axis.say(value),
                    style="small",
                    colour="muted",
                    anchor="end",
                )
            )
        pen.add(Line(((self.left, self.top), (self.left, self.bottom)), "muted", width=0.3))
        pen.add(Line(((self.left, self.bottom), (self.right, self.bottom)), "muted", width=0.3))
        if self.x_axis.label:
            pen.add(
                Text(
                    self.right,
                    self.bottom + 8,
                    self.x_axis.label,
                    style="small",
                    colour="muted",
                    anchor="end",
                )
            )
        if self.y_axis.label:
            pen.add(Text(self.left, self.top - 2, self.y_axis.label, style="small", colour="muted"))

    def line(
        self,
        xs: list[float],
        ys: list[float],
        stroke: str = "plum",
        width: float = 0.6,
        *,
        dash: bool = False,
    ) -> Line:
        """A line through points in the axes' units."""
        points = tuple((self.x(a), self.y(b)) for a, b in zip(xs, ys, strict=True))
        return Line(points, stroke, width=width, dash=dash)

    def band(self, xs: list[float], low: list[float], high: list[float], fill: str) -> Line:
        """An area between two lines."""
        up = [(self.x(a), self.y(b)) for a, b in zip(xs, high, strict=True)]
        down = [(self.x(a), self.y(b)) for a, b in zip(xs, low, strict=True)]
        return Line((*up, *reversed(down)), None, width=0.0, fill=fill, closed=True)
