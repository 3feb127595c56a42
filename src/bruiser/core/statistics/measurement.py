"""What the load cell adds: a systematic term that cancels in ratios taken on one cell."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.statistics.strength import Interval


@dataclass(frozen=True, kw_only=True)
class LoadCell:
    """A load cell as calibrated.

    Parameters
    ----------
    id : str
        Which cell.
    capacity_n, resolution_n : float
        Capacity and smallest step.
    class_percent : float or None
        Largest relative error of its class, in percent of the reading; None where not recorded.
    """

    id: str
    capacity_n: float
    resolution_n: float
    class_percent: float | None

    def relative_uncertainty(self, load_n: float) -> float | None:
        """Standard relative uncertainty of a reading; None without a class.

        Notes
        -----
        Rectangular distributions (GUM, type B): class / sqrt 3 and resolution / (2 sqrt 3),
        added in quadrature.
        """
        if self.class_percent is None:
            return None
        cell = self.class_percent / 100 / math.sqrt(3)
        step = self.resolution_n / (2 * math.sqrt(3) * load_n)
        return math.hypot(cell, step)


@dataclass(frozen=True)
class MeasuredInterval:
    """An interval with the cell's systematic term in it, or said to cancel."""

    interval: Interval
    systematic: float
    words: str


UNKNOWN_CLASS = "the class of a load cell is not recorded, so its error is not in the interval"


def _worst(cells: tuple[LoadCell, ...], load_n: float) -> float | None:
    """Largest standard uncertainty of some cells; None when one of them is unknown."""
    found = [cell.relative_uncertainty(load_n) for cell in cells]
    known = [u for u in found if u is not None]
    return max(known) if len(known) == len(found) else None


def with_cell(interval: Interval, cells: tuple[LoadCell, ...], load_n: float) -> MeasuredInterval:
    """Widen the interval of an absolute load by the cell's systematic term.

    Parameters
    ----------
    interval : Interval
        Load in newton from the pulls' spread.
    cells : tuple of LoadCell
        Cells it was taken on; the worst counts.
    load_n : float
        Typical load.

    Notes
    -----
    The half-widths of ln load and 1.96 u are added in quadrature.
    """
    u = _worst(cells, load_n)
    if u is None:
        return MeasuredInterval(interval, 0.0, UNKNOWN_CLASS)
    return MeasuredInterval(
        _widen(interval, u), u, f"with {100 * u:.2g} % standard uncertainty of the load cell"
    )


def ratio_with_cells(
    interval: Interval,
    over: tuple[LoadCell, ...],
    under: tuple[LoadCell, ...],
    load_n: float,
) -> MeasuredInterval:
    """The same for a ratio: what is systematic cancels when both were taken on one cell."""
    if len({c.id for c in (*over, *under)}) <= 1:
        return MeasuredInterval(interval, 0.0, "the load cell's error cancels: one cell for both")
    first, second = _worst(over, load_n), _worst(under, load_n)
    if first is None or second is None:
        return MeasuredInterval(interval, 0.0, f"taken on different load cells; {UNKNOWN_CLASS}")
    u = math.hypot(first, second)
    words = f"taken on different load cells: {100 * u:.2g} % standard uncertainty added"
    return MeasuredInterval(_widen(interval, u), u, words)


def _widen(interval: Interval, u: float) -> Interval:
    value = interval.value
    down = math.hypot(math.log(value / interval.low), 1.96 * u)
    up = math.hypot(math.log(interval.high / value), 1.96 * u)
    return Interval(value, value * math.exp(-down), value * math.exp(up))
