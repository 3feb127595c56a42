"""Situations for tests, made from their records: lots, knots, and what was pulled and found.

:class:`Situation` fills a logbook pull by pull, without a file and without the demo. The constants
are the smallest records that hold together, for tests that put them into a file.
"""

from dataclasses import replace
from datetime import datetime, timedelta

from bruiser.catalogue import load_catalogue
from bruiser.core.choice.brief import Brief
from bruiser.core.records.bench_book import Fixture
from bruiser.core.records.layouts import lay
from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.preparation import Preparation, PrepStep, TyingTrial
from bruiser.core.records.readings import Reading
from bruiser.core.records.records import (
    Finding,
    Gave,
    Knot,
    KnotInspection,
    Lot,
    Pull,
    PullEnd,
    Role,
    Specimen,
    Tail,
    TailDraw,
)
from bruiser.core.records.stock import Hank, HankKind
from bruiser.core.trace import TraceEnd, TraceResult
from bruiser.store.campaigns import CampaignRow
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.whole import WholeLogbook

ROW = CampaignRow(
    id="c",
    title="Trial",
    station="Bench",
    question="Which?",
    synthetic=False,
    force_unit="kN",
    length_unit="mm",
    created_at="2026-01-01T00:00:00Z",
)
LOT = Lot(
    id="l1",
    name="P8",
    material="polyester",
    construction="braid",
    diameter_m=0.008,
    condition="dry",
    rated_strength_n=13_000.0,
    rating_means="minimum",
)
KNOT = Knot(id="k1", structure="bowline", variant="plain", name="Bowline", family="end loop")
SPECIMEN = Specimen(
    id="s1",
    code="S-001",
    role=Role.KNOT,
    lot=LOT,
    layout_key="loop_pair",
    queue_position=1,
    span_m=0.4,
    knot_a=KNOT,
    knot_b=KNOT,
    tails=(Tail("tail_a", 0.1), Tail("tail_b", 0.11)),
    pin_diameter_m=0.012,
    set_load_n=600.0,
    seed=5,
    note="first",
)
PLAIN = {
    "role": Role.BASELINE,
    "layout_key": "baseline",
    "knot_a": None,
    "knot_b": None,
    "tails": (),
}
"""What makes a specimen one of plain rope."""
HANK = Hank(id="h1", lot_id="l1", label="P8/1", kind=HankKind.HANK)


class Ticking:
    """A clock that moves a minute at every look, and ids that count up."""

    def __init__(self):
        self.minute = 0
        self.number = 0

    def now(self):
        self.minute += 1
        return f"{datetime(2026, 2, 1) + timedelta(minutes=self.minute):%Y-%m-%dT%H:%M:00Z}"

    def new_id(self):
        self.number += 1
        return f"id{self.number}"


def trace_result(peak_n, first_slip_n=None, drawn_m=()):
    """What the analysis would say of a trace that broke at its peak."""
    return TraceResult(
        zero_n=0.0,
        noise_n=1.0,
        peak_n=peak_n,
        peak_index=900,
        peak_time_s=9.0,
        end=TraceEnd.BROKE,
        end_index=901,
        end_time_s=9.01,
        slips=(),
        first_slip_n=first_slip_n,
        travel_to_peak_m=0.1,
        energy_j=100.0,
        rate_m_s=0.01,
        flags=(),
        draw_by_load_m=drawn_m,
    )


def entry_of(specimen, load_n, gave, place, *, number=0, slip_n=None, drawn_m=(), **found):
    """An inspected specimen; `found` are further fields of its finding."""
    at = f"2026-03-{1 + number // 60:02}T10:{number % 60:02}"
    pull = Pull(
        id=f"p{number}",
        specimen_id=specimen.id,
        started_at=f"{at}:00Z",
        instrument="bench",
        sample_rate_hz=100.0,
        rate_m_s=0.002,
        capacity_n=25_000.0,
        resolution_n=1.0,
        technician="TV",
        ended_at=f"{at}:30Z",
        end=PullEnd.GAVE,
    )
    finding = Finding(
        id=f"f{number}",
        pull_id=pull.id,
        made_at=pull.ended_at,
        gave=gave,
        place=place,
        peak_load_n=load_n,
        **found,
    )
    return Entry(
        specimen=specimen,
        pull=pull,
        analysis=trace_result(load_n, slip_n, drawn_m),
        finding=finding,
        history=(finding,),
    )


