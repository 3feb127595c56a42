"""Whose hands, which bench: spread within one technician and bench, between them, and in all.

Notes
-----
Repeatability and reproducibility as laboratories report them, from pulls that are not balanced:

    y_i = mean of its group + technician + bench + e_i

with random technicians and benches. The groups (a knot in a cordage, one way) are swept out, so
that only error contrasts are left; with Z the swept incidences, S = Z'Z, r = Z'y, D the variances
of the factors over that of e, nu the degrees of freedom left,

    ln L(D) = -1/2 ln |I + D S| - nu/2 ln Q,   Q = y'y - r' (D^-1 + S)^-1 r

(restricted likelihood with the variance of e integrated under 1/sigma). The ratios of standard
deviations have a half-Cauchy prior of scale 0.5; given them the variance of e is Q over chi-square
with nu degrees. Intervals are quantiles of that mixture.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.special import chdtri

from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval

LEAST_REPEATS = 4
"""Degrees of freedom within one technician, bench and group that carry anything."""
_RATIO = 0.5
_NODES = 24
_LEVELS = (np.arange(120) + 0.5) / 120
_SHARES = (0.5, 0.025, 0.975)
_RANK = 1e-9


@dataclass(frozen=True, kw_only=True)
class HandReading:
    """One value, on a scale on which spreads compare (ln of loads and times, level of jamming)."""

    group: str
    technician: str
    bench: str
    value: float
    pull_id: str = ""


class HandsLack(StrEnum):
    """Why a part is not said."""

    FEW_REPEATS = "few repeats"
    ONE_TECHNICIAN = "one technician"
    NEVER_OVERLAPPED = "technicians never overlapped"
    ONE_BENCH = "one bench"
    BENCHES_APART = "benches never overlapped"
    CONFOUNDED = "each technician at a bench of their own"


@dataclass(frozen=True, kw_only=True)
class HandsSpread:
    """The spreads, as standard deviations on the scale of the readings.

    Parameters
    ----------
    within : Interval or None
        One technician at one bench with one knot again: repeatability.
    technicians, benches : Interval or None
        Between them; None where that cannot be said.
    total : Interval or None
        Any technician at any bench: reproducibility.
    lacks : tuple of HandsLack
        Why parts are not said.
    """

    within: Interval | None
    technicians: Interval | None
    benches: Interval | None
    total: Interval | None
    lacks: tuple[HandsLack, ...]
    readings: int
    people: tuple[str, ...]
    places: tuple[str, ...]
    pull_ids: tuple[str, ...] = ()


def measure_hands(readings: Sequence[HandReading]) -> HandsSpread:
    """Tell the spreads apart as far as the readings carry it."""
    people = tuple(sorted({r.technician for r in readings if r.technician}))
    places = tuple(sorted({r.bench for r in readings if r.bench}))
    used = [r for r in readings if r.technician and r.bench]
    lacks: list[HandsLack] = []
    found: tuple[Interval | None, ...] = (None, None, None, None)
    if _repeats(used) < LEAST_REPEATS:
        lacks.append(HandsLack.FEW_REPEATS)
    else:
        factors = _factors(used, people, places, lacks)
        found = _spreads(used, factors)
    return HandsSpread(
        within=found[0],
        technicians=found[1],
        benches=found[2],
        total=found[3],
        lacks=tuple(lacks),
        readings=len(used),
        people=people,
        places=places,
        pull_ids=tuple(dict.fromkeys(r.pull_id for r in used if r.pull_id)),
    )


def _repeats(readings: Sequence[HandReading]) -> int:
    cells = Counter((r.group, r.technician, r.bench) for r in readings)
    return sum(n - 1 for n in cells.values())


def _overlap(readings: Sequence[HandReading], name: str) -> bool:
    """Whether any group has two of a factor's levels."""
    seen: dict[str, set[str]] = defaultdict(set)
    for r in readings:
        seen[r.group].add(getattr(r, name))
    return any(len(levels) > 1 for levels in seen.values())


