"""What a use asks of a knot: hard requirements that exclude, and weights that rank."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from bruiser.core.behaviour.jamming import HARD_PULL
from bruiser.core.choice.ranking import STARTING_ANCHORS, Anchors, check_anchors, shares_of
from bruiser.core.choice.rating import Rating
from bruiser.core.errors import InputError
from bruiser.core.records.preparation import Hands

OPENS_MORE_OFTEN = 0.5
HOLDS = 0.10


@dataclass(frozen=True, kw_only=True)
class UseProfile:
    """A use.

    Parameters
    ----------
    families : tuple of str
        Families that can serve it; empty for any.
    no_end, closed_ring : bool
        Tied without an end at hand; tied round a closed ring.
    directions : tuple of str
        Directions in which it must hold, as the catalogue names them.
    host : str
        What it is fastened to, a word of the host's name, finish or material; empty for nothing.
    holds : float
        The load it has to grip or be stopped at, as a share of the cord's plain rope.
    load : float
        The load, as a share of the plain rope, after which it is opened.
    must_open : bool
        Whether it must open without a tool after that load, more often than not.
    stays : bool
        Whether no pull may have come out or let go.
    slippery : bool
        For slippery cordage: what never was pulled there is judged by repute.
    hands : Hands
        In which state of the hands it is tied.
    weights, anchors : dict
        How much each rating counts, and how it is turned into points.
    caution : str
        What stands beside the short list.
    """

    key: str
    name: str
    families: tuple[str, ...] = ()
    no_end: bool = False
    closed_ring: bool = False
    directions: tuple[str, ...] = ()
    host: str = ""
    holds: float = HOLDS
    load: float = HARD_PULL
    must_open: bool = False
    stays: bool = True
    slippery: bool = False
    hands: Hands = Hands.BARE
    weights: Mapping[Rating, float] = field(default_factory=dict)
    anchors: Mapping[Rating, Anchors] = field(default_factory=lambda: dict(STARTING_ANCHORS))
    caution: str = ""

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise InputError("A use needs a name.", where="name")
        if not (math.isfinite(self.load) and 0 < self.load <= 1):
            raise InputError(
                "The load lies above 0 and at most at 100 % of the plain rope.", where="load"
            )
        if not (math.isfinite(self.holds) and 0 < self.holds <= 1):
            raise InputError(
                "The load to hold lies above 0 and at most at 100 % of the plain rope.",
                where="holds",
            )
        shares_of(self.weights)
        for rating, anchors in self.anchors.items():
            check_anchors(rating, anchors)


def _weights(
    strength: float, security: float, opening: float, tying: float, checking: float
) -> dict[Rating, float]:
    given = (float(w) for w in (strength, security, opening, tying, checking))
    return dict(zip(Rating, given, strict=True))


_NOT_FOR_PERSONS = "A quick-release tie is not for persons."
_SLACK = "A knot that shakes loose when slack needs a backup, or is another knot's place."

PROFILES: tuple[UseProfile, ...] = (
    UseProfile(
        key="tether-loop",
        name="Tether loop, opened daily",
        families=("end loop", "midline loop"),
        must_open=True,
        weights=_weights(3, 3, 3, 1, 2),
        caution=_SLACK,
    ),
    UseProfile(
        key="line-joined",
        name="Line joined for good",
        families=("bend",),
        weights=_weights(4, 4, 0, 1, 2),
    ),
    UseProfile(
        key="retrieved-bend",
        name="Bend pulled round corners",
        families=("bend",),
        must_open=True,
        weights=_weights(2, 4, 3, 1, 2),
        caution="Which way a bend catches on a corner was not measured here: try it on the corner.",
    ),
    UseProfile(
        key="unlike-lines",
        name="Joining two unlike lines",
        families=("bend",),
        weights=_weights(3, 4, 1, 1, 2),
    ),
    UseProfile(
        key="hand-hold",
        name="Hand-hold in mid-line",
        families=("midline loop",),
        no_end=True,
        directions=("end to end", "eye against one end"),
        must_open=True,
        weights=_weights(2, 4, 2, 1, 2),
    ),
    UseProfile(
        key="post",
        name="Fastening to a smooth post",
        families=("hitch on a host", "binding", "quick release"),
        host="post",
        weights=_weights(3, 4, 2, 2, 1),
        caution="A constricting knot never goes round a limb. " + _NOT_FOR_PERSONS,
    ),
    UseProfile(
        key="guy",
        name="Adjustable guy",
        families=("adjustable loop",),
        stays=False,
        holds=0.10,
        weights=_weights(0, 4, 2, 2, 2),
    ),
    UseProfile(
        key="rope-grip",
        name="Gripping a rope",
        families=("friction hitch",),
        stays=False,
        holds=0.20,
        weights=_weights(0, 5, 2, 1, 2),
        caution="How many wraps hold which load is on the sheet of wraps; a grip is no stop.",
    ),
    UseProfile(
        key="bundle",
        name="Closing a bundle",
        families=("binding",),
        stays=False,
        weights=_weights(0, 5, 0, 2, 1),
        caution="A constricting knot never goes round a limb; it may have to be cut.",
    ),
    UseProfile(
        key="stopper",
        name="Stopping a line at a hole",
        families=("stopper",),
        stays=False,
        holds=0.25,
        weights=_weights(0, 5, 2, 2, 1),
    ),
    UseProfile(
        key="quick-lowering",
        name="Lowering with quick release",
        families=("quick release",),
        stays=False,
        weights=_weights(0, 5, 0, 2, 1),
        caution=_NOT_FOR_PERSONS,
    ),
)


def shipped_profiles() -> dict[str, UseProfile]:
    """The uses that come with the application, by key."""
    return {p.key: p for p in PROFILES}
