"""Ranking knots for a use: the score, how sure the order is, and what other weights would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.errors import InputError
from bruiser.core.performance.uncertain import interval_of
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.compare import letters_of
from bruiser.core.statistics.strength import Interval

DRAWS = 10_000
APART = 0.95
_RANGE = (0.05, 0.95)

Anchors = tuple[tuple[float, float], ...]

STARTING_ANCHORS: dict[Rating, Anchors] = {
    Rating.STRENGTH: ((0.20, 0.0), (0.50, 50.0), (0.80, 100.0)),
    Rating.SECURITY: ((0.0, 0.0), (1.0, 100.0)),
    Rating.OPENING: ((0.0, 0.0), (0.50, 30.0), (1.0, 100.0)),
    Rating.TYING: ((10.0, 100.0), (30.0, 70.0), (120.0, 0.0)),
    Rating.CHECKING: ((0.30, 0.0), (1.0, 100.0)),
}


def check_anchors(rating: Rating, anchors: Anchors) -> None:
    """Refuse anchors that are not a monotone scale from 0 to 100.

    Raises
    ------
    InputError
        With fewer than two anchors, values that do not rise, points outside 0 to 100, or points
        that fall while the value gets better.
    """
    name = SCALES[rating].name
    if len(anchors) < 2:
        raise InputError(f"{name} needs two anchors or more.", where=rating.value)
    values, points = np.array(anchors, dtype=np.float64).T
    if not np.isfinite(values).all() or (np.diff(values) <= 0).any():
        raise InputError(f"The anchors of {name} must rise in value.", where=rating.value)
    if (points < 0).any() or (points > 100).any():
        raise InputError(f"The points of {name} lie between 0 and 100.", where=rating.value)
    better = np.diff(points) if SCALES[rating].better_high else -np.diff(points)
    if (better < 0).any():
        raise InputError(f"A better {name} must not get fewer points.", where=rating.value)


def points_of(values: Floats, anchors: Anchors) -> Floats:
    """Points of some values: straight between the anchors, level beyond them."""
    xs, ys = np.array(anchors, dtype=np.float64).T
    return np.asarray(np.interp(values, xs, ys))


@dataclass(frozen=True)
class Contender:
    """A knot to be ranked: draws of every rating that counts, in step with those of the others."""

    key: str
    draws: Mapping[Rating, Floats]


@dataclass(frozen=True, kw_only=True)
class Ranked:
    """One knot in a ranking.

    Parameters
    ----------
    score : Interval
        Mean score with its 95 % interval, 0 to 100.
    parts : dict
        Mean points of every rating that counts; the score is their weighted mean.
    chances : tuple of float
        Chance of every rank, first to last; they sum to 1.
    likely : tuple of int
        The ranks that hold the middle 90 % of the draws, from best to worst.
    letters : str
        Knots that share a letter are tied: the pulls cannot tell their scores apart.
    tied_with : tuple of str
        Keys of those.
    """

    key: str
    score: Interval
    parts: Mapping[Rating, float]
    chances: tuple[float, ...]
    likely: tuple[int, int]
    letters: str
    tied_with: tuple[str, ...]

    @property
    def chance_first(self) -> float:
        """Chance of being the best for this use."""
        return self.chances[0]


@dataclass(frozen=True)
class Ranking:
    """Knots best first, with the weights and anchors they were ranked by."""

    rows: tuple[Ranked, ...]
    weights: Mapping[Rating, float]

    @property
    def shares(self) -> dict[Rating, float]:
        """The weights as shares that sum to 1."""
        return shares_of(self.weights)


def shares_of(weights: Mapping[Rating, float]) -> dict[Rating, float]:
    """Weights above zero as shares of their sum.

    Raises
    ------
    InputError
        If one is negative or none is above zero.
    """
    if any(not np.isfinite(w) or w < 0 for w in weights.values()):
        raise InputError("A weight cannot be below zero.")
    total = sum(weights.values())
    if total <= 0:
        raise InputError("At least one weight must be above zero.")
    return {r: weights[r] / total for r in Rating if weights.get(r, 0.0) > 0}


def rank(
    contenders: Sequence[Contender],
    weights: Mapping[Rating, float],
    anchors: Mapping[Rating, Anchors],
) -> Ranking:
    """Rank some knots.

    Parameters
    ----------
    contenders : sequence of Contender
        Each with draws of every rating whose weight is above zero.
    weights, anchors : mapping
        Weight of each rating, and the scale that turns it into points.

    Returns
    -------
    Ranking
        By mean score, then by key.

    Raises
    ------
    ValueError
        If a contender lacks a rating that counts: what was not measured is not ranked.

    Notes
    -----
    In every draw the score is sum w_r p_r(x_r) / sum w_r. Equal scores share their ranks evenly.
    Two knots are tied unless one is ahead in 95 % of the draws, an even score counting half.
    """
    shares = shares_of(weights)
    if not contenders:
        return Ranking((), weights)
    for c in contenders:
        if missing := [r.value for r in shares if r not in c.draws]:
            raise ValueError(f"{c.key} was not measured for {', '.join(missing)}")
    ordered = sorted(contenders, key=lambda c: c.key)
    points = {r: np.array([points_of(c.draws[r], anchors[r]) for c in ordered]) for r in shares}
    scores = sum(share * points[r] for r, share in shares.items())
    scores = np.asarray(scores, dtype=np.float64)
    order = sorted(range(len(ordered)), key=lambda k: (-scores[k].mean(), ordered[k].key))
    chances = _rank_chances(scores)
    ahead = _ahead(scores)
    apart = np.maximum(ahead, ahead.T) >= APART
    pairs = [tuple(int(v) for v in pair) for pair in np.argwhere(np.triu(apart, 1))]
    marks = letters_of(len(ordered), [(a, b) for a, b in pairs], order)
    rows = []
    for k in order:
        spread = interval_of(scores[k])
        total = np.cumsum(chances[k])
        likely = tuple(int(np.searchsorted(total, q) + 1) for q in _RANGE)
        rows.append(
            Ranked(
                key=ordered[k].key,
                score=Interval(float(scores[k].mean()), spread.low, spread.high),
                parts={r: float(points[r][k].mean()) for r in shares},
                chances=tuple(float(c) for c in chances[k]),
                likely=(likely[0], min(likely[1], len(ordered))),
                letters=marks[k],
                tied_with=tuple(ordered[j].key for j in order if j != k and not apart[k, j]),
            )
        )
    return Ranking(tuple(rows), dict(weights))


def _rank_chances(scores: Floats) -> Floats:
    """Chance of every knot to have every rank; equal scores share theirs evenly."""
    count, draws = scores.shape
    from scipy.stats import rankdata  # slow to load

    first = rankdata(-scores, "min", axis=0) - 1
    last = rankdata(-scores, "max", axis=0) - 1
    shared = 1.0 / (last - first + 1)
    found = np.zeros((count, count))
    for place in range(count):
        found[:, place] = np.where((first <= place) & (place <= last), shared, 0.0).sum(axis=1)
    return np.asarray(found / draws)


def _ahead(scores: Floats) -> Floats:
    """Chance of every knot to be ahead of every other one, an even score counting half."""
    rows = [((s > scores) + 0.5 * (s == scores)).mean(axis=1) for s in scores]
    return np.array(rows)


@dataclass(frozen=True, kw_only=True)
class WeightPath:
    """How the mean scores move as one weight goes from nothing to everything.

    Parameters
    ----------
    now : float
        The share it has.
    ends : dict
        Mean score of every knot without it and with it alone; straight between.
    leaders : tuple of (float, str)
        From which share on who leads, beginning at 0.
    """

    rating: Rating
    now: float
    ends: Mapping[str, tuple[float, float]]
    leaders: tuple[tuple[float, str], ...]


def weight_path(ranking: Ranking, rating: Rating) -> WeightPath | None:
    """What other weights of one rating would do, the rest keeping their proportions.

    None where the rating does not count, or is all that counts.

    Notes
    -----
    With share s of the rating the mean score is s p + (1 - s) q, p its points and q the weighted
    mean of the others: straight lines, so the leaders are their upper envelope.
    """
    shares = ranking.shares
    own = shares.get(rating, 0.0)
    if not 0 < own < 1 or not ranking.rows:
        return None
    ends = {}
    for row in ranking.rows:
        rest = sum(s * row.parts[r] for r, s in shares.items() if r is not rating) / (1 - own)
        ends[row.key] = (rest, row.parts[rating])
    return WeightPath(rating=rating, now=own, ends=ends, leaders=_envelope(ends))


def _envelope(ends: Mapping[str, tuple[float, float]]) -> tuple[tuple[float, str], ...]:
    """Who leads from which share on."""
    at = 0.0
    leader = max(ends, key=lambda k: (ends[k][0], ends[k][1]))
    found = [(0.0, leader)]
    while True:
        a, slope = ends[leader][0], ends[leader][1] - ends[leader][0]
        crossings = [
            ((a - b) / ((end - b) - slope), end - b, key)
            for key, (b, end) in ends.items()
            if (end - b) - slope > 1e-12
        ]
        later = [c for c in crossings if at - 1e-12 <= c[0] < 1 - 1e-12 and c[2] != leader]
        if not later:
            return tuple(found)
        at, _, leader = min(later, key=lambda c: (c[0], -c[1]))
        found.append((at, leader))
