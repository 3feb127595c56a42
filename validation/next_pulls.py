"""What to pull next, from known truth: pulls saved at equal loss, and what the intervals hold.

``./run validate next`` prints the tables of ``docs/next-pull.md``. Strength alone counts; the score
is that of the scale shipped, so that a point is 0.6 % of the rope. The posteriors are those of the
program, worked out for all campaigns of a table at once; the rule is the program's own.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from bruiser.core.choice.next_block import (
    BLOCK,
    CONFIRM_PULLS,
    ENOUGH_LOSS,
    PLAIN_FIRST,
    Standing,
    Why,
    plain_every,
    plan_next,
)
from bruiser.core.choice.next_pull import Runner, loss
from bruiser.core.choice.ranking import STARTING_ANCHORS, points_of
from bruiser.core.choice.rating import Rating
from bruiser.core.statistics.censored import make_sample
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, Marginal, posterior

ANCHORS = STARTING_ANCHORS[Rating.STRENGTH]
WIDE, CLOSE = 0.12, 0.04
"""How far knots lie apart, standard deviation of ln efficiency."""
MIDDLE = np.log(0.62)
ROPE_CV = 0.03
DRAWS = 1500
SEED = 20_261_130
WANTED = {4: (0.10, 0.19), 8: (0.20, 0.38), 15: (0.27, 0.44)}
"""Savings beside five and eight pulls of each that the rule was chosen by."""


@dataclass
class Campaign:
    """One campaign: what is true of it, and what was pulled."""

    truth: np.ndarray
    cv: np.ndarray
    dice: np.random.Generator
    knots: list[list[float]]
    plain: list[float] = field(default_factory=list)

    @classmethod
    def make(cls, knots: int, apart: float, dice: np.random.Generator) -> Campaign:
        """A campaign of so many knots."""
        return cls(
            truth=MIDDLE + apart * dice.normal(size=knots),
            cv=dice.uniform(0.04, 0.12, knots),
            dice=dice,
            knots=[[] for _ in range(knots)],
        )

    def pull(self, knot: int) -> None:
        """Pull a knot once; -1 is plain rope."""
        if knot < 0:
            self.plain.append(float(ROPE_CV * self.dice.normal()))
        else:
            self.knots[knot].append(float(self.truth[knot] + self.cv[knot] * self.dice.normal()))

    @property
    def pulls(self) -> int:
        """Pulls of knots so far."""
        return sum(map(len, self.knots))

    @property
    def scores(self) -> np.ndarray:
        """The true score of every knot."""
        return points_of(np.exp(self.truth), ANCHORS)

    def lost(self, chosen: int) -> float:
        """What is lost by a choice, in points."""
        return float(self.scores.max() - self.scores[chosen])


@dataclass
class Known:
    """What the pulls say of a campaign: draws of every efficiency, shape (k, draws)."""

    shares: np.ndarray

    @property
    def scores(self) -> np.ndarray:
        """Draws of every score."""
        return points_of(self.shares, ANCHORS)

    @property
    def chosen(self) -> int:
        """The knot that would be taken."""
        return int(self.scores.mean(axis=1).argmax())

    def holds(self, campaign: Campaign, knot: int) -> bool:
        """Whether the 95 % interval of a knot's efficiency holds the truth."""
        low, high = np.quantile(self.shares[knot], (0.025, 0.975))
        return bool(low <= np.exp(campaign.truth[knot]) <= high)


def _inverse(marginal: Marginal, row: int, uniform: np.ndarray) -> np.ndarray:
    return np.interp(uniform, marginal.cdf[row], marginal.mu[row])


def look(campaigns: list[Campaign], dice: np.random.Generator) -> list[Known]:
    """What all campaigns say now, in one go."""
    samples = [
        make_sample([(f"{n}", float(np.exp(x)), 1, 0) for n, x in enumerate(own)])
        for c in campaigns
        for own in c.knots
    ]
    ropes = [
        make_sample([(f"{n}", float(np.exp(x)), 1, 0) for n, x in enumerate(c.plain)])
        for c in campaigns
    ]
    knots, plain = posterior(samples, KNOT_PRIOR).table(), posterior(ropes, BASELINE_PRIOR).table()
    found, at = [], 0
    for number, c in enumerate(campaigns):
        rope = _inverse(plain, number, dice.random(DRAWS))
        rows = [_inverse(knots, at + k, dice.random(DRAWS)) for k in range(len(c.knots))]
        at += len(c.knots)
        found.append(Known(np.exp(np.array(rows) - rope)))
    return found


def standing_of(campaign: Campaign, known: Known | None, budget: int) -> Standing:
    """A campaign as the rule sees it."""
    if known is None:
        runners = [
            Runner(key=f"{k:02}", mean=0.0, sd=0.0, events=len(own))
            for k, own in enumerate(campaign.knots)
        ]
        left = 0.0
    else:
        scores = known.scores
        best = scores.argmax(axis=0)
        runners = [
            Runner(
                key=f"{k:02}",
                mean=float(scores[k].mean()),
                sd=float(scores[k].std()),
                events=len(own),
                first=float((best == k).mean()),
            )
            for k, own in enumerate(campaign.knots)
        ]
        left = loss(scores)
    return Standing(
        runners=tuple(runners),
        plain=len(campaign.plain),
        knot_pulls=campaign.pulls,
        budget=budget,
        loss=left,
    )


def open_all(campaigns: list[Campaign]) -> None:
    """The three blocks that every campaign opens with."""
    for c in campaigns:
        for _ in range(4):
            found = plan_next(standing_of(c, None, 999), int(c.dice.integers(2**31)))
            if not all(p.why in (Why.OPENING, Why.PLAIN) for p in found.picks):
                break
            if min(map(len, c.knots)) >= 3 and len(c.plain) >= 3:
                break
            for pick in found.picks:
                c.pull(int(pick.key) if pick.key else -1)


