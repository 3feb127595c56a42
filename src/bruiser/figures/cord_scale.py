"""Cord for a host rope: three schools' diameters on one scale, and where this pair falls."""

from __future__ import annotations

from collections.abc import Callable

from bruiser.core.planning.cord_on_host import CordRange, Falls
from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Text
from bruiser.figures.scales import ticks

_FALLS = {
    Falls.THINNER: ("thinner than this", "ochre"),
    Falls.INSIDE: ("inside", "moss"),
    Falls.THICKER: ("thicker than this", "ochre"),
}


def cord_scale_figure(
    ranges: tuple[CordRange, ...],
    host_m: float,
    cord_m: float,
    size: tuple[float, float],
    say: Callable[[float], str],
) -> Figure:
    """Draw the schools' ranges as bands, the cord as a line through them, both ropes to scale.

    Parameters
    ----------
    ranges : tuple of CordRange
        From :func:`bruiser.core.planning.cord_on_host.cord_ranges`.
    size : tuple of float
        Width and height in millimetre.
    say : callable
        Writes a diameter in metre with its unit.
    """
    width, height = size
    pen = Pen()
    names, falls = 54.0, 38.0
    left, right = names, width - falls
    top, bottom = 26.0, height - 8.0
    most = 1.08 * max(host_m, cord_m)

    def x_of(diameter_m: float) -> float:
        return left + diameter_m / most * (right - left)

    _draw_sections(pen, host_m, cord_m, say)
    for tick in ticks(0.0, most, 8):
        x = x_of(tick)
        pen.add(Line(((x, top), (x, bottom)), "line", width=0.25))
        pen.add(Text(x, bottom + 4.2, say(tick), style="small", colour="muted", anchor="middle"))
    pitch = (bottom - top) / max(len(ranges), 1)
    for number, row in enumerate(ranges):
        y = top + (number + 0.5) * pitch
        x0, x1 = x_of(row.low_m), x_of(row.high_m)
        words, tone = _FALLS[row.falls]
        pen.add(
            Text(
                0.5,
                y + 1.2,
                row.school.value,
                style="strong-small",
                max_width=names - 3,
            )
        )
        pen.add(Box(x0, y - 2.6, max(x1 - x0, 0.8), 5.2, radius=1.6, fill="plum-soft"))
        pen.add(Text(width - 1.0, y + 1.2, words, style="small", colour=tone, anchor="end"))
    for at, name, tone in ((host_m, "host", "muted"), (cord_m, "cord", "plum")):
        x = x_of(at)
        pen.add(Line(((x, top - 1.5), (x, bottom)), tone, width=0.5))
        pen.add(
            Text(
                x,
                top - 2.6,
                f"{name} {say(at)}",
                style="strong-small",
                colour=tone,
                anchor="middle",
            )
        )
    table = tuple((r.school.value, say(r.low_m), say(r.high_m), _FALLS[r.falls][0]) for r in ranges)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=(),
        title="Cord diameter for this host by three schools",
        header=("school", "from", "to", "this cord"),
        rows=table,
    )


def _draw_sections(pen: Pen, host_m: float, cord_m: float, say: Callable[[float], str]) -> None:
    """Both ropes cut through, at one scale, the cord lying on the host."""
    scale = 15.0 / max(host_m, cord_m)
    host, cord = host_m * scale / 2, cord_m * scale / 2
    middle = 9.0
    for x, r in ((host + 1.0, host), (2 * host + cord + 1.2, cord)):
        pen.add(Disc(x, middle, r, fill="hemp", stroke="hemp-edge", width=0.5))
        pen.add(Disc(x, middle, r * 0.62, fill="hemp-light", stroke="hemp-edge", width=0.2))
    at = 2 * host + 2 * cord + 4.0
    ratio = f"cord is {100 * cord_m / host_m:.0f} % of the host"
    pen.add(
        Text(
            at,
            middle - 0.6,
            f"host {say(host_m)}, cord {say(cord_m)}",
            style="strong",
        )
    )
    pen.add(Text(at, middle + 4.2, ratio, style="small", colour="muted"))
