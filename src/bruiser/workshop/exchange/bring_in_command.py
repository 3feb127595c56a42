"""The command that stores a table of pulls as one step, and what leads to it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from bruiser.catalogue.finding import fold
from bruiser.formats.column_mapping import TableMapping, recognise
from bruiser.formats.mapped_table import read_mapped
from bruiser.formats.sheets import SheetRows
from bruiser.store import briefs, campaigns, pulls, readings
from bruiser.store.backups import BackupWhy, keep_backup
from bruiser.store.open_campaign import Connection
from bruiser.workshop.exchange.bringing_in import ImportPlan, plan_import, refuse_with
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class BringIn(Command):
    """Store the lots, structures, knots and pulls of a table: all of them, or none."""

    plan: ImportPlan
    title: str = "bring in a table"

    def apply(self, connection: Connection) -> Changes:
        for lot in self.plan.lots:
            campaigns.insert_lot(connection, lot)
        for structure in self.plan.structures:
            briefs.put_structure(connection, structure)
        for knot in self.plan.knots:
            campaigns.insert_knot(connection, knot)
        rows = self.plan.rows
        campaigns.insert_specimens(connection, [row.specimen for row in rows])
        pulls.insert_pulls(connection, [row.pull for row in rows])
        pulls.insert_first_findings(connection, [row.finding for row in rows])
        for row in rows:
            for reading in row.readings:
                readings.insert_reading(connection, reading)
        tables = {"lot", "own_structure", "knot", "specimen", "pull", "finding", "reading"}
        return Changes(frozenset(tables), tuple(row.pull.id for row in self.plan.rows))


def recognised(sheet: SheetRows, logbook: Logbook) -> TableMapping:
    """What the columns of a sheet most likely mean in this campaign."""
    names = {fold(n.name) for s in logbook.catalogue.values() for n in s.names}
    names |= {fold(key) for key in logbook.catalogue}
    lots = {fold(lot.name): lot.rated_strength_n or 0.0 for lot in logbook.lots}
    return recognise(sheet, lambda c: fold(c) in names, lambda c: fold(c) in lots, lots)


def look_at_table(
    workshop: Workshop, logbook: Logbook, sheet: SheetRows, mapping: TableMapping, source: str
) -> ImportPlan:
    """What a sheet would make of the campaign by a mapping; nothing is stored."""
    table = read_mapped(sheet, mapping)
    return plan_import(logbook, table, mapping, source, workshop.now())


def bring_in(workshop: Workshop, plan: ImportPlan, source: Path | str) -> Changes:
    """Store a plan as one step, after a copy was kept.

    Raises
    ------
    InputError
        If something of it is not right.
    Refused
        If it holds nothing new.
    StoreError
        If no copy could be kept, or it could not be stored; nothing was.
    """
    refuse_with(plan)
    file = workshop.file
    keep_backup(file.path, BackupWhy.IMPORT, file.copy_to)
    name = source.name if isinstance(source, Path) else source
    return workshop.do(BringIn(plan, f"bring in {len(plan.rows)} pulls from {name}"))
