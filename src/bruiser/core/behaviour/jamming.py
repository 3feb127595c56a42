"""Jamming: the load at which half of such knots no longer open by hand, and the time it takes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import expit

from bruiser.core.records.records import JamLevel
from bruiser.core.statistics.censored import Floats, Sample
from bruiser.core.statistics.posterior import SpreadPrior, typical_values
from bruiser.core.statistics.strength import Interval

JAM_ORDER: dict[JamLevel, int] = {
    JamLevel.SHAKEN: 0,
    JamLevel.HAND: 0,
    JamLevel.WORKED: 1,
    JamLevel.TOOL: 2,
    JamLevel.CUT: 3,
    JamLevel.FUSED: 3,
}

HARD_PULL = 0.60

_WIDTH_PRIOR = (math.log(0.18), 0.7)
_GAP_PRIOR = (math.log(0.4), 0.8)
_PLACE_PRIOR = (math.log(0.6), 1.2)
UNTIE_PRIOR = SpreadPrior(0.7, 1.0)
_SPAN = 3.0
_NO_BRACKETS = np.empty((0, 2))


@dataclass(frozen=True)
class JamFit:
    """Posterior of where half of such knots jam and how sharply, on a grid.

    Parameters
    ----------
    theta : ndarray, shape (t,)
        ln of the share at which half jam.
    width : ndarray, shape (w,)
        Width of the logistic curve.
    weight : ndarray, shape (t, w)
        Posterior mass, summing to 1.
    """

    theta: Floats
    width: Floats
    weight: Floats

    @property
    def _rising(self) -> Floats:
        """Distribution function of theta at its grid."""
        density = self.weight.sum(axis=1)
        rising = np.concatenate([[0.0], np.cumsum(0.5 * (density[1:] + density[:-1]))])
        return np.asarray(rising / rising[-1])

    @property
    def j50(self) -> Interval:
        """Share at which half of such knots jam: posterior median and 95 % interval."""
        low, middle, high = np.exp(np.interp([0.025, 0.5, 0.975], self._rising, self.theta))
        return Interval(float(middle), float(low), float(high))

    def above(self, share: float) -> float:
        """Chance that half of such knots jam only above a share."""
        at = math.log(share)
        return 1.0 - float(np.interp(at, self.theta, self._rising, left=0.0, right=1.0))

    def chance(self, share: Floats) -> tuple[Floats, Floats, Floats]:
        """Chance that a knot needs a tool after having seen such shares of the baseline.

        Parameters
        ----------
        share : ndarray, shape (m,)
            Loads as shares of the baseline.

        Returns
        -------
        tuple of ndarray, shape (m,)
            2.5 % quantile, mean and 97.5 % quantile of the posterior of that chance. The mean is
            the chance for the next such knot.
        """
        mass = self.weight.ravel()
        keep = mass > 1e-9 * mass.max()
        mass = mass[keep] / mass[keep].sum()
        theta = np.repeat(self.theta, len(self.width))[keep]
        width = np.tile(self.width, len(self.theta))[keep]
        out = np.empty((3, len(share)))
        for k, x in enumerate(np.log(share)):
            p = expit((x - theta) / width)
            order = np.argsort(p)
            below = np.cumsum(mass[order]) - 0.5 * mass[order]
            low, high = np.interp([0.025, 0.975], below, p[order])
            out[:, k] = low, float(mass @ p), high
        return out[0], out[1], out[2]


@dataclass(frozen=True, kw_only=True)
class JamResult:
    """Where half of such knots jam, as a share of the baseline.

    Parameters
    ----------
    j50 : Interval or None
        Posterior median and 95 % interval; None when not decided.
    decided : bool
        Whether both jammed and opened knots were seen.
    above, below : float or None
        Where not decided: it lies above the highest share tried, or below the lowest.
    fit : JamFit or None
        The curve behind it; None when not decided.
    """

    j50: Interval | None
    decided: bool
    above: float | None
    below: float | None
    opened: int
    jammed: int
    pull_ids: tuple[str, ...]
    fit: JamFit | None = None


def jam_load(
    share: Floats,
    level: np.ndarray,
    pull_ids: tuple[str, ...] = (),
    brackets: Floats = _NO_BRACKETS,
) -> JamResult | None:
    """J50 from untying outcomes.

    Parameters
    ----------
    share : ndarray, shape (n,)
        Peak load each inspected knot had seen, as a share of the baseline.
    level : ndarray of int, shape (n,)
        Ordered level 0..3, see ``JAM_ORDER``; 2 and 3 are jammed.
    brackets : ndarray, shape (b, 2)
        Knots untied at several loads: the highest share after which each still opened (0 where it
        never did), and the lowest after which it jammed (inf where it never did).

    Returns
    -------
    JamResult or None
        None without inspections.

    Notes
    -----
    Ordinal logistic on x = ln share: P(needs a tool or worse) = F((x - theta)/w) with the logistic
    F, and the neighbouring thresholds at theta - g1 and theta + g2. Priors: theta ~ N(ln 0.6,
    1.2^2), ln w ~ N(ln 0.18, 0.7^2), ln g ~ N(ln 0.4, 0.8^2). A bracketed knot adds
    F((ln high - theta)/w) - F((ln low - theta)/w): its own threshold lies between.

    With F(a) - F(b) = F(a) (1 - F(b)) (1 - exp(b - a)) every level is a sum of functions of one
    place and w, so the two gaps separate; those functions are tabulated a quarter of w apart and
    interpolated. J50 = exp(theta). The tests hold it against a plain four-dimensional grid.
    """
    if not len(share) and not len(brackets):
        return None
    jammed = int((level >= 2).sum()) + int(np.isfinite(brackets[:, 1]).sum())
    opened = int((level < 2).sum()) + int((brackets[:, 0] > 0).sum())
    seen = np.concatenate([share, brackets[np.isfinite(brackets) & (brackets > 0)]])
    if not jammed:
        return JamResult(
            j50=None,
            decided=False,
            above=float(seen.max()),
            below=None,
            opened=opened,
            jammed=0,
            pull_ids=pull_ids,
        )
    if not opened:
        return JamResult(
            j50=None,
            decided=False,
            above=None,
            below=float(seen.min()),
            opened=0,
            jammed=jammed,
            pull_ids=pull_ids,
        )
    fit = fit_jams(share, level, brackets)
    return JamResult(
        j50=fit.j50,
        decided=True,
        above=None,
        below=None,
        opened=opened,
        jammed=jammed,
        pull_ids=pull_ids,
        fit=fit,
    )


def fit_jams(share: Floats, level: np.ndarray, brackets: Floats = _NO_BRACKETS) -> JamFit:
    """The jamming curve's posterior, see :func:`jam_load`, also where all opened or all jammed.

    Then it rests on its priors beyond the loads seen, and only speaks for loads among those.
    """
    shape = _Shape(np.log(share), level, brackets)
    coarse = np.linspace(_PLACE_PRIOR[0] - 4.8, _PLACE_PRIOR[0] + 4.8, 49)
    rough = shape.log_posterior(coarse, _SOME).max(axis=1)
    likely = np.flatnonzero(rough > rough.max() - 14)
    step = coarse[1] - coarse[0]
    theta = np.linspace(coarse[likely[0]] - step, coarse[likely[-1]] + step, 61)
    log_p = shape.log_posterior(theta, _ALL)
    weight = np.exp(log_p - log_p.max())
    return JamFit(theta, _WIDTHS, weight / weight.sum())


def _normal_grid(place: float, spread: float, points: int) -> tuple[Floats, Floats]:
    u = np.linspace(-_SPAN, _SPAN, points)
    return np.exp(place + spread * u), -0.5 * u * u


_WIDTHS, _LOG_WIDTH_PRIOR = _normal_grid(*_WIDTH_PRIOR, 8)
_GAPS, _LOG_GAP_PRIOR = _normal_grid(*_GAP_PRIOR, 11)
_ALL = np.arange(len(_WIDTHS))
_SOME = _ALL[::3]


class _Shape:
    """Log posterior of (theta, w) for one set of outcomes, up to a constant.

    Three sums run along a place y, one table a width: of the easy levels at theta - g1 (ln(1 - F)
    where it just opened, ln F where it was worked), of the middle at theta, of the hard at
    theta + g2.
    """

    def __init__(self, x: Floats, level: np.ndarray, brackets: Floats) -> None:
        self._split = np.array([(level == 1).sum(), 0, (level == 2).sum()])
        below = np.array([level == 0, level == 1, level == 2], dtype=np.float64)
        above = np.array([level == 1, level == 2, level == 3], dtype=np.float64)
        self._below, self._above = below.sum(axis=1), above.sum(axis=1)
        low, high = (x.min(), x.max()) if len(x) else (0.0, 0.0)
        self._pitch = 0.3 * _WIDTHS
        self._first = low - 9.0 * _WIDTHS
        # Every width has a table as long as it needs; they lie one behind the other.
        self._counts = ((high - low + 18.0 * _WIDTHS) / self._pitch).astype(np.intp) + 2
        self._starts = np.cumsum(self._counts) - self._counts
        steps = np.arange(self._counts.sum()) - np.repeat(self._starts, self._counts)
        place = np.repeat(self._first, self._counts) + steps * np.repeat(self._pitch, self._counts)
        z = (x - place[:, None]) / np.repeat(_WIDTHS, self._counts)[:, None]
        # ln F(z) without overflow; ln(1 - F) is that less z.
        ln_f = np.abs(z)
        np.negative(ln_f, out=ln_f)
        np.exp(ln_f, out=ln_f)
        ln_f += 1.0
        np.log(ln_f, out=ln_f)
        np.subtract(np.minimum(z, 0.0), ln_f, out=ln_f)
        self._tables = np.ascontiguousarray((ln_f @ (below + above).T - z @ below.T).T)
        with np.errstate(divide="ignore"):
            self._brackets = np.log(brackets)

    def _at(self, k: int, place: Floats, rows: np.ndarray) -> Floats:
        """A sum at places of shape (...), for every width of `rows`; shape (w, ...).

        Beyond its table it goes on in a straight line.
        """
        shape = (len(rows),) + (1,) * place.ndim
        steps = (place - self._first[rows].reshape(shape)) / self._pitch[rows].reshape(shape)
        table = self._tables[k]
        inside = np.clip(steps, 0.0, (self._counts[rows] - 1.000001).reshape(shape))
        at = inside.astype(np.intp)
        share = inside - at
        at += self._starts[rows].reshape(shape)
        left = table.take(at)
        at += 1
        right = table.take(at)
        right -= left
        right *= share
        left += right
        steps -= inside
        steps *= 0.3
        left += self._below[k] * np.minimum(steps, 0.0)
        left -= self._above[k] * np.maximum(steps, 0.0)
        return np.asarray(left)

    def log_posterior(self, theta: Floats, rows: np.ndarray) -> Floats:
        """Shape (t, w) for the widths of `rows`."""
        widths = _WIDTHS[rows, None]
        spread = (theta - _PLACE_PRIOR[0]) / _PLACE_PRIOR[1]
        out = _LOG_WIDTH_PRIOR[rows, None] - 0.5 * spread**2 + self._at(1, theta, rows)
        apart = np.log(-np.expm1(-_GAPS / widths))
        for k, sign in ((0, -1.0), (2, 1.0)):
            if not self._below[k] + self._above[k]:
                continue
            log_p = self._at(k, theta + sign * _GAPS[:, None], rows)
            log_p += (_LOG_GAP_PRIOR + self._split[k] * apart)[..., None]
            top = log_p.max(axis=1)
            out += top + np.log(np.exp(log_p - top[:, None]).sum(axis=1))
        for low, high in self._brackets:
            between = expit((high - theta) / widths) - expit((low - theta) / widths)
            out += np.log(np.maximum(between, 1e-300))
        return np.asarray(out.T)


def untying_times(samples: list[Sample]) -> list[Interval | None]:
    """Typical untying time of several groups, in second with its interval; giving up is a floor.

    Notes
    -----
    Log-normal with right-censoring; posterior with mu flat and ln sigma ~ N(ln 0.7, 1.0^2), a
    spread wide enough for hands. None without a knot that was untied.
    """
    return typical_values(samples, UNTIE_PRIOR)


def untying_time(sample: Sample) -> Interval | None:
    """Typical untying time of one group, see :func:`untying_times`."""
    return untying_times([sample])[0]
