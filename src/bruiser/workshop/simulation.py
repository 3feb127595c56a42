"""Puts a planned specimen on the simulated bench."""

from __future__ import annotations

import math
import zlib

from bruiser.core.layouts import End
from bruiser.core.records import Specimen
from bruiser.rig.instrument import InstrumentInfo
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


def specimen_setup(specimen: Specimen) -> SpecimenSetup:
    """The simulator's view of a planned specimen; ``ValueError`` without a synthetic cord."""
    if not specimen.lot.cord_model:
        raise ValueError(f"lot {specimen.lot.name} has no synthetic cord")
    knots = {end: specimen.knot_at(end) for end in End}
    return SpecimenSetup(
        cord=specimen.lot.cord_model,
        diameter_mm=1000.0 * specimen.lot.diameter_m,
        span_mm=1000.0 * specimen.span_m,
        layout=specimen.layout_key,
        knots={end: knot.structure for end, knot in knots.items() if knot is not None},
        tails_mm={tail.key: 1000.0 * tail.length_m for tail in specimen.tails},
        pin_mm=1000.0 * specimen.pin_diameter_m,
        lot_seed=zlib.crc32(specimen.lot.name.encode()),
        seed=specimen.seed,
        flaw_chance=_FLAW_CHANCE,
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
