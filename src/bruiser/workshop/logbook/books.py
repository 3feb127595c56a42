"""What a campaign holds beside its specimens: cordage, knots, brief, stock, benches, guide."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

from bruiser.catalogue import Structure, load_catalogue, parse_structure
from bruiser.core.choice.brief import Brief
from bruiser.core.errors import BruiserError
from bruiser.core.planning.cord_use import CordReading
from bruiser.core.records.bench_book import BenchBook
from bruiser.core.records.families import GENERAL
from bruiser.core.records.records import Knot, Lot
from bruiser.core.records.stock import Stock
from bruiser.store import bench_books, briefs, campaigns, stock
from bruiser.store.briefs import OwnStructure
from bruiser.store.checked_rows import leave_out
from bruiser.store.guides import Revision, newest_guide
from bruiser.store.open_campaign import Connection


@dataclass(frozen=True, kw_only=True)
class Books:
    """All of it, as it stood at one moment; none of it grows with the pulls but the stock."""

    lots: tuple[Lot, ...] = ()
    knots: tuple[Knot, ...] = ()
    brief: Brief = field(default_factory=Brief)
    stock: Stock = field(default_factory=Stock)
    cord_readings: tuple[CordReading, ...] = ()
    own_structures: tuple[OwnStructure, ...] = ()
    trade: str = GENERAL
    bench_book: BenchBook = field(default_factory=BenchBook)
    guide: Revision | None = None

    @property
    def lots_in_use(self) -> tuple[Lot, ...]:
        """Lots that are not archived."""
        return tuple(lot for lot in self.lots if not lot.archived)

    @property
    def knots_in_play(self) -> tuple[Knot, ...]:
        """Knots that are not archived."""
        return tuple(knot for knot in self.knots if not knot.archived)

    @property
    def catalogue(self) -> dict[str, Structure]:
        """Shipped structures, with the campaign's own in their place or beside them."""
        return catalogue_with(self.own_structures)

    @property
    def names(self) -> dict[str, str]:
        """Name and variant of every knot by its id."""
        return {knot.id: knot.title for knot in self.knots}

    def lot(self, lot_id: str) -> Lot:
        """A lot by its id."""
        return next(lot for lot in self.lots if lot.id == lot_id)

    def knot(self, knot_id: str) -> Knot:
        """A knot by its id."""
        return next(knot for knot in self.knots if knot.id == knot_id)


@lru_cache(maxsize=4)
def catalogue_with(own: tuple[OwnStructure, ...]) -> dict[str, Structure]:
    """The shipped structures with a campaign's own over them."""
    return load_catalogue() | {o.key: parse_structure(o.key, o.text) for o in own}


def name_knots(knots: Iterable[Knot], catalogue: Mapping[str, Structure], trade: str) -> list[Knot]:
    """Knots under the names a trade uses, by name; one without a structure keeps its own."""
    named = [
        replace(k, name=catalogue[k.structure].name_in(trade)) if k.structure in catalogue else k
        for k in knots
    ]
    return sorted(named, key=lambda k: (k.name.lower(), k.variant))


def load_books(connection: Connection, trade: str) -> Books:
    """Read them."""
    own = _readable(connection, briefs.load_structures(connection))
    catalogue = catalogue_with(tuple(own))
    return Books(
        lots=tuple(campaigns.load_lots(connection)),
        knots=tuple(name_knots(campaigns.load_knots(connection), catalogue, trade)),
        brief=briefs.load_brief(connection),
        stock=stock.load_stock(connection),
        cord_readings=tuple(stock.load_cord_readings(connection)),
        own_structures=tuple(own),
        trade=trade,
        bench_book=bench_books.load_bench_book(connection),
        guide=newest_guide(connection),
    )


def _readable(connection: Connection, own: list[OwnStructure]) -> list[OwnStructure]:
    """The structures of one's own whose text can be read; the others are set aside."""
    kept = []
    for structure in own:
        try:
            parse_structure(structure.key, structure.text)
        except BruiserError as error:
            leave_out(connection, "own_structure", {"key": structure.key}, error)
        else:
            kept.append(structure)
    return kept
