"""The ladder: one row a knot, interval bar, typical tick, every pull by its shape."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TypedDict, Unpack

from bruiser.core.records.records import Outcome
from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text
from bruiser.figures.frame import in_percent
from bruiser.figures.pull_marks import draw_legend, mark_shapes
from bruiser.figures.scales import ticks


@dataclass(frozen=True, kw_only=True)
class LadderAxis:
    """What a ladder measures along: shares of a reference, or loads.

    Parameters
    ----------
    say, bare : callable
        A value with its unit, and as it stands in a range.
    measure : str
        What its values are, as a column is headed.
    reference : str
        What stands at 100 %; empty where nothing does.
    """

    say: Callable[[float], str]
    bare: Callable[[float], str]
    measure: str = "share"
    reference: str = ""

    def range_of(self, low: float, high: float) -> str:
        """Two ends of an interval; beyond the reference itself the upper one is open."""
        if self.reference and high > 1:
            return f"{self.bare(low)} and more"
        return f"{self.bare(low)} to {self.bare(high)}"


def share_axis(reference: str) -> LadderAxis:
    """Shares of a reference."""
    return LadderAxis(say=in_percent, bare=lambda share: f"{100 * share:.0f}", reference=reference)


@dataclass(frozen=True, kw_only=True)
class LadderMark:
    """One pull: key, outcome and its place on the axis."""

    key: str
    kind: Outcome
    at: float
    label: str
    left_out: bool = False


@dataclass(frozen=True, kw_only=True)
class LadderRow:
    """One knot; every value is on the axis of its ladder.

    Parameters
    ----------
    counts : str
        What is small under the name.
    floor : float or None
        Lower tolerance bound.
    mean : float or None
        The plain mean, where it is worth showing beside the typical value.
    behind : str
        Key of the pulls behind the numbers.
    caveat : str
        What weakens them most, in a word or two.
    """

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
    floor: float | None = None
    floor_text: str = ""
    mean: float | None = None
    behind: str = ""
    tooltip: str = ""
    caveat: str = ""


def tally_words(broke: int, came_out: int, outlasted: int, void: int = 0) -> str:
    """How the pulls of a row ended."""
    words = f"{broke} broke, {came_out} came out, {outlasted} outlasted"
    return words + (f", {void} void" if void else "")


def ladder_row(
    axis: LadderAxis,
    *,
    key: str,
    name: str,
    counts: str,
    marks: Iterable[LadderMark],
    interval: tuple[float, float, float] | None = None,
    instead: str = "",
    **more: Unpack[RowMore],
) -> LadderRow:
    """A row with its numbers as they are written.

    Parameters
    ----------
    interval : tuple of float, optional
        Typical value, low and high.
    instead : str
        What is written where there is no interval.
    """
    value, low, high = interval or (None, None, None)
    floor = more.get("floor")
    return LadderRow(
        key=key,
        name=name,
        counts=counts,
        marks=tuple(marks),
        value=value,
        low=low,
        high=high,
        value_text=instead if value is None else axis.say(value),
        range_text="" if low is None or high is None else axis.range_of(low, high),
        floor_text="" if floor is None else axis.say(floor),
        **more,
    )


class RowMore(TypedDict, total=False):
    """What else a row may show, as :class:`LadderRow` has it."""

    floor: float | None
    mean: float | None
    letters: str
    behind: str
    tooltip: str
    caveat: str


@dataclass(frozen=True, kw_only=True)
class Ladder:
    """The whole chart.

    Parameters
    ----------
    band : tuple of float, optional
        Between what the reference itself scatters.
    """

    title: str
    rows: tuple[LadderRow, ...]
    axis: LadderAxis
    band: tuple[float, float] | None = None
    floor_title: str = ""


_NAMES, _FIGURES, _TOP, _FOOT = 60.0, 56.0, 7.0, 13.0
PITCH = (8.2, 14.0)


def _span(ladder: Ladder) -> tuple[float, float]:
    shares = [m.at for r in ladder.rows for m in r.marks]
    for row in ladder.rows:
        shares += [v for v in (row.low, row.high, row.floor) if v is not None]
    if not ladder.axis.reference:
        seen = [m.at for r in ladder.rows for m in r.marks]
        return 0.0, min(1.1 * max(shares), 1.6 * max(seen))
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
        Size in millimetre; rows share the height between a least and a comfortable size, and
        where they do not fit the figure grows.

    Returns
    -------
    Figure
        One spot a mark, keyed by the pull, and one a row's numbers.
    """
    pen = Pen()
    left, right = _NAMES, width - _FIGURES
    room = (height - _TOP - _FOOT) / max(len(ladder.rows), 1)
    pitch = min(PITCH[1], max(PITCH[0], room))
    bottom = _TOP + pitch * len(ladder.rows)
    low, high = _span(ladder)

    def x_of(share: float) -> float:
        return left + (min(max(share, low), high) - low) / (high - low) * (right - left)

    if ladder.band is not None:
        x0, x1 = x_of(ladder.band[0]), x_of(ladder.band[1])
        pen.add(Box(x0, _TOP, max(x1 - x0, 0.6), bottom - _TOP, radius=0.6, fill="plum-wash"))
    for tick in ticks(low, high, 8):
        x = x_of(tick)
        pen.add(Line(((x, _TOP), (x, bottom)), "line", width=0.25))
        pen.add(
            Text(
                x,
                bottom + 4.0,
                ladder.axis.say(tick),
                style="small",
                colour="muted",
                anchor="middle",
            )
        )
    pen.add(Text(0.5, _TOP - 1.8, ladder.title, style="small", colour="muted", max_width=100.0))
    if ladder.axis.reference:
        pen.add(
            Text(
                x_of(1.0),
                _TOP - 1.8,
                ladder.axis.reference,
                style="small",
                colour="muted",
                anchor="middle",
            )
        )
        pen.add(Line(((x_of(1.0), _TOP), (x_of(1.0), bottom)), "muted", width=0.3))
    pen.add(
        Text(width - 30, _TOP - 1.8, "95 % interval", style="small", colour="muted", anchor="end")
    )
    pen.add(
        Text(
            width - 11, _TOP - 1.8, ladder.floor_title, style="small", colour="muted", anchor="end"
        )
    )
    for number, row in enumerate(ladder.rows):
        _draw_row(pen, row, _TOP + number * pitch, pitch, x_of, width, high)
    more = ["same letter: not told apart"]
    more += ["⌊ floor"] if any(r.floor is not None for r in ladder.rows) else []
    more += ["╎ plain mean"] if any(r.mean is not None for r in ladder.rows) else []
    draw_legend(pen, bottom + 10.4, tuple(more))
    header, rows, keys = _table(ladder)
    return Figure(
        width=width,
        height=bottom + 12,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=ladder.title,
        header=header,
        rows=rows,
        keys=keys,
    )


