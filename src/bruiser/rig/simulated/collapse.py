"""The load after something parts: strand by strand or at once, with the bench ringing on."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass


@dataclass(frozen=True)
class CollapseStage:
    """From this time on the load is, but for ringing, this share of the breaking load."""

    at_s: float
    share: float


class Collapse:
    """The load in the time after a break.

    Parameters
    ----------
    broke_n : float
        Load when it parted.
    stages : tuple of CollapseStage
        The first at 0; the last has share 0.
    frequency_hz, damping : float
        Resonance of the bench and its damping ratio.

    Notes
    -----
    Each drop rings as D e^(-zeta w t) cos(w t) about the new load. What a sample shows is the mean
    over its interval, in closed form: ringing faster than the sampling averages out instead of
    folding down to a slow wave.
    """

    def __init__(
        self, broke_n: float, stages: tuple[CollapseStage, ...], frequency_hz: float, damping: float
    ) -> None:
        self._broke = broke_n
        self._stages = stages
        w = 2 * math.pi * frequency_hz
        self._pole = complex(-damping * w, w)

    def _ring_integral(self, start: float, stop: float) -> float:
        """Integral of e^(-a t) cos(w t) from start to stop."""
        return ((cmath.exp(self._pole * stop) - cmath.exp(self._pole * start)) / self._pole).real

    def mean_n(self, start_s: float, stop_s: float) -> float:
        """Mean load between two times after the break; `start_s` is 0 or later."""
        total, before = 0.0, 1.0
        for n, stage in enumerate(self._stages):
            if stage.at_s >= stop_s:
                break
            following = self._stages[n + 1].at_s if n + 1 < len(self._stages) else math.inf
            low, high = max(start_s, stage.at_s), min(stop_s, following)
            drop = before - stage.share
            before = stage.share
            if high > low:
                total += stage.share * (high - low)
            if stop_s > low and stop_s > stage.at_s:
                total += drop * self._ring_integral(low - stage.at_s, stop_s - stage.at_s)
        return self._broke * total / (stop_s - start_s)


def strands(rng_uniform: float, gaps_s: tuple[float, float]) -> tuple[CollapseStage, ...]:
    """Stages of a laid cord that parts strand by strand; `rng_uniform` decides the shares."""
    first = 0.50 + 0.18 * rng_uniform
    return (
        CollapseStage(0.0, first),
        CollapseStage(gaps_s[0], 0.5 * first),
        CollapseStage(gaps_s[0] + gaps_s[1], 0.0),
    )


AT_ONCE = (CollapseStage(0.0, 0.0),)
