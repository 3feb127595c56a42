"""Loads on one scale: straight pulls beside the rating, and working loads by school."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.pull_marks import mark_shapes
from bruiser.figures.scales import ticks

Say = Callable[[float], str]


@dataclass(frozen=True, kw_only=True)
class BaselineMark:
    """One straight pull: key, kind as on the ladder, load in newton, and what it says."""

    key: str
    kind: Outcome
    load_n: float
    label: str


@dataclass(frozen=True, kw_only=True)
class BaselineScale:
    """Straight pulls, their typical strength with its interval, and the rating, in newton."""

    marks: tuple[BaselineMark, ...]
    typical_n: float | None = None
    low_n: float | None = None
    high_n: float | None = None
    rated_n: float | None = None


def baseline_figure(scale: BaselineScale, width: float, height: float, say: Say) -> Figure:
    """Draw straight pulls against the rating on one load scale.

    Parameters
    ----------
    say : callable
        Writes a load in newton with its unit.

    Returns
    -------
    Figure
        One spot a pull.
    """
    pen = Pen()
    bounds = (scale.typical_n, scale.low_n, scale.high_n, scale.rated_n)
    loads = [m.load_n for m in scale.marks] + [x for x in bounds if x is not None]
    low, high = (min(loads), max(loads)) if loads else (0.0, 1.0)
    pad = 0.12 * (high - low) or 0.1 * high
    low, high = max(0.0, low - pad), high + pad
    left, right, top, bottom = 32.0, width - 8.0, 8.0, height - 9.0

    def x_of(load_n: float) -> float:
        return left + (load_n - low) / (high - low) * (right - left)

    for tick in ticks(low, high, 6):
        x = x_of(tick)
        pen.add(Line(((x, top), (x, bottom)), "line", width=0.25))
        pen.add(Text(x, bottom + 4.4, say(tick), style="small", colour="muted", anchor="middle"))
    rows = (top + (bottom - top) * 0.28, top + (bottom - top) * 0.74)
    pen.add(Text(0.5, rows[0] + 1.2, "typical", style="strong-small"))
    pen.add(Text(0.5, rows[1] + 1.2, "every pull", style="strong-small"))
    if scale.low_n is not None and scale.high_n is not None and scale.typical_n is not None:
        x0, x1, xv = (x_of(v) for v in (scale.low_n, scale.high_n, scale.typical_n))
        pen.add(Box(x0, rows[0] - 2.0, max(x1 - x0, 0.6), 4.0, radius=1.4, fill="plum-soft"))
        pen.add(Line(((xv, rows[0] - 3.0), (xv, rows[0] + 3.0)), "plum", width=0.9))
    for mark in scale.marks:
        x = x_of(mark.load_n)
        pen.add(*mark_shapes(mark.kind, x, rows[1], 1.15))
        pen.spot(
            Spot(key=mark.key, x=x - 2.6, y=rows[1] - 3.2, width=5.2, height=6.4, label=mark.label)
        )
    if scale.rated_n is not None:
        x = x_of(scale.rated_n)
        pen.add(Line(((x, top - 1.0), (x, bottom)), "ochre", width=0.6, fill=None, dash=True))
        pen.add(
            Text(
                x,
                top - 2.4,
                f"rated {say(scale.rated_n)}",
                style="small",
                colour="ochre",
                anchor="middle",
            )
        )
    rows_of = tuple((m.label, m.kind, f"{m.load_n:.0f}") for m in scale.marks)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Straight pulls against the rating",
        header=("pull", "outcome", "load, N"),
        rows=rows_of,
    )


@dataclass(frozen=True, kw_only=True)
class SchoolRow:
    """One school's working load with its steps; no load where it lacks something."""

    name: str
    load_n: float | None
    steps: tuple[str, ...]
    default: bool = False


def schools_figure(rows: list[SchoolRow], width: float, height: float, say: Say) -> Figure:
    """Working loads of the schools one below the other, on one scale, each with its sums."""
    pen = Pen()
    pitch = min(25.0, height / max(len(rows), 1))
    most = max((r.load_n or 0.0 for r in rows), default=0.0) or 1.0
    names, figures = 40.0, 30.0
    room = width - names - figures
    for number, row in enumerate(rows):
        y = number * pitch
        if row.default:
            pen.add(Box(0.3, y + 0.6, width - 0.6, pitch - 1.2, radius=1.4, fill="plum-wash"))
        pen.add(Text(3.0, y + pitch * 0.34, row.name, style="strong", max_width=names - 4))
        if row.default:
            pen.add(Text(3.0, y + pitch * 0.60, "taken by default", style="small", colour="plum"))
        tone = "plum" if row.default else "plum-soft"
        if row.load_n is not None:
            length = max(room * row.load_n / most, 0.8)
            pen.add(Box(names, y + pitch * 0.16, length, pitch * 0.16, radius=0.9, fill=tone))
            text, style = say(row.load_n), "figure"
            pen.add(Text(width - 3.0, y + pitch * 0.36, text, style=style, anchor="end"))
        else:
            pen.add(
                Text(
                    width - 3.0,
                    y + pitch * 0.36,
                    "none",
                    style="small",
                    colour="muted",
                    anchor="end",
                )
            )
        for line, step in enumerate(row.steps):
            at = y + pitch * (0.56 + 0.22 * line)
            pen.add(
                Text(names, at, step, style="small", colour="muted", max_width=width - names - 3)
            )
        if number:
            pen.add(Line(((0, y), (width, y)), "line", width=0.2))
    table = tuple(
        (r.name, "" if r.load_n is None else say(r.load_n), "; ".join(r.steps)) for r in rows
    )
    return Figure(
        width=width,
        height=pitch * len(rows),
        shapes=tuple(pen.shapes),
        spots=(),
        title="Working load by four schools",
        header=("school", "working load", "steps"),
        rows=table,
    )
