"""The load-direction matrix drawn: the legs that are pulled, and how every pull ended."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.records.legs import BACKWARDS, EYE, OTHER, SECOND_EYE, STANDING
from bruiser.core.records.records import Gave
from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text

_NAMES_MM, _GLYPH_MM, _ROW_MM, _HEAD_MM = 46.0, 16.0, 15.0, 8.0


@dataclass(frozen=True, kw_only=True)
class DirectionMark:
    """One pull: its key, its load as a share of the row's longest, how it ended, and words."""

    key: str
    share: float
    gave: Gave
    words: str


@dataclass(frozen=True)
class DirectionRow:
    """A direction with its legs, and for each lot its marks and what they say."""

    words: str
    legs: frozenset[str]
    cells: tuple[tuple[tuple[DirectionMark, ...], str], ...]


def direction_figure(
    lots: tuple[str, ...], rows: list[DirectionRow], width: float, most: str
) -> Figure:
    """Draw the matrix; as tall as its rows need, one spot a pull.

    Every cell has the same axis of load, from none at its left to `most`, in words, at its right.

    Returns
    -------
    Figure
        Shapes as everywhere: filled disc broke, square came out, open triangle outlasted.
    """
    pen = Pen()
    left = _NAMES_MM + _GLYPH_MM
    room = (width - left) / max(1, len(lots))
    for n, name in enumerate(lots):
        x = left + n * room
        pen.add(Text(x + 2, 4.5, name, style="strong-small", max_width=room / 2))
        if room > 45:
            pen.add(Text(x + room - 6, 4.5, most, style="small", colour="muted", anchor="end"))
    table: list[tuple[str, ...]] = []
    for n, row in enumerate(rows):
        top = _HEAD_MM + n * _ROW_MM
        pen.add(Line(((0, top), (width, top)), "line", width=0.25))
        pen.add(Text(0.5, top + 8.4, row.words, max_width=_NAMES_MM - 2))
        _draw_legs(pen, _NAMES_MM + _GLYPH_MM / 2, top + 5.0, row.legs)
        for k, (marks, words) in enumerate(row.cells):
            x = left + k * room
            pen.add(Line(((x + 4, top + 5.4), (x + room - 6, top + 5.4)), "line", width=0.2))
            pen.add(
                Text(x + 2, top + 12.6, words, style="small", colour="muted", max_width=room - 3)
            )
            for mark in marks:
                _draw_mark(pen, x + 4 + mark.share * (room - 10), top + 5.4, mark)
            table.append((row.words, lots[k], words))
    height = _HEAD_MM + len(rows) * _ROW_MM
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Load-direction matrix",
        header=("direction", "lot", "pulls"),
        rows=tuple(table),
    )


def _draw_legs(pen: Pen, x: float, y: float, legs: frozenset[str]) -> None:
    """A knot with three legs; the ones that are pulled are thick and end in an arrow."""
    ends = {STANDING: (-6.5, 0.0), OTHER: (6.5, 0.0), EYE: (0.0, 6.0)}
    if SECOND_EYE in legs:
        ends = {STANDING: (-6.5, 0.0), EYE: (6.5, 4.0), SECOND_EYE: (6.5, -4.0)}
    elif BACKWARDS in legs:
        ends = {BACKWARDS: (6.5, 0.0), STANDING: (-6.5, 0.0)}
        legs = frozenset({BACKWARDS})
    for key, (dx, dy) in ends.items():
        pulled = key in legs
        tone, wide = ("plum", 1.0) if pulled else ("line", 0.5)
        pen.add(Line(((x, y), (x + dx, y + dy)), tone, width=wide))
        if pulled:
            a = math.atan2(dy, dx)
            tip = (x + dx, y + dy)
            wings = [
                (tip[0] - 1.7 * math.cos(a + s), tip[1] - 1.7 * math.sin(a + s))
                for s in (0.6, -0.6)
            ]
            pen.add(Line((wings[0], tip, wings[1]), tone, width=0.6))
    pen.add(Disc(x, y, 1.5, fill="hemp", stroke="hemp-edge", width=0.4))


def _draw_mark(pen: Pen, x: float, y: float, mark: DirectionMark) -> None:
    r = 1.3
    if mark.gave is Gave.BROKE:
        pen.add(Disc(x, y, r, fill="plum", stroke="surface", width=0.3))
    elif mark.gave is Gave.STOPPED:
        corner = ((x - r, y - r), (x + r * 1.2, y), (x - r, y + r))
        pen.add(Line(corner, "storm", width=0.5, fill=None, closed=True))
    else:
        pen.add(
            Box(x - r, y - r, 2 * r, 2 * r, radius=0.2, fill="ochre", stroke="surface", line=0.3)
        )
    pen.spot(Spot(key=mark.key, x=x - 2, y=y - 2, width=4, height=4, label=mark.words))
