"""What a knot's work comes to, in words: how it grips, lets go, keeps and retains."""

from __future__ import annotations

import math

from bruiser.core.behaviour.duties import (
    AdvantageResult,
    BulkResult,
    ReleaseResult,
    RetentionResult,
)
from bruiser.core.behaviour.holding import HoldResult, YesNo
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.workshop.groups.work_results import DamageRow, EdgeRow, EyesRow, WorkRow
from bruiser.workshop.results.result_words import percent


def spread_of(found: Interval) -> str:
    """The sides of an interval of shares, or that there is none from one reading."""
    if math.isinf(found.high):
        return "one reading, no interval"
    if found.high > 1:
        return f"{percent(found.low)} % and more"
    return f"{percent(found.low)} to {percent(found.high)} %"


def loads_of(found: Interval, units: UnitChoice, rope_n: float | None = None) -> str:
    """The sides of an interval of loads; what lies above the rope itself is open."""
    if math.isinf(found.high):
        return "one reading, no interval"
    if rope_n is not None and found.high > rope_n:
        return f"{units.force_text(found.low)} and more"
    low, high = units.force_text(found.low), units.force_text(found.high)
    return f"{low} to {high}"


def kept_of(found: Interval) -> str:
    """A share that is kept, in words; what grew is kept whole."""
    return "all" if found.value > 1 else f"{percent(found.value)} %"


def hand_loads_of(found: Interval, units: UnitChoice) -> str:
    """The sides of an interval of forces read off a hand scale."""
    if math.isinf(found.high):
        return "one reading, no interval"
    return f"{units.hand_force_text(found.low)} to {units.hand_force_text(found.high)}"


def counted(found: HoldResult, gave: str) -> str:
    """How many gave and how many held."""
    return f"{found.gave} {gave}, {found.held} held"


def answers(said: YesNo) -> str:
    """How many said yes of those asked; empty where none was."""
    asked = said.yes + said.no
    return f"{said.yes} of {asked}" if asked else "not tried"


def say_hold(
    name: str, found: HoldResult, units: UnitChoice, verb: str, rope_n: float | None
) -> str:
    """What the pulls say of a grip or a stopper."""
    pulls = count(found.gave + found.held, "pull")
    if found.interval is None:
        held = units.force_text(found.at_least_n)
        return f"{name} {_negated(verb)} in {pulls}: it held {held} at the most that was tried."
    share = found.share
    if share is not None and share.value > 1:
        low = units.force_text(found.interval.low)
        return (
            f"{name} {verb} somewhere above {low}, from {pulls} ({found.held} held without): the "
            "typical load lies beyond the rope itself, and so few pulls cannot place it."
        )
    text = f"{name} {verb} at {units.force_text(found.interval.value)}, "
    text += f"95 % interval {loads_of(found.interval, units, rope_n)}, from {pulls}"
    text += f"; {found.held} held without" if found.held else ""
    if found.share is not None:
        text += f". That is {percent(found.share.value)} % of its plain rope"
        text += f" ({spread_of(found.share)})"
    return f"{text}."


def _negated(verb: str) -> str:
    return {
        "slides": "did not slide",
        "pulls through": "did not pull through",
        "breaks at the edge": "did not break at the edge",
        "gives": "did not give",
    }[verb]


def _with_wraps(wraps: int) -> str:
    return f" with {count(wraps, 'wrap')}" if wraps else ""


def say_grip(row: WorkRow, units: UnitChoice) -> str:
    """What the pulls say of one grip, and of what hands do with it."""
    found = row.result.grip
    if found is None:
        return ""
    name = f"{row.key.knot}{_with_wraps(row.key.wraps)}"
    text = say_hold(name, found, units, "slides", row.lot_n)
    if found.interval is not None and row.host_n is not None:
        text += f" Of the host's plain rope it is {percent(found.interval.value / row.host_n)} %."
    slides, frees = answers(found.slides_by_hand), answers(found.frees_by_hand)
    if slides != "not tried":
        text += f" Slack, it slid by hand in {slides}."
    if frees != "not tried":
        text += f" After the load it came free by hand in {frees}."
    if found.sheaths:
        looked = ", ".join(f"{look} {n}" for look, n in found.sheaths)
        text += f" Sheaths where it gripped: {looked}."
    return text


