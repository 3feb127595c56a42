"""Axis ticks at round numbers."""

from __future__ import annotations

import math


def round_step(span: float, count: int) -> float:
    """A step of 1, 2 or 5 times a power of ten that cuts `span` into about `count` parts."""
    if span <= 0:
        return 1.0
    raw = span / max(count, 1)
    power = 10.0 ** math.floor(math.log10(raw))
    for factor in (1.0, 2.0, 5.0, 10.0):
        if raw <= factor * power * (1 + 1e-9):
            return factor * power
    return 10.0 * power


def ticks(low: float, high: float, count: int = 6) -> tuple[float, ...]:
    """Round numbers from low to high."""
    step = round_step(high - low, count)
    first = math.ceil(low / step - 1e-9)
    last = math.floor(high / step + 1e-9)
    return tuple(k * step for k in range(first, last + 1))
