"""Strength of one group: what was seen, the maximum-likelihood estimate, the plain mean."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.records.records import Outcome
from bruiser.core.statistics.censored import Sample, fit, stack


@dataclass(frozen=True, kw_only=True)
class OutcomeCounts:
    """How many specimens of a group broke there, came out, outlasted, or were void."""

    broke: int = 0
    came_out: int = 0
    outlasted: int = 0
    void: int = 0

    @property
    def specimens(self) -> int:
        """Specimens that say something."""
        return self.broke + self.came_out + self.outlasted


def count_outcomes(outcomes: Sequence[Outcome], void: int = 0) -> OutcomeCounts:
    """Count what some pulls were for their group; `void` ones said nothing."""
    return OutcomeCounts(
        broke=outcomes.count(Outcome.BROKE),
        came_out=outcomes.count(Outcome.CAME_OUT),
        outlasted=outcomes.count(Outcome.OUTLASTED),
        void=void,
    )


@dataclass(frozen=True)
class Estimate:
    """Maximum-likelihood strength of one group."""

    mu: float
    sigma: float
    log_likelihood: float

    @property
    def median_n(self) -> float:
        """Typical strength in newton."""
        return math.exp(self.mu)


@dataclass(frozen=True)
class Interval:
    """A value with its 95 % interval; an open side is infinite or zero."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Caveat:
    """What weakens a number: a stable kind for programs, words for people."""

    kind: str
    words: str

    def __str__(self) -> str:
        return self.words


def estimates(samples: list[Sample]) -> list[Estimate | None]:
    """Maximum-likelihood estimate of every group, None without two different events."""
    if not samples:
        return []
    found = fit(*stack(samples))
    return [
        Estimate(float(m), float(s), float(v)) if math.isfinite(m) else None
        for m, s, v in zip(found.mu, found.sigma, found.log_likelihood, strict=True)
    ]


def estimate(sample: Sample) -> Estimate | None:
    """Maximum-likelihood estimate of one group, or None without two different events."""
    return estimates([sample])[0]


def plain_mean_ratio(knot: Sample, baseline: Sample) -> float | None:
    """Mean of all peaks over the mean of all baseline peaks: what a notebook would do."""
    if not len(knot.ln_load) or not len(baseline.ln_load):
        return None
    return float(np.exp(knot.ln_load).mean() / np.exp(baseline.ln_load).mean())
