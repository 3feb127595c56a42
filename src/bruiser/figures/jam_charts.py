"""Untying outcomes against the load a knot had seen, and the fitted curve."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.figures.display import Box, Figure, Line, Pen, Shape, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, in_percent
from bruiser.figures.scales import ticks


@dataclass(frozen=True, kw_only=True)
class JamMark:
    """One attempt: pull, share of the plain rope the knot had seen, what it took, words."""

    key: str
    share: float
    level: JamLevel
    label: str


@dataclass(frozen=True, kw_only=True)
class JamLine:
    """One knot.

    Parameters
    ----------
    value, low, high : float or None
        Share at which half jam.
    bound : str
        Where that is not decided, in words.
    opens, untie : str
        After a hard pull, and typical untying time, as written at the right.
    """

    key: str
    name: str
    words: str
    marks: tuple[JamMark, ...]
    value: float | None
    low: float | None
    high: float | None
    bound: str
    opens: str
    untie: str
    behind: str


SHOWN = (JamLevel.HAND, JamLevel.WORKED, JamLevel.TOOL, JamLevel.CUT, JamLevel.FUSED)
_NAMES, _FIGURES, _TOP, _ROW = 56.0, 46.0, 7.0, 12.0


def level_shapes(level: JamLevel, x: float, y: float, size: float) -> list[Shape]:
    """The mark of an untying: open, half and full diamond, a cross for cut, a star for fused."""
    diamond = ((x - size, y), (x, y - size), (x + size, y), (x, y + size))
    if level in (JamLevel.SHAKEN, JamLevel.HAND):
        return [Line(diamond, "moss", width=0.4, fill=None, closed=True)]
    if level is JamLevel.WORKED:
        half = ((x - size, y), (x + size, y), (x, y + size))
        return [
            Line(half, None, width=0.0, fill="moss", closed=True),
            Line(diamond, "moss", width=0.4, fill=None, closed=True),
        ]
    if level is JamLevel.TOOL:
        return [Line(diamond, "ochre", width=0.3, fill="ochre", closed=True)]
    s = 0.85 * size
    cross: list[Shape] = [
        Line(((x - s, y - s), (x + s, y + s)), "brick", width=0.5),
        Line(((x - s, y + s), (x + s, y - s)), "brick", width=0.5),
    ]
    if level is JamLevel.FUSED:
        cross.append(Line(((x - size, y), (x + size, y)), "brick", width=0.5))
        cross.append(Line(((x, y - size), (x, y + size)), "brick", width=0.5))
    return cross


def jam_ladder(rows: tuple[JamLine, ...], chosen: str, width: float) -> Figure:
    """Every knot's untying outcomes along the load it had seen; as tall as its rows need."""
    pen = Pen()
    left, right = _NAMES, width - _FIGURES
    bottom = _TOP + _ROW * len(rows)
    top = max([1.0, *(m.share for r in rows for m in r.marks)])

    def x_of(share: float) -> float:
        return left + min(max(share / top, 0.0), 1.0) * (right - left)

    for tick in ticks(0.0, top, 6):
        x = x_of(tick)
        pen.add(Line(((x, _TOP), (x, bottom)), "line", width=0.2))
        pen.add(
            Text(x, bottom + 4, in_percent(tick), style="small", colour="muted", anchor="middle")
        )
    pen.add(Text(width - 17, _TOP - 2, "open at 60 %", style="small", colour="muted", anchor="end"))
    pen.add(Text(width - 1, _TOP - 2, "untying", style="small", colour="muted", anchor="end"))
    table, keys = [], []
    for n, row in enumerate(rows):
        y = _TOP + n * _ROW
        if row.key == chosen:
            pen.add(Box(0, y, width, _ROW, fill="plum-wash"))
        pen.add(Line(((0, y + _ROW), (width, y + _ROW)), "line", width=0.2))
        pen.add(Text(1.4, y + 5, row.name, style="strong", max_width=left - 3))
        pen.add(Text(1.4, y + 9.8, row.words, style="small", colour="muted", max_width=left - 3))
        pen.spot(Spot(key=f"row:{row.key}", x=0, y=y, width=left, height=_ROW, label=row.name))
        if row.value is not None and row.low is not None and row.high is not None:
            x0, x1, xv = x_of(row.low), x_of(row.high), x_of(row.value)
            pen.add(Box(x0, y + 2.2, max(x1 - x0, 0.5), 2.6, radius=1.0, fill="plum-soft"))
            pen.add(Line(((xv, y + 1.6), (xv, y + 5.4)), "plum", width=0.8))
        for mark in row.marks:
            x = x_of(mark.share)
            pen.add(*level_shapes(mark.level, x, y + 8.4, 1.2))
            pen.spot(Spot(key=mark.key, x=x - 2, y=y + 6.4, width=4, height=4, label=mark.label))
            place = (_number(row.value), _number(row.low), _number(row.high))
            table.append(
                (
                    row.name,
                    *place,
                    row.bound,
                    mark.label,
                    JAM_WORDS[mark.level],
                    _number(mark.share),
                )
            )
            keys.append(mark.key)
        pen.add(Text(width - 17, y + 5.4, row.opens, style="body", anchor="end"))
        pen.add(
            Text(
                width - 17,
                y + 9.8,
                row.bound,
                style="small",
                colour="muted",
                anchor="end",
                max_width=40,
            )
        )
        pen.add(Text(width - 1, y + 5.4, row.untie, style="body", anchor="end"))
        pen.spot(
            Spot(
                key=row.behind,
                x=right + 2,
                y=y,
                width=_FIGURES - 2,
                height=_ROW,
                label=f"{row.name}: the load after which half no longer open by hand, with the "
                "range these pulls leave open; press it for the pulls behind it.",
            )
        )
    x = 0.5
    for level in SHOWN:
        words = JAM_WORDS[level]
        pen.add(*level_shapes(level, x + 1.5, bottom + 9.4, 1.2))
        pen.add(Text(x + 4, bottom + 10.4, words, style="small", colour="muted"))
        x += 8.0 + 1.75 * len(words)
    return Figure(
        width=width,
        height=bottom + 12,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Untying against the load seen, share of the plain rope",
        header=("knot", "half jam at", "low", "high", "or", "attempt", "took", "share seen"),
        rows=tuple(table),
        keys=tuple(keys),
    )


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:.4f}"


