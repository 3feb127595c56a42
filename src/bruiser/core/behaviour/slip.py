"""Slip: when a knot starts to move, how far its tails draw, and how much tail was left."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bruiser.core.statistics.censored import Floats, Sample, make_sample
from bruiser.core.statistics.posterior import SpreadPrior, typical_values
from bruiser.core.statistics.strength import Interval

ONSET_PRIOR = SpreadPrior(0.25, 1.0)
DRAW_PRIOR = SpreadPrior(0.4, 1.0)
SMALLEST_D = 0.05


@dataclass(frozen=True, kw_only=True)
class TailSeen:
    """One tail of one pull.

    Parameters
    ----------
    load_n : float
        Highest load it saw.
    draw_m : float
        How far it had drawn in the end.
    given_m : float or None
        Its length as tied.
    ran_out : bool
        Whether its knot came out: then it drew at least its length.
    """

    pull_id: str
    load_n: float
    draw_m: float
    given_m: float | None
    ran_out: bool

    @property
    def spare_m(self) -> float | None:
        """Tail that was left in the end; None where it ran out or its length is not known."""
        if self.given_m is None or self.ran_out:
            return None
        return max(0.0, self.given_m - self.draw_m)


@dataclass(frozen=True, kw_only=True)
class OnsetSeen:
    """One pull: the load of its first slip, or the load up to which none was seen.

    `knots` counts those of the group tied in the specimen: the others held at least that.
    """

    pull_id: str
    load_n: float
    slipped: bool
    knots: int


@dataclass(frozen=True, kw_only=True)
class TailUse:
    """The tail that came nearest to running out, and how many did.

    Parameters
    ----------
    tightest_m : float or None
        Least tail left among those that did not run out, with its pull.
    share_used : float or None
        Largest share of its tail that one of them used.
    """

    tails: int
    ran_out: int
    tightest_m: float | None
    tightest_pull: str
    share_used: float | None


@dataclass(frozen=True, kw_only=True)
class SlipResult:
    """What is known of a knot's slipping.

    Parameters
    ----------
    onset : Interval or None
        Typical load of the first slip as a share of the baseline; None without a slip seen.
    no_slip_to : float or None
        Where none was seen: the highest share reached without one.
    draw_d : Interval or None
        Typical draw by the end of the pull, in diameters; tails that ran out drew at least theirs.
    """

    onset: Interval | None
    no_slip_to: float | None
    slipped: int
    pulls: int
    draw_d: Interval | None
    tails: TailUse


@dataclass(frozen=True, kw_only=True)
class SlipSeen:
    """What was seen of one knot: onsets, tails, the cord's diameter, and its plain strength."""

    onsets: tuple[OnsetSeen, ...]
    tails: tuple[TailSeen, ...]
    diameter_m: float
    baseline_n: float | None

    @property
    def quiet(self) -> float:
        """Highest share of the plain rope reached without a slip."""
        if self.baseline_n is None:
            return 0.0
        return max((o.load_n for o in self.onsets if not o.slipped), default=0.0) / self.baseline_n

    def onset_sample(self) -> Sample:
        """Loads of the first slip; the other knots of a specimen are floors."""
        usable = self.onsets if self.baseline_n is not None else ()
        return make_sample(
            [
                (o.pull_id, o.load_n, int(o.slipped), o.knots - int(o.slipped))
                for o in usable
                if o.load_n > 0
            ]
        )

    def draw_sample(self) -> Sample:
        """Draws in diameters; a tail that ran out is a floor at its length."""
        rows = []
        for t in self.tails:
            length = max(t.draw_m, t.given_m or 0.0) if t.ran_out else t.draw_m
            drawn = max(length / self.diameter_m, SMALLEST_D)
            rows.append((t.pull_id, drawn, int(not t.ran_out), int(t.ran_out)))
        return make_sample(rows)


def tail_use(tails: Sequence[TailSeen]) -> TailUse:
    """How near the tails came to running out."""
    left = [(s, t) for t in tails if (s := t.spare_m) is not None]
    used = [t.draw_m / t.given_m for t in tails if t.given_m and not t.ran_out]
    ran_out = sum(t.ran_out for t in tails)
    if not left:
        return TailUse(
            tails=len(tails),
            ran_out=ran_out,
            tightest_m=None,
            tightest_pull="",
            share_used=max(used, default=None),
        )
    spare, tightest = min(left, key=lambda pair: pair[0])
    return TailUse(
        tails=len(tails),
        ran_out=ran_out,
        tightest_m=spare,
        tightest_pull=tightest.pull_id,
        share_used=max(used, default=None),
    )


