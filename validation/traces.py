"""Trace analysis against the truth of the simulated bench, over cords, knots, modes and faults.

Simulator and analysis are by one hand: what is measured here is an upper bound.
"""

from __future__ import annotations

import math
import multiprocessing
from collections import Counter
from dataclasses import dataclass, replace

import numpy as np

from bruiser.catalogue import load_catalogue
from bruiser.core.records.layouts import End
from bruiser.core.trace import TraceEnd, TraceResult, TraceSettings, analyse_trace, trace_of
from bruiser.rig.instrument import InstrumentInfo, Motion
from bruiser.rig.simulated.bench import SimulatedBench
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.sensor import Faults
from bruiser.rig.simulated.setup import SpecimenSetup
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import tying

SEED = 20261125
MODES = ("ramp", "stopped", "cycles", "steps", "hold", "short stroke")
FAULTS = ("none", "hum", "drift", "spikes", "clip", "gap", "stuck", "disconnect", "jitter")
_MODE_WEIGHTS = (0.62, 0.12, 0.08, 0.06, 0.05, 0.07)
_FAULT_WEIGHTS = (0.44, 0.07, 0.07, 0.07, 0.07, 0.07, 0.07, 0.07, 0.07)
_FLAG = {"clip": "clipped", "gap": "dropout", "stuck": "stuck", "disconnect": "disconnected"}


@dataclass(frozen=True)
class Trial:
    """One simulated pull: what was done, what was true, what was read."""

    number: int
    cord: str
    knot: str
    mode: str
    fault: str
    rate_hz: float
    truth_end: str
    read_end: str
    truth_capsized: bool
    read_capsized: bool
    peak_error: float | None
    instant_error_s: float | None
    onset_error: float | None
    truth_slips: bool
    read_slips: bool
    flags: tuple[str, ...]


@dataclass(frozen=True)
class Record:
    """A simulated record with its truth."""

    time_s: np.ndarray
    load_n: np.ndarray
    travel_m: np.ndarray
    specimen: SimulatedSpecimen
    mode: str
    fault: str
    rate_hz: float
    faulty_from_s: float
    clip_n: float
    knot: str


def make_record(number: int, seed: int = SEED) -> Record:
    """The record of a trial; the same number and seed give the same one."""
    rng = np.random.default_rng([seed, number])
    catalogue = load_catalogue()
    knots = [None, *sorted(catalogue)]
    knot = knots[int(rng.integers(len(knots)))]
    cord = list(CORDS)[int(rng.integers(len(CORDS)))]
    mode = str(rng.choice(MODES, p=_MODE_WEIGHTS))
    fault = str(rng.choice(FAULTS, p=_FAULT_WEIGHTS))
    rate = float(rng.choice([200.0, 500.0, 1000.0, 2000.0], p=[0.1, 0.2, 0.55, 0.15]))
    d = float(rng.choice([4.0, 6.0, 8.0, 10.0, 12.0]))
    layout = "baseline" if knot is None else catalogue[knot].layout
    tied = {} if knot is None else {End.A: tying(knot)}
    if layout == "loop_pair":
        tied[End.B] = tying(knot)
    setup = SpecimenSetup(
        cord=cord,
        diameter_mm=d,
        span_mm=float(rng.uniform(200, 600)),
        layout=layout,
        knots=tied,
        tails_mm={k: float(rng.uniform(8, 20)) * d for k in ("tail_a", "tail_b", "tail_a2")},
        lot_seed=int(rng.integers(2**31)),
        seed=int(rng.integers(2**31)),
        machine_mm_per_n=float(rng.uniform(0.5e-4, 4e-4)),
        flaw_chance=0.05,
        wet=bool(rng.random() < 0.15),
        crossed=bool(rng.random() < 0.15),
    )
    specimen = SimulatedSpecimen(setup)
    stretch = setup.span_mm * CORDS[cord].break_strain + 10 * d * len(tied) + 10
    capacity = 2.0 ** math.ceil(math.log2(1.3 * specimen.strength_n))
    stroke = (0.45 * stretch if mode == "short stroke" else 6.0 * stretch + 400.0) / 1000.0
    info = InstrumentInfo(
        name="trial",
        sample_rate_hz=rate,
        capacity_n=capacity,
        resolution_n=capacity / 20_000,
        stroke_m=stroke,
        simulated=True,
    )
    speed = stretch / float(rng.uniform(4, 10))
    stop_n = None
    if mode == "stopped":
        stop_n = float(rng.uniform(0.15, 0.5)) * specimen.strength_n
    bench = SimulatedBench(specimen, info, speed, speed=math.inf, load_limit_n=stop_n)
    length = stretch / speed
    when = float(rng.uniform(0.3, 0.7)) * length + 0.6
    bench.sensor.faults, start = _faults(fault, when, rng, specimen, info)
    blocks = _run(bench, mode, rng, specimen)
    load = np.concatenate([b.load_n for b in blocks])
    travel = np.concatenate([b.travel_m for b in blocks])
    stamps = bench.sensor.stamps_s(0, len(load))
    if fault == "gap":
        there = np.isfinite(load)
        stamps, load, travel = stamps[there], load[there], travel[there]
    if fault == "jitter":
        stamps = np.sort(stamps)
    clip_n = bench.sensor.faults.clip_n
    return Record(
        stamps, load, travel, specimen, mode, fault, rate, start, clip_n, knot or "plain rope"
    )


