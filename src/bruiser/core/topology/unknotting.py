"""Whether a closed curve is no knot at all: then its rope is tied without an end."""

from __future__ import annotations

from enum import StrEnum

import numpy as np

from bruiser.core.topology.codes import ABOVE, RunOf, closed
from bruiser.core.topology.crossings import Diagram, meetings
from bruiser.core.topology.curve import SampledLine
from bruiser.core.topology.heights import in_space
from bruiser.core.topology.polynomials import alexander, jones
from bruiser.core.topology.recipe import Floats

TRIVIAL, FEW = 2, 10
_EVERY = 3
_LOOKS = 24


class Bight(StrEnum):
    """Whether a rope can be tied in the bight, without either end."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "unknown"


def in_the_bight(layout: Diagram, key: str) -> Bight:
    """Whether a rope of a knot can be tied without an end, by computation.

    Notes
    -----
    Its standing part and tail are joined far above. A polynomial that is not 1 says that it is
    knotted. Else the closed polygon is drawn shorter by triangle moves, each over a triangle that
    no other piece pierces, and looked at from several sides: with at most two crossings it is no
    knot, and with polynomials of 1 and at most ten neither (no knot of fewer than eleven
    crossings has the Alexander polynomial 1). Anything else is not decided.
    """
    joined = closed(layout, [[RunOf(key, 0.0, float(layout.curves[key].segments))]], ABOVE)
    if not alexander(joined).is_one or not jones(joined).is_one:
        return Bight.NO
    if len(joined.code) <= FEW:
        return Bight.YES
    polygon = shortened(_closed_polygon(in_space(layout)[key]))
    left = min(_crossings_from(polygon, k) for k in range(_LOOKS))
    return Bight.YES if left <= FEW else Bight.UNKNOWN


def _closed_polygon(points: Floats) -> Floats:
    """A rope as a polygon in space that comes back far above itself."""
    coarse = points[::_EVERY]
    if not np.array_equal(coarse[-1], points[-1]):
        coarse = np.vstack([coarse, points[-1]])
    top = float(points[:, 2].max()) + 20.0
    back = [[*points[-1, :2], top], [*points[0, :2], top]]
    polygon = np.vstack([coarse, np.array(back)])
    # Nothing lies in one plane by chance.
    rng = np.random.default_rng(5)
    shaken: Floats = polygon + 1e-4 * rng.standard_normal(polygon.shape)
    return shaken


def shortened(polygon: Floats) -> Floats:
    """A closed polygon without the corners that can be cut off."""
    points = list(polygon)
    moved = True
    while moved and len(points) > 3:
        moved = False
        k = 0
        while k < len(points) and len(points) > 3:
            if _free(np.array(points), k):
                del points[k]
                moved = True
            else:
                k += 1
    return np.array(points)


def _free(points: Floats, k: int) -> bool:
    """Whether no other piece pierces the triangle at a corner.

    Notes
    -----
    A piece p + s d pierces the triangle a, b, c where its barycentric coordinates and s all lie in
    [0, 1] (Moller and Trumbore's test).
    """
    n = len(points)
    a, b, c = points[k - 1], points[k], points[(k + 1) % n]
    others = [j for j in range(n) if j not in ((k - 2) % n, (k - 1) % n, k, (k + 1) % n)]
    p = points[others]
    d = points[[(j + 1) % n for j in others]] - p
    e1, e2 = b - a, c - a
    h = np.cross(d, e2)
    det = h @ e1
    with np.errstate(divide="ignore", invalid="ignore"):
        s = p - a
        u = np.sum(s * h, axis=1) / det
        q = np.cross(s, e1)
        v = np.sum(d * q, axis=1) / det
        t = q @ e2 / det
    hit = (np.abs(det) > 1e-15) & (u >= 0) & (v >= 0) & (u + v <= 1) & (t >= 0) & (t <= 1)
    return not bool(hit.any())


def _crossings_from(polygon: Floats, k: int) -> int:
    """Crossings of a closed polygon seen from one of some directions."""
    rng = np.random.default_rng(100 + k)
    look, _ = np.linalg.qr(rng.standard_normal((3, 3)))
    flat = np.vstack([polygon, polygon[:1]]) @ look[:, :2]
    curve = SampledLine(flat, np.arange(len(flat), dtype=float))
    met = meetings(curve, curve, same=True)
    last = float(curve.segments)
    return sum(not (s < 1 and t >= last - 1) for s, t in met)
