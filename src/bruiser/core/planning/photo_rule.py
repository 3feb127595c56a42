"""A length read off a photo: two points of known distance, two ink marks."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.errors import InputError

POINTING_PX = 1.5
"""Standard uncertainty of pointing at a mark, in pixels of the photo, along the line."""

Point = tuple[float, float]


@dataclass(frozen=True)
class RuledLength:
    """A length with its standard uncertainty, in metre."""

    length_m: float
    u_m: float


def _distance(a: Point, b: Point) -> float:
    return math.hypot(b[0] - a[0], b[1] - a[1])


def rule_length(
    known: tuple[Point, Point],
    known_m: float,
    marks: tuple[Point, Point],
    *,
    u_known_m: float = 0.0,
    pointing_px: float = POINTING_PX,
) -> RuledLength:
    """The distance of two marks by the distance of two known points in the same plane.

    Parameters
    ----------
    known, marks : pair of (x, y)
        Points in pixels.
    known_m, u_known_m : float
        Known distance and its standard uncertainty, in metre.

    Raises
    ------
    InputError
        If the known points are too near to one another, or their distance is not above zero.

    Notes
    -----
    L = K m / k with m and k in pixels. Each end of a distance is pointed at with standard
    uncertainty s, so u(m) = u(k) = s sqrt 2, and (GUM, uncorrelated)
    (u_L / L)^2 = (u_K / K)^2 + 2 s^2 / k^2 + 2 s^2 / m^2, written so that m = 0 is allowed.
    What is not in it: the marks lying nearer to the camera than the rule, and a slanting view.
    """
    k, m = _distance(*known), _distance(*marks)
    if k < 20 * pointing_px:
        raise InputError(
            "The two known points are too near to one another in this photo.",
            "Take points farther apart, or a closer photo.",
            where="known",
        )
    if not known_m > 0:
        raise InputError("The known distance must be above zero.", where="known")
    scale = known_m / k
    u = scale * math.sqrt(2 * pointing_px**2 * (1 + (m / k) ** 2) + (m * u_known_m / known_m) ** 2)
    return RuledLength(scale * m, u)


def draw_by_photo(ruled: RuledLength, before_m: float = 0.0) -> RuledLength:
    """How far a mark has moved: the distance now less the distance when it was made."""
    return RuledLength(max(0.0, ruled.length_m - before_m), ruled.u_m)
