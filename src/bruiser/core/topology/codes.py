"""Closed curves of a laid-out knot as planar codes: four arcs round every crossing.

Lines are joined by chords that run above everything, or below everything; where both ends reach the
outside the two give one knot.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.topology.crossings import Crossing, Diagram, meetings
from bruiser.core.topology.curve import SampledLine, nearest
from bruiser.core.topology.recipe import Floats

ABOVE, BELOW = "above", "below"
Code = tuple[tuple[int, int, int, int], ...]


@dataclass(frozen=True)
class RunOf:
    """A stretch of a line by samples, in the sense it is run through: backwards past its end."""

    line: str
    start: float
    end: float


@dataclass(frozen=True)
class Closed:
    """Closed curves as a planar code.

    Attributes
    ----------
    code : tuple of (a, b, c, d)
        For every crossing its arcs counter-clockwise from the incoming under-arc, counted from 0,
        one component after another.
    signs : tuple of int
        Handedness of every crossing.
    components : int
        How many closed curves there are.
    loose : int
        How many of them meet no crossing at all.
    """

    code: Code
    signs: tuple[int, ...]
    components: int
    loose: int = 0

    @property
    def writhe(self) -> int:
        """Sum of the signs."""
        return sum(self.signs)


@dataclass(frozen=True)
class _Strand:
    """A pass of a closed curve through a crossing."""

    crossing: int
    over: bool
    along: Floats


def whole(layout: Diagram, key: str) -> list[RunOf]:
    """A rope from its start to its end."""
    return [RunOf(key, 0.0, float(layout.curves[key].segments))]


def halves(layout: Diagram, key: str, at: tuple[float, float]) -> tuple[list[RunOf], list[RunOf]]:
    """A rope cut at the point nearest to `at`: what comes before, and what comes after.

    A sample on either side is left out, so that the two do not share a point.
    """
    curve = layout.curves[key]
    cut = float(nearest(curve, *at))
    return [RunOf(key, 0.0, cut - 1.0)], [RunOf(key, cut + 1.0, float(curve.segments))]


def joined(layout: Diagram, steps: Sequence[tuple[str, int]]) -> list[RunOf]:
    """Ropes run through one after another, backwards where the direction is negative."""
    found = []
    for key, way in steps:
        end = float(layout.curves[key].segments)
        found.append(RunOf(key, 0.0, end) if way > 0 else RunOf(key, end, 0.0))
    return found


def closed(layout: Diagram, loops: Sequence[Sequence[RunOf]], how: str = ABOVE) -> Closed:
    """The planar code of some loops, each closed by chords above or below all else.

    Notes
    -----
    At a crossing the four arcs stand counter-clockwise from the incoming under-arc: with the under
    direction u and the over direction o, (u x o) > 0 means that the over line enters on the right.
    The sign is that of o x u.
    """
    order = [[s for _, s in sorted(line, key=lambda x: x[0])] for line in _run(layout, loops, how)]
    arcs: dict[tuple[int, bool], tuple[int, int]] = {}
    along: dict[tuple[int, bool], Floats] = {}
    number, loose = 0, 0
    for strands in order:
        n = len(strands)
        if n == 0:
            loose += 1
            continue
        for k, strand in enumerate(strands):
            key = (strand.crossing, strand.over)
            arcs[key] = (number + k, number + (k + 1) % n)
            along[key] = strand.along
        number += n
    code, signs = [], []
    for crossing in sorted({c for c, _ in arcs}):
        (a, c), (over_in, over_out) = arcs[crossing, False], arcs[crossing, True]
        u, o = along[crossing, False], along[crossing, True]
        right = u[0] * o[1] - u[1] * o[0] > 0
        code.append((a, over_in, c, over_out) if right else (a, over_out, c, over_in))
        signs.append(-1 if right else 1)
    return Closed(tuple(code), tuple(signs), len(loops), loose)


def _chord(start: Floats, end: Floats, bow: float) -> SampledLine:
    """A chord bowed a little to one side, so that it meets nothing head on."""
    s = np.linspace(0.0, 1.0, 61)[:, None]
    way = end - start
    side = np.array([-way[1], way[0]])
    length = float(np.linalg.norm(way)) or 1.0
    points = start + s * way + bow * np.sin(np.pi * s) * side / length
    return SampledLine(points, np.arange(len(points), dtype=float))


def _run(
    layout: Diagram, loops: Sequence[Sequence[RunOf]], how: str
) -> list[list[tuple[float, _Strand]]]:
    """Every loop with its passes, by how far along the loop they come."""
    passes: list[list[tuple[float, _Strand]]] = [[] for _ in loops]
    placed: list[tuple[int, float, RunOf]] = []
    chords: list[tuple[int, float, SampledLine]] = []
    for n, loop in enumerate(loops):
        far = 0.0
        for k, piece in enumerate(loop):
            placed.append((n, far, piece))
            far += abs(piece.end - piece.start) + 1.0
            follower = loop[(k + 1) % len(loop)]
            start = _point(layout.curves[piece.line], piece.end)
            end = _point(layout.curves[follower.line], follower.start)
            if np.linalg.norm(end - start) > 1e-6:
                chords.append((n, far, _chord(start, end, 0.37 + 0.113 * len(chords))))
            far += 100.0
    number = 0
    for crossing in layout.crossings:
        where = [_locate(placed, crossing, over) for over in (True, False)]
        if where[0] is None or where[1] is None:
            continue
        for over, spot in zip((True, False), where, strict=True):
            assert spot is not None
            n, at, sense = spot
            line = crossing.over if over else crossing.under
            curve = layout.curves[line.line]
            k = min(int(line.at), curve.segments - 1)
            along = sense * (curve.points[k + 1] - curve.points[k])
            passes[n].append((at, _Strand(number, over, along)))
        number += 1
    number = _chords_over_lines(layout, placed, chords, passes, number, how)
    _chords_over_chords(chords, passes, number, how)
    return passes


def _point(curve: SampledLine, at: float) -> Floats:
    point: Floats = curve.points[min(max(round(at), 0), len(curve.points) - 1)]
    return point


def _locate(
    placed: list[tuple[int, float, RunOf]], crossing: Crossing, over: bool
) -> tuple[int, float, int] | None:
    """Loop, place along it and sense of a pass; None where no loop runs there."""
    line = crossing.over if over else crossing.under
    for n, far, piece in placed:
        low, high = sorted((piece.start, piece.end))
        if piece.line == line.line and low <= line.at < high:
            sense = 1 if piece.end > piece.start else -1
            return n, far + sense * (line.at - piece.start), sense
    return None


def _chords_over_lines(
    layout: Diagram,
    placed: list[tuple[int, float, RunOf]],
    chords: list[tuple[int, float, SampledLine]],
    passes: list[list[tuple[float, _Strand]]],
    number: int,
    how: str,
) -> int:
    above = how == ABOVE
    for n, far, chord in chords:
        for m, start, piece in placed:
            curve = layout.curves[piece.line]
            low, high = sorted((piece.start, piece.end))
            sense = 1 if piece.end > piece.start else -1
            for s, t in meetings(chord, curve, same=False):
                if not low + 1e-9 <= t < high - 1e-9 or _touches(chord, s):
                    continue
                k = min(int(t), curve.segments - 1)
                along = sense * (curve.points[k + 1] - curve.points[k])
                c = min(int(s), chord.segments - 1)
                own = chord.points[c + 1] - chord.points[c]
                passes[n].append((far + s, _Strand(number, above, own)))
                at = start + sense * (t - piece.start)
                passes[m].append((at, _Strand(number, not above, along)))
                number += 1
    return number


def _touches(chord: SampledLine, at: float) -> bool:
    """Whether a meeting is only the chord's own end."""
    return at < 1e-6 or at > chord.segments - 1e-6


