"""What a sheet of results hands to its view: charts, words, and the pulls behind every number."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from bruiser.figures.display import Figure

Draw = Callable[[float, float], Figure]


@dataclass(frozen=True)
class Behind:
    """The pulls behind one number."""

    heading: str
    pulls: tuple[str, ...]


@dataclass(frozen=True)
class Part:
    """A chart beside the main one; `key` names it among the chips."""

    key: str
    title: str
    draw: Draw


@dataclass(frozen=True)
class ResultLine:
    """A line of words with its tone, and the pulls it rests on."""

    text: str
    tone: str = "ink"
    behind: str = ""


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """One sheet, ready to be shown.

    Parameters
    ----------
    main : callable or None
        Draws the main chart; None where there is nothing to draw.
    parts : tuple of Part
        Charts beside it, of the row chosen.
    sentence : str
        The technician's line.
    lines : tuple of ResultLine
        What else is said under the chart: caveats, reasons, judged criteria.
    behind : dict
        Pulls by the key of a number's spot.
    empty : str
        What is said where there is no chart.
    """

    about: str
    main: Draw | None
    sentence: str
    parts: tuple[Part, ...] = ()
    lines: tuple[ResultLine, ...] = ()
    behind: dict[str, Behind] = field(default_factory=dict)
    empty: str = ""
