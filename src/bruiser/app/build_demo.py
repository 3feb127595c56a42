"""Builds the demo campaign of the invented Fennock Ridge Sky Station.

Everything in it comes from recorded seeds through the same simulator, analysis and commands that
a user works with; no result is typed in. Run ``python -m bruiser.app.build_demo FILE``.
"""

from __future__ import annotations

import sys
import uuid
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from bruiser.app.demo_cells import (
    CELLS,
    GUIDE_CELLS,
    STATE_CELLS,
    WAITING_CELLS,
    WORK_CELLS,
    MethodCell,
)
from bruiser.app.demo_methods import (
    cut_all,
    enter_fixtures,
    enter_method_claims,
    enter_method_lots,
    enter_webbing,
    plan_methods,
    tie_and_check,
    try_tying,
)
from bruiser.app.demo_plan import (
    PLANS,
    KnotPick,
    LotPlan,
    change_criterion,
    cut_from_longest,
    enter_bench,
    enter_brief,
    enter_cord_readings,
    enter_knots,
    enter_lots,
)
from bruiser.app.demo_pulls import inspect_specimen, pull_specimen, void_specimen
from bruiser.catalogue import Structure, load_catalogue
from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.methods import STRAIGHT, MethodPlan
from bruiser.core.records.records import (
    Knot,
    Lot,
    Role,
    Specimen,
    Tail,
)
from bruiser.store.campaigns import CampaignRow
from bruiser.store.open_campaign import Worker
from bruiser.workshop.bench.running import reference_n
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop, create_workshop

SEED = 23
PIN_M = 0.012
WAITING = 5
TRIED_IN = ("P8-B", "P8-B wet", "N6-K")
CRITERION_CHANGED_AFTER = 60
TECHNICIANS = ("TV", "OQ")
BENCH = "winch shed"


def seeded_ids(seed: int) -> Callable[[], str]:
    """Ids that repeat with the seed."""
    rng = np.random.default_rng(seed)
    return lambda: str(uuid.UUID(bytes=rng.bytes(16), version=4))


class DemoClock:
    """A clock that moves on by itself, a working day at a time."""

    def __init__(self) -> None:
        self._now = datetime(2026, 9, 14, 8, 30, tzinfo=UTC)

    def __call__(self) -> str:
        self._now += timedelta(seconds=41)
        if self._now.hour >= 17:
            self._now = (self._now + timedelta(days=1)).replace(hour=8, minute=30)
        return self.told()

    def told(self) -> str:
        """The time it told last."""
        return self._now.isoformat(timespec="milliseconds")


def _specimens(
    plan: LotPlan, lot: Lot, knots: dict[KnotPick, Knot], catalogue: dict[str, Structure]
) -> list[Specimen]:
    blank = Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=plan.span_m,
    )
    made = [replace(blank, method=MethodPlan(STRAIGHT))] * 5
    for pick, ends, count in plan.knots:
        entry = catalogue[pick.structure]
        layout = "loop_single" if entry.layout == "loop_pair" and ends == 1 else entry.layout
        knot = knots[pick]
        tail_m = entry.cord_rule(dict(pick.choices)).tail_usual_d * lot.diameter_m
        made += [
            replace(
                blank,
                role=Role.KNOT,
                layout_key=layout,
                knot_a=knot,
                knot_b=knot if ends == 2 else None,
                tails=tuple(Tail(spot.key, tail_m) for spot in LAYOUTS[layout].tails),
                pin_diameter_m=PIN_M,
                set_load_n=0.05 * (lot.rated_strength_n or 0.0),
            )
        ] * count
    return made


def plan_campaign(workshop: Workshop, rng: np.random.Generator) -> list[Specimen]:
    """Enter lots, knots and the brief, and queue every specimen, in random order inside a lot."""
    catalogue = load_catalogue()
    knots = enter_knots(workshop, catalogue)
    lots = enter_lots(workshop, rng)
    enter_brief(workshop, lots, knots)
    wanted: list[Specimen] = []
    for plan in PLANS:
        batch = _specimens(plan, lots[plan.lot.name], knots, catalogue)
        wanted += [batch[i] for i in rng.permutation(len(batch))]
    extra = _specimens(PLANS[0], lots[PLANS[0].lot.name], knots, catalogue)
    loops = [s for s in extra if s.layout_key == "loop_pair"]
    bends = [s for s in extra if s.layout_key == "bend"]
    wanted += [loops[0], loops[-1], bends[0], loops[1], extra[0]]
    queued = []
    for position, specimen in enumerate(wanted, start=1):
        tails = tuple(
            Tail(t.key, round(t.length_m + 0.001 * float(rng.integers(-3, 6)), 4))
            for t in specimen.tails
        )
        made = replace(
            specimen,
            id=workshop.new_id(),
            code=f"S-{position:03d}",
            queue_position=position,
            tails=tails,
            seed=int(rng.integers(1, 2**31)),
        )
        workshop.do(PlanSpecimen(made))
        queued.append(made)
    enter_cord_readings(workshop, rng, lots, knots)
    enter_bench(workshop)
    return queued