def _chords_over_chords(
    chords: list[tuple[int, float, SampledLine]],
    passes: list[list[tuple[float, _Strand]]],
    number: int,
    how: str,
) -> None:
    """Of two chords that cross, the later lies farther out: over all above, under all below."""
    out = how == ABOVE
    for k, (n, far, one) in enumerate(chords):
        for m, start, two in chords[k + 1 :]:
            for s, t in meetings(one, two, same=False):
                if _touches(one, s) or _touches(two, t):
                    continue
                a, b = min(int(s), one.segments - 1), min(int(t), two.segments - 1)
                first = one.points[a + 1] - one.points[a]
                second = two.points[b + 1] - two.points[b]
                passes[n].append((far + s, _Strand(number, not out, first)))
                passes[m].append((start + t, _Strand(number, out, second)))
                number += 1


def faces(code: Code) -> int:
    """Regions of the plane that a connected code divides it into.

    Notes
    -----
    Every arc has two sides; from an arc at a crossing the next one counter-clockwise bounds the
    same region. Euler: a connected diagram of n crossings has n + 2 of them.
    """
    corner: dict[tuple[int, int], tuple[int, int]] = {}
    places: dict[int, list[tuple[int, int]]] = {}
    for n, arcs in enumerate(code):
        for k, arc in enumerate(arcs):
            places.setdefault(arc, []).append((n, k))
    for ends in places.values():
        if len(ends) == 2:
            corner[ends[0]], corner[ends[1]] = ends[1], ends[0]
    seen: set[tuple[int, int]] = set()
    found = 0
    for start in corner:
        if start in seen:
            continue
        found += 1
        at = start
        while at not in seen:
            seen.add(at)
            n, k = corner[at]
            at = (n, (k + 1) % 4)
    return found
