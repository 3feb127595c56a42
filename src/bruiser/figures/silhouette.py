"""A knot small, in its place on the specimen strip: whole, broken, run out or capsized."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np

from bruiser.catalogue.drawings import on_other_own, other_hand, variant_drawn
from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave, Specimen
from bruiser.core.topology.crossings import Diagram
from bruiser.core.topology.curve import nearest
from bruiser.core.topology.recipe import Floats
from bruiser.figures.display import Line, Pen
from bruiser.figures.knot_drawing import HOST, ROPES, Bit, line_bits, ribbon, stretch
from bruiser.figures.strip_solids import StripCell, arc_points, rope_line

_LEAD_D = 2.0
BREAK_ROPES = 1.6
"""How far a broken standing part has sprung back from its knot, in its own thickness."""


@dataclass(frozen=True, order=True)
class TiedKnot:
    """What is tied: a structure and the options that are not the plain ones."""

    structure: str
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Room:
    """Where the line runs, how thick it is, the room above and below it, in millimetre.

    `eye` says that the legs of an eye run on into the next cell.
    """

    y: float
    rope: float
    half: float
    eye: bool


@dataclass(frozen=True)
class _Lead:
    """An end of what is drawn: a standing part, a tail or a leg of an eye, and where it is."""

    kind: str
    x: float
    y: float


@dataclass(frozen=True)
class _Silhouette:
    """Stretches from the lowest to the highest, in cord diameters; standing parts leave at +x.

    A stretch is the number of its rope, or -1 for a host, its thickness and its points.
    """

    bits: tuple[tuple[int, float, Floats], ...]
    leads: tuple[_Lead, ...]
    low: tuple[float, float]
    high: tuple[float, float]


def knots_of(specimen: Specimen) -> Mapping[End, TiedKnot]:
    """What is tied at the ends of a specimen, where it has a drawing."""
    found = {}
    for end in (End.A, End.B):
        knot = specimen.knot_at(end)
        if knot is not None and variant_drawn(knot.structure, dict(knot.choices)) is not None:
            found[end] = TiedKnot(knot.structure, knot.choices)
    return found


@lru_cache(maxsize=256)
def _silhouette(tied: TiedKnot) -> _Silhouette | None:
    choices = dict(tied.choices)
    found = variant_drawn(tied.structure, choices)
    if found is None:
        return None
    layout = found.drawn.layout
    turn = _turned(layout) * np.array([1.0, -1.0 if other_hand(choices) else 1.0])
    stretches, leads = [], []
    order = {rope.key: n for n, rope in enumerate(layout.recipe.ropes)}
    kept: dict[str, list[tuple[float, float]]] = {}
    for rope in layout.recipe.ropes:
        kept[rope.key], ends = _kept(layout, rope.key)
        points = layout.curves[rope.key].points @ turn
        leads += [_Lead(kind, *map(float, points[round(at)])) for kind, at in ends]
    bits = sorted(line_bits(layout), key=lambda b: b.z)
    for bit in bits:
        for low, high in _within(bit, kept.get(bit.line, [])):
            points = stretch(layout.curves[bit.line].points, low, high) @ turn
            stretches.append((order[bit.line], 1.0, points))
    every = np.vstack([p for *_, p in stretches])
    wide = {host.key: host.width for host in layout.recipe.hosts}
    for bit in bits:
        if bit.line in wide:
            points = _near(layout.curves[bit.line].points @ turn, every)
            below = sum(len(_within(b, kept.get(b.line, []))) for b in bits if b.z < bit.z)
            stretches.insert(below, (-1, wide[bit.line], points))
    low, high = every.min(axis=0) - 0.5, every.max(axis=0) + 0.5
    return _Silhouette(
        tuple(stretches),
        tuple(leads),
        (float(low[0]), float(low[1])),
        (float(high[0]), float(high[1])),
    )


def _turned(layout: Diagram) -> Floats:
    """The turn that leads the standing part to +x; of two, the first to -x and the last to +x."""
    ways = []
    for rope in layout.recipe.ropes:
        points = layout.curves[rope.key].points
        for end, tip, before in zip(rope.ends, (0, -1), (6, -7), strict=True):
            if end == "standing":
                ways.append((points[tip], points[tip] - points[before]))
    if not ways:
        return np.eye(2)
    apart = ways[-1][0] - ways[0][0]
    outward = float(ways[0][1] @ ways[-1][1]) < 0
    x, y = apart if len(ways) > 1 and outward else ways[0][1]
    angle = np.arctan2(y, x)
    turn: Floats = np.array(
        [[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]], dtype=float
    )
    return turn


def _kept(layout: Diagram, key: str) -> tuple[list[tuple[float, float]], list[tuple[str, float]]]:
    """Stretches of a rope that are drawn, by samples, and the ends that they leave.

    Its ends are cut short past its first and last crossing, and an eye to the feet of its legs.
    """
    points = layout.curves[key].points
    far = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    index = np.arange(len(points))
    passes = sorted(
        mine.at for c in layout.crossings for mine in (c.over, c.under) if mine.line == key
    )
    if not passes:
        return [(0.0, float(index[-1]))], []
    marks = [float(np.interp(at, index, far)) for at in passes]
    rope = next(r for r in layout.recipe.ropes if r.key == key)
    start, stop = max(marks[0] - _LEAD_D, 0.0), min(marks[-1] + _LEAD_D, float(far[-1]))
    cuts = []
    if key in layout.recipe.cuts:
        tip = float(far[nearest(layout.curves[key], *layout.recipe.cuts[key])])
        cuts = [
            (a + _LEAD_D, b - _LEAD_D)
            for a, b in pairwise(marks)
            if a < tip < b and b - a > 2.5 * _LEAD_D
        ]
    edges = [start, *(v for cut in cuts for v in cut), stop]
    kinds = [rope.ends[0], *("eye" for cut in cuts for _ in cut), rope.ends[1]]
    at = [float(np.interp(v, far, index)) for v in edges]
    return list(zip(at[::2], at[1::2], strict=True)), list(zip(kinds, at, strict=True))


def _within(bit: Bit, kept: list[tuple[float, float]]) -> list[tuple[float, float]]:
    return [
        (max(bit.low, low), min(bit.high, high))
        for low, high in kept
        if min(bit.high, high) > max(bit.low, low) + 1e-6
    ]


def _near(host: Floats, rope: Floats) -> Floats:
    """The part of a host that lies by the rope, and a little on either side."""
    margin = 0.6
    low, high = rope.min(axis=0) - margin, rope.max(axis=0) + margin
    inside = np.all((host >= low) & (host <= high), axis=1)
    found: Floats = host[inside] if inside.sum() >= 2 else host
    return found


def draw_silhouette(
    pen: Pen,
    cell: StripCell,
    room: Room,
    tied: TiedKnot,
    gave: Gave | None,
) -> None:
    """Draw a knot in its cell, as it is or as it was left.

    Parameters
    ----------
    room : Room
        Where the line runs, how thick it is, and how much there is for the knot.
    gave : Gave or None
        How it gave here: its standing part broken at the knot, its tail run out, or turned over
        into turns that slide along the line; None for a whole knot.
    """
    made = _silhouette(tied)
    if made is None:
        return
    y, rope = room.y, room.rope
    way = -1.0 if cell.mirrored else 1.0
    if gave in (Gave.CAME_OUT, Gave.CAPSIZED):
        _draw_undone(pen, cell, y, rope, way, gave)
        return
    wide, tall = made.high[0] - made.low[0], made.high[1] - made.low[1]
    scale = min(0.86 * cell.width / wide, 2 * room.half / tall, 1.15 * rope)
    middle = np.array([made.low[0] + wide / 2, made.low[1] + tall / 2])

    def place(points: Floats) -> Floats:
        turned = (points - middle) * scale * np.array([way, -way])
        placed: Floats = turned + np.array([cell.middle, y])
        return placed

    def spot(lead: _Lead) -> tuple[float, float]:
        x, y = place(np.array([[lead.x, lead.y]]))[0]
        return float(x), float(y)

    eyes = sorted((e for e in made.leads if e.kind == "eye"), key=lambda e: spot(e)[1])
    for lead in made.leads:
        x0, y0 = spot(lead)
        if lead.kind == "standing":
            right = x0 > cell.middle
            edge = cell.x + cell.width if right else cell.x
            if gave is Gave.BROKE and right == (way > 0):
                _frayed(pen, x0, y0, way, max(scale, 0.6 * rope))
                _frayed(pen, edge + way * BREAK_ROPES * rope, y, -way, rope)
                continue
            rope_line(pen, [(x0, y0), (edge, y)], scale)
        elif lead.kind == "eye" and room.eye:
            rank = eyes.index(lead)
            far = cell.x if way > 0 else cell.x + cell.width
            side = -1.0 if rank < len(eyes) / 2 else 1.0
            rope_line(pen, [(x0, y0), (far, y + side * rope * 0.45)], scale)
    for number, thick, points in made.bits:
        edge_tone, tone, light = HOST if number < 0 else ROPES[min(number, 1)]
        placed = place(points)
        for share, token in ((1.0, edge_tone), (0.7, tone), (0.2, light)):
            if share > 0.5 or scale > 1.2:
                pen.add(ribbon(placed, share * thick * scale, token))
    for lead in made.leads:
        if lead.kind == "tail":
            x0, y0 = spot(lead)
            _whipped(pen, x0, y0, scale)


def _whipped(pen: Pen, x: float, y: float, thick: float) -> None:
    """A dot of whipping at a tail's end, so that it is told from a standing part."""
    spot = arc_points(x, y, 0.62 * thick, 0.0, 6.2832)
    pen.add(Line(tuple(spot), None, fill="plum", closed=True))


