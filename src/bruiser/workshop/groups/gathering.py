"""The pulls of a campaign sorted into groups: one look at every entry, no computation."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field, replace
from datetime import date

from bruiser.core.behaviour.jamming import JAM_ORDER
from bruiser.core.performance.evidence import (
    GroupData,
    PullContext,
    PullSays,
    knot_evidence,
    plain_evidence,
)
from bruiser.core.performance.groups import ON_NOTHING, GroupKey, TiedOn, labels
from bruiser.core.records.layouts import End
from bruiser.core.records.legs import named
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import RAMP, STRAIGHT, tells
from bruiser.core.records.outcomes import Says, evidence_of
from bruiser.core.records.records import Finding, Gave, Knot, Lot, Outcome, Role, Specimen
from bruiser.core.statistics.measurement import LoadCell
from bruiser.store.questions import EntryQuery
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.tally import BEGUN


@dataclass(frozen=True, kw_only=True)
class Tried:
    """What one pull says of one group.

    Parameters
    ----------
    kind : Outcome
        What the pull is for this group.
    events, floors : int
        Holding strengths observed, and known only as at least the peak.
    broke : int
        Breaking strengths observed.
    at : int
        Its place in the logbook.
    """

    entry: Entry
    finding: Finding
    kind: Outcome
    ends: tuple[End, ...]
    events: int
    floors: int
    broke: int
    at: int

    @property
    def load_n(self) -> float:
        """The highest load that a knot of it bore: its share where legs share the load."""
        return self.finding.peak_load_n / self.shares

    @property
    def shares(self) -> int:
        """How many legs shared the load."""
        return self.entry.specimen.layout.shares


@dataclass(frozen=True, kw_only=True)
class Group:
    """The pulls behind one number; without a key it is the plain rope of a lot.

    Parameters
    ----------
    tried : tuple of Tried
        Pulls that count.
    excluded : tuple of Tried
        Pulls left out with a reason.
    void : int
        Pulls of which nothing can be said.
    """

    lot: Lot
    key: GroupKey | None
    knot: Knot | None
    method: str
    tried: tuple[Tried, ...]
    excluded: tuple[Tried, ...] = ()
    void: int = 0

    @property
    def whole(self) -> Group:
        """The same with the pulls that were left out."""
        everything = sorted((*self.tried, *self.excluded), key=lambda t: t.at)
        return replace(self, tried=tuple(everything), excluded=())

    @property
    def knot_is_bend(self) -> bool:
        """Whether it joins two lines, so that the weaker of the two is the reference."""
        return self.knot is not None and self.knot.family == "bend"

    @property
    def pull_ids(self) -> tuple[str, ...]:
        """The pulls that count."""
        return tuple(t.finding.pull_id for t in self.tried)


@dataclass(frozen=True)
class Gathered:
    """Every group of a campaign: plain rope by lot id, knots by lot id and key.

    `edges` holds the plain rope that was pulled over an edge, by lot id and the edge; `damaged`
    the plain rope that was cut into on purpose, by lot id and what was done.
    """

    plain: dict[str, Group]
    tied: dict[str, dict[GroupKey, Group]]
    edges: dict[str, dict[TiedOn, Group]] = field(default_factory=dict)
    damaged: dict[str, dict[str, Group]] = field(default_factory=dict)


def _tied_on(specimen: Specimen) -> TiedOn:
    """The pin or the fixture of a specimen."""
    d, pin, f = specimen.lot.bend_m, specimen.pin_diameter_m, specimen.fixture
    if f is None:
        return TiedOn(diameter_m=pin, over_cord=pin / d) if pin else ON_NOTHING
    return TiedOn(
        name=f.name,
        diameter_m=f.diameter_m,
        over_cord=f.diameter_m / d,
        finish=f.finish,
        material=f.material,
    )


def group_key(specimen: Specimen, end: End) -> GroupKey | None:
    """The group a specimen's knot belongs to; None where no knot is tied."""
    knot = specimen.knot_at(end)
    if knot is None:
        return None
    lot, host = specimen.lot, _tied_on(specimen)
    plan = specimen.method
    return GroupKey(
        knot=knot.title,
        cordage=lot.name,
        condition=lot.condition,
        cordage_b="" if specimen.lot_b is None else specimen.lot_b.name,
        host=host,
        method="ramp" if plan.key == RAMP else replace(plan, direction="").words,
        direction=named(plan.direction),
        dressing=specimen.dressing,
        state=specimen.state.words,
    )


