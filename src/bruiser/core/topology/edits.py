"""Edits that make one variant of a knot from another: a slipped tuck, a stopper on the tail."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from bruiser.core.topology.crossings import Crossing, Diagram, Pass, meetings
from bruiser.core.topology.curve import SampledLine, spline
from bruiser.core.topology.recipe import Floats

_BESIDE_D, _DRAW_D, _EXITS_D = 1.12, 4.0, (3.0, 1.8, 1.0)
_OUT = 13
"""How many points of a way back are its exit."""
_OVERHAND = (
    "0,0 2,0.7 3.5,2.22 5.7,1.05 7.3,2.6 7.7,4.2 6.6,5.6 4.6,6.1 2.6,5.6 1.5,4.2 1.9,2.6 "
    "3.5,1.05 5.7,2.22 7.2,0.7 9.2,0"
)
_OVERHAND_PASSES = "ououou"


def slipped(layout: Diagram, key: str) -> Diagram | None:
    """The knot with a rope's last tuck made by a bight: the tail comes back beside itself.

    The tail is doubled back as far as past its last pass under a rope and led out to that side
    on which it meets nothing; None where there is no such side, or the rope has no tail at its end.
    """
    rope = next(r for r in layout.recipe.ropes if r.key == key)
    start = _last_tuck(layout, key)
    if rope.ends[1] != "tail" or start is None:
        return None
    for side in (1.0, -1.0):
        for exit_d in _EXITS_D:
            piece = _way_back(layout.curves[key], start, side, exit_d)
            found = _appended(layout, key, piece, start)
            if found is not None:
                return found
    return None


def stopped(layout: Diagram, key: str) -> Diagram | None:
    """The knot with an overhand at the end of a rope's tail; None where it would meet the rest."""
    rope = next(r for r in layout.recipe.ropes if r.key == key)
    curve = layout.curves[key]
    if rope.ends[1] != "tail":
        return None
    along = curve.points[-1] - curve.points[-4]
    along /= np.linalg.norm(along)
    own = np.array([[float(v) for v in p.split(",")] for p in _OVERHAND.split()])
    for side in (1.0, -1.0):
        normal = side * np.array([-along[1], along[0]])
        shape, _ = spline(own)
        piece = curve.points[-1] + shape[1:, :1] * along + shape[1:, 1:] * normal
        if any(True for _ in _meets(layout, key, piece)):
            continue
        count = len(curve.points)
        itself = SampledLine(piece, np.full(len(piece), np.nan))
        own_meets = meetings(itself, itself, same=True)
        order = sorted(v for pair in own_meets for v in pair)
        made = []
        for s, t in own_meets:
            first = Pass(key, count + s), Pass(key, count + t)
            over = _OVERHAND_PASSES[order.index(s)] == "o"
            made.append(_crossing(piece, s, t, first if over else first[::-1]))
        return _grown(layout, key, piece, made)
    return None


def _last_tuck(layout: Diagram, key: str) -> float | None:
    """Where along a rope, in samples, its last tuck begins; None where nothing lies over it."""
    ropes = {r.key for r in layout.recipe.ropes}
    passes = sorted(
        (mine.at, under and other.line in ropes)
        for c in layout.crossings
        for mine, other, under in ((c.over, c.under, False), (c.under, c.over, True))
        if mine.line == key
    )
    tucks = [n for n, (_, under) in enumerate(passes) if under]
    if not tucks:
        return None
    n = tucks[-1]
    before = passes[n - 1][0] if n else 0.0
    return (before + passes[n][0]) / 2


