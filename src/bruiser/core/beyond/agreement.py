"""Whether inspectors agree on right and wrong ties: kappa of two ratings, with its interval.

Notes
-----
The intraclass kappa of a binary rating (Bloch and Kraemer, Biometrics 45, 1989): two inspectors of
one tie call it right both with p^2 + k p q, one of them with 2 p q (1 - k), neither with
q^2 + k p q. The interval is the posterior of k with p and k uniform where all three are
probabilities, by quadrature; the point estimate of the moments is 1 - split / (2 n p q).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bruiser.core.statistics.strength import Interval

LEAST_TIES = 10
"""Ties seen by two inspectors below which no kappa is given."""
_SHARES = (0.5, 0.025, 0.975)
_GRID = 400


@dataclass(frozen=True, kw_only=True)
class Agreement:
    """Ties seen by two inspectors: both called right, called differently, both called wrong."""

    both_right: int
    split: int
    both_wrong: int

    @property
    def ties(self) -> int:
        """How many were seen twice."""
        return self.both_right + self.split + self.both_wrong

    @property
    def one_sided(self) -> bool:
        """Whether nobody ever called one wrong, or right: then there is nothing to agree on."""
        return self.split == 0 and 0 in (self.both_right, self.both_wrong)


def kappa(seen: Agreement) -> Interval | None:
    """Kappa with its 95 % interval; None below what can carry it."""
    if seen.ties < LEAST_TIES or seen.one_sided:
        return None
    p = (np.arange(_GRID) + 0.5) / _GRID
    k = -1.0 + 2.0 * (np.arange(_GRID) + 0.5) / _GRID
    pq = p[:, None] * (1.0 - p[:, None])
    right = p[:, None] ** 2 + k * pq
    split = 2.0 * pq * (1.0 - k)
    wrong = (1.0 - p[:, None]) ** 2 + k * pq
    able = (right > 0) & (wrong > 0)
    with np.errstate(divide="ignore", invalid="ignore"):
        log = seen.both_right * np.log(right) + seen.both_wrong * np.log(wrong)
        log = np.where(able, log + seen.split * np.log(split), -np.inf)
    mass = np.exp(log - log.max()).sum(axis=0)
    rising = (np.cumsum(mass) - 0.5 * mass) / mass.sum()
    middle, low, high = np.interp(_SHARES, rising, k)
    return Interval(float(middle), float(low), float(high))
