"""Working load of knotted cordage by the four schools, each step shown.

A comparison for planning. It approves nothing: working loads for lifting, rescue, fall protection
or climbing follow the local code, the maker's instructions and a competent, licensed person.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

ENOUGH_EVENTS = 5


class School(StrEnum):
    """Where the knotted strength is taken from."""

    HALVE = "halve it"
    THIRD = "third"
    TYPICAL = "measured typical"
    FLOOR = "measured floor"


@dataclass(frozen=True)
class WorkingLoad:
    """One school's answer; `load_n` is None where it lacks what it needs, and `steps` say what."""

    school: School
    load_n: float | None
    steps: tuple[str, ...]


@dataclass(frozen=True)
class DesignFactor:
    """The user's own design factor with its source; there is no default."""

    value: float
    source: str

    def __post_init__(self) -> None:
        if self.value < 1 or not self.source.strip():
            raise ValueError("a design factor needs a value of 1 or more and its source")


@dataclass(frozen=True)
class WorkingLoads:
    """All four side by side, and the one taken by default."""

    schools: tuple[WorkingLoad, ...]
    default: WorkingLoad | None


_CAUTIOUS = (School.THIRD, School.HALVE, School.TYPICAL)
"""Where the floor cannot be had for all, from the school that assumes least of the knot on."""


def school_for_all(several: Sequence[WorkingLoads]) -> School | None:
    """The one school that several knots in one list are answered by, where none was chosen.

    The measured floor where it is the default of every one; else the most cautious of the others
    that can answer for all, or else for most. None where no knot has any.
    """
    if not several:
        return None
    defaults = {None if x.default is None else x.default.school for x in several}
    if defaults == {School.FLOOR}:
        return School.FLOOR
    answered = {
        school: sum(
            row.load_n is not None for x in several for row in x.schools if row.school is school
        )
        for school in _CAUTIOUS
    }
    most = max(answered.values())
    if most == 0:
        return School.FLOOR if School.FLOOR in defaults else None
    return next(school for school in _CAUTIOUS if answered[school] == most)


def _newton(load_n: float) -> str:
    return f"{load_n:.0f} N"


def working_loads(
    factor: DesignFactor,
    *,
    rated_n: float | None,
    efficiency: float | None,
    floor_n: float | None,
    events: int,
    say: Callable[[float], str] = _newton,
    floor_words: str = "lower tolerance bound",
) -> WorkingLoads:
    """Working load by the four schools.

    Parameters
    ----------
    factor : DesignFactor
        The user's entry.
    rated_n : float or None
        Rated strength of the cordage.
    efficiency : float or None
        Measured typical share.
    floor_n : float or None
        Lower tolerance bound of the measured knot strength.
    events : int
        Observed failures behind the floor.
    say : callable
        How a load is written in the steps.
    floor_words : str
        What the floor is, for its step.

    Returns
    -------
    WorkingLoads
        Default: the measured floor from five observed failures on, else the most cautious of the
        others that can be computed.
    """
    over = f"÷ design factor {factor.value:g} ({factor.source})"

    def answer(school: School, base: float | None, first: str, missing: str) -> WorkingLoad:
        if base is None:
            return WorkingLoad(school, None, (missing,))
        load = base / factor.value
        return WorkingLoad(school, load, (f"{first} = {say(base)}", f"{over} = {say(load)}"))

    rated = "no rated strength entered"
    known = rated_n is not None
    rating = rated_n or 0.0
    typical = None if rated_n is None or efficiency is None else rated_n * efficiency
    lack = rated if not known else "no efficiency measured"
    rows = (
        answer(School.HALVE, rating / 2 if known else None, f"{say(rating)} × 1/2", rated),
        answer(School.THIRD, rating / 3 if known else None, f"{say(rating)} × 1/3", rated),
        answer(School.TYPICAL, typical, f"{say(rating)} × {efficiency or 0:.3f}", lack),
        answer(School.FLOOR, floor_n, floor_words, "no tolerance bound measured"),
    )
    if rows[3].load_n is not None and events >= ENOUGH_EVENTS:
        return WorkingLoads(rows, rows[3])
    others = [row for row in rows[:3] if row.load_n is not None]
    return WorkingLoads(rows, min(others, key=lambda r: r.load_n or 0.0) if others else None)
