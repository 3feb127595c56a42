"""What a method asks between two acts, and what is read of the answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from bruiser.catalogue import load_catalogue
from bruiser.core.errors import InputError
from bruiser.core.records.layouts import End
from bruiser.core.records.programme import Act
from bruiser.core.records.readings import WOULD_NOT, Sheath, Takes
from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.core.units import UnitChoice, parse_quantity
from bruiser.ui.stations.pull.driver import BenchDriver
from bruiser.workshop.bench.simulation import felt_reading


@dataclass(frozen=True)
class Question:
    """What a method asks.

    Parameters
    ----------
    ends : tuple of (End, str)
        Knots to try to untie; empty when a load is asked for.
    label, hint : str
        Of the field, when a load or a length is asked for.
    would_not : str
        What may be said instead of a force that was enough; empty where nothing may.
    choices : tuple of str
        What it may look like, where that is asked instead of a reading.
    """

    words: str
    ends: tuple[tuple[End, str], ...] = ()
    label: str = "Load read"
    hint: str = "120 N"
    would_not: str = ""
    choices: tuple[str, ...] = ()


_WOULD_NOT = {
    Takes.RELEASE: "It would not free",
    Takes.BY_HAND: "It would not slide",
    Takes.LEDGE: "It would not pass",
}


def asked_of(driver: BenchDriver, units: UnitChoice) -> Question | None:
    """What is asked now; None when the method asks nothing."""
    act, session = driver.act, driver.session
    if act is None or session is None or not driver.asks:
        return None
    specimen = session.specimen
    if act.takes is Takes.SHEATH:
        return Question(f"{act.words}.", choices=tuple(Sheath))
    if act.takes is not Takes.UNTYING:
        wide = act.takes is Takes.WIDTH
        return Question(
            f"{act.words.rstrip('?.')}{'?' if '?' in act.words else '.'}",
            label="Width" if wide else "Load read",
            hint="26 mm" if wide else "120 N",
            would_not="" if act.takes is None else _WOULD_NOT.get(act.takes, ""),
        )
    ends = tuple(
        (end, knot.name if specimen.knot_b is None else f"Knot {end}: {knot.name}")
        for end in End
        if (knot := specimen.knot_at(end)) is not None
    )
    load = units.force_text(act.load_n)
    return Question(f"Step {act.number} of {act.of}, it has seen {load}. {act.words}.", ends)


def odd_answer(act: Act | None, value: float) -> str:
    """What is wrong with a reading, in words; empty where it may be."""
    if value < 0:
        return "It cannot be below zero."
    if act is None:
        return ""
    if act.takes is Takes.RELEASE and value > act.load_n:
        return "More than the load it held: read the scale on the tail, not the cell."
    if act.takes in (Takes.TWO_LOADS, Takes.WIDTH) and value == 0:
        return "It cannot be zero."
    return ""


def above_theory(driver: BenchDriver, value: float) -> str:
    """What is odd of a hand line's load that would be less than theory allows; asked about."""
    act, session = driver.act, driver.session
    if act is None or session is None or act.takes is not Takes.TWO_LOADS or value <= 0:
        return ""
    knot = session.specimen.knot_a
    structure = None if knot is None else load_catalogue().get(knot.structure)
    theory = None if structure is None else structure.advantage
    real = act.load_n / value
    if theory is None or real <= theory:
        return ""
    return (
        f"That would raise {real:.1f} times, and {theory:g} is all there is without friction. Read "
        "both loads again; press once more to keep it."
    )


def answer_with(driver: BenchDriver, units: UnitChoice, text: str, *, sure: bool = False) -> str:
    """Keep a load or a length that was read; returns what is wrong with it.

    Parameters
    ----------
    sure : bool
        Whether what is only odd is kept all the same.
    """
    act = driver.act
    length = act is not None and act.takes is Takes.WIDTH
    try:
        value = parse_quantity(
            text, "length" if length else "force", units.length if length else units.force
        )
    except InputError as error:
        return str(error)
    wrong = odd_answer(act, value) or ("" if sure else above_theory(driver, value))
    if not wrong:
        driver.answer_value(value)
    return wrong


def answer_refusal(driver: BenchDriver, units: UnitChoice, text: str) -> str:
    """Keep that it would not free, slide or pass, with the force tried where there is one."""
    value = None
    if text.strip():
        try:
            value = parse_quantity(text, "force", units.force)
        except InputError as error:
            return str(error)
        if value < 0:
            return "It cannot be below zero."
    driver.answer_value(value, WOULD_NOT)
    return ""


def felt_words(driver: BenchDriver, units: UnitChoice) -> str:
    """What lies on a simulated bench at this step, as one would feel it; empty on a real one."""
    act, session = driver.act, driver.session
    if act is None or session is None or not driver.asks:
        return ""
    lies = session.instrument.remains(act.number)
    if lies is None:
        return ""
    felt = felt_reading(act.takes, lies)
    if felt is not None:
        value, refused = felt
        length = act.takes is Takes.WIDTH
        if value is None:
            return f"Simulated: {refused}."
        read = units.length_text(value) if length else units.force_text(value)
        tail = "the tail takes " if act.takes is Takes.RELEASE else ""
        return f"Simulated: {tail}{read}."
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