def _table(
    ladder: Ladder,
) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...], tuple[str, ...]]:
    header = (
        *(
            "knot",
            f"typical {ladder.axis.measure}",
            "low",
            "high",
            "floor",
            "plain mean",
            "letters",
        ),
        *("pull", "outcome", ladder.axis.measure, "left out"),
    )
    rows, keys = [], []
    for row in ladder.rows:
        numbers = (row.value, row.low, row.high, row.floor, row.mean)
        for mark in row.marks:
            out = "yes" if mark.left_out else ""
            rows.append(
                (
                    *(row.name, *(_share(v) for v in numbers), row.letters),
                    *(mark.label, mark.kind, _share(mark.at), out),
                )
            )
            keys.append(mark.key)
    return header, tuple(rows), tuple(keys)


def _share(value: float | None) -> str:
    return "" if value is None else f"{value:.4f}"


def _draw_row(
    pen: Pen,
    row: LadderRow,
    y: float,
    pitch: float,
    x_of: Callable[[float], float],
    width: float,
    high: float,
) -> None:
    middle = y + pitch * 0.34
    pen.add(Line(((0, y + pitch), (width, y + pitch)), "line", width=0.2))
    pen.add(Text(1.4, y + pitch * 0.44, row.name, style="strong", max_width=56.0))
    pen.add(Text(1.4, y + pitch * 0.84, row.counts, style="small", colour="muted", max_width=56.0))
    if row.tooltip:
        pen.spot(
            Spot(key=f"row:{row.key}", x=0, y=y, width=_NAMES - 2, height=pitch, label=row.tooltip)
        )
    if row.low is not None and row.high is not None and row.value is not None:
        x0, x1 = x_of(row.low), x_of(row.high)
        pen.add(Box(x0, middle - 1.5, max(x1 - x0, 0.5), 3.0, radius=1.2, fill="plum-soft"))
        if row.high > high:
            pen.add(
                Line(
                    ((x1 - 2, middle - 1.5), (x1, middle), (x1 - 2, middle + 1.5)),
                    "plum",
                    width=0.4,
                )
            )
        xv = x_of(row.value)
        pen.add(Line(((xv, middle - 2.3), (xv, middle + 2.3)), "plum", width=0.8))
    if row.floor is not None:
        xf = x_of(row.floor)
        corner = ((xf, middle - 2.3), (xf, middle + 2.3), (xf + 1.6, middle + 2.3))
        pen.add(Line(corner, "ink", width=0.4))
    if row.mean is not None:
        xm = x_of(row.mean)
        pen.add(Line(((xm, middle - 2.3), (xm, middle + 2.3)), "ink", width=0.4, dash=True))
    for mark in row.marks:
        x, ym = x_of(mark.at), y + pitch * 0.76
        pen.add(*mark_shapes(mark.kind, x, ym, 0.95, left_out=mark.left_out))
        pen.spot(Spot(key=mark.key, x=x - 2.2, y=ym - 2.0, width=4.4, height=4.0, label=mark.label))
    pen.add(Text(width - 30, y + pitch * 0.46, row.value_text, style="figure", anchor="end"))
    pen.add(
        Text(
            width - 30,
            y + pitch * 0.84,
            row.range_text,
            style="small",
            colour="muted",
            anchor="end",
        )
    )
    pen.add(Text(width - 11, y + pitch * 0.46, row.floor_text, style="body", anchor="end"))
    pen.add(
        Text(
            width - 1,
            y + pitch * 0.84,
            row.caveat,
            style="small",
            colour="ochre",
            anchor="end",
            max_width=25.0,
        )
    )
    pen.add(
        Text(
            width - 1,
            y + pitch * 0.46,
            row.letters,
            style="strong",
            colour="plum",
            anchor="end",
            max_width=9.0,
        )
    )
    if row.behind:
        spot = Spot(
            key=row.behind,
            x=width - 52,
            y=y,
            width=52,
            height=pitch,
            label=f"{row.name}: the typical value, the range that holds it 95 times of 100, and "
            "how many pulls that rests on; press it for the pulls behind it.",
        )
        pen.spot(spot)
