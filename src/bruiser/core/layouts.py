"""How a specimen lies on the bench: its places from one end to the other.

A layout is the backbone of the specimen strip, of the findings and of the outcome rules. It names
every place that can give and says which knot, if any, owns it.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


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
class Layout:
    """The places of a specimen, end to end, and its tails."""

    key: str
    title: str
    places: tuple[Place, ...]
    tails: tuple[TailSpot, ...]

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

BASELINE = Layout("baseline", "plain rope", (_termination(End.A), _SPAN, _termination(End.B)), ())
LOOP_PAIR = Layout(
    "loop_pair",
    "loop at both ends",
    (*_loop(End.A), _SPAN, *reversed(_loop(End.B))),
    (TailSpot("tail_a", "tail A", End.A), TailSpot("tail_b", "tail B", End.B)),
)
LOOP_SINGLE = Layout(
    "loop_single",
    "loop at one end",
    (*_loop(End.A), _SPAN, _termination(End.B)),
    (TailSpot("tail_a", "tail A", End.A),),
)
BEND = Layout(
    "bend",
    "bend between two lines",
    (
        _termination(End.A),
        Place("span_a", "line 1", PlaceKind.SPAN, None, 1.5),
        Place("nip_a", "nip 1", PlaceKind.NIP, End.A, 0.8),
        Place("knot_a", "bend", PlaceKind.KNOT, End.A, 1.2),
        Place("nip_a2", "nip 2", PlaceKind.NIP, End.A, 0.8),
        Place("span_b", "line 2", PlaceKind.SPAN, None, 1.5),
        _termination(End.B),
    ),
    (TailSpot("tail_a", "tail of line 1", End.A), TailSpot("tail_a2", "tail of line 2", End.A)),
)
MIDLINE = Layout(
    "midline",
    "loop in the middle of a line",
    (
        _termination(End.A),
        Place("span_a", "line 1", PlaceKind.SPAN, None, 1.5),
        Place("nip_a", "nip 1", PlaceKind.NIP, End.A, 0.8),
        Place("knot_a", "loop", PlaceKind.KNOT, End.A, 1.2),
        Place("nip_a2", "nip 2", PlaceKind.NIP, End.A, 0.8),
        Place("span_b", "line 2", PlaceKind.SPAN, None, 1.5),
        _termination(End.B),
    ),
    (),
)
HITCH = Layout(
    "hitch",
    "hitch on a host",
    (
        Place("host_a", "host", PlaceKind.HOST, None, 0.8),
        Place("knot_a", "hitch", PlaceKind.KNOT, End.A, 1.2),
        Place("nip_a", "nip", PlaceKind.NIP, End.A, 0.8),
        _SPAN,
        _termination(End.B),
    ),
    (TailSpot("tail_a", "tail", End.A),),
)

LAYOUTS: dict[str, Layout] = {
    layout.key: layout for layout in (BASELINE, LOOP_PAIR, LOOP_SINGLE, BEND, MIDLINE, HITCH)
}
