"""Five ratings of a knot in a cordage, each on its own scale, and the bands they fall in."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise

from bruiser.core.behaviour.security import SecurityLimits
from bruiser.core.beyond.rules import AcrossRules
from bruiser.core.errors import InputError
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval


class Rating(StrEnum):
    """What a knot is rated by."""

    STRENGTH = "strength"
    SECURITY = "security"
    OPENING = "opening"
    TYING = "tying"
    CHECKING = "checking"


@dataclass(frozen=True, kw_only=True)
class Scale:
    """The scale of a rating.

    Parameters
    ----------
    name : str
        What the rating is called.
    measures : str
        What stands on the scale.
    unit : str
        ``share`` (0 to 1), ``points`` (0 to 1, said as 0 to 100) or ``seconds``.
    better_high : bool
        Which way is good.
    by_low : bool
        Whether the unfavourable end of the interval decides the band, not the value itself.
    """

    name: str
    measures: str
    unit: str
    better_high: bool = True
    by_low: bool = False

    def say(self, value: float) -> str:
        """A value of this scale in words."""
        if self.unit == "seconds":
            return f"{value:.0f} s"
        shown = f"{100 * value:.0f}"
        return f"{shown} %" if self.unit == "share" else shown

    def say_range(self, low: float, high: float) -> str:
        """Two ends of this scale in words; a share beyond the whole is an open end."""
        if self.unit == "share" and high > 1:
            return f"{self.say(low)} and more"
        return f"{self.say(low).removesuffix(' %').removesuffix(' s')} to {self.say(high)}"

    def unfavourable(self, interval: Interval) -> float:
        """The end of an interval that speaks against the knot."""
        return interval.low if self.better_high else interval.high


SCALES: dict[Rating, Scale] = {
    Rating.STRENGTH: Scale(
        name="Strength kept", measures="share of the plain rope", unit="share", by_low=True
    ),
    Rating.SECURITY: Scale(
        name="Stays tied", measures="points of the weakest criterion", unit="points"
    ),
    Rating.OPENING: Scale(
        name="Opens after load", measures="chance that no tool is needed", unit="share"
    ),
    Rating.TYING: Scale(
        name="Quick to tie", measures="time to a right tie", unit="seconds", better_high=False
    ),
    Rating.CHECKING: Scale(
        name="Easy to check", measures="share that inspectors recognised", unit="share"
    ),
}


@dataclass(frozen=True)
class Band:
    """A named band; it begins at `limit`. The first, worst one has none."""

    name: str
    limit: float | None = None


Bands = tuple[Band, ...]

STARTING_BANDS: dict[Rating, Bands] = {
    Rating.STRENGTH: (
        Band("a third"),
        Band("under half", 0.35),
        Band("over half", 0.50),
        Band("two thirds", 0.65),
    ),
    Rating.SECURITY: (
        Band("lets go"),
        Band("creeps", 0.25),
        Band("holds, watch it", 0.55),
        Band("stays tied", 0.80),
    ),
    Rating.OPENING: (
        Band("cut it"),
        Band("bring a tool", 0.30),
        Band("mostly hand", 0.60),
        Band("by hand", 0.85),
    ),
    Rating.TYING: (
        Band("takes its time"),
        Band("unhurried", 90.0),
        Band("quick", 45.0),
        Band("very quick", 20.0),
    ),
    Rating.CHECKING: (
        Band("hard to tell"),
        Band("trained eye", 0.50),
        Band("clear", 0.75),
        Band("plain to see", 0.90),
    ),
}


def say_bands(rating: Rating, bands: Bands) -> str:
    """The bands of a rating with where they begin, best first."""
    scale = SCALES[rating]
    parts = []
    for band in reversed(bands):
        if band.limit is None:
            parts.append(f"“{band.name}” {'below' if scale.better_high else 'above'} that")
        else:
            ahead = "from" if scale.better_high else "up to"
            parts.append(f"“{band.name}” {ahead} {scale.say(band.limit)}")
    return "; ".join(parts)


@dataclass(frozen=True)
class RatingLimits:
    """The limits a guide rates by: bands of every rating, and what staying tied is judged by.

    With them stands how it predicts across cordages.

    `version` counts the changes a campaign made; 0 are the limits shipped.
    """

    bands: dict[Rating, Bands] = field(default_factory=lambda: dict(STARTING_BANDS))
    security: SecurityLimits = field(default_factory=SecurityLimits)
    version: int = 0
    across: AcrossRules = field(default_factory=AcrossRules)

    def __post_init__(self) -> None:
        for rating, bands in self.bands.items():
            _check_bands(rating, bands)

    def at(self, rating: Rating, value: float) -> int:
        """Which band a value falls in, 0 the worst."""
        better_high = SCALES[rating].better_high
        limits = [b.limit for b in self.bands[rating] if b.limit is not None]
        return sum(value >= limit if better_high else value <= limit for limit in limits)

    def band(self, rating: Rating, value: float) -> Band:
        """The band a value falls in."""
        return self.bands[rating][self.at(rating, value)]


def _check_bands(rating: Rating, bands: Bands) -> None:
    name = SCALES[rating].name
    if len(bands) < 2 or bands[0].limit is not None:
        raise InputError(f"{name} needs two bands or more, the first without a limit.")
    limits = [b.limit for b in bands[1:]]
    if any(limit is None or not math.isfinite(limit) for limit in limits):
        raise InputError(f"A limit of {name} is missing.", "Every band but the first has one.")
    rising = [limit for limit in limits if limit is not None]
    if not SCALES[rating].better_high:
        rising = [-limit for limit in rising]
    if any(b <= a for a, b in pairwise(rising)):
        raise InputError(f"The limits of {name} must go from worst to best.", where=rating.value)
    if any(not b.name.strip() for b in bands):
        raise InputError(f"A band of {name} has no name.", where=rating.value)


@dataclass(frozen=True, kw_only=True)
class Measured:
    """What was measured for one rating, before it is judged.

    Parameters
    ----------
    interval : Interval
        On the rating's scale.
    n : int
        Pulls, knots or trials behind it.
    basis : str
        What it rests on, in words.
    draws : ndarray, shape (d,)
        Draws of the true value, in step with those of other knots.
    """

    interval: Interval
    n: int
    basis: str
    draws: Floats = field(compare=False, repr=False)
    pull_ids: tuple[str, ...] = ()
    caveat: str = ""


@dataclass(frozen=True)
class Missing:
    """Why a rating was not measured, and the pulls that were made all the same."""

    why: str
    pull_ids: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Gauge:
    """One rating of one knot, judged: its interval and the band it falls in.

    Parameters
    ----------
    found : Measured or Missing
        What it rests on, or why it is missing.
    band, at : str, int
        Name of the band and its number, 0 the worst; empty and -1 where it is not measured.
    could_be : str
        A worse band that the pulls leave open; empty where they do not.
    """

    rating: Rating
    found: Measured | Missing
    band: str = ""
    at: int = -1
    could_be: str = ""

    @property
    def measured(self) -> Measured | None:
        """What was measured; None where nothing was."""
        return self.found if isinstance(self.found, Measured) else None

    @property
    def why(self) -> str:
        """Why it was not measured; empty where it was."""
        return self.found.why if isinstance(self.found, Missing) else ""

    @property
    def scale(self) -> Scale:
        """The scale it stands on."""
        return SCALES[self.rating]


def judge(rating: Rating, found: Measured | Missing, limits: RatingLimits) -> Gauge:
    """Put a measured value in its band.

    Strength is judged by its lower bound; the others by their value, and what their unfavourable
    end leaves open is said beside it. What was not measured has no band.
    """
    if isinstance(found, Missing):
        return Gauge(rating=rating, found=found)
    scale = SCALES[rating]
    worst = scale.unfavourable(found.interval)
    at = limits.at(rating, worst if scale.by_low else found.interval.value)
    worse = limits.at(rating, worst)
    bands = limits.bands[rating]
    return Gauge(
        rating=rating,
        found=found,
        band=bands[at].name,
        at=at,
        could_be=bands[worse].name if worse < at else "",
    )


Gauges = Mapping[Rating, Gauge]


def not_measured(gauges: Gauges, needed: Mapping[Rating, float]) -> tuple[Rating, ...]:
    """Ratings that count (a weight above zero) and were not measured."""
    return tuple(r for r in Rating if needed.get(r, 0.0) > 0 and gauges[r].measured is None)
