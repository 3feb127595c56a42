"""What a test method is made of: its numbers, what ends it, and what it can speak to."""

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
    SEAT = "the hole it is stopped by"
    RETENTION = "what a binding retains"
    BULK = "bulk, and the way over a ledge"


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
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