@dataclass(kw_only=True)
class _Basket:
    """A group while it is being filled."""

    knot: Knot | None
    method: str
    tried: list[Tried]
    excluded: list[Tried]
    void: int = 0
    found: bool = False

    def put(self, entry: Entry, ends: tuple[End, ...], at: int) -> None:
        if entry.stage is Stage.VOID:
            self.void += 1
            self.found = True
        elif entry.stage is Stage.INSPECTED and entry.finding is not None:
            self.found = True
            tried = _tried(entry, entry.finding, ends, at)
            (self.tried if entry.excluded is None else self.excluded).append(tried)

    def group(self, lot: Lot, key: GroupKey | None) -> Group:
        return Group(
            lot=lot,
            key=key,
            knot=self.knot,
            method=self.method,
            tried=tuple(self.tried),
            excluded=tuple(self.excluded),
            void=self.void,
        )


def _tried(entry: Entry, finding: Finding, ends: tuple[End, ...], at: int) -> Tried:
    said = evidence_of(entry.specimen, finding)
    mine = [said.holding[end] for end in ends] if ends else [said.baseline]
    broke = [said.breaking[end] for end in ends].count(Says.EVENT) if ends else 0
    kind = Outcome.OUTLASTED
    if Says.EVENT in mine:
        kind = Outcome.BROKE if finding.gave is Gave.BROKE else Outcome.CAME_OUT
    events, floors = mine.count(Says.EVENT), mine.count(Says.FLOOR)
    return Tried(
        entry=entry,
        finding=finding,
        kind=kind,
        ends=ends,
        events=events,
        floors=floors,
        broke=broke,
        at=at,
    )


def _everything(entry: Entry) -> bool:
    del entry
    return True


def entries_for(
    logbook: Logbook, lot_ids: Collection[str], role: Role | None = None
) -> Iterable[Entry]:
    """What was pulled of some lots, with the plain rope of those that their lines are tied to."""

    def pulled(ids: Collection[str], role: Role | None) -> tuple[Entry, ...]:
        return logbook.find(EntryQuery(stages=BEGUN, lot_ids=tuple(ids), role=role))

    own = pulled(lot_ids, role)
    names = {e.specimen.lot_b.name for e in own if e.specimen.lot_b is not None}
    tied_to = [x.id for x in logbook.lots if x.name in names and x.id not in lot_ids]
    return own if not tied_to else (*own, *pulled(tied_to, Role.BASELINE))


