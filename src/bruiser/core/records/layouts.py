"""How a specimen lies on the bench: its places from one end to the other.

A layout is the backbone of the specimen strip, of the findings and of the outcome rules. It names
every place that can give and says which knot, if any, owns it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache


class End(StrEnum):
    """A knot of the specimen: the one at end A, or the one at end B."""

    A = "A"
    B = "B"


class PlaceKind(StrEnum):
    """What stands at a place; also how the strip draws it."""

    PIN = "pin"
    EYE = "eye"
    KNOT = "knot"
    NIP = "nip"
    SPAN = "span"
    TERMINATION = "termination"
    HOST = "host"
    ROPE = "rope"
    PLATE = "plate"
    ANCHOR = "anchor"
    BUNDLE = "bundle"
    LEG = "leg"
    EDGE = "edge"


HELD_BY = frozenset(
    {PlaceKind.HOST, PlaceKind.ROPE, PlaceKind.ANCHOR, PlaceKind.BUNDLE, PlaceKind.PLATE}
)
"""What a knot may be tied to instead of a pin."""


@dataclass(frozen=True)
class Place:
    """One place of a specimen.

    Parameters
    ----------
    key : str
        Stored name, unique inside the layout, e.g. ``nip_b``.
    label : str
        Name on the strip.
    kind : PlaceKind
        What stands there.
    owner : End or None
        The knot that gave when this place gave.
    weight : float
        Share of the strip's width, relative to the other places.
    """

    key: str
    label: str
    kind: PlaceKind
    owner: End | None = None
    weight: float = 1.0


@dataclass(frozen=True)
class TailSpot:
    """A tail whose draw is measured: which knot it leaves, and by which name."""

    key: str
    label: str
    end: End


@dataclass(frozen=True)
class LengthSpot:
    """A length other than a tail that a pull may change: an eye, a leg, the way along a host.

    Parameters
    ----------
    moves : bool
        Whether only a way is measured, with nothing to measure before the pull.
    """

    key: str
    label: str
    end: End
    moves: bool = False


@dataclass(frozen=True)
class Layout:
    """The places of a specimen, end to end, its tails and its other lengths."""

    key: str
    title: str
    places: tuple[Place, ...]
    tails: tuple[TailSpot, ...]
    lengths: tuple[LengthSpot, ...] = ()

    def place(self, key: str) -> Place:
        """Return the place called `key`; ``ValueError`` if this layout has none."""
        for place in self.places:
            if place.key == key:
                return place
        raise ValueError(f"layout {self.key} has no place {key!r}")

    @property
    def ends(self) -> tuple[End, ...]:
        """The knots of this layout."""
        return tuple(sorted({p.owner for p in self.places if p.owner is not None}))


def _loop(end: End) -> tuple[Place, ...]:
    low = end.value.lower()
    return (
        Place(f"pin_{low}", f"pin {end}", PlaceKind.PIN, None, 0.9),
        Place(f"eye_{low}", f"eye {end}", PlaceKind.EYE, None, 1.0),
        Place(f"knot_{low}", f"knot {end}", PlaceKind.KNOT, end, 1.0),
        Place(f"nip_{low}", f"nip {end}", PlaceKind.NIP, end, 0.8),
    )


def _termination(end: End) -> Place:
    return Place(
        f"termination_{end.value.lower()}",
        f"drum {end}",
        PlaceKind.TERMINATION,
        None,
        1.1,
    )


_SPAN = Place("span", "span", PlaceKind.SPAN, None, 2.2)

_DRUM_B = _termination(End.B)
_NIP_A = Place("nip_a", "nip", PlaceKind.NIP, End.A, 0.8)
_TAIL_A = (TailSpot("tail_a", "tail", End.A),)
_EYE_A = (LengthSpot("eye_a", "eye", End.A),)


def _knot(label: str) -> Place:
    return Place("knot_a", label, PlaceKind.KNOT, End.A, 1.2)


def _between(before: Place, label: str, *after: Place) -> tuple[Place, ...]:
    """Two lines with a knot between them."""
    return (
        before,
        Place("span_a", "line 1", PlaceKind.SPAN, None, 1.5),
        Place("nip_a", "nip 1", PlaceKind.NIP, End.A, 0.8),
        _knot(label),
        *after,
        Place("nip_a2", "nip 2", PlaceKind.NIP, End.A, 0.8),
        Place("span_b", "line 2", PlaceKind.SPAN, None, 1.5),
        _DRUM_B,
    )


def _on(host: Place, label: str) -> tuple[Place, ...]:
    """A knot on what it holds, with the standing part to the drum."""
    return (host, _knot(label), _NIP_A, _SPAN, _DRUM_B)


_SLIDE = (LengthSpot("slide_a", "slid along the host", End.A, moves=True),)
BASELINE = Layout("baseline", "plain rope", (_termination(End.A), _SPAN, _DRUM_B), ())
LAYOUT_LIST: tuple[Layout, ...] = (
    BASELINE,
    Layout(
        "loop_pair",
        "loop at both ends",
        (*_loop(End.A), _SPAN, *reversed(_loop(End.B))),
        (TailSpot("tail_a", "tail A", End.A), TailSpot("tail_b", "tail B", End.B)),
        (LengthSpot("eye_a", "eye A", End.A), LengthSpot("eye_b", "eye B", End.B)),
    ),
    Layout(
        "loop_single",
        "loop at one end",
        (*_loop(End.A), _SPAN, _DRUM_B),
        (TailSpot("tail_a", "tail A", End.A),),
        _EYE_A,
    ),
    Layout(
        "bend",
        "bend between two lines",
        _between(_termination(End.A), "bend"),
        (TailSpot("tail_a", "tail of line 1", End.A), TailSpot("tail_a2", "tail of line 2", End.A)),
    ),
    Layout(
        "midline",
        "loop in the middle of a line, three legs",
        _between(_termination(End.A), "loop", Place("eye_a", "eye", PlaceKind.LEG, None, 0.9)),
        (),
        (
            LengthSpot("eye_a", "eye", End.A),
            LengthSpot("leg_1", "leg 1", End.A),
            LengthSpot("leg_2", "leg 2", End.A),
        ),
    ),
    Layout(
        "double_loop",
        "two eyes from one knot",
        (
            Place("pin_a", "pin", PlaceKind.PIN, None, 0.9),
            Place("eye_a", "eye 1", PlaceKind.EYE, None, 1.0),
            Place("eye_a2", "eye 2", PlaceKind.LEG, None, 0.9),
            _knot("knot"),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        _TAIL_A,
        (LengthSpot("eye_a", "eye 1", End.A), LengthSpot("eye_a2", "eye 2", End.A)),
    ),
    Layout(
        "adjustable",
        "loop that can be set longer or shorter",
        (
            Place("pin_a", "pin", PlaceKind.PIN, None, 0.9),
            Place("eye_a", "loop", PlaceKind.EYE, None, 1.0),
            _knot("grip"),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        _TAIL_A,
        (
            LengthSpot("eye_a", "loop", End.A),
            LengthSpot("slide_a", "grip slid", End.A, moves=True),
        ),
    ),
    Layout(
        "hitch",
        "hitch on a host",
        _on(Place("host_a", "host", PlaceKind.HOST, None, 0.8), "hitch"),
        _TAIL_A,
        _SLIDE,
    ),
    Layout(
        "friction",
        "friction hitch on a rope",
        _on(Place("rope_a", "host rope", PlaceKind.ROPE, None, 1.1), "hitch"),
        _TAIL_A,
        _SLIDE,
    ),
    Layout(
        "tensioning",
        "tensioning system to an anchor",
        _on(Place("anchor_a", "anchor", PlaceKind.ANCHOR, None, 0.8), "purchase"),
        _TAIL_A,
        (LengthSpot("slip_a", "slipped back at the lock-off", End.A, moves=True),),
    ),
    Layout(
        "binding",
        "binding round a bundle",
        _on(Place("bundle_a", "bundle", PlaceKind.BUNDLE, None, 0.9), "binding"),
        _TAIL_A,
        _SLIDE,
    ),
    Layout(
        "stopper",
        "stopper against a plate",
        (
            _knot("stopper"),
            Place("plate_a", "plate", PlaceKind.PLATE, None, 0.7),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        _TAIL_A,
    ),
    Layout(
        "quick_release",
        "quick release on a host",
        _on(Place("host_a", "host", PlaceKind.HOST, None, 0.8), "slipped hitch"),
        _TAIL_A,
    ),
)
LAYOUTS: dict[str, Layout] = {layout.key: layout for layout in LAYOUT_LIST}
_EDGE = Place("edge", "edge", PlaceKind.EDGE, None, 0.8)


@cache
def lay(key: str, *, over_edge: bool = False) -> Layout:
    """How a specimen lies on the bench; over an edge, the edge is a place in its first span."""
    layout = LAYOUTS[key]
    if not over_edge:
        return layout
    at = next(n for n, p in enumerate(layout.places) if p.kind is PlaceKind.SPAN)
    places = (*layout.places[: at + 1], _EDGE, *layout.places[at + 1 :])
    return replace(layout, places=places)
