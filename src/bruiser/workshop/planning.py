"""From what is picked to specimens in the queue: how many, of what length, in which order."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import numpy as np

from bruiser.core.bench_time import Job, Step, StepTime, learn, pull_seconds, schedule
from bruiser.core.layouts import LAYOUTS, PlaceKind
from bruiser.core.precision import (
    SpreadGuess,
    half_width,
    pulls_for_half_width,
    pulls_to_tell_apart,
)
from bruiser.core.pull_order import Candidate, fixture_changes, order_pulls
from bruiser.core.records import Knot, Lot, Role, Specimen, Tail
from bruiser.core.safety import break_strain_guess
from bruiser.workshop.commands import PlanSpecimen, Together
from bruiser.workshop.cutting import cut_length_m
from bruiser.workshop.journal import Journal, Stage
from bruiser.workshop.results import LotResults
from bruiser.workshop.simulation import TRAVEL_RATE_M_S
from bruiser.workshop.workshop import Workshop

BASELINE_WANTED = 5
PRIOR_KNOT, PRIOR_BASELINE = 0.07, 0.04
SET_SHARE = 0.05


@dataclass(frozen=True)
class Cell:
    """A knot in a lot: how many pulls, tied at one end or both."""

    lot_id: str
    knot_id: str
    pulls: int
    ends: int = 1


@dataclass(frozen=True)
class PlanDraft:
    """What has been picked so far; `off` are cells switched off one by one."""

    lot_ids: tuple[str, ...] = ()
    knot_ids: tuple[str, ...] = ()
    off: frozenset[tuple[str, str]] = field(default_factory=frozenset)
    pulls: int = 5
    both_ends: bool = True
    pin_m: float = 0.012
    span_m: float = 0.40
    seed: int = 1
    technicians: tuple[str, ...] = ()
    hours_a_day: float = 6.0
    wanted: float = 0.03
    tell: float = 0.05

    def cells(self, journal: Journal) -> tuple[Cell, ...]:
        """Every knot picked in every lot picked, but for those switched off."""
        found = []
        for lot_id in self.lot_ids:
            for knot_id in self.knot_ids:
                if (lot_id, knot_id) in self.off:
                    continue
                ends = 2 if self.both_ends and _can_be_paired(journal, knot_id) else 1
                found.append(Cell(lot_id, knot_id, self.pulls, ends))
        return tuple(found)


def _can_be_paired(journal: Journal, knot_id: str) -> bool:
    structure = journal.catalogue.get(journal.knot(knot_id).structure)
    return structure is not None and structure.layout == "loop_pair"


def baselines_missing(journal: Journal, lot: Lot) -> int:
    """Straight pulls of a lot that are neither done nor queued, of the five that are wanted."""
    there = [
        e
        for e in journal.entries
        if e.specimen.lot.id == lot.id
        and e.specimen.role is Role.BASELINE
        and e.stage is not Stage.VOID
    ]
    return max(0, BASELINE_WANTED - len(there))


def _specimen(
    journal: Journal, draft: PlanDraft, lot: Lot, knot: Knot | None, ends: int
) -> Specimen:
    """A specimen without id, code and place."""
    blank = Specimen("", "", Role.BASELINE, lot, "baseline", 0, draft.span_m)
    if knot is None:
        return blank
    structure = journal.catalogue[knot.structure]
    layout = structure.layout
    if layout == "loop_pair" and ends == 1:
        layout = "loop_single"
    tail_m = structure.cord_rule(dict(knot.choices)).tail_usual_d * lot.diameter_m
    kinds = {p.kind for p in LAYOUTS[layout].places}
    return replace(
        blank,
        role=Role.KNOT,
        layout_key=layout,
        knot_a=knot,
        knot_b=knot if ends == 2 else None,
        tails=tuple(Tail(spot.key, tail_m) for spot in LAYOUTS[layout].tails),
        pin_diameter_m=draft.pin_m if kinds & {PlaceKind.PIN, PlaceKind.HOST} else 0.0,
        set_load_n=SET_SHARE * (lot.rated_strength_n or 0.0),
    )


def plan_specimens(journal: Journal, draft: PlanDraft) -> list[Specimen]:
    """Specimens of every cell and of the baselines missing, in the order of the matrix."""
    lots = {lot.id: lot for lot in journal.lots}
    made: list[Specimen] = []
    for lot_id in draft.lot_ids:
        plain = _specimen(journal, draft, lots[lot_id], None, 0)
        made += [plain] * baselines_missing(journal, lots[lot_id])
    for cell in draft.cells(journal):
        knot = journal.knot(cell.knot_id)
        made += [_specimen(journal, draft, lots[cell.lot_id], knot, cell.ends)] * cell.pulls
    return made


@dataclass(frozen=True)
class LotNeed:
    """Cord a plan takes of a lot's hanks, and what is on hand beyond what is queued already."""

    name: str
    specimens: int
    needed_m: float
    on_hand_m: float

    @property
    def short_m(self) -> float:
        """Metres that are missing; 0 when there is enough."""
        return max(0.0, self.needed_m - self.on_hand_m)


