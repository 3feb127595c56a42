"""Puts a planned specimen on the simulated bench."""

from __future__ import annotations

import math
import zlib

from bruiser.core.errors import RigError
from bruiser.core.layouts import End
from bruiser.core.records import Specimen
from bruiser.rig.instrument import InstrumentInfo
from bruiser.rig.simulated.archetypes import archetype_key
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.specimen import SimulatedSpecimen, SpecimenSetup

SIMULATED_BENCH = InstrumentInfo(
    name="simulated bench",
    sample_rate_hz=500.0,
    capacity_n=25_000.0,
    resolution_n=2.0,
    stroke_m=1.0,
    simulated=True,
)
TRAVEL_RATE_M_S = 0.008
_FLAW_CHANCE = 0.06
_WORN = 0.82
"""Strength a worn synthetic cord has left."""


def specimen_setup(specimen: Specimen) -> SpecimenSetup:
    """The simulator's view of a planned specimen.

    Raises
    ------
    RigError
        If the simulator has no synthetic cord or knot for it.
    """
    lot = specimen.lot
    if not lot.cord_model:
        raise RigError(
            f"The simulated bench has no synthetic cord for lot {lot.name}.",
            "Enter the readings of a real bench, or pull a lot of the demo.",
        )
    knots = {}
    for end in End:
        knot = specimen.knot_at(end)
        if knot is not None:
            key = archetype_key(knot.structure, knot.choices)
            if key is None:
                raise RigError(f"The simulated bench cannot tie the {knot.name.lower()} yet.")
            knots[end] = key
    return SpecimenSetup(
        cord=specimen.lot.cord_model,
        diameter_mm=1000.0 * specimen.lot.diameter_m,
        span_mm=1000.0 * specimen.span_m,
        layout=specimen.layout_key,
        knots=knots,
        tails_mm={tail.key: 1000.0 * tail.length_m for tail in specimen.tails},
        pin_mm=1000.0 * specimen.pin_diameter_m,
        lot_seed=zlib.crc32(lot.stock_id.encode()),
        seed=specimen.seed,
        flaw_chance=_FLAW_CHANCE,
        wet="wet" in lot.condition,
        wear=_WORN if "worn" in lot.condition else 1.0,
    )


def bench_with(
    specimen: Specimen, *, speed: float = 1.0, load_limit_n: float | None = None
) -> SimulatedBench:
    """The simulated bench with this specimen on it; infinite speed pulls without waiting."""
    return SimulatedBench(
        SimulatedSpecimen(specimen_setup(specimen)),
        SIMULATED_BENCH,
        1000.0 * TRAVEL_RATE_M_S,
        speed=speed,
        load_limit_n=load_limit_n,
    )


AS_FAST_AS_IT_GOES = math.inf
