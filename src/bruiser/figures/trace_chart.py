"""A recorded trace as a figure: load against travel, slips and peak named on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bruiser.figures.display import Disc, Figure, Line, Pen, Text
from bruiser.figures.scales import ticks

Floats = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class TraceNote:
    """A named point of the trace, in the chart's own units; its words go right of it or left."""

    x: float
    y: float
    words: str
    colour: str
    right: bool = True


def thin_out(x: Floats, y: Floats, columns: int) -> tuple[Floats, Floats]:
    """Lowest and highest sample of every column: what a dense line looks like, exactly."""
    if len(x) <= 2 * columns:
        return x, y
    edges = np.linspace(0, len(x), columns + 1).astype(int)[:-1]
    low = np.minimum.reduceat(y, edges)
    high = np.maximum.reduceat(y, edges)
    halfway = np.append(edges[1:], len(x) - 1) + edges
    out_x = np.empty(2 * columns)
    out_x[0::2], out_x[1::2] = x[edges], x[halfway // 2]
    out_y = np.empty(2 * columns)
    rising = y[np.minimum(edges + 1, len(y) - 1)] >= y[edges]
    out_y[0::2] = np.where(rising, low, high)
    out_y[1::2] = np.where(rising, high, low)
    return out_x, out_y


def stretches(read: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where readings stand one after another: first of each stretch, and one past its last."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], read, [False])).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def trace_figure(
    x: Floats,
    y: Floats,
    notes: tuple[TraceNote, ...],
    width: float,
    height: float,
    *,
    x_title: str,
    y_title: str,
    title: str,
) -> Figure:
    """Draw a trace; `x` and `y` of shape (n,) in the units of the titles; NaN leaves gaps."""
    pen = Pen()
    left, right, top, bottom = 13.0, width - 3.0, 5.0, height - 10.0
    read = np.isfinite(x) & np.isfinite(y)
    x1 = float(x[read].max()) if read.any() else 1.0
    y1 = 1.08 * float(y[read].max()) if read.any() else 1.0
    x1, y1 = max(x1, 1e-6), max(y1, 1e-6)

    def place(px: float, py: float) -> tuple[float, float]:
        return left + px / x1 * (right - left), bottom - max(py, 0.0) / y1 * (bottom - top)

    for tick in ticks(0, y1, 4):
        _, ty = place(0, tick)
        pen.add(Line(((left, ty), (right, ty)), "line", width=0.25))
        pen.add(
            Text(left - 1.5, ty + 1.2, f"{tick:g}", style="small", colour="muted", anchor="end")
        )
    for tick in ticks(0, x1, 8):
        tx, _ = place(tick, 0)
        pen.add(Text(tx, bottom + 4.2, f"{tick:g}", style="small", colour="muted", anchor="middle"))
    pen.add(Text(left, top - 1.2, y_title, style="small", colour="muted"))
    pen.add(Text(right, bottom + 8.6, x_title, style="small", colour="muted", anchor="end"))
    pen.add(Line(((left, top), (left, bottom), (right, bottom)), "muted", width=0.3))
    shown: list[tuple[float, float]] = []
    for start, end in stretches(read):
        columns = max(2, 600 * (end - start) // len(x))
        thin = thin_out(x[start:end], y[start:end], columns)
        points = list(zip(*(part.tolist() for part in thin), strict=True))
        pen.add(Line(tuple(place(a, b) for a, b in points), "plum", width=0.5))
        shown += points
    for note in (n for n in notes if np.isfinite(n.x + n.y)):
        nx, ny = place(note.x, note.y)
        pen.add(Disc(nx, ny, 1.0, fill=None, stroke=note.colour, width=0.5))
        anchor, shift = ("start", 2.0) if note.right and nx < 0.8 * right else ("end", -2.0)
        pen.add(
            Text(
                nx + shift,
                ny - 1.0,
                note.words,
                style="strong-small",
                colour=note.colour,
                anchor=anchor,
            )
        )
    rows = tuple((f"{a:.4g}", f"{b:.5g}") for a, b in shown)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=(),
        title=title,
        header=(x_title, y_title),
        rows=rows,
    )
