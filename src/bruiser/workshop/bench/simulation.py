"""Puts a planned specimen on the simulated bench."""

from __future__ import annotations

import math
import re
import zlib
from dataclasses import replace

from bruiser.catalogue import load_catalogue
from bruiser.core.errors import InputError, RigError
from bruiser.core.records.layouts import End
from bruiser.core.records.legs import legs_of
from bruiser.core.records.readings import WOULD_NOT, Sheath, Takes
from bruiser.core.records.records import CROSSED, Lot, Specimen
from bruiser.rig.instrument import Instrument, InstrumentInfo, Remains
from bruiser.rig.simulated.archetypes import Kind
from bruiser.rig.simulated.bench import WATCHDOG_S, SimulatedBench
from bruiser.rig.simulated.cords import CORDS, nearest_cord
from bruiser.rig.simulated.device import BenchDevice
from bruiser.rig.simulated.sensor import Faults
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import Tying, tying

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
_SEAT_D = 2.0
_WATER = re.compile(r"\b(wet|soak|damp|drench)")
_ICE = re.compile(r"\b(ice|iced|icy|frozen|frost)")
_MUD = re.compile(r"\b(mud|dirt|soil|clay)")
_WORN = 0.82
"""Strength a worn synthetic cord has left."""


def cord_of(lot: Lot) -> str:
    """The synthetic cord of a lot: its own, or what comes nearest to what is said of it."""
    return lot.cord_model or nearest_cord(lot.material, lot.construction)


def specimen_setup(specimen: Specimen) -> SpecimenSetup:
    """The simulator's view of a planned specimen.

    Raises
    ------
    RigError
        If the simulator has no synthetic knot for it.
    """
    lot = specimen.lot
    knots: dict[End, Tying] = {}
    plan = specimen.method
    for end in End:
        knot = specimen.knot_at(end)
        if knot is not None:
            tied = tying(knot.structure, dict(knot.choices))
            if tied is None:
                raise RigError(
                    f"The simulated bench cannot tie the {knot.name.lower()}: it is your own.",
                    "Enter the readings of a real bench.",
                )
            if plan.key == "cord on rope":
                wraps = plan.value("wraps")
                tied = replace(tied, archetype=replace(tied.archetype, wraps=wraps))
            if specimen.layout_key == "binding" and tied.archetype.kind is not Kind.BINDING:
                round_it = replace(tied.archetype, kind=Kind.BINDING, turns=1.0)
                tied = replace(tied, archetype=round_it)
            knots[end] = tied
    fixture, other = specimen.fixture, specimen.lot_b
    condition = lot.condition.lower()
    kinds = {"host": 0.0, "edge": 0.0, "plate": 0.0, "pin": 0.0}
    if fixture is not None:
        kinds[fixture.kind] = 1000.0 * fixture.diameter_m
    return SpecimenSetup(
        cord=cord_of(lot),
        diameter_mm=1000.0 * lot.round_m,
        span_mm=1000.0 * specimen.span_m,
        layout=specimen.layout_key,
        knots=knots,
        tails_mm={tail.key: 1000.0 * tail.length_m for tail in specimen.tails},
        pin_mm=1000.0 * specimen.pin_diameter_m,
        lot_seed=zlib.crc32(lot.stock_id.encode()),
        seed=specimen.seed,
        flaw_chance=_FLAW_CHANCE,
        wet=bool(_WATER.search(condition) or _ICE.search(condition)),
        iced=bool(_ICE.search(condition)),
        muddy=bool(_MUD.search(condition)),
        wear=_WORN if "worn" in condition else 1.0,
        crossed=specimen.dressing == CROSSED,
        direction=_said(specimen),
        host_mm=kinds["host"],
        host_finish="" if fixture is None else f"{fixture.finish} {fixture.material}",
        seat_d=kinds["plate"] / (1000.0 * lot.diameter_m) if kinds["plate"] else _SEAT_D,
        edge_mm=kinds["edge"],
        other_cord="" if other is None else cord_of(other),
        other_mm=0.0 if other is None else 1000.0 * other.round_m,
        uneven=specimen.state.longer_eye,
        cut_share=specimen.state.cut_share,
    )


def _said(specimen: Specimen) -> str:
    """The legs that are pulled, as the knot's own entry says them where it does."""
    plan, knot = specimen.method, specimen.knot_a
    if plan.key == "ring load":
        return "ring load"
    if not plan.direction or knot is None:
        return ""
    structure = load_catalogue().get(knot.structure)
    own = "" if structure is None else structure.said(legs_of(plan.direction))
    return own or plan.direction


def bench_with(
    specimen: Specimen,
    *,
    speed: float = 1.0,
    load_limit_n: float | None = None,
    watchdog_s: float = WATCHDOG_S,
) -> SimulatedBench:
    """The simulated bench with this specimen on it; infinite speed pulls without waiting.

    It stops by itself when whoever moves it is silent for ``watchdog_s`` seconds.
    """
    return SimulatedBench(
        SimulatedSpecimen(specimen_setup(specimen)),
        SIMULATED_BENCH,
        1000.0 * TRAVEL_RATE_M_S,
        speed=speed,
        load_limit_n=load_limit_n,
        watchdog_s=watchdog_s,
        channels=4,
    )


