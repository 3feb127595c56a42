"""Rows of intervals along one axis: differences, tying times, claims with their regions."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, Say, in_percent

_TOP, _ROW, _FOOT = 8.0, 11.0, 10.0


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
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
        left=rungs.names_mm,
        top=_TOP,
        right=right,
        bottom=bottom,
        x_axis=ChartAxis(low=low, high=high, say=rungs.say, label=rungs.label, count=6),
        y_axis=ChartAxis(low=0.0, high=1.0, say=lambda _: "", count=1),
    )
    for value in frame.x_axis.ticks:
        x = frame.x(value)
        pen.add(Line(((x, _TOP), (x, bottom)), "line", width=0.2))
        pen.add(
            Text(x, bottom + 4, rungs.say(value), style="small", colour="muted", anchor="middle")
        )
    if rungs.zero is not None:
        x = frame.x(rungs.zero)
        pen.add(Line(((x, _TOP - 1), (x, bottom)), "muted", width=0.5))
    edge = right + 2
    for heading, room in zip(rungs.headings, rungs.widths, strict=True):
        edge += room
        pen.add(
            Text(
                edge,
                _TOP - 2,
                heading,
                style="small",
                colour="muted",
                anchor="end",
                max_width=room - 1,
            )
        )
    pen.add(Text(right, bottom + 8, rungs.label, style="small", colour="muted", anchor="end"))
    table = []
    for n, row in enumerate(rungs.rows):
        _draw_rung(pen, rungs, row, _TOP + n * _ROW, frame, width)
        numbers = ("" if v is None else f"{v:.4f}" for v in (row.value, row.low, row.high))
        table.append((row.name, row.words, *numbers, *row.columns))
    return Figure(
        width=width,
        height=bottom + _FOOT,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=rungs.title,
        header=("what", "from", "value", "low", "high", *rungs.headings),
        rows=tuple(table),
        keys=tuple(row.behind for row in rungs.rows),
    )


def _draw_rung(pen: Pen, rungs: Rungs, row: Rung, top: float, frame: Frame, width: float) -> None:
    pen.add(Line(((0, top + _ROW), (width, top + _ROW)), "line", width=0.2))
    pen.add(Text(0.5, top + 4.8, row.name, style="strong", max_width=rungs.names_mm - 3))
    pen.add(
        Text(0.5, top + 9.0, row.words, style="small", colour="muted", max_width=rungs.names_mm - 3)
    )
    y = top + _ROW / 2
    if row.region is not None:
        x0, x1 = (frame.x(v) for v in row.region)
        pen.add(
            Box(
                x0,
                top + 0.8,
                max(x1 - x0, 0.6),
                _ROW - 1.6,
                radius=0.6,
                fill="sunk",
                stroke="line",
                line=0.3,
            )
        )
    if row.value is not None and row.low is not None and row.high is not None:
        x0, x1, xv = frame.x(row.low), frame.x(row.high), frame.x(row.value)
        fill = row.tone if row.shape == "bar" else None
        pen.add(
            Box(
                x0,
                y - 1.3,
                max(x1 - x0, 0.5),
                2.6,
                radius=1.2,
                fill=fill,
                stroke=row.tone,
                line=0.45,
            )
        )
        pen.add(Line(((xv, y - 2.4), (xv, y + 2.4)), "ink", width=0.8))
    edge = frame.right + 2
    for text, room in zip(row.columns, rungs.widths, strict=True):
        edge += room
        pen.add(Text(edge, y + 1.2, text, style="body", anchor="end", max_width=room - 1))
    if row.behind:
        pen.spot(
            Spot(
                key=row.behind,
                x=0,
                y=top,
                width=width,
                height=_ROW,
                label=f"{row.name}: the typical value, and the range that holds it with 95 %; "
                "press it for the pulls behind it.",
            )
        )


@dataclass(frozen=True, kw_only=True)
class CordageCell:
    """One knot in one cordage: its figure, its interval, how many pulls, and their key."""

    text: str
    small: str
    share: float | None
    behind: str


def matrix_figure(
    knots: tuple[str, ...],
    lots: tuple[str, ...],
    cells: dict[tuple[str, str], CordageCell],
    width: float,
) -> Figure:
    """Knots down, cordages across; the bar under a figure is as long as the share kept."""
    pen = Pen()
    names, row_mm, head = 50.0, 12.0, 8.0
    room = (width - names) / max(1, len(lots))
    table, keys = [], []
    for k, lot in enumerate(lots):
        pen.add(
            Text(
                names + k * room + 1.5,
                5,
                lot,
                style="strong-small",
                max_width=room - 2,
            )
        )
    for n, knot in enumerate(knots):
        top = head + n * row_mm
        pen.add(Line(((0, top), (width, top)), "line", width=0.2))
        pen.add(Text(0.5, top + 7, knot, style="strong", max_width=names - 2))
        for k, lot in enumerate(lots):
            cell = cells.get((knot, lot))
            x = names + k * room + 1.5
            if cell is None:
                pen.add(Text(x, top + 7, "–", style="small", colour="muted"))
                continue
            pen.add(Text(x, top + 5.2, cell.text, style="strong", max_width=room - 2))
            pen.add(
                Text(x, top + 9.2, cell.small, style="small", colour="muted", max_width=room - 2)
            )
            if cell.share is not None:
                pen.add(
                    Box(
                        x,
                        top + 10.3,
                        max(0.3, min(cell.share, 1.2) * (room - 5) / 1.2),
                        1.0,
                        radius=0.4,
                        fill="plum",
                    )
                )
            pen.spot(
                Spot(
                    key=cell.behind,
                    x=x - 1,
                    y=top,
                    width=room,
                    height=row_mm,
                    label=f"{knot} in {lot}: {cell.text}",
                )
            )
            table.append((knot, lot, cell.text, cell.small))
            keys.append(cell.behind)
    return Figure(
        width=width,
        height=head + len(knots) * row_mm + 2,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Knots by cordage",
        header=("knot", "cordage", "share kept", "from"),
        rows=tuple(table),
        keys=tuple(keys),
    )
