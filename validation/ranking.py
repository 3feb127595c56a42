"""What a ranking's chances are worth: campaigns of several knots from known truth.

Each campaign draws the truth of every knot, pulls and ties it, ranks, and compares with the truth.
``python -m validation.ranking`` runs them all and writes docs/validation-ranking.md; the slow tests
run fewer.
"""

from __future__ import annotations

import sys
import time
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.behaviour.tying import TIME_PRIOR
from bruiser.core.choice.ranking import (
    DRAWS,
    STARTING_ANCHORS,
    Contender,
    Ranked,
    points_of,
    rank,
    shares_of,
)
from bruiser.core.choice.rating import Rating
from bruiser.core.performance.uncertain import around, grades, share
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.contrast import Side, efficiency_draws
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, posterior, typical_values

REPORT = Path(__file__).parent.parent / "docs" / "validation-ranking.md"
SEED = 20261126
BASE_N = 14_000.0
WEIGHTS = {Rating.STRENGTH: 3.0, Rating.SECURITY: 2.0, Rating.TYING: 1.0}
BINS = (0.0, 0.1, 0.3, 0.5, 0.7, 0.9, 1.0)


@dataclass
class Tally:
    """What was counted over the campaigns of a cell."""

    claimed: list[float]
    first: list[bool]
    held: int = 0
    scores: int = 0
    apart: int = 0
    apart_wrong: int = 0
    in_range: int = 0

    @property
    def coverage(self) -> float:
        """Share of true scores inside their 95 % interval."""
        return self.held / self.scores

    @property
    def range_coverage(self) -> float:
        """Share of true ranks inside the likely ranks."""
        return self.in_range / self.scores

    @property
    def wrongly_apart(self) -> float:
        """Share of pairs said to be told apart that stand the other way round."""
        return self.apart_wrong / max(1, self.apart)

    def calibration(self) -> list[tuple[float, float, float, int]]:
        """For every bin of the chance of being first: its ends, how often it was, and how many."""
        claimed, first = np.array(self.claimed), np.array(self.first)
        found = []
        for low, high in pairwise(BINS):
            mine = (claimed >= low) & ((claimed < high) | (high == 1.0))
            if mine.sum():
                pair = float(claimed[mine].mean()), float(first[mine].mean())
                found.append((low, *pair, int(mine.sum())))
        return found


def _score(truth: tuple[float, float, float]) -> float:
    """The score of a knot whose strength, chance of coming out and time are known."""
    limits = SecurityLimits()
    graded = float(grades(np.array([truth[1]]), *limits.came_out)[0])
    values = {Rating.STRENGTH: truth[0], Rating.SECURITY: graded, Rating.TYING: truth[2]}
    return float(
        sum(
            s * points_of(np.array([values[r]]), STARTING_ANCHORS[r])[0]
            for r, s in shares_of(WEIGHTS).items()
        )
    )


def _sample(rng: np.random.Generator, median: float, spread: float, n: int) -> Sample:
    x = np.log(median) + spread * rng.standard_normal(n)
    return Sample(ln_load=x, events=np.ones(n), floors=np.zeros(n))


