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


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
class Layout:
    """The places of a specimen, end to end, its tails and its other lengths.

    `shares` is how many legs share the load: what each of them, and a knot in it, bears of it.
    """

    key: str
    title: str
    places: tuple[Place, ...]
    tails: tuple[TailSpot, ...]
    lengths: tuple[LengthSpot, ...] = ()
    shares: int = 1

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
        Place(key=f"pin_{low}", label=f"pin {end}", kind=PlaceKind.PIN, owner=None, weight=0.9),
        Place(key=f"eye_{low}", label=f"eye {end}", kind=PlaceKind.EYE, owner=None, weight=1.0),
        Place(key=f"knot_{low}", label=f"knot {end}", kind=PlaceKind.KNOT, owner=end, weight=1.0),
        Place(key=f"nip_{low}", label=f"nip {end}", kind=PlaceKind.NIP, owner=end, weight=0.8),
    )


def _termination(end: End) -> Place:
    return Place(
        key=f"termination_{end.value.lower()}",
        label=f"drum {end}",
        kind=PlaceKind.TERMINATION,
        owner=None,
        weight=1.1,
    )


_SPAN = Place(key="span", label="span", kind=PlaceKind.SPAN, owner=None, weight=2.2)

_DRUM_B = _termination(End.B)
_NIP_A = Place(key="nip_a", label="nip", kind=PlaceKind.NIP, owner=End.A, weight=0.8)
_TAIL_A = (TailSpot("tail_a", "tail", End.A),)
_EYE_A = (LengthSpot(key="eye_a", label="eye", end=End.A),)


def _knot(label: str) -> Place:
    return Place(key="knot_a", label=label, kind=PlaceKind.KNOT, owner=End.A, weight=1.2)


def _between(before: Place, label: str, *after: Place) -> tuple[Place, ...]:
    """Two lines with a knot between them."""
    return (
        before,
        Place(key="span_a", label="line 1", kind=PlaceKind.SPAN, owner=None, weight=1.5),
        Place(key="nip_a", label="nip 1", kind=PlaceKind.NIP, owner=End.A, weight=0.8),
        _knot(label),
        *after,
        Place(key="nip_a2", label="nip 2", kind=PlaceKind.NIP, owner=End.A, weight=0.8),
        Place(key="span_b", label="line 2", kind=PlaceKind.SPAN, owner=None, weight=1.5),
        _DRUM_B,
    )


def _on(host: Place, label: str) -> tuple[Place, ...]:
    """A knot on what it holds, with the standing part to the drum."""
    return (host, _knot(label), _NIP_A, _SPAN, _DRUM_B)