def _frayed(pen: Pen, x: float, y: float, way: float, scale: float) -> None:
    """A broken end: yarns that stand apart, pointing along `way`."""
    for k in (-2, -1, 0, 1, 2):
        root, tip = (
            (x - way * 0.4 * scale, y + 0.12 * k * scale),
            (
                x + way * (1.0 - 0.12 * abs(k)) * scale,
                y + 0.42 * k * scale,
            ),
        )
        pen.add(Line((root, tip), "hemp-edge", width=0.34 * scale))
        pen.add(Line((root, tip), "hemp", width=0.18 * scale))


def _draw_undone(pen: Pen, cell: StripCell, y: float, rope: float, way: float, gave: Gave) -> None:
    """What is left of a knot that did not break: a run-out tail, or turns along a straight line."""
    edge = cell.x + cell.width if way > 0 else cell.x
    far = cell.middle - way * 0.36 * cell.width
    s = np.linspace(0.0, 1.0, 25)
    if gave is Gave.CAME_OUT:
        sway = np.sin(s * 2.2 * np.pi) * s * rope * 0.9
        line = [
            (edge + (far - edge) * k, y + dy)
            for k, dy in zip(s.tolist(), sway.tolist(), strict=True)
        ]
        rope_line(pen, line, rope)
        (x1, y1), (x0, y0) = line[-1], line[-2]
        along = np.array([x1 - x0, y1 - y0]) / float(np.hypot(x1 - x0, y1 - y0))
        side = np.array([-along[1], along[0]]) * rope * 0.62
        pen.add(Line(((x1 - side[0], y1 - side[1]), (x1 + side[0], y1 + side[1])), "plum",
                     width=rope * 0.36))  # fmt: skip
        return
    rope_line(pen, [(edge, y), (cell.x if way > 0 else cell.x + cell.width, y)], rope)
    reach = rope * 1.5
    for k in (-0.75, 0.75):
        x = cell.middle + k * rope
        turn = [(x - way * 0.5 * rope, y + reach), (x + way * 0.5 * rope, y - reach)]
        rope_line(pen, turn, rope)
    tail = [
        (cell.middle + way * 1.25 * rope, y - reach),
        (cell.middle + way * 1.9 * rope, y - reach * 1.25),
    ]
    rope_line(pen, tail, rope * 0.9)
    _whipped(pen, *tail[-1], rope * 0.8)


on_other_own(_silhouette.cache_clear)
