"""Specimens for the methods, planned in a campaign ahead of everything that waits."""

from dataclasses import replace

from bruiser.catalogue import load_catalogue
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import lay
from bruiser.core.records.methods import MethodPlan
from bruiser.core.records.records import Knot, Role, Specimen, Tail
from bruiser.workshop.bench.simulation import bench_with
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.plan.bench_entry import AddFixture

CATALOGUE = load_catalogue()


def patient_bench(speed):
    """Makes simulated benches of that speed that do not stop while every core is at work elsewhere.

    That a bench stops by itself when its window stands still is shown in tests/rig.
    """
    return lambda specimen: bench_with(specimen, speed=speed, watchdog_s=60.0)


def specimen_for(workshop, method, structure, *, lot="", fixture=None, **values):
    """A specimen of a structure by a method; in the first nylon lot where none is named."""
    logbook = read_logbook(workshop)
    lot = next(x for x in logbook.lots if (x.name == lot if lot else x.material == "nylon"))
    plan = MethodPlan(method, tuple(values.items()))
    blank = Specimen(
        id="m1",
        code="M-1",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=0.35,
        seed=77,
        method=plan,
    )
    if structure is None:
        return blank
    s = CATALOGUE[structure]
    if plan.method.directed:
        plan = replace(plan, direction=s.directions[-1])
    layout = "loop_single" if s.layout == "loop_pair" else s.layout
    tail_m = s.cord_rule({}).tail_usual_d * lot.diameter_m
    kind = plan.method.fixture
    held = (
        Fixture(
            id="f1", kind=kind, name=f"{kind} 1", material="steel", finish="smooth", diameter_m=0.05
        )
        if kind
        else None
    )
    return replace(
        blank,
        role=Role.KNOT,
        layout_key=layout,
        knot_a=Knot(id="k", structure=structure, variant="plain", name=s.name, family=s.family),
        tails=tuple(Tail(t.key, tail_m) for t in lay(layout).tails),
        pin_diameter_m=0.012,
        method=plan,
        fixture=held,
    )


def stored(workshop, specimen):
    """Put it into the campaign, with what it is made of."""
    logbook = read_logbook(workshop)
    knot = specimen.knot_a
    if knot is not None:
        there = [k for k in logbook.knots if k.structure == knot.structure and not k.choices]
        if there:
            specimen = replace(specimen, knot_a=there[0])
        else:
            workshop.do(AddKnot(knot))
    if specimen.fixture is not None:
        workshop.do(AddFixture(specimen.fixture))
    workshop.do(PlanSpecimen(specimen))
    return specimen
