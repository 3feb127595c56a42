"""Cordage on hand: hanks and the ledger of what was taken from them.

A ledger is never edited: every change of a length is an entry, and an undone one is followed by
its opposite. What was loaded never comes back.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class HankKind(StrEnum):
    """How a length of cordage lies on the shelf."""

    HANK = "hank"
    SPOOL = "spool"
    OFFCUT = "offcut"


class StockMove(StrEnum):
    """Why a length changed."""

    RECEIVED = "received"
    CUT = "cut"
    UNDONE = "cut undone"
    PUT_BACK = "offcut put back"
    WASTE = "waste"
    MEASURED = "measured anew"


@dataclass(frozen=True, kw_only=True)
class Hank:
    """One hank, spool or offcut of a lot, by its label."""

    id: str
    lot_id: str
    label: str
    kind: HankKind


@dataclass(frozen=True, kw_only=True)
class StockEntry:
    """One line of the ledger: `change_m` is positive for what came in."""

    id: str
    hank_id: str
    made_at: str
    move: StockMove
    change_m: float
    specimen_id: str | None = None
    note: str = ""


@dataclass(frozen=True, kw_only=True)
class HankSum:
    """What the ledger says of one hank, in metre: what it began with, and the sum of all lines."""

    received_m: float
    left_m: float


@dataclass(frozen=True, kw_only=True)
class Stock:
    """All hanks with what is left on them, and where it was read the ledger of specimens.

    Parameters
    ----------
    sums : mapping
        By hank id; a hank without a line is not in it.
    lines : mapping
        The ledger of specimens by their id, in the order written.
    """

    hanks: tuple[Hank, ...] = ()
    sums: Mapping[str, HankSum] = field(default_factory=dict)
    lines: Mapping[str, tuple[StockEntry, ...]] = field(default_factory=dict)

    def of_lot(self, lot_id: str) -> tuple[Hank, ...]:
        """The hanks of a lot."""
        return tuple(h for h in self.hanks if h.lot_id == lot_id)

    def left_m(self, hank_id: str) -> float:
        """Length left on a hank in metre, to the tenth of a millimetre."""
        found = self.sums.get(hank_id)
        return 0.0 if found is None else max(0.0, round(found.left_m, 4))

    def on_hand_m(self, lot_id: str) -> float:
        """Length left of a lot in metre."""
        return math.fsum(self.left_m(h.id) for h in self.of_lot(lot_id))

    def received_m(self, hank_id: str) -> float:
        """Length a hank began with in metre."""
        found = self.sums.get(hank_id)
        return 0.0 if found is None else found.received_m

    def lot_of(self, hank_id: str) -> str:
        """The lot a hank belongs to; empty for an unknown hank."""
        return next((h.lot_id for h in self.hanks if h.id == hank_id), "")

    def cut_for(self, specimen_id: str, lot_id: str = "") -> StockEntry | None:
        """The cut a specimen is made from, as :meth:`cut_in` finds it in the ledger read."""
        return self.cut_in(self.lines.get(specimen_id, ()), lot_id)

    def cut_in(self, ledger: Iterable[StockEntry], lot_id: str = "") -> StockEntry | None:
        """The cut in a specimen's ledger, unless it was undone or put back.

        A specimen of two lines has a cut in each of their lots; `lot_id` says which is meant.
        """
        found = None
        for entry in ledger:
            if lot_id in ("", self.lot_of(entry.hank_id)):
                found = entry if entry.move is StockMove.CUT else None
        return found


def stock_of(hanks: Iterable[Hank], ledger: Iterable[StockEntry]) -> Stock:
    """The stock that a whole ledger leaves, in the order written."""
    changes: dict[str, list[float]] = {}
    lines: dict[str, tuple[StockEntry, ...]] = {}
    for entry in ledger:
        changes.setdefault(entry.hank_id, []).append(entry.change_m)
        if entry.specimen_id is not None:
            lines[entry.specimen_id] = (*lines.get(entry.specimen_id, ()), entry)
    sums = {
        hank_id: HankSum(received_m=found[0], left_m=math.fsum(found))
        for hank_id, found in changes.items()
    }
    return Stock(hanks=tuple(hanks), sums=sums, lines=lines)


def longest_first(stock: Stock, hanks: Iterable[Hank]) -> list[Hank]:
    """Hanks by the length left on them, longest first."""
    return sorted(hanks, key=lambda h: (-stock.left_m(h.id), h.label))