_SLIDE = (LengthSpot(key="slide_a", label="slid along the host", end=End.A, moves=True),)
BASELINE = Layout(
    key="baseline", title="plain rope", places=(_termination(End.A), _SPAN, _DRUM_B), tails=()
)
LAYOUT_LIST: tuple[Layout, ...] = (
    BASELINE,
    Layout(
        key="loop_pair",
        title="loop at both ends",
        places=(*_loop(End.A), _SPAN, *reversed(_loop(End.B))),
        tails=(TailSpot("tail_a", "tail A", End.A), TailSpot("tail_b", "tail B", End.B)),
        lengths=(
            LengthSpot(key="eye_a", label="eye A", end=End.A),
            LengthSpot(key="eye_b", label="eye B", end=End.B),
        ),
    ),
    Layout(
        key="loop_single",
        title="loop at one end",
        places=(*_loop(End.A), _SPAN, _DRUM_B),
        tails=(TailSpot("tail_a", "tail A", End.A),),
        lengths=_EYE_A,
    ),
    Layout(
        key="bend",
        title="bend between two lines",
        places=_between(_termination(End.A), "bend"),
        tails=(
            TailSpot("tail_a", "tail of line 1", End.A),
            TailSpot("tail_a2", "tail of line 2", End.A),
        ),
    ),
    Layout(
        key="sling",
        title="closed sling round two pins",
        places=(
            Place(key="pin_a", label="pin A", kind=PlaceKind.PIN, owner=None, weight=0.9),
            Place(key="span_a", label="leg 1", kind=PlaceKind.SPAN, owner=None, weight=1.2),
            Place(key="nip_a", label="nip 1", kind=PlaceKind.NIP, owner=End.A, weight=0.8),
            _knot("joint"),
            Place(key="nip_a2", label="nip 2", kind=PlaceKind.NIP, owner=End.A, weight=0.8),
            Place(key="span_b", label="leg 1", kind=PlaceKind.SPAN, owner=None, weight=1.2),
            Place(key="pin_b", label="pin B", kind=PlaceKind.PIN, owner=None, weight=0.9),
            Place(key="leg_2", label="leg 2", kind=PlaceKind.SPAN, owner=None, weight=1.2),
        ),
        tails=(
            TailSpot("tail_a", "tail 1", End.A),
            TailSpot("tail_a2", "tail 2", End.A),
        ),
        lengths=(LengthSpot(key="joint_a", label="pin to joint", end=End.A),),
        shares=2,
    ),
    Layout(
        key="midline",
        title="loop in the middle of a line, three legs",
        places=_between(
            _termination(End.A),
            "loop",
            Place(key="eye_a", label="eye", kind=PlaceKind.LEG, owner=None, weight=0.9),
        ),
        tails=(),
        lengths=(
            LengthSpot(key="eye_a", label="eye", end=End.A),
            LengthSpot(key="leg_1", label="leg 1", end=End.A),
            LengthSpot(key="leg_2", label="leg 2", end=End.A),
        ),
    ),
    Layout(
        key="double_loop",
        title="two eyes from one knot",
        places=(
            Place(key="pin_a", label="pin", kind=PlaceKind.PIN, owner=None, weight=0.9),
            Place(key="eye_a", label="eye 1", kind=PlaceKind.EYE, owner=None, weight=1.0),
            Place(key="eye_a2", label="eye 2", kind=PlaceKind.LEG, owner=None, weight=0.9),
            _knot("knot"),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        tails=_TAIL_A,
        lengths=(
            LengthSpot(key="eye_a", label="eye 1", end=End.A),
            LengthSpot(key="eye_a2", label="eye 2", end=End.A),
        ),
    ),
    Layout(
        key="adjustable",
        title="loop that can be set longer or shorter",
        places=(
            Place(key="pin_a", label="pin", kind=PlaceKind.PIN, owner=None, weight=0.9),
            Place(key="eye_a", label="loop", kind=PlaceKind.EYE, owner=None, weight=1.0),
            _knot("grip"),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        tails=_TAIL_A,
        lengths=(
            LengthSpot(key="eye_a", label="loop", end=End.A),
            LengthSpot(key="slide_a", label="grip slid", end=End.A, moves=True),
        ),
    ),
    Layout(
        key="hitch",
        title="hitch on a host",
        places=_on(
            Place(key="host_a", label="host", kind=PlaceKind.HOST, owner=None, weight=0.8), "hitch"
        ),
        tails=_TAIL_A,
        lengths=_SLIDE,
    ),
    Layout(
        key="friction",
        title="friction hitch on a rope",
        places=_on(
            Place(key="rope_a", label="host rope", kind=PlaceKind.ROPE, owner=None, weight=1.1),
            "hitch",
        ),
        tails=_TAIL_A,
        lengths=_SLIDE,
    ),
    Layout(
        key="tensioning",
        title="tensioning system to an anchor",
        places=_on(
            Place(key="anchor_a", label="anchor", kind=PlaceKind.ANCHOR, owner=None, weight=0.8),
            "purchase",
        ),
        tails=_TAIL_A,
        lengths=(
            LengthSpot(key="slip_a", label="slipped back at the lock-off", end=End.A, moves=True),
        ),
    ),
    Layout(
        key="binding",
        title="binding round a bundle",
        places=_on(
            Place(key="bundle_a", label="bundle", kind=PlaceKind.BUNDLE, owner=None, weight=0.9),
            "binding",
        ),
        tails=_TAIL_A,
        lengths=_SLIDE,
    ),
    Layout(
        key="stopper",
        title="stopper against a plate",
        places=(
            _knot("stopper"),
            Place(key="plate_a", label="plate", kind=PlaceKind.PLATE, owner=None, weight=0.7),
            _NIP_A,
            _SPAN,
            _DRUM_B,
        ),
        tails=_TAIL_A,
    ),
    Layout(
        key="quick_release",
        title="quick release on a host",
        places=_on(
            Place(key="host_a", label="host", kind=PlaceKind.HOST, owner=None, weight=0.8),
            "slipped hitch",
        ),
        tails=_TAIL_A,
    ),
)
LAYOUTS: dict[str, Layout] = {layout.key: layout for layout in LAYOUT_LIST}
_EDGE = Place(key="edge", label="edge", kind=PlaceKind.EDGE, owner=None, weight=0.8)


@cache
def lay(key: str, *, over_edge: bool = False) -> Layout:
    """How a specimen lies on the bench; over an edge, the edge is a place in its first span."""
    layout = LAYOUTS[key]
    if not over_edge:
        return layout
    at = next(n for n, p in enumerate(layout.places) if p.kind is PlaceKind.SPAN)
    places = (*layout.places[: at + 1], _EDGE, *layout.places[at + 1 :])
    return replace(layout, places=places)