def measure_slips(seen: Sequence[SlipSeen]) -> list[SlipResult]:
    """Everything about slipping of some knots, all at once.

    Notes
    -----
    First slip: log-normal with floors (in a specimen of two like knots the first slip belongs to
    one of them and the other had not slipped yet), mu flat, ln sigma ~ N(ln 0.25, 1.0^2).

    Draw: log-normal in diameters, a tail that ran out is a floor at its length, less than 0.05 d
    counts as 0.05 d; mu flat, ln sigma ~ N(ln 0.4, 1.0^2).
    """
    onsets = typical_values([s.onset_sample() for s in seen], ONSET_PRIOR)
    draws = typical_values([s.draw_sample() for s in seen], DRAW_PRIOR)
    found = []
    for one, onset, draw in zip(seen, onsets, draws, strict=True):
        share = None
        if onset is not None and one.baseline_n is not None:
            base = one.baseline_n
            share = Interval(onset.value / base, onset.low / base, onset.high / base)
        quiet = one.quiet if share is None and one.quiet > 0 else None
        slipped = sum(o.slipped for o in one.onsets)
        use = tail_use(one.tails)
        found.append(
            SlipResult(
                onset=share,
                no_slip_to=quiet,
                slipped=slipped,
                pulls=len(one.onsets),
                draw_d=draw,
                tails=use,
            )
        )
    return found


@dataclass(frozen=True)
class DrawCurve:
    """Draw of one pull's tail against load: shares of the baseline and metres, rising."""

    pull_id: str
    share: Floats
    draw_m: Floats


@dataclass(frozen=True, kw_only=True)
class DrawBand:
    """Draw of a group against load: lowest, median and highest of the pulls that got so far.

    Parameters
    ----------
    share, low_m, middle_m, high_m : ndarray, shape (m,)
        Share of the baseline, and draws in metre.
    pulls : ndarray of int, shape (m,)
        How many pulls got so far.
    """

    share: Floats
    low_m: Floats
    middle_m: Floats
    high_m: Floats
    pulls: np.ndarray


def draw_band(curves: Sequence[DrawCurve], points: int = 41) -> DrawBand | None:
    """The band of a group; None without a gauge's reading.

    It is the range seen, not an interval, and ends where fewer than two pulls got so far, or at
    the end of the only one.
    """
    if not curves:
        return None
    ends = sorted((float(c.share[-1]) for c in curves), reverse=True)
    top = ends[min(1, len(ends) - 1)]
    share = np.linspace(0.0, top, points)
    rows = np.array(
        [
            np.where(share <= c.share[-1] + 1e-12, np.interp(share, c.share, c.draw_m), np.nan)
            for c in curves
        ]
    )
    low, middle, high = (f(rows, axis=0) for f in (np.nanmin, np.nanmedian, np.nanmax))
    return DrawBand(
        share=share, low_m=low, middle_m=middle, high_m=high, pulls=np.isfinite(rows).sum(axis=0)
    )


def draws_at(
    curves: Sequence[Sequence[DrawCurve]], share: float, diameters_m: Sequence[float]
) -> list[Interval | None]:
    """Typical draw in diameters at a share of the baseline, of several knots.

    None where no pull of a knot got so far; prior as in :func:`measure_slips`.
    """
    samples = []
    for own, diameter_m in zip(curves, diameters_m, strict=True):
        drawn = [
            (c.pull_id, float(np.interp(share, c.share, c.draw_m)) / diameter_m)
            for c in own
            if c.share[-1] >= share
        ]
        samples.append(make_sample([(pull, max(d, SMALLEST_D), 1, 0) for pull, d in drawn]))
    return typical_values(samples, DRAW_PRIOR)


def ran_out_if_shorter(tails: Sequence[TailSeen], less_m: float) -> int:
    """How many tails would have run out, had every one been so much shorter."""
    return sum(t.ran_out or (t.spare_m is not None and t.spare_m < less_m - 1e-12) for t in tails)


def spare_in_steps(tightest_m: float, step_m: float = 0.005) -> float:
    """The least shortening, in steps, at which that tail would have run out."""
    return step_m * (math.floor(tightest_m / step_m + 1e-9) + 1)
