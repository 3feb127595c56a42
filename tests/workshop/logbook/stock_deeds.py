"""Deeds on lots, hanks, cuts, knots and own structures."""

from dataclasses import replace

from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.records import (
    Knot,
    Lot,
)
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.store.briefs import OwnStructure
from bruiser.workshop.desk import knot_commands
from bruiser.workshop.desk import lot_commands as lots
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.logbook.entries import Stage

TRADES = ("general", "climbing", "sailing")


class StockDeeds:
    """What is done to the stock and to the knots in play."""

    def add_lot(self):
        name = self.rng.choice(("A", "B", "C"))
        stock = self.pick([None, *(x.stock_id for x in self.j.lots)])
        return lots.AddLot(
            Lot(
                id=self.new(),
                name=name,
                material="nylon",
                construction="braid",
                diameter_m=0.008,
                condition="dry",
                stock_lot_id=stock,
            )
        )

    def drop_lot(self):
        lot = self.pick(self.j.lots)
        return lot and lots.DropLot(lot)

    def edit_lot(self):
        lot = self.pick(self.j.lots)
        return lot and lots.EditLot(
            replace(lot, diameter_m=self.rng.uniform(0.004, 0.02), archived=self.rng.random() < 0.3)
        )

    def receive_hank(self):
        lot = self.pick(self.j.lots)
        if lot is None:
            return None
        hank = Hank(
            id=self.new(),
            lot_id=lot.stock_id,
            label=f"H{self.rng.randrange(4)}",
            kind=HankKind.HANK,
        )
        entry = StockEntry(
            id=self.new(),
            hank_id=hank.id,
            made_at=self.w.now(),
            move=StockMove.RECEIVED,
            change_m=30.0,
        )
        return lots.ReceiveHank(hank, entry)

    def drop_hank(self):
        hank = self.pick(self.j.stock.hanks)
        first = hank and next(iter(self.j.ledger([hank.id])), None)
        return first and lots.DropHank(hank, first)

    def cut_specimen(self):
        entry, hank = self.entry(Stage.PLANNED), self.pick(self.j.stock.hanks)
        if entry is None or hank is None:
            return None
        length = cut_length_m(self.j, entry.specimen)
        line = StockEntry(
            id=self.new(),
            hank_id=hank.id,
            made_at=self.w.now(),
            move=StockMove.CUT,
            change_m=-length,
            specimen_id=entry.specimen.id,
        )
        return lots.CutSpecimen(
            entry=line, waste_id=self.new(), offcut_minimum_m=self.rng.choice((0.0, 40.0))
        )

    def put_back_offcut(self):
        cut = self.pick(
            e
            for e in self.j.ledger([h.id for h in self.j.stock.hanks])
            if e.move is StockMove.CUT and e.specimen_id
        )
        if cut is None:
            return None
        lot = next(h.lot_id for h in self.j.stock.hanks if h.id == cut.hank_id)
        hank = Hank(id=self.new(), lot_id=lot, label=f"rest {self.new()}", kind=HankKind.OFFCUT)
        line = StockEntry(
            id=self.new(),
            hank_id=hank.id,
            made_at=self.w.now(),
            move=StockMove.PUT_BACK,
            change_m=-cut.change_m,
            specimen_id=cut.specimen_id,
        )
        return lots.PutBackOffcut(hank=hank, entry=line, offcut_minimum_m=0.1)

    def add_knot(self):
        key = self.rng.choice(("bowline", "figure-eight-loop", "reef", "clove-hitch"))
        s = self.j.catalogue.get(key) or self.j.catalogue["bowline"]
        return knot_commands.AddKnot(
            Knot(id=self.new(), structure=s.key, variant="plain", name=s.name, family=s.family)
        )

    def drop_knot(self):
        knot = self.pick(self.j.knots)
        return knot and knot_commands.DropKnot(knot)

    def archive_knot(self):
        knot = self.pick(self.j.knots)
        return knot and knot_commands.ArchiveKnot(knot.id, not knot.archived)

    def record_cord(self):
        knot, lot = self.pick(self.j.knots), self.pick(self.j.lots)
        if knot is None or lot is None:
            return None
        made = CordReading(
            id=self.new(),
            knot_id=knot.id,
            lot_id=lot.id,
            length_m=0.4,
            made_at=self.w.now(),
            note="",
        )
        return knot_commands.RecordCord(made)

    def drop_cord(self):
        reading = self.pick(self.j.cord_readings)
        return reading and knot_commands.DropCord(reading)

    def keep_structure(self):
        key = self.rng.choice(("own-a", "own-b", "bowline"))
        from bruiser.catalogue.loader import shipped_texts

        text = shipped_texts()["bowline"]
        based = "bowline" if key == "bowline" else ""
        return knot_commands.KeepStructure(
            OwnStructure(key=key, text=text, based_on=based, made_at=self.w.now())
        )

    def drop_structure(self):
        own = self.pick(self.j.own_structures)
        return own and knot_commands.DropStructure(own)
