"""What the catalogue says of a knot: one structure with its names, cues and variants."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.families import GENERAL
from bruiser.core.records.legs import BACKWARDS, LAID, STANDING, Legs

PLAIN = "plain"


class Answer(StrEnum):
    """An answer of the catalogue; what its author was not sure of says so."""

    YES = "yes"
    NO = "no"
    VARIES = "varies"
    NOT_ESTABLISHED = "not established"
    DOES_NOT_APPLY = "does not apply"


@dataclass(frozen=True)
class TradeName:
    """A name and the trade that uses it."""

    name: str
    trade: str


@dataclass(frozen=True)
class LookAlike:
    """Another structure: what turns this knot into it, and how to tell."""

    structure: str
    when: str
    tell: str


@dataclass(frozen=True)
class MisTie:
    """A wrong tie that is no other entry: what was done, and how to tell."""

    when: str
    tell: str


@dataclass(frozen=True)
class Host:
    """What a knot is tied round; `d_over_d` is the smallest host over cordage diameter usual.

    `turns` is how often the cord goes round it, where no axis of the structure says so; `per_wrap`
    how often for every wrap or turn that an axis counts, 0 where those go round the cord itself.
    """

    material: str
    d_over_d: float
    note: str = ""
    turns: float = 2.0
    per_wrap: float = 1.0


@dataclass(frozen=True)
class Loading:
    """A way a knot is meant to be loaded: which legs, and how the trades say it."""

    words: str
    legs: Legs


@dataclass(frozen=True, kw_only=True)
class Option:
    """One choice on an axis; lengths are added to those of the structure, in diameters.

    `names` are what trades call the structure with this choice: they find it and name no other.
    """

    key: str
    name: str
    cord_d: float = 0.0
    tail_d: float = 0.0
    tail_floor_d: float = 0.0
    note: str = ""
    names: tuple[str, ...] = ()


@dataclass(frozen=True)
class VariantAxis:
    """Something that varies; the first option is the plain one."""

    key: str
    name: str
    options: tuple[Option, ...]

    def option(self, key: str) -> Option:
        """The option called `key`; ``ValueError`` if there is none."""
        for option in self.options:
            if option.key == key:
                return option
        raise ValueError(f"axis {self.key} has no option {key!r}")


SHARED_AXES: dict[str, VariantAxis] = {
    "mirrored": VariantAxis(
        "hand",
        "Hand",
        (Option(key="as-drawn", name="as drawn"), Option(key="mirrored", name="mirrored")),
    ),
    "slipped": VariantAxis(
        "slip",
        "Last tuck",
        (
            Option(key="through", name="end through"),
            Option(key="slipped", name="slipped", cord_d=6.0),
        ),
    ),
    "backup": VariantAxis(
        "backup",
        "Backup",
        (
            Option(key="none", name="no backup"),
            Option(
                key="stopper", name="stopper on the tail", cord_d=9.0, tail_d=8.0, tail_floor_d=6.0
            ),
            Option(
                key="half-hitch",
                name="half hitch on the standing part",
                cord_d=6.0,
                tail_d=6.0,
                tail_floor_d=4.0,
            ),
            Option(
                key="overhand",
                name="overhand on the standing part",
                cord_d=8.0,
                tail_d=7.0,
                tail_floor_d=5.0,
            ),
            Option(
                key="double-overhand",
                name="double overhand on the standing part",
                cord_d=12.0,
                tail_d=10.0,
                tail_floor_d=8.0,
            ),
        ),
    ),
}

Choices = Mapping[str, str]
COUNTED = ("wraps", "turns")
"""Axes that count how often the cord goes round."""
NUMBERS = {
    word: n for n, word in enumerate(("one", "two", "three", "four", "five", "six", "seven"), 1)
}


@dataclass(frozen=True)
class CordRule:
    """Cord a knot takes and the tail it leaves, in diameters."""

    cord_d: float
    tail_floor_d: float
    tail_usual_d: float


@dataclass(frozen=True, kw_only=True)
class Structure:
    """One knot structure: the identity behind its names.

    `slippery` and `opens` are what is commonly said: whether it holds in slippery cordage, and
    whether it opens by hand after load. The pulls decide. Lengths are in cordage diameters.
    """

    key: str
    family: str
    also: tuple[str, ...]
    layout: str
    needs_end: Answer
    in_the_bight: Answer
    closed_ring: Answer
    ends: int
    legs: int
    loadings: tuple[Loading, ...]
    slippery: Answer
    opens: Answer
    tail_floor_d: float
    tail_usual_d: float
    cord_use_d: float
    dressing: tuple[str, ...]
    setting: tuple[str, ...]
    opening: str
    weaknesses: tuple[str, ...]
    never: tuple[str, ...]
    opinions: tuple[str, ...]
    names: tuple[TradeName, ...]
    front: str
    back: str
    look_alikes: tuple[LookAlike, ...] = ()
    axes: tuple[VariantAxis, ...] = ()
    host: Host | None = None
    advantage: float | None = None
    webbing: CordRule | None = None
    mis_ties: tuple[MisTie, ...] = ()
    drawing: str = ""

    @property
    def name(self) -> str:
        """The name shown first where no trade is preferred."""
        return self.names[0].name

    @property
    def variant_names(self) -> tuple[str, ...]:
        """What trades call it with one choice or another."""
        return tuple(n for axis in self.axes for option in axis.options for n in option.names)

    def name_in(self, trade: str) -> str:
        """The name a trade uses, else the first; ``general`` prefers none."""
        own = (n.name for n in self.names if n.trade == trade and trade != GENERAL)
        return next(own, self.name)

    @property
    def families(self) -> tuple[str, ...]:
        """Every family it belongs to."""
        return (self.family, *self.also)

    @property
    def directions(self) -> tuple[str, ...]:
        """How it is meant to be loaded, in words; the usual way first."""
        return tuple(way.words for way in self.loadings)

    @property
    def leg_sets(self) -> tuple[Legs, ...]:
        """Every set of legs that can be loaded: those it is meant for, then what its layout allows.

        What grips along a host can also be pulled the other way, meant for it or not.
        """
        found = dict.fromkeys(way.legs for way in self.loadings)
        found |= dict.fromkeys(LAID.get(self.layout, ()))
        if "friction hitch" in self.families or any("along the host" in d for d in self.directions):
            found[frozenset({STANDING, BACKWARDS})] = None
        return tuple(found)

    def said(self, legs: Legs) -> str:
        """How this structure's entry says a set of legs; empty where it does not."""
        return next((way.words for way in self.loadings if way.legs == legs), "")

    @property
    def plain(self) -> dict[str, str]:
        """The plain choice on every axis."""
        return {axis.key: axis.options[0].key for axis in self.axes}

    def chosen(self, choices: Choices) -> tuple[Option, ...]:
        """The options of a variant, one an axis; missing axes are plain.

        Raises
        ------
        ValueError
            If an axis or option does not exist.
        """
        unknown = set(choices) - {axis.key for axis in self.axes}
        if unknown:
            raise ValueError(f"{self.key} has no axis {', '.join(sorted(unknown))}")
        return tuple(a.option(choices.get(a.key, a.options[0].key)) for a in self.axes)

    def wraps(self, choices: Choices) -> int | None:
        """Wraps or turns of a variant, where an axis counts them; None where none does."""
        for axis, option in zip(self.axes, self.chosen(choices), strict=True):
            if axis.key in COUNTED and option.key in NUMBERS:
                return NUMBERS[option.key]
        return None

    def host_turns(self, choices: Choices) -> float:
        """How often the cord of a variant goes round its host; 0 without one."""
        if self.host is None:
            return 0.0
        counted = self.wraps(choices)
        if counted is None or not self.host.per_wrap:
            return self.host.turns
        return counted * self.host.per_wrap

    def bare_cord_d(self, choices: Choices) -> float:
        """Cord that the turns of a variant round its own host take at the least, in diameters.

        Notes
        -----
        turns x pi (D/d + 1): the way of the cord's middle round the host, with nothing for the
        knot itself. No entry may ask for less; 0 without a host.
        """
        if self.host is None:
            return 0.0
        return self.host_turns(choices) * math.pi * (self.host.d_over_d + 1.0)

    def differing(self, choices: Choices) -> dict[str, str]:
        """The choices that are not the plain ones, in the order of the axes."""
        picked = zip(self.axes, self.chosen(choices), strict=True)
        return {axis.key: option.key for axis, option in picked if option is not axis.options[0]}

    def variant_words(self, choices: Choices) -> str:
        """A variant in words; ``plain`` where nothing differs."""
        picked = zip(self.axes, self.chosen(choices), strict=True)
        words = [option.name for axis, option in picked if option is not axis.options[0]]
        return ", ".join(words) or PLAIN

    def cord_rule(self, choices: Choices, *, flat: bool = False) -> CordRule:
        """Cord and tail of a variant in diameters, or in widths of webbing where it is `flat`.

        The usual tail is never below the floor.
        """
        if flat and self.webbing is not None:
            return self.webbing
        options = self.chosen(choices)
        floor = max(0.0, self.tail_floor_d + sum(o.tail_floor_d for o in options))
        usual = max(floor, self.tail_usual_d + sum(o.tail_d for o in options))
        return CordRule(self.cord_use_d + sum(o.cord_d for o in options), floor, usual)
