"""What is said of the next pulls: why these, what is left, when it is enough."""

from __future__ import annotations

from bruiser.core.choice.next_block import (
    CONFIRM_PULLS,
    LEAST_PLAIN,
    OPENING_BLOCKS,
    Lacks,
    NextStage,
    Pick,
    Why,
)
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.words import count
from bruiser.workshop.course.next_pulls import NextUp

PLAIN = "plain rope"
_TIMES = {1: "once", 2: "twice", 3: "three times"}
_OTHER_TEST = {
    Rating.OPENING: "a jam ladder tells it",
    Rating.TYING: "tying trials tell it",
    Rating.CHECKING: "ties that are asked about tell it",
    Rating.SECURITY: "shaking and cycles tell it",
}


def stage_words(up: NextUp) -> str:
    """Where the pulling stands, in a sentence."""
    f = up.found
    leader = "" if not f.leader else up.knots[f.leader].title
    if f.stage is NextStage.REFUSED:
        return lacks_words(f.lacks)
    if up.waiting:
        return (
            f"{count(up.waiting, 'specimen')} of the last block still to be pulled and inspected; "
            "the next block rests on what they say."
        )
    if f.stage is NextStage.OPENING:
        return (
            f"Opening: every knot {OPENING_BLOCKS} times, with {LEAST_PLAIN} pulls of plain rope "
            "or more, before anything is ranked."
        )
    if f.stage is NextStage.ENOUGH:
        return (
            f"Further pulls hardly change the choice: {leader} leads by what is known of its "
            f"strength. {_confirm_words(up)}"
        )
    if f.stage is NextStage.CLOSE:
        tied = [name for name in up.tied.get(f.leader, ()) if name]
        beside = f"{leader} and {' and '.join(tied)} are close: take either" if tied else leader
        return (
            f"The pulls allowed are made. {beside}; about {_about(f.loss)} may be lost. "
            f"{_confirm_words(up)}"
        )
    if f.stage is NextStage.CONFIRMED:
        return f"{leader} is confirmed by {CONFIRM_PULLS} fresh pulls."
    return (
        f"{leader} leads; about {_about(f.loss)} may be lost by taking it now. "
        f"{count(f.left, 'pull')} left."
    )


def _about(points: float) -> str:
    """A loss, rounded as roughly as it is known."""
    if points < 0.75:
        return "half a point of score"
    return f"{points:.0f} points of score" if points >= 1.5 else "one point of score"


def _confirm_words(up: NextUp) -> str:
    if not up.found.picks:
        return ""
    return (
        f"It is not confirmed: {CONFIRM_PULLS} fresh pulls of it with plain rope among them do "
        "that, for the best of several always looks a little too good."
    )


def lacks_words(lacks: Lacks | None) -> str:
    """Why nothing is proposed, and what would lift it."""
    return {
        Lacks.ONE_KNOT: "Fewer than two knots meet what the use requires here: there is nothing to "
        "choose between. Measure what is missing, put another knot in play, or ease a requirement.",
        Lacks.BUDGET: "How many pulls may it be in all? Without a budget there is no telling when "
        "to stop.",
        Lacks.PLAIN_ROPE: "Plain rope comes first.",
        Lacks.STRENGTH_ASIDE: "Strength does not count for this use, so pulls to failure do not "
        "help to choose.",
        None: "",
    }[lacks]


def pick_words(up: NextUp, pick: Pick) -> tuple[str, str]:
    """A pull of the block: what, and why."""
    if not pick.key:
        return PLAIN.capitalize(), "the reference of all of them, among the pulls"
    name = up.knots[pick.key].title
    if pick.why is Why.NEED:
        tied = [t for t in up.tied.get(pick.key, ()) if t]
        beside = f"it and {tied[0]} cannot be told apart" if tied else "it may still be first"
        return name, f"most is learned from it: {beside}"
    if pick.why is Why.SPREAD:
        return name, "spread: it may still be first, and has fewest pulls"
    if pick.why is Why.CONFIRM:
        return name, "a fresh pull that confirms it"
    return name, "opening"


def block_words(up: NextUp) -> str:
    """The block in a sentence: how often each, and why."""
    picks = up.found.picks
    if not picks:
        return ""
    parts = []
    for key in dict.fromkeys(p.key for p in picks if p.why is Why.NEED):
        times = sum(p.key == key and p.why is Why.NEED for p in picks)
        name, why = pick_words(up, Pick(key=key, why=Why.NEED))
        parts.append(f"{name} {_TIMES.get(times, f'{times} times')}: {why.partition(': ')[2]}")
    spread = sum(p.why is Why.SPREAD for p in picks)
    if spread:
        parts.append(f"{spread} spread over those that may still be first")
    plain = sum(p.why is Why.PLAIN for p in picks)
    if plain:
        parts.append(f"{count(plain, 'pull')} of plain rope among them")
    return "; ".join(parts) + "." if parts else ""


def doubt_words(up: NextUp) -> str:
    """Which other test the doubt rests on; empty where it is strength."""
    rating = up.found.rests_on
    if rating is None:
        return ""
    name = SCALES[rating].name.lower()
    return (
        f"The doubt rests on “{name}” more than on strength: pulls to failure buy little here; "
        f"{_OTHER_TEST.get(rating, 'another test tells it')}."
    )


def room_words(up: NextUp) -> str:
    """What the cord on hand and the hours allow."""
    parts = []
    if up.by_cord is not None:
        parts.append(f"the cord on hand is enough for {count(up.by_cord, 'more pull')}")
    if up.by_hours is not None:
        parts.append(f"the hours for {up.by_hours}")
    said = ", ".join(parts)
    return f"{said[0].upper()}{said[1:]}." if said else ""


def aside_words(up: NextUp) -> list[str]:
    """Knots that are not in the running, and why."""
    return [f"{name}: {why}" for name, why in up.aside]
