"""Cordage on the shelf: every lot as a coil, and every hank as a rope with what was cut from it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.figures.display import Box, Figure, Line, Pen, Spot, Text

_LOOP_M = 12.0


@dataclass(frozen=True, kw_only=True)
class ShelfLot:
    """One lot: two lines of words, and the length on hand that its coil shows."""

    key: str
    name: str
    words: str
    state: str
    on_hand_m: float
    thickness: float
    tone: str = "muted"


@dataclass(frozen=True, kw_only=True)
class ShelfHank:
    """One hank: what it began with, what was cut from it in order, and what is left, in metre."""

    key: str
    label: str
    kind: str
    received_m: float
    cuts_m: tuple[float, ...]
    left_m: float
    left_words: str


def _coil(pen: Pen, x: float, y: float, loops: int, thickness: float) -> None:
    """A coil of rope seen from the front; more loops for more rope, thicker for a thicker one."""
    if loops == 0:
        pen.add(Line(_oval(x, y, 4.6, 3.4), "line", width=0.4, fill=None, closed=True, dash=True))
        return
    for k in range(loops):
        shift = (k - (loops - 1) / 2) * 0.85
        ring = _oval(x + shift * 0.55, y + shift * 0.42, 4.6, 3.4)
        pen.add(
            Line(ring, "hemp-edge", width=thickness, fill=None, closed=True),
            Line(ring, "hemp", width=thickness * 0.7, fill=None, closed=True),
        )
    pen.add(Box(x - 1.3, y + 2.0, 2.6, 3.0, radius=0.6, fill="hemp-edge"))


def _oval(x: float, y: float, a: float, b: float) -> tuple[tuple[float, float], ...]:
    angles = [2 * math.pi * k / 36 for k in range(36)]
    return tuple((x + a * math.cos(t), y + b * math.sin(t)) for t in angles)


def lots_figure(lots: list[ShelfLot], width: float, height: float, selected: str = "") -> Figure:
    """The lots one below the other, each with its coil.

    Returns
    -------
    Figure
        One spot a lot. Rows shrink when there are many.
    """
    pen = Pen()
    pitch = min(19.0, height / max(len(lots), 1))
    for number, lot in enumerate(lots):
        y = number * pitch
        if lot.key == selected:
            pen.add(Box(0.3, y + 0.4, width - 0.6, pitch - 0.8, radius=1.4, fill="plum-wash"))
            pen.add(Box(0.3, y + 0.4, 0.9, pitch - 0.8, radius=0.4, fill="plum"))
        loops = 0 if lot.on_hand_m <= 0 else min(7, 1 + round(lot.on_hand_m / _LOOP_M))
        _coil(pen, width - 8.5, y + pitch / 2 - 0.6, loops, lot.thickness)
        room = width - 21.0
        pen.add(Text(3.4, y + pitch * 0.32, lot.name, style="strong", max_width=room))
        pen.add(
            Text(3.4, y + pitch * 0.57, lot.words, style="small", colour="muted", max_width=room)
        )
        pen.add(
            Text(3.4, y + pitch * 0.80, lot.state, style="small", colour=lot.tone, max_width=room)
        )
        label = f"{lot.name}: {lot.words}; {lot.state}"
        pen.spot(Spot(key=lot.key, x=0.0, y=y, width=width, height=pitch, label=label))
    rows = tuple((x.name, x.words, x.state, f"{x.on_hand_m:.2f}") for x in lots)
    header = ("lot", "cordage", "state", "on hand, m")
    return Figure(
        width=width,
        height=pitch * len(lots),
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Lots of cordage",
        header=header,
        rows=rows,
    )


def hanks_figure(hanks: list[ShelfHank], width: float, height: float) -> Figure:
    """Each hank as a rope to one scale: solid what is left, outlined what was cut, tick by tick.

    Returns
    -------
    Figure
        One spot a hank.
    """
    pen = Pen()
    names, figures = 24.0, 36.0
    longest = max((h.received_m for h in hanks), default=1.0)
    pitch = min(13.0, height / max(len(hanks), 1))

    def x_of(metre: float) -> float:
        return names + metre / longest * (width - names - figures)

    for number, hank in enumerate(hanks):
        y = number * pitch + pitch / 2
        pen.add(Text(0.5, y + 0.4, hank.label, style="strong-small", max_width=names - 2))
        pen.add(Text(0.5, y + 4.2, hank.kind, style="small", colour="muted", max_width=names - 2))
        end, left = x_of(hank.received_m), x_of(hank.left_m)
        pen.add(
            Box(names, y - 1.3, end - names, 2.6, radius=1.3, fill="sunk", stroke="line", line=0.3)
        )
        if hank.left_m > 0:
            rope = ((names + 0.9, y), (max(left - 0.9, names + 1.0), y))
            pen.add(
                Line(rope, "hemp-edge", width=2.4),
                Line(rope, "hemp", width=1.9),
                Line(rope, "hemp-light", width=0.4),
            )
        at = hank.received_m
        for cut in hank.cuts_m:
            at -= cut
            x = x_of(max(at, 0.0))
            pen.add(Line(((x, y - 1.3), (x, y + 1.3)), "muted", width=0.2))
        pen.add(Text(width - 1.0, y + 0.9, hank.left_words, anchor="end"))
        label = f"{hank.kind} {hank.label}: {hank.left_words}"
        pen.spot(Spot(key=hank.key, x=0.0, y=y - pitch / 2, width=width, height=pitch, label=label))
    rows = tuple((h.label, h.kind, f"{h.received_m:.2f}", f"{h.left_m:.2f}") for h in hanks)
    header = ("hank", "kind", "received, m", "left, m")
    return Figure(
        width=width,
        height=max(pitch * len(hanks), 1.0),
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title="Hanks of this lot",
        header=header,
        rows=rows,
    )