@dataclass(frozen=True, kw_only=True)
class JamCurve:
    """The fitted chance that a knot needs a tool: (share, low, middle, high), and its marks."""

    name: str
    points: tuple[tuple[float, float, float, float], ...]
    marks: tuple[JamMark, ...]
    why_not: str = ""


def jam_curve_figure(curve: JamCurve, width: float, height: float) -> Figure:
    """Draw the curve with its band; marks lie at the foot where it opened, on top where not."""
    pen = Pen()
    top = max([1.0, *(m.share for m in curve.marks)])
    frame = Frame(
        left=13,
        top=9,
        right=width - 8,
        bottom=height - 11,
        x_axis=ChartAxis(
            low=0.0, high=top, say=in_percent, label="load seen, share of the plain rope", count=5
        ),
        y_axis=ChartAxis(
            low=0.0, high=1.0, say=in_percent, label=f"needs a tool, {curve.name}", count=4
        ),
    )
    frame.draw(pen)
    if curve.points:
        xs, low, middle, high = (list(column) for column in zip(*curve.points, strict=True))
        pen.add(frame.band(xs, low, high, "plum-wash"))
        pen.add(frame.line(xs, middle, "plum", 0.8))
        half = frame.y(0.5)
        pen.add(Line(((frame.left, half), (frame.right, half)), "muted", width=0.25, dash=True))
    else:
        pen.add(
            Text(
                frame.left + 2,
                frame.y(0.5),
                curve.why_not,
                style="small",
                colour="muted",
                max_width=width - 20,
            )
        )
    for mark in curve.marks:
        jammed = mark.level not in (JamLevel.SHAKEN, JamLevel.HAND, JamLevel.WORKED)
        x, y = frame.x(mark.share), frame.y(0.96 if jammed else 0.04)
        pen.add(*level_shapes(mark.level, x, y, 1.2))
        pen.spot(Spot(key=mark.key, x=x - 2, y=y - 2, width=4, height=4, label=mark.label))
    rows = tuple(tuple(f"{v:.4f}" for v in p) for p in curve.points)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=f"Chance that {curve.name} needs a tool",
        header=("share seen", "low", "needs a tool", "high"),
        rows=rows,
    )
