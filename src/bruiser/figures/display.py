"""The display list: what a figure is made of, and what in it can be pointed at."""

from __future__ import annotations

import math
from dataclasses import KW_ONLY, dataclass, field, replace


@dataclass(frozen=True)
class Line:
    """A polyline, or a filled polygon when `fill` is given."""

    points: tuple[tuple[float, float], ...]
    stroke: str | None = "ink"
    _: KW_ONLY
    width: float = 0.3
    fill: str | None = None
    closed: bool = False
    dash: bool = False


@dataclass(frozen=True)
class Disc:
    """A circle."""

    x: float
    y: float
    radius: float
    _: KW_ONLY
    fill: str | None = None
    stroke: str | None = None
    width: float = 0.3


@dataclass(frozen=True)
class Box:
    """A rectangle with rounded corners."""

    x: float
    y: float
    width: float
    height: float
    _: KW_ONLY
    radius: float = 0.0
    fill: str | None = None
    stroke: str | None = None
    line: float = 0.3


@dataclass(frozen=True)
class Text:
    """One line of text; `style` names a text style, `max_width` elides."""

    x: float
    y: float
    text: str
    _: KW_ONLY
    style: str = "small"
    colour: str = "ink"
    anchor: str = "start"
    max_width: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Spot:
    """A region that can be pointed at, with what it says when it is.

    One that `drags` is not tapped: it tells how far along it the pointer was dragged.
    """

    key: str
    x: float
    y: float
    width: float
    height: float
    label: str
    drags: bool = False


Shape = Line | Disc | Box | Text


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A drawn figure and the same as a table.

    Parameters
    ----------
    width, height : float
        Size in millimetre.
    shapes : tuple
        Painted in order.
    spots : tuple
        What can be pointed at; later ones lie on top.
    title : str
        What it shows, for screen readers and exports.
    header, rows : tuple
        The figure as a table.
    keys : tuple of str
        What every row of the table leads to, as the spots do; empty where none leads anywhere.
    """

    width: float
    height: float
    shapes: tuple[Shape, ...]
    spots: tuple[Spot, ...] = ()
    title: str = ""
    header: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    keys: tuple[str, ...] = ()


@dataclass
class Pen:
    """Collects shapes and spots while a figure is drawn."""

    shapes: list[Shape] = field(default_factory=list)
    spots: list[Spot] = field(default_factory=list)

    def add(self, *shapes: Shape) -> None:
        """Add shapes on top of what is there."""
        self.shapes.extend(shapes)

    def spot(self, spot: Spot) -> None:
        """Add a region that can be pointed at."""
        self.spots.append(spot)


def thinned(figure: Figure, tolerance: float) -> Figure:
    """The figure with the points of its lines that lie within `tolerance` of a chord left out.

    Notes
    -----
    Douglas and Peucker's splitting: of a stretch the point farthest from its chord is kept where
    it is farther than the tolerance, and both parts are looked at again.
    """
    return replace(
        figure,
        shapes=tuple(
            replace(s, points=_thin(s.points, tolerance)) if isinstance(s, Line) else s
            for s in figure.shapes
        ),
    )


def _thin(
    points: tuple[tuple[float, float], ...], tolerance: float
) -> tuple[tuple[float, float], ...]:
    if len(points) < 3:
        return points
    keep, waiting = {0, len(points) - 1}, [(0, len(points) - 1)]
    while waiting:
        low, high = waiting.pop()
        (x0, y0), (x1, y1) = points[low], points[high]
        length = math.hypot(x1 - x0, y1 - y0)
        worst, at = tolerance, -1
        for k in range(low + 1, high):
            x, y = points[k]
            if length > 1e-9:
                away = abs((x1 - x0) * (y0 - y) - (x0 - x) * (y1 - y0)) / length
            else:
                away = math.hypot(x - x0, y - y0)
            if away > worst:
                worst, at = away, k
        if at >= 0:
            keep.add(at)
            waiting += [(low, at), (at, high)]
    return tuple(points[k] for k in sorted(keep))
