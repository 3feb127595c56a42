"""What the pulls of a campaign say of the work that a knot is for, method by method."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from bruiser.core.behaviour.duties import (
    AdvantagePull,
    BulkPull,
    ReleasePull,
    RetentionPull,
)
from bruiser.core.behaviour.holding import HoldPull
from bruiser.core.behaviour.work import WorkPulls
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.readings import GAVE_NOTE, Reading, Takes, opens_by_hand
from bruiser.core.records.records import Gave, JamLevel, Outcome
from bruiser.workshop.groups.gathering import Group, Tried

T = TypeVar("T")


def work_of(group: Group) -> WorkPulls:
    """The pulls of a group that tried something else than its strength."""
    if group.key is None:
        return WorkPulls()

    def of(what: Tells) -> tuple[Tried, ...]:
        return group.tried if tells(group.method, what) else ()

    return WorkPulls(
        slides=_made(slide_of, of(Tells.GRIP)),
        seats=_made(_seat, of(Tells.SEAT)),
        releases=_made(_release, of(Tells.RELEASE)),
        advantages=_made(_advantage, of(Tells.ADVANTAGE)),
        retentions=_made(_retention, of(Tells.RETENTION)),
        bulks=_made(_bulk, of(Tells.BULK)),
    )


def _made(read: Callable[[Tried], T | None], tried: Iterable[Tried]) -> tuple[T, ...]:
    return tuple(made for t in tried if (made := read(t)) is not None)


def _read(t: Tried, takes: Takes) -> list[Reading]:
    return [r for r in t.entry.readings if r.takes is takes]


def slide_of(t: Tried) -> HoldPull | None:
    """A slide test: where it slid, or what it held; None where no load was read.

    Something that gave during a slide slid only where the finding does not say that it broke: then,
    as after a stop, it held at least that load.
    """
    slid = _read(t, Takes.SLID)
    load = slid[-1].load_n if slid else t.load_n
    if load <= 0:
        return None
    if slid:
        broke = slid[-1].note == GAVE_NOTE and t.finding.gave is Gave.BROKE
        gave = bool(slid[-1].value) and not broke
    else:
        gave = t.kind is Outcome.CAME_OUT
    by_hand, looked = _read(t, Takes.BY_HAND), _read(t, Takes.SHEATH)
    levels = [i.jam_level for i in t.finding.inspections if i.end in t.ends]
    tried = [level for level in levels if level is not JamLevel.NOT_TRIED]
    return HoldPull(
        pull_id=t.finding.pull_id,
        load_n=load,
        gave=gave,
        slides_by_hand=not by_hand[-1].refused if by_hand else None,
        frees_by_hand=all(map(opens_by_hand, tried)) if tried else None,
        sheath=looked[-1].sheath if looked else None,
    )


def _seat(t: Tried) -> HoldPull | None:
    load = t.finding.peak_load_n
    if load <= 0:
        return None
    return HoldPull(pull_id=t.finding.pull_id, load_n=load, gave=t.kind is Outcome.CAME_OUT)


def _release(t: Tried) -> ReleasePull | None:
    read = _read(t, Takes.RELEASE)
    freed_itself = t.finding.gave in (Gave.CAME_OUT, Gave.CAPSIZED) and not read
    if not read and not freed_itself:
        return None
    last = read[-1] if read else None
    return ReleasePull(
        pull_id=t.finding.pull_id,
        held_n=t.finding.peak_load_n if last is None else last.load_n,
        force_n=None if last is None else last.value,
        freed=None if last is None else not last.refused,
        freed_itself=freed_itself,
    )


def _advantage(t: Tried) -> AdvantagePull | None:
    two, kept = _read(t, Takes.TWO_LOADS), _read(t, Takes.KEPT)
    if not two or not two[-1].value or two[-1].load_n <= 0:
        return None
    share = kept[-1].value if kept else None
    applied = two[-1].load_n
    return AdvantagePull(
        pull_id=t.finding.pull_id,
        hand_n=two[-1].value,
        applied_n=applied,
        kept_n=None if share is None else share * applied,
    )


def _retention(t: Tried) -> RetentionPull | None:
    moved = _read(t, Takes.MOVED)
    before = next((r.value for r in moved if r.number == 1), None)
    if not before:
        return None
    after = next((r.value or 0.0 for r in moved if r.number == 2), None)
    gone = t.finding.gave in (Gave.CAME_OUT, Gave.CAPSIZED)
    if after is None and not gone:
        return None
    levels = [i.jam_level for i in t.finding.inspections if i.end in t.ends]
    tried = [level for level in levels if level is not JamLevel.NOT_TRIED]
    cut = any(level in (JamLevel.CUT, JamLevel.FUSED) for level in tried)
    return RetentionPull(
        pull_id=t.finding.pull_id,
        before_n=before,
        after_n=after or 0.0,
        cycles=int(t.entry.specimen.method.value("count")),
        cut=cut if tried else None,
    )


def _bulk(t: Tried) -> BulkPull | None:
    wide, ledge = _read(t, Takes.WIDTH), _read(t, Takes.LEDGE)
    if not wide or not wide[-1].value:
        return None
    last = ledge[-1] if ledge else None
    diameter = t.entry.specimen.lot.diameter_m
    return BulkPull(
        pull_id=t.finding.pull_id,
        width_d=wide[-1].value / diameter,
        # A refusal without a force counts as tried.
        force_n=None if last is None else last.value or 0.0,
        passed=last is None or not last.refused,
    )
