"""The marks of pulls, told apart by their shape alone, and their legend."""

from __future__ import annotations

from typing import assert_never

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Disc, Line, Pen, Shape, Text

LEGEND = (
    (Outcome.BROKE, "broke at the test knot"),
    (Outcome.CAME_OUT, "came out"),
    (Outcome.OUTLASTED, "outlasted: at least this much"),
)


def mark_shapes(
    kind: Outcome, x: float, y: float, size: float, *, left_out: bool = False
) -> list[Shape]:
    """The mark of a pull: disc broke, square came out, open triangle outlasted.

    One that is left out is crossed through and pale.
    """
    shapes: list[Shape] = []
    tones = ("muted", "muted", "muted") if left_out else ("plum", "ochre", "storm")
    match kind:
        case Outcome.BROKE:
            fill, line = (None, tones[0]) if left_out else (tones[0], None)
            shapes.append(Disc(x, y, size, fill=fill, stroke=line, width=0.3))
        case Outcome.CAME_OUT:
            fill, line = (None, tones[1]) if left_out else (tones[1], None)
            shapes.append(Box(x - size, y - size, 2 * size, 2 * size, fill=fill, stroke=line))
        case Outcome.OUTLASTED:
            tip = ((x - size, y - 1.15 * size), (x + 1.3 * size, y), (x - size, y + 1.15 * size))
            shapes.append(Line(tip, tones[2], width=0.45, fill=None, closed=True))
        case _:
            assert_never(kind)
    if left_out:
        reach = 1.5 * size
        shapes.append(Line(((x - reach, y + reach), (x + reach, y - reach)), "muted", width=0.35))
    return shapes


def draw_legend(pen: Pen, y: float, more: tuple[str, ...] = ()) -> None:
    """The three shapes in words, and what else the chart needs said."""
    x = 0.5
    for kind, words in LEGEND:
        pen.add(*mark_shapes(kind, x + 1.2, y - 1.0, 0.95))
        pen.add(Text(x + 3.6, y, words, style="small", colour="muted"))
        x += 9.0 + 1.75 * len(words)
    for words in more:
        pen.add(Text(x, y, words, style="small", colour="muted"))
        x += 6.0 + 1.75 * len(words)
