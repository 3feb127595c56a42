"""Which hank each planned specimen is cut from, and cutting them all in one step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bruiser.core.planning.cut_plan import CutPlan, Piece, Supply, TooShort, plan_cuts
from bruiser.core.records.records import Lot
from bruiser.core.records.stock import StockEntry, StockMove
from bruiser.workshop.desk.cutting import to_cut
from bruiser.workshop.desk.lot_commands import CutSpecimen
from bruiser.workshop.logbook.commands import Together
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class CutLine:
    """One cut: which specimen, how long."""

    specimen_id: str
    code: str
    length_m: float


@dataclass(frozen=True, kw_only=True)
class HankCuts:
    """One hank with its cuts in order, longest first, and what is left of it."""

    hank_id: str
    label: str
    before_m: float
    cuts: tuple[CutLine, ...]
    left_m: float
    kept: bool


@dataclass(frozen=True, kw_only=True)
class LotCuts:
    """The cut plan of a lot, or why there is none."""

    lot: Lot
    hanks: tuple[HankCuts, ...]
    plan: CutPlan | None
    trouble: str = ""
    short_m: float = 0.0
    drop: str = ""


def lots_to_cut(logbook: Logbook) -> list[Lot]:
    """Lots with planned specimens that are not cut."""
    uncut = {i for w in logbook.waiting for i in w.kind.stock_ids if i not in w.cut_of}
    return [lot for lot in logbook.lots if lot.stock_lot_id is None and lot.stock_id in uncut]


def plan_lot(
    logbook: Logbook,
    lot: Lot,
    offcut_minimum_m: float,
    *,
    seed: int = 1,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> LotCuts:
    """Plan the cuts of a lot's planned specimens from its own hanks; lots are never mixed.

    Specimens with the same pair mark come from one hank.
    """
    stock = logbook.stock
    lines = {i: CutLine(i, code, m) for i, code, m in to_cut(logbook, lot)}
    hanks = [h for h in stock.of_lot(lot.id) if stock.left_m(h.id) > 0]
    pairs = {w.specimen_id: w.pair for w in logbook.waiting}
    pieces = [
        Piece(line.specimen_id, line.length_m, pairs[line.specimen_id]) for line in lines.values()
    ]
    supplies = [Supply(h.id, stock.left_m(h.id)) for h in hanks]
    rng = np.random.default_rng(seed)
    try:
        plan = plan_cuts(
            pieces, supplies, offcut_minimum_m, rng, progress=progress, cancelled=cancelled
        )
    except TooShort as short:
        trouble = f"{lot.name}: {short.headline}"
        return LotCuts(
            lot=lot,
            hanks=(),
            plan=None,
            trouble=trouble,
            short_m=short.short_m,
            drop=_what_to_drop(lines, short.short_m),
        )
    found = []
    for hank in hanks:
        cut = tuple(lines[key] for key in plan.cuts.get(hank.id, ()))
        if not cut:
            continue
        before = stock.left_m(hank.id)
        left = round(before - sum(line.length_m for line in cut), 4)
        kept = left >= offcut_minimum_m
        found.append(
            HankCuts(
                hank_id=hank.id, label=hank.label, before_m=before, cuts=cut, left_m=left, kept=kept
            )
        )
    return LotCuts(lot=lot, hanks=tuple(found), plan=plan)


def _what_to_drop(lines: dict[str, CutLine], short_m: float) -> str:
    """The last specimens of the queue whose lengths make up what is missing."""
    dropped: list[str] = []
    total = 0.0
    for line in reversed(list(lines.values())):
        if total >= short_m:
            break
        dropped.append(line.code)
        total += line.length_m
    return f"Dropping {', '.join(reversed(dropped))} would do." if dropped else ""


def cut_all(workshop: Workshop, cuts: LotCuts) -> None:
    """Cut every specimen of a plan, as one step.

    Raises
    ------
    Refused
        If the shelf has changed since the plan was made.
    """
    minimum = workshop.campaign.offcut_minimum_m
    parts = []
    for hank in cuts.hanks:
        for number, line in enumerate(hank.cuts, start=1):
            last = number == len(hank.cuts)
            entry = StockEntry(
                id=workshop.new_id(),
                hank_id=hank.hank_id,
                made_at=workshop.now(),
                move=StockMove.CUT,
                change_m=-line.length_m,
                specimen_id=line.specimen_id,
            )
            keep = minimum if last else 0.0
            parts.append(
                CutSpecimen(entry=entry, waste_id=workshop.new_id(), offcut_minimum_m=keep)
            )
    if parts:
        workshop.do(Together(tuple(parts), f"cut {len(parts)} specimens"))
