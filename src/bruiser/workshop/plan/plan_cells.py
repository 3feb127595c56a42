"""What is picked on the axes of the matrix, the cells that come of it, and their specimens."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, replace
from itertools import product

from bruiser.catalogue import Structure
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import HELD_BY, LAYOUTS, PlaceKind
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import STRAIGHT, MethodPlan, suits
from bruiser.core.records.records import DRESSED, Knot, Lot, Role, Specimen, Tail
from bruiser.workshop.logbook.entries import Logbook, Stage
from bruiser.workshop.results.lot_results import baseline_median_n

BASELINE_WANTED = 5
SET_SHARE = 0.05
BOTH, ONE = "both", "one"


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

    @property
    def ends(self) -> int:
        """How many ends carry this knot."""
        return 2 if self.other == BOTH else 1

    @property
    def row(self) -> str:
        """What it shares with the cells beside it: everything but the lot."""
        state = (self.method.words, self.dressing, self.fixture_id, self.lot_b_id)
        other = self.other if self.other not in (BOTH, ONE) else ""
        return "|".join((self.knot_id, *state, other))

    @property
    def key(self) -> str:
        """Its name in a draft."""
        return f"{self.lot_id}|{self.row}"


@dataclass(frozen=True, kw_only=True)
class PlanDraft:
    """What has been picked so far; `off` are the keys of cells switched off one by one.

    Parameters
    ----------
    others : tuple of str
        Knots tied at the other end, besides what `both_ends` says.
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
    hours_a_day: float = 6.0
    wanted: float = 0.03
    tell: float = 0.05
    methods: tuple[MethodPlan, ...] = (MethodPlan(),)
    dressings: tuple[str, ...] = (DRESSED,)
    fixture_ids: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    lot_b_ids: tuple[str, ...] = ()
    pair: bool = False

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
        for plan, dressing, other, lot_b in product(
            _directed(self.methods, structure), self.dressings or (DRESSED,), others, lots_b
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
                )
                for fixture_id in _fixtures_for(plan, structure, picked)
            ]
        return states


def _directed(plans: tuple[MethodPlan, ...], structure: Structure) -> list[MethodPlan]:
    """Plans with every direction a structure knows where the method is about directions."""
    found = []
    for plan in plans or (MethodPlan(),):
        if plan.method.directed:
            found += [replace(plan, direction=d) for d in structure.directions]
        else:
            found.append(plan)
    return found


def _fixtures_for(plan: MethodPlan, structure: Structure, picked: list[Fixture]) -> list[str]:
    """Which fixtures a state is planned on; none where it needs one and none was picked."""
    wanted = plan.method.fixture
    kinds = {p.kind for p in LAYOUTS[structure.layout].places}
    if PlaceKind.PLATE in kinds:
        # A stopper without its plate is no specimen, whatever the method.
        return [f.id for f in picked if f.kind == "plate"]
    if PlaceKind.BUNDLE in kinds:
        return [f.id for f in picked if f.kind == "host"]
    if not wanted and PlaceKind.ROPE not in kinds and kinds & HELD_BY:
        return [f.id for f in picked if f.kind == "host"] or [""]
    return [f.id for f in picked if f.kind == wanted] if wanted else [""]


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


def cell_of(specimen: Specimen) -> Cell | None:
    """The cell a specimen belongs to; None for plain rope."""
    s = specimen
    if s.knot_a is None:
        return None
    other = ONE if s.knot_b is None else BOTH if s.knot_b == s.knot_a else s.knot_b.id
    return Cell(
        lot_id=s.lot.id,
        knot_id=s.knot_a.id,
        pulls=0,
        other=other,
        method=s.method,
        dressing=s.dressing,
        fixture_id="" if s.fixture is None else s.fixture.id,
        lot_b_id="" if s.lot_b is None else s.lot_b.id,
    )


def count_there(logbook: Logbook) -> dict[str, int]:
    """Specimens done or queued by the key of their cell."""
    found: dict[str, int] = {}
    for entry in logbook.entries:
        cell = cell_of(entry.specimen)
        if cell is not None and entry.stage is not Stage.VOID:
            found[cell.key] = found.get(cell.key, 0) + 1
    return found


def row_words(logbook: Logbook, cell: Cell) -> str:
    """A row of the matrix in words: the knot and what sets its state apart."""
    made = _specimen(logbook, PlanDraft(), logbook.lots[0], cell)
    words = [logbook.knot(cell.knot_id).title]
    if cell.other not in (BOTH, ONE):
        words.append(f"with {logbook.knot(cell.other).title.lower()}")
    return " · ".join([*words, *made.state_words])


def baselines_missing(logbook: Logbook, lot: Lot) -> int:
    """Straight pulls of a lot that are neither done nor queued, of the five that are wanted."""
    there = [
        e
        for e in logbook.entries
        if e.specimen.lot.id == lot.id
        and e.specimen.role is Role.BASELINE
        and not e.specimen.method.method.fixture
        and e.stage is not Stage.VOID
    ]
    return max(0, BASELINE_WANTED - len(there))


