"""Paths as curves: sampled splines, doubled strands, and which span a sample belongs to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bruiser.core.topology.recipe import Floats, Path, Rope

PER_SPAN = 24


@dataclass(frozen=True)
class SampledLine:
    """A sampled line.

    Attributes
    ----------
    points : ndarray, shape (n, 2)
        In cord diameters, from its start to its end.
    at : ndarray, shape (n,)
        Span and share of it for every sample, along the path that was written (of a doubled line
        along its middle); not a number round its loop.
    """

    points: Floats
    at: Floats

    @property
    def segments(self) -> int:
        """How many straight pieces it is made of."""
        return len(self.points) - 1


def spline(points: Floats, per_span: int = PER_SPAN) -> tuple[Floats, Floats]:
    """Catmull-Rom spline through some points.

    Parameters
    ----------
    points : ndarray, shape (n, 2)
        At least two.
    per_span : int
        Samples a span.

    Returns
    -------
    samples : ndarray, shape ((n - 1) per_span + 1, 2)
    at : ndarray, shape ((n - 1) per_span + 1,)
        Span and share of it.

    Notes
    -----
    Centripetal: knots at distances |p1 - p0|^(1/2), tangents by Barry and Goldman's pyramid, so
    that a hairpin after a long way makes no loop of its own. Beyond its ends it goes straight on.
    """
    first, last = 2 * points[0] - points[1], 2 * points[-1] - points[-2]
    p = np.vstack([first, points, last])
    s = np.linspace(0.0, 1.0, per_span, endpoint=False)[:, None]
    pieces, marks = [], []
    for k in range(len(points) - 1):
        p0, p1, p2, p3 = p[k : k + 4]
        t1 = _apart(p0, p1)
        t2 = t1 + _apart(p1, p2)
        t3 = t2 + _apart(p2, p3)
        t = t1 + s * (t2 - t1)
        a1 = (t1 - t) / t1 * p0 + t / t1 * p1
        a2 = (t2 - t) / (t2 - t1) * p1 + (t - t1) / (t2 - t1) * p2
        a3 = (t3 - t) / (t3 - t2) * p2 + (t - t2) / (t3 - t2) * p3
        b1 = (t2 - t) / t2 * a1 + t / t2 * a2
        b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
        pieces.append((t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2)
        marks.append(k + s[:, 0])
    samples = np.vstack([*pieces, points[-1][None, :]])
    return samples, np.concatenate([*marks, [float(len(points) - 1)]])


def _apart(p: Floats, q: Floats) -> float:
    return float(max(np.hypot(*(q - p)), 1e-9) ** 0.5)


def path_curve(path: Path) -> SampledLine:
    """A single line as a curve."""
    return SampledLine(*spline(path.points))


def rope_curve(rope: Rope) -> SampledLine:
    """A rope as a curve; a doubled one goes out on one side, round its loop, and back."""
    if not rope.follows:
        return path_curve(rope.path)
    middle, at = spline(rope.path.points)
    along = np.gradient(middle, axis=0)
    normal = np.column_stack([-along[:, 1], along[:, 0]])
    normal /= np.linalg.norm(normal, axis=1)[:, None]
    out, back = middle + rope.offset * normal, middle - rope.offset * normal
    if rope.loop is None:
        way = -1 if rope.backwards else 1
        return SampledLine(out[::way], at[::way])
    tip = np.vstack([out[-1], rope.loop, back[-1]])
    round_it, _ = spline(tip)
    inner = round_it[1:-1]
    points = np.vstack([out, inner, back[::-1]])
    marks = np.concatenate([at, np.full(len(inner), np.nan), at[::-1]])
    return SampledLine(points, marks)


def nearest(curve: SampledLine, x: float, y: float) -> int:
    """The sample nearest to a point."""
    return int(np.argmin(np.sum((curve.points - np.array([x, y])) ** 2, axis=1)))
