"""The specimens of the cells of a plan, with the plain rope that they are compared with."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

from bruiser.core.records.layouts import HELD_BY, LAYOUTS, PlaceKind
from bruiser.core.records.methods import STRAIGHT, MethodPlan
from bruiser.core.records.records import Knot, Lot, Role, Specimen, Tail
from bruiser.core.records.tied_state import TiedState
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.plan_cells import BOTH, ONE, Cell, PlanDraft, laid_for
from bruiser.workshop.results.lot_results import baseline_median_n

BASELINE_WANTED = 5
SET_SHARE = 0.05


def row_words(logbook: Logbook, cell: Cell) -> str:
    """A row of the matrix in words: the knot and what sets its state apart."""
    made = _specimen(logbook, PlanDraft(), logbook.lots[0], cell)
    words = [logbook.knot(cell.knot_id).title]
    if cell.other not in (BOTH, ONE):
        words.append(f"with {logbook.knot(cell.other).title.lower()}")
    return " · ".join([*words, *made.state_words])


def baselines_missing(logbook: Logbook, lot: Lot) -> int:
    """Straight pulls of a lot that are neither done nor queued, of the five that are wanted."""
    there = [
        e
        for e in logbook.of_lots((lot.id,), Role.BASELINE)
        if not e.specimen.method.method.fixture
        and not e.specimen.state.words
        and e.stage is not Stage.VOID
    ]
    return max(0, BASELINE_WANTED - len(there))


def _plain(draft: PlanDraft, lot: Lot) -> Specimen:
    """A straight pull without id, code and place."""
    straight = MethodPlan(STRAIGHT)
    return Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=draft.span_m,
        method=straight,
    )


def _over_edges(logbook: Logbook, draft: PlanDraft, lot: Lot) -> list[Specimen]:
    """Plain rope over every edge picked, where knots are planned over it and none is there yet."""
    plans = [p for p in draft.methods if p.method.fixture == "edge"]
    edges = [f for f in logbook.bench_book.fixtures if f.id in draft.fixture_ids]
    there = {
        e.specimen.fixture.id
        for e in logbook.of_lots((lot.id,), Role.BASELINE)
        if e.specimen.fixture is not None and e.stage is not Stage.VOID
    }
    return [
        replace(_plain(draft, lot), method=plan, fixture=edge)
        for plan in plans[:1]
        for edge in edges
        if edge.kind == "edge" and edge.id not in there
        for _ in range(draft.pulls)
    ]


def _cut_into(
    logbook: Logbook, draft: PlanDraft, lot: Lot, cells: tuple[Cell, ...]
) -> list[Specimen]:
    """Plain rope cut as the rope in the eye of a midline loop is, where none is there yet."""
    there = {
        e.specimen.state.cut_share
        for e in logbook.of_lots((lot.id,), Role.BASELINE)
        if e.stage is not Stage.VOID
    }
    wanted = dict.fromkeys(c.state.cut_share for c in cells if c.lot_id == lot.id)
    return [
        replace(_plain(draft, lot), state=TiedState(cut_share=cut))
        for cut in wanted
        if cut and cut not in there
        for _ in range(draft.pulls)
    ]


def _specimen(logbook: Logbook, draft: PlanDraft, lot: Lot, cell: Cell) -> Specimen:
    """A specimen of a cell without id, code and place."""
    knot = logbook.knot(cell.knot_id)
    structure = logbook.catalogue[knot.structure]
    layout = laid_for(cell.method, structure)
    if layout == "loop_pair" and cell.other == ONE:
        layout = "loop_single"
    if cell.state.around_m:
        layout = "sling"
    other = {BOTH: knot, ONE: None}.get(cell.other)
    if cell.other not in (BOTH, ONE):
        other = logbook.knot(cell.other)
    tails = []
    for spot in LAYOUTS[layout].tails:
        tied = other if other is not None and spot.end == "B" else knot
        rule = logbook.catalogue[tied.structure].cord_rule(dict(tied.choices), flat=lot.flat)
        tail_d = cell.state.tail_d or rule.tail_usual_d
        tails.append(Tail(spot.key, tail_d * lot.diameter_m))
    kinds = {p.kind for p in LAYOUTS[layout].places}
    fixture = next((f for f in logbook.bench_book.fixtures if f.id == cell.fixture_id), None)
    held = fixture is not None or bool(cell.lot_b_id and PlaceKind.ROPE in kinds)
    on_pin = PlaceKind.PIN in kinds or (bool(HELD_BY & kinds) and not held)
    return replace(
        _plain(draft, lot),
        role=Role.KNOT,
        layout_key=layout,
        knot_a=knot,
        knot_b=other,
        tails=tuple(tails),
        pin_diameter_m=draft.pin_m if on_pin else 0.0,
        set_load_n=SET_SHARE * (lot.rated_strength_n or 0.0),
        method=cell.method,
        dressing=cell.dressing,
        fixture=fixture,
        lot_b=None if not cell.lot_b_id else logbook.lot(cell.lot_b_id),
        state=cell.state,
    )


def plain_specimen(draft: PlanDraft, lot: Lot) -> Specimen:
    """A straight pull of a lot."""
    return _plain(draft, lot)


def one_specimen(logbook: Logbook, draft: PlanDraft, lot: Lot, knot: Knot, knots: int) -> Specimen:
    """A dressed knot pulled until it gives, at one end or both, for a price."""
    other = BOTH if knots == 2 else ONE
    return _specimen(
        logbook, draft, lot, Cell(lot_id=lot.id, knot_id=knot.id, pulls=1, other=other)
    )


def plan_specimens(logbook: Logbook, draft: PlanDraft) -> list[Specimen]:
    """Specimens of every cell and of the baselines missing, in the order of the matrix.

    In a round every technician has specimens of every cell, named in their notes.
    With `pair`, the k-th specimens of all states of a knot in a lot share a pair mark.
    """
    cells = draft.cells(logbook)
    made: list[Specimen] = []
    lot_ids = dict.fromkeys((*draft.lot_ids, *(c.lot_b_id for c in cells if c.lot_b_id)))
    for lot_id in lot_ids:
        lot = logbook.lot(lot_id)
        made += [_plain(draft, lot)] * baselines_missing(logbook, lot)
        if lot_id in draft.lot_ids:
            made += _over_edges(logbook, draft, lot)
            made += _cut_into(logbook, draft, lot, cells)
    states = Counter((c.lot_id, c.knot_id) for c in cells)
    families = {key: number for number, key in enumerate(states, start=1)}
    for cell in cells:
        one = _specimen(logbook, draft, logbook.lot(cell.lot_id), cell)
        alike = (cell.lot_id, cell.knot_id)
        for k in range(1, cell.pulls + 1):
            paired = draft.pair and states[alike] > 1
            mark = f"{draft.seed}.{families[alike]}.{k}" if paired else ""
            made += [replace(one, pair=mark, note=who) for who in draft.hands]
    return made


def reference_n(logbook: Logbook, lot: Lot) -> float | None:
    """The strength that levels are shares of: the measured baseline, else the rating."""
    return baseline_median_n(logbook, lot) or lot.rated_strength_n
