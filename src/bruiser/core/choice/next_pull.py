"""What to pull next: what a few more pulls of a knot are worth, and when to stop.

Notes
-----
With m further pulls the mean score of knot k moves by about tau = s_k sqrt(m / (n_k + m)) (normal
approximation of the preposterior spread); the expected gain of the choice is V(k, m) = tau f(d_k /
tau), f(z) = phi(z) - z Phi(-z), d_k the distance to the best other mean (for the leader: to the
second): the knowledge gradient of ranking and selection, per hour of bench. The loss that is left
is L = E max S - max E S on the same draws. V ranks rightly and promises two to four times too
much, so it is shown as bars, never in points.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtr

from bruiser.core.choice.ranking import Anchors, Contender, points_of, shares_of
from bruiser.core.choice.rating import Rating
from bruiser.core.statistics.censored import Floats

MOST_AHEAD = 5
LEAST_CHANCE = 0.01
PULL_MIN, SET_UP_MIN = 6.0, 5.0
_ROOT_2_PI = math.sqrt(2.0 * math.pi)


@dataclass(frozen=True, kw_only=True)
class Runner:
    """A knot in the running for a use, by its score with only its strength uncertain.

    Parameters
    ----------
    mean, sd : float
        Of the score, 0 to 100.
    events : int
        Observed failures so far; floors do not count.
    first : float
        Chance of being the best.
    """

    key: str
    mean: float
    sd: float
    events: int
    first: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Worth:
    """What a few more pulls of a knot are worth.

    Parameters
    ----------
    pulls : int
        How many pay best per hour of bench.
    per_hour : float
        Points an hour, too high by two to four times: for comparing knots only.
    """

    key: str
    pulls: int
    per_hour: float


def expected_gain(distance: float, tau: float) -> float:
    """V = tau f(d / tau), f(z) = phi(z) - z Phi(-z); nothing where tau is nothing."""
    if tau <= 0:
        return 0.0
    z = distance / tau
    return tau * (math.exp(-0.5 * z * z) / _ROOT_2_PI - z * float(ndtr(-z)))


def distances(runners: Sequence[Runner]) -> dict[str, float]:
    """How far each is from the best other."""
    found = {}
    for one in runners:
        others = [r.mean for r in runners if r.key != one.key]
        found[one.key] = abs(max(others) - one.mean) if others else math.inf
    return found


def gain(runner: Runner, distance: float, pulls: int) -> float:
    """V(k, m) of one knot."""
    if math.isinf(distance):
        return 0.0
    return expected_gain(distance, runner.sd * math.sqrt(pulls / (runner.events + pulls)))


def worths(
    runners: Sequence[Runner], pull_min: float = PULL_MIN, set_up_min: float = SET_UP_MIN
) -> list[Worth]:
    """What further pulls of each are worth per hour, most first."""
    apart = distances(runners)
    found = []
    for one in runners:
        rates = {
            m: gain(one, apart[one.key], m) * 60.0 / (m * pull_min + set_up_min)
            for m in range(1, MOST_AHEAD + 1)
        }
        best = max(rates, key=lambda m: (rates[m], -m))
        found.append(Worth(key=one.key, pulls=best, per_hour=rates[best]))
    return sorted(found, key=lambda w: (-w.per_hour, w.key))


def by_need(runners: Sequence[Runner], count: int) -> list[str]:
    """Knots that one pull more serves best, each pick taken as made: n + 1, s^2 n / (n + 1)."""
    left, picked = list(runners), []
    for _ in range(count):
        apart = distances(left)
        best = max(left, key=lambda r: (gain(r, apart[r.key], 1), r.key))
        picked.append(best.key)
        shrunk = best.sd * math.sqrt(best.events / (best.events + 1)) if best.events else best.sd
        left[left.index(best)] = replace(best, events=best.events + 1, sd=shrunk)
    return picked


def spread_over(runners: Sequence[Runner], count: int, after: Sequence[str] = ()) -> list[str]:
    """Knots that may still be the best, those with fewest pulls first."""
    able = [r for r in runners if r.first >= LEAST_CHANCE] or list(runners)
    pulls = {r.key: r.events + after.count(r.key) for r in able}
    picked = []
    for _ in range(count):
        key = min(pulls, key=lambda k: (pulls[k], k))
        picked.append(key)
        pulls[key] += 1
    return picked


def loss(scores: Floats) -> float:
    """E max S - max E S: points that the present choice may lose; scores of shape (k, draws)."""
    if len(scores) < 2:
        return 0.0
    return float(scores.max(axis=0).mean() - scores.mean(axis=1).max())


def scores_of(
    contenders: Sequence[Contender],
    weights: Mapping[Rating, float],
    anchors: Mapping[Rating, Anchors],
    only: Rating | None = None,
) -> Floats:
    """Scores in every draw, contenders in the order given.

    Parameters
    ----------
    only : Rating, optional
        The one rating that is uncertain, the others at their mean points; None for all.

    Returns
    -------
    ndarray, shape (k, draws)
    """
    total: Floats = np.zeros((len(contenders), 1))
    for rating, share in shares_of(weights).items():
        points = np.array([points_of(c.draws[rating], anchors[rating]) for c in contenders])
        if only is not None and rating is not only:
            points = points.mean(axis=1, keepdims=True)
        total = total + share * points
    return total


def runners_of(
    contenders: Sequence[Contender],
    weights: Mapping[Rating, float],
    anchors: Mapping[Rating, Anchors],
    events: Mapping[str, int],
) -> list[Runner]:
    """The knots in the running, with only their strength uncertain."""
    scores = scores_of(contenders, weights, anchors, Rating.STRENGTH)
    scores = np.broadcast_to(scores, (len(contenders), max(2, scores.shape[1])))
    best = scores.argmax(axis=0)
    return [
        Runner(
            key=c.key,
            mean=float(scores[k].mean()),
            sd=float(scores[k].std()),
            events=events.get(c.key, 0),
            first=float((best == k).mean()),
        )
        for k, c in enumerate(contenders)
    ]
