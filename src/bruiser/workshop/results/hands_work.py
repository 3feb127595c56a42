"""Whose hands and which bench: the readings that tell it, from pulls and tying trials."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations

from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.beyond.agreement import Agreement, kappa
from bruiser.core.beyond.hands import HandReading, HandsLack, HandsSpread, measure_hands
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.preparation import TyingVerdict
from bruiser.core.statistics.strength import Interval
from bruiser.core.words import count
from bruiser.workshop.groups.gathering import Gathered, Group, Tried
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook


class HandsMeasure(StrEnum):
    """What is looked at."""

    PEAKS = "peaks"
    EFFICIENCY = "efficiency"
    JAMMING = "jam level"
    TYING = "tying time"


@dataclass(frozen=True, kw_only=True)
class HandsResult:
    """All of it.

    Parameters
    ----------
    spreads : dict of HandsMeasure to HandsSpread
        As standard deviations: shares for loads and times (ln), steps of jamming.
    agreement, kappa : Agreement, Interval or None
        Of inspectors on right and wrong ties.
    """

    spreads: dict[HandsMeasure, HandsSpread]
    agreement: Agreement
    kappa: Interval | None


def measure_all_hands(logbook: Logbook, gathered: Gathered) -> HandsResult:
    """Whose hands it was, from every pull and trial there is."""
    groups = [g for own in gathered.tied.values() for g in own.values()]
    ropes = {lot_id: list(g.tried) for lot_id, g in gathered.plain.items()}
    peaks = [r for g in groups for r in _peaks(g)]
    peaks += [r for lot_id, g in gathered.plain.items() for r in _peaks(g, f"rope {lot_id}")]
    readings = {
        HandsMeasure.PEAKS: peaks,
        HandsMeasure.EFFICIENCY: [r for g in groups for r in _efficiencies(g, ropes)],
        HandsMeasure.JAMMING: [r for g in groups for r in _jams(g)],
        HandsMeasure.TYING: _times(logbook),
    }
    seen = _agreement(logbook)
    return HandsResult(
        spreads={measure: measure_hands(own) for measure, own in readings.items()},
        agreement=seen,
        kappa=kappa(seen),
    )


def _who(tried: Tried) -> tuple[str, str]:
    pull = tried.entry.pull
    return ("", "") if pull is None else (pull.technician, pull.instrument)


def _name(group: Group) -> str:
    return f"{group.lot.id}|{group.key}"


def _peaks(group: Group, name: str = "") -> list[HandReading]:
    """ln of every load at which something gave; a floor says nothing of hands."""
    if not name and not tells(group.method, Tells.STRENGTH):
        return []
    found = []
    for t in group.tried:
        if t.events and t.load_n > 0:
            who, bench = _who(t)
            found.append(
                HandReading(
                    group=name or _name(group),
                    technician=who,
                    bench=bench,
                    value=math.log(t.load_n),
                    pull_id=t.finding.pull_id,
                )
            )
    return found


def _efficiencies(group: Group, ropes: dict[str, list[Tried]]) -> list[HandReading]:
    """The same against the plain rope that the same person pulled on the same bench."""
    plain: dict[tuple[str, str], list[float]] = defaultdict(list)
    for t in ropes.get(group.lot.id, ()):
        if t.events and t.load_n > 0:
            plain[_who(t)].append(math.log(t.load_n))
    found = []
    for r in _peaks(group):
        own = plain.get((r.technician, r.bench))
        if own:
            share = r.value - math.fsum(own) / len(own)
            found.append(
                HandReading(
                    group=r.group,
                    technician=r.technician,
                    bench=r.bench,
                    value=share,
                    pull_id=r.pull_id,
                )
            )
    return found


def _jams(group: Group) -> list[HandReading]:
    """Steps of jamming of every knot that was untied after a pull of its group."""
    found = []
    for t in group.tried:
        who, bench = _who(t)
        found += [
            HandReading(
                group=_name(group),
                technician=who,
                bench=bench,
                value=float(JAM_ORDER[i.jam_level]),
                pull_id=t.finding.pull_id,
            )
            for i in t.finding.inspections
            if i.end in t.ends and i.jam_level in JAM_ORDER
        ]
    return found


def _times(logbook: Logbook) -> list[HandReading]:
    """ln of tying times, by who tied; the bench is the bench of hands."""
    found = []
    rows = logbook.trial_rows()
    tied = {e.specimen.id: e for e in logbook.with_ids({row.specimen_id for row in rows})}
    for row in rows:
        entry = tied.get(row.specimen_id)
        by = "" if entry is None else _tied_by(entry)
        if row.trial.seconds > 0 and by:
            found.append(
                HandReading(
                    group=f"{row.knot_id}|{row.lot_id}|{row.trial.hands}",
                    technician=by,
                    bench="the tying bench",
                    value=math.log(row.trial.seconds),
                    pull_id=row.pull_id or "",
                )
            )
    return found


def _tied_by(entry: Entry) -> str:
    """Who tied the trial of a specimen; the last one named."""
    found = [p.by for p in entry.prepared if p.trial is not None and p.by]
    return found[-1] if found else ""


def _agreement(logbook: Logbook) -> Agreement:
    """Ties that two inspectors saw."""
    by_tie: dict[str, dict[str, bool]] = defaultdict(dict)
    for row in logbook.trial_rows():
        if row.trial.verdict is not None and row.trial.inspector:
            right = row.trial.verdict is TyingVerdict.RIGHT
            by_tie[row.specimen_id].setdefault(row.trial.inspector, right)
    pairs = [pair for seen in by_tie.values() for pair in combinations(seen.values(), 2)]
    return Agreement(
        both_right=sum(a and b for a, b in pairs),
        split=sum(a != b for a, b in pairs),
        both_wrong=sum(not a and not b for a, b in pairs),
    )


LACK_WORDS = {
    HandsLack.FEW_REPEATS: "too few repeats: have somebody pull the same knot in the same cordage "
    "three times or more",
    HandsLack.ONE_TECHNICIAN: "one technician only: have a second one pull the same knots",
    HandsLack.NEVER_OVERLAPPED: "the technicians never pulled the same knot in the same cordage: "
    "let each repeat one of the other's",
    HandsLack.ONE_BENCH: "one bench only",
    HandsLack.BENCHES_APART: "no knot was pulled on two benches",
    HandsLack.CONFOUNDED: "each technician had a bench of their own: hands and benches cannot be "
    "told apart, and stand together under hands",
}


def lack_words(spread: HandsSpread) -> str:
    """Why parts are not said, and what would lift it; empty where nothing lacks."""
    return "; ".join(LACK_WORDS[lack] for lack in spread.lacks)


def hands_statement(found: HandsResult) -> list[str]:
    """What the appendix of a guide says of it."""
    lines = []
    for measure, s in found.spreads.items():
        if s.within is None:
            continue
        steps = measure is HandsMeasure.JAMMING
        parts = [f"one pair of hands again {say_spread(s.within, steps=steps)}"]
        if s.technicians is not None:
            parts.append(f"between technicians {say_spread(s.technicians, steps=steps)}")
        if s.benches is not None:
            parts.append(f"between benches {say_spread(s.benches, steps=steps)}")
        if s.total is not None:
            parts.append(f"in all {say_spread(s.total, steps=steps)}")
        lines.append(
            f"{measure.value.capitalize()}, spread from {count(s.readings, 'reading')}: "
            f"{', '.join(parts)}."
        )
    if found.kappa is not None:
        k = found.kappa
        lines.append(
            f"Inspectors on right and wrong ties: kappa {k.value:.2f} ({k.low:.2f} to "
            f"{k.high:.2f}), from {found.agreement.ties} ties seen by two."
        )
    return lines


def say_spread(spread: Interval, *, steps: bool) -> str:
    """A standard deviation with its interval, in per cent or in steps of jamming."""
    if steps:
        return f"{spread.value:.2f} steps ({spread.low:.2f} to {spread.high:.2f})"
    low, high = f"{100 * spread.low:.1f}", f"{100 * spread.high:.1f}"
    return f"{100 * spread.value:.1f} % ({low} to {high})"