@dataclass(frozen=True)
class Outlook:
    """What a plan costs: specimens, cord by lot, bench hours, and when it would end."""

    specimens: int
    baselines: int
    needs: tuple[LotNeed, ...]
    seconds: float
    ends: datetime | None
    learned: int

    @property
    def short(self) -> tuple[LotNeed, ...]:
        """Lots that are short."""
        return tuple(n for n in self.needs if n.short_m > 0)


def recorded_times(journal: Journal) -> dict[Step, list[float]]:
    """Seconds of every step that the logbook holds: pulls, and untying where it was timed."""
    found: dict[Step, list[float]] = {Step.PULL: [], Step.UNTIE: []}
    for entry in journal.entries:
        pull = entry.pull
        if pull is not None and pull.ended_at:
            took = datetime.fromisoformat(pull.ended_at) - datetime.fromisoformat(pull.started_at)
            found[Step.PULL].append(took.total_seconds())
        if entry.finding is not None:
            times = [i.untie_s for i in entry.finding.inspections if i.untie_s]
            if times:
                found[Step.UNTIE].append(math.fsum(times))
    return found


def specimen_seconds(specimen: Specimen, times: dict[Step, StepTime]) -> float:
    """Time of one specimen at the bench; the pull from its travel where none was recorded."""
    knots = sum(k is not None for k in (specimen.knot_a, specimen.knot_b))
    pull = times[Step.PULL].seconds
    if times[Step.PULL].count == 0:
        travel = break_strain_guess(specimen.lot.material) * specimen.span_m
        pull = pull_seconds(travel, TRAVEL_RATE_M_S)
    each = sum(times[s].seconds for s in (Step.TIE, Step.SET, Step.UNTIE))
    return knots * each + pull + times[Step.MOUNT].seconds + times[Step.INSPECT].seconds


def outlook(journal: Journal, draft: PlanDraft, begin: datetime) -> Outlook:
    """What a draft costs, and what is missing for it."""
    made = plan_specimens(journal, draft)
    times = learn(recorded_times(journal))
    waiting = [
        e.specimen
        for e in journal.at(Stage.PLANNED)
        if journal.stock.cut_for(e.specimen.id) is None
    ]
    needs = []
    for stock_id in dict.fromkeys(s.lot.stock_id for s in made):
        own = [s for s in made if s.lot.stock_id == stock_id]
        queued = math.fsum(cut_length_m(journal, s) for s in waiting if s.lot.stock_id == stock_id)
        needs.append(
            LotNeed(
                journal.lot(stock_id).name,
                len(own),
                math.fsum(cut_length_m(journal, s) for s in own),
                max(0.0, journal.stock.on_hand_m(stock_id) - queued),
            )
        )
    candidates = _candidates(made)
    placed = order_pulls(candidates, (), np.random.default_rng(draft.seed))
    by_key = {str(n): s for n, s in enumerate(made)}
    jobs = [Job(p.key, specimen_seconds(by_key[p.key], times)) for p in placed]
    changes = fixture_changes(placed, candidates)
    seconds = math.fsum(j.seconds for j in jobs) + changes * times[Step.FIXTURE].seconds
    slots = schedule(jobs, draft.hours_a_day)
    return Outlook(
        len(made),
        sum(s.role is Role.BASELINE for s in made),
        tuple(needs),
        seconds,
        begin + timedelta(seconds=slots[-1].end_s) if slots else None,
        sum(t.count for t in times.values()),
    )


def _candidates(made: list[Specimen]) -> list[Candidate]:
    return [
        Candidate(
            str(n),
            f"{s.lot.id}/{s.title}",
            f"{LAYOUTS[s.layout_key].title}, pin {1000 * s.pin_diameter_m:g} mm",
        )
        for n, s in enumerate(made)
    ]


