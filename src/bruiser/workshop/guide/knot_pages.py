"""Pages of a guide: its cordages, its knots, and every knot in every cordage, as facts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from bruiser.catalogue.structure import Structure
from bruiser.core.behaviour.tying import measure_tying
from bruiser.core.beyond.across import CellKind
from bruiser.core.beyond.rules import AcrossRules
from bruiser.core.choice.guide import (
    AcrossFacts,
    GaugeFacts,
    KnotFacts,
    LookAlikeFacts,
    LotFacts,
    MarkFacts,
    NameFacts,
    ReachFacts,
    ReachRow,
    ResultFacts,
    SchoolFacts,
    StrengthFacts,
)
from bruiser.core.choice.rating import SCALES, Gauge, Missing, Rating
from bruiser.core.records.families import GENERAL
from bruiser.core.records.preparation import TyingTrial
from bruiser.core.records.records import Knot, Lot
from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.workshop.groups.trials import trials_of
from bruiser.workshop.groups.work_results import work_rows
from bruiser.workshop.groups.wrap_results import default_target_n, wrap_row, wrap_tests
from bruiser.workshop.guide.choosing import Shelf
from bruiser.workshop.guide.rating_knots import RatedKnot
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.across_sets import AcrossSet, across_sets
from bruiser.workshop.results.across_words import (
    NEW_CORDAGE,
    alike_words,
    check_words,
    note_words,
    predicted_words,
    rests_words,
    spread_words,
)
from bruiser.workshop.results.lot_facts import FLOOR_SHARE, baseline_facts, knot_loads
from bruiser.workshop.results.lot_results import KnotResult, LotResults
from bruiser.workshop.results.result_words import say_jam, say_security, say_tying, say_wraps
from bruiser.workshop.results.work_words import say_work

MOST = 1e6
"""An open upper end is written as this: JSON knows no infinity."""


def gauge_facts(gauge: Gauge) -> GaugeFacts:
    """A rating as it is printed."""
    found = gauge.found
    if isinstance(found, Missing):
        return GaugeFacts(rating=gauge.rating, why=found.why)
    i, scale = found.interval, SCALES[gauge.rating]
    return GaugeFacts(
        rating=gauge.rating,
        value=i.value,
        low=i.low,
        high=min(i.high, MOST),
        text=scale.say(i.value),
        range_text=scale.say_range(i.low, i.high),
        band=gauge.band,
        at=gauge.at,
        could_be=gauge.could_be,
        n=found.n,
        basis=found.basis,
        caveat=found.caveat,
    )


def lot_facts(logbook: Logbook, results: LotResults, units: UnitChoice) -> LotFacts:
    """A cordage with its plain rope."""
    lot = results.baseline.lot
    facts = baseline_facts(logbook, results, units)
    interval = facts.interval
    return LotFacts(
        key=lot.id,
        name=lot.name,
        material=lot.material,
        construction=lot.construction,
        diameter_m=lot.diameter_m,
        diameter_text=units.section_text(lot.diameter_m, lot.thickness_m),
        condition=lot.condition,
        rating_text=facts.rating_words,
        baseline_n=None if interval is None else interval.value,
        baseline_text=facts.estimate_words,
        baseline_pulls=results.baseline.counts.specimens,
        caveats=facts.missing,
    )


def knot_facts(shelf: Shelf, knot: Knot, lots: Iterable[str], units: UnitChoice) -> KnotFacts:
    """How a knot is known, tied and dressed, and what it is not for."""
    logbook = shelf.logbook
    s = logbook.catalogue.get(knot.structure)
    tying = _tying_words(logbook, knot)
    if s is None:
        return KnotFacts(
            key=knot.id,
            name=knot.name,
            variant=knot.variant,
            family=knot.family,
            names=(NameFacts(knot.name, GENERAL),),
            front="",
            back="",
            look_alikes=(),
            dressing=(),
            setting=(),
            tail_floor_d=0.0,
            tail_usual_d=0.0,
            cord_d=0.0,
            opening="",
            weaknesses=(),
            never=(),
            opinions=(),
            grip=(),
            tying=tying,
        )
    rule = s.cord_rule(dict(knot.choices))
    return KnotFacts(
        structure=knot.structure,
        choices=knot.choices,
        key=knot.id,
        name=knot.name,
        variant=knot.variant,
        family=s.family,
        names=_names(s, logbook.trade),
        front=s.front,
        back=s.back,
        look_alikes=(
            *(
                LookAlikeFacts(_name_of(logbook, x.structure), x.when, x.tell)
                for x in s.look_alikes
            ),
            *(LookAlikeFacts("Tied wrongly", x.when, x.tell) for x in s.mis_ties),
        ),
        dressing=s.dressing,
        setting=s.setting,
        tail_floor_d=rule.tail_floor_d,
        tail_usual_d=rule.tail_usual_d,
        cord_d=rule.cord_d,
        opening=s.opening,
        weaknesses=s.weaknesses,
        never=s.never,
        opinions=s.opinions,
        grip=_work_words(shelf, knot, lots, units),
        tying=tying,
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
    return (say_tying(knot.title, measure_tying(trials, knot.structure)),) if trials else ()


def _work_words(
    shelf: Shelf, knot: Knot, lots: Iterable[str], units: UnitChoice
) -> tuple[str, ...]:
    """What was measured of the work a knot is for, lot by lot, and how many wraps are enough."""
    said = []
    structure = shelf.logbook.catalogue.get(knot.structure)
    theory = None if structure is None else structure.advantage
    for lot_id in lots:
        lot = shelf.logbook.lot(lot_id)
        for work in work_rows(shelf.gathered, lot_id):
            if work.knot.id == knot.id:
                on = f" {work.key.on}" if work.key.on else ""
                said += [f"In {lot.name}{on}: {s}" for s in say_work(work, units, theory)]
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
        knot=one.knot.id,
        lot=lot.id,
        name=one.name,
        gauges=tuple(gauge_facts(one.gauges[r]) for r in Rating),
        strengths=tuple(_strength(row, lot, several=len(one.ways) > 1) for row in one.ways),
        loads=tuple(
            SchoolFacts(
                school=s.school.value,
                load_n=s.load_n,
                text="" if s.load_n is None else units.force_text(s.load_n),
                steps=s.steps,
                default=s is default,
            )
            for s in schools
        ),
        loads_basis=loads.basis,
        loads_warning=loads.warning,
        slip=say_security(one.slip) if one.slip.measured else "",
        jam=say_jam(one.jam) if one.jam.attempts else "",
        pulls=_codes(logbook, one),
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
        way=way,
        share=None if interval is None else interval.value,
        low=None if interval is None else interval.low,
        high=None if interval is None else interval.high,
        floor=None if bound is None or not reference else bound.load_n / reference,
        floor_n=None if bound is None else bound.load_n,
        broke=eff.counts.broke,
        came_out=eff.counts.came_out,
        outlasted=eff.counts.outlasted,
        marks=tuple(
            MarkFacts(code=m.code, kind=m.kind, share=m.share, left_out=m.left_out)
            for m in row.marks
            if m.share is not None
        ),
        letters=row.letters,
        caveats=tuple(str(c) for c in eff.caveats),
    )


def across_facts(shelf: Shelf, rules: AcrossRules, lots: Sequence[Lot]) -> tuple[AcrossFacts, ...]:
    """Knots across the cordages of a guide, where more than one was pulled."""
    sets = across_sets({lot.id: shelf.results[lot.id] for lot in lots}, shelf.across, rules)
    return tuple(_across(one) for one in sets if len(one.across.cordages) > 1)


def _across(one: AcrossSet) -> AcrossFacts:
    across = one.across

    def row(knot: str) -> ReachRow:
        own = [c for c in across.cells if c.knot == knot]
        new = across.new_cordage.get(knot)
        return ReachRow(
            name=knot,
            cells=tuple(_reach(c.cordage, c.share, c.kind is CellKind.MEASURED) for c in own),
            new=None if new is None else _reach(NEW_CORDAGE, new, measured=False),
        )

    return AcrossFacts(
        alike=alike_words(one.alike),
        cordages=across.cordages,
        rows=tuple(row(knot) for knot in sorted(across.knots)),
        spread=spread_words(across),
        check=check_words(across.check),
        notes=(*(note_words(n) for n in across.notes), rests_words(one)),
        withdrawn=across.check.withdrawn,
    )


def expected_lines(sets: Sequence[AcrossFacts], condition: str) -> list[str]:
    """What may be expected of a cordage in this condition that nobody pulled, a line a knot."""
    one = next((a for a in sets if a.alike.startswith(condition)), None)
    if one is None:
        return []
    if one.withdrawn:
        return list(one.notes[:1])
    found = [(r.name, r.new) for r in one.rows if r.new is not None]
    found.sort(key=lambda pair: (-pair[1].value, pair[0]))
    return [f"{name}: {predicted_words(Interval(x.value, x.low, x.high))}" for name, x in found]


def _reach(cordage: str, share: Interval, measured: bool) -> ReachFacts:
    return ReachFacts(
        cordage=cordage, measured=measured, value=share.value, low=share.low, high=share.high
    )
