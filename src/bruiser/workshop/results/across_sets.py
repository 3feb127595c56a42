"""Which groups of a campaign compare across its lots, and what that predicts."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import combinations
from pathlib import Path

from bruiser.core.beyond.across import Across, PulledCell, cells_of, lay_across
from bruiser.core.beyond.paired import PairedCell, PairedConditions, pair_conditions
from bruiser.core.beyond.rules import AcrossRules
from bruiser.core.errors import BruiserError
from bruiser.core.memory import Memory
from bruiser.core.performance.groups import GroupKey
from bruiser.core.records.records import DRESSED
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.lot_results import KnotResult, LotResults, all_results


@dataclass(frozen=True, order=True, kw_only=True)
class Alike:
    """What must be alike beside the knot, for its share in one lot to say something of another."""

    condition: str
    method: str
    direction: str
    dressing: str


@dataclass(frozen=True, kw_only=True)
class AcrossSet:
    """One set of groups that compare.

    Parameters
    ----------
    lots : dict of str to str
        Lot ids by the cordage's name.
    pulls : dict
        How many specimens stand behind a measured cell, by knot and cordage.
    left_out : dict of str to str
        Names of the lots that do not enter, by id.
    beside, missing : tuple of str
        Campaigns laid beside with their bench and days, and files that could not be read.
    """

    alike: Alike
    across: Across
    lots: dict[str, str] = field(default_factory=dict)
    pulls: dict[tuple[str, str], int] = field(default_factory=dict)
    left_out: dict[str, str] = field(default_factory=dict)
    beside: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()


def across_sets(
    results: dict[str, LotResults], memory: Memory, rules: AcrossRules | None = None
) -> tuple[AcrossSet, ...]:
    """Every set of groups that compare, the one with most measured cells first."""
    how = rules or AcrossRules()
    left_out = {k: r.baseline.lot.name for k, r in results.items() if k in how.left_out}
    laid, missing = _laid_beside(how.beside, memory)
    every: dict[str, LotResults] = {k: r for k, r in results.items() if k not in left_out}
    labels = dict.fromkeys(every, "")
    for one in laid:
        every |= one.results
        labels |= dict.fromkeys(one.results, f" ({one.label})")
    by_set: dict[Alike, dict[tuple[str, str], KnotResult]] = {}
    for lot_id, rows in every.items():
        for row in rows.knots:
            if row.key.cordage_b:
                continue  # A bend of unlike lines has no cordage of its own.
            own = by_set.setdefault(_alike(row), {})
            at = row_name(row), f"{row.result.data.cordage}{labels[lot_id]}"
            known = own.get(at)
            if known is None or _specimens(row) > _specimens(known):
                own[at] = row
    found = [_set(alike, rows, every, memory, how) for alike, rows in by_set.items()]
    named = tuple(one.label for one in laid)
    made = [
        replace(one, left_out=left_out, beside=named, missing=missing)
        for one in found
        if one is not None
    ]
    made.sort(key=lambda s: (-len(s.pulls), s.alike))
    return tuple(made)


@dataclass(frozen=True)
class Beside:
    """A campaign laid beside: whose and when, and its results under ids of its own."""

    label: str
    results: dict[str, LotResults]


def _laid_beside(
    paths: Sequence[str], memory: Memory
) -> tuple[tuple[Beside, ...], tuple[str, ...]]:
    """The campaigns laid beside; a file is read again only when it changed."""
    found, missing = [], []
    for text in paths:
        path = Path(text)
        try:
            seen = path.stat()
            key = ("laid beside", text, seen.st_mtime_ns, seen.st_size)
            found.append(memory.once(key, partial(read_beside, path)))
        except (OSError, BruiserError):
            missing.append(path.name)
    return tuple(found), tuple(missing)


def read_beside(path: Path) -> Beside:
    """Read a campaign file for its results; nothing is written to it.

    Raises
    ------
    BruiserError
        If it cannot be read.
    """
    workshop = open_workshop(path, read_only=True)
    try:
        logbook = read_logbook(workshop)
        results = all_results(gather(logbook))
        pulls = [e.pull for e in logbook.every() if e.pull is not None]
        benches = " and ".join(logbook.instruments()) or "no bench"
        title = workshop.campaign.title
    finally:
        workshop.close()
    days = sorted(p.started_at[:10] for p in pulls)
    when = f"{days[0]} to {days[-1]}" if days else "no pulls"
    mine = {
        f"{path}|{lot_id}": replace(
            r, knots=tuple(replace(k, lot=replace(k.lot, id=f"{path}|{lot_id}")) for k in r.knots)
        )
        for lot_id, r in results.items()
    }
    return Beside(f"{title}, {benches}, {when}", mine)


def row_name(row: KnotResult) -> str:
    """The knot with what else must be alike for its row: what it is on, and what was done to it."""
    key: GroupKey = row.key
    return ", ".join(part for part in (key.knot, key.host.called, key.state) if part)


def _alike(row: KnotResult) -> Alike:
    key = row.key
    return Alike(
        condition=key.condition,
        method=key.method,
        direction=key.direction,
        dressing="" if key.dressing == DRESSED else key.dressing,
    )


def _specimens(row: KnotResult) -> int:
    return row.efficiency.counts.specimens


def _set(
    alike: Alike,
    rows: dict[tuple[str, str], KnotResult],
    results: dict[str, LotResults],
    memory: Memory,
    rules: AcrossRules,
) -> AcrossSet | None:
    named = _short(rows)
    measured, unused = cells_of(
        [
            PulledCell(
                cordage=at[1],
                knot=named[at],
                efficiency=row.efficiency,
                plain=results[row.lot.id].baseline.result.data.sample,
            )
            for at, row in rows.items()
        ]
    )
    key = ("across", tuple(measured), tuple(unused), rules.prior)
    across = memory.recall(key)
    if across is None:
        across = memory.keep(key, lay_across(measured, unused, rules.prior))
    if across is None:
        return None
    return AcrossSet(
        alike=alike,
        across=across,
        lots={cordage: row.lot.id for (_, cordage), row in rows.items()},
        pulls={(named[at], at[1]): _specimens(row) for at, row in rows.items()},
    )


def _short(rows: dict[tuple[str, str], KnotResult]) -> dict[tuple[str, str], str]:
    """The knot alone where that tells the rows of a set apart."""
    whole = {at[0]: row.key.knot for at, row in rows.items()}
    often = Counter(whole.values())
    return {at: row.key.knot if often[row.key.knot] == 1 else at[0] for at, row in rows.items()}


def condition_contrasts(results: dict[str, LotResults]) -> tuple[PairedConditions, ...]:
    """Every pair of conditions that some cordage was pulled in, the dry one first."""
    by_stock: dict[str, list[LotResults]] = {}
    for r in results.values():
        by_stock.setdefault(r.baseline.lot.stock_id, []).append(r)
    found: dict[tuple[str, str], list[PairedCell]] = {}
    for own in by_stock.values():
        for one, other in combinations(sorted(own, key=_wetness), 2):
            names = one.baseline.lot.condition, other.baseline.lot.condition
            cells = _pairs(one, other)
            if names[0] != names[1] and cells:
                found.setdefault(names, []).extend(cells)
    return tuple(pair_conditions(a, b, cells) for (a, b), cells in sorted(found.items()))


def _wetness(results: LotResults) -> tuple[bool, str]:
    lot = results.baseline.lot
    return lot.id != lot.stock_id, lot.condition


def _pairs(one: LotResults, other: LotResults) -> list[PairedCell]:
    """The knots pulled alike in both conditions of a cordage."""
    rows = {(row_name(k), replace(_alike(k), condition="")): k for k in other.knots}
    pulled = []
    for row in one.knots:
        twin = rows.get((row_name(row), replace(_alike(row), condition="")))
        if twin is not None and not row.key.cordage_b:
            pulled.append((row, twin))
    cells = []
    for row, twin in pulled:
        measured, _ = cells_of(
            [
                PulledCell(
                    cordage=side,
                    knot=row_name(row),
                    efficiency=own.efficiency,
                    plain=base.baseline.result.data.sample,
                )
                for side, own, base in (("first", row, one), ("second", twin, other))
            ]
        )
        if len(measured) == 2:
            first, second = measured
            cells.append(
                PairedCell(
                    cordage=one.baseline.lot.name,
                    knot=row_name(row),
                    difference=second.ln_share - first.ln_share,
                    error=math.hypot(first.error, second.error),
                )
            )
    return cells
