"""The board of a short list: a row a knot, five gauges each, best to the right.

A gauge is a strand of rope with a whipping round the part that the pulls leave open; notches under
the strand are where one band ends and the next begins. A question mark after a band says that the
pulls leave open a worse one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from bruiser.core.choice.rating import SCALES, Bands, Rating
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.typefaces import text_width

_SLOW_S, _FAST_S = 180.0, 8.0
_HEAD, _TURNED, _FOOT = 9.0, 7.4, 7.0
ROW_MM = 19.0
_SMALL_MM = 3.2
_STACKED_MM = 80.0
_WIDE_MM, _GAP_MM, _FLAT_MM = 200.0, 3.0, 10.0
LEAST_ROW_MM = 13.0


def place(rating: Rating, value: float) -> float:
    """Where a value of a rating lies on its gauge: 0 at the left, 1, the better end, at the right.

    Seconds lie on a logarithmic scale from three minutes to eight seconds.
    """
    if SCALES[rating].unit == "seconds":
        span = math.log(_SLOW_S / _FAST_S)
        at = math.log(_SLOW_S / max(value, 1e-3)) / span
    else:
        at = value
    return min(1.0, max(0.0, at))


@dataclass(frozen=True, kw_only=True)
class GaugeBar:
    """One gauge; without `value` nothing was measured. `points` are its part of a score."""

    rating: Rating
    value: float | None = None
    low: float | None = None
    high: float | None = None
    band: str = ""
    words: str = ""
    could_be: str = ""
    points: float | None = None
    tooltip: str = ""


@dataclass(frozen=True, kw_only=True)
class BoardRow:
    """A knot on the board.

    Parameters
    ----------
    place : str
        Its place in figures, or empty.
    under : str
        What stands under its name: chance and likely ranks.
    score, load : str
        Score and working load, each with what stands under it.
    """

    key: str
    place: str
    name: str
    under: str
    letters: str
    gauges: tuple[GaugeBar, ...]
    score: str = ""
    score_under: str = ""
    load: str = ""
    load_under: str = ""
    chosen: bool = False


@dataclass(frozen=True, kw_only=True)
class TurnedRow:
    """A knot that is not on the short list: what keeps it off, and the key of its pulls."""

    name: str
    words: str
    excluded: bool
    behind: str = ""


@dataclass(frozen=True, kw_only=True)
class Board:
    """The whole board; `weights` are shares by rating, shown over the gauges."""

    title: str
    rows: tuple[BoardRow, ...]
    bands: dict[Rating, Bands]
    weights: dict[Rating, float]
    turned: tuple[TurnedRow, ...] = ()
    more: str = ""
    name_heading: str = "Best first"


def draw_gauge(
    pen: Pen,
    x: float,
    y: float,
    width: float,
    gauge: GaugeBar,
    bands: Bands,
    small: str = "small",
    *,
    flat: bool = False,
    bare: bool = False,
) -> None:
    """Draw one gauge with its band's name over it and its figures under it.

    Parameters
    ----------
    x, y, width : float
        Left end, middle of the strand and length in millimetre.
    small : str
        Text style of the words.
    flat : bool
        Everything in one line over the strand.
    bare : bool
        The strand alone: its words stand beside the figure.
    """
    if gauge.value is None or gauge.low is None or gauge.high is None:
        pen.add(Line(((x, y), (x + width, y)), "line", width=0.5, dash=True))
        if bare:
            return
        pen.add(Text(x, y - 2.6, "not measured", style=small, colour="muted", max_width=width))
        return
    pen.add(Box(x, y - 0.55, width, 1.1, radius=0.5, fill="hemp", stroke="hemp-edge", line=0.15))
    for band in bands:
        if band.limit is not None:
            at = x + width * place(gauge.rating, band.limit)
            pen.add(Line(((at, y + 0.8), (at, y + 2.0)), "muted", width=0.25))
    ends = sorted(place(gauge.rating, v) for v in (gauge.low, gauge.high))
    x0, x1 = (x + width * e for e in ends)
    pen.add(
        Box(
            x0,
            y - 1.5,
            max(x1 - x0, 0.8),
            3.0,
            radius=1.0,
            fill="plum-soft",
            stroke="plum",
            line=0.2,
        )
    )
    at = x + width * place(gauge.rating, gauge.value)
    pen.add(Line(((at, y - 2.1), (at, y + 2.1)), "plum", width=0.7))
    if SCALES[gauge.rating].by_low:
        pen.add(Line(((x0, y - 2.1), (x0, y + 2.1)), "ink", width=0.45))
    if bare:
        return
    tone = "ochre" if gauge.could_be else "ink"
    words = f"{gauge.band} ?" if gauge.could_be else gauge.band
    room = width
    if gauge.points is not None:
        points = f"{gauge.points:.0f}"
        pen.add(
            Text(x + width, y - 3.0, points, style=f"strong-{small}", colour="plum", anchor="end")
        )
        room -= text_width(points, "Karla", 700, _SMALL_MM) + 1.0
    if flat:
        pen.add(
            Text(x, y - 3.0, words, style=f"strong-{small}", colour=tone, max_width=0.45 * room)
        )
        pen.add(
            Text(
                x + room,
                y - 3.0,
                gauge.words,
                style=small,
                colour="muted",
                anchor="end",
                max_width=0.55 * room,
            )
        )
        return
    pen.add(Text(x, y - 3.0, words, style=f"strong-{small}", colour=tone, max_width=room))
    pen.add(Text(x, y + 5.0, gauge.words, style=small, colour="muted", max_width=width))


def board_figure(board: Board, width: float, row_mm: float = ROW_MM) -> Figure:
    """Draw a board, as tall as its rows need.

    Returns
    -------
    Figure
        Spots: ``row:<key>`` a knot, ``gauge:<key>:<rating>`` a gauge, ``load:<key>`` its working
        load, ``turned:<n>`` a knot that is not on the list.
    """
    pen = Pen()
    wide = width > _WIDE_MM
    names, figures = (0.20 if wide else 0.18) * width, (0.165 if wide else 0.15) * width
    room = (width - names - figures) / len(Rating)
    for k, rating in enumerate(Rating):
        x = names + k * room
        weight = board.weights.get(rating, 0.0)
        counts = f"counts {100 * weight:.0f} %" if weight else "does not count"
        if not board.weights:
            counts = ""
        heading = SCALES[rating].name
        pen.add(Text(x, 3.6, heading, style="strong-small", max_width=room - 3))
        pen.add(Text(x, 7.4, counts, style="small", colour="muted", max_width=room - 3))
    right = width - 0.5
    middle = right - 0.5 * figures + 1
    pen.add(Text(0.5, 3.6, board.name_heading, style="strong-small", max_width=names - 3))
    if any(r.score for r in board.rows):
        pen.add(Text(middle - 1, 3.6, "Score", style="strong-small", anchor="end"))
    if any(r.load or r.load_under for r in board.rows):
        pen.add(Text(right, 3.6, "Work load", style="strong-small", anchor="end"))
    y = _HEAD
    for row in board.rows:
        _draw_row(pen, board, row, y, row_mm, (names, room, middle, right))
        y += row_mm
    y += 1.0
    for n, turned in enumerate(board.turned):
        _draw_turned(pen, turned, n, y, width, names)
        y += _TURNED
    if board.more:
        pen.add(Text(0.5, y + 4.6, board.more, style="small", colour="muted", max_width=width - 1))
        y += _FOOT
    header, rows, keys = _table(board)
    return Figure(
        width=width,
        height=y + 1,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=board.title,
        header=header,
        rows=rows,
        keys=keys,
    )


def _draw_row(
    pen: Pen,
    board: Board,
    row: BoardRow,
    top: float,
    height: float,
    columns: tuple[float, float, float, float],
) -> None:
    names, room, middle, right = columns
    if row.chosen:
        pen.add(Box(0, top + 0.4, right + 0.5, height - 0.8, radius=1.2, fill="plum-wash"))
    pen.add(Line(((0, top), (right + 0.5, top)), "line", width=0.25))
    y = top + 0.52 * height
    indent = 7.5 if row.place else 1.0
    if row.place:
        pen.add(Text(0.8, y + 1.2, row.place, style="figure", colour="plum"))
    pen.add(Text(indent, y - 1.0, row.name, style="strong", max_width=names - indent - 2))
    pen.add(
        Text(
            indent, y + 3.4, row.under, style="small", colour="muted", max_width=names - indent - 2
        )
    )
    pen.spot(
        Spot(
            key=f"row:{row.key}",
            x=0,
            y=top,
            width=names - 1,
            height=height,
            label=f"{row.name}: {row.under}",
        )
    )
    for k, gauge in enumerate(row.gauges):
        x = names + k * room
        draw_gauge(pen, x, y, room - _GAP_MM, gauge, board.bands[gauge.rating])
        key = f"gauge:{row.key}:{gauge.rating.value}"
        scale = SCALES[gauge.rating]
        said = f"{scale.name}: {scale.measures}. {gauge.tooltip}".rstrip(". ") + "."
        pen.spot(Spot(key=key, x=x - 1, y=top, width=room - 1, height=height, label=said))
    if row.score:
        pen.add(Text(middle - 1, y + 0.4, row.score, style="figure", anchor="end"))
        pen.add(
            Text(middle - 1, y + 4.6, row.score_under, style="small", colour="muted", anchor="end")
        )
    if row.load or row.load_under:
        pen.add(Text(right, y + 0.4, row.load or "–", style="strong", anchor="end"))
        pen.add(
            Text(
                right,
                y + 4.6,
                row.load_under,
                style="small",
                colour="muted",
                anchor="end",
                max_width=right - middle,
            )
        )
        spot = Spot(
            key=f"load:{row.key}",
            x=middle,
            y=top,
            width=right - middle,
            height=height,
            label="The load it may work at by the school chosen: for comparing knots, no approval.",
        )
        pen.spot(spot)


def _draw_turned(
    pen: Pen, turned: TurnedRow, n: int, top: float, width: float, names: float
) -> None:
    pen.add(Line(((0, top), (width, top)), "line", width=0.2))
    pen.add(Text(1.0, top + 4.8, turned.name, style="body", colour="muted", max_width=names - 3))
    said = "excluded: " if turned.excluded else "not ranked: "
    tone = "brick" if turned.excluded else "storm"
    pen.add(Text(names, top + 4.8, said, style="strong-small", colour=tone))
    at = names + text_width(said, "Karla", 700, _SMALL_MM) + 1.5
    pen.add(Text(at, top + 4.8, turned.words, max_width=width - at - 1))
    if turned.behind:
        label = f"{turned.name}, {said}{turned.words}"
        pen.spot(Spot(key=f"turned:{n}", x=0, y=top, width=width, height=_TURNED, label=label))


def _table(
    board: Board,
) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...], tuple[str, ...]]:
    header = ("place", "knot", *(SCALES[r].name for r in Rating), "score", "working load", "why")
    rows: list[tuple[str, ...]] = []
    keys: list[str] = []
    for row in board.rows:
        cells = tuple(_cell(g) for g in row.gauges)
        load = f"{row.load} {row.load_under}".strip()
        rows.append((row.place, row.name, *cells, row.score, load, row.under))
        keys.append(f"row:{row.key}")
    for n, turned in enumerate(board.turned):
        blank = ("",) * (len(Rating) + 2)
        said = "excluded" if turned.excluded else "not ranked"
        rows.append(("", turned.name, *blank, f"{said}: {turned.words}"))
        keys.append(f"turned:{n}" if turned.behind else "")
    return header, tuple(rows), tuple(keys)


def _cell(gauge: GaugeBar) -> str:
    if gauge.value is None:
        return "not measured"
    text = f"{gauge.band}: {gauge.words}"
    return f"{text}; could be “{gauge.could_be}”" if gauge.could_be else text


def strand_figure(gauge: GaugeBar, bands: Bands, width: float) -> Figure:
    """One gauge without its words, for where they stand beside it as text."""
    pen = Pen()
    draw_gauge(pen, 0.3, 2.15, width - 0.6, gauge, bands, bare=True)
    name = SCALES[gauge.rating].name
    return Figure(
        width=width,
        height=4.3,
        shapes=tuple(pen.shapes),
        title=f"{name}: {_cell(gauge)}",
        header=("rating", "found"),
        rows=((name, _cell(gauge)),),
    )


def gauge_list(
    gauges: Sequence[GaugeBar],
    bands: dict[Rating, Bands],
    width: float,
    small: str = "small",
    row_mm: float = 13.0,
) -> Figure:
    """The gauges of one knot, one under the other, their names beside them or, narrow, above."""
    pen = Pen()
    stacked = width < _STACKED_MM
    names = 0.0 if stacked else 0.34 * width
    for n, gauge in enumerate(gauges):
        y = 6.5 + n * row_mm + (3.6 if stacked else 0.0)
        top = y - 6.9 if stacked else y + 1.0
        name = SCALES[gauge.rating].name
        tone = "muted" if stacked else "ink"
        pen.add(
            Text(0.2, top, name, style=f"strong-{small}", colour=tone, max_width=names or width)
        )
        room, flat = width - names - 0.5, row_mm < _FLAT_MM
        draw_gauge(pen, names, y, room, gauge, bands[gauge.rating], small, flat=flat)
    rows = tuple((SCALES[g.rating].name, _cell(g)) for g in gauges)
    return Figure(
        width=width,
        height=row_mm * len(gauges) + (5.6 if stacked else 2.0),
        shapes=tuple(pen.shapes),
        title="Five ratings",
        header=("rating", "found"),
        rows=rows,
    )
