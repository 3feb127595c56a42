"""Every specimen that waits, in a few words: what order, time and cord are reckoned from."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from bruiser.core.errors import BruiserError
from bruiser.core.records.preparation import Preparation, Window, in_force
from bruiser.core.records.records import Specimen, Tail
from bruiser.core.records.stock import Stock, StockEntry
from bruiser.store.campaigns import specimen_of
from bruiser.store.open_campaign import Connection
from bruiser.store.preparations import load_preparations
from bruiser.store.waiting import (
    WAITING_KIND,
    WaitingRow,
    ledger_of_waiting,
    tails_of_waiting,
    waiting_ids,
    waiting_rows,
)
from bruiser.workshop.logbook.books import Books
from bruiser.workshop.logbook.entries import Entry, State, as_tied, waiting_state, window_in

_BARE: dict[str, Any] = {
    "id": "", "code": "", "queue_position": 0, "seed": 0, "note": "", "pair": "",
    "replaces_id": None,
}  # fmt: skip
"""What a specimen has for itself alone; the rest is its kind."""
_CANNOT_BE = (ValueError, KeyError, StopIteration, TypeError, BruiserError)


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """A specimen that waits.

    Parameters
    ----------
    kind : Specimen
        What is planned, without its id, code, place, seed, note and pair: one object for many
        that are alike.
    cut_of : frozenset of str
        Lots in stock that its pieces were cut from.
    begun : bool
        Whether anything was done to it, or cut for it, be it taken back.
    """

    specimen_id: str
    code: str
    place: int
    pair: str
    note: str
    kind: Specimen
    state: State
    window: Window | None
    cut_of: frozenset[str]
    begun: bool

    @property
    def order(self) -> tuple[int, str]:
        """What the queue is sorted by."""
        return self.place, self.code

    @property
    def is_cut(self) -> bool:
        """Whether every piece of it has been cut."""
        return self.cut_of.issuperset(self.kind.stock_ids)


def cut_lots(specimen: Specimen, ledger: Sequence[StockEntry], stock: Stock) -> frozenset[str]:
    """The lots that a specimen's pieces have been cut from."""
    if not ledger:
        return frozenset()
    return frozenset(i for i in specimen.stock_ids if stock.cut_in(ledger, i) is not None)


def waiting_of(entry: Entry, stock: Stock) -> Waiting:
    """A specimen that was read whole and waits, in a few words."""
    s = entry.specimen
    bare = replace(s, id="", code="", queue_position=0, seed=0, note="", pair="", replaces_id=None)
    return _made(
        WaitingRow((), s.id, s.code, s.queue_position, s.pair, s.note),
        bare,
        entry.prepared,
        entry.ledger,
        stock,
    )


def _made(
    row: WaitingRow,
    kind: Specimen,
    prepared: Sequence[Preparation],
    ledger: Sequence[StockEntry],
    stock: Stock,
) -> Waiting:
    steps = in_force(prepared)
    cut_of = cut_lots(kind, ledger, stock)
    return Waiting(
        specimen_id=row.specimen_id,
        code=row.code,
        place=row.place,
        pair=row.pair,
        note=row.note,
        kind=kind,
        state=waiting_state(steps, is_cut=cut_of.issuperset(kind.stock_ids)),
        window=window_in(kind, steps),
        cut_of=cut_of,
        begun=bool(prepared or ledger),
    )


def read_waiting(
    connection: Connection, books: Books, of: Collection[str] | None = None
) -> dict[str, Waiting]:
    """Specimens that wait, by id, in no order; of some ids, or of all.

    What cannot be made out is left out here: it is named where the specimen itself is read.
    """
    rows = waiting_rows(connection, of)
    if not rows:
        return {}
    tails = tails_of_waiting(connection, of)
    prepared = load_preparations(connection, waiting_ids(of))
    ledger = ledger_of_waiting(connection, of)
    kind_of = _kind_maker(books)
    found = {}
    for row in rows:
        key = row.specimen_id
        with suppress(*_CANNOT_BE):
            steps = prepared.get(key, ())
            kind = as_tied(kind_of(row.kind, tails.get(key, ())), steps)
            found[key] = _made(row, kind, steps, ledger.get(key, ()), books.stock)
    return found


def _kind_maker(books: Books) -> Callable[[tuple[Any, ...], tuple[Tail, ...]], Specimen]:
    """Makes kinds of rows; what is alike in many of them is made once."""
    lots = {lot.id: lot for lot in books.lots}
    knots = {knot.id: knot for knot in books.knots}
    fixtures = {fixture.id: fixture for fixture in books.bench_book.fixtures}
    kinds: dict[tuple[tuple[Any, ...], tuple[Tail, ...]], Specimen] = {}

    def kind_of(row: tuple[Any, ...], tails: tuple[Tail, ...]) -> Specimen:
        key = row, tails
        if key not in kinds:
            named = {**_BARE, **dict(zip(WAITING_KIND, row, strict=True))}
            kinds[key] = specimen_of(named, lots, knots, fixtures, tails)
        return kinds[key]

    return kind_of
