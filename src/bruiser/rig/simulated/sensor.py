"""The load cell and encoder of the simulated bench, with every fault on demand."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bruiser.core.trace import Floats


@dataclass(frozen=True, kw_only=True)
class Faults:
    """What is wrong with the measuring chain; the plain record has only noise and steps.

    Parameters
    ----------
    noise_share : float
        Noise as a share of capacity, one sigma.
    drift_n_per_s : float
        Slow walk of the zero.
    hum_n, hum_hz : float
        Mains hum picked up.
    spikes_per_s : float
        Single wild readings.
    clip_n : float
        Load at which the cell saturates; infinite for its capacity.
    dropouts : tuple of (float, float)
        From when and for how long samples are missing, in second.
    stuck : tuple of (float, float) or None
        From when and for how long the reading freezes.
    disconnect_s : float
        When the cable comes off for good.
    disconnect_reads : str
        ``nothing``, ``zero`` or ``rail``: what the record shows from then on.
    jitter_share : float
        Jitter of the sample clock, as a share of the interval.
    """

    noise_share: float = 1.5e-4
    drift_n_per_s: float = 0.0
    hum_n: float = 0.0
    hum_hz: float = 50.0
    spikes_per_s: float = 0.0
    clip_n: float = math.inf
    dropouts: tuple[tuple[float, float], ...] = ()
    stuck: tuple[float, float] | None = None
    disconnect_s: float = math.inf
    disconnect_reads: str = "zero"
    jitter_share: float = 0.0


@dataclass(kw_only=True)
class Sensor:
    """Turns true loads into readings.

    Parameters
    ----------
    capacity_n, resolution_n : float
        Range of the cell, and the step it shows.
    rate_hz : float
        Samples a second.
    rng : numpy.random.Generator
        Noise, spikes and offset come from it.
    """

    capacity_n: float
    resolution_n: float
    rate_hz: float
    rng: np.random.Generator

    def __post_init__(self) -> None:
        self.offset_n = float(self.rng.normal(0, 0.001)) * self.capacity_n
        self.faults = Faults()
        self._stuck_at = math.nan
        self._phase = float(self.rng.uniform(0, 2 * math.pi))

    def sense(self, load_n: Floats, first: int) -> Floats:
        """Readings of consecutive samples.

        Parameters
        ----------
        load_n : ndarray, shape (n,)
            True loads.
        first : int
            Number of the first sample since the beginning.

        Returns
        -------
        ndarray, shape (n,)
            Readings; NaN where nothing is read.
        """
        f = self.faults
        at = (first + np.arange(len(load_n))) / self.rate_hz
        noise = f.noise_share * self.capacity_n * self.rng.standard_normal(len(load_n))
        seen = load_n + self.offset_n + noise + f.drift_n_per_s * at
        if f.hum_n:
            seen = seen + f.hum_n * np.sin(2 * math.pi * f.hum_hz * at + self._phase)
        if f.spikes_per_s:
            hit = self.rng.random(len(seen)) < f.spikes_per_s / self.rate_hz
            size = self.rng.uniform(0.1, 0.5, len(seen)) * self.rng.choice([-1.0, 1.0], len(seen))
            seen = np.where(hit, seen + size * self.capacity_n, seen)
        top = min(self.capacity_n, f.clip_n)
        seen = np.clip(np.round(seen / self.resolution_n) * self.resolution_n, -top, top)
        return self._broken(seen, at)

    def stamps_s(self, first: int, count: int) -> Floats:
        """Time stamps of consecutive samples, with the clock's jitter."""
        n = np.arange(first, first + count)
        return (n + self.faults.jitter_share * self.rng.standard_normal(count)) / self.rate_hz

    def _broken(self, seen: Floats, at: Floats) -> Floats:
        f = self.faults
        if f.stuck is not None:
            start, length = f.stuck
            frozen = (at >= start) & (at < start + length)
            if frozen.any() and math.isnan(self._stuck_at):
                k = int(np.argmax(frozen))
                self._stuck_at = float(seen[k])
            seen = np.where(frozen, self._stuck_at, seen)
        for start, length in f.dropouts:
            seen = np.where((at >= start) & (at < start + length), np.nan, seen)
        if math.isfinite(f.disconnect_s):
            reads = {"nothing": math.nan, "zero": 0.0, "rail": -self.capacity_n}
            seen = np.where(at >= f.disconnect_s, reads[f.disconnect_reads], seen)
        return np.asarray(seen, dtype=np.float64)
