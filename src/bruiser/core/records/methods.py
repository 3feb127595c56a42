"""The test methods: what each commands, what it may be done to, and what ends it.

Levels are shares of the lot's strength: the measured baseline where there is one, else the rating.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from bruiser.core.records.method_kinds import Method, Parameter, Tells, Unit

_S, _N, _T = Unit.SHARE, Unit.COUNT, Unit.SECONDS
_GIVES = "something gives, or a limit of the bench is reached"
_BREAK = "break, run-out or capsizing at the knot"
_ELSE = "a break elsewhere, or a stop at a limit"
LOOPS = ("end loop", "midline loop", "double loop", "adjustable loop")


def _tells(*what: Tells) -> frozenset[Tells]:
    return frozenset(what)


METHOD_LIST: tuple[Method, ...] = (
    Method(
        key="straight pull",
        parameters=(),
        ends_when=_GIVES,
        event="break clear of the drums",
        limit="break at a drum, or a stop",
        tells=_tells(Tells.STRENGTH, Tells.PLAIN),
    ),
    Method(
        key="ramp to failure",
        parameters=(),
        ends_when=_GIVES,
        event=_BREAK,
        limit=_ELSE,
        tells=_tells(Tells.STRENGTH, Tells.USUAL, Tells.SLIP, Tells.DIRECTIONS),
    ),
    Method(
        key="stepped load",
        parameters=(
            Parameter(key="first", label="First step, %", unit=_S, default=0.20, level=True),
            Parameter(key="step", label="Step by, %", unit=_S, default=0.10),
            Parameter(key="last", label="Last step, %", unit=_S, default=0.60, level=True),
            Parameter(key="hold", label="Hold each, s", unit=_T, default=10.0),
        ),
        ends_when="the last step was held, it gave, or it no longer opens by hand",
        event="the step from which it no longer opens by hand",
        limit="every step after which it still opened",
        to_failure=False,
        tells=_tells(Tells.STEPS),
        latched=True,
    ),
    Method(
        key="cycles",
        parameters=(
            Parameter(key="low", label="Down to, %", unit=_S, default=0.05),
            Parameter(key="high", label="Up to, %", unit=_S, default=0.30, level=True),
            Parameter(key="count", label="How often", unit=_N, default=50),
        ),
        ends_when="the count is reached, or it comes out",
        event="the cycle in which it came out or broke",
        limit="the cycles it survived",
        to_failure=False,
        tells=_tells(Tells.CYCLES),
        latched=True,
    ),
    Method(
        key="slack and snatch",
        parameters=(
            Parameter(key="high", label="Snatch to, %", unit=_S, default=0.10, level=True),
            Parameter(key="count", label="How often", unit=_N, default=30),
        ),
        ends_when="the count is reached, or it has shaken loose",
        event="the shake in which it came loose",
        limit="the shakes it survived",
        to_failure=False,
        tells=_tells(Tells.LOOSENING),
        latched=True,
    ),
    Method(
        key="shaking under load",
        parameters=(
            Parameter(key="level", label="Load, %", unit=_S, default=0.10, level=True),
            Parameter(key="dip", label="Dip to, %", unit=_S, default=0.04),
            Parameter(key="count", label="How often", unit=_N, default=40),
        ),
        ends_when="the count is reached, or it has shaken loose",
        event="the shake in which it came loose",
        limit="the shakes it survived",
        to_failure=False,
        tells=_tells(Tells.LOOSENING),
        latched=True,
    ),
    Method(
        key="sustained hold",
        parameters=(
            Parameter(key="level", label="Hold at, %", unit=_S, default=0.50, level=True),
            Parameter(key="hold", label="For, s", unit=_T, default=600.0),
        ),
        ends_when="the time is over, or it gives",
        event="the moment it gave",
        limit="the time it held",
        to_failure=False,
        tells=_tells(Tells.HOLDING),
        latched=True,
    ),
    Method(
        key="ring load",
        parameters=(),
        ends_when=_GIVES,
        event=_BREAK,
        limit=_ELSE,
        families=LOOPS,
        tells=_tells(Tells.STRENGTH, Tells.DIRECTIONS),
    ),
    Method(
        key="cross and reverse",
        parameters=(),
        ends_when=_GIVES,
        event=_BREAK,
        limit=_ELSE,
        directed=True,
        tells=_tells(Tells.STRENGTH, Tells.DIRECTIONS),
    ),
    Method(
        key="over an edge",
        parameters=(),
        ends_when=_GIVES,
        event="break at the edge",
        limit=_ELSE,
        fixture="edge",
        tells=_tells(Tells.STRENGTH, Tells.SLIP),
    ),
    Method(
        key="on a host",
        parameters=(),
        ends_when=_GIVES,
        event=_BREAK,
        limit=_ELSE,
        families=("hitch on a host", "quick release", "tensioning system"),
        fixture="host",
        tells=_tells(Tells.STRENGTH, Tells.USUAL, Tells.SLIP),
    ),
    Method(
        key="cord on rope",
        parameters=(
            Parameter(key="wraps", label="Wraps", unit=_N, default=3),
            Parameter(key="most", label="Stop at, %", unit=_S, default=0.60, level=True),
        ),
        ends_when="it slides, or the load to stop at is reached",
        event="the load at which it slid",
        limit="the load it held when stopped",
        families=("friction hitch",),
        tells=_tells(Tells.GRIP, Tells.WRAPS),
    ),
    Method(
        key="slide test",
        parameters=(Parameter(key="most", label="Stop at, %", unit=_S, default=0.40, level=True),),
        ends_when="it slides, or the load to stop at is reached",
        event="the load at which it slid",
        limit="the load it held when stopped",
        families=("adjustable loop", "friction hitch", "hitch on a host"),
        tells=_tells(Tells.GRIP),
    ),
    Method(
        key="advantage test",
        parameters=(Parameter(key="level", label="Load, %", unit=_S, default=0.10, level=True),),
        ends_when="the load is reached and locked off",
        event="slipping back at the lock-off",
        limit="the tension kept",
        families=("tensioning system",),
        to_failure=False,
        tells=_tells(Tells.ADVANTAGE),
    ),
    Method(
        key="stopper through a plate",
        parameters=(),
        ends_when="it pulls through, breaks, or a limit is reached",
        event="pulling through, or a break at the knot",
        limit=_ELSE,
        families=("stopper",),
        fixture="plate",
        tells=_tells(Tells.SEAT, Tells.SLIP),
    ),
    Method(
        key="release test",
        parameters=(
            Parameter(key="level", label="Load, %", unit=_S, default=0.20, level=True),
            Parameter(key="count", label="Shakes before", unit=_N, default=20),
        ),
        ends_when="the tail was pulled under load, or it freed itself",
        event="freeing itself",
        limit="staying until it was released",
        families=("quick release",),
        fixture="host",
        to_failure=False,
        tells=_tells(Tells.RELEASE, Tells.LOOSENING),
        latched=True,
    ),
    Method(
        key="retention test",
        parameters=(
            Parameter(key="set", label="Pulled tight with, %", unit=_S, default=0.06, level=True),
            Parameter(key="high", label="Squeeze to, %", unit=_S, default=0.15, level=True),
            Parameter(key="count", label="How often", unit=_N, default=20),
        ),
        ends_when="the squeezes are done and it was pushed along its host again",
        event="coming slack",
        limit="the force that moved it along its host",
        families=("binding",),
        fixture="host",
        to_failure=False,
        tells=_tells(Tells.RETENTION),
        latched=True,
    ),
    Method(
        key="bulk and snag",
        parameters=(Parameter(key="set", label="Set at, %", unit=_S, default=0.10, level=True),),
        ends_when="it was measured and drawn over the ledge",
        event="the force that brought it over",
        limit="a force with which it did not pass",
        families=("end loop", "midline loop", "double loop", "bend", "stopper"),
        to_failure=False,
        tells=_tells(Tells.BULK),
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
        if self.key == "shaking under load":
            return self.value("count") * pull_s * (self.value("level") - self.value("dip"))
        if self.key in ("release test", "retention test"):
            return self.value("count") * 2.0
        return self.value("hold") if self.key == "sustained hold" else 0.0


_SIGN = {Unit.SHARE: " %", Unit.COUNT: "", Unit.SECONDS: " s"}


MOST_WRAPS = 20


def wrong_order(plan: MethodPlan) -> dict[str, str]:
    """Parameters that contradict one another or cannot be, by key."""
    found: dict[str, str] = {}
    if plan.key == "stepped load" and plan.value("last") < plan.value("first"):
        found["last"] = "Below the first step."
    if plan.key == "cycles" and plan.value("low") >= plan.value("high"):
        found["low"] = "Must be below the upper level."
    if plan.key == "shaking under load" and plan.value("dip") >= plan.value("level"):
        found["dip"] = "Must be below the load."
    if plan.key == "cord on rope" and not 1 <= plan.value("wraps") <= MOST_WRAPS:
        found["wraps"] = f"Between 1 and {MOST_WRAPS} wraps."
    return found


def suits(method: Method, families: Iterable[str]) -> bool:
    """Whether a method makes sense for a knot of some families; plain rope is pulled straight."""
    fits = not method.families or bool(set(families) & set(method.families))
    return method.key != STRAIGHT and fits
