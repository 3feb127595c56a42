"""What stands on the specimen strip beside the rope: posts, plates, rings, edges, legs."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.records.layouts import Place, PlaceKind
from bruiser.figures.display import Box, Disc, Line, Pen


@dataclass(frozen=True, kw_only=True)
class StripCell:
    """A place of the strip and where it lies, in millimetre."""

    place: Place
    x: float
    width: float
    mirrored: bool

    @property
    def middle(self) -> float:
        return self.x + self.width / 2


def rope_line(pen: Pen, points: list[tuple[float, float]], width: float) -> None:
    """A rope along some points."""
    line = tuple(points)
    pen.add(
        Line(line, "hemp-edge", width=width),
        Line(line, "hemp", width=width * 0.72),
        Line(line, "hemp-light", width=width * 0.16),
    )


def arc_points(
    x: float, y: float, r: float, start: float, stop: float
) -> list[tuple[float, float]]:
    """Points round an arc, from one angle to another."""
    steps = 18
    angles = [start + (stop - start) * k / steps for k in range(steps + 1)]
    return [(x + r * math.cos(a), y + r * math.sin(a)) for a in angles]


def _draw_host(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """A post, seen from the side."""
    tall, x = body * 0.36, cell.middle
    pen.add(
        Box(
            x - rope * 1.5,
            y - tall,
            rope * 3,
            2 * tall,
            radius=0.8,
            fill="steel",
            stroke="ink",
            line=0.35,
        )
    )


def _draw_host_rope(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """The rope that a friction hitch grips, crossing the strip."""
    tall, x = body * 0.36, cell.middle
    for token, width in (("ink", 1.5), ("steel", 1.2)):
        pen.add(Line(((x - rope, y - tall), (x + rope, y + tall)), token, width=rope * width))


def _draw_plate(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """A plate with the hole that the line goes through."""
    tall, x = body * 0.36, cell.middle
    for top in (y - tall, y + rope * 0.7):
        pen.add(
            Box(
                x - rope * 0.6,
                top,
                rope * 1.2,
                tall - rope * 0.7,
                radius=0.3,
                fill="steel",
                stroke="ink",
                line=0.35,
            )
        )


def _draw_anchor(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """A ring on a wall."""
    tall, x = body * 0.36, cell.middle
    pen.add(
        Box(
            cell.x,
            y - tall,
            rope * 0.8,
            2 * tall,
            radius=0.2,
            fill="steel",
            stroke="ink",
            line=0.35,
        )
    )
    for token, width in (("ink", 1.5), ("steel", 0.9)):
        pen.add(Disc(x, y, rope * 1.2, fill=None, stroke=token, width=width))


def _draw_bundle(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """What is bound: several rods seen from their ends."""
    r, x = min(rope * 0.8, body * 0.12), cell.middle
    for dx, dy in ((-1, -1.6), (1, -1.6), (0, 0), (-1, 1.6), (1, 1.6)):
        pen.add(Disc(x + dx * r, y + dy * r * 0.95, r, fill="steel", stroke="ink", width=0.35))


def _draw_leg(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """A leg that leaves the line: an eye that hangs down, with its own pin."""
    x, deep = cell.middle, min(body * 0.30, 7.0)
    for side in (-1, 1):
        rope_line(pen, [(x + side * rope * 0.2, y), (x + side * rope, y + deep)], rope * 0.8)
    rope_line(pen, arc_points(x, y + deep, rope, 0.0, math.pi), rope * 0.8)
    pen.add(Disc(x, y + deep, rope * 0.5, fill="steel", stroke="ink", width=0.3))


def _draw_edge(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    """An edge that the line runs over."""
    x, low = cell.middle, y + rope * 0.5
    corner = ((x - rope * 1.6, y + body * 0.34), (x, low), (x + rope * 1.6, y + body * 0.34))
    pen.add(Line(corner, "ink", width=0.35, fill="steel", closed=True))


SOLIDS: dict[PlaceKind, Callable[[Pen, StripCell, float, float, float], None]] = {
    PlaceKind.HOST: _draw_host,
    PlaceKind.ROPE: _draw_host_rope,
    PlaceKind.PLATE: _draw_plate,
    PlaceKind.ANCHOR: _draw_anchor,
    PlaceKind.BUNDLE: _draw_bundle,
    PlaceKind.LEG: _draw_leg,
    PlaceKind.EDGE: _draw_edge,
}
"""How each kind of place is drawn: the pen, its cell, the rope's height and thickness, the body."""
