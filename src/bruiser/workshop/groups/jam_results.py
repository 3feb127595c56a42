"""Will it open again: untying outcomes of every knot against the load it had seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bruiser.core.behaviour.jamming import (
    HARD_PULL,
    JAM_ORDER,
    JamFit,
    JamResult,
    fit_jams,
    jam_load,
    untying_times,
)
from bruiser.core.records.layouts import End
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.readings import Takes, never_untied
from bruiser.core.records.records import JamLevel
from bruiser.core.statistics.censored import Floats, Sample, make_sample
from bruiser.core.statistics.strength import Interval
from bruiser.workshop.groups.gathering import Tried
from bruiser.workshop.groups.knot_cases import KnotCase


@dataclass(frozen=True, kw_only=True)
class Untied:
    """One attempt at one knot: the load it had seen, what it took, and for how long."""

    pull_id: str
    code: str
    end: End
    load_n: float
    level: JamLevel
    seconds: float | None
    gave_up: bool = False
    stepped: bool = False


@dataclass(frozen=True, kw_only=True)
class JamRow:
    """A knot's jamming.

    Parameters
    ----------
    attempts : tuple of Untied
        Every attempt, lowest load first.
    opens_after_hard : float or None
        Chance that it still opens without a tool after a pull to 60 % of the plain rope.
    """

    case: KnotCase
    attempts: tuple[Untied, ...]
    baseline_n: float | None
    jam: JamResult | None
    untie_s: Interval | None
    opens_after_hard: Interval | None

    @property
    def counts(self) -> dict[JamLevel, int]:
        """Attempts by what they took."""
        levels = [a.level for a in self.attempts]
        return {level: levels.count(level) for level in JamLevel if level in levels}

    @property
    def order(self) -> float:
        """For sorting by “opens after a hard pull”, easiest first."""
        if self.opens_after_hard is not None:
            return -self.opens_after_hard.value
        if self.jam is None:
            return 2.0
        return -1.0 if self.jam.above is not None else 1.0


def jam_rows(cases: Sequence[tuple[KnotCase, float | None]]) -> list[JamRow]:
    """Rate the jamming of some knots, each against the plain rope of its lot."""
    drafts = [_draft(case, baseline_n) for case, baseline_n in cases]
    times = untying_times([_times(row.attempts) for row in drafts])
    return [replace(row, untie_s=untie) for row, untie in zip(drafts, times, strict=True)]


def jam_row(case: KnotCase, baseline_n: float | None) -> JamRow:
    """Rate one knot's jamming."""
    return jam_rows([(case, baseline_n)])[0]


def _times(attempts: tuple[Untied, ...]) -> Sample:
    return make_sample(
        [(u.pull_id, u.seconds, int(not u.gave_up), int(u.gave_up)) for u in attempts if u.seconds]
    )


def _draft(case: KnotCase, baseline_n: float | None) -> JamRow:
    """All but the untying time."""
    tried = case.that_tell(Tells.SLIP)
    stepped = case.that_tell(Tells.STEPS)
    plain = [u for t in tried for u in _inspected(t)]
    steps = [u for t in stepped for u in _stepped(t)]
    attempts = tuple(sorted((*plain, *steps), key=lambda u: u.load_n))
    jam = None
    if baseline_n is not None:
        share, level, brackets = _untied(case, baseline_n)
        jam = jam_load(share, level, case.pull_ids, brackets)
    opens = None
    if jam is not None and jam.fit is not None:
        low, middle, high = (float(v[0]) for v in jam.fit.chance(np.array([HARD_PULL])))
        opens = Interval(1 - middle, 1 - high, 1 - low)
    return JamRow(
        case=case,
        attempts=attempts,
        baseline_n=baseline_n,
        jam=jam,
        untie_s=None,
        opens_after_hard=opens,
    )


def _untied(case: KnotCase, baseline_n: float) -> tuple[Floats, np.ndarray, Floats]:
    """Shares and levels of knots untied once, and brackets of those untied at several loads."""
    plain = [u for t in case.that_tell(Tells.SLIP) for u in _inspected(t)]
    share = np.array([u.load_n for u in plain]) / baseline_n
    level = np.array([JAM_ORDER[u.level] for u in plain], dtype=np.int_)
    stepped = case.that_tell(Tells.STEPS)
    found = [b for t in stepped for end in t.ends if (b := _bracket(t, end)) is not None]
    return share, level, np.array(found, dtype=np.float64).reshape(-1, 2) / baseline_n


def jam_curve(row: JamRow) -> JamFit:
    """The jamming curve of a knot, also where all opened or all jammed.

    Raises
    ------
    ValueError
        Without plain rope to compare with, or without a knot that was untied.
    """
    if row.jam is not None and row.jam.fit is not None:
        return row.jam.fit
    if row.baseline_n is None or not row.attempts:
        raise ValueError(f"{row.case.name} was not untied after a known share of the rope")
    return fit_jams(*_untied(row.case, row.baseline_n))


def _inspected(t: Tried) -> list[Untied]:
    f = t.finding
    return [
        Untied(
            pull_id=f.pull_id,
            code=t.entry.specimen.code,
            end=seen.end,
            load_n=t.load_n,
            level=seen.jam_level,
            seconds=seen.untie_s,
            gave_up=seen.given_up,
        )
        for seen in f.inspections
        if seen.end in t.ends and seen.jam_level in JAM_ORDER
    ]


def _stepped(t: Tried) -> list[Untied]:
    return [
        Untied(
            pull_id=r.pull_id,
            code=t.entry.specimen.code,
            end=r.end,
            load_n=r.load_n,
            level=r.level,
            seconds=r.value,
            gave_up=never_untied(r.level),
            stepped=True,
        )
        for r in t.entry.readings
        if r.takes is Takes.UNTYING
        and r.end in t.ends
        and r.end is not None
        and r.level is not None
        and r.level in JAM_ORDER
    ]


def _bracket(t: Tried, end: End) -> tuple[float, float] | None:
    """Between which loads one knot of a stepped pull jammed."""
    mine = [u for u in _stepped(t) if u.end is end]
    if not mine:
        return None
    jammed = [u.load_n for u in mine if JAM_ORDER[u.level] >= 2]
    first = min(jammed, default=math.inf)
    opened = [u.load_n for u in mine if JAM_ORDER[u.level] < 2 and u.load_n < first]
    return max(opened, default=0.0), first