def _faults(
    fault: str,
    when: float,
    rng: np.random.Generator,
    specimen: SimulatedSpecimen,
    info: InstrumentInfo,
) -> tuple[Faults, float]:
    """The faults of a trial, and from when on its readings are wrong."""
    top = specimen.strength_n
    plain = Faults(noise_share=float(rng.choice([5e-5, 1.5e-4, 4e-4])))
    if fault == "hum":
        hz = float(rng.choice([50.0, 60.0]))
        return replace(plain, hum_n=float(rng.uniform(0.001, 0.006)) * top, hum_hz=hz), math.inf
    if fault == "drift":
        drift = float(rng.choice([-1, 1])) * float(rng.uniform(0.004, 0.01)) * top / 10.0
        return replace(plain, drift_n_per_s=drift), math.inf
    if fault == "spikes":
        return replace(plain, spikes_per_s=float(rng.uniform(0.5, 2.0))), math.inf
    if fault == "clip":
        return replace(plain, clip_n=float(rng.uniform(0.15, 0.45)) * top), 0.0
    if fault == "gap":
        return replace(plain, dropouts=((when, float(rng.uniform(0.05, 0.3))),)), when
    if fault == "stuck":
        return replace(plain, stuck=(when, float(rng.uniform(0.15, 0.6)))), when
    if fault == "disconnect":
        reads = str(rng.choice(["nothing", "zero", "rail"]))
        return replace(plain, disconnect_s=when, disconnect_reads=reads), when
    if fault == "jitter":
        return replace(plain, jitter_share=0.2), math.inf
    del info
    return plain, math.inf


def _run(
    bench: SimulatedBench, mode: str, rng: np.random.Generator, specimen: SimulatedSpecimen
) -> list:
    """Drive the bench through a mode; returns its blocks."""
    blocks = []
    rest = float(rng.uniform(0.4, 0.8))
    while sum(len(b) for b in blocks) < rest * bench.info.sample_rate_hz:
        blocks.append(bench.read(0))
    bench.arm()

    def until_still(most: int = 4_000) -> None:
        for _ in range(most):
            if bench.status().motion is Motion.STILL:
                return
            blocks.append(bench.read(0))

    levels: tuple[float, ...] = ()
    if mode == "cycles":
        levels = (0.25, 0.05) * int(rng.integers(2, 5))
    elif mode == "steps":
        levels = tuple(np.arange(0.1, 0.5, 0.1))
    elif mode == "hold":
        levels = (float(rng.uniform(0.15, 0.4)),)
    for level in levels:
        bench.to_load(level * specimen.strength_n)
        until_still()
        if mode != "cycles":
            count = max(1, round(bench.info.sample_rate_hz / 250))
            blocks += [bench.read(0) for _ in range(count)]
        if specimen.gave is not None:
            break
    if mode != "hold" or rng.random() < 0.5:
        bench.pull()
        until_still()
    if specimen.gave is None and rng.random() < 0.6:
        bench.slack()
        until_still()
    blocks.append(bench.read(0))
    return blocks


def run_trial(number: int, seed: int = SEED) -> Trial:
    """Simulate, analyse and compare one pull."""
    r = make_record(number, seed)
    settings = TraceSettings(diameter_m=r.specimen.setup.diameter_mm / 1000.0)
    read = analyse_trace(trace_of(r.load_n, r.travel_m, stamps_s=r.time_s), settings=settings)
    return compare(number, r, read)