def mean_lost(campaigns: list[Campaign], known: list[Known]) -> float:
    """What is lost on the mean by what would be chosen."""
    return float(np.mean([c.lost(k.chosen) for c, k in zip(campaigns, known, strict=True)]))


def equal(campaigns: list[Campaign], each: int, dice: np.random.Generator) -> float:
    """Mean loss after so many pulls of each knot."""
    for c in campaigns:
        every = plain_every(len(c.knots))
        for own in range(len(c.knots)):
            while len(c.knots[own]) < each:
                c.pull(own)
        while len(c.plain) < PLAIN_FIRST + c.pulls // every:
            c.pull(-1)
    return float(
        np.mean([c.lost(k.chosen) for c, k in zip(campaigns, look(campaigns, dice), strict=True)])
    )


def block(c: Campaign, known: Known, budget: int) -> None:
    """One block by the rule, whatever is left to lose."""
    standing = standing_of(c, known, budget)
    if standing.loss < ENOUGH_LOSS:
        standing = Standing(**{**standing.__dict__, "loss": 1.0})
    for pick in plan_next(standing, int(c.dice.integers(2**31))).picks:
        c.pull(int(pick.key) if pick.key else -1)


def saving(knots: int, apart: float, campaigns: int, seed: int = SEED) -> tuple[float, float]:
    """Share of pulls saved at the loss that five and eight pulls of each come to."""
    dice = np.random.default_rng(seed)
    made = [
        Campaign.make(knots, apart, np.random.default_rng(dice.integers(2**63)))
        for _ in range(campaigns)
    ]
    plain = [Campaign(c.truth, c.cv, c.dice, [[] for _ in c.knots]) for c in made]
    goals = [equal(plain, each, dice) for each in (5, 8)]
    open_all(made)
    curve = []
    for _ in range(1 + -(-6 * knots // BLOCK)):
        known = look(made, dice)
        pulls = float(np.mean([c.pulls for c in made]))
        curve.append(
            (pulls, float(np.mean([c.lost(k.chosen) for c, k in zip(made, known, strict=True)])))
        )
        for c, k in zip(made, known, strict=True):
            block(c, k, 999)
    return _saved(curve, goals[0], 5 * knots), _saved(curve, goals[1], 8 * knots)


def _saved(curve: list[tuple[float, float]], goal: float, pulls: int) -> float:
    """How many pulls fewer reach a loss, as a share; the curve made to fall."""
    at = np.array([p for p, _ in curve])
    fallen = np.minimum.accumulate([lost for _, lost in curve])
    return float(1.0 - np.interp(-goal, -fallen, at) / pulls)


@dataclass
class Ruled:
    """What the whole rule came to."""

    pulls: list[int] = field(default_factory=list)
    lost: list[float] = field(default_factory=list)
    all_hold: list[bool] = field(default_factory=list)
    before: list[bool] = field(default_factory=list)
    after: list[bool] = field(default_factory=list)
    at_budget: int = 0


def whole_rule(knots: int, apart: float, campaigns: int, seed: int = SEED) -> Ruled:
    """Open, pull by blocks, stop, confirm."""
    dice = np.random.default_rng(seed + knots)
    made = [
        Campaign.make(knots, apart, np.random.default_rng(dice.integers(2**63)))
        for _ in range(campaigns)
    ]
    open_all(made)
    budget, going, found = 8 * knots, list(made), Ruled()
    while going:
        later = []
        for c, k in zip(going, look(going, dice), strict=True):
            lost = loss(k.scores)
            if lost >= ENOUGH_LOSS and c.pulls < budget:
                block(c, k, budget)
                later.append(c)
                continue
            found.at_budget += lost >= ENOUGH_LOSS
            found.pulls.append(c.pulls)
            found.lost.append(c.lost(k.chosen))
            found.all_hold += [k.holds(c, n) for n in range(knots)]
            found.before.append(k.holds(c, k.chosen))
            for _ in range(CONFIRM_PULLS):
                c.pull(k.chosen)
            for _ in range(2):
                c.pull(-1)
        going = later
    for c, k in zip(made, look(made, dice), strict=True):
        found.after.append(k.holds(c, k.chosen))
    return found


def main(campaigns: int = 400) -> int:
    """Print the tables; 1 where less than two thirds of what was wanted is saved."""
    short = 0
    print("| knots | saved beside 5 of each | beside 8 of each | wanted at least |")
    print("|---|---|---|---|")
    for knots, wanted in WANTED.items():
        saved = saving(knots, WIDE, campaigns)
        least = [2 / 3 * w for w in wanted]
        short += any(s < w for s, w in zip(saved, least, strict=True))
        print(
            f"| {knots} | {100 * saved[0]:.0f} % | {100 * saved[1]:.0f} % | "
            f"{100 * least[0]:.0f} %, {100 * least[1]:.0f} % |",
            flush=True,
        )
    print("\n| knots | pulls, median | loss, mean | at the budget | intervals hold: all knots | "
          "the chosen one | after confirming |")  # fmt: skip
    print("|---|---|---|---|---|---|---|")
    for knots, apart, name in ((8, WIDE, "wide"), (8, CLOSE, "close"), (15, WIDE, "wide")):
        r = whole_rule(knots, apart, campaigns)
        print(
            f"| {knots} {name} | {np.median(r.pulls):.0f} | {np.mean(r.lost):.2f} | "
            f"{100 * r.at_budget / campaigns:.0f} % | {100 * np.mean(r.all_hold):.1f} % | "
            f"{100 * np.mean(r.before):.1f} % | {100 * np.mean(r.after):.1f} % |",
            flush=True,
        )
    return 1 if short else 0
