"""What every knot of a lot does besides breaking, with the pulls behind each number."""

from __future__ import annotations

from dataclasses import dataclass, fields

from bruiser.core.behaviour.holding import HoldPull, HoldResult, measure_holds
from bruiser.core.behaviour.work import WorkPulls, WorkResult, measure_works
from bruiser.core.performance.groups import TiedOn
from bruiser.core.records.layouts import PlaceKind
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.records import DRESSED, Gave, Knot, Lot
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.strength import estimate
from bruiser.workshop.groups.gathering import Gathered, Group, Tried, data_of
from bruiser.workshop.groups.work_pulls import work_of


@dataclass(frozen=True, kw_only=True, order=True)
class WorkKey:
    """All that must be equal for pulls to stand behind one number of a knot's work.

    Up to which load a slide was tried does not set two pulls apart; wraps and legs do.
    """

    knot: str
    dressing: str
    host_rope: str
    host: TiedOn
    direction: str
    wraps: int

    @property
    def on(self) -> str:
        """What it was tied to, and by which legs, in words; empty for nothing special."""
        host = self.host_rope or str(self.host)
        parts = [f"on {host}" if host else "", self.direction]
        parts += [self.dressing if self.dressing != DRESSED else ""]
        return ", ".join(p for p in parts if p)


@dataclass(frozen=True, kw_only=True)
class WorkRow:
    """One knot at its work in one lot, with the pulls behind it.

    Parameters
    ----------
    lot_n, host_n : float or None
        Typical strength of the cord's plain rope and of the host rope's, in newton.
    """

    key: WorkKey
    lot: Lot
    knot: Knot
    pulls: WorkPulls
    result: WorkResult
    tried: tuple[Tried, ...]
    lot_n: float | None
    host_n: float | None = None
    host_lot: Lot | None = None

    @property
    def pull_ids(self) -> tuple[str, ...]:
        """The pulls behind it."""
        return tuple(t.finding.pull_id for t in self.tried)

    @property
    def ratio(self) -> float | None:
        """Cord over host diameter; None without a host rope or a host of known diameter."""
        if self.host_lot is not None:
            return self.lot.diameter_m / self.host_lot.diameter_m
        return None


def work_key(group: Group) -> WorkKey | None:
    """The work a group belongs to; None for plain rope."""
    key = group.key
    if key is None or group.knot is None:
        return None
    plan = group.tried[0].entry.specimen.method if group.tried else None
    wraps = int(plan.value("wraps")) if plan is not None and tells(plan.key, Tells.WRAPS) else 0
    return WorkKey(
        knot=key.knot,
        dressing=key.dressing,
        host_rope=key.cordage_b,
        host=key.host,
        direction=key.direction,
        wraps=wraps,
    )


def work_rows(gathered: Gathered, lot_id: str) -> list[WorkRow]:
    """Every knot of a lot that was pulled at its work, by name, host and wraps."""
    merged: dict[WorkKey, list[Group]] = {}
    for group in gathered.tied[lot_id].values():
        key = work_key(group)
        if key is not None and work_of(group).any:
            merged.setdefault(key, []).append(group)
    plain = _plain(gathered, lot_id)
    together = {key: _together([work_of(g) for g in own]) for key, own in merged.items()}
    keys = sorted(together)
    lot_n = _median(gathered, lot_id)
    found = measure_works([(together[k], plain) for k in keys])
    rows = []
    for key, result in zip(keys, found, strict=True):
        own = merged[key]
        tried = tuple(t for g in own for t in g.tried)
        host = tried[0].entry.specimen.lot_b
        knot = own[0].knot
        assert knot is not None
        rows.append(
            WorkRow(
                key=key,
                lot=own[0].lot,
                knot=knot,
                pulls=together[key],
                result=result,
                tried=tried,
                lot_n=lot_n,
                host_n=None if host is None else _median(gathered, host.id),
                host_lot=host,
            )
        )
    return rows


def _together(works: list[WorkPulls]) -> WorkPulls:
    parts = {f.name: tuple(p for w in works for p in getattr(w, f.name)) for f in fields(WorkPulls)}
    return WorkPulls(**parts)


def _plain(gathered: Gathered, lot_id: str) -> Sample | None:
    own = gathered.plain.get(lot_id)
    return None if own is None else data_of(own, None).sample


def _median(gathered: Gathered, lot_id: str) -> float | None:
    plain = _plain(gathered, lot_id)
    found = None if plain is None else estimate(plain)
    return None if found is None else found.median_n


@dataclass(frozen=True, kw_only=True)
class EdgeRow:
    """Plain rope of a lot over an edge: the load at which the edge breaks it."""

    lot: Lot
    edge: TiedOn
    found: HoldResult
    lot_n: float | None