class Situation:
    """A logbook in the making."""

    def __init__(self):
        self.lots, self.knots, self.entries = [], {}, []

    def lot(self, name="R8", *, plain=(9_800.0, 9_900.0, 10_000.0, 10_100.0, 10_200.0), **changes):
        """A lot whose plain rope was pulled; with ``plain=()`` it was not."""
        made = replace(LOT, id=f"lot {name}", name=name, **changes)
        self.lots.append(made)
        for load in plain:
            self._add(
                self.specimen(made, MethodPlan(STRAIGHT), role=Role.BASELINE),
                load,
                Gave.BROKE,
                "span",
            )
        return made

    def knot(self, structure, variant="plain", choices=()):
        """A knot in play, by its structure in the catalogue."""
        key = f"{structure} {variant}"
        if key not in self.knots:
            s = load_catalogue()[structure]
            self.knots[key] = Knot(
                id=f"knot {key}",
                structure=structure,
                variant=variant,
                name=s.name,
                family=s.family,
                choices=choices,
            )
        return self.knots[key]

    def pull(
        self,
        structure,
        lot,
        *loads,
        gave=Gave.BROKE,
        place=None,
        variant="plain",
        choices=(),
        method=RAMP,
        values=(),
        direction="",
        jam=None,
        untie_s=3.0,
        drew_m=0.002,
        slip_n=None,
        drawn_m=(),
        readings=(),
        **specimen,
    ):
        """Pull a knot once for each load; every pull ends in the same way.

        `jam` is what untying took at each knot; `readings` a function of the entry.
        """
        knot = self.knot(structure, variant, choices)
        layout = lay(specimen.pop("layout_key", load_catalogue()[structure].layout))
        two = layout.key == "loop_pair"
        made = []
        for load in loads:
            planned = self.specimen(
                lot,
                MethodPlan(method, tuple(values), direction),
                role=Role.KNOT,
                layout_key=layout.key,
                knot_a=knot,
                knot_b=knot if two else None,
                tails=tuple(Tail(t.key, 0.1) for t in layout.tails),
                pin_diameter_m=0.012,
                **specimen,
            )
            where = place or ("knot_a" if gave in (Gave.CAME_OUT, Gave.CAPSIZED) else "nip_a")
            where = None if gave in (Gave.STOPPED, Gave.VOID) else where
            ends = layout.ends
            gone = (layout.place(where).owner,) if where is not None and two else ()
            opened = tuple(
                KnotInspection(end=e, jam_level=jam, untie_s=untie_s)
                for e in ends
                if jam is not None and e not in gone
            )
            drew = tuple(TailDraw(key=t.key, draw_m=drew_m) for t in layout.tails)
            made.append(
                self._add(
                    planned,
                    load,
                    gave,
                    where,
                    slip_n=None if slip_n is None else min(slip_n, load),
                    drawn_m=drawn_m,
                    inspections=opened,
                    draws=drew,
                    void_reason="it slipped off the pin" if gave is Gave.VOID else "",
                )
            )
            if readings:
                self.change(made[-1], readings=tuple(readings(self.entries[-1])))
        return made

    def trial(self, structure, lot, *seconds, inspected=None, **pulled):
        """Tying trials, each of a specimen of its own that held a load and says nothing else."""
        found = []
        held = {"method": "sustained hold", "gave": Gave.STOPPED}
        for one in seconds:
            (code,) = self.pull(structure, lot, 1_000.0, **held, **pulled)
            trial = TyingTrial(seconds=one, verdict=inspected, inspector="MR" if inspected else "")
            step = Preparation(
                id=f"t {code}",
                specimen_id=code,
                made_at="2026-03-01T08:00:00Z",
                step=PrepStep.TRIAL,
                trial=trial,
            )
            self.change(code, prepared=(step,))
            found.append(code)
        return found

    def reading(self, entry, takes, number, load_n, value=None, **more):
        """A reading of a pull."""
        return Reading(
            id=f"r {entry.pull.id} {takes} {number} {more.get('end', '')}",
            pull_id=entry.pull.id,
            made_at="2026-03-01T10:00:00Z",
            takes=takes,
            number=number,
            load_n=load_n,
            value=value,
            **more,
        )

    def logbook(self, brief=None):
        """Everything so far."""
        return WholeLogbook(
            lots=tuple(self.lots),
            knots=tuple(self.knots.values()),
            specimens=tuple(self.entries),
            brief=brief or Brief(),
        )

    def specimen(self, lot, plan, **values):
        """A specimen next in the queue; what is not given is that of plain rope."""
        number = len(self.entries)
        blank = {
            "id": f"s{number}",
            "code": f"S-{number:03}",
            "lot": lot,
            "layout_key": "baseline",
            "queue_position": number,
            "span_m": 0.4,
            "method": plan,
        }
        return Specimen(**(blank | values))

    def _add(self, specimen, load, gave, place, **found):
        number = len(self.entries)
        self.entries.append(entry_of(specimen, load, gave, place, number=number, **found))
        return specimen.id

    def change(self, specimen_id, **values):
        at = next(n for n, e in enumerate(self.entries) if e.specimen.id == specimen_id)
        self.entries[at] = replace(self.entries[at], **values)


def post(diameter_m=0.05, kind="host", name="post"):
    """A fixture a hitch is tied to."""
    return Fixture(
        id=f"f {name}",
        kind=kind,
        name=name,
        material="steel",
        finish="smooth",
        diameter_m=diameter_m,
    )