def _happened(r: Record, gave_at: float) -> bool:
    """Whether a fault fell into the pull: a limit that is reached, a window before the end."""
    if r.fault == "clip":
        return r.specimen.highest_n > r.clip_n
    last = gave_at if math.isfinite(gave_at) else float(r.time_s[-1])
    return r.faulty_from_s < min(last, float(r.time_s[-1])) - 0.05


def compare(number: int, r: Record, read: TraceResult) -> Trial:
    """What was read of a record against its truth."""
    s = r.specimen
    gave = None if s.gave is None else s.gave[0]
    gave_at = s.gave_s - 1.0 / r.rate_hz  # stamps begin at the first sample
    happened = _happened(r, gave_at)
    lost = r.fault == "disconnect" and happened and not (gave and gave_at <= r.faulty_from_s)
    truth = "lost" if lost else {None: "stopped", "broke": "broke"}.get(gave, "ran_out")
    spoilt = r.fault in ("clip", "stuck", "gap", "disconnect")
    peak_error = None if spoilt or s.highest_n <= 0 else abs(read.peak_n / s.highest_n - 1)
    broke = truth == "broke" and read.end is TraceEnd.BROKE
    instant = abs(read.end_time_s - gave_at) if broke else None
    truth_slips = not lost and math.isfinite(s.first_slip_n)
    onset = None
    if truth_slips and read.first_slip_n is not None and not spoilt:
        onset = abs(read.first_slip_n / s.first_slip_n - 1)
    return Trial(
        number,
        s.setup.cord,
        r.knot,
        r.mode,
        r.fault if happened or r.fault not in _FLAG else "none",
        r.rate_hz,
        truth,
        read.end.value,
        not lost and math.isfinite(s.capsized_n),
        read.capsized,
        peak_error,
        instant,
        onset,
        truth_slips,
        read.first_slip_n is not None,
        read.flags,
    )


def run_trials(count: int, seed: int = SEED, processes: int = 2) -> list[Trial]:
    """Many trials, over several processes where asked."""
    if processes < 2:
        return [run_trial(n, seed) for n in range(count)]
    with multiprocessing.get_context("spawn").Pool(processes) as pool:
        return pool.starmap(run_trial, [(n, seed) for n in range(count)], chunksize=25)


@dataclass(frozen=True)
class Summary:
    """The figures of a run, each with what it must reach."""

    count: int
    outcome_right: float
    confusion: Counter
    capsize_found: float
    capsize_false: float
    peak_median: float
    peak_p95: float
    instant_median_s: float
    instant_p95_s: float
    later_strand: float
    onset_median: float
    onset_p95: float
    onset_missed: float
    onset_false: float
    found: dict[str, float]
    false: dict[str, float]


def summarise(trials: list[Trial]) -> Summary:
    """Count what was right."""
    confusion = Counter((t.truth_end, t.read_end) for t in trials)
    capsized = [t for t in trials if t.truth_capsized]
    others = [t for t in trials if not t.truth_capsized]
    peaks = np.array([t.peak_error for t in trials if t.peak_error is not None])
    breaks = [t for t in trials if t.instant_error_s is not None]
    quick = np.array([t.instant_error_s for t in breaks if t.rate_hz == 1000.0])
    onsets = np.array([t.onset_error for t in trials if t.onset_error is not None])
    slipping = [t for t in trials if t.truth_slips and not t.truth_capsized]
    quiet = [t for t in trials if not t.truth_slips]
    found, false = {}, {}
    for fault, flag in _FLAG.items():
        mine = [t for t in trials if t.fault == fault]
        rest = [t for t in trials if t.fault != fault]
        found[fault] = float(np.mean([flag in t.flags for t in mine])) if mine else math.nan
        false[fault] = float(np.mean([flag in t.flags for t in rest]))
    return Summary(
        len(trials),
        float(np.mean([t.truth_end == t.read_end for t in trials])),
        confusion,
        float(np.mean([t.read_capsized for t in capsized])),
        float(np.mean([t.read_capsized for t in others])),
        float(np.median(peaks)),
        float(np.quantile(peaks, 0.95)),
        float(np.median(quick)),
        float(np.quantile(quick, 0.95)),
        float(
            np.mean([t.instant_error_s > 0.015 for t in breaks if t.fault not in ("clip", "stuck")])
        ),
        float(np.median(onsets)),
        float(np.quantile(onsets, 0.95)),
        float(np.mean([not t.read_slips for t in slipping])),
        float(np.mean([t.read_slips for t in quiet])),
        found,
        false,
    )
