"""A knot drawn from its recipe: ribbons painted from the lowest pass to the highest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bruiser.core.topology.crossings import Diagram
from bruiser.core.topology.heights import pass_heights
from bruiser.core.topology.recipe import Floats
from bruiser.figures.display import Disc, Figure, Line, Pen, Spot

ROPES = (("hemp-edge", "hemp", "hemp-light"), ("flax-edge", "flax", "flax-light"))
HOST = ("rope-dim", "steel", "steel")
_BANDS = ((1.0, 0), (0.80, 1), (0.34, 2))
"""How wide a ribbon is painted, in its own width, and with which of its tones."""
_GAP, _BEYOND = 1.40, 0.35
_MARGIN_D = 0.9
_OVERLAP = 0.6
"""How far a stretch runs on under its neighbour, in samples, so that no seam shows."""
_LIGHT_D = 1.3


@dataclass(frozen=True)
class Facing:
    """How a knot is looked at.

    Parameters
    ----------
    back : bool
        Turned over, left for right.
    mirrored : bool
        Tied with the other hand.
    upto : float
        How far along every rope it is drawn, as a share.
    ringed : tuple of int
        Crossings that are ringed, by number.
    """

    back: bool = False
    mirrored: bool = False
    upto: float = 1.0
    ringed: tuple[int, ...] = ()


FRONT = Facing()


@dataclass(frozen=True)
class Bit:
    """A stretch of a line round one of its passes."""

    line: str
    low: float
    high: float
    z: float
    at: float
    over: bool
    angle: float
    other: str


class _Place:
    """From cord diameters to millimetres on the page."""

    def __init__(self, layout: Diagram, width: float, height: float, look: Facing) -> None:
        ropes = {r.key for r in layout.recipe.ropes}
        points = np.vstack([c.points for k, c in layout.curves.items() if k in ropes])
        low, high = points.min(axis=0) - _MARGIN_D, points.max(axis=0) + _MARGIN_D
        size = high - low
        self.scale = float(min(width / size[0], height / size[1]))
        self._middle = (low + high) / 2
        self._turned = look.back != look.mirrored
        self._at = np.array([width / 2, height / 2])

    def __call__(self, points: Floats) -> Floats:
        moved = (points - self._middle) * self.scale
        moved[:, 0] *= -1.0 if self._turned else 1.0
        moved[:, 1] *= -1.0
        placed: Floats = moved + self._at
        return placed


def knot_figure(
    layout: Diagram, width: float, height: float, title: str, look: Facing = FRONT
) -> Figure:
    """A knot as a figure of a given size in millimetre.

    Every crossing is a spot, by its number.
    """
    pen, place = Pen(), _Place(layout, width, height, look)
    found = pass_heights(layout)
    tones = {r.key: ROPES[min(n, 1)] for n, r in enumerate(layout.recipe.ropes)}
    wide = {h.key: h.width for h in layout.recipe.hosts}
    turn = -1.0 if look.back else 1.0
    bits = sorted(_bits(layout, found), key=lambda b: turn * b.z)
    for bit in bits:
        count = layout.curves[bit.line].segments
        high = bit.high if bit.line in wide else min(bit.high, look.upto * count)
        if high <= bit.low:
            continue
        over = bit.over if not look.back else not bit.over
        thick = wide.get(bit.line, 1.0)
        if over and bit.line not in wide and bit.other not in wide and bit.at <= high:
            half = 0.5 / max(np.sin(np.radians(bit.angle)), 0.3) + _BEYOND
            gap = _round(layout, bit, half)
            if gap is not None:
                paper = "steel" if _on_host(layout, bit) else "surface"
                _ribbon(pen, place, layout, (bit.line, *gap), _GAP, paper)
        tone = tones.get(bit.line, HOST)
        for share, step in _BANDS:
            if thick * place.scale < _LIGHT_D and step == 2:
                continue
            # Inner tones run on a little farther, so that no end of the edge shows through.
            more = 0.5 * step
            ends = max(bit.low - more, 0.0), min(high + more, look.upto * count, float(count))
            _ribbon(pen, place, layout, (bit.line, *ends), share * thick, tone[step])
    if look.upto >= 1.0:
        _ends(pen, place, layout)
    _crossing_spots(pen, place, layout, look)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=title,
        header=("crossing", "over", "under"),
        rows=tuple(
            (str(n), c.over.line, c.under.line) for n, c in enumerate(layout.crossings, start=1)
        ),
    )


def line_bits(layout: Diagram) -> list[Bit]:
    """The stretches of every line round its passes, with the height of each."""
    return list(_bits(layout, pass_heights(layout)))


def _bits(layout: Diagram, found: dict[str, list[tuple[float, float]]]) -> Iterator[Bit]:
    """Every line cut midway between its passes."""
    hosts = {host.key for host in layout.recipe.hosts}
    for key, curve in layout.curves.items():
        passes = sorted(
            (mine.at, over, c.angle, other.line)
            for c in layout.crossings
            for mine, other, over in ((c.over, c.under, True), (c.under, c.over, False))
            if mine.line == key
        )
        if not passes or key in hosts:
            z = found[key][0][1] if found[key] else 0.0
            yield Bit(key, 0.0, float(curve.segments), z, -1.0, False, 90.0, key)
            continue
        marks = [p[0] for p in passes]
        edges = [0.0, *((a + b) / 2 for a, b in pairwise(marks)), float(curve.segments)]
        for n, (at, over, angle, other) in enumerate(passes):
            z = next(h for spot, h in found[key] if spot == at)
            low, high = max(edges[n] - _OVERLAP, 0.0), min(edges[n + 1] + _OVERLAP, edges[-1])
            yield Bit(key, low, high, z, at, over, angle, other)


def _on_host(layout: Diagram, bit: Bit) -> bool:
    """Whether a pass lies in front of or behind a host."""
    points = layout.curves[bit.line].points
    index = np.arange(len(points))
    spot = np.array([np.interp(bit.at, index, points[:, k]) for k in (0, 1)])
    return any(
        float(np.min(np.linalg.norm(layout.curves[h.key].points - spot, axis=1))) < h.width / 2
        for h in layout.recipe.hosts
    )


def _round(layout: Diagram, bit: Bit, half: float) -> tuple[float, float] | None:
    """The stretch within so many diameters of a pass."""
    points = layout.curves[bit.line].points
    far = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    here = float(np.interp(bit.at, np.arange(len(far)), far))
    low = float(np.interp(here - half, far, np.arange(len(far))))
    high = float(np.interp(here + half, far, np.arange(len(far))))
    return (max(low, bit.low), min(high, bit.high)) if high > low else None


def stretch(points: Floats, low: float, high: float) -> Floats:
    """A curve's points from one place to another, by samples and shares of them."""
    inner = np.arange(int(np.ceil(low + 1e-9)), int(np.floor(high - 1e-9)) + 1)
    marks = np.concatenate([[low], inner, [high]])
    index = np.arange(len(points))
    found: Floats = np.column_stack([np.interp(marks, index, points[:, k]) for k in (0, 1)])
    return found


