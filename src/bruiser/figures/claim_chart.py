"""Claims drawn: the region each speaks of, the interval the pulls give, and the verdict."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Shape, Spot, Text

_FIGURES, _ROW, _HEAD = 84.0, 14.0, 7.0
_RANGE = {"share": (0.0, 1.1), "points": (-0.3, 0.3), "rate": (0.0, 1.0), "load": (0.0, 4.0)}
_ENDS = {
    "share": ("0 %", "of the rope", "110 %"),
    "points": ("−30", "points", "+30"),
    "rate": ("never", "how often", "always"),
    "load": ("0", "times the load", "4"),
}


@dataclass(frozen=True, kw_only=True)
class ClaimRow:
    """One claim in one lot.

    Parameters
    ----------
    verdict, words : str
        What the pulls say, and from how many.
    region : tuple of float or None
        What the claim says, on its own scale; an open side is infinite.
    said, more : str
        The interval in words, and how many more pulls would be expected to decide.
    """

    key: str
    text: str
    verdict: str
    words: str
    value: float | None
    low: float | None
    high: float | None
    region: tuple[float, float] | None
    scale: str
    said: str
    more: str
    behind: str = ""


HEADER = (
    *("claim", "verdict", "from", "value", "low", "high"),
    *("claimed from", "claimed to", "interval", "more pulls to decide"),
)


def verdict_shapes(verdict: str, x: float, y: float) -> list[Shape]:
    """A disc supports, a cross contradicts, a ring is open, a dash says nothing."""
    if verdict == "supported":
        return [Disc(x, y, 1.6, fill="moss")]
    if verdict == "contradicted":
        return [
            Line(((x - 1.4, y - 1.4), (x + 1.4, y + 1.4)), "brick", width=0.8),
            Line(((x - 1.4, y + 1.4), (x + 1.4, y - 1.4)), "brick", width=0.8),
        ]
    if verdict == "not decided":
        return [Disc(x, y, 1.5, fill=None, stroke="ochre", width=0.6)]
    return [Line(((x - 1.4, y), (x + 1.4, y)), "muted", width=0.6)]


def claim_figure(rows: tuple[ClaimRow, ...], chosen: str, width: float, height: float) -> Figure:
    """Draw the claims; rows share the height between a least and a comfortable size."""
    pen = Pen()
    row_mm = min(_ROW, max(9.5, (height - _HEAD) / max(1, len(rows))))
    left, right = 0.42 * width, width - _FIGURES
    pen.add(
        Text(
            left,
            4.5,
            "shaded: what is claimed   bar: what the pulls say",
            style="small",
            colour="muted",
        )
    )
    pen.add(Text(width - 46, 4.5, "95 % interval", style="small", colour="muted", anchor="end"))
    pen.add(
        Text(width - 1, 4.5, "more pulls to decide", style="small", colour="muted", anchor="end")
    )
    table = []
    for n, row in enumerate(rows):
        top = _HEAD + n * row_mm
        middle = top + row_mm / 2
        if row.key == chosen:
            pen.add(Box(0, top, width, row_mm, fill="plum-wash"))
        pen.add(Line(((0, top), (width, top)), "line", width=0.2))
        pen.add(*verdict_shapes(row.verdict, 2.4, middle - 0.6))
        pen.add(Text(6, middle - 0.6, row.text, style="strong", max_width=left - 9))
        pen.add(
            Text(
                6,
                middle + 3.6,
                f"{row.verdict}, {row.words}",
                style="small",
                colour="muted",
                max_width=left - 9,
            )
        )
        pen.spot(Spot(key=f"row:{row.key}", x=0, y=top, width=left, height=row_mm, label=row.text))
        if row.scale in _RANGE:
            _draw_scale(pen, row, left, right, top, row_mm)
        pen.add(
            Text(
                width - 46,
                middle + 1.2,
                row.said,
                style="body",
                anchor="end",
                max_width=44,
            )
        )
        pen.add(
            Text(
                width - 1,
                middle + 1.2,
                row.more,
                style="body",
                anchor="end",
                max_width=40,
            )
        )
        if row.behind:
            pen.spot(
                Spot(
                    key=row.behind,
                    x=left,
                    y=top,
                    width=width - left,
                    height=row_mm,
                    label=f"{row.text}: what the pulls say of it, with the range they leave open; "
                    "press it for the pulls behind it.",
                )
            )
        numbers = ("" if v is None else f"{v:.4f}" for v in (row.value, row.low, row.high))
        region = ("", "") if row.region is None else tuple(_end(v) for v in row.region)
        table.append((row.text, row.verdict, row.words, *numbers, *region, row.said, row.more))
    return Figure(
        width=width,
        height=_HEAD + len(rows) * row_mm + 2,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Claims and what the pulls say",
        header=HEADER,
        rows=tuple(table),
        keys=tuple(row.behind for row in rows),
    )


def _end(value: float) -> str:
    return f"{value:.4f}" if math.isfinite(value) else ""


def _draw_scale(
    pen: Pen, row: ClaimRow, left: float, right: float, top: float, row_mm: float
) -> None:
    low, high = _RANGE[row.scale]
    y = top + row_mm * 0.42

    def x_of(value: float) -> float:
        return left + (min(max(value, low), high) - low) / (high - low) * (right - left)

    if row.region is not None:
        x0, x1 = x_of(row.region[0]), x_of(row.region[1])
        pen.add(
            Box(
                x0,
                top + 0.8,
                max(x1 - x0, 0.8),
                row_mm * 0.62,
                radius=0.6,
                fill="sunk",
                stroke="line",
                line=0.4,
            )
        )
    pen.add(Line(((left, y), (right, y)), "line", width=0.3))
    if row.value is not None and row.low is not None and row.high is not None:
        x0, x1, xv = x_of(row.low), x_of(row.high), x_of(row.value)
        pen.add(Box(x0, y - 1.3, max(x1 - x0, 0.6), 2.6, radius=1.2, fill="plum-soft"))
        pen.add(Line(((xv, y - 2.2), (xv, y + 2.2)), "plum", width=0.8))
    base = top + row_mm - 1.0
    first, middle, last = _ENDS[row.scale]
    pen.add(Text(left, base, first, style="small", colour="muted"))
    pen.add(Text((left + right) / 2, base, middle, style="small", colour="muted", anchor="middle"))
    pen.add(Text(right, base, last, style="small", colour="muted", anchor="end"))
