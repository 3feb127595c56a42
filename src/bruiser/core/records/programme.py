"""What a method commands, act by act, with the readings it takes on the way.

Loads follow from the method's shares and the reference strength: the lot's baseline where it was
measured, else its rating. A pull to failure is one act; everything else ends by its own criterion.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.readings import Takes

SNATCH_RATE = 4.0
"""A snatch travels this many times as fast as a ramp."""

LOCK_OFF_S = 5.0


class ActKind(StrEnum):
    """What the bench does in an act."""

    PULL = "pull"
    TO_LOAD = "to load"
    SLIDE = "slide"
    SLACK = "slack"
    HOLD = "hold"
    ASK = "ask"


@dataclass(frozen=True, kw_only=True)
class Act:
    """One act of a method.

    Parameters
    ----------
    load_n : float
        Load to go to, or to stop at, or to hold.
    seconds : float
        How long it is held.
    takes : Takes or None
        What is read when the act is done; of an ``ASK`` act, what the technician is asked.
    number, of : int
        Which step, cycle or shake it belongs to, and how many there are.
    words : str
        What it does, as said on the screen.
    rate : float
        Travel rate as a multiple of the ramp's.
    approach : bool
        Whether the technician must go to the specimen: the load is off and the bench disarmed.
    keeps : bool
        Whether a hold tops the load up as the cord creeps.
    """

    move: ActKind
    words: str
    load_n: float = 0.0
    seconds: float = 0.0
    takes: Takes | None = None
    number: int = 1
    of: int = 1
    rate: float = 1.0
    approach: bool = False
    keeps: bool = False


def runs_latched(plan: MethodPlan) -> bool:
    """Whether the method runs by itself after a second confirmation, instead of hold-to-run."""
    return plan.method.latched


def programme(plan: MethodPlan, strength_n: float) -> tuple[Act, ...]:
    """The acts of a method.

    Parameters
    ----------
    plan : MethodPlan
        The method with its numbers.
    strength_n : float
        Reference strength that shares are taken of.

    Raises
    ------
    ValueError
        If the method needs a reference strength and there is none.
    """
    share = plan.highest_share
    if share is not None and not strength_n > 0:
        raise ValueError(f"{plan.key} needs the strength its levels are shares of")
    make = {
        "stepped load": _stepped,
        "cycles": _cycles,
        "slack and snatch": _snatches,
        "shaking under load": _shaken_loaded,
        "sustained hold": _sustained,
        "cord on rope": _sliding,
        "slide test": _sliding,
        "advantage test": _advantage,
        "release test": _release,
        "retention test": _retention,
        "bulk and snag": _bulk,
    }.get(plan.key)
    if make is None:
        direction = f", {plan.direction}" if plan.direction else ""
        return (Act(move=ActKind.PULL, words=f"Pull until something gives{direction}"),)
    return tuple(make(plan, strength_n))


def _percent(share: float) -> str:
    return f"{100 * share:g} %"


def _stepped(plan: MethodPlan, strength_n: float) -> list[Act]:
    acts: list[Act] = []
    steps = plan.steps
    for n, share in enumerate(steps, start=1):
        load, hold, of = share * strength_n, plan.value("hold"), len(steps)
        acts += [
            Act(
                move=ActKind.TO_LOAD, words=f"Up to {_percent(share)}", load_n=load, number=n, of=of
            ),
            Act(
                move=ActKind.HOLD,
                words=f"Hold {hold:g} s",
                load_n=load,
                seconds=hold,
                number=n,
                of=of,
            ),
            Act(move=ActKind.SLACK, words="Load off", number=n, of=of),
            Act(
                move=ActKind.ASK,
                words="Try to untie each knot, without taking it apart",
                load_n=load,
                takes=Takes.UNTYING,
                approach=True,
                number=n,
                of=of,
            ),
        ]
    return acts


def _cycles(plan: MethodPlan, strength_n: float) -> list[Act]:
    low, high = plan.value("low") * strength_n, plan.value("high") * strength_n
    count = int(plan.value("count"))
    acts: list[Act] = []
    for n in range(1, count + 1):
        acts += [
            Act(
                move=ActKind.TO_LOAD,
                words=f"Up to {_percent(plan.value('high'))}",
                load_n=high,
                number=n,
                of=count,
            ),
            Act(
                move=ActKind.TO_LOAD,
                words=f"Down to {_percent(plan.value('low'))}",
                load_n=low,
                takes=Takes.CYCLE,
                number=n,
                of=count,
            ),
        ]
    return acts


def _snatches(plan: MethodPlan, strength_n: float) -> list[Act]:
    return _shakes(int(plan.value("count")), plan.value("high"), strength_n)


def _shakes(count: int, share: float, strength_n: float) -> list[Act]:
    acts = [
        Act(
            move=ActKind.TO_LOAD,
            words=f"Take up to {_percent(share)}",
            load_n=share * strength_n,
            of=count,
        )
    ]
    for n in range(1, count + 1):
        acts += [
            Act(move=ActKind.SLACK, words="Slack", number=n, of=count),
            Act(
                move=ActKind.TO_LOAD,
                words=f"Snatch to {_percent(share)}",
                load_n=share * strength_n,
                takes=Takes.SHAKE,
                rate=SNATCH_RATE,
                number=n,
                of=count,
            ),
        ]
    return acts


def _shaken_loaded(plan: MethodPlan, strength_n: float) -> list[Act]:
    level, dip, count = plan.value("level"), plan.value("dip"), int(plan.value("count"))
    acts = [
        Act(
            move=ActKind.TO_LOAD,
            words=f"Take up to {_percent(level)}",
            load_n=level * strength_n,
            of=count,
        )
    ]
    for n in range(1, count + 1):
        acts += [
            Act(
                move=ActKind.TO_LOAD,
                words=f"Dip to {_percent(dip)}",
                load_n=dip * strength_n,
                rate=SNATCH_RATE,
                number=n,
                of=count,
            ),
            Act(
                move=ActKind.TO_LOAD,
                words=f"Back to {_percent(level)}",
                load_n=level * strength_n,
                takes=Takes.SHAKE,
                rate=SNATCH_RATE,
                number=n,
                of=count,
            ),
        ]
    return acts


def _sustained(plan: MethodPlan, strength_n: float) -> list[Act]:
    load, seconds = plan.value("level") * strength_n, plan.value("hold")
    return [
        Act(move=ActKind.TO_LOAD, words=f"Up to {_percent(plan.value('level'))}", load_n=load),
        Act(
            move=ActKind.HOLD,
            words=f"Hold for {seconds:g} s, topping up what creeps",
            load_n=load,
            seconds=seconds,
            takes=Takes.HELD,
            keeps=True,
        ),
    ]


def _sliding(plan: MethodPlan, strength_n: float) -> list[Act]:
    most = plan.value("most")
    words = f"Pull until it slides, to {_percent(most)} at most"
    return [
        Act(move=ActKind.SLIDE, words=words, load_n=most * strength_n, takes=Takes.SLID),
        Act(move=ActKind.SLACK, words="Load off"),
        Act(
            move=ActKind.ASK,
            words="Slack: with what force does it slide by hand?",
            takes=Takes.BY_HAND,
            approach=True,
        ),
        Act(
            move=ActKind.ASK,
            words="Look at both sheaths where it gripped",
            takes=Takes.SHEATH,
            approach=True,
        ),
    ]


def _advantage(plan: MethodPlan, strength_n: float) -> list[Act]:
    load = plan.value("level") * strength_n
    return [
        Act(move=ActKind.TO_LOAD, words=f"Up to {_percent(plan.value('level'))}", load_n=load),
        Act(
            move=ActKind.ASK,
            words="Read the load in the hand line",
            load_n=load,
            takes=Takes.TWO_LOADS,
        ),
        Act(
            move=ActKind.HOLD,
            words=f"Locked off: wait {LOCK_OFF_S:g} s",
            load_n=load,
            seconds=LOCK_OFF_S,
            takes=Takes.KEPT,
        ),
    ]


def _release(plan: MethodPlan, strength_n: float) -> list[Act]:
    load = plan.value("level") * strength_n
    return [
        *_shakes(int(plan.value("count")), 0.5 * plan.value("level"), strength_n),
        Act(move=ActKind.TO_LOAD, words=f"Up to {_percent(plan.value('level'))}", load_n=load),
        Act(
            move=ActKind.ASK,
            words="Pull the tail with the hand scale from outside the lane: what did it take?",
            load_n=load,
            takes=Takes.RELEASE,
        ),
    ]


def _retention(plan: MethodPlan, strength_n: float) -> list[Act]:
    share, count = plan.value("high"), int(plan.value("count"))

    def push(number: int, when: str) -> Act:
        words = f"Push it along its host with the hand scale, {when}: what moved it? 0 if slack"
        return Act(
            move=ActKind.ASK, words=words, takes=Takes.MOVED, number=number, of=2, approach=True
        )

    tight = plan.value("set")
    acts = [
        Act(
            move=ActKind.TO_LOAD,
            words=f"Pull it tight with {_percent(tight)}",
            load_n=tight * strength_n,
        ),
        Act(move=ActKind.SLACK, words="Let go"),
        push(1, "as tied"),
    ]
    for n in range(1, count + 1):
        acts += [
            Act(
                move=ActKind.TO_LOAD,
                words=f"Squeeze to {_percent(share)}",
                load_n=share * strength_n,
                number=n,
                of=count,
            ),
            Act(move=ActKind.SLACK, words="Let go", number=n, of=count),
        ]
    return [*acts, push(2, "after the squeezes")]


def _bulk(plan: MethodPlan, strength_n: float) -> list[Act]:
    share = plan.value("set")
    return [
        Act(move=ActKind.TO_LOAD, words=f"Set at {_percent(share)}", load_n=share * strength_n),
        Act(move=ActKind.SLACK, words="Load off"),
        Act(
            move=ActKind.ASK,
            words="Measure its greatest width with the caliper",
            takes=Takes.WIDTH,
            approach=True,
        ),
        Act(
            move=ActKind.ASK,
            words="Draw it over the ledge with the hand scale: what did it take?",
            takes=Takes.LEDGE,
        ),
    ]
