"""The demo's method pulls: jam ladders, cycles, shaking, directions, wraps, and every family."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bruiser.app.demo_cells import EIGHT, PRUSIK, MethodCell
from bruiser.app.demo_plan import HOST, KnotPick, lot_of, receive
from bruiser.catalogue import Structure
from bruiser.core.choice.brief import Claim
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import lay
from bruiser.core.records.methods import RAMP
from bruiser.core.records.preparation import Hands, TyingVerdict
from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove, longest_first
from bruiser.rig.simulated.aftermath import EYE_D
from bruiser.workshop.desk.brief_commands import EnterClaim
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot, CutSpecimen
from bruiser.workshop.desk.preparing import (
    TyingDraft,
    check_list,
    keep_checked,
    keep_tied,
    keep_trial,
)
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop
from bruiser.workshop.plan.bench_entry import AddFixture

N7 = replace(
    lot_of("N7-T", "nylon", "kernmantle", 7.0, 11.0, "mast guy 7, green"),
    mass_per_length_kg_m=0.0352,
    static_elongation=0.048,
)
N5 = replace(
    lot_of("N5-T", "nylon", "kernmantle", 5.0, 5.6, "grip cord 5, yellow"),
    mass_per_length_kg_m=0.0172,
    static_elongation=0.081,
)
W25 = replace(
    lot_of("W25-T", "nylon", "tubular webbing", 25.0, 12.0, "ballast tape 25, grey"),
    cord_model="tubular webbing",
    mass_per_length_kg_m=0.0405,
    thickness_m=0.0022,
)
_HANKS_M = {"N7-T": (60.0, 60.0, 60.0, 40.0), "N5-T": (60.0, 50.0), "K10-H": (60.0,)}
_SPAN_M, _PIN_M = 0.35, 0.012
_TIERS = ("TV", "OQ", "RK")


def enter_method_lots(workshop: Workshop, rng: np.random.Generator) -> dict[str, Lot]:
    """Two more lots with their hanks, and more of the host rope."""
    lots = {lot.name: lot for lot in read_logbook(workshop).lots}
    for lot in (N7, N5):
        lots[lot.name] = replace(lot, id=workshop.new_id())
        workshop.do(AddLot(lots[lot.name]))
    for name, hanks in _HANKS_M.items():
        _take_in(workshop, rng, lots[name], hanks)
    return lots


def enter_webbing(workshop: Workshop, rng: np.random.Generator) -> dict[str, Lot]:
    """A lot of flat cordage with its hank, and more of the lot that most states are tied in."""
    lots = {lot.name: lot for lot in read_logbook(workshop).lots}
    webbing = replace(W25, id=workshop.new_id())
    workshop.do(AddLot(webbing))
    _take_in(workshop, rng, webbing, (40.0,))
    _take_in(workshop, rng, lots["N7-T"], (60.0,), first=5)
    return {webbing.name: webbing}


def _take_in(
    workshop: Workshop,
    rng: np.random.Generator,
    lot: Lot,
    hanks: tuple[float, ...],
    first: int = 1,
) -> None:
    name = lot.name
    first = first if name != HOST.name else 2
    for number, length_m in enumerate(hanks, start=first):
        hank = Hank(
            id=workshop.new_id(),
            lot_id=lot.id,
            label=f"{name}/{number}",
            kind=HankKind.SPOOL,
        )
        receive(workshop, rng, hank, length_m)


def enter_fixtures(workshop: Workshop) -> dict[str, Fixture]:
    """An edge, a plate, and the post that is in the book already, by kind."""
    for kind, name, finish, mm in (
        ("edge", "edge 1", "rounded", 10.0),
        ("plate", "plate 1, hole 12 mm", "drilled", 12.0),
    ):
        workshop.do(
            AddFixture(
                Fixture(
                    id=workshop.new_id(),
                    kind=kind,
                    name=name,
                    material="steel",
                    finish=finish,
                    diameter_m=mm / 1000,
                )
            )
        )
    return {f.kind: f for f in read_logbook(workshop).bench_book.fixtures}


def _knot_of(workshop: Workshop, catalogue: dict[str, Structure], pick: KnotPick) -> Knot:
    """The knot in play, brought into play where it was not."""
    for knot in read_logbook(workshop).knots:
        if (knot.structure, knot.choices) == (pick.structure, pick.choices):
            return knot
    s = catalogue[pick.structure]
    made = Knot(
        id=workshop.new_id(),
        structure=pick.structure,
        variant=s.variant_words({}),
        name=s.name,
        family=s.family,
        choices=pick.choices,
    )
    workshop.do(AddKnot(made))
    return made


def plan_methods(
    workshop: Workshop,
    rng: np.random.Generator,
    catalogue: dict[str, Structure],
    cells: tuple[MethodCell, ...],
    lots: dict[str, Lot],
    fixtures: dict[str, Fixture],
) -> list[tuple[Specimen, MethodCell]]:
    """Queue every specimen of the cells, shuffled inside a lot, baselines first."""
    wanted: list[tuple[Specimen, MethodCell]] = []
    for cell in cells:
        knot = None if cell.knot is None else _knot_of(workshop, catalogue, cell.knot)
        for n in range(cell.count):
            paired = cell.knot == EIGHT and cell.method.key == RAMP
            made = _specimen(cell, knot, catalogue, lots, fixtures)
            wanted.append((replace(made, pair=f"P{n + 1}" if paired else ""), cell))
    plain = [w for w in wanted if w[1].knot is None]
    tied = [w for w in wanted if w[1].knot is not None]
    start = len(read_logbook(workshop).entries)
    queued = []
    for number, (specimen, cell) in enumerate(
        [*plain, *(tied[i] for i in rng.permutation(len(tied)))], start=start + 1
    ):
        made = replace(
            specimen,
            id=workshop.new_id(),
            code=f"S-{number:03d}",
            queue_position=number,
            seed=int(rng.integers(1, 2**31)),
        )
        workshop.do(PlanSpecimen(made))
        queued.append((made, cell))
    return queued


def _specimen(
    cell: MethodCell,
    knot: Knot | None,
    catalogue: dict[str, Structure],
    lots: dict[str, Lot],
    fixtures: dict[str, Fixture],
) -> Specimen:
    lot = lots[cell.lot]
    blank = Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=_SPAN_M,
        method=cell.method,
        state=cell.state,
    )
    if knot is None:
        return blank
    s = catalogue[knot.structure]
    layout = "loop_single" if s.layout == "loop_pair" else s.layout
    layout = "sling" if cell.state.around_m else layout
    usual_d = s.cord_rule({}, flat=lot.flat).tail_usual_d
    tail_m = (cell.state.tail_d or usual_d) * lot.diameter_m
    return replace(
        blank,
        role=Role.KNOT,
        layout_key=layout,
        knot_a=knot,
        tails=tuple(Tail(spot.key, tail_m) for spot in lay(layout).tails),
        pin_diameter_m=_PIN_M,
        fixture=fixtures.get(cell.fixture),
        lot_b=lots.get(cell.lot_b),
        dressing=cell.dressing,
        state=cell.state,
    )


def cut_all(workshop: Workshop, logbook: Logbook, specimen: Specimen) -> None:
    """Cut every piece of a specimen from the longest hank of its lot."""
    for lot_id in specimen.stock_ids:
        hank = longest_first(logbook.stock, logbook.stock.of_lot(lot_id))[0]
        length_m = cut_length_m(logbook, specimen, lot_id)
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


def tie_and_check(
    workshop: Workshop,
    rng: np.random.Generator,
    logbook: Logbook,
    entry: Entry,
    number: int,
    cell: MethodCell,
) -> None:
    """Write the tying sheet, now and then with a point left out, the check, and a trial."""
    if entry.specimen.knot_a is None:
        return
    tier, other = _TIERS[number % 3], _TIERS[(number + 1) % 3]
    points = check_list(logbook, entry.specimen)
    left_out = number % 17 == 5
    draft = TyingDraft(set(points[:-1] if left_out else points), number % 23 != 7)
    for tail in entry.specimen.tails:
        as_tied = tail.length_m + 0.001 * float(rng.integers(-4, 8))
        draft.texts[tail.key] = f"{1000 * as_tied:.0f} mm"
    if entry.specimen.layout_key == "double_loop":
        first_m = EYE_D * entry.specimen.lot.diameter_m
        longer = 1.0 + entry.specimen.state.longer_eye
        draft.texts["eye_a"] = f"{1000 * first_m:.0f} mm"
        draft.texts["eye_a2"] = f"{1000 * first_m * longer:.0f} mm"
    keep_tied(workshop, logbook, entry, draft, tier)
    keep_checked(workshop, entry, other)
    if cell.trial:
        _trial(workshop, rng, entry, tier, other)


def _trial(
    workshop: Workshop, rng: np.random.Generator, entry: Entry, tier: str, other: str
) -> None:
    hands = (Hands.BARE, Hands.GLOVES, Hands.COLD)[int(rng.integers(0, 3))]
    slow = _SLOW[hands]
    wrong = int(rng.random() < 0.2 * slow)
    seconds = slow * (1 + wrong) * float(rng.uniform(14, 32))
    _write_trial(workshop, entry, hands, seconds, wrong, rng.random() < 0.85, tier, other)


_SLOW = {Hands.BARE: 1.0, Hands.GLOVES: 1.6, Hands.COLD: 1.9}


def try_tying(
    workshop: Workshop, rng: np.random.Generator, entry: Entry, structure: Structure, number: int
) -> None:
    """A tying trial of a specimen: long knots take longer, those with look-alikes are mistaken."""
    hands = Hands.GLOVES if number % 4 == 3 else Hands.BARE
    wrong = int(rng.random() < 0.12 * _SLOW[hands])
    usual_s = 7.0 + 0.55 * structure.cord_use_d
    seconds = _SLOW[hands] * (1 + wrong) * usual_s * float(np.exp(0.22 * rng.standard_normal()))
    seen = rng.random() < 0.97 - 0.07 * len(structure.look_alikes)
    tier, other = _TIERS[number % 3], _TIERS[(number + 1) % 3]
    _write_trial(workshop, entry, hands, seconds, wrong, seen, tier, other)


def _write_trial(
    workshop: Workshop,
    entry: Entry,
    hands: Hands,
    seconds: float,
    wrong: int,
    seen: bool,
    tier: str,
    other: str,
) -> None:
    knot = entry.specimen.knot_a
    keep_trial(
        workshop,
        entry,
        {
            "seconds": f"{seconds:.0f} s",
            "attempts": str(1 + wrong),
            "wrong": str(wrong),
            "hands": hands.value,
            "inspector": other,
            "verdict": (TyingVerdict.RIGHT if seen else TyingVerdict.UNSURE).value,
            "named": "" if knot is None or not seen else knot.structure,
        },
        tier,
    )


def enter_method_claims(workshop: Workshop, lot: Lot) -> None:
    """Two claims that only the methods can decide: what dressing does, what wraps hold."""
    knots = {k.structure: k.id for k in read_logbook(workshop).knots if k.variant == "plain"}
    loop, hitch = knots[EIGHT.structure], knots[PRUSIK.structure]
    for claim in (
        Claim(
            id="",
            made_at="",
            kind=ClaimKind.CHANGES_LESS_THAN,
            knot_id=loop,
            other_knot_id=None,
            lot_id=lot.id,
            share=0.05,
        ),
        Claim(
            id="",
            made_at="",
            kind=ClaimKind.WRAPS_HOLD,
            knot_id=hitch,
            other_knot_id=None,
            lot_id=lot.id,
            share=None,
            wraps=3,
            load_n=3_000.0,
        ),
    ):
        made = replace(claim, id=workshop.new_id(), made_at=workshop.now())
        workshop.do(EnterClaim(made))
