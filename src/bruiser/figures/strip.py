"""The specimen strip: a specimen drawn end to end, with the place where it gave."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from bruiser.core.layouts import Layout, Place, PlaceKind
from bruiser.core.records import Gave
from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text

_GAP = 0.8


@dataclass(frozen=True)
class StripState:
    """What the strip shows beyond the layout.

    Parameters
    ----------
    place : str or None
        The place where it gave, or that is being pointed out.
    gave : Gave or None
        How.
    tail_notes : dict
        A short text under each tail, by tail key.
    compact : bool
        The small strip that identifies a specimen: no cells, no words.
    """

    place: str | None = None
    gave: Gave | None = None
    tail_notes: dict[str, str] = field(default_factory=dict)
    compact: bool = False


@dataclass(frozen=True)
class _Cell:
    place: Place
    x: float
    width: float
    mirrored: bool

    @property
    def middle(self) -> float:
        return self.x + self.width / 2


def _cells(layout: Layout, width: float, gap: float) -> list[_Cell]:
    total = sum(p.weight for p in layout.places)
    room = width - gap * (len(layout.places) - 1)
    found, x = [], 0.0
    for number, place in enumerate(layout.places):
        w = room * place.weight / total
        found.append(_Cell(place, x, w, number >= len(layout.places) / 2))
        x += w + gap
    return found


def _rope(pen: Pen, points: list[tuple[float, float]], width: float) -> None:
    line = tuple(points)
    pen.add(
        Line(line, "hemp-edge", width),
        Line(line, "hemp", width * 0.72),
        Line(line, "hemp-light", width * 0.16),
    )


def _ring(x: float, y: float, r: float, start: float, stop: float) -> list[tuple[float, float]]:
    steps = 18
    angles = [start + (stop - start) * k / steps for k in range(steps + 1)]
    return [(x + r * math.cos(a), y + r * math.sin(a)) for a in angles]


def strip_figure(layout: Layout, width: float, height: float, state: StripState) -> Figure:
    """Draw a specimen strip.

    Parameters
    ----------
    layout : Layout
        Its places.
    width, height : float
        Size in millimetre.
    state : StripState
        What is marked on it.

    Returns
    -------
    Figure
        One spot a place, keyed by the place.
    """
    pen = Pen()
    gap = 0.2 if state.compact else _GAP
    cells = _cells(layout, width, gap)
    words = 0.0 if state.compact else 6.2
    notes = 5.2 if state.tail_notes and not state.compact else 0.0
    body = height - notes
    y = (body - words) / 2
    rope = min(2.4, body * 0.16) if not state.compact else max(0.7, height * 0.14)
    for cell in cells:
        marked = cell.place.key == state.place
        if not state.compact:
            fill = "plum-wash" if marked else "sunk"
            edge = "plum" if marked else None
            pen.add(Box(cell.x, 0, cell.width, body, 1.4, fill, edge, 0.5))
            colour = "plum" if marked else "muted"
            style = "strong-small" if marked else "small"
            pen.add(
                Text(cell.middle, body - 2.0, cell.place.label, style, colour, "middle", cell.width)
            )
        pen.spot(Spot(cell.place.key, cell.x, 0, cell.width, body, cell.place.label))
    _draw_rope(pen, cells, y, rope, state)
    for cell in cells:
        _draw_place(pen, cell, y, rope, body)
    if state.place is not None and state.gave is not None:
        marked_cell = next((c for c in cells if c.place.key == state.place), None)
        if marked_cell is not None:
            _draw_gave(pen, marked_cell, y, rope, state)
    for spot in layout.tails if notes else ():
        owners = [c for c in cells if c.place.owner is spot.end]
        if spot.key in state.tail_notes and owners:
            same = [t for t in layout.tails if t.end is spot.end]
            share = (same.index(spot) + 0.5) / len(same)
            x = owners[0].x + share * (owners[-1].x + owners[-1].width - owners[0].x)
            pen.add(Text(x, height - 1.0, state.tail_notes[spot.key], "small", "ink", "middle"))
    rows = tuple((p.label, "gave here" if p.key == state.place else "") for p in layout.places)
    return Figure(
        width,
        height,
        tuple(pen.shapes),
        tuple(pen.spots),
        f"Specimen strip: {layout.title}",
        ("place", "finding"),
        rows,
    )


def _draw_rope(pen: Pen, cells: list[_Cell], y: float, rope: float, state: StripState) -> None:
    """The rope from the first to the last place that carries it as a single line."""
    single = [c for c in cells if c.place.kind not in (PlaceKind.PIN, PlaceKind.EYE)]
    left, right = single[0].x, single[-1].x + single[-1].width
    if single[0].place.kind in (PlaceKind.TERMINATION, PlaceKind.HOST):
        left = single[0].middle
    if single[-1].place.kind is PlaceKind.TERMINATION:
        right = single[-1].middle
    broken = state.gave is Gave.BROKE and state.place is not None
    cell = next((c for c in single if c.place.key == state.place), None) if broken else None
    if cell is None:
        _rope(pen, [(left, y), (right, y)], rope)
        return
    half = min(0.18 * cell.width, 2.6)
    _rope(pen, [(left, y), (cell.middle - half, y)], rope)
    _rope(pen, [(cell.middle + half, y), (right, y)], rope)


def _draw_place(pen: Pen, cell: _Cell, y: float, rope: float, body: float) -> None:
    kind, x, w = cell.place.kind, cell.middle, cell.width
    turn = -1.0 if cell.mirrored else 1.0
    spread = min(body * 0.20, 4.2)
    if kind is PlaceKind.PIN:
        r = spread
        start = math.pi / 2 if turn > 0 else -math.pi / 2
        arc = _ring(x, y, r, start, start + math.pi)
        edge = cell.x + w if turn > 0 else cell.x
        arc = [(edge, arc[0][1]), *arc, (edge, arc[-1][1])]
        _rope(pen, arc, rope)
        pen.add(Disc(x, y, r - rope * 0.55, "steel", "ink", 0.3))
        pen.add(Disc(x, y, (r - rope * 0.55) * 0.3, "ink"))
    elif kind is PlaceKind.EYE:
        near = cell.x + w if turn > 0 else cell.x
        far = cell.x if turn > 0 else cell.x + w
        for side in (-1, 1):
            reach = [(far, y + side * spread), (near, y + side * rope * 0.45)]
            _rope(pen, reach, rope)
    elif kind is PlaceKind.KNOT:
        tall = spread * 1.05
        count = max(3, min(5, int(w / (rope * 1.35))))
        for k in range(count):
            xk = x + (k - (count - 1) / 2) * rope * 1.05
            lean = turn * rope * 0.45
            _rope(pen, [(xk - lean, y + tall), (xk + lean, y - tall)], rope)
    elif kind is PlaceKind.TERMINATION:
        r = spread * 1.15
        pen.add(Disc(x, y, r, "steel", "ink", 0.35))
        for k in (-1, 0, 1):
            xk = x + k * rope * 0.9
            _rope(pen, [(xk - rope * 0.2, y + r), (xk + rope * 0.2, y - r)], rope * 0.85)
    elif kind is PlaceKind.HOST:
        tall = body * 0.36
        pen.add(Box(x - rope * 1.5, y - tall, rope * 3, 2 * tall, 0.8, "steel", "ink", 0.35))


def _draw_gave(pen: Pen, cell: _Cell, y: float, rope: float, state: StripState) -> None:
    if state.gave is Gave.BROKE:
        half = min(0.18 * cell.width, 2.6)
        for side in (-1, 1):
            x = cell.middle + side * half
            for k in (-2, -1, 0, 1, 2):
                tip = (x - side * half * 0.75, y + k * rope * 0.42)
                root = (x, y + k * rope * 0.18)
                pen.add(Line((root, tip), "hemp-edge", 0.55), Line((root, tip), "hemp", 0.3))
    elif state.gave in (Gave.CAME_OUT, Gave.CAPSIZED):
        r = rope * 1.9
        token = "ochre"
        if state.gave is Gave.CAME_OUT:
            for colour, line in (("surface", 1.7), (token, 0.8)):
                pen.add(Box(cell.middle - r, y - r, 2 * r, 2 * r, 0.3, None, colour, line))
        else:
            turn = _ring(cell.middle, y, r, -2.4, 2.4)
            for colour, line in (("surface", 1.7), (token, 0.8)):
                pen.add(Line(tuple(turn), colour, line))
                pen.add(Line((turn[-1], (turn[-1][0] + 1.4, turn[-1][1] + 0.2)), colour, line))
