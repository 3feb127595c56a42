"""How sure a ranking is: chances of every place, and what other weights would do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import ChartAxis, Frame, in_percent, plain_number

_ROW, _TOP = 12.0, 9.0
_TONES = ("plum", "storm", "moss", "ochre", "brick", "ink", "muted")


@dataclass(frozen=True, kw_only=True)
class RankRow:
    """A knot with its chance of every place, and the places that hold the middle 90 %."""

    key: str
    name: str
    under: str
    chances: tuple[float, ...]
    likely: tuple[int, int]
    letters: str


def rank_figure(
    rows: Sequence[RankRow], width: float, title: str = "Chance of each place"
) -> Figure:
    """Knots down, places across: a cell is filled as far as its chance goes."""
    pen = Pen()
    count = max(len(rows), 1)
    names = min(64.0, 0.36 * width)
    room = min(26.0, (width - names - 8) / count)
    for k in range(len(rows)):
        x = names + (k + 0.5) * room
        pen.add(Text(x, 5, _ordinal(k + 1), style="strong-small", anchor="middle"))
    for n, row in enumerate(rows):
        top = _TOP + n * _ROW
        pen.add(Line(((0, top), (width, top)), "line", width=0.2))
        pen.add(Text(0.5, top + 5.2, row.name, style="strong", max_width=names - 2))
        pen.add(Text(0.5, top + 9.6, row.under, style="small", colour="muted", max_width=names - 2))
        for k, chance in enumerate(row.chances):
            x = names + k * room
            pen.add(Box(x + 0.6, top + 1.2, room - 1.2, _ROW - 2.4, radius=0.8, fill="sunk"))
            if chance >= 0.005:
                tall = (_ROW - 2.4) * min(chance, 1.0)
                y = top + 1.2 + (_ROW - 2.4) - tall
                pen.add(Box(x + 0.6, y, room - 1.2, tall, radius=0.8, fill="plum-soft"))
                text = in_percent(chance)
                pen.add(Text(x + room / 2, top + 7.2, text, anchor="middle"))
        left, right = (names + (row.likely[0] - 1) * room, names + row.likely[1] * room)
        pen.add(
            Line(((left + 1, top + _ROW - 0.6), (right - 1, top + _ROW - 0.6)), "plum", width=0.7)
        )
        pen.add(
            Text(names + count * room + 2, top + 7.2, row.letters, style="strong", colour="plum")
        )
        spot = Spot(
            key=f"row:{row.key}",
            x=0,
            y=top,
            width=width,
            height=_ROW,
            label=f"{row.name}: the places it may have by what these pulls leave open. {row.under}",
        )
        pen.spot(spot)
    bottom = _TOP + len(rows) * _ROW
    pen.add(
        Text(
            0.5,
            bottom + 5,
            "underlined: the places that hold the middle 90 %; same letter: tied",
            style="small",
            colour="muted",
            anchor="start",
            max_width=width - 1,
        )
    )
    table = tuple((r.name, *(f"{c:.4f}" for c in r.chances), r.letters) for r in rows)
    header = ("knot", *(_ordinal(k + 1) for k in range(len(rows))), "letters")
    return Figure(
        width=width,
        height=bottom + 8,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=title,
        header=header,
        rows=table,
        keys=tuple(f"row:{r.key}" for r in rows),
    )


def _ordinal(number: int) -> str:
    ending = {1: "st", 2: "nd", 3: "rd"}.get(number if number < 20 else number % 10, "th")
    return f"{number}{ending}"


@dataclass(frozen=True, kw_only=True)
class PartsRow:
    """A knot's score and its parts: for every rating its name, its weight and its points."""

    key: str
    name: str
    score: float
    parts: tuple[tuple[str, float, float], ...]


