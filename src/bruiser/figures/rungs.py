"""Rows of intervals along one axis: differences, tying times, claims with their regions."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import Axis, Frame, Say, in_percent

_TOP, _ROW, _FOOT = 8.0, 11.0, 10.0


@dataclass(frozen=True)
class Rung:
    """One interval.

    Parameters
    ----------
    name, words : str
        What it is, and what is small under it.
    region : tuple of float or None
        The region a claim speaks of; an open side is infinite.
    columns : tuple of str
        What stands at the right.
    tone : str
        Colour of the bar; `shape` tells the same without colour: ``bar`` or ``outline``.
    """

    key: str
    name: str
    words: str
    value: float | None
    low: float | None
    high: float | None
    columns: tuple[str, ...] = ()
    region: tuple[float, float] | None = None
    tone: str = "plum"
    shape: str = "bar"
    behind: str = ""


@dataclass(frozen=True)
class Rungs:
    """The whole chart; `zero` draws a line where nothing differs."""

    title: str
    rows: tuple[Rung, ...]
    headings: tuple[str, ...]
    widths: tuple[float, ...]
    label: str
    say: Say = in_percent
    zero: float | None = None
    least: float = 0.0
    most: float = 1.0
    names_mm: float = 66.0


def _ends(rungs: Rungs) -> tuple[float, float]:
    seen = [v for r in rungs.rows for v in (r.value, r.low, r.high) if v is not None]
    for r in rungs.rows:
        seen += [v for v in (r.region or ()) if abs(v) < 1e9]
    usable = [v for v in seen if abs(v) < 1e9]
    low, high = min([rungs.least, *usable]), max([rungs.most, *usable])
    return low - 0.02 * (high - low), high + 0.02 * (high - low)


def rungs_figure(rungs: Rungs, width: float) -> Figure:
    """Draw the rows; as tall as they need."""
    pen = Pen()
    low, high = _ends(rungs)
    bottom = _TOP + _ROW * len(rungs.rows)
    right = width - sum(rungs.widths) - 2
    frame = Frame(
        rungs.names_mm,
        _TOP,
        right,
        bottom,
        Axis(low, high, rungs.say, rungs.label, 6),
        Axis(0.0, 1.0, lambda _: "", count=1),
    )
    for value in frame.x_axis.ticks:
        x = frame.x(value)
        pen.add(Line(((x, _TOP), (x, bottom)), "line", 0.2))
        pen.add(Text(x, bottom + 4, rungs.say(value), "small", "muted", "middle"))
    if rungs.zero is not None:
        x = frame.x(rungs.zero)
        pen.add(Line(((x, _TOP - 1), (x, bottom)), "muted", 0.5))
    edge = right + 2
    for heading, room in zip(rungs.headings, rungs.widths, strict=True):
        edge += room
        pen.add(Text(edge, _TOP - 2, heading, "small", "muted", "end", room - 1))
    pen.add(Text(right, bottom + 8, rungs.label, "small", "muted", "end"))
    table = []
    for n, row in enumerate(rungs.rows):
        _draw_rung(pen, rungs, row, _TOP + n * _ROW, frame, width)
        numbers = ("" if v is None else f"{v:.4f}" for v in (row.value, row.low, row.high))
        table.append((row.name, row.words, *numbers, *row.columns))
    return Figure(
        width,
        bottom + _FOOT,
        tuple(pen.shapes),
        tuple(pen.spots),
        rungs.title,
        ("what", "from", "value", "low", "high", *rungs.headings),
        tuple(table),
        tuple(row.behind for row in rungs.rows),
    )


def _draw_rung(pen: Pen, rungs: Rungs, row: Rung, top: float, frame: Frame, width: float) -> None:
    pen.add(Line(((0, top + _ROW), (width, top + _ROW)), "line", 0.2))
    pen.add(Text(0.5, top + 4.8, row.name, "strong", "ink", "start", rungs.names_mm - 3))
    pen.add(Text(0.5, top + 9.0, row.words, "small", "muted", "start", rungs.names_mm - 3))
    y = top + _ROW / 2
    if row.region is not None:
        x0, x1 = (frame.x(v) for v in row.region)
        pen.add(Box(x0, top + 0.8, max(x1 - x0, 0.6), _ROW - 1.6, 0.6, "sunk", "line", 0.3))
    if row.value is not None and row.low is not None and row.high is not None:
        x0, x1, xv = frame.x(row.low), frame.x(row.high), frame.x(row.value)
        fill = row.tone if row.shape == "bar" else None
        pen.add(Box(x0, y - 1.3, max(x1 - x0, 0.5), 2.6, 1.2, fill, row.tone, 0.45))
        pen.add(Line(((xv, y - 2.4), (xv, y + 2.4)), "ink", 0.8))
    edge = frame.right + 2
    for text, room in zip(row.columns, rungs.widths, strict=True):
        edge += room
        pen.add(Text(edge, y + 1.2, text, "body", "ink", "end", room - 1))
    if row.behind:
        pen.spot(Spot(row.behind, 0, top, width, _ROW, f"The pulls behind {row.name}"))


@dataclass(frozen=True)
class MatrixCell:
    """One knot in one cordage: its figure, its interval, how many pulls, and their key."""

    text: str
    small: str
    share: float | None
    behind: str


def matrix_figure(
    knots: tuple[str, ...],
    lots: tuple[str, ...],
    cells: dict[tuple[str, str], MatrixCell],
    width: float,
) -> Figure:
    """Knots down, cordages across; the bar under a figure is as long as the share kept."""
    pen = Pen()
    names, row_mm, head = 50.0, 12.0, 8.0
    room = (width - names) / max(1, len(lots))
    table, keys = [], []
    for k, lot in enumerate(lots):
        pen.add(Text(names + k * room + 1.5, 5, lot, "strong-small", "ink", "start", room - 2))
    for n, knot in enumerate(knots):
        top = head + n * row_mm
        pen.add(Line(((0, top), (width, top)), "line", 0.2))
        pen.add(Text(0.5, top + 7, knot, "strong", "ink", "start", names - 2))
        for k, lot in enumerate(lots):
            cell = cells.get((knot, lot))
            x = names + k * room + 1.5
            if cell is None:
                pen.add(Text(x, top + 7, "–", "small", "muted"))
                continue
            pen.add(Text(x, top + 5.2, cell.text, "strong", "ink", "start", room - 2))
            pen.add(Text(x, top + 9.2, cell.small, "small", "muted", "start", room - 2))
            if cell.share is not None:
                pen.add(
                    Box(
                        x,
                        top + 10.3,
                        max(0.3, min(cell.share, 1.2) * (room - 5) / 1.2),
                        1.0,
                        0.4,
                        "plum",
                    )
                )
            pen.spot(Spot(cell.behind, x - 1, top, room, row_mm, f"{knot} in {lot}: {cell.text}"))
            table.append((knot, lot, cell.text, cell.small))
            keys.append(cell.behind)
    return Figure(
        width,
        head + len(knots) * row_mm + 2,
        tuple(pen.shapes),
        tuple(pen.spots),
        "Knots by cordage",
        ("knot", "cordage", "share kept", "from"),
        tuple(table),
        tuple(keys),
    )
