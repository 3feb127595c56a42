"""What a benchmark says: how long something took, and beside what of the same run."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Timing:
    """One thing timed.

    Attributes
    ----------
    name
        What was done.
    took_s
        Median duration, or processor time for whole programs, in second; memory in megabyte.
    beside_s
        What the thing it is compared with took in the same run, alike.
    beside
        What that is.
    memory
        Whether it is memory.
    """

    name: str
    took_s: float
    beside_s: float
    beside: str
    memory: bool = False

    @property
    def ratio(self) -> float:
        """How many times as long as what it is compared with."""
        return self.took_s / self.beside_s

    def line(self) -> str:
        """One line of the printed table."""
        took = f"{self.took_s:.0f} MB" if self.memory else f"{1000 * self.took_s:.2f} ms"
        return f"{self.ratio:9.3g} x   {self.beside}: {self.name} ({took})"


def median_seconds(act: Callable[[int], object], times: int) -> float:
    """Median duration of an act in second, after one run that is not counted.

    The act is handed its number, from 0.
    """
    act(0)
    taken = []
    for n in range(times):
        began = time.perf_counter()
        act(n)
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)
