"""What is checked before anything is cut: pass, caution or stop, and what would mend it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.planning.safety import LoadedSpan, needed_stroke_m, stored_energy, upper_break_n

PIN_FLOOR_D = 4.0
RANGE_LOW, RANGE_HIGH = 0.10, 0.90
COUNTS_AT_BREAK = 500
DROP_S = 0.02


class CheckVerdict(StrEnum):
    """What a check says."""

    PASS = "pass"
    CAUTION = "caution"
    STOP = "stop"


@dataclass(frozen=True, kw_only=True)
class BenchCheck:
    """One check: what it looked at, the number that decides, and what would mend it."""

    name: str
    verdict: CheckVerdict
    number: str
    mend: str = ""


@dataclass(frozen=True, kw_only=True)
class BenchLimits:
    """What a bench can bear, as its book says; lengths in metre, loads in newton.

    Parameters
    ----------
    guard_energy_j : float or None
        Energy the guard is rated for; None where the book names none.
    methods : tuple of str
        Load modes possible on this rig.
    """

    stroke_m: float
    capacity_n: float
    resolution_n: float
    sample_rate_hz: float
    compliance_m_per_n: float
    guard_energy_j: float | None
    keep_away: str
    estop_checked_on: str
    calibration_due: str
    methods: tuple[str, ...]


@dataclass(frozen=True)
class Say:
    """How loads and lengths are written."""

    force: Callable[[float], str]
    length: Callable[[float], str]


def check_stroke(bench: BenchLimits, specimen: LoadedSpan, say: Say) -> BenchCheck:
    """Stretch to the upper break, seating and draw against the stroke."""
    needed = needed_stroke_m(specimen, bench.compliance_m_per_n)
    number = f"needs {say.length(needed)} of {say.length(bench.stroke_m)}"
    if needed > bench.stroke_m:
        spare = needed - bench.stroke_m
        strain = specimen.break_strain * math.exp(3.0 * specimen.break_cv)
        shorter = spare / strain
        mend = f"Shorten the span by {say.length(shorter)}, or re-grip part way."
        if shorter >= specimen.free_length_m:
            mend = "Use a bench with more stroke."
        return BenchCheck(name="Stroke", verdict=CheckVerdict.STOP, number=number, mend=mend)
    if needed > 0.9 * bench.stroke_m:
        return BenchCheck(
            name="Stroke",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Start with the crosshead fully back.",
        )
    return BenchCheck(name="Stroke", verdict=CheckVerdict.PASS, number=number)


def check_capacity(bench: BenchLimits, specimen: LoadedSpan, say: Say) -> BenchCheck:
    """Upper break against the load cell, and the expected one against 10 to 90 % of its range."""
    high = upper_break_n(specimen.break_n, specimen.break_cv)
    share = specimen.break_n / bench.capacity_n
    number = (
        f"expects {say.force(specimen.break_n)}, up to {say.force(high)}, "
        f"of {say.force(bench.capacity_n)}"
    )
    if high > bench.capacity_n:
        return BenchCheck(
            name="Load cell", verdict=CheckVerdict.STOP, number=number, mend="Mount a larger cell."
        )
    if high > RANGE_HIGH * bench.capacity_n:
        return BenchCheck(
            name="Load cell",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Mount a larger cell, or watch the limit.",
        )
    if share < RANGE_LOW:
        return BenchCheck(
            name="Load cell",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Mount a smaller cell: under 10 % of range.",
        )
    return BenchCheck(name="Load cell", verdict=CheckVerdict.PASS, number=number)


def check_reading(bench: BenchLimits, specimen: LoadedSpan, rate_m_s: float) -> BenchCheck:
    """Whether resolution and sample rate can catch the peak.

    Notes
    -----
    Between two samples the load rises by about k v / f near the break, k the secant stiffness
    F / (eps L): that much of a peak can be missed.
    """
    counts = specimen.break_n / bench.resolution_n
    stiffness = specimen.break_n / (specimen.break_strain * specimen.free_length_m)
    missed = stiffness * rate_m_s / bench.sample_rate_hz
    share = missed / specimen.break_n
    number = f"{counts:.0f} counts at the break; a peak may be missed by {100 * share:.2f} %"
    if share > 0.01:
        return BenchCheck(
            name="Resolution and rate",
            verdict=CheckVerdict.STOP,
            number=number,
            mend="Sample faster or pull slower.",
        )
    if share > 0.002 or counts < COUNTS_AT_BREAK:
        mend = "Sample faster, pull slower, or use a finer cell."
        return BenchCheck(
            name="Resolution and rate", verdict=CheckVerdict.CAUTION, number=number, mend=mend
        )
    return BenchCheck(name="Resolution and rate", verdict=CheckVerdict.PASS, number=number)


def check_energy(bench: BenchLimits, specimen: LoadedSpan) -> BenchCheck:
    """Energy at the upper break against the guard and the keep-away rule of the bench book."""
    found = stored_energy(specimen, bench.compliance_m_per_n)
    number = (
        f"{found.expected_j:.0f} J, up to {found.upper_j:.0f} J; a parted end up to "
        f"{found.recoil_upper_m_s:.0f} m/s"
    )
    if not bench.keep_away.strip():
        mend = "Write the keep-away rule into the bench book. No distance makes this safe."
        return BenchCheck(name="Stored energy", verdict=CheckVerdict.STOP, number=number, mend=mend)
    if bench.guard_energy_j is None:
        mend = "The bench book names no rating of the guard."
        return BenchCheck(
            name="Stored energy", verdict=CheckVerdict.CAUTION, number=number, mend=mend
        )
    if found.upper_j > bench.guard_energy_j:
        mend = f"The guard is rated {bench.guard_energy_j:.0f} J: shorten the span or guard better."
        return BenchCheck(name="Stored energy", verdict=CheckVerdict.STOP, number=number, mend=mend)
    return BenchCheck(name="Stored energy", verdict=CheckVerdict.PASS, number=number)


def check_pin(pin_m: float, cord_m: float) -> BenchCheck:
    """Pin over cord diameter against a floor, under which the pin decides and not the knot."""
    ratio = pin_m / cord_m
    number = f"D/d {ratio:.1f}, floor {PIN_FLOOR_D:g}"
    if ratio < 1.0:
        return BenchCheck(
            name="Pin",
            verdict=CheckVerdict.STOP,
            number=number,
            mend="Use a thicker pin: the eye breaks at it.",
        )
    if ratio < PIN_FLOOR_D:
        return BenchCheck(
            name="Pin",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Use a thicker pin, or name it with the result.",
        )
    return BenchCheck(name="Pin", verdict=CheckVerdict.PASS, number=number)


def check_tail(tail_m: float, floor_m: float, draw_m: float, say: Say) -> BenchCheck:
    """Tail as planned against its floor and the draw expected."""
    tail, floor, draw = (say.length(x) for x in (tail_m, floor_m, draw_m))
    number = f"tail {tail}, floor {floor}, draw expected {draw}"
    if tail_m < draw_m:
        mend = "Leave longer tails: it may run out before the cord breaks."
        return BenchCheck(name="Tails", verdict=CheckVerdict.STOP, number=number, mend=mend)
    if tail_m < floor_m or tail_m < 1.5 * draw_m:
        return BenchCheck(
            name="Tails", verdict=CheckVerdict.CAUTION, number=number, mend="Leave longer tails."
        )
    return BenchCheck(name="Tails", verdict=CheckVerdict.PASS, number=number)


def check_method(bench: BenchLimits, method: str, highest_n: float, say: Say) -> BenchCheck:
    """Whether the rig can do the load mode, and whether its highest level stays inside the cell."""
    if method not in bench.methods:
        return BenchCheck(
            name="Load mode",
            verdict=CheckVerdict.STOP,
            number=method,
            mend="This rig cannot do it; plan it elsewhere.",
        )
    if highest_n > bench.capacity_n:
        number = f"highest level {say.force(highest_n)}, cell {say.force(bench.capacity_n)}"
        return BenchCheck(
            name="Load mode",
            verdict=CheckVerdict.STOP,
            number=number,
            mend="Lower the levels, or mount a larger cell.",
        )
    return BenchCheck(name="Load mode", verdict=CheckVerdict.PASS, number=method)


def check_dates(bench: BenchLimits, today: str) -> BenchCheck:
    """Calibration still in date and the emergency stop tried that day."""
    number = f"calibration due {bench.calibration_due or 'not known'}"
    if not bench.calibration_due or bench.calibration_due < today:
        return BenchCheck(
            name="Bench book",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Have the cell calibrated.",
        )
    if bench.estop_checked_on != today:
        number = f"emergency stop last tried {bench.estop_checked_on or 'never'}"
        return BenchCheck(
            name="Bench book",
            verdict=CheckVerdict.CAUTION,
            number=number,
            mend="Try the emergency stop before loading.",
        )
    return BenchCheck(name="Bench book", verdict=CheckVerdict.PASS, number=number)


def worst(checks: list[BenchCheck]) -> CheckVerdict:
    """The verdict of the whole: its worst."""
    order = list(CheckVerdict)
    return max((c.verdict for c in checks), key=order.index, default=CheckVerdict.PASS)
