"""What a method's readings come to, in words that stand beside the findings."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from bruiser.core.records.layouts import End
from bruiser.core.records.readings import GAVE_NOTE, Reading, Takes, jams_from_n, survived
from bruiser.core.records.records import JAM_WORDS, Specimen
from bruiser.core.units import UnitChoice

Said = Callable[[Sequence[Reading], Specimen, UnitChoice], str]


def method_summary(
    readings: Sequence[Reading], specimen: Specimen, units: UnitChoice
) -> tuple[str, ...]:
    """One line for every kind of reading the method took; empty for a plain pull."""
    lines = []
    for takes, say in _SAYS.items():
        mine = [r for r in readings if r.takes is takes]
        if mine:
            lines.append(say(mine, specimen, units))
    return tuple(lines)


def _untying(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    said = []
    for end in End:
        tried = [r for r in mine if r.end is end]
        if not tried:
            continue
        name = f"Knot {end}" if specimen.knot_b is not None else "It"
        stuck = jams_from_n(tried, end)
        eased = [r.load_n for r in tried if stuck is None or r.load_n < stuck]
        if eased:
            said.append(f"{name} opened by hand after {units.force_text(max(eased))}")
        if stuck is not None:
            level = next(r.level for r in tried if r.load_n == stuck)
            words = "was stuck" if level is None else JAM_WORDS[level]
            said.append(f"{words} after {units.force_text(stuck)}")
    return f"{'; '.join(said)}." if said else "No knot was tried."


def _counted(noun: str, takes: Takes) -> Said:
    def say(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
        done, wanted = survived(mine, takes), int(specimen.method.value("count"))
        peak = units.force_text(max(r.load_n for r in mine))
        drew = mine[-1].value or 0.0
        drawn = f"; drew {units.length_text(drew)} in all, {mine[-1].note}" if drew > 5e-4 else ""
        return f"Survived {done} of {wanted} {noun} to {peak}{drawn}."

    return say


def _held(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    last = mine[-1]
    end = "then gave" if last.note == "gave" else last.note
    return f"Held {last.value or 0:.0f} s at {units.force_text(last.load_n)}; {end}."


def _slid(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    load = units.force_text(mine[-1].load_n)
    if mine[-1].note == GAVE_NOTE:
        return f"Gave at {load} while it was pulled to slide."
    return f"Slid at {load}." if mine[-1].value else f"Held {load} without sliding."


def _two_loads(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    r = mine[-1]
    loads = f"{units.force_text(r.load_n)} from {units.force_text(r.value or 0.0)} in the hand line"
    return f"{loads}: {r.load_n / r.value:.2f} times." if r.value else f"{loads}."


def _kept(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen, units
    return f"Kept {100 * (mine[-1].value or 0.0):.0f} % at the lock-off."


def _release(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    r = mine[-1]
    if r.refused:
        return f"Would not free under {units.force_text(r.load_n)}{_with(r, units)}."
    return (
        f"Released under {units.force_text(r.load_n)} by {units.hand_force_text(r.value or 0.0)}."
    )


def _with(reading: Reading, units: UnitChoice) -> str:
    return f" with {units.hand_force_text(reading.value)}" if reading.value else ""


def _by_hand(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    r = mine[-1]
    verb = "Would not slide" if r.refused else "Slides"
    return f"{verb} by hand when slack{_with(r, units)}."


def _sheath(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen, units
    return f"Sheaths where it gripped: {mine[-1].note}."


def _moved(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    said = [units.hand_force_text(r.value) if r.value else "slack" for r in mine]
    return f"Force to move it along its host: {', then '.join(said)}."


def _width(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    wide = mine[-1].value or 0.0
    ratio = wide / specimen.lot.diameter_m
    return f"Greatest width {units.length_text(wide)}, {ratio:.1f} d."


def _ledge(mine: Sequence[Reading], specimen: Specimen, units: UnitChoice) -> str:
    del specimen
    r = mine[-1]
    verb = "Would not pass the ledge" if r.refused else "Came over the ledge"
    return f"{verb}{_with(r, units)}."


_SAYS: dict[Takes, Said] = {
    Takes.UNTYING: _untying,
    Takes.CYCLE: _counted("cycles", Takes.CYCLE),
    Takes.SHAKE: _counted("shakes", Takes.SHAKE),
    Takes.HELD: _held,
    Takes.SLID: _slid,
    Takes.TWO_LOADS: _two_loads,
    Takes.KEPT: _kept,
    Takes.RELEASE: _release,
    Takes.BY_HAND: _by_hand,
    Takes.SHEATH: _sheath,
    Takes.MOVED: _moved,
    Takes.WIDTH: _width,
    Takes.LEDGE: _ledge,
}
