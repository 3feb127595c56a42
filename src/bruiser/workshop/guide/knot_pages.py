"""Pages of a guide: its cordages, its knots, and every knot in every cordage, as facts."""

from __future__ import annotations

from collections.abc import Iterable

from bruiser.catalogue.structure import Structure
from bruiser.core.choice.guide import (
    GaugeFacts,
    KnotFacts,
    LookAlikeFacts,
    LotFacts,
    MarkFacts,
    NameFacts,
    ResultFacts,
    SchoolFacts,
    StrengthFacts,
)
from bruiser.core.choice.rating import SCALES, Gauge, Missing, Rating
from bruiser.core.rating.tying import rate_tying
from bruiser.core.records.preparation import TyingTrial
from bruiser.core.records.records import Knot, Lot
from bruiser.core.units import UnitChoice
from bruiser.workshop.guide.choosing import Shelf
from bruiser.workshop.guide.rating_knots import RatedKnot
from bruiser.workshop.logbook.entries import Logbook
from bruiser.workshop.logbook.trials import trials_of
from bruiser.workshop.results.lot_facts import FLOOR_SHARE, baseline_facts, knot_loads
from bruiser.workshop.results.lot_results import KnotResult, LotResults
from bruiser.workshop.results.result_words import say_jam, say_security, say_tying, say_wraps
from bruiser.workshop.results.wrap_results import default_target_n, wrap_row, wrap_tests

MOST = 1e6
"""An open upper end is written as this: JSON knows no infinity."""


def gauge_facts(gauge: Gauge) -> GaugeFacts:
    """A rating as it is printed."""
    found = gauge.found
    if isinstance(found, Missing):
        return GaugeFacts(gauge.rating, why=found.why)
    i, scale = found.interval, SCALES[gauge.rating]
    return GaugeFacts(
        gauge.rating,
        i.value,
        i.low,
        min(i.high, MOST),
        scale.say(i.value),
        scale.say_range(i.low, i.high),
        gauge.band,
        gauge.at,
        gauge.could_be,
        found.n,
        found.basis,
        found.caveat,
    )


def lot_facts(logbook: Logbook, results: LotResults, units: UnitChoice) -> LotFacts:
    """A cordage with its plain rope."""
    lot = results.baseline.lot
    facts = baseline_facts(logbook, results, units)
    interval = facts.interval
    return LotFacts(
        lot.id,
        lot.name,
        lot.material,
        lot.construction,
        lot.diameter_m,
        units.diameter_text(lot.diameter_m),
        lot.condition,
        facts.rating_words,
        None if interval is None else interval.value,
        facts.estimate_words,
        results.baseline.counts.specimens,
        facts.missing,
    )


def knot_facts(shelf: Shelf, knot: Knot, lots: Iterable[str], units: UnitChoice) -> KnotFacts:
    """How a knot is known, tied and dressed, and what it is not for."""
    logbook = shelf.logbook
    s = logbook.catalogue.get(knot.structure)
    tying = _tying_words(logbook, knot)
    if s is None:
        return KnotFacts(
            knot.id, knot.name, knot.variant, knot.family, (NameFacts(knot.name, "general"),),
            "", "", (), (), (), 0.0, 0.0, 0.0, "", (), (), (), (), tying,
        )  # fmt: skip
    rule = s.cord_rule(dict(knot.choices))
    return KnotFacts(
        knot.id,
        knot.name,
        knot.variant,
        s.family,
        _names(s, logbook.trade),
        s.front,
        s.back,
        tuple(
            LookAlikeFacts(_name_of(logbook, x.structure), x.when, x.tell) for x in s.look_alikes
        ),
        s.dressing,
        s.setting,
        rule.tail_floor_d,
        rule.tail_usual_d,
        rule.cord_d,
        s.opening,
        s.weaknesses,
        s.never,
        s.opinions,
        _grip_words(shelf, knot, lots, units),
        tying,
    )


def _names(s: Structure, trade: str) -> tuple[NameFacts, ...]:
    """Its names by trade, the preferred trade's first."""
    ordered = sorted(s.names, key=lambda n: n.trade != trade)
    return tuple(NameFacts(n.name, n.trade) for n in ordered)


def _name_of(logbook: Logbook, structure: str) -> str:
    known = logbook.catalogue.get(structure)
    return structure if known is None else known.name_in(logbook.trade)


def _tying_words(logbook: Logbook, knot: Knot) -> tuple[str, ...]:
    trials: list[tuple[str, TyingTrial]] = [
        t for (k, _), rows in trials_of(logbook).rows.items() if k == knot.id for t in rows
    ]
    return (say_tying(knot.title, rate_tying(trials, knot.structure)),) if trials else ()


def _grip_words(
    shelf: Shelf, knot: Knot, lots: Iterable[str], units: UnitChoice
) -> tuple[str, ...]:
    said = []
    for lot_id in lots:
        base_n = shelf.results[lot_id].baseline.median_n
        for key, marks in wrap_tests(shelf.gathered, lot_id).items():
            if key[0] == knot.id:
                target = default_target_n(shelf.gathered, lot_id, shelf.logbook)
                row = wrap_row(shelf.logbook, lot_id, key, marks, target)
                said.append(say_wraps(row, units, base_n))
    return tuple(said)


def result_facts(shelf: Shelf, one: RatedKnot, units: UnitChoice) -> ResultFacts:
    """One knot in one cordage."""
    logbook, lot = shelf.logbook, one.lot
    loads = knot_loads(logbook, lot, one.row, units)
    schools = () if loads.loads is None else loads.loads.schools
    default = None if loads.loads is None else loads.loads.default
    return ResultFacts(
        one.knot.id,
        lot.id,
        one.name,
        tuple(gauge_facts(one.gauges[r]) for r in Rating),
        tuple(_strength(row, lot, several=len(one.ways) > 1) for row in one.ways),
        tuple(
            SchoolFacts(
                s.school.value,
                s.load_n,
                "" if s.load_n is None else units.force_text(s.load_n),
                s.steps,
                s is default,
            )
            for s in schools
        ),
        loads.basis,
        loads.warning,
        say_security(one.slip) if one.slip.measured else "",
        say_jam(one.jam) if one.jam.attempts else "",
        _codes(logbook, one),
    )


def _codes(logbook: Logbook, one: RatedKnot) -> tuple[str, ...]:
    return tuple(dict.fromkeys(logbook.by_pull[p].specimen.code for p in one.case.pull_ids))


def _strength(row: KnotResult, lot: Lot, *, several: bool) -> StrengthFacts:
    eff, interval = row.efficiency, row.efficiency.interval
    bound = row.result.tolerance.get(FLOOR_SHARE)
    reference = row.result.reference_n
    way = row.key.direction or row.group.method
    if several and not row.key.direction:
        way = f"{row.group.method}, {row.key.host.called or lot.name}"
    return StrengthFacts(
        way,
        None if interval is None else interval.value,
        None if interval is None else interval.low,
        None if interval is None else interval.high,
        None if bound is None or not reference else bound.load_n / reference,
        None if bound is None else bound.load_n,
        eff.counts.broke,
        eff.counts.came_out,
        eff.counts.outlasted,
        tuple(
            MarkFacts(m.code, m.kind, m.share, m.left_out) for m in row.marks if m.share is not None
        ),
        row.letters,
        tuple(str(c) for c in eff.caveats),
    )
