"""What the demo campaign asks, in what cordage, and with which knots; all of it invented."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bruiser.catalogue import Structure
from bruiser.core.choice.brief import Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.bench_book import BenchRecord, Fixture, RoomDay
from bruiser.core.records.methods import METHODS
from bruiser.core.records.records import Knot, Lot, Specimen
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove, longest_first
from bruiser.workshop.bench.simulation import SIMULATED_BENCH, TRAVEL_RATE_M_S
from bruiser.workshop.desk.brief_commands import (
    ChooseUses,
    EnterClaim,
    SetFactor,
    WriteCriterion,
)
from bruiser.workshop.desk.knot_commands import AddKnot, RecordCord
from bruiser.workshop.desk.lot_commands import AddLot, CutSpecimen, ReceiveHank
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.bench_entry import AddFixture, NoteRoom, PutBench


@dataclass(frozen=True)
class KnotPick:
    """A knot of the demo: structure and what differs from its plain form."""

    structure: str
    choices: tuple[tuple[str, str], ...] = ()


FIGURE_EIGHT = KnotPick("figure-eight-loop")
BOWLINE = KnotPick("bowline")
DOUBLE_BOWLINE = KnotPick("bowline", (("turns", "round-turn"),))
OVERHAND = KnotPick("overhand-loop")
FISHERMANS = KnotPick("double-fishermans")
SHEET = KnotPick("sheet-bend")
CLOVE = KnotPick("clove-hitch")
FLAT = KnotPick("flat-overhand")


@dataclass(frozen=True, kw_only=True)
class LotPlan:
    """A demo lot, its hanks in metre, and which knots are pulled in it: knot, ends, how many."""

    lot: Lot
    span_m: float
    hanks_m: tuple[float, ...]
    knots: tuple[tuple[KnotPick, int, int], ...]


def lot_of(
    name: str, material: str, construction: str, d_mm: float, rated_kn: float, designation: str
) -> Lot:
    """A lot of the demo: new and dry, measured, rated by its minimum, with a synthetic cord."""
    return Lot(
        id="",
        name=name,
        material=material,
        construction=construction,
        diameter_m=d_mm / 1000.0,
        condition="new, dry",
        rated_strength_n=1000.0 * rated_kn,
        rating_means="minimum",
        cord_model=f"{material} {construction}",
        designation=designation,
        diameter_means="measured",
        reference_tension_n=10.0 * d_mm**2,
        age="bought spring 2026",
        history="never loaded",
    )


_P8 = replace(
    lot_of("P8-B", "polyester", "double braid", 8.0, 13.0, "tether line 8, white"),
    mass_per_length_kg_m=0.0496,
    static_elongation=0.031,
)
_N6 = replace(
    lot_of("N6-K", "nylon", "kernmantle", 6.0, 8.0, "accessory cord 6, orange"),
    mass_per_length_kg_m=0.0241,
    static_elongation=0.074,
)
_H4 = replace(
    lot_of("H4-W", "HMPE", "hollow braid", 4.0, 14.0, "winch leader 4, grey"),
    mass_per_length_kg_m=0.0088,
    static_elongation=0.009,
)

PLANS = (
    LotPlan(
        lot=_P8,
        span_m=0.40,
        hanks_m=(60.0, 60.0, 38.5),
        knots=(
            (FIGURE_EIGHT, 2, 5),
            (BOWLINE, 2, 6),
            (DOUBLE_BOWLINE, 1, 4),
            (OVERHAND, 1, 4),
            (FISHERMANS, 1, 5),
            (SHEET, 1, 4),
            (CLOVE, 1, 4),
        ),
    ),
    LotPlan(
        lot=_N6,
        span_m=0.35,
        hanks_m=(50.0, 50.0, 24.0),
        knots=(
            (FIGURE_EIGHT, 2, 5),
            (BOWLINE, 2, 5),
            (DOUBLE_BOWLINE, 2, 4),
            (OVERHAND, 1, 4),
            (FISHERMANS, 1, 4),
            (SHEET, 1, 4),
            (FLAT, 1, 5),
        ),
    ),
    LotPlan(
        lot=_H4,
        span_m=0.40,
        hanks_m=(45.0, 30.0),
        knots=(
            (FIGURE_EIGHT, 2, 5),
            (BOWLINE, 1, 3),
            (FISHERMANS, 1, 4),
            (OVERHAND, 1, 3),
        ),
    ),
    LotPlan(
        lot=replace(
            _P8,
            name="P8-B wet",
            condition="wet, soaked 2 h",
            conditioning="in fresh water at 15 °C",
            soak_s=7200.0,
            keep_s=1200.0,
        ),
        span_m=0.40,
        hanks_m=(),
        knots=((BOWLINE, 2, 4), (FIGURE_EIGHT, 1, 4)),
    ),
    LotPlan(
        lot=replace(
            _N6,
            name="N6-O",
            condition="worn, dry",
            designation="accessory cord 6, orange, off the mast",
            rated_strength_n=None,
            rating_means="unknown",
            age="about four years",
            history="two seasons as mast guy, fuzzy sheath, no cut strands seen",
            diameter_means="nominal",
            reference_tension_n=None,
        ),
        span_m=0.35,
        hanks_m=(21.5, 14.0),
        knots=((FIGURE_EIGHT, 2, 4),),
    ),
)
HOST = replace(
    lot_of("K10-H", "polyester", "kernmantle", 10.0, 24.0, "static line 10, black"),
    cord_model="",
    condition="new, dry",
)
_HOST_HANKS_M = (30.0,)


def enter_knots(workshop: Workshop, catalogue: dict[str, Structure]) -> dict[KnotPick, Knot]:
    """Bring every knot of the demo into play."""
    picks = dict.fromkeys(pick for plan in PLANS for pick, _, _ in plan.knots)
    knots = {}
    for pick in sorted(picks, key=lambda p: (p.structure, p.choices)):
        entry = catalogue[pick.structure]
        variant = entry.variant_words(dict(pick.choices))
        knots[pick] = Knot(
            id=workshop.new_id(),
            structure=pick.structure,
            variant=variant,
            name=entry.name,
            family=entry.family,
            choices=pick.choices,
        )
        workshop.do(AddKnot(knots[pick]))
    return knots


def enter_lots(workshop: Workshop, rng: np.random.Generator) -> dict[str, Lot]:
    """Enter every lot with its hanks; real hanks are a little longer than their label says."""
    lots: dict[str, Lot] = {}
    for lot, hanks_m in [*((p.lot, p.hanks_m) for p in PLANS), (HOST, _HOST_HANKS_M)]:
        made = replace(lot, id=workshop.new_id())
        if made.name.endswith(" wet"):
            made = replace(made, stock_lot_id=lots[made.name.removesuffix(" wet")].id)
        workshop.do(AddLot(made))
        lots[made.name] = made
        for number, length_m in enumerate(hanks_m, start=1):
            kind = HankKind.SPOOL if length_m >= 50 else HankKind.HANK
            hank = Hank(
                id=workshop.new_id(), lot_id=made.id, label=f"{made.name}/{number}", kind=kind
            )
            receive(workshop, rng, hank, length_m)
    return lots


def receive(workshop: Workshop, rng: np.random.Generator, hank: Hank, length_m: float) -> None:
    """Book a hank in with what it says and the little more that is on it."""
    entry = StockEntry(
        id=workshop.new_id(),
        hank_id=hank.id,
        made_at=workshop.now(),
        move=StockMove.RECEIVED,
        change_m=round(length_m + float(rng.uniform(0.02, 0.4)), 2),
    )
    workshop.do(ReceiveHank(hank, entry))


def enter_bench(workshop: Workshop) -> None:
    """The bench book: the simulated bench, its pin, and the room of the first day."""
    info = SIMULATED_BENCH
    bench = BenchRecord(
        id=workshop.new_id(),
        name="simulated bench",
        stroke_m=info.stroke_m,
        rate_m_s=TRAVEL_RATE_M_S,
        capacity_n=info.capacity_n,
        resolution_n=info.resolution_n,
        sample_rate_hz=info.sample_rate_hz,
        compliance_m_per_n=1e-7,
        accuracy_class="0.5 (invented)",
        calibrated_on="2026-02-02",
        calibration_due="2027-02-02",
        keep_away="nobody in the lane while anything is loaded; door shut",
        guard="steel cage over the lane (invented)",
        guard_energy_j=4_000.0,
        estop_checked_on=workshop.now()[:10],
        methods=METHODS,
    )
    workshop.do(PutBench(bench))
    for kind, name, finish, mm in (
        ("pin", "pin 3", "turned", 12.0),
        ("host", "post 1", "painted", 60.0),
    ):
        fixture = Fixture(
            id=workshop.new_id(),
            kind=kind,
            name=name,
            material="steel",
            finish=finish,
            diameter_m=mm / 1000.0,
        )
        workshop.do(AddFixture(fixture))
    today = workshop.now()[:10]
    workshop.do(NoteRoom(RoomDay(today, 17.5, 0.62)))


def enter_brief(workshop: Workshop, lots: dict[str, Lot], knots: dict[KnotPick, Knot]) -> None:
    """The uses, two criteria, six claims and the design factor."""
    p8, n6, h4 = (lots[name].id for name in ("P8-B", "N6-K", "H4-W"))
    workshop.do(ChooseUses(("tether-loop", "line-joined", "post")))
    loops = tuple(knots[k].id for k in (FIGURE_EIGHT, BOWLINE, DOUBLE_BOWLINE))
    rules = (
        (PassCriterion(measure=Measure.HOLDS_SHARE, threshold=0.60, need=4, of=4), (p8, n6), loops),
        (
            PassCriterion(measure=Measure.BREAKS_AT_KNOT, threshold=0.55, need=4, of=5),
            (n6,),
            (knots[FISHERMANS].id,),
        ),
    )
    for rule, lot_ids, knot_ids in rules:
        criterion = Criterion(
            id=workshop.new_id(),
            made_at=workshop.now(),
            rule=rule,
            lot_ids=lot_ids,
            knot_ids=knot_ids,
        )
        workshop.do(WriteCriterion(criterion))
    claims = (
        (ClaimKind.KEEPS_AT_LEAST, BOWLINE, None, p8, 0.60),
        (ClaimKind.STRONGER_BY, FIGURE_EIGHT, BOWLINE, p8, 0.05),
        (ClaimKind.DOES_NOT_WEAKEN, DOUBLE_BOWLINE, None, p8, 0.10),
        (ClaimKind.NEVER_JAMS_BELOW, BOWLINE, None, None, 0.50),
        (ClaimKind.NEVER_COMES_OUT, SHEET, None, p8, None),
        (ClaimKind.KEEPS_AT_LEAST, FIGURE_EIGHT, None, h4, 0.50),
    )
    for kind, knot, other, lot_id, share in claims:
        claim = Claim(
            id=workshop.new_id(),
            made_at=workshop.now(),
            kind=kind,
            knot_id=knots[knot].id,
            other_knot_id=None if other is None else knots[other].id,
            lot_id=lot_id,
            share=share,
        )
        workshop.do(EnterClaim(claim))
    factor = DesignFactorEntry(
        id=workshop.new_id(),
        made_at=workshop.now(),
        value=10.0,
        source="station rigging rule, revision 3 (invented)",
    )
    workshop.do(SetFactor(factor))


def enter_cord_readings(
    workshop: Workshop,
    rng: np.random.Generator,
    lots: dict[str, Lot],
    knots: dict[KnotPick, Knot],
) -> None:
    """Cord measured in some tied knots, scattered about what the simulator takes as true."""
    for pick, lot, true_d, count in (
        (FIGURE_EIGHT, "P8-B", 36.5, 4),
        (BOWLINE, "P8-B", 22.4, 3),
        (FISHERMANS, "N6-K", 45.0, 2),
    ):
        for _ in range(count):
            length = true_d * lots[lot].diameter_m * (1 + 0.03 * float(rng.standard_normal()))
            reading = CordReading(
                id=workshop.new_id(),
                knot_id=knots[pick].id,
                lot_id=lots[lot].id,
                length_m=round(length, 3),
                made_at=workshop.now(),
                note="untied and measured",
            )
            workshop.do(RecordCord(reading))


def cut_from_longest(workshop: Workshop, specimen: Specimen, length_m: float) -> None:
    """Cut a specimen from the longest hank of its lot."""
    kept = read_logbook(workshop).stock
    hank = longest_first(kept, kept.of_lot(specimen.lot.stock_id))[0]
    entry = StockEntry(
        id=workshop.new_id(),
        hank_id=hank.id,
        made_at=workshop.now(),
        move=StockMove.CUT,
        change_m=-length_m,
        specimen_id=specimen.id,
    )
    minimum = workshop.campaign.offcut_minimum_m
    workshop.do(CutSpecimen(entry=entry, waste_id=workshop.new_id(), offcut_minimum_m=minimum))


def change_criterion(workshop: Workshop) -> None:
    """Lower the second criterion after the first pulls: the kind of change that stays visible."""
    brief = read_logbook(workshop).brief
    old = brief.criteria_in_force[1]
    new = replace(
        old,
        id=workshop.new_id(),
        made_at=workshop.now(),
        rule=replace(old.rule, need=3, of=4),
        comment="cord ran short: four pulls instead of five",
        supersedes=old.id,
    )
    workshop.do(WriteCriterion(new))