def serve_bench(
    cord: str,
    knot: str | None,
    diameter_mm: float,
    sample_rate_hz: float = 500.0,
    channels: int = 2,
    seed: int = 1,
    watchdog_s: float = 1.0,
) -> BenchDevice:
    """A simulated bench on a pseudo-terminal, with a loop, bend or hitch, or plain rope.

    It stops by itself when whoever moves it is silent for ``watchdog_s`` seconds.

    Raises
    ------
    InputError
        If there is no such synthetic cord or structure.
    """
    structure = None if knot is None else load_catalogue().get(knot)
    tied = None if knot is None else tying(knot)
    if cord not in CORDS:
        raise InputError(f"There is no synthetic cord “{cord}”: {', '.join(CORDS)}.", where="cord")
    if knot is not None and (structure is None or tied is None):
        raise InputError(f"There is no structure “{knot}” in the catalogue.", where="knot")
    layout = "baseline" if structure is None else structure.layout
    knots = {} if tied is None else {End.A: tied}
    if tied is not None and layout == "loop_pair":
        knots[End.B] = tied
    setup = SpecimenSetup(
        cord=cord,
        diameter_mm=diameter_mm,
        span_mm=400.0,
        layout=layout,
        knots=knots,
        lot_seed=seed,
        seed=seed,
    )
    info = replace(SIMULATED_BENCH, sample_rate_hz=sample_rate_hz)
    bench = SimulatedBench(
        SimulatedSpecimen(setup),
        info,
        1000.0 * TRAVEL_RATE_M_S,
        watchdog_s=watchdog_s,
        channels=channels,
    )
    return BenchDevice(bench, channels)


TRAINING_FAULTS = {
    "none": "No fault",
    "spikes": "Spikes",
    "hum": "Hum",
    "drift": "Drift",
    "gap": "Gap",
    "stuck": "Stuck",
    "disconnect": "Cable off",
    "clip": "Small cell",
}


def is_simulated(instrument: Instrument | None) -> bool:
    """Whether an instrument is the simulated bench, which faults can be put into."""
    return isinstance(instrument, SimulatedBench)


def lock_off(instrument: Instrument) -> None:
    """What a hand does at a tensioning system; only a simulated bench needs to be told."""
    if isinstance(instrument, SimulatedBench):
        instrument.lock_off()


def inject_fault(instrument: Instrument, key: str) -> None:
    """Put one of :data:`TRAINING_FAULTS` into the simulated bench, from now on."""
    if not isinstance(instrument, SimulatedBench):
        return
    now = instrument.samples / instrument.info.sample_rate_hz + 0.2
    top = instrument.info.capacity_n
    instrument.sensor.faults = {
        "spikes": Faults(spikes_per_s=3.0),
        "hum": Faults(hum_n=0.002 * top),
        "drift": Faults(drift_n_per_s=0.002 * top),
        "gap": Faults(dropouts=((now, 0.4),)),
        "stuck": Faults(stuck=(now, 1.0)),
        "disconnect": Faults(disconnect_s=now),
        "clip": Faults(clip_n=0.2 * top),
    }.get(key, Faults())


AS_FAST_AS_IT_GOES = math.inf


HAND_MOST_N = {Takes.BY_HAND: 150.0, Takes.RELEASE: 500.0}
"""More than this nobody brings to slide a slack grip with a hand, or to draw a tail with both."""
_TRUTH_OF = {
    Takes.RELEASE: "release_n",
    Takes.BY_HAND: "by_hand_n",
    Takes.MOVED: "move_n",
    Takes.WIDTH: "width_m",
    Takes.LEDGE: "ledge_n",
}


def _look(lies: Remains) -> Sheath:
    """How the sheaths look: glazed once it slid far enough to melt its surface."""
    glazed = any(lies.truth.get(f"glazed_{end}", 0.0) for end in End)
    return Sheath.GLAZED if glazed else Sheath.CLEAN


def felt_reading(takes: Takes | None, lies: Remains) -> tuple[float | None, str] | None:
    """What somebody would read on a simulated specimen, and whether it was refused.

    Returns
    -------
    (float or None, str) or None
        Newton, or metre for a width; :data:`~bruiser.core.records.readings.WOULD_NOT` where no
        hand is enough. None where the specimen has no such thing.
    """
    if takes is Takes.SHEATH:
        return None, _look(lies)
    truth = None if takes is None else lies.truth.get(_TRUTH_OF.get(takes, ""))
    if truth is None:
        return None
    refused = takes is not None and truth > HAND_MOST_N.get(takes, math.inf)
    return (None, WOULD_NOT) if refused else (truth, "")
