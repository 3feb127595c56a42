"""A large campaign in memory: 100 lots, 1,000 groups, 10,000 pulls, with known truth."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from bruiser.core.records.layouts import End
from bruiser.core.records.records import (
    Finding,
    Gave,
    JamLevel,
    Knot,
    KnotInspection,
    Lot,
    Pull,
    Role,
    Specimen,
    TailDraw,
)
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.whole import WholeLogbook

LEVELS = (JamLevel.HAND, JamLevel.WORKED, JamLevel.TOOL, JamLevel.CUT)


def _lot(n: int) -> Lot:
    return Lot(
        id=f"lot{n}",
        name=f"L{n:03}",
        material="nylon",
        construction="kernmantle",
        diameter_m=0.008,
        condition="new, dry",
        rated_strength_n=14_000.0,
        rating_means="minimum",
    )


def _entry(specimen: Specimen, load_n: float, rng: np.random.Generator, number: int) -> Entry:
    """A pull of a specimen with findings as they come: most break, some come out or outlast."""
    key, outcome = f"p{number}", rng.random()
    minute = number % 60
    day = 1 + number // 400
    pull = Pull(
        id=key,
        specimen_id=specimen.id,
        started_at=f"2026-{1 + day // 28:02}-{1 + day % 28:02}T10:{minute:02}:00Z",
        instrument="bench",
        sample_rate_hz=500.0,
        rate_m_s=0.008,
        capacity_n=25_000.0,
        resolution_n=2.0,
        technician="TV" if number % 2 else "OQ",
    )
    if specimen.knot_a is None:
        return Entry(
            specimen=specimen,
            pull=pull,
            analysis=None,
            finding=Finding(
                id=f"f{key}",
                pull_id=key,
                made_at="",
                gave=Gave.BROKE,
                place="span",
                peak_load_n=load_n,
            ),
        )
    gave, place = Gave.BROKE, "knot_a"
    if outcome > 0.9:
        gave, place, load_n = Gave.STOPPED, None, 0.85 * load_n
    elif outcome > 0.75:
        gave = Gave.CAME_OUT
    stuck = 1 / (1 + math.exp(-(math.log(load_n / 14_000) - math.log(0.65)) / 0.18))
    seen = tuple(
        KnotInspection(
            end=end,
            jam_level=LEVELS[int(rng.random() < stuck) * 2 + int(rng.random() < 0.4)],
            untie_s=8.0 + n,
        )
        for n, end in enumerate((End.B,) if place else tuple(End))
    )
    draws = tuple(TailDraw(key=t.key, draw_m=0.01 * rng.random()) for t in specimen.layout.tails)
    finding = Finding(
        id=f"f{key}",
        pull_id=key,
        made_at="",
        gave=gave,
        place=place,
        peak_load_n=load_n,
        draws=draws,
        inspections=seen,
    )
    return Entry(specimen=specimen, pull=pull, analysis=None, finding=finding)


def blank_specimen() -> Specimen:
    """A piece of plain rope of the first lot."""
    return Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=_lot(0),
        layout_key="baseline",
        queue_position=0,
        span_m=0.5,
        pin_diameter_m=0.012,
    )


def large_campaign(
    lots: int = 100, knots: int = 10, pulls: int = 10, seed: int = 1
) -> WholeLogbook:
    """A logbook of `lots` times `knots` groups of `pulls` each; five straight pulls a lot."""
    rng = np.random.default_rng(seed)
    tied = [
        Knot(id=f"k{k}", structure="bowline", variant="plain", name=f"Knot {k}", family="end loop")
        for k in range(knots)
    ]
    made, entries = [_lot(n) for n in range(lots)], []
    blank = blank_specimen()
    for lot in made:
        plain = 14_000 * math.exp(0.05 * rng.standard_normal())
        for knot in (None, *tied):
            share = 1.0 if knot is None else 0.5 + 0.04 * int(knot.id[1:])
            for _ in range(5 if knot is None else pulls):
                number = len(entries)
                # Of two knots the weaker gives; the plain rope has one strength.
                ends = rng.standard_normal(1 if knot is None else 2)
                load = plain * share * math.exp((0.04 if knot is None else 0.07) * ends.min())
                specimen = replace(
                    blank, id=f"s{number}", code=f"S-{number:05}", lot=lot, queue_position=number
                )
                if knot is not None:
                    specimen = replace(
                        specimen, role=Role.KNOT, layout_key="loop_pair", knot_a=knot, knot_b=knot
                    )
                entries.append(_entry(specimen, load, rng, number))
    return WholeLogbook(lots=tuple(made), knots=tuple(tied), specimens=tuple(entries))
