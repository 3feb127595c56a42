"""Load against length of a specimen, with its hysteresis: virgin, unloading, reloading."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from enum import Enum

import numpy as np

from bruiser.core.trace import Floats


class _Branch(Enum):
    VIRGIN = 0
    UNLOADING = 1
    RELOADING = 2


def _solve_unloading(q: float, bend: float) -> float:
    """w in (1 - b) w + b w^3 = q, on 0..1."""
    w = q
    for _ in range(7):
        w -= ((1 - bend) * w + bend * w**3 - q) / ((1 - bend) + 3 * bend * w * w)
    return min(max(w, 0.0), 1.0)


def _solve_reloading(q: float, bend: float) -> float:
    """u in (1 - b) u + b (1 - (1 - u)^3) = q, on 0..1."""
    u = q
    for _ in range(7):
        r = 1 - u
        u -= ((1 - bend) * u + bend * (1 - r**3) - q) / ((1 - bend) + 3 * bend * r * r)
    return min(max(u, 0.0), 1.0)


class Stretch:
    """Follows the load as the specimen lengthens and shortens.

    Parameters
    ----------
    extension_mm, load_n : ndarray, shape (n,)
        The virgin curve, both increasing from zero.
    set_share : float
        Permanent set as a share of the largest extension.
    unload_bend, reload_bend : float
        b in the branch equations: unloading from (F1, Y1), w = 1 - F/F1:
        Y = Y1 - (Y1 - Yp) [(1 - b) w + b w^3]; reloading from (F2, Y2) to the largest point,
        u = (F - F2) / (Fm - F2): Y = Y2 + (Ym - Y2) [(1 - b) u + b (1 - (1 - u)^3)].
    """

    def __init__(
        self,
        extension_mm: Floats,
        load_n: Floats,
        set_share: float,
        unload_bend: float,
        reload_bend: float,
    ) -> None:
        self._y: list[float] = extension_mm.tolist()
        self._f: list[float] = load_n.tolist()
        self._set = set_share
        self._unload_bend = unload_bend
        self._reload_bend = reload_bend
        self._branch = _Branch.VIRGIN
        self._max_y = 0.0
        self._max_f = 0.0
        self._turn_y = 0.0
        self._turn_f = 0.0
        self._rest_y = 0.0
        self._last_y = 0.0
        self._last_f = 0.0

    def _virgin(self, y: float) -> float:
        i = bisect_right(self._y, y) - 1
        if i < 0:
            return 0.0
        if i >= len(self._y) - 1:
            i = len(self._y) - 2
        share = (y - self._y[i]) / (self._y[i + 1] - self._y[i])
        return self._f[i] + share * (self._f[i + 1] - self._f[i])

    def load_at(self, y: float) -> float:
        """Load in newton after moving to extension `y` mm."""
        if self._branch is _Branch.VIRGIN and y < self._max_y:
            self._turn_y, self._turn_f = self._max_y, self._max_f
            self._rest_y = self._set * self._max_y
            self._branch = _Branch.UNLOADING
        elif self._branch is _Branch.UNLOADING and y > self._last_y:
            self._turn_y, self._turn_f = max(self._last_y, self._rest_y), self._last_f
            self._branch = _Branch.RELOADING
        elif self._branch is _Branch.RELOADING and y < self._last_y:
            self._turn_y, self._turn_f = self._last_y, self._last_f
            self._branch = _Branch.UNLOADING
        if y >= self._max_y:
            self._branch = _Branch.VIRGIN
            self._max_y = y
            load = self._max_f = self._virgin(y)
        elif self._branch is _Branch.UNLOADING:
            reach = self._turn_y - self._rest_y
            share = (self._turn_y - y) / reach if reach > 1e-9 else 1.0
            load = 0.0
            if share < 1:
                load = self._turn_f * (1 - _solve_unloading(share, self._unload_bend))
        else:
            reach = self._max_y - self._turn_y
            share = (y - self._turn_y) / reach if reach > 1e-9 else 1.0
            load = self._turn_f
            if share > 0:
                rise = _solve_reloading(min(share, 1.0), self._reload_bend)
                load += (self._max_f - self._turn_f) * rise
        self._last_y, self._last_f = y, load
        return load


def virgin_curve(
    extension_of: Callable[[float], float], top_n: float, points: int = 400
) -> tuple[Floats, Floats]:
    """Tabulate a virgin curve given as extension(load); denser at low load."""
    load = top_n * np.linspace(0.0, 1.0, points) ** 2
    extension = np.array([extension_of(float(f)) for f in load])
    return extension, load