def _plain(draft: PlanDraft, lot: Lot) -> Specimen:
    """A straight pull without id, code and place."""
    straight = MethodPlan(STRAIGHT)
    return Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=draft.span_m,
        method=straight,
    )


def _over_edges(logbook: Logbook, draft: PlanDraft, lot: Lot) -> list[Specimen]:
    """Plain rope over every edge picked, where knots are planned over it and none is there yet."""
    plans = [p for p in draft.methods if p.method.fixture == "edge"]
    edges = [f for f in logbook.bench_book.fixtures if f.id in draft.fixture_ids]
    there = {
        e.specimen.fixture.id
        for e in logbook.entries
        if e.specimen.role is Role.BASELINE
        and e.specimen.lot.id == lot.id
        and e.specimen.fixture is not None
        and e.stage is not Stage.VOID
    }
    return [
        replace(_plain(draft, lot), method=plan, fixture=edge)
        for plan in plans[:1]
        for edge in edges
        if edge.kind == "edge" and edge.id not in there
        for _ in range(draft.pulls)
    ]


def _specimen(logbook: Logbook, draft: PlanDraft, lot: Lot, cell: Cell) -> Specimen:
    """A specimen of a cell without id, code and place."""
    knot = logbook.knot(cell.knot_id)
    structure = logbook.catalogue[knot.structure]
    layout = structure.layout
    if layout == "loop_pair" and cell.other == ONE:
        layout = "loop_single"
    other = {BOTH: knot, ONE: None}.get(cell.other)
    if cell.other not in (BOTH, ONE):
        other = logbook.knot(cell.other)
    tails = []
    for spot in LAYOUTS[layout].tails:
        tied = other if other is not None and spot.end == "B" else knot
        rule = logbook.catalogue[tied.structure].cord_rule(dict(tied.choices))
        tails.append(Tail(spot.key, rule.tail_usual_d * lot.diameter_m))
    kinds = {p.kind for p in LAYOUTS[layout].places}
    fixture = next((f for f in logbook.bench_book.fixtures if f.id == cell.fixture_id), None)
    held = fixture is not None or bool(cell.lot_b_id and PlaceKind.ROPE in kinds)
    on_pin = PlaceKind.PIN in kinds or (bool(HELD_BY & kinds) and not held)
    return replace(
        _plain(draft, lot),
        role=Role.KNOT,
        layout_key=layout,
        knot_a=knot,
        knot_b=other,
        tails=tuple(tails),
        pin_diameter_m=draft.pin_m if on_pin else 0.0,
        set_load_n=SET_SHARE * (lot.rated_strength_n or 0.0),
        method=cell.method,
        dressing=cell.dressing,
        fixture=fixture,
        lot_b=None if not cell.lot_b_id else logbook.lot(cell.lot_b_id),
    )


def one_specimen(logbook: Logbook, draft: PlanDraft, lot: Lot, knot: Knot, knots: int) -> Specimen:
    """A dressed knot pulled until it gives, at one end or both, for a price."""
    other = BOTH if knots == 2 else ONE
    return _specimen(
        logbook, draft, lot, Cell(lot_id=lot.id, knot_id=knot.id, pulls=1, other=other)
    )


def plan_specimens(logbook: Logbook, draft: PlanDraft) -> list[Specimen]:
    """Specimens of every cell and of the baselines missing, in the order of the matrix.

    With `pair`, the k-th specimens of all states of a knot in a lot share a pair mark.
    """
    cells = draft.cells(logbook)
    made: list[Specimen] = []
    lot_ids = dict.fromkeys((*draft.lot_ids, *(c.lot_b_id for c in cells if c.lot_b_id)))
    for lot_id in lot_ids:
        lot = logbook.lot(lot_id)
        made += [_plain(draft, lot)] * baselines_missing(logbook, lot)
        if lot_id in draft.lot_ids:
            made += _over_edges(logbook, draft, lot)
    states = Counter((c.lot_id, c.knot_id) for c in cells)
    families = {key: number for number, key in enumerate(states, start=1)}
    for cell in cells:
        one = _specimen(logbook, draft, logbook.lot(cell.lot_id), cell)
        alike = (cell.lot_id, cell.knot_id)
        for k in range(1, cell.pulls + 1):
            paired = draft.pair and states[alike] > 1
            mark = f"{draft.seed}.{families[alike]}.{k}" if paired else ""
            made.append(replace(one, pair=mark))
    return made


def reference_n(logbook: Logbook, lot: Lot) -> float | None:
    """The strength that levels are shares of: the measured baseline, else the rating."""
    return baseline_median_n(logbook, lot) or lot.rated_strength_n