def gather(
    logbook: Logbook,
    admits: Callable[[Entry], bool] = _everything,
    lot_ids: Collection[str] | None = None,
    role: Role | None = None,
) -> Gathered:
    """Sort the pulls into groups; a group without any finding is left out.

    Parameters
    ----------
    lot_ids : collection of str, optional
        The lots that are looked at; None for all, which reads every pull.
    role : Role, optional
        Only these specimens of those lots, where only they are asked for.
    admits : callable
        Which entries are looked at (for instance those of one technician).
    """
    entries = logbook.every() if lot_ids is None else entries_for(logbook, lot_ids, role)
    lots = {lot.id: lot for lot in logbook.lots}
    plain = {lot_id: _Basket(knot=None, method=STRAIGHT, tried=[], excluded=[]) for lot_id in lots}
    tied: dict[str, dict[GroupKey, _Basket]] = {lot_id: {} for lot_id in lots}
    edges: dict[str, dict[TiedOn, _Basket]] = {}
    damaged: dict[str, dict[str, _Basket]] = {}
    for at, entry in enumerate(entries):
        s = entry.specimen
        if not admits(entry):
            continue
        if s.role is Role.BASELINE:
            if s.state.words:
                cut = damaged.setdefault(s.lot.id, {})
                made = _Basket(knot=None, method=s.method.key, tried=[], excluded=[])
                cut.setdefault(s.state.words, made).put(entry, (), at)
            elif not s.method.method.fixture:
                plain[s.lot.id].put(entry, (), at)
            elif s.fixture is not None:
                own = edges.setdefault(s.lot.id, {})
                made = _Basket(knot=None, method=s.method.key, tried=[], excluded=[])
                own.setdefault(_tied_on(s), made).put(entry, (), at)
            continue
        keys = {end: key for end in End if (key := group_key(s, end)) is not None}
        for key in dict.fromkeys(keys.values()):
            ends = tuple(end for end, k in keys.items() if k == key)
            basket = tied[s.lot.id].get(key)
            if basket is None:
                basket = _Basket(
                    knot=s.knot_at(ends[0]), method=s.method.key, tried=[], excluded=[]
                )
                tied[s.lot.id][key] = basket
            basket.put(entry, ends, at)
    return Gathered(
        {lot_id: b.group(lots[lot_id], None) for lot_id, b in plain.items()},
        {
            lot_id: {key: b.group(lots[lot_id], key) for key, b in sorted(own.items()) if b.found}
            for lot_id, own in tied.items()
        },
        {
            lot_id: {on: b.group(lots[lot_id], None) for on, b in over.items() if b.found}
            for lot_id, over in edges.items()
        },
        {
            lot_id: {done: b.group(lots[lot_id], None) for done, b in cut.items() if b.found}
            for lot_id, cut in damaged.items()
        },
    )


def names_of(groups: Iterable[Group]) -> dict[GroupKey, str]:
    """A short name for each group of a lot."""
    return labels([g.key for g in groups if g.key is not None])


def data_of(group: Group, name: str | None, *, untying: bool = False) -> GroupData:
    """The readings of a group, ready for the statistics.

    Only pulls by a method that can speak to strength enter it.

    Parameters
    ----------
    untying : bool
        Also what untying took; the sheets of Results look at that by case, not by group.
    """
    says = [_says(t, untying) for t in group.tried]
    lot, key, cells = group.lot, group.key, _cells(group.tried)
    if key is None:
        return replace(plain_evidence(lot.name, lot.condition, says, group.void), cells=cells)
    strong = tells(group.method, Tells.STRENGTH)
    pulled, beside = (says, []) if strong else ([], says)
    made = knot_evidence(name, lot.name, lot.condition, pulled, group.void, beside)
    return replace(
        made,
        family="" if group.knot is None else group.knot.family,
        cordage_b=key.cordage_b if group.knot_is_bend else "",
        rated_n=lot.rated_strength_n,
        untie=made.untie if untying else None,
        cells=cells,
    )


def _says(t: Tried, untying: bool) -> PullSays:
    """What a pull says of its group; of untying only where that is asked."""
    seen = [
        i
        for i in (t.finding.inspections if untying else ())
        if i.end in t.ends and i.jam_level in JAM_ORDER
    ]
    return PullSays(
        pull_id=t.finding.pull_id,
        load_n=t.load_n,
        events=t.events,
        floors=t.floors,
        breaks=t.broke,
        kind=t.kind,
        context=_context(t.entry),
        jams=tuple((t.load_n, i.jam_level) for i in seen),
        untied=tuple((i.untie_s, i.given_up) for i in seen if i.untie_s),
    )


def _context(entry: Entry) -> PullContext:
    pull = entry.pull
    if pull is None:
        return PullContext()
    day = date.fromisoformat(pull.started_at[:10]).toordinal()
    return PullContext(entry.specimen.queue_position, day, pull.technician)


def _cells(tried: Iterable[Tried]) -> tuple[LoadCell, ...]:
    """The load cells of some pulls; their class is not recorded yet."""
    pulls = [t.entry.pull for t in tried if t.entry.pull is not None]
    found = {
        p.instrument: LoadCell(
            id=p.instrument,
            capacity_n=p.capacity_n,
            resolution_n=p.resolution_n,
            class_percent=None,
        )
        for p in pulls
    }
    return tuple(found.values())
