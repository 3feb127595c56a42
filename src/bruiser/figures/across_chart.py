"""Knots across cordages: measured cells solid, predicted ones open with their range."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text

_NAMES, _ROW, _HEAD = 48.0, 11.0, 9.0
_MOST = 1.1


@dataclass(frozen=True, kw_only=True)
class GridCell:
    """A cell of the grid.

    Parameters
    ----------
    text, small : str
        What stands in it, and what is small below; a predicted one says so there.
    value, low, high : float or None
        Share with its interval; None where nothing is said.
    open : bool
        Whether it is predicted: an open bar without a mark in its middle.
    label : str
        The same as a sentence.
    behind : str
        What it leads to.
    """

    text: str
    small: str
    value: float | None = None
    low: float | None = None
    high: float | None = None
    open: bool = False
    label: str = ""
    behind: str = ""


@dataclass(frozen=True, kw_only=True)
class Grid:
    """The whole grid; `beside` is a column set apart at the right, such as a new cordage."""

    title: str
    names: tuple[str, ...]
    columns: tuple[str, ...]
    cells: dict[tuple[str, str], GridCell]
    beside: str = ""


def across_figure(grid: Grid, width: float) -> Figure:
    """Draw it; every bar is on one scale from 0 to 110 % of the plain rope."""
    pen = Pen()
    columns = (*grid.columns, *((grid.beside,) if grid.beside else ()))
    room = (width - _NAMES) / max(1, len(columns))
    height = _HEAD + len(grid.names) * _ROW + 2
    if grid.beside:
        left = _NAMES + len(grid.columns) * room
        pen.add(Box(left - 0.7, 0.5, room, height - 1, radius=1.2, fill="sunk"))
    for n, column in enumerate(columns):
        at = _NAMES + n * room + 1.5
        apart = column == grid.beside
        names = (1.0 if apart else 0.75) * (room - 4)
        pen.add(Text(at, 5.5, column, style="strong-small", max_width=names))
        if not apart:
            whole = at + (room - 4.0) / _MOST
            pen.add(Text(whole, 5.5, "100 %", colour="muted", anchor="middle"))
    table, keys = [], []
    for k, name in enumerate(grid.names):
        top = _HEAD + k * _ROW
        pen.add(Line(((0, top), (width, top)), "line", width=0.2))
        first, _, apart = name.partition(", ")
        pen.add(
            Text(0.5, top + (4.8 if apart else 6.2), first, style="strong", max_width=_NAMES - 2)
        )
        if apart:
            pen.add(Text(0.5, top + 8.8, apart, colour="muted", max_width=_NAMES - 2))
        for n, column in enumerate(columns):
            cell = grid.cells.get((name, column))
            x = _NAMES + n * room + 1.5
            if cell is None:
                pen.add(Text(x, top + 6.2, "–", style="small", colour="muted"))
                continue
            _cell(pen, cell, x, top, room - 4.0)
            pen.spot(
                Spot(key=cell.behind, x=x - 1, y=top, width=room, height=_ROW, label=cell.label)
            )
            table.append((name, column, cell.text, cell.small))
            keys.append(cell.behind)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=grid.title,
        header=("knot", "cordage", "share kept", "from"),
        rows=tuple(table),
        keys=tuple(keys),
    )


def _cell(pen: Pen, cell: GridCell, x: float, top: float, room: float) -> None:
    style, colour = ("small", "ink") if cell.open else ("strong", "ink")
    pen.add(Text(x, top + 4.6, cell.text, style=style, colour=colour, max_width=0.5 * room))
    pen.add(
        Text(
            x + room,
            top + 4.6,
            cell.small,
            style="small",
            colour="muted",
            anchor="end",
            max_width=0.62 * room,
        )
    )
    if cell.low is None or cell.high is None or cell.value is None:
        return

    def at(share: float) -> float:
        return x + room * min(max(share, 0.0), _MOST) / _MOST

    line = top + 8.0
    pen.add(Line(((x, line), (x + room, line)), "line", width=0.2))
    pen.add(Line(((at(1.0), line - 0.8), (at(1.0), line + 0.8)), "muted", width=0.2))
    low, high = at(cell.low), at(cell.high)
    long = max(0.6, high - low)
    if cell.open:
        pen.add(Box(low, line - 1.1, long, 2.2, radius=1.1, fill="surface", stroke="plum"))
        return
    pen.add(Box(low, line - 0.7, long, 1.4, radius=0.7, fill="plum-soft"))
    pen.add(Disc(at(cell.value), line, 1.1, fill="plum"))
