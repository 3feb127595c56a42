"""The ladder: one row a knot, interval bar, typical tick, every pull by its shape."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Shape, Spot, Text
from bruiser.figures.scales import ticks


@dataclass(frozen=True)
class LadderMark:
    """One pull: key, kind (broke, came_out, outlasted) and share of the baseline."""

    key: str
    kind: str
    share: float
    label: str


@dataclass(frozen=True)
class LadderRow:
    """One knot."""

    key: str
    name: str
    counts: str
    marks: tuple[LadderMark, ...]
    value: float | None = None
    low: float | None = None
    high: float | None = None
    value_text: str = ""
    range_text: str = ""
    letters: str = ""


@dataclass(frozen=True)
class Ladder:
    """The whole chart."""

    title: str
    rows: tuple[LadderRow, ...]
    band: tuple[float, float] | None = None
    selected: str | None = None


LEGEND = (
    ("broke", "broke at the test knot"),
    ("came_out", "came out"),
    ("outlasted", "outlasted: at least this much"),
)


def mark_shapes(kind: str, x: float, y: float, size: float, *, picked: bool = False) -> list[Shape]:
    """The mark of a pull: disc broke, square came out, open triangle outlasted."""
    shapes: list[Shape] = []
    if picked:
        shapes.append(Disc(x, y, size * 1.9, "plum-wash", "plum", 0.4))
    if kind == "broke":
        shapes.append(Disc(x, y, size, "plum"))
    elif kind == "came_out":
        shapes.append(Box(x - size, y - size, 2 * size, 2 * size, 0.0, "ochre"))
    else:
        tip = ((x - size, y - 1.15 * size), (x + 1.3 * size, y), (x - size, y + 1.15 * size))
        shapes.append(Line(tip, "storm", 0.45, None, closed=True))
    return shapes


def _span(ladder: Ladder) -> tuple[float, float]:
    shares = [m.share for r in ladder.rows for m in r.marks]
    for row in ladder.rows:
        shares += [v for v in (row.low, row.high) if v is not None]
    top = max([1.05, *(min(s, 1.5) for s in shares)])
    bottom = min([0.9, *shares])
    return max(0.0, int(bottom * 10 - 0.3) / 10), min(1.6, top + 0.03)


def ladder_figure(ladder: Ladder, width: float, height: float) -> Figure:
    """Draw the ladder.

    Parameters
    ----------
    ladder : Ladder
        What it shows.
    width, height : float
        Size in millimetre; rows share the height up to a comfortable size.

    Returns
    -------
    Figure
        One spot a mark, keyed by the pull.
    """
    pen = Pen()
    names, figures, top = 60.0, 34.0, 7.0
    left, right = names, width - figures
    pitch = min(14.0, (height - top - 13.0) / max(len(ladder.rows), 1))
    bottom = top + pitch * len(ladder.rows)
    low, high = _span(ladder)

    def x_of(share: float) -> float:
        return left + (min(max(share, low), high) - low) / (high - low) * (right - left)

    if ladder.band is not None:
        x0, x1 = x_of(ladder.band[0]), x_of(ladder.band[1])
        pen.add(Box(x0, top, max(x1 - x0, 0.6), bottom - top, 0.6, "plum-wash"))
    for tick in ticks(low, high, 8):
        x = x_of(tick)
        pen.add(Line(((x, top), (x, bottom)), "line", 0.25))
        pen.add(Text(x, bottom + 4.0, f"{100 * tick:.0f} %", "small", "muted", "middle"))
    pen.add(Text(x_of(1.0), top - 1.8, "plain rope", "small", "muted", "middle"))
    pen.add(Text(width - 9, top - 1.8, "95 % interval", "small", "muted", "end"))
    pen.add(Line(((x_of(1.0), top), (x_of(1.0), bottom)), "muted", 0.3))
    for number, row in enumerate(ladder.rows):
        _draw_row(pen, row, top + number * pitch, pitch, x_of, width, ladder.selected, high)
    x = 0.5
    for kind, words in LEGEND:
        pen.add(*mark_shapes(kind, x + 1.2, bottom + 9.4, 0.95))
        pen.add(Text(x + 3.6, bottom + 10.4, words, "small", "muted"))
        x += 9.0 + 1.75 * len(words)
    pen.add(Text(x, bottom + 10.4, "same letter: not told apart", "small", "muted"))
    header = ("knot", "typical share", "low", "high", "pull", "outcome", "share")
    rows = tuple(
        (
            row.name,
            _share(row.value),
            _share(row.low),
            _share(row.high),
            mark.label,
            mark.kind,
            _share(mark.share),
        )
        for row in ladder.rows
        for mark in row.marks
    )
    return Figure(
        width, bottom + 12, tuple(pen.shapes), tuple(pen.spots), ladder.title, header, rows
    )


def _share(value: float | None) -> str:
    return "" if value is None else f"{value:.4f}"


def _draw_row(
    pen: Pen,
    row: LadderRow,
    y: float,
    pitch: float,
    x_of: Callable[[float], float],
    width: float,
    selected: str | None,
    high: float,
) -> None:
    middle = y + pitch * 0.34
    pen.add(Line(((0, y + pitch), (width, y + pitch)), "line", 0.2))
    pen.add(Text(0.5, y + pitch * 0.44, row.name, "strong", "ink", "start", 57.0))
    pen.add(Text(0.5, y + pitch * 0.80, row.counts, "small", "muted", "start", 57.0))
    if row.low is not None and row.high is not None and row.value is not None:
        x0, x1 = x_of(row.low), x_of(row.high)
        pen.add(Box(x0, middle - 1.5, max(x1 - x0, 0.5), 3.0, 1.2, "plum-soft"))
        if row.high > high:
            pen.add(
                Line(((x1 - 2, middle - 1.5), (x1, middle), (x1 - 2, middle + 1.5)), "plum", 0.4)
            )
        xv = x_of(row.value)
        pen.add(Line(((xv, middle - 2.3), (xv, middle + 2.3)), "plum", 0.8))
    for mark in row.marks:
        x, ym = x_of(mark.share), y + pitch * 0.74
        pen.add(*mark_shapes(mark.kind, x, ym, 0.95, picked=mark.key == selected))
        pen.spot(Spot(mark.key, x - 2.2, ym - 2.4, 4.4, 4.8, mark.label))
    pen.add(Text(width - 9, y + pitch * 0.46, row.value_text, "figure", "ink", "end"))
    pen.add(Text(width - 9, y + pitch * 0.82, row.range_text, "small", "muted", "end"))
    pen.add(Text(width - 1, y + pitch * 0.46, row.letters, "strong", "plum", "end", 7.5))