def parts_figure(rows: Sequence[PartsRow], width: float) -> Figure:
    """What every score is made of: a bar from 0 to 100, in pieces as wide as weight x points."""
    pen = Pen()
    names = min(52.0, 0.3 * width)
    right = width - 10
    top, row_mm = 1.0, 9.4

    def x_of(points: float) -> float:
        return names + points / 100 * (right - names)

    for n, row in enumerate(rows):
        y = top + n * row_mm
        pen.add(Text(0.5, y + 5.4, row.name, style="strong", max_width=names - 2))
        pen.add(Box(names, y + 1.0, right - names, 6.4, radius=1.0, fill="sunk"))
        at = 0.0
        for k, (_, weight, points) in enumerate(row.parts):
            x0, x1 = x_of(at), x_of(at + weight * points)
            fill = "plum-soft" if k % 2 == 0 else "plum-wash"
            pen.add(
                Box(
                    x0,
                    y + 1.0,
                    max(x1 - x0 - 0.4, 0.2),
                    6.4,
                    radius=0.8,
                    fill=fill,
                    stroke="plum",
                    line=0.15,
                )
            )
            words = f"{weight * points:.0f}"
            if x1 - x0 > 5:
                pen.add(Text((x0 + x1) / 2, y + 5.4, words, anchor="middle"))
            at += weight * points
        pen.add(Text(width - 0.5, y + 5.6, f"{row.score:.0f}", style="figure", anchor="end"))
    order = ", ".join(part for part, _, _ in rows[0].parts) if rows else ""
    bottom = top + row_mm * len(rows)
    pen.add(
        Text(
            0.5,
            bottom + 3.6,
            f"From the left: {order}",
            style="small",
            colour="muted",
            max_width=width,
        )
    )
    table = tuple(
        (r.name, f"{r.score:.1f}", part, f"{weight:.4f}", f"{points:.1f}")
        for r in rows
        for part, weight, points in r.parts
    )
    return Figure(
        width=width,
        height=bottom + 5.5,
        shapes=tuple(pen.shapes),
        title="Parts of the scores",
        header=("knot", "score", "rating", "weight", "points"),
        rows=table,
    )


@dataclass(frozen=True)
class WeightLine:
    """A knot's mean score without a rating and with it alone; straight between."""

    name: str
    without: float
    alone: float


def weight_figure(
    lines: Sequence[WeightLine],
    now: float,
    turns: Sequence[float],
    label: str,
    width: float,
    height: float,
) -> Figure:
    """Mean score against the share of one weight; a dashed line stands where it is now."""
    pen = Pen()
    ends = [v for line in lines for v in (line.without, line.alone)]
    low = max(0.0, min(ends, default=0.0) - 5)
    high = min(100.0, max(ends, default=100.0) + 5)
    frame = Frame(
        left=10,
        top=7,
        right=width - 46,
        bottom=max(height - 11, 30),
        x_axis=ChartAxis(low=0.0, high=1.0, say=in_percent, label=f"weight on “{label}”", count=5),
        y_axis=ChartAxis(low=low, high=high, say=plain_number, label="mean score", count=5),
    )
    frame.draw(pen)
    x = frame.x(now)
    pen.add(Line(((x, frame.top), (x, frame.bottom)), "ink", width=0.4, dash=True))
    pen.add(Text(x + 1, frame.top + 3.5, "now"))
    for turn in turns:
        at = frame.x(turn)
        pen.add(Line(((at, frame.bottom - 2), (at, frame.bottom + 1)), "brick", width=0.6))
    spread = _apart([frame.y(line.alone) for line in lines], 4.2)
    for n, (line, y) in enumerate(zip(lines, spread, strict=True)):
        tone = _TONES[n % len(_TONES)]
        pen.add(
            frame.line([0.0, 1.0], [line.without, line.alone], tone, 0.7, dash=n >= len(_TONES))
        )
        pen.add(
            Disc(
                frame.x(now),
                frame.y(line.without + now * (line.alone - line.without)),
                0.9,
                fill=tone,
            )
        )
        pen.add(Text(frame.right + 2, y + 1.1, line.name, style="small", colour=tone, max_width=44))
    rows = tuple((w.name, f"{w.without:.2f}", f"{w.alone:.2f}") for w in lines)
    return Figure(
        width=width,
        height=max(height, 41),
        shapes=tuple(pen.shapes),
        title=f"Score against the weight of {label}",
        header=("knot", "score without it", "score by it alone"),
        rows=rows,
    )


def _apart(places: Sequence[float], least: float) -> list[float]:
    """Places moved down where they stand closer than `least`, in their order."""
    order = sorted(range(len(places)), key=lambda k: places[k])
    found = list(places)
    last = None
    for k in order:
        if last is not None and found[k] - last < least:
            found[k] = last + least
        last = found[k]
    return found
