"""What is picked on the axes of the matrix, the cells that come of it, and their specimens."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field, replace
from itertools import product

from bruiser.catalogue import Structure
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import HELD_BY, LAYOUTS, PlaceKind
from bruiser.core.records.legs import BACKWARDS, STANDING, say_legs
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import MethodPlan, suits
from bruiser.core.records.records import DRESSED
from bruiser.core.records.tied_state import PLAIN_STATE, TiedState
from bruiser.workshop.logbook.logbook import Logbook, SpecimenKind

BOTH, ONE = "both", "one"
OTHER_WAY = say_legs(frozenset({STANDING, BACKWARDS}))


@dataclass(frozen=True, kw_only=True)
class Cell:
    """A knot in a lot, how it is tied and loaded, and how many pulls.

    Parameters
    ----------
    other : str
        At the other end: ``both`` (the same knot), ``one`` (a drum), or another knot's id.
    """

    lot_id: str
    knot_id: str
    pulls: int
    other: str = ONE
    method: MethodPlan = field(default_factory=MethodPlan)
    dressing: str = DRESSED
    fixture_id: str = ""
    lot_b_id: str = ""
    state: TiedState = PLAIN_STATE

    @property
    def ends(self) -> int:
        """How many ends carry this knot."""
        return 2 if self.other == BOTH else 1

    @property
    def row(self) -> str:
        """What it shares with the cells beside it: everything but the lot."""
        state = [self.method.words, self.dressing, self.fixture_id, self.lot_b_id]
        state += [self.state.words] if self.state.words else []
        other = self.other if self.other not in (BOTH, ONE) else ""
        return "|".join((self.knot_id, *state, other))

    @property
    def key(self) -> str:
        """Its name in a draft."""
        return f"{self.lot_id}|{self.row}"


@dataclass(frozen=True, kw_only=True)
class OnPurpose:
    """States asked for beside the plain way, each only for the knots that can have it.

    Parameters
    ----------
    tails_d : tuple of float
        Tails in diameters; 0 for the usual one.
    longer_eyes : tuple of float
        How much longer the second of two eyes is, as a share.
    cut_shares : tuple of float
        How much of the rope is cut through: in the eye of midline loops, and in plain rope.
    bends : str
        ``ends`` pulls them end to end, ``sling`` closed to one, ``both`` either way.
    around_m, joint_m : float
        Circumference of a sling, and the way from the nearer pin to its joint; 0 for the middle
        of a leg.
    """

    tails_d: tuple[float, ...] = (0.0,)
    longer_eyes: tuple[float, ...] = (0.0,)
    cut_shares: tuple[float, ...] = (0.0,)
    bends: str = "ends"
    around_m: float = 0.0
    joint_m: float = 0.0

    def states_of(self, structure: Structure) -> list[TiedState]:
        """The states of a knot, the plain one among them where it was asked for."""
        layout = structure.layout
        tails = self.tails_d if LAYOUTS[layout].tails else (0.0,)
        longer = self.longer_eyes if layout == "double_loop" else (0.0,)
        cuts = self.cut_shares if layout == "midline" else (0.0,)
        slings: tuple[float, ...] = (0.0,)
        if layout == "bend" and self.around_m:
            slings = {"sling": (self.around_m,), "both": (0.0, self.around_m)}.get(
                self.bends, slings
            )
        return [
            TiedState(
                tail_d=tail,
                longer_eye=eye,
                cut_share=cut,
                around_m=around,
                joint_m=(self.joint_m or round(around / 4, 4)) if around else 0.0,
            )
            for tail, eye, cut, around in product(tails, longer, cuts, slings)
        ]


@dataclass(frozen=True, kw_only=True)
class PlanDraft:
    """What has been picked so far; `off` are the keys of cells switched off one by one.

    Parameters
    ----------
    others : tuple of str
        Knots tied at the other end, besides what `both_ends` says.
    legs : tuple of str
        Names of the sets of legs to pull, where the method is about them; none for those each
        knot is meant for.
    round : bool
        Whether each technician ties and pulls every knot as often as is said, so that hands can be
        told apart; else they take turns.
    pair : bool
        Whether states of one knot are cut side by side, to be compared pair by pair.
    """

    lot_ids: tuple[str, ...] = ()
    knot_ids: tuple[str, ...] = ()
    off: frozenset[str] = field(default_factory=frozenset)
    pulls: int = 5
    both_ends: bool = True
    pin_m: float = 0.012
    span_m: float = 0.40
    seed: int = 1
    technicians: tuple[str, ...] = ()
    round: bool = False
    hours_a_day: float = 6.0
    wanted: float = 0.03
    tell: float = 0.05
    methods: tuple[MethodPlan, ...] = (MethodPlan(),)
    dressings: tuple[str, ...] = (DRESSED,)
    fixture_ids: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    lot_b_ids: tuple[str, ...] = ()
    pair: bool = False
    legs: tuple[str, ...] = ()
    on_purpose: OnPurpose = OnPurpose()

    @property
    def hands(self) -> tuple[str, ...]:
        """Who each specimen of a cell is for; one nobody where they take turns."""
        return self.technicians if self.round and len(self.technicians) > 1 else ("",)

    def all_cells(self, logbook: Logbook) -> tuple[Cell, ...]:
        """Every combination that makes sense, also those switched off."""
        found = []
        for knot_id in self.knot_ids:
            structure = logbook.catalogue.get(logbook.knot(knot_id).structure)
            if structure is None:
                continue
            for state in self._states(logbook, structure, knot_id):
                lots = (x for x in self.lot_ids if x != state.lot_b_id)
                found += [replace(state, lot_id=x) for x in lots]
        return tuple(found)

    def cells(self, logbook: Logbook) -> tuple[Cell, ...]:
        """The cells that are on."""
        return tuple(c for c in self.all_cells(logbook) if c.key not in self.off)

    def _states(self, logbook: Logbook, structure: Structure, knot_id: str) -> list[Cell]:
        """A knot in every state picked, for no lot yet."""
        fixtures = {f.id: f for f in logbook.bench_book.fixtures}
        picked = [fixtures[i] for i in self.fixture_ids if i in fixtures]
        loop = structure.layout == "loop_pair"
        others = [BOTH if self.both_ends and loop else ONE]
        if loop:
            others += [k for k in self.others if k != knot_id]
        lots_b = [""] if not needs_host_rope(structure) else []
        if takes_second_line(structure):
            lots_b += list(self.lot_b_ids)
        states = []
        for plan, dressing, other, lot_b, state in product(
            _directed(self.methods, structure, self.legs),
            self.dressings or (DRESSED,),
            others,
            lots_b,
            self.on_purpose.states_of(structure),
        ):
            if not suits(plan.method, structure.families):
                continue
            states += [
                Cell(
                    lot_id="",
                    knot_id=knot_id,
                    pulls=self.pulls,
                    other=other,
                    method=with_wraps(plan, structure, dict(logbook.knot(knot_id).choices)),
                    dressing=dressing,
                    fixture_id=fixture_id,
                    lot_b_id=lot_b,
                    state=state,
                )
                for fixture_id in _fixtures_for(plan, structure, picked)
            ]
        return states


def _directed(
    plans: tuple[MethodPlan, ...], structure: Structure, picked: tuple[str, ...]
) -> list[MethodPlan]:
    """Plans with the legs they load: those picked, else those that the structure is meant for.

    What grips is pulled its own way, and the other way too where that was picked.
    """
    meant = dict.fromkeys(way.legs for way in structure.loadings)
    can = [say_legs(legs) for legs in structure.leg_sets]
    wanted = [name for name in can if name in picked] or [say_legs(legs) for legs in meant]
    found = []
    for plan in plans or (MethodPlan(),):
        if plan.method.directed:
            found += [replace(plan, direction=name) for name in wanted]
            continue
        found.append(plan)
        if Tells.GRIP in plan.method.tells and OTHER_WAY in can and OTHER_WAY in picked:
            found.append(replace(plan, direction=OTHER_WAY))
    return found


def legs_to_pick(structures: Iterable[Structure]) -> list[str]:
    """The sets of legs that some knots can be loaded by, by name, the most usual first."""
    found: dict[str, int] = {}
    for structure in structures:
        for legs in structure.leg_sets:
            found[say_legs(legs)] = found.get(say_legs(legs), 0) + 1
    return sorted(found, key=lambda name: -found[name])


def _fixtures_for(plan: MethodPlan, structure: Structure, picked: list[Fixture]) -> list[str]:
    """Which fixtures a state is planned on; none where it needs one and none was picked."""
    wanted = plan.method.fixture
    kinds = {p.kind for p in LAYOUTS[laid_for(plan, structure)].places}
    if PlaceKind.PLATE in kinds:
        # A stopper without its plate is no specimen, whatever the method.
        return [f.id for f in picked if f.kind == "plate"]
    if PlaceKind.BUNDLE in kinds:
        return [f.id for f in picked if f.kind == "host"]
    if not wanted and PlaceKind.ROPE not in kinds and kinds & HELD_BY:
        return [f.id for f in picked if f.kind == "host"] or [""]
    return [f.id for f in picked if f.kind == wanted] if wanted else [""]


_LAID_AS = {
    "friction hitch": "friction",
    "tensioning system": "tensioning",
    "binding": "binding",
    "stopper": "stopper",
    "quick release": "quick_release",
    "hitch on a host": "hitch",
    "adjustable loop": "adjustable",
}


def laid_for(plan: MethodPlan, structure: Structure) -> str:
    """How a knot lies for a method: as its first family does, else as the one the method is for.

    A reef is pulled as a bend, and its retention is tried round a bundle.
    """
    wanted = plan.method.families
    if not wanted or structure.family in wanted:
        return structure.layout
    also = next((f for f in structure.also if f in wanted), "")
    return _LAID_AS.get(also, structure.layout)


def takes_second_line(structure: Structure) -> bool:
    """Whether another line can stand in it: bends, and hitches of cord on rope."""
    return structure.family in ("bend", "friction hitch")


def needs_host_rope(structure: Structure) -> bool:
    """Whether it is no specimen without the rope it is tied on."""
    return any(p.kind is PlaceKind.ROPE for p in LAYOUTS[structure.layout].places)


def with_wraps(plan: MethodPlan, structure: Structure, choices: dict[str, str]) -> MethodPlan:
    """A plan with the wraps of the variant that is tied: the two are one number."""
    wraps = structure.wraps(choices)
    if wraps is None or Tells.WRAPS not in plan.method.tells:
        return plan
    others = tuple(v for v in plan.values if v[0] != "wraps")
    return replace(plan, values=(*others, ("wraps", float(wraps))))


def can_be_paired(logbook: Logbook, knot_id: str) -> bool:
    """Whether a knot can be tied at both ends of a specimen."""
    structure = logbook.catalogue.get(logbook.knot(knot_id).structure)
    return structure is not None and structure.layout == "loop_pair"


def cell_of(kind: SpecimenKind) -> Cell:
    """The cell that specimens of a kind belong to."""
    other = kind.knot_b_id or ONE
    return Cell(
        lot_id=kind.lot_id,
        knot_id=kind.knot_a_id,
        pulls=0,
        other=BOTH if other == kind.knot_a_id else other,
        method=kind.method,
        dressing=kind.dressing,
        fixture_id=kind.fixture_id or "",
        lot_b_id=kind.lot_b_id or "",
        state=kind.state,
    )


def count_there(logbook: Logbook, lot_ids: Collection[str]) -> dict[str, int]:
    """Specimens of some lots, done or queued, by the key of their cell."""
    found: dict[str, int] = {}
    for kind, number in logbook.kinds(lot_ids).items():
        key = cell_of(kind).key
        found[key] = found.get(key, 0) + number
    return found
