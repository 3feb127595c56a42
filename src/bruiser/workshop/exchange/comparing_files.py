"""What differs between a campaign and another state of it, in rows and in words."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.words import count
from bruiser.store.open_campaign import OpenCampaign
from bruiser.store.tables import TABLES, key_of, read_tables

_NOUNS = {
    "trace_analysis": "reading of a trace",
    "stock_entry": "line of the stock",
    "preparation": "step of a preparation",
    "tail_draw": "draw",
    "knot_inspection": "inspection",
    "campaign_use": "use",
    "criterion": "criterion",
}
_PLURALS = {
    "trace_analysis": "readings of traces",
    "stock_entry": "lines of the stock",
    "preparation": "steps of preparations",
    "criterion": "criteria",
}


@dataclass(frozen=True, kw_only=True)
class TableDifference:
    """Rows of a table that only one state has, and those that both have differently."""

    table: str
    only_here: int
    only_there: int
    changed: int

    @property
    def words(self) -> str:
        """What putting the other state back would do to it."""
        noun = _NOUNS.get(self.table, self.table.replace("_", " "))
        plural = _PLURALS.get(self.table, "")
        said = []
        if self.only_here:
            said.append(f"{count(self.only_here, noun, plural)} gone")
        if self.only_there:
            said.append(f"{count(self.only_there, noun, plural)} back")
        if self.changed:
            said.append(f"{count(self.changed, noun, plural)} as before")
        return ", ".join(said)


def compare_files(here: OpenCampaign, there: OpenCampaign) -> list[TableDifference]:
    """How another state of a campaign differs, table by table; equal tables are left out."""
    with here.reading() as mine, there.reading() as other:
        rows_here, rows_there = read_tables(mine), read_tables(other)
    found = []
    for table in TABLES:
        mine_by_key = {key_of(table, row): row for row in rows_here[table]}
        there_by_key = {key_of(table, row): row for row in rows_there[table]}
        both = mine_by_key.keys() & there_by_key.keys()
        difference = TableDifference(
            table=table,
            only_here=len(mine_by_key) - len(both),
            only_there=len(there_by_key) - len(both),
            changed=sum(mine_by_key[key] != there_by_key[key] for key in both),
        )
        if difference.only_here or difference.only_there or difference.changed:
            found.append(difference)
    return found


def difference_words(found: list[TableDifference]) -> str:
    """The same in one line."""
    return "; ".join(d.words for d in found) if found else "nothing differs"
