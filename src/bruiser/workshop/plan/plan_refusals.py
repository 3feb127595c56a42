"""Why a plan cannot be pulled: what the bench cannot do, and what nobody picked."""

from __future__ import annotations

from bruiser.core.records.bench_book import BenchRecord
from bruiser.core.records.layouts import LAYOUTS, PlaceKind
from bruiser.core.records.methods import suits
from bruiser.core.units import UnitChoice
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.cell_specimens import reference_n
from bruiser.workshop.plan.plan_cells import PlanDraft, laid_for, needs_host_rope


def refusals(
    logbook: Logbook, draft: PlanDraft, bench: BenchRecord | None, units: UnitChoice
) -> list[str]:
    """Why a bench cannot do the methods of a draft, each with the figure that limits it."""
    if bench is None:
        return []
    found: dict[str, None] = {}
    strengths: dict[str, float | None] = {}
    for cell in draft.cells(logbook):
        plan = cell.method
        if plan.key not in bench.methods:
            found[f"{bench.name.capitalize()} cannot do “{plan.key}” (bench book)."] = None
            continue
        share = plan.highest_share
        if share is None:
            continue
        lot = logbook.lot(cell.lot_id)
        if lot.id not in strengths:
            strengths[lot.id] = reference_n(logbook, lot)
        whole = strengths[lot.id]
        if whole is None:
            found[
                f"{lot.name} has neither baseline nor rating: {plan.key} has no level to go to."
            ] = None
        elif share * whole > bench.capacity_n:
            found[
                f"{plan.key.capitalize()} in {lot.name}: {100 * share:g} % of "
                f"{units.force_text(whole)} is {units.force_text(share * whole)}, "
                f"{bench.name} bears {units.force_text(bench.capacity_n)}."
            ] = None
    return list(found)


def missing_fixtures(logbook: Logbook, draft: PlanDraft) -> list[str]:
    """Methods and knots that were picked and need a fixture, or a host rope, nobody picked."""
    fixtures = {f.id: f.kind for f in logbook.bench_book.fixtures}
    kinds = {fixtures[i] for i in draft.fixture_ids if i in fixtures}
    found = [
        f"{plan.key.capitalize()}: tick its {plan.method.fixture} under “Loaded how”."
        for plan in draft.methods
        if plan.method.fixture and plan.method.fixture not in kinds
    ]
    for knot_id in draft.knot_ids:
        knot = logbook.knot(knot_id)
        structure = logbook.catalogue.get(knot.structure)
        if structure is None:
            continue
        plans = [p for p in draft.methods if suits(p.method, structure.families)]
        laid = {structure.layout} if not plans else {laid_for(p, structure) for p in plans}
        places = {p.kind for key in laid for p in LAYOUTS[key].places}
        name = knot.title
        if PlaceKind.ROPE in places and not draft.lot_b_ids:
            found.append(f"{name}: tick its host rope under “Loaded how”; it grips nothing else.")
        if PlaceKind.PLATE in places and "plate" not in kinds:
            found.append(f"{name}: tick its plate under “Loaded how”.")
        if PlaceKind.BUNDLE in places and "host" not in kinds:
            found.append(f"{name}: tick the post or bundle it binds under “Loaded how”.")
    return list(dict.fromkeys(found))


def thin_hosts(logbook: Logbook, draft: PlanDraft) -> list[str]:
    """Hosts thinner than a knot is usually tied on: asked about, not refused."""
    fixtures = {f.id: f for f in logbook.bench_book.fixtures}
    found: dict[str, None] = {}
    for cell in draft.cells(logbook):
        knot, lot = logbook.knot(cell.knot_id), logbook.lot(cell.lot_id)
        structure = logbook.catalogue.get(knot.structure)
        fixture = fixtures.get(cell.fixture_id)
        if structure is None or structure.host is None:
            continue
        wide_m = 0.0 if fixture is None or fixture.kind != "host" else fixture.diameter_m
        name = "" if fixture is None else fixture.name
        if cell.lot_b_id and needs_host_rope(structure):
            host = logbook.lot(cell.lot_b_id)
            wide_m, name = host.diameter_m, host.name
        usual = structure.host.d_over_d
        ratio = wide_m / lot.bend_m
        if 0 < ratio < usual:
            found[
                f"{name} is {ratio:.1f} times as thick as {lot.name}; {knot.title} is usually tied "
                f"on {usual:g} times and more. Is it the right one?"
            ] = None
    return list(found)