def queue_plan(workshop: Workshop, journal: Journal, draft: PlanDraft) -> list[Specimen]:
    """Put a draft's specimens into the queue in a shuffled order; the seed is kept in their note.

    What is queued already stays where it is; the new ones come after it.
    """
    made = plan_specimens(journal, draft)
    rng = np.random.default_rng(draft.seed)
    placed = order_pulls(_candidates(made), draft.technicians, rng)
    used = [e.specimen for e in journal.entries]
    last = max((s.queue_position for s in used), default=0)
    number = max((int(s.code[2:]) for s in used if s.code[2:].isdigit()), default=0)
    queued = []
    for place in placed:
        note = f"block {place.block}, order seed {draft.seed}"
        if place.technician:
            note += f", {place.technician}"
        queued.append(
            replace(
                made[int(place.key)],
                id=workshop.new_id(),
                code=f"S-{number + place.position:03d}",
                queue_position=last + place.position,
                seed=int(rng.integers(1, 2**31)),
                note=note,
            )
        )
    if queued:
        parts = tuple(PlanSpecimen(s) for s in queued)
        workshop.do(Together(parts, f"queue {len(queued)} specimens"))
    return queued


@dataclass(frozen=True)
class Curve:
    """Half-width expected after n pulls, with the knot at one end and at both."""

    pulls: tuple[int, ...]
    one_knot: tuple[float, ...]
    two_knots: tuple[float, ...]
    share: float
    spread: SpreadGuess
    baseline_pulls: int

    @property
    def source(self) -> str:
        """Where the spreads come from."""
        return self.spread.source

    def pulls_for(self, wanted: float, knots: int) -> int | None:
        """Fewest pulls that reach a half-width; None where the baseline limits it."""
        return pulls_for_half_width(wanted, self.share, self.spread, self.baseline_pulls, knots)

    def pulls_to_tell(self, by: float) -> int | None:
        """Pulls of each that tell it from a knot weaker by so much, with 80 % power."""
        other = self.share - by
        if other <= 0:
            return 2
        return pulls_to_tell_apart(self.share, other, self.spread.knot, self.spread.knot)


@dataclass(frozen=True)
class Price:
    """What reaching a half-width costs with so many knots a specimen."""

    knots: int
    pulls: int
    cord_m: float
    seconds: float


def prices(
    journal: Journal, draft: PlanDraft, lot: Lot, knot: Knot, curve: Curve, wanted: float
) -> list[Price]:
    """Pulls, cord and bench time that reach a half-width, with one knot a specimen and with two.

    Two are left out where the knot is not a loop tied at both ends, and either where the baseline
    does not allow that half-width.
    """
    times = learn(recorded_times(journal))
    found = []
    for knots in (1, 2) if _can_be_paired(journal, knot.id) else (1,):
        pulls = curve.pulls_for(wanted, knots)
        if pulls is None:
            continue
        one = _specimen(journal, draft, lot, knot, knots)
        cord, seconds = cut_length_m(journal, one), specimen_seconds(one, times)
        found.append(Price(knots, pulls, pulls * cord, pulls * seconds))
    return found


def precision_curve(results: LotResults | None, knot: Knot, most: int = 20) -> Curve:
    """Expected half-width of a knot's efficiency in a lot against the number of pulls.

    Spreads are those measured in this lot where there are three failures or more, else the stated
    priors; the baseline is taken as it stands, with five pulls where there are fewer than two.
    """
    knot_spread, base_spread, share = PRIOR_KNOT, PRIOR_BASELINE, 0.7
    baseline_pulls, source = BASELINE_WANTED, "stated prior: 7 % for the knot, 4 % for the rope"
    if results is not None:
        base = results.baseline
        if base.estimate is not None and base.counts.broke >= 2:
            baseline_pulls = base.counts.broke
        if base.estimate is not None and base.counts.broke >= 3:
            base_spread = max(base.estimate.sigma, 0.01)
        row = next((r for r in results.knots if r.knot.id == knot.id), None)
        if row is not None and row.efficiency.interval is not None:
            share = row.efficiency.interval.value
            events = row.efficiency.counts.broke + row.efficiency.counts.came_out
            if events >= 3 and row.result.estimate is not None:
                knot_spread = max(row.result.estimate.sigma, 0.01)
                source = (
                    f"measured here: {100 * knot_spread:.0f} % for the knot, "
                    f"{100 * base_spread:.0f} % for the rope"
                )
    spread = SpreadGuess(knot_spread, base_spread, source)
    pulls = tuple(range(2, most + 1))

    def width(n: int, knots: int) -> float:
        return half_width(share, spread, n, baseline_pulls, knots)

    return Curve(
        pulls,
        tuple(width(n, 1) for n in pulls),
        tuple(width(n, 2) for n in pulls),
        share,
        spread,
        baseline_pulls,
    )
