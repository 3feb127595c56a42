"""The plan drawn: the matrix of knots and lots, precision against pulls, and cuts along hanks."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text
from bruiser.figures.scales import ticks


@dataclass(frozen=True, kw_only=True)
class PlannedCell:
    """One cell: pulls done and queued, pulls this plan adds, and whether it is switched off.

    One without a key is no cell: that combination makes no sense.
    """

    key: str
    done: int
    added: int
    off: bool = False


@dataclass(frozen=True)
class MatrixRow:
    """One knot across the lots."""

    name: str
    cells: tuple[PlannedCell, ...]


NARROW_MM = 8.0


def matrix_figure(
    lots: tuple[str, ...], rows: list[MatrixRow], width: float, height: float, selected: str = ""
) -> Figure:
    """Knots down, lots across; a cell shows what is there and what the plan adds.

    Returns
    -------
    Figure
        One spot a cell.
    """
    pen = Pen()
    longest = max((len(row.name) for row in rows), default=0)
    names, top = min(max(58.0, 1.75 * longest), 0.5 * width), 8.0
    across = min(32.0, (width - names) / max(len(lots), 1))
    pitch = max(6.5, min(11.0, (height - top) / max(len(rows), 1)))
    for n, lot in enumerate(lots):
        x = names + (n + 0.5) * across
        pen.add(
            Text(
                x,
                top - 2.5,
                lot,
                style="strong-small",
                anchor="middle",
                max_width=across - 2,
            )
        )
    for r, row in enumerate(rows):
        y = top + r * pitch
        pen.add(
            Text(
                0.5,
                y + pitch * 0.62,
                row.name,
                style="strong-small",
                max_width=names - 3,
            )
        )
        for n, cell in enumerate(row.cells):
            if not cell.key:
                continue
            x = names + n * across
            fill = "sunk" if cell.off else "plum-wash" if cell.added else "surface"
            stroke = "plum" if cell.key == selected else "line"
            pen.add(
                Box(
                    x + 0.8,
                    y + 0.6,
                    across - 1.6,
                    pitch - 1.2,
                    radius=1.2,
                    fill=fill,
                    stroke=stroke,
                    line=0.4,
                )
            )
            middle = y + pitch * 0.62
            if cell.off:
                pen.add(
                    Text(
                        x + across / 2,
                        middle,
                        "off",
                        style="small",
                        colour="muted",
                        anchor="middle",
                    )
                )
                words = "switched off"
            else:
                said = f"{cell.done} + {cell.added}" if cell.added else f"{cell.done}"
                tone = "plum" if cell.added else "muted"
                pen.add(
                    Text(
                        x + across / 2,
                        middle,
                        said,
                        style="strong-small",
                        colour=tone,
                        anchor="middle",
                    )
                )
                words = f"{cell.done} there, {cell.added} more planned"
            label = f"{row.name} in {lots[n]}: {words}"
            pen.spot(Spot(key=cell.key, x=x, y=y, width=across, height=pitch, label=label))
    table = tuple((row.name, *(f"{c.done}+{c.added}" for c in row.cells)) for row in rows)
    return Figure(
        width=max(width, names + 1),
        height=top + pitch * len(rows),
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Knots and lots",
        header=("knot", *lots),
        rows=table,
    )


@dataclass(frozen=True)
class PrecisionLine:
    """Half-widths, in shares, against the number of pulls."""

    name: str
    points: tuple[tuple[int, float], ...]
    tone: str


def precision_figure(
    lines: list[PrecisionLine], width: float, height: float, planned: int = 0
) -> Figure:
    """Half-width of the interval expected after n pulls; the planned n is marked."""
    pen = Pen()
    left, right, top, bottom = 15.0, width - 34.0, 6.0, height - 9.0
    most_n = max((n for line in lines for n, _ in line.points), default=10)
    high = min(0.5, max((w for line in lines for _, w in line.points), default=0.2))

    def at(n: float, share: float) -> tuple[float, float]:
        x = left + (n - 1) / (most_n - 1) * (right - left)
        return x, bottom - min(share, high) / high * (bottom - top)

    for tick in ticks(0.0, high, max(1, min(5, int((bottom - top) / 6.0)))):
        _, y = at(1, tick)
        pen.add(Line(((left, y), (right, y)), "line", width=0.25))
        pen.add(
            Text(
                left - 1.5,
                y + 1.2,
                f"±{100 * tick:.0f}",
                style="small",
                colour="muted",
                anchor="end",
            )
        )
    for n in ticks(2, most_n, 8):
        x, _ = at(n, 0)
        pen.add(Text(x, bottom + 4.4, f"{n:.0f}", style="small", colour="muted", anchor="middle"))
    if planned > 1:
        x, _ = at(min(planned, most_n), 0)
        pen.add(Line(((x, top), (x, bottom)), "plum", width=0.4, fill=None, dash=True))
    ends = [at(*line.points[-1])[1] for line in lines if line.points]
    close = len(ends) == 2 and abs(ends[0] - ends[1]) < 4.0
    for number, line in enumerate(lines):
        points = tuple(at(n, w) for n, w in line.points)
        pen.add(Line(points, line.tone, width=0.6))
        for (x, y), (n, _) in zip(points, line.points, strict=True):
            if n == planned:
                pen.add(Disc(x, y, 1.1, fill=line.tone))
        x, y = points[-1]
        shift = (-1.2 if number == 0 else 3.2) if close else 1.2
        pen.add(
            Text(x + 1.5, y + shift, line.name, style="small", colour=line.tone, max_width=33.0)
        )
    pen.add(
        Text(
            (left + right) / 2,
            bottom + 8.2,
            "pulls of the knot",
            style="small",
            colour="muted",
            anchor="middle",
        )
    )
    pen.add(Text(0.5, top - 2.2, "points of efficiency either way", style="small", colour="muted"))
    table = tuple((line.name, str(n), f"{100 * w:.2f}") for line in lines for n, w in line.points)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=(),
        title="Half-width of the 95 % interval against pulls",
        header=("specimen", "pulls", "half-width, points"),
        rows=table,
    )


@dataclass(frozen=True, kw_only=True)
class CutHank:
    """A hank to cut: its label and length, each cut with its code, what stays and in words."""

    key: str
    label: str
    before_m: float
    cuts: tuple[tuple[str, float], ...]
    left_m: float
    kept: bool
    words: str


def cuts_figure(hanks: list[CutHank], width: float, pitch: float = 15.0) -> Figure:
    """Cuts drawn along each hank to one scale, code by code, the rest at the end.

    Returns
    -------
    Figure
        As tall as it needs to be, one spot a hank.
    """
    pen = Pen()
    names, figures = 26.0, 44.0
    longest = max((h.before_m for h in hanks), default=1.0)
    room = width - names - figures
    for number, hank in enumerate(hanks):
        y = number * pitch + 5.0
        pen.add(Text(0.5, y + 2.2, hank.label, style="strong-small", max_width=names - 2))
        x = names
        narrow = min((m for _, m in hank.cuts), default=longest) / longest * room < NARROW_MM
        for place, (code, length) in enumerate(hank.cuts):
            w = length / longest * room
            pen.add(Box(x, y - 1.6, w, 4.6, radius=0.4, fill="hemp", stroke="hemp-edge", line=0.3))
            short = code.removeprefix("S-") if w < 2 * NARROW_MM else code
            below = 6.6 if place % 2 == 0 or not narrow or pitch < 13.0 else 9.4
            if w >= NARROW_MM / (1 if below == 6.6 and not narrow else 2):
                pen.add(Text(x + w / 2, y + below, short, anchor="middle"))
            x += w
        w = hank.left_m / longest * room
        if w > 0.2:
            fill, stroke = ("sunk", "line") if hank.kept else ("ochre-wash", "ochre")
            pen.add(Box(x, y - 1.6, w, 4.6, radius=0.4, fill=fill, stroke=stroke, line=0.3))
        pen.add(Text(width - 1.0, y + 2.2, hank.words, anchor="end"))
        label = f"{hank.label}: {', '.join(code for code, _ in hank.cuts)}; {hank.words}"
        pen.spot(Spot(key=hank.key, x=0.0, y=y - 4.0, width=width, height=pitch, label=label))
    table = tuple((h.label, code, f"{length:.2f}") for h in hanks for code, length in h.cuts)
    return Figure(
        width=width,
        height=max(pitch * len(hanks) + 2, 4.0),
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Cuts along each hank",
        header=("hank", "specimen", "length, m"),
        rows=table,
    )