def say_release(name: str, found: ReleaseResult) -> str:
    """What the pulls say of letting go."""
    text = f"{name}, {count(found.n, 'release')}:"
    if found.freed is not None:
        text += f" freed on demand {percent(found.freed.value)} % ({spread_of(found.freed)})"
    if found.freed_itself is not None:
        itself = found.freed_itself
        text += f"; freed itself {percent(itself.value)} % ({spread_of(itself)})"
    if found.force_share is not None:
        force = found.force_share
        text += f"; the tail takes {percent(force.value)} % of the load ({spread_of(force)})"
    return f"{text.replace(':;', ':')}."


def say_advantage(name: str, found: AdvantageResult, theory: float | None) -> str:
    """What the pulls say of hauling and of the lock-off."""
    text = f"{name}, {count(found.n, 'pull')}:"
    real = found.advantage
    if real is not None:
        sides = "one reading" if math.isinf(real.high) else f"{real.low:.2f} to {real.high:.2f}"
        text += f" it raises {real.value:.2f} times the hand's load ({sides})"
        text += f", where {theory:g} would be without friction" if theory else ""
    if found.kept is not None:
        text += f"; the lock-off keeps {kept_of(found.kept)} ({spread_of(found.kept)})"
    text += f"; {found.slack} slipped back whole" if found.slack else ""
    return f"{text}."


def say_retention(name: str, found: RetentionResult) -> str:
    """What the pulls say of a binding."""
    text = f"{name}, {count(found.n, 'binding')}:"
    if found.kept is not None:
        who = "those that held keep" if found.slack else "it keeps"
        text += f" after the squeezes {who} {kept_of(found.kept)} of the grip"
        text += f" ({spread_of(found.kept)})"
    text += f"; {found.slack} came slack" if found.slack else "; none came slack"
    cut = answers(found.cut)
    text += f"; cut off: {cut}" if cut != "not tried" else ""
    return f"{text.replace(':;', ':')}."


def say_bulk(name: str, found: BulkResult, units: UnitChoice) -> str:
    """What the pulls say of bulk and of a ledge."""
    text = f"{name}, {count(found.n, 'knot')}:"
    if found.width_d is not None:
        text += f" {found.width_d.value:.1f} d at its widest"
    if found.force_n is not None:
        text += f"; over the ledge with {units.hand_force_text(found.force_n.value)}"
        text += f" ({loads_of(found.force_n, units)})"
    if found.passed is not None and found.passed.value < 1:
        text += f"; {percent(1 - found.passed.value)} % did not pass"
    return f"{text}."


def say_work(row: WorkRow, units: UnitChoice, theory: float | None) -> list[str]:
    """Everything that was measured of a knot's work, a sentence each."""
    name, work = row.key.knot, row.result
    said = []
    if work.grip is not None:
        said.append(say_grip(row, units))
    if work.seat is not None:
        said.append(say_hold(name, work.seat, units, "pulls through", row.lot_n))
    if work.release is not None:
        said.append(say_release(name, work.release))
    if work.advantage is not None:
        said.append(say_advantage(name, work.advantage, theory))
    if work.retention is not None:
        said.append(say_retention(name, work.retention))
    if work.bulk is not None:
        said.append(say_bulk(name, work.bulk, units))
    return said


def say_edge(row: EdgeRow, units: UnitChoice) -> str:
    """What an edge leaves of the plain rope."""
    name = f"Plain rope over {row.edge}"
    return say_hold(name, row.found, units, "breaks at the edge", row.lot_n)


def say_damage(row: DamageRow, units: UnitChoice) -> str:
    """What is left of a rope that was cut into, by itself or with the cut out of the line."""
    name = f"Plain rope {row.done}"
    if row.knot is not None:
        name = f"{row.knot.title} with the rope {row.done} lying in its eye"
    return say_hold(name, row.found, units, "gives", row.lot_n)


def say_eyes(row: EyesRow, units: UnitChoice) -> str:
    """What became of the two eyes of a double loop."""
    a = sum(x for x, _ in row.lengths_m) / len(row.lengths_m)
    b = sum(x for _, x in row.lengths_m) / len(row.lengths_m)
    first, second = row.shares
    text = f"{row.name}, two eyes after {count(len(row.pull_ids), 'pull')}: "
    text += f"{units.length_text(a)} and {units.length_text(b)}, "
    text += f"{units.length_text(abs(row.difference_m))} apart; on one pin the legs then carry "
    text += f"{percent(first)} and {percent(second)} % of the load"
    if row.slipped_m is not None:
        text += f"; {units.length_text(row.slipped_m)} went from one into the other"
    return f"{text}."