def _way_back(curve: SampledLine, start: float, side: float, exit_d: float) -> Floats:
    """Points from a tail's end on: a little farther, round, back beside itself and out."""
    last = curve.points[-1]
    along = last - curve.points[-4]
    along /= np.linalg.norm(along)
    beyond = last + np.linspace(0.1, 1.0, 8)[:, None] * along * _DRAW_D / 2
    stretch = np.vstack([curve.points[int(np.ceil(start)) :], beyond])
    way = np.gradient(stretch, axis=0)
    normal = np.column_stack([-way[:, 1], way[:, 0]])
    normal /= np.linalg.norm(normal, axis=1)[:, None]
    back = (stretch + side * _BESIDE_D * normal)[::-1]
    turn = np.linspace(0.0, np.pi, 9)[1:-1, None]
    half, middle = side * _BESIDE_D / 2, stretch[-1] + side * _BESIDE_D / 2 * normal[-1]
    round_it = middle - half * np.cos(turn) * normal[-1] + 0.9 * np.sin(turn) * along
    leave = -way[0] / np.linalg.norm(way[0]) * 0.35 + side * normal[0]
    leave /= np.linalg.norm(leave)
    out = back[-1] + np.linspace(0.08, 1.0, 12)[:, None] * leave * exit_d
    piece: Floats = np.vstack([beyond, round_it, back, out])
    return piece


def _meets(layout: Diagram, key: str, piece: Floats) -> Iterator[tuple[float, str, float]]:
    """Where a piece that is added to a rope's end meets the lines that are there."""
    line = SampledLine(piece, np.full(len(piece), np.nan))
    for other, curve in layout.curves.items():
        for s, t in meetings(line, curve, same=False):
            if other != key or t < curve.segments - 1.5 or s > 1.0:
                yield s, other, t


def _appended(layout: Diagram, key: str, piece: Floats, start: float) -> Diagram | None:
    """A rope with a piece that goes over and under what its last stretch goes over and under.

    Its exit may lie over a host as the rope does. None where it meets anything else, or itself.
    """
    itself = SampledLine(piece, np.full(len(piece), np.nan))
    if meetings(itself, itself, same=True):
        return None
    hosts = {h.key for h in layout.recipe.hosts}
    passes = [
        (mine.at, other, over, np.array([c.x, c.y]))
        for c in layout.crossings
        for mine, other, over in ((c.over, c.under, True), (c.under, c.over, False))
        if mine.line == key
    ]
    left = [p for p in passes if p[0] > start]
    count, made = len(layout.curves[key].points), []
    for s, line, t in _meets(layout, key, piece):
        here = piece[int(s)]
        leaving = line in hosts and s > len(piece) - _OUT
        near = [
            p
            for p in (passes if leaving else left)
            if p[1].line == line and (leaving or np.linalg.norm(p[3] - here) < 3.0)
        ]
        if not near:
            return None
        like = min(near, key=lambda p: abs(p[1].at - t))
        left = left if leaving else [p for p in left if p is not like]
        pair = (Pass(key, count + s), Pass(line, t))
        curve = layout.curves[line].points
        made.append(_crossing(piece, s, t, pair if like[2] else pair[::-1], curve))
    return None if left else _grown(layout, key, piece, made)


def _crossing(
    piece: Floats, s: float, t: float, pair: tuple[Pass, Pass], other: Floats | None = None
) -> Crossing:
    """A crossing of a piece at `s` with a line at `t`, over first."""
    line = piece if other is None else other
    u = piece[min(int(s) + 1, len(piece) - 1)] - piece[int(s)]
    v = line[min(int(t) + 1, len(line) - 1)] - line[int(t)]
    x, y = (float(k) for k in piece[int(s)] + (s - int(s)) * u)
    turned, level = abs(float(u[0] * v[1] - u[1] * v[0])), abs(float(u @ v))
    return Crossing(pair[0], pair[1], x, y, float(np.degrees(np.arctan2(turned, level))))


def _grown(layout: Diagram, key: str, piece: Floats, made: list[Crossing]) -> Diagram:
    curve = layout.curves[key]
    longer = SampledLine(
        np.vstack([curve.points, piece]), np.concatenate([curve.at, np.full(len(piece), np.nan)])
    )
    return replace(
        layout,
        known_heights=None,
        curves={**layout.curves, key: longer},
        crossings=(*layout.crossings, *made),
    )