def _factors(
    used: Sequence[HandReading],
    people: tuple[str, ...],
    places: tuple[str, ...],
    lacks: list[HandsLack],
) -> tuple[str, ...]:
    """Which factors can be told; what cannot is added to `lacks`."""
    factors = []
    for name, levels, one, apart in (
        ("technician", people, HandsLack.ONE_TECHNICIAN, HandsLack.NEVER_OVERLAPPED),
        ("bench", places, HandsLack.ONE_BENCH, HandsLack.BENCHES_APART),
    ):
        if len(levels) < 2:
            lacks.append(one)
        elif not _overlap(used, name):
            lacks.append(apart)
        else:
            factors.append(name)
    if len(factors) == 2:
        ranks = [np.linalg.matrix_rank(_swept(used, (f,))[0], tol=_RANK) for f in factors]
        both = np.linalg.matrix_rank(_swept(used, tuple(factors))[0], tol=_RANK)
        if both < sum(ranks):
            lacks.append(HandsLack.CONFOUNDED)
            return ("technician",)
    return tuple(factors)


def _swept(
    used: Sequence[HandReading], factors: tuple[str, ...]
) -> tuple[Floats, Floats, np.ndarray]:
    """Incidences and values with the group means taken out; the factor of every column."""
    groups = sorted({r.group for r in used})
    at = np.array([groups.index(r.group) for r in used])
    columns: list[list[float]] = []
    owner: list[int] = []
    for number, name in enumerate(factors):
        for level in sorted({getattr(r, name) for r in used}):
            columns.append([float(getattr(r, name) == level) for r in used])
            owner.append(number)
    whole = np.array([*columns, [r.value for r in used]]).T
    counts = np.bincount(at)[:, None]
    sums = np.zeros((len(groups), whole.shape[1]))
    np.add.at(sums, at, whole)
    swept = whole - (sums / counts)[at]
    return swept[:, :-1], swept[:, -1], np.array(owner, dtype=np.intp)


def _spreads(
    used: Sequence[HandReading], factors: tuple[str, ...]
) -> tuple[Interval | None, Interval | None, Interval | None, Interval | None]:
    z, y, owner = _swept(used, factors)
    freedom = len(used) - len({r.group for r in used})
    nodes, weights = np.polynomial.legendre.leggauss(_NODES)
    ratio = _RATIO * np.tan(0.25 * np.pi * (nodes + 1.0))
    ratios, mass = np.zeros((0, 1)), np.ones(1)
    if factors:
        axes = np.meshgrid(*([ratio] * len(factors)), indexing="ij")
        ratios = np.array([a.ravel() for a in axes])
    for _ in factors:
        mass = np.outer(mass, weights).ravel()
    s, r, whole = z.T @ z, z.T @ y, float(y @ y)
    log_density, q = np.empty(ratios.shape[1]), np.empty(ratios.shape[1])
    for n in range(ratios.shape[1]):
        d = ratios[owner, n] ** 2 if len(factors) else np.empty(0)
        inner = np.eye(len(d)) + d[:, None] * s
        _, log_det = np.linalg.slogdet(inner)
        # (D^-1 + S)^-1 = (I + D S)^-1 D
        q[n] = whole - float(r @ np.linalg.solve(inner, d * r)) if len(d) else whole
        log_density[n] = -0.5 * log_det - 0.5 * freedom * np.log(max(q[n], 1e-300))
    weight = mass * np.exp(log_density - log_density.max())
    weight /= weight.sum()
    # sigma^2 = Q / chi-square: quantiles of equal mass stand for its distribution.
    within = np.sqrt(q[:, None] / chdtri(freedom, 1.0 - _LEVELS)[None, :])
    masses = np.broadcast_to(weight[:, None] / len(_LEVELS), within.shape)
    parts = {name: ratios[k][:, None] * within for k, name in enumerate(factors)}
    total = np.sqrt(within**2 + sum((p**2 for p in parts.values()), np.zeros(within.shape)))
    return (
        _weighted(within, masses),
        _weighted(parts["technician"], masses) if "technician" in parts else None,
        _weighted(parts["bench"], masses) if "bench" in parts else None,
        _weighted(total, masses) if parts else None,
    )


def _weighted(values: Floats, masses: Floats) -> Interval:
    """Median and 95 % interval of weighted values."""
    flat, mass = values.ravel(), masses.ravel()
    order = np.argsort(flat)
    rising = np.cumsum(mass[order]) - 0.5 * mass[order]
    middle, low, high = np.interp(_SHARES, rising, flat[order])
    return Interval(float(middle), float(low), float(high))