def ranking_cell(knots: int, pulls: int, campaigns: int, seed: int = SEED) -> Tally:
    """Rank `knots` knots from `pulls` pulls and as many trials each, many times.

    Truths: efficiency even between 0.45 and 0.80; chance of coming out Beta(1/2, 1/2), the prior
    it is judged by; typical time log-normal round 28 s with a spread of 0.4. Pulls have a CV of
    5 %, the plain rope 4 % in 5 pulls, trials a spread of 0.3.
    """
    rng = np.random.default_rng([seed, knots, pulls])
    limits = SecurityLimits()
    tally = Tally([], [])
    for _ in range(campaigns):
        truths = [
            (
                float(rng.uniform(0.45, 0.80)),
                float(rng.beta(0.5, 0.5)),
                float(28 * np.exp(0.4 * rng.standard_normal())),
            )
            for _ in range(knots)
        ]
        plain = _sample(rng, BASE_N, 0.04, 5)
        tied = [_sample(rng, t[0] * BASE_N, 0.05, pulls) for t in truths]
        times = typical_values([_sample(rng, t[2], 0.3, pulls) for t in truths], TIME_PRIOR)
        rope = posterior([plain], BASELINE_PRIOR).table()
        marginals = posterior(tied, KNOT_PRIOR).table()
        sides = [
            Side(
                marginal=marginals.take([k]),
                baseline=rope,
                base_key="rope",
                located=None,
                base_located=None,
            )
            for k in range(knots)
        ]
        strengths = efficiency_draws(sides, DRAWS)
        contenders = []
        for k, truth in enumerate(truths):
            own = np.random.default_rng([seed, k])
            out = int(rng.binomial(pulls, truth[1]))
            tied_in = times[k]
            strength = strengths[k]
            assert tied_in is not None
            assert strength is not None
            drawn = {
                Rating.STRENGTH: strength,
                Rating.SECURITY: grades(share(out, pulls, DRAWS, own), *limits.came_out),
                Rating.TYING: around(tied_in, DRAWS, own),
            }
            contenders.append(Contender(f"{k}", drawn))
        scores = [_score(t) for t in truths]
        _count(tally, rank(contenders, WEIGHTS, STARTING_ANCHORS).rows, scores)
    return tally


def _count(tally: Tally, rows: tuple[Ranked, ...], scores: list[float]) -> None:
    """Compare one ranking with the truth."""
    best = int(np.argmax(scores))
    places = {k: 1 + sum(s > scores[k] for s in scores) for k in range(len(scores))}
    for row in rows:
        k = int(row.key)
        tally.claimed.append(row.chance_first)
        tally.first.append(k == best)
        tally.scores += 1
        tally.held += row.score.low <= scores[k] <= row.score.high
        tally.in_range += row.likely[0] <= places[k] <= row.likely[1]
    order = [int(r.key) for r in rows]
    for a, row in enumerate(rows):
        for other in order[a + 1 :]:
            if f"{other}" not in row.tied_with:
                tally.apart += 1
                tally.apart_wrong += scores[order[a]] < scores[other]


def main() -> int:
    """Run all and write the report."""
    began, lines = time.monotonic(), []
    for knots, pulls in ((2, 4), (2, 8), (4, 4), (4, 8), (6, 5)):
        tally = ranking_cell(knots, pulls, 1_000)
        lines += [
            "",
            f"## {knots} knots, {pulls} pulls and {pulls} trials each",
            "",
            f"True score inside its 95 % interval: {100 * tally.coverage:.1f} %. True rank inside "
            f"the likely ranks (90 %): {100 * tally.range_coverage:.1f} %. Of {tally.apart} pairs "
            f"said to be told apart {100 * tally.wrongly_apart:.1f} % stood the other way round.",
            "",
            "| chance of being first from | said on average | was first | knots |",
            "| --- | --- | --- | --- |",
        ]
        lines += [
            f"| {100 * low:.0f} % | {100 * said:.1f} % | {100 * was:.1f} % | {n} |"
            for low, said, was, n in tally.calibration()
        ]
        print("\n".join(lines[-9:]), flush=True)
    minutes = (time.monotonic() - began) / 60
    head = [
        "# What a ranking's chances are worth, measured",
        "",
        f"Written by `python -m validation.ranking` (seed {SEED}, {minutes:.0f} minutes, 1,000 "
        "campaigns a cell). Strength counts 3, staying tied (share that came out) 2, quick to tie "
        "1; truths are drawn anew in every campaign, as `validation/ranking.py` says. The chance "
        "of coming out is drawn from the prior it is judged by; with truths drawn otherwise the "
        "chances are right to the extent that this prior is.",
    ]
    REPORT.write_text("\n".join([*head, *lines]) + "\n", encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
