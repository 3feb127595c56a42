"""What a method asks between two acts, and what is read of the answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from bruiser.core.errors import InputError
from bruiser.core.records.layouts import End
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.core.units import UnitChoice, parse_quantity
from bruiser.ui.stations.pull.driver import BenchDriver


@dataclass(frozen=True)
class Question:
    """What a method asks.

    Parameters
    ----------
    ends : tuple of (End, str)
        Knots to try to untie; empty when a load is asked for.
    """

    words: str
    ends: tuple[tuple[End, str], ...] = ()


def asked_of(driver: BenchDriver, units: UnitChoice) -> Question | None:
    """What is asked now; None when the method asks nothing."""
    act, session = driver.act, driver.session
    if act is None or session is None or not driver.asks:
        return None
    specimen = session.specimen
    if act.takes is not Takes.UNTYING:
        return Question(f"{act.words}.")
    ends = tuple(
        (end, knot.name if specimen.knot_b is None else f"Knot {end}: {knot.name}")
        for end in End
        if (knot := specimen.knot_at(end)) is not None
    )
    load = units.force_text(act.load_n)
    return Question(f"Step {act.number} of {act.of}, it has seen {load}. {act.words}.", ends)


def felt_words(driver: BenchDriver, units: UnitChoice) -> str:
    """What lies on a simulated bench at this step, as one would feel it; empty on a real one."""
    act, session = driver.act, driver.session
    if act is None or session is None or not driver.asks:
        return ""
    lies = session.instrument.remains(act.number)
    if lies is None:
        return ""
    if act.takes is Takes.RELEASE:
        return f"Simulated: the tail takes {units.force_text(lies.truth['release_n'])}."
    if act.takes is Takes.UNTYING:
        said = (
            f"knot {k.end}: {JAM_WORDS[JamLevel(k.jam_level)]}, {k.untie_s or 0:.0f} s"
            for k in lies.knots
        )
        return f"Simulated: {'; '.join(said)}."
    return ""


def read_untying(
    asked: Question | None, levels: Mapping[End, JamLevel], seconds: Mapping[End, str]
) -> tuple[dict[End, tuple[JamLevel, float | None]], dict[End, str]]:
    """The levels and seconds of every knot asked about, and what is wrong by knot."""
    found: dict[End, tuple[JamLevel, float | None]] = {}
    wrong: dict[End, str] = {}
    for end, _ in asked.ends if asked is not None else ():
        text = seconds.get(end, "").strip()
        try:
            took = parse_quantity(text, "time", "s") if text else None
        except InputError as error:
            wrong[end] = str(error)
            continue
        if end not in levels:
            wrong[end] = "Say what it took, or “not tried”."
            continue
        found[end] = (levels[end], took)
    return found, wrong