def edge_rows(gathered: Gathered, lot_id: str) -> list[EdgeRow]:
    """The plain rope of a lot over every edge it was pulled over.

    A break at the edge is the edge's; one anywhere else, or a stop, says at least that.
    """
    plain = _plain(gathered, lot_id)
    own = gathered.edges.get(lot_id, {})
    pulls = [tuple(_at_edge(t) for t in group.tried) for group in own.values()]
    found = measure_holds([(p, plain) for p in pulls])
    lot_n = _median(gathered, lot_id)
    return [
        EdgeRow(lot=group.lot, edge=edge, found=result, lot_n=lot_n)
        for (edge, group), result in zip(own.items(), found, strict=True)
        if result is not None
    ]


def _at_edge(t: Tried) -> HoldPull:
    f = t.finding
    place = None if f.place is None else t.entry.specimen.layout.place(f.place)
    gave = f.gave is Gave.BROKE and place is not None and place.kind is PlaceKind.EDGE
    return HoldPull(pull_id=f.pull_id, load_n=f.peak_load_n, gave=gave)


@dataclass(frozen=True, kw_only=True)
class DamageRow:
    """A rope that was cut into: by itself, or with the cut lying in the eye of a midline loop.

    Parameters
    ----------
    knot : Knot or None
        The loop that takes the cut out of the line; None for the damaged rope itself.
    done : str
        What was done to it.
    found : HoldResult
        The load it breaks at, or lets go at.
    """

    lot: Lot
    knot: Knot | None
    done: str
    found: HoldResult
    lot_n: float | None


def damage_rows(gathered: Gathered, lot_id: str) -> list[DamageRow]:
    """The ropes of a lot that were cut into, each damaged rope before the loops that isolate it."""
    plain, lot_n = _plain(gathered, lot_id), _median(gathered, lot_id)
    own: list[tuple[str, Knot | None, Group]] = [
        (done, None, g) for done, g in gathered.damaged.get(lot_id, {}).items()
    ]
    own += [
        (key.state, group.knot, group)
        for key, group in gathered.tied[lot_id].items()
        if group.tried
        and group.tried[0].entry.specimen.state.cut_share
        and tells(group.method, Tells.STRENGTH)
    ]
    own.sort(key=lambda row: (row[0], row[1] is not None))
    pulls = [tuple(_gives(t) for t in group.tried) for _, _, group in own]
    found = measure_holds([(p, plain) for p in pulls])
    return [
        DamageRow(lot=group.lot, knot=knot, done=done, found=result, lot_n=lot_n)
        for (done, knot, group), result in zip(own, found, strict=True)
        if result is not None
    ]


def _gives(t: Tried) -> HoldPull:
    return HoldPull(pull_id=t.finding.pull_id, load_n=t.load_n, gave=t.events > 0)


@dataclass(frozen=True, kw_only=True)
class EyesRow:
    """The two eyes of a double loop after its pulls.

    Parameters
    ----------
    lengths_m : tuple of (float, float)
        Length of each eye after every pull, in metre.
    slipped_m : float or None
        Mean way that cord went from one eye into the other, in metre; None where no eye was
        measured before.
    """

    lot: Lot
    knot: Knot
    name: str
    lengths_m: tuple[tuple[float, float], ...]
    slipped_m: float | None
    pull_ids: tuple[str, ...]

    @property
    def difference_m(self) -> float:
        """By how much the second eye is longer, on average, in metre."""
        return sum(b - a for a, b in self.lengths_m) / len(self.lengths_m)

    @property
    def shares(self) -> tuple[float, float]:
        """Share of the load in each leg where both hang from one pin.

        Notes
        -----
        Two legs of one cord that end at one pin stretch to one length: with natural lengths a and
        b and stiffness as 1 / length the shorter carries b / (a + b) of the load.
        """
        a = sum(x for x, _ in self.lengths_m) / len(self.lengths_m)
        b = sum(x for _, x in self.lengths_m) / len(self.lengths_m)
        return b / (a + b), a / (a + b)


def eyes_rows(gathered: Gathered, lot_id: str) -> list[EyesRow]:
    """Every double loop of a lot whose two eyes were measured after a pull."""
    found = []
    for key, group in gathered.tied[lot_id].items():
        if group.knot is None:
            continue
        seen = []
        for t in group.tried:
            after = {x.key: x for x in t.finding.lengths}
            if "eye_a" in after and "eye_a2" in after:
                seen.append((after["eye_a"], after["eye_a2"], t.finding.pull_id))
        if not seen:
            continue
        moved = [
            abs(a.change_m - b.change_m) / 2
            for a, b, _ in seen
            if a.change_m is not None and b.change_m is not None
        ]
        found.append(
            EyesRow(
                lot=group.lot,
                knot=group.knot,
                name=key.knot,
                lengths_m=tuple((a.after_m, b.after_m) for a, b, _ in seen),
                slipped_m=sum(moved) / len(moved) if moved else None,
                pull_ids=tuple(p for _, _, p in seen),
            )
        )
    return found
