"""The specimen strip: a specimen drawn end to end, with the place where it gave."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from bruiser.core.records.layouts import HELD_BY, End, Layout, Place, PlaceKind, TailSpot
from bruiser.core.records.records import Gave
from bruiser.core.words import count
from bruiser.figures.display import Box, Disc, Figure, Line, Pen, Spot, Text
from bruiser.figures.silhouette import BREAK_ROPES, Room, TiedKnot, draw_silhouette
from bruiser.figures.strip_solids import SOLIDS, StripCell, arc_points, rope_line

_GAP = 0.8


@dataclass(frozen=True, kw_only=True)
class StripState:
    """What the strip shows beyond the layout.

    Parameters
    ----------
    place : str or None
        The place where it gave, or that is being pointed out.
    gave : Gave or None
        How.
    tail_notes : dict
        A short text under each tail, by tail key.
    compact : bool
        The small strip that identifies a specimen: no cells, no words.
    keys : bool
        Whether every place shows the digit that taps it.
    stretched : float
        How far the specimen is drawn out while it is pulled, 0 to 1.
    photos : int
        Photos kept of it, shown as a count in its corner.
    drawn : dict
        Share of each tail that has drawn in, by tail key; each gets a track to drag along.
    knots : dict
        What is tied at each end, where it has a drawing: its silhouette stands in its place.
    """

    place: str | None = None
    gave: Gave | None = None
    tail_notes: dict[str, str] = field(default_factory=dict)
    compact: bool = False
    keys: bool = False
    stretched: float = 0.0
    photos: int = 0
    drawn: dict[str, float] = field(default_factory=dict)
    knots: Mapping[End, TiedKnot] = field(default_factory=dict)


def _weight(place: Place, stretched: float) -> float:
    """A span grows as the specimen is drawn out; what holds it does not."""
    return place.weight * (1 + stretched) if place.kind is PlaceKind.SPAN else place.weight


def _cells(layout: Layout, width: float, gap: float, stretched: float) -> list[StripCell]:
    total = sum(_weight(p, stretched) for p in layout.places)
    room = width - gap * (len(layout.places) - 1)
    found, x = [], 0.0
    for number, place in enumerate(layout.places):
        w = room * _weight(place, stretched) / total
        found.append(
            StripCell(place=place, x=x, width=w, mirrored=number >= len(layout.places) / 2)
        )
        x += w + gap
    return found


def strip_figure(layout: Layout, width: float, height: float, state: StripState) -> Figure:
    """Draw a specimen strip.

    Parameters
    ----------
    layout : Layout
        Its places.
    width, height : float
        Size in millimetre.
    state : StripState
        What is marked on it.

    Returns
    -------
    Figure
        One spot a place, keyed by the place.
    """
    pen = Pen()
    gap = 0.2 if state.compact else _GAP
    cells = _cells(layout, width, gap, state.stretched)
    words = 0.0 if state.compact else 6.2
    notes = 5.2 if state.tail_notes and not state.compact else 0.0
    body = height - notes
    y = (body - words) / 2
    rope = min(2.4, body * 0.16) if not state.compact else max(0.7, height * 0.14)
    for cell in cells:
        marked = cell.place.key == state.place
        if not state.compact:
            fill = "plum-wash" if marked else "sunk"
            edge = "plum" if marked else None
            pen.add(Box(cell.x, 0, cell.width, body, radius=1.4, fill=fill, stroke=edge, line=0.5))
            colour = "plum" if marked else "muted"
            style = "strong-small" if marked else "small"
            pen.add(
                Text(
                    cell.middle,
                    body - 2.0,
                    cell.place.label,
                    style=style,
                    colour=colour,
                    anchor="middle",
                    max_width=cell.width,
                )
            )
            if state.keys:
                digit = str(cells.index(cell) + 1)
                pen.add(Text(cell.x + 1.2, 3.6, digit, style="small", colour="muted"))
        pen.spot(
            Spot(
                key=cell.place.key,
                x=cell.x,
                y=0,
                width=cell.width,
                height=body,
                label=cell.place.label,
            )
        )
    _draw_rope(pen, cells, y, rope, state)
    for cell in cells:
        tied = _tied(cell, state)
        if tied is None:
            _draw_place(pen, cell, y, rope, body)
        else:
            gave = state.gave if cell.place.key == state.place else None
            eye = any(c.place.kind is PlaceKind.EYE for c in _next_to(cells, cell))
            draw_silhouette(pen, cell, Room(y, rope, 0.92 * y, eye), tied, gave)
    if state.photos and not state.compact:
        photos = count(state.photos, "photo")
        pen.add(Text(width - 1.0, 3.6, photos, style="small", colour="storm", anchor="end"))
    if state.place is not None and state.gave is not None:
        marked_cell = next((c for c in cells if c.place.key == state.place), None)
        if marked_cell is not None and _tied(marked_cell, state) is None:
            _draw_gave(pen, marked_cell, y, rope, state)
    for spot in layout.tails if notes else ():
        _draw_tail(pen, layout, cells, spot, height, state)
    rows = tuple((p.label, "gave here" if p.key == state.place else "") for p in layout.places)
    return Figure(
        width=width,
        height=height,
        shapes=tuple(pen.shapes),
        spots=tuple(pen.spots),
        title=f"Specimen strip: {layout.title}",
        header=("place", "finding"),
        rows=rows,
    )


def _draw_tail(
    pen: Pen,
    layout: Layout,
    cells: list[StripCell],
    tail: TailSpot,
    height: float,
    state: StripState,
) -> None:
    """What is known of a tail, under its knot; with a track along which its draw is dragged."""
    owners = [c for c in cells if c.place.owner is tail.end]
    if tail.key not in state.tail_notes or not owners:
        return
    same = [t for t in layout.tails if t.end is tail.end]
    whole = owners[-1].x + owners[-1].width - owners[0].x
    room = whole / len(same)
    x = owners[0].x + same.index(tail) * room
    note = state.tail_notes[tail.key]
    if tail.key not in state.drawn:
        pen.add(Text(x + room / 2, height - 1.0, note, anchor="middle"))
        return
    track, y = 0.26 * room, height - 2.0
    free = 0.7 * room if tail is same[-1] else 0.0
    left, rest = x + track + 3.5, room + free - track - 4
    pen.add(Text(left, height - 1.0, note, max_width=rest))
    share = min(1.0, max(0.0, state.drawn[tail.key]))
    pen.add(Line(((x + 1, y), (x + 1 + track, y)), "line", width=1.0))
    if share > 0:
        pen.add(Line(((x + 1, y), (x + 1 + share * track, y)), "ochre", width=1.0))
    pen.add(Disc(x + 1 + share * track, y, 1.5, fill="plum", stroke="surface", width=0.4))
    label = f"{tail.label}: drag to how far it drew"
    pen.spot(
        Spot(
            key=f"drawn:{tail.key}",
            x=x + 1,
            y=y - 3.0,
            width=track,
            height=5.0,
            label=label,
            drags=True,
        )
    )


def _draw_rope(pen: Pen, cells: list[StripCell], y: float, rope: float, state: StripState) -> None:
    """The rope from the first to the last place that carries it as a single line."""
    apart = (PlaceKind.PIN, PlaceKind.EYE)
    single = [c for c in cells if c.place.kind not in apart]
    left, right = single[0].x, single[-1].x + single[-1].width
    if single[0].place.kind is PlaceKind.TERMINATION or single[0].place.kind in HELD_BY:
        left = single[0].middle
    elif single[0].place.kind is PlaceKind.KNOT:
        left = single[0].middle - rope
    if single[-1].place.kind is PlaceKind.TERMINATION:
        right = single[-1].middle
    broken = state.gave is Gave.BROKE and state.place is not None
    cell = next((c for c in single if c.place.key == state.place), None) if broken else None
    gaps = []
    for c in single:
        if _tied(c, state) is not None:
            sprung = BREAK_ROPES * rope if c is cell else 0.0
            before = _next_to(cells, c)[:1] if c.x > 0 else []
            on_host = any(n.place.kind in HELD_BY for n in before)
            low = left if on_host else c.x - (sprung if c.mirrored else 0.0)
            gaps.append((low, c.x + c.width + (0.0 if c.mirrored else sprung)))
    if cell is not None and _tied(cell, state) is None:
        half = min(0.18 * cell.width, 2.6)
        gaps.append((cell.middle - half, cell.middle + half))
    for low, high in sorted(gaps):
        if low > left:
            rope_line(pen, [(left, y), (low, y)], rope)
        left = max(left, high)
    if right > left:
        rope_line(pen, [(left, y), (right, y)], rope)


def _next_to(cells: list[StripCell], cell: StripCell) -> list[StripCell]:
    """The cells before and after one."""
    n = cells.index(cell)
    return cells[max(n - 1, 0) : n] + cells[n + 1 : n + 2]


def _tied(cell: StripCell, state: StripState) -> TiedKnot | None:
    """The knot whose silhouette stands in a cell."""
    owner = cell.place.owner
    if cell.place.kind is not PlaceKind.KNOT or owner is None:
        return None
    return state.knots.get(owner)


def _draw_place(pen: Pen, cell: StripCell, y: float, rope: float, body: float) -> None:
    kind, x, w = cell.place.kind, cell.middle, cell.width
    turn = -1.0 if cell.mirrored else 1.0
    spread = min(body * 0.20, 4.2)
    if kind is PlaceKind.PIN:
        r = spread
        start = math.pi / 2 if turn > 0 else -math.pi / 2
        arc = arc_points(x, y, r, start, start + math.pi)
        edge = cell.x + w if turn > 0 else cell.x
        arc = [(edge, arc[0][1]), *arc, (edge, arc[-1][1])]
        rope_line(pen, arc, rope)
        pen.add(Disc(x, y, r - rope * 0.55, fill="steel", stroke="ink", width=0.3))
        pen.add(Disc(x, y, (r - rope * 0.55) * 0.3, fill="ink"))
    elif kind is PlaceKind.EYE:
        near = cell.x + w if turn > 0 else cell.x
        far = cell.x if turn > 0 else cell.x + w
        for side in (-1, 1):
            reach = [(far, y + side * spread), (near, y + side * rope * 0.45)]
            rope_line(pen, reach, rope)
    elif kind is PlaceKind.KNOT:
        tall = spread * 1.05
        count = max(3, min(5, int(w / (rope * 1.35))))
        for k in range(count):
            xk = x + (k - (count - 1) / 2) * rope * 1.05
            lean = turn * rope * 0.45
            rope_line(pen, [(xk - lean, y + tall), (xk + lean, y - tall)], rope)
    elif kind is PlaceKind.TERMINATION:
        r = spread * 1.15
        pen.add(Disc(x, y, r, fill="steel", stroke="ink", width=0.35))
        for k in (-1, 0, 1):
            xk = x + k * rope * 0.9
            rope_line(pen, [(xk - rope * 0.2, y + r), (xk + rope * 0.2, y - r)], rope * 0.85)
    elif kind in SOLIDS:
        SOLIDS[kind](pen, cell, y, rope, body)


def _draw_gave(pen: Pen, cell: StripCell, y: float, rope: float, state: StripState) -> None:
    if state.gave is Gave.BROKE:
        half = min(0.18 * cell.width, 2.6)
        for side in (-1, 1):
            x = cell.middle + side * half
            for k in (-2, -1, 0, 1, 2):
                tip = (x - side * half * 0.75, y + k * rope * 0.42)
                root = (x, y + k * rope * 0.18)
                pen.add(
                    Line((root, tip), "hemp-edge", width=0.55), Line((root, tip), "hemp", width=0.3)
                )
    elif state.gave in (Gave.CAME_OUT, Gave.CAPSIZED):
        r = rope * 1.9
        token = "ochre"
        if state.gave is Gave.CAME_OUT:
            for colour, line in (("surface", 1.7), (token, 0.8)):
                pen.add(
                    Box(
                        cell.middle - r,
                        y - r,
                        2 * r,
                        2 * r,
                        radius=0.3,
                        fill=None,
                        stroke=colour,
                        line=line,
                    )
                )
        else:
            turn = arc_points(cell.middle, y, r, -2.4, 2.4)
            for colour, line in (("surface", 1.7), (token, 0.8)):
                pen.add(Line(tuple(turn), colour, width=line))
                pen.add(
                    Line((turn[-1], (turn[-1][0] + 1.4, turn[-1][1] + 0.2)), colour, width=line)
                )
