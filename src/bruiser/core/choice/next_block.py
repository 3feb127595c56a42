"""The next block of pulls for a use: opening, running, enough or close, confirming.

Three blocks open, each with every ranked knot once; then blocks of four, two by need and two
spread; plain rope stands among them. At the end of a block it stops where little is left to lose,
or at the budget, and five fresh pulls confirm the winner.
How that was chosen is in docs/next-pull.md.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from bruiser.core.choice.next_pull import Runner, Worth, by_need, spread_over, worths
from bruiser.core.choice.rating import Rating

OPENING_BLOCKS = 3
BLOCK = 4
BY_NEED = 2
PLAIN_FIRST = 2
LEAST_PLAIN = 3
ENOUGH_LOSS = 0.5
"""Points of score below which further pulls hardly change the choice."""
CONFIRM_PULLS, CONFIRM_PLAIN = 5, 2
BUDGET_EACH = 8


class NextStage(StrEnum):
    """Where the pulling stands."""

    REFUSED = "refused"
    OPENING = "opening"
    RUNNING = "running"
    ENOUGH = "enough"
    CLOSE = "close"
    CONFIRM = "confirm"
    CONFIRMED = "confirmed"


class Lacks(StrEnum):
    """Why nothing is proposed."""

    ONE_KNOT = "one knot"
    PLAIN_ROPE = "plain rope"
    BUDGET = "no budget"
    STRENGTH_ASIDE = "strength does not count"


class Why(StrEnum):
    """Why a pull is in a block."""

    OPENING = "opening"
    NEED = "need"
    SPREAD = "spread"
    PLAIN = "plain rope"
    CONFIRM = "confirm"


@dataclass(frozen=True, kw_only=True)
class Pick:
    """One pull of the next block; `key` empty for plain rope."""

    key: str
    why: Why


@dataclass(frozen=True, kw_only=True)
class Standing:
    """What is known when the next block is asked for.

    Parameters
    ----------
    runners : tuple of Runner
        Knots in the running, and those that have too few events to be ranked.
    plain : int
        Clear breaks of plain rope.
    knot_pulls : int
        Pulls of these knots so far.
    budget : int or None
        Pulls of knots that are allowed in all; None where nobody said.
    loss : float
        Points the present choice may lose, strength alone uncertain.
    by_rating : dict
        The same with only that rating uncertain, for every rating that counts.
    confirmed : int
        Fresh pulls of the winner since it was chosen; `confirmed_plain` of plain rope.
    """

    runners: tuple[Runner, ...]
    plain: int
    knot_pulls: int
    budget: int | None
    loss: float = 0.0
    by_rating: Mapping[Rating, float] | None = None
    winner: str = ""
    confirmed: int = 0
    confirmed_plain: int = 0


@dataclass(frozen=True, kw_only=True)
class Next:
    """What to pull next, or that enough was pulled.

    Parameters
    ----------
    picks : tuple of Pick
        The block, in the order it is pulled; empty where nothing is proposed.
    worths : tuple of Worth
        For the bars.
    rests_on : Rating or None
        The rating the doubt rests on, where that is not strength.
    """

    stage: NextStage
    picks: tuple[Pick, ...] = ()
    worths: tuple[Worth, ...] = ()
    lacks: Lacks | None = None
    leader: str = ""
    loss: float = 0.0
    rests_on: Rating | None = None
    left: int = 0


def plain_every(knots: int) -> int:
    """A piece of plain rope after so many pulls of knots: ceil(5 K / 3)."""
    return math.ceil(5 * knots / 3)


def plan_next(standing: Standing, seed: int = 0) -> Next:
    """The next block, by the rules of this module.

    Parameters
    ----------
    seed : int
        Shuffles the block.
    """
    refused = _refusal(standing)
    if refused is not None:
        return Next(stage=NextStage.REFUSED, lacks=refused)
    runners = standing.runners
    assert standing.budget is not None
    left = max(0, standing.budget - standing.knot_pulls)
    fewest = min(r.events for r in runners)
    dice = np.random.default_rng(seed)
    if fewest < OPENING_BLOCKS or standing.plain < PLAIN_FIRST:
        return Next(stage=NextStage.OPENING, picks=_opening(standing, fewest, dice), left=left)
    if standing.plain < LEAST_PLAIN:
        picks = (Pick(key="", why=Why.PLAIN),)
        return Next(stage=NextStage.OPENING, picks=picks, left=left)
    leader = max(runners, key=lambda r: (r.mean, r.key)).key
    found = Next(
        stage=NextStage.RUNNING,
        worths=tuple(worths(runners)),
        leader=leader,
        loss=standing.loss,
        rests_on=_rests_on(standing),
        left=left,
    )
    enough = standing.loss < ENOUGH_LOSS
    if enough or left == 0:
        if standing.winner == leader and standing.confirmed >= CONFIRM_PULLS:
            return replace(found, stage=NextStage.CONFIRMED, rests_on=None)
        stage = NextStage.ENOUGH if enough else NextStage.CLOSE
        return replace(found, stage=stage, picks=_confirming(standing, leader, dice))
    return replace(found, picks=_block(standing, min(BLOCK, left), dice))


def _refusal(standing: Standing) -> Lacks | None:
    if len(standing.runners) < 2:
        return Lacks.ONE_KNOT
    if standing.budget is None:
        return Lacks.BUDGET
    by = standing.by_rating
    if by is not None and Rating.STRENGTH not in by:
        return Lacks.STRENGTH_ASIDE
    return None


def _opening(standing: Standing, fewest: int, dice: np.random.Generator) -> tuple[Pick, ...]:
    """One of each knot that has fewest, plain rope first."""
    plain = [Pick(key="", why=Why.PLAIN)] * max(0, PLAIN_FIRST - standing.plain)
    least = [r.key for r in standing.runners if r.events == fewest]
    order = [least[n] for n in dice.permutation(len(least))]
    picks = [*plain, *(Pick(key=key, why=Why.OPENING) for key in order)]
    return tuple(_with_plain(picks, standing, len(plain)))


def _block(standing: Standing, count: int, dice: np.random.Generator) -> tuple[Pick, ...]:
    need = by_need(standing.runners, min(BY_NEED, count))
    spread = spread_over(standing.runners, count - len(need), need)
    picks = [Pick(key=k, why=Why.NEED) for k in need]
    picks += [Pick(key=k, why=Why.SPREAD) for k in spread]
    shuffled = [picks[n] for n in dice.permutation(len(picks))]
    return tuple(_with_plain(shuffled, standing, 0))


def _with_plain(picks: list[Pick], standing: Standing, plain_before: int) -> list[Pick]:
    """Plain rope among the knots: two first, one more after every so many pulls of knots."""
    every = plain_every(len(standing.runners))
    plain, pulls = standing.plain + plain_before, standing.knot_pulls
    found: list[Pick] = []
    for pick in picks:
        found.append(pick)
        if not pick.key:
            continue
        pulls += 1
        if plain < PLAIN_FIRST + pulls // every:
            found.append(Pick(key="", why=Why.PLAIN))
            plain += 1
    return found


def _confirming(standing: Standing, leader: str, dice: np.random.Generator) -> tuple[Pick, ...]:
    """Five fresh pulls of the winner with two of plain rope among them, less those made."""
    made = standing.confirmed if standing.winner == leader else 0
    plain = standing.confirmed_plain if standing.winner == leader else 0
    fresh, rope = max(0, CONFIRM_PULLS - made), max(0, CONFIRM_PLAIN - plain)
    first = int(dice.integers(2)) + 1
    picks: list[Pick] = []
    for n in range(1, fresh + 1):
        picks.append(Pick(key=leader, why=Why.CONFIRM))
        if rope and n in (first, first + 2):
            picks.append(Pick(key="", why=Why.PLAIN))
            rope -= 1
    return (*picks, *(Pick(key="", why=Why.PLAIN) for _ in range(rope)))


def _rests_on(standing: Standing) -> Rating | None:
    """The rating whose doubt alone costs most, where that is not strength."""
    by = standing.by_rating or {}
    if not by:
        return None
    most = max(by, key=lambda r: (by[r], r is Rating.STRENGTH))
    if most is Rating.STRENGTH or by[most] < max(ENOUGH_LOSS, by[Rating.STRENGTH]):
        return None
    return most
