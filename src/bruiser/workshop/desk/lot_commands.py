"""Commands on lots of cordage and on the stock ledger."""

from __future__ import annotations

from dataclasses import dataclass, replace

from bruiser.core.errors import Refused
from bruiser.core.records.records import Lot
from bruiser.core.records.stock import Hank, StockEntry, StockMove
from bruiser.store import campaigns, pulls, stock
from bruiser.store.open_campaign import Connection
from bruiser.workshop.logbook.commands import Changes, Command


@dataclass(frozen=True)
class AddLot(Command):
    """Enter a lot of cordage."""

    lot: Lot
    title: str = "enter the lot"

    def apply(self, connection: Connection) -> Changes:
        campaigns.insert_lot(connection, self.lot)
        return Changes(frozenset({"lot"}), (self.lot.id,))


@dataclass(frozen=True)
class DropLot(Command):
    """Remove a lot that nothing depends on."""

    lot: Lot
    title: str = "delete the lot"

    def apply(self, connection: Connection) -> Changes:
        _refuse_if(campaigns.lot_dependents(connection, self.lot.id), f"Lot {self.lot.name}")
        campaigns.delete_lot(connection, self.lot.id)
        return Changes(frozenset({"lot"}), (self.lot.id,))


def _refuse_if(dependents: list[str], what: str) -> None:
    if dependents:
        raise Refused(
            f"{what} cannot be deleted: {', '.join(dependents)} depend on it.",
            "Archive it instead; it then stays on record and out of the way.",
        )


@dataclass(frozen=True)
class EditLot(Command):
    """Change what is known of a lot."""

    after: Lot
    title: str = "change the lot"

    def apply(self, connection: Connection) -> Changes:
        campaigns.update_lot(connection, self.after)
        return Changes(frozenset({"lot"}), (self.after.id,))


@dataclass(frozen=True)
class ReceiveHank(Command):
    """Put a hank, spool or offcut with its real length on the shelf."""

    hank: Hank
    entry: StockEntry
    title: str = "take in the hank"

    def apply(self, connection: Connection) -> Changes:
        stock.insert_hank(connection, self.hank)
        stock.insert_entry(connection, self.entry)
        return Changes(frozenset({"hank", "stock_entry"}), (self.hank.id,))


@dataclass(frozen=True)
class DropHank(Command):
    """Take back a hank that nothing was cut from."""

    hank: Hank
    entry: StockEntry
    title: str = "take back the hank"

    def apply(self, connection: Connection) -> Changes:
        if len(stock.ledger_of(connection, (self.hank.id,))) > 1:
            raise Refused(f"Hank {self.hank.label} was cut from; it stays on record.")
        stock.delete_hank(connection, self.hank.id)
        return Changes(frozenset({"hank", "stock_entry"}), (self.hank.id,))


def _was_loaded(connection: Connection, specimen_id: str | None) -> bool:
    return specimen_id is not None and bool(pulls.load_pulls(connection, (specimen_id,)))


@dataclass(frozen=True, kw_only=True)
class CutSpecimen(Command):
    """Cut a specimen from a hank; a rest shorter than the offcut minimum is written off."""

    entry: StockEntry
    waste_id: str
    offcut_minimum_m: float
    title: str = "cut the specimen"

    def apply(self, connection: Connection) -> Changes:
        kept = stock.stock_at(connection, self.entry.hank_id, self.entry.specimen_id)
        left = kept.left_m(self.entry.hank_id)
        wanted = -self.entry.change_m
        hank = next(h for h in kept.hanks if h.id == self.entry.hank_id)
        if wanted <= 0:
            raise Refused("A cut needs a length above zero.")
        if wanted > left + 1e-9:
            raise Refused(
                f"Hank {hank.label} has {left:.2f} m left, {wanted - left:.2f} m too little.",
                "Cut from another hank.",
            )
        lot_id = kept.lot_of(self.entry.hank_id)
        if self.entry.specimen_id and kept.cut_for(self.entry.specimen_id, lot_id) is not None:
            raise Refused("This specimen is cut already.")
        stock.insert_entry(connection, self.entry)
        rest = left - wanted
        if 0 < rest < self.offcut_minimum_m:
            note = f"shorter than {self.offcut_minimum_m:g} m"
            waste = replace(
                self.entry,
                id=self.waste_id,
                move=StockMove.WASTE,
                change_m=-rest,
                specimen_id=None,
                note=note,
            )
            stock.insert_entry(connection, waste)
        return Changes(frozenset({"stock_entry"}), (self.entry.id,))

    def refuse_undo(self, connection: Connection) -> None:
        if _was_loaded(connection, self.entry.specimen_id):
            raise Refused("It was loaded: its cordage does not go back into the stock.")


@dataclass(frozen=True, kw_only=True)
class PutBackOffcut(Command):
    """Put a piece that was cut and never loaded back as an offcut, if it is long enough."""

    hank: Hank
    entry: StockEntry
    offcut_minimum_m: float
    title: str = "put the offcut back"

    def apply(self, connection: Connection) -> Changes:
        if _was_loaded(connection, self.entry.specimen_id):
            raise Refused("It was loaded: it is retired and never goes back into the stock.")
        kept = stock.stock_at(connection, self.entry.hank_id, self.entry.specimen_id)
        cut = kept.cut_for(self.entry.specimen_id or "")
        if cut is None:
            raise Refused("This specimen was not cut, or went back already.")
        if self.entry.change_m > -cut.change_m + 1e-9:
            raise Refused(f"It was cut {-cut.change_m:.2f} m long; no more can go back.")
        if self.entry.change_m < self.offcut_minimum_m:
            raise Refused(
                f"Offcuts under {self.offcut_minimum_m:g} m are not kept.",
                "Change the shortest offcut in Brief, or let it go.",
            )
        stock.insert_hank(connection, self.hank)
        stock.insert_entry(connection, self.entry)
        return Changes(frozenset({"hank", "stock_entry"}), (self.hank.id,))
