"""The test methods: what each commands, what it may be done to, and what ends it.

Levels are shares of the lot's strength: the measured baseline where there is one, else the rating.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Unit(StrEnum):
    """What kind of number a parameter is."""

    SHARE = "share"
    COUNT = "count"
    SECONDS = "seconds"


class Tells(StrEnum):
    """What a method can say; only one that can speak to a result enters it."""

    STRENGTH = "strength"
    USUAL = "strength as it is usually asked for"
    PLAIN = "strength of plain rope"
    SLIP = "slip, draw and untying after a pull to failure"
    DIRECTIONS = "which legs hold"
    STEPS = "untying at each of several loads"
    CYCLES = "cycles survived"
    LOOSENING = "loosening while slack"
    WRAPS = "grip by the number of wraps"
    GRIP = "grip"
    HOLDING = "time held"
    ADVANTAGE = "advantage and what is kept"
    RELEASE = "release under load"


@dataclass(frozen=True)
class Parameter:
    """One number a method needs.

    Parameters
    ----------
    level : bool
        Whether it is a load the bench will go up to.
    """

    key: str
    label: str
    unit: Unit
    default: float
    level: bool = False


@dataclass(frozen=True)
class Method:
    """A way of loading a specimen.

    Parameters
    ----------
    families : tuple of str
        Catalogue families it makes sense for; empty for every knot.
    fixture : str
        Kind of fixture it needs beyond pins: ``host``, ``edge``, ``plate``, or empty.
    ends_when, event, limit : str
        End criterion, what counts as an event, what only as "at least".
    to_failure : bool
        Whether it goes on until something gives.
    tells : frozenset of Tells
        What it can say.
    latched : bool
        Whether it runs by itself after a second confirmation, instead of hold-to-run.
    """

    key: str
    parameters: tuple[Parameter, ...]
    ends_when: str
    event: str
    limit: str
    families: tuple[str, ...] = ()
    fixture: str = ""
    to_failure: bool = True
    directed: bool = False
    tells: frozenset[Tells] = frozenset()
    latched: bool = False


_S, _N, _T = Unit.SHARE, Unit.COUNT, Unit.SECONDS
_GIVES = "something gives, or a limit of the bench is reached"
_BREAK = "break, run-out or capsizing at the knot"
_ELSE = "a break elsewhere, or a stop at a limit"
LOOPS = ("end loop", "midline loop", "double loop", "adjustable loop")


def _tells(*what: Tells) -> frozenset[Tells]:
    return frozenset(what)


METHOD_LIST: tuple[Method, ...] = (
    Method(
        "straight pull",
        (),
        _GIVES,
        "break clear of the drums",
        "break at a drum, or a stop",
        tells=_tells(Tells.STRENGTH, Tells.PLAIN),
    ),
    Method(
        "ramp to failure",
        (),
        _GIVES,
        _BREAK,
        _ELSE,
        tells=_tells(Tells.STRENGTH, Tells.USUAL, Tells.SLIP, Tells.DIRECTIONS),
    ),
    Method(
        "stepped load",
        (
            Parameter("first", "First step, %", _S, 0.20, True),
            Parameter("step", "Step by, %", _S, 0.10),
            Parameter("last", "Last step, %", _S, 0.60, True),
            Parameter("hold", "Hold each, s", _T, 10.0),
        ),
        "the last step was held, it gave, or it no longer opens by hand",
        "the step from which it no longer opens by hand",
        "every step after which it still opened",
        to_failure=False,
        tells=_tells(Tells.STEPS),
        latched=True,
    ),
    Method(
        "cycles",
        (
            Parameter("low", "Down to, %", _S, 0.05),
            Parameter("high", "Up to, %", _S, 0.30, True),
            Parameter("count", "How often", _N, 50),
        ),
        "the count is reached, or it comes out",
        "the cycle in which it came out or broke",
        "the cycles it survived",
        to_failure=False,
        tells=_tells(Tells.CYCLES),
        latched=True,
    ),
    Method(
        "slack and snatch",
        (
            Parameter("high", "Snatch to, %", _S, 0.10, True),
            Parameter("count", "How often", _N, 30),
        ),
        "the count is reached, or it has shaken loose",
        "the shake in which it came loose",
        "the shakes it survived",
        to_failure=False,
        tells=_tells(Tells.LOOSENING),
        latched=True,
    ),
    Method(
        "sustained hold",
        (
            Parameter("level", "Hold at, %", _S, 0.50, True),
            Parameter("hold", "For, s", _T, 600.0),
        ),
        "the time is over, or it gives",
        "the moment it gave",
        "the time it held",
        to_failure=False,
        tells=_tells(Tells.HOLDING),
        latched=True,
    ),
    Method(
        "ring load",
        (),
        _GIVES,
        _BREAK,
        _ELSE,
        LOOPS,
        tells=_tells(Tells.STRENGTH, Tells.DIRECTIONS),
    ),
    Method(
        "cross and reverse",
        (),
        _GIVES,
        _BREAK,
        _ELSE,
        directed=True,
        tells=_tells(Tells.STRENGTH, Tells.DIRECTIONS),
    ),
    Method(
        "over an edge",
        (),
        _GIVES,
        "break at the edge",
        _ELSE,
        fixture="edge",
        tells=_tells(Tells.STRENGTH, Tells.SLIP),
    ),
    Method(
        "on a host",
        (),
        _GIVES,
        _BREAK,
        _ELSE,
        ("hitch on a host", "quick release", "binding", "tensioning system"),
        "host",
        tells=_tells(Tells.STRENGTH, Tells.USUAL, Tells.SLIP),
    ),
    Method(
        "cord on rope",
        (
            Parameter("wraps", "Wraps", _N, 3),
            Parameter("most", "Stop at, %", _S, 0.60, True),
        ),
        "it slides, or the load to stop at is reached",
        "the load at which it slid",
        "the load it held when stopped",
        ("friction hitch",),
        tells=_tells(Tells.GRIP, Tells.WRAPS),
    ),
    Method(
        "slide test",
        (Parameter("most", "Stop at, %", _S, 0.40, True),),
        "it slides, or the load to stop at is reached",
        "the load at which it slid",
        "the load it held when stopped",
        ("adjustable loop", "friction hitch"),
        tells=_tells(Tells.GRIP),
    ),
    Method(
        "advantage test",
        (Parameter("level", "Load, %", _S, 0.10, True),),
        "the load is reached and locked off",
        "slipping back at the lock-off",
        "the tension kept",
        ("tensioning system",),
        to_failure=False,
        tells=_tells(Tells.ADVANTAGE),
    ),
    Method(
        "stopper through a plate",
        (),
        "it pulls through, breaks, or a limit is reached",
        "pulling through, or a break at the knot",
        _ELSE,
        ("stopper",),
        "plate",
        tells=_tells(Tells.STRENGTH, Tells.USUAL, Tells.SLIP),
    ),
    Method(
        "release test",
        (
            Parameter("level", "Load, %", _S, 0.20, True),
            Parameter("count", "Shakes before", _N, 20),
        ),
        "the tail was pulled under load, or it freed itself",
        "freeing itself",
        "staying until it was released",
        ("quick release",),
        "host",
        to_failure=False,
        tells=_tells(Tells.RELEASE, Tells.LOOSENING),
        latched=True,
    ),
)
METHODS = tuple(m.key for m in METHOD_LIST)
METHOD_OF = {m.key: m for m in METHOD_LIST}
STRAIGHT, RAMP = METHODS[0], METHODS[1]


def methods_that_tell(what: Tells) -> tuple[str, ...]:
    """The methods that can say something, by key, in the order of the list."""
    return tuple(m.key for m in METHOD_LIST if what in m.tells)


def tells(method: str, what: Tells) -> bool:
    """Whether a method, by key, can say something; one that is not known says nothing."""
    return method in METHOD_OF and what in METHOD_OF[method].tells


@dataclass(frozen=True)
class MethodPlan:
    """A method with its numbers; what is not given has its default.

    Parameters
    ----------
    key : str
        One of :data:`METHODS`.
    values : tuple of (str, float)
        Parameters by key.
    direction : str
        Which legs are pulled, for ``cross and reverse``.

    Raises
    ------
    ValueError
        If there is no such method or parameter.
    """

    key: str = RAMP
    values: tuple[tuple[str, float], ...] = ()
    direction: str = ""

    def __post_init__(self) -> None:
        if self.key not in METHOD_OF:
            raise ValueError(f"no method is called {self.key!r}")
        known = {p.key for p in self.method.parameters}
        if {k for k, _ in self.values} - known:
            raise ValueError(f"{self.key} has no such parameter")

    @property
    def method(self) -> Method:
        """The method itself."""
        return METHOD_OF[self.key]

    def value(self, key: str) -> float:
        """A parameter's value."""
        given = dict(self.values)
        if key in given:
            return given[key]
        return next(p.default for p in self.method.parameters if p.key == key)

    @property
    def highest_share(self) -> float | None:
        """The highest level it commands; None for one that only ends when something gives."""
        levels = [self.value(p.key) for p in self.method.parameters if p.level]
        return max(levels, default=None)

    @property
    def steps(self) -> tuple[float, ...]:
        """Levels of a stepped load, lowest first; empty for any other method."""
        if Tells.STEPS not in self.method.tells:
            return ()
        first, step, last = (self.value(k) for k in ("first", "step", "last"))
        count = 1 + max(0, int((last - first) / max(step, 1e-3) + 1e-9))
        return tuple(round(first + k * step, 6) for k in range(count))

    @property
    def words(self) -> str:
        """The method with its numbers, as it is written with a result."""
        said = []
        for p in self.method.parameters:
            value = self.value(p.key)
            number = f"{100 * value:g}" if p.unit is Unit.SHARE else f"{value:g}"
            said.append(f"{p.label.split(',')[0].lower()} {number}{_SIGN[p.unit]}")
        if self.direction:
            said.append(self.direction)
        return f"{self.key}: {', '.join(said)}" if said else self.key

    def added_seconds(self, untie_s: float, pull_s: float) -> float:
        """Bench time beyond one pull: holds, cycles, untying between steps.

        Parameters
        ----------
        untie_s, pull_s : float
            Time of one untying attempt and of one plain pull, in second.
        """
        if self.key == "stepped load":
            return len(self.steps) * (self.value("hold") + untie_s)
        if self.key in ("cycles", "slack and snatch"):
            return self.value("count") * pull_s * self.value("high")
        if self.key == "release test":
            return self.value("count") * 2.0
        return self.value("hold") if self.key == "sustained hold" else 0.0


_SIGN = {Unit.SHARE: " %", Unit.COUNT: "", Unit.SECONDS: " s"}


def wrong_order(plan: MethodPlan) -> dict[str, str]:
    """Parameters that contradict one another, by key."""
    found: dict[str, str] = {}
    if plan.key == "stepped load" and plan.value("last") < plan.value("first"):
        found["last"] = "Below the first step."
    if plan.key == "cycles" and plan.value("low") >= plan.value("high"):
        found["low"] = "Must be below the upper level."
    return found


def suits(method: Method, family: str) -> bool:
    """Whether a method makes sense for a knot of a family; the straight pull is for plain rope."""
    return method.key != STRAIGHT and (not method.families or family in method.families)