def _ribbon(
    pen: Pen,
    place: _Place,
    layout: Diagram,
    where: tuple[str, float, float],
    wide: float,
    tone: str,
) -> None:
    """A stretch of a line, so many diameters wide."""
    line, low, high = where
    middle = stretch(layout.curves[line].points, low, high)
    if len(middle) >= 2:
        pen.add(ribbon(place(middle), wide * place.scale, tone))


def ribbon(middle: Floats, wide: float, tone: str) -> Line:
    """A filled ribbon along some points: its sides are set off square to them.

    Parameters
    ----------
    middle : ndarray, shape (n, 2)
        At least two points, in millimetre.
    wide : float
        In millimetre.
    """
    along = np.gradient(middle, axis=0)
    length = np.linalg.norm(along, axis=1)
    keep = length > 1e-9
    middle, along, length = middle[keep], along[keep], length[keep]
    normal = np.column_stack([-along[:, 1], along[:, 0]]) / length[:, None]
    sides = np.vstack([middle + 0.5 * wide * normal, (middle - 0.5 * wide * normal)[::-1]])
    return Line(tuple((float(x), float(y)) for x, y in sides), None, fill=tone, closed=True)


def _ends(pen: Pen, place: _Place, layout: Diagram) -> None:
    """A whipping on every tail, an arrow on every standing part."""
    for rope in layout.recipe.ropes:
        points = layout.curves[rope.key].points
        for end, tip, before in zip(rope.ends, (0, -1), (3, -4), strict=True):
            way = points[tip] - points[before]
            way = way / (float(np.linalg.norm(way)) or 1.0)
            side = np.array([-way[1], way[0]])
            if end == "tail":
                a, b = points[tip] - 0.55 * side, points[tip] + 0.55 * side
                line = place(np.vstack([a, b]))
                pen.add(Line(tuple(map(tuple, line.tolist())), "plum", width=0.32 * place.scale))
            else:
                head = points[tip] + 0.75 * way
                wings = [head, points[tip] + 0.5 * side, points[tip] - 0.5 * side]
                shape = place(np.vstack(wings))
                pen.add(Line(tuple(map(tuple, shape.tolist())), None, fill="ink", closed=True))


def _crossing_spots(pen: Pen, place: _Place, layout: Diagram, look: Facing) -> None:
    reach = max(place.scale * 1.0, 2.2)
    for n, c in enumerate(layout.crossings):
        x, y = (float(v) for v in place(np.array([[c.x, c.y]]))[0])
        if n in look.ringed:
            pen.add(Disc(x, y, 1.05 * place.scale, stroke="brick", width=0.7))
        label = f"crossing {n + 1}: {c.over.line} over {c.under.line}"
        pen.spot(
            Spot(
                key=f"crossing:{n}",
                x=x - reach / 2,
                y=y - reach / 2,
                width=reach,
                height=reach,
                label=label,
            )
        )
