"""A series of pulls of the simulated bench with what was true of each."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from bruiser.catalogue import load_catalogue
from bruiser.core.errors import InputError
from bruiser.core.records.layouts import End
from bruiser.core.trace import Trace, trace_of
from bruiser.rig.instrument import Motion
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import tying
from bruiser.workshop.bench.simulation import SIMULATED_BENCH, TRAVEL_RATE_M_S

_REST_S = 0.5
_TAIL_D = 12.0
_MOST_READS = 20_000


@dataclass(frozen=True, kw_only=True)
class SimulatedSeries:
    """What is pulled: a synthetic cord, a knot of the catalogue or none, how often."""

    seed: int
    count: int = 5
    cord: str = "polyester double braid"
    knot: str | None = "bowline"
    diameter_mm: float = 8.0


@dataclass(frozen=True, kw_only=True)
class PullTruth:
    """What was true of a simulated pull, loads in newton and times in second; null: did not."""

    file: str
    seed: int
    cord: str
    knot: str | None
    diameter_mm: float
    sample_rate_hz: float
    gave: str | None
    place: str | None
    peak_n: float
    gave_at_s: float | None
    first_slip_n: float | None
    capsized_n: float | None


def pull_series(series: SimulatedSeries) -> list[tuple[Trace, PullTruth]]:
    """Pull every specimen of a series until it gives; the same seed gives the same.

    Raises
    ------
    InputError
        If there is no such cord or knot, or a number is not right.
    """
    if series.cord not in CORDS:
        raise InputError(f"There is no synthetic cord “{series.cord}”.", f"{', '.join(CORDS)}.")
    structure = None if series.knot is None else load_catalogue().get(series.knot)
    tied = None if series.knot is None else tying(series.knot)
    if series.knot is not None and (structure is None or tied is None):
        raise InputError(f"There is no structure “{series.knot}” in the catalogue.", where="knot")
    if not 1 <= series.count <= 1000 or not 1.0 <= series.diameter_mm <= 60.0:
        raise InputError("From 1 to 1000 pulls, of cord from 1 to 60 mm.")
    layout = "baseline" if structure is None else structure.layout
    knots = {} if tied is None else {End.A: tied}
    if tied is not None and layout == "loop_pair":
        knots[End.B] = tied
    rng = np.random.default_rng(series.seed)
    plain = SpecimenSetup(
        cord=series.cord,
        diameter_mm=series.diameter_mm,
        span_mm=400.0,
        layout=layout,
        knots=knots,
        tails_mm={k: _TAIL_D * series.diameter_mm for k in ("tail_a", "tail_b", "tail_a2")},
        lot_seed=series.seed,
    )
    seeds = [int(x) for x in rng.integers(2**31, size=series.count)]
    return [_pull(series, replace(plain, seed=s), n) for n, s in enumerate(seeds, 1)]


def _pull(series: SimulatedSeries, setup: SpecimenSetup, number: int) -> tuple[Trace, PullTruth]:
    specimen = SimulatedSpecimen(setup)
    capacity = 2.0 ** math.ceil(math.log2(1.5 * specimen.strength_n))
    info = replace(SIMULATED_BENCH, capacity_n=capacity, resolution_n=capacity / 20_000)
    bench = SimulatedBench(specimen, info, 1000.0 * TRAVEL_RATE_M_S, speed=math.inf)
    blocks: list[Trace] = []
    while sum(len(block) for block in blocks) < _REST_S * info.sample_rate_hz:
        blocks.append(bench.read(0))
    bench.arm()
    bench.pull()
    for _ in range(_MOST_READS):
        blocks.append(bench.read(0))
        if bench.status().motion is Motion.STILL:
            break
    load = np.concatenate([block.load_n for block in blocks])
    travel = np.concatenate([block.travel_m for block in blocks])
    gave, place = specimen.gave or (None, None)
    truth = PullTruth(
        file=f"pull-{number:03d}.csv",
        seed=setup.seed,
        cord=series.cord,
        knot=series.knot,
        diameter_mm=series.diameter_mm,
        sample_rate_hz=info.sample_rate_hz,
        gave=gave,
        place=place,
        peak_n=float(specimen.highest_n),
        gave_at_s=_said(specimen.gave_s),
        first_slip_n=_said(specimen.first_slip_n),
        capsized_n=_said(specimen.capsized_n),
    )
    return trace_of(load, travel, rate_hz=info.sample_rate_hz), truth


def _said(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None
