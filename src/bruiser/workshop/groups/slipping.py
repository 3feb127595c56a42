"""Will it stay tied: slipping, tails, cycles and shaking of every knot, and the verdict."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.behaviour.security import (
    LIMITS,
    SecurityLimits,
    SecuritySeen,
    SecurityVerdict,
    SurvivalStep,
    cycles_survival,
    judge_security,
    share_interval,
)
from bruiser.core.behaviour.slip import (
    DrawBand,
    DrawCurve,
    OnsetSeen,
    SlipResult,
    SlipSeen,
    TailSeen,
    draw_band,
    draws_at,
    measure_slips,
)
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.readings import Takes, survived
from bruiser.core.records.records import Gave, Outcome
from bruiser.core.statistics.strength import Interval
from bruiser.workshop.groups.gathering import Tried
from bruiser.workshop.groups.knot_cases import KnotCase

NEARLY_ALL = 0.9


@dataclass(frozen=True)
class Counted:
    """Cycles or shakes survived: the curve, and per pull how many and whether it failed."""

    steps: tuple[SurvivalStep, ...]
    pulls: tuple[tuple[str, int, bool], ...]

    @property
    def last(self) -> Interval | None:
        """Share still tied at the end of the curve; None where none was counted."""
        if not self.steps:
            return None
        step = self.steps[-1]
        return Interval(step.share, step.low, step.high)

    @property
    def most(self) -> int:
        """Most that any pull went through."""
        return max((n for _, n, _ in self.pulls), default=0)


@dataclass(frozen=True, kw_only=True)
class SlipRow:
    """A knot's slipping and its security.

    Parameters
    ----------
    curves : tuple of DrawCurve
        Draw against load of the pulls with a tail gauge.
    ends : tuple of (pull id, share, draw in metre, kind)
        Every tail measured afterwards, at the highest load of its pull.
    came_out : Interval or None
        Share that came out of those in which the knot gave or the rope broke in it.
    """

    case: KnotCase
    slip: SlipResult
    curves: tuple[DrawCurve, ...]
    band: DrawBand | None
    ends: tuple[tuple[str, float, float, Outcome], ...]
    tails: tuple[TailSeen, ...]
    came_out: Interval | None
    out: int
    gave: int
    cycles: Counted
    shakes: Counted
    draw_at_reference: Interval | None
    verdict: SecurityVerdict
    slip_pulls: tuple[str, ...]

    @property
    def measured(self) -> bool:
        """Whether anything about staying tied was measured."""
        return self.verdict.weakest is not None


def slip_rows(
    cases: Sequence[tuple[KnotCase, float | None]], limits: SecurityLimits = LIMITS
) -> list[SlipRow]:
    """Rate the slipping of some knots at once, each against the plain rope of its lot."""
    seen, curves = [], []
    for case, baseline_n in cases:
        tried = case.that_tell(Tells.SLIP)
        onsets = tuple(o for t in tried for o in _onset(t))
        tails = tuple(tail for t in tried for tail in _tails(t))
        seen.append(
            SlipSeen(
                onsets=onsets, tails=tails, diameter_m=case.lot.diameter_m, baseline_n=baseline_n
            )
        )
        curves.append(tuple(c for t in tried for c in _curve(t, baseline_n)))
    diameters = [case.lot.diameter_m for case, _ in cases]
    reached = draws_at(curves, limits.reference_share, diameters)
    rows = zip(cases, seen, measure_slips(seen), curves, reached, strict=True)
    return [_row(case, s, slip, own, at, limits) for (case, _), s, slip, own, at in rows]


def slip_row(case: KnotCase, baseline_n: float | None) -> SlipRow:
    """Rate one knot's slipping."""
    return slip_rows([(case, baseline_n)])[0]


