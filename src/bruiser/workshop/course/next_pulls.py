"""What to pull next for a use in a lot: from the pulls there are to the next block in the queue."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.choice.next_block import (
    BUDGET_EACH,
    LEAST_PLAIN,
    OPENING_BLOCKS,
    Next,
    Pick,
    Standing,
    Why,
    plan_next,
)
from bruiser.core.choice.next_pull import Runner, loss, runners_of, scores_of
from bruiser.core.choice.ranking import shares_of
from bruiser.core.choice.rating import Rating, RatingLimits
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.planning.bench_time import learn
from bruiser.core.records.records import Knot, Lot, Specimen
from bruiser.workshop.desk.cutting import cut_length_m, queued_m
from bruiser.workshop.guide.choosing import Choice, Shelf, choose, contender
from bruiser.workshop.guide.rating_knots import RatedKnot
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.cell_specimens import one_specimen, plain_specimen
from bruiser.workshop.plan.plan_cells import PlanDraft
from bruiser.workshop.plan.planning import queue_in_order, specimen_seconds
from bruiser.workshop.plan.proposals import CONFIRMS, PROPOSED, confirmed_in, still_waiting


@dataclass(frozen=True, kw_only=True)
class Allowance:
    """What may still be pulled.

    Parameters
    ----------
    budget : int or None
        Pulls of knots in all, those made counted; None where nobody said.
    hours : float or None
        Bench hours left; None for no limit.
    usual : bool
        Whether the usual number of pulls stands in for the budget.
    """

    budget: int | None
    hours: float | None = None
    usual: bool = False


@dataclass(frozen=True, kw_only=True)
class NextUp:
    """What to pull next, with what it rests on.

    Parameters
    ----------
    knots : dict of str to Knot
        The knots in the running, by id, as the picks name them.
    could_run : dict of str to Knot
        Those and the ones put aside by decision.
    tied : dict
        Names of the knots that each cannot be told from, by id.
    aside : tuple of (str, str)
        Knots that are not in the running, and why.
    waiting : int
        Specimens of an earlier proposal that still wait.
    budget : int or None
        Pulls of knots in all, as allowed, or the usual number.
    by_cord, by_hours : int or None
        How many more pulls of a knot the cord on hand and the hours allow; None for no limit.
    """

    choice: Choice
    found: Next
    knots: dict[str, Knot]
    could_run: dict[str, Knot]
    tied: dict[str, tuple[str, ...]]
    aside: tuple[tuple[str, str], ...] = ()
    waiting: int = 0
    budget: int | None = None
    by_cord: int | None = None
    by_hours: int | None = None
    runners: tuple[Runner, ...] = ()

    @property
    def lot(self) -> Lot:
        """The cordage."""
        return self.choice.lot


def next_up(
    shelf: Shelf,
    lot_id: str,
    profile: UseProfile,
    limits: RatingLimits,
    allowed: Allowance,
    seed: int = 0,
    left_aside: Collection[str] = (),
) -> NextUp:
    """Work out the next block for a use in a lot.

    Parameters
    ----------
    seed : int
        Shuffles the block.
    left_aside : collection of str
        Knots, by id, that are not in the running by decision.
    """
    logbook = shelf.logbook
    choice = choose(shelf, lot_id, profile, limits)
    every, aside = _in_the_running(logbook, choice)
    rated = [(knot, one) for knot, one in every if knot.id not in left_aside]
    events = {knot.id: 0 if one is None else _events(one) for knot, one in rated}
    knots = {knot.id: knot for knot, _ in rated}
    listed = {one.rated.knot.id: one for one in reversed(choice.listed)}
    plain = _plain(shelf, lot_id)
    opened = plain >= LEAST_PLAIN and all(n >= OPENING_BLOCKS for n in events.values())
    if opened:
        aside += [
            (knot.title, _why_not_ranked(choice, knot))
            for knot, _ in rated
            if knot.id not in listed
        ]
        knots = {key: knot for key, knot in knots.items() if key in listed}
    contenders = [contender(listed[key].rated, key) for key in knots if key in listed]
    by_rating: dict[Rating, float] | None = None
    by_strength = 0.0
    if opened and len(contenders) > 1:
        weights, anchors = profile.weights, profile.anchors
        runners = runners_of(contenders, weights, anchors, events)
        by_rating = {
            r: loss(scores_of(contenders, weights, anchors, r)) for r in shares_of(weights)
        }
        by_strength = by_rating.get(Rating.STRENGTH, 0.0)
    else:
        runners = [Runner(key=k, mean=0.0, sd=0.0, events=events[k]) for k in knots]
    entries = logbook.of_lots((lot_id,))
    winner, confirmed, confirmed_plain = confirmed_in(entries)
    by_cord, by_hours = _room(logbook, choice.lot, list(knots.values()), allowed)
    pulled = sum(_tried(one) for knot, one in rated if knot.id in knots and one is not None)
    wanted = usual_budget(logbook, choice, left_aside) if allowed.usual else allowed.budget
    budget = wanted
    for more in (by_cord, by_hours):
        if budget is not None and more is not None:
            budget = min(budget, pulled + more)
    standing = Standing(
        runners=tuple(runners),
        plain=plain,
        knot_pulls=pulled,
        budget=budget,
        loss=by_strength,
        by_rating=by_rating,
        winner=winner,
        confirmed=confirmed,
        confirmed_plain=confirmed_plain,
    )
    return NextUp(
        choice=choice,
        found=plan_next(standing, seed),
        knots=knots,
        could_run={knot.id: knot for knot, _ in every},
        tied={
            key: tuple(k.partition("|")[2] for k in listed[key].ranked.tied_with)
            for key in knots
            if key in listed
        },
        aside=tuple(aside),
        waiting=still_waiting(entries),
        budget=wanted,
        by_cord=by_cord,
        by_hours=by_hours,
        runners=tuple(runners),
    )


def usual_budget(logbook: Logbook, choice: Choice, left_aside: Collection[str] = ()) -> int:
    """Eight pulls of each knot in the running."""
    every, _ = _in_the_running(logbook, choice)
    return BUDGET_EACH * sum(knot.id not in left_aside for knot, _ in every)


def _in_the_running(
    logbook: Logbook, choice: Choice
) -> tuple[list[tuple[Knot, RatedKnot | None]], list[tuple[str, str]]]:
    """Knots that could be chosen, each once, and those that could not with the reason."""
    found: dict[str, tuple[Knot, RatedKnot | None]] = {}
    for one in choice.listed:
        found.setdefault(one.rated.knot.id, (one.rated.knot, one.rated))
    out = {t.rated.knot.id for t in choice.excluded if t.rated is not None} - set(found)
    by_title = {knot.title: knot for knot in logbook.knots_in_play}
    for turned in choice.not_ranked:
        knot = by_title.get(turned.name) if turned.rated is None else turned.rated.knot
        if knot is not None and knot.id not in out:
            found.setdefault(knot.id, (knot, turned.rated))
    aside = [
        (t.name, t.words)
        for t in choice.excluded
        if t.rated is None or t.rated.knot.id not in found
    ]
    return list(found.values()), aside


def _why_not_ranked(choice: Choice, knot: Knot) -> str:
    reasons = [
        t.words for t in choice.not_ranked if t.rated is not None and t.rated.knot.id == knot.id
    ]
    return reasons[0] if reasons else "not ranked"


def _events(rated: RatedKnot) -> int:
    """Observed failures of the way that counts; floors are none."""
    if rated.row is None:
        return 0
    counts = rated.row.efficiency.counts
    return counts.broke + counts.came_out


def _tried(rated: RatedKnot) -> int:
    return 0 if rated.row is None else rated.row.efficiency.counts.specimens


def _plain(shelf: Shelf, lot_id: str) -> int:
    results = shelf.results.get(lot_id)
    return 0 if results is None else results.baseline.counts.broke


def _room(
    logbook: Logbook, lot: Lot, knots: Sequence[Knot], allowed: Allowance
) -> tuple[int | None, int | None]:
    """How many more pulls of a knot the cord on hand and the hours allow."""
    if not knots:
        return None, None
    draft = PlanDraft()
    each = [one_specimen(logbook, draft, lot, knot, 1) for knot in knots]
    by_cord = by_hours = None
    if any(hank.lot_id == lot.stock_id for hank in logbook.stock.hanks):
        length = max(cut_length_m(logbook, s, lot.stock_id) for s in each)
        left = logbook.stock.on_hand_m(lot.stock_id) - queued_m(logbook, lot)
        by_cord = max(0, int(left / length))
    if allowed.hours is not None:
        times = learn(logbook.recorded_times())
        longest = max(specimen_seconds(s, times) for s in each)
        by_hours = max(0, int(3600.0 * allowed.hours / longest))
    return by_cord, by_hours


def block_specimens(logbook: Logbook, up: NextUp, seed: int) -> list[Specimen]:
    """The specimens of a block, in its order, without ids and codes."""
    draft = PlanDraft()
    found = []
    confirms = any(p.why is Why.CONFIRM for p in up.found.picks)
    note = f"{CONFIRMS if confirms else PROPOSED}, order seed {seed}"
    for pick in up.found.picks:
        made = _specimen(logbook, draft, up, pick)
        found.append(replace(made, note=note))
    return found


def _specimen(logbook: Logbook, draft: PlanDraft, up: NextUp, pick: Pick) -> Specimen:
    if not pick.key:
        return plain_specimen(draft, up.lot)
    return one_specimen(logbook, draft, up.lot, up.knots[pick.key], 1)


def queue_block(workshop: Workshop, logbook: Logbook, up: NextUp, seed: int) -> list[Specimen]:
    """Put the block into the queue, behind what waits."""
    rng = np.random.default_rng(seed)
    return queue_in_order(workshop, logbook, block_specimens(logbook, up, seed), rng)


def can_queue(up: NextUp) -> bool:
    """Whether there is a block, and nothing of the last one waits."""
    return bool(up.found.picks) and not up.waiting