def build_demo(path: Path, *, limit: int | None = None) -> None:
    """Build the demo campaign.

    Parameters
    ----------
    path : Path
        New file.
    limit : int, optional
        Pull only the first so many specimens (for tests).
    """
    rng = np.random.default_rng(SEED)
    clock = DemoClock()
    row = CampaignRow(
        id=seeded_ids(SEED + 1)(),
        title="Fennock Ridge tethers",
        station="Fennock Ridge Sky Station (invented)",
        question="Which loop for the balloon tether, which bend for two lines, and what do water "
        "and wear change?",
        synthetic=True,
        force_unit="kN",
        length_unit="mm",
        created_at=clock(),
        trade="tree work",
    )
    workshop = create_workshop(path, row, now=clock, new_id=seeded_ids(SEED), stamp=clock.told)
    workshop.file.worker = Worker(bench=BENCH)
    queued = plan_campaign(workshop, rng)
    pulled = queued[:-WAITING][:limit]
    figure_eights = [s for s in pulled if s.knot_a and s.knot_a.structure == "figure-eight-loop"]
    stopped = {s.id: 7_000.0 for s in figure_eights[1:2]}
    void = {s.id for s in pulled[20:21]}
    logbook = read_logbook(workshop)
    trials = np.random.default_rng(SEED + 2)
    tried = 0
    for number, specimen in enumerate(pulled):
        cut_from_longest(workshop, specimen, cut_length_m(logbook, specimen))
        if specimen.lot.name in TRIED_IN and specimen.knot_a is not None:
            structure = logbook.catalogue[specimen.knot_a.structure]
            try_tying(workshop, trials, _entry_of(logbook, specimen), structure, tried)
            tried += 1
        technician = TECHNICIANS[number % 2]
        workshop.file.worker = Worker(who=technician, bench=BENCH)
        pull_id, remains = pull_specimen(workshop, specimen, technician, stopped.get(specimen.id))
        if specimen.id in void:
            void_specimen(workshop, pull_id, "Pin shackle was not seated; it shifted.")
        else:
            inspect_specimen(workshop, pull_id, remains)
        if number == CRITERION_CHANGED_AFTER:
            change_criterion(workshop)
    if limit is None:
        pull_methods(workshop, rng)
    workshop.close()


def _entry_of(logbook: Logbook, specimen: Specimen) -> Entry:
    return next(e for e in logbook.entries if e.specimen.id == specimen.id)


def pull_methods(workshop: Workshop, rng: np.random.Generator) -> None:
    """The second part of the demo: every method, on lots of its own, tied by the sheet."""
    lots = enter_method_lots(workshop, rng)
    fixtures = enter_fixtures(workshop)
    catalogue = load_catalogue()
    queued = plan_methods(workshop, rng, catalogue, CELLS, lots, fixtures)
    enter_method_claims(workshop, lots["N7-T"])
    pull_cells(workshop, rng, queued)
    plan_methods(workshop, rng, catalogue, WAITING_CELLS, lots, fixtures)
    leave_one_out(workshop)
    more = np.random.default_rng(SEED + 3)
    queued = plan_methods(workshop, more, catalogue, GUIDE_CELLS, lots, fixtures)
    pull_cells(workshop, more, queued, tries=True)
    last = np.random.default_rng(SEED + 4)
    pull_cells(workshop, last, plan_methods(workshop, last, catalogue, WORK_CELLS, lots, fixtures))
    own = np.random.default_rng(SEED + 5)
    lots |= enter_webbing(workshop, own)
    pull_cells(workshop, own, plan_methods(workshop, own, catalogue, STATE_CELLS, lots, fixtures))


def pull_cells(
    workshop: Workshop,
    rng: np.random.Generator,
    queued: list[tuple[Specimen, MethodCell]],
    *,
    tries: bool = False,
) -> None:
    """Cut, tie, check, pull and inspect every specimen; with `tries` also a trial of each."""
    known: dict[str, float] = {}
    for number, (specimen, cell) in enumerate(queued):
        logbook = read_logbook(workshop)
        cut_all(workshop, logbook, specimen)
        entry = _entry_of(logbook, specimen)
        tie_and_check(workshop, rng, logbook, entry, number, cell)
        if tries and specimen.knot_a is not None:
            structure = logbook.catalogue[specimen.knot_a.structure]
            try_tying(workshop, rng, entry, structure, number)
        logbook = read_logbook(workshop)
        entry = _entry_of(logbook, specimen)
        lot = entry.specimen.lot
        if cell.knot is not None and lot.id not in known:
            known[lot.id] = reference_n(logbook, lot)[0]
        pull_id, remains = pull_specimen(
            workshop,
            entry.specimen,
            TECHNICIANS[number % 2],
            reference=known.get(lot.id, 0.0),
        )
        inspect_specimen(workshop, pull_id, remains)


def leave_one_out(workshop: Workshop) -> None:
    """Leave a pull out of the results, as a technician would who found a fault afterwards."""
    entry = next(
        e
        for e in read_logbook(workshop).at(Stage.INSPECTED)
        if e.specimen.lot.name == "N6-K" and e.specimen.title.startswith("Overhand bend")
    )
    exclude_pull(workshop, entry, "One tail had been cut 40 mm short of the plan.", TECHNICIANS[0])


def main(arguments: list[str] | None = None) -> int:
    """Build the demo file named on the command line."""
    (target,) = sys.argv[1:] if arguments is None else arguments
    path = Path(target)
    path.unlink(missing_ok=True)
    build_demo(path)
    Path(f"{path}.lock").unlink(missing_ok=True)
    print(f"{path.name}: {path.stat().st_size / 1e6:.1f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