def _row(
    case: KnotCase,
    seen: SlipSeen,
    slip: SlipResult,
    curves: tuple[DrawCurve, ...],
    reached: Interval | None,
    limits: SecurityLimits,
) -> SlipRow:
    tried, baseline_n = case.that_tell(Tells.SLIP), seen.baseline_n
    gave = [t for t in tried if t.kind is not Outcome.OUTLASTED]
    out = sum(t.kind is Outcome.CAME_OUT for t in gave)
    came_out = share_interval(out, len(gave))
    cycles = count_cycles(case.that_tell(Tells.CYCLES))
    shakes = _counted(case.that_tell(Tells.LOOSENING), Takes.SHAKE)
    onset = slip.onset
    if onset is None and slip.no_slip_to is not None:
        onset = Interval(slip.no_slip_to, slip.no_slip_to, float("inf"))
    judged = judge_security(
        SecuritySeen(
            onset=onset, draw_d=reached, came_out=came_out, cycles=cycles.last, shakes=shakes.last
        ),
        limits,
    )
    ends = tuple(
        (
            t.pull_id,
            t.load_n / baseline_n,
            t.draw_m,
            Outcome.CAME_OUT if t.ran_out else Outcome.BROKE,
        )
        for t in seen.tails
        if baseline_n is not None
    )
    return SlipRow(
        case=case,
        slip=slip,
        curves=curves,
        band=draw_band(curves),
        ends=ends,
        tails=seen.tails,
        came_out=came_out,
        out=out,
        gave=len(gave),
        cycles=cycles,
        shakes=shakes,
        draw_at_reference=reached,
        verdict=judged,
        slip_pulls=tuple(dict.fromkeys(t.finding.pull_id for t in tried)),
    )


def _tails(t: Tried) -> list[TailSeen]:
    """The tails of a group's knots in one pull that were measured.

    Of the two tails of a bend that came out only the one that drew nearly all its length ran out;
    what a knot that capsized and let go drew says nothing of its tails.
    """
    s, f = t.entry.specimen, t.finding
    owner = None if f.place is None else s.layout.place(f.place).owner
    drawn = {d.key: d.draw_m for d in f.draws}
    found = []
    for tail in s.layout.tails:
        if tail.end not in t.ends or tail.key not in drawn:
            continue
        gave_here = tail.end is owner
        if gave_here and f.gave is Gave.CAPSIZED:
            continue
        given, drew = s.tail_length_m(tail.key), drawn[tail.key]
        alone = sum(x.end is tail.end for x in s.layout.tails) == 1
        all_of_it = alone or given is None or drew >= NEARLY_ALL * given
        ran_out = f.gave is Gave.CAME_OUT and gave_here and all_of_it
        found.append(
            TailSeen(
                pull_id=f.pull_id, load_n=t.load_n, draw_m=drew, given_m=given, ran_out=ran_out
            )
        )
    return found


def _onset(t: Tried) -> list[OnsetSeen]:
    analysis = t.entry.analysis
    if analysis is None:
        return []
    first = analysis.first_slip_n
    load = analysis.peak_n if first is None else first
    return [
        OnsetSeen(
            pull_id=t.finding.pull_id,
            load_n=load / t.shares,
            slipped=first is not None,
            knots=max(1, len(t.ends)),
        )
    ]


def _curve(t: Tried, baseline_n: float | None) -> list[DrawCurve]:
    analysis = t.entry.analysis
    if analysis is None or not analysis.draw_by_load_m or baseline_n is None:
        return []
    drawn = np.concatenate([[0.0], np.maximum(analysis.draw_by_load_m, 0.0)])
    share = np.linspace(0.0, analysis.peak_n / t.shares / baseline_n, len(drawn))
    return [DrawCurve(t.finding.pull_id, share, np.maximum.accumulate(drawn))]


def count_cycles(tried: tuple[Tried, ...]) -> Counted:
    """Cycles that some pulls survived."""
    return _counted(tried, Takes.CYCLE)


def _counted(tried: tuple[Tried, ...], takes: Takes) -> Counted:
    pulls = tuple(
        (t.finding.pull_id, survived(t.entry.readings, takes), t.kind is Outcome.CAME_OUT)
        for t in tried
    )
    done = np.array([n for _, n, _ in pulls], dtype=np.int_)
    failed = np.array([f for _, _, f in pulls], dtype=np.bool_)
    # What failed did so in the one after the last it survived.
    return Counted(cycles_survival(done + failed, failed), pulls)
