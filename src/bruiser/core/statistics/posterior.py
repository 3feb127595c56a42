"""Posterior of a group's log-normal strength by quadrature, vectorised over groups.

Notes
-----
Prior: mu flat; ln sigma either normal (:class:`SpreadPrior`) or flat (sigma ~ 1/sigma, "prior
free"). For every ln sigma on a sinh-spaced grid the conditional density of mu is log-concave: its
mode and curvature are found by Newton, its logarithm relative to that Gaussian is smooth and is
interpolated by a cubic spline, and its distribution function follows by fourth-order cumulative
quadrature. Everything asked of the posterior is a sum over the ln sigma grid, so a report
reproduces to the last digit. Without floors the prior-free marginal of mu is Student's t and the
tolerance bound the noncentral t; the tests hold the quadrature against both.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.special import log_ndtr

from bruiser.core.statistics.censored import Fit, Floats, Sample, bend_of, fit, hazard, stack
from bruiser.core.statistics.strength import Interval


@dataclass(frozen=True)
class SpreadPrior:
    """Prior of the spread: ln sigma ~ N(ln median, width^2); flat where `width` is infinite."""

    median: float
    width: float

    @property
    def flat(self) -> bool:
        """Whether it is the prior-free 1/sigma."""
        return not np.isfinite(self.width)

    def words(self) -> str:
        """How a result names it."""
        if self.flat:
            return "prior free (1/sigma)"
        return f"ln sigma ~ N(ln {self.median:g}, {self.width:g}^2)"


# Wide enough that even three pulls of an even-tempered knot are not covered too generously:
# docs/statistics.md has the coverage this was chosen by.
KNOT_PRIOR = SpreadPrior(0.07, 1.2)
BASELINE_PRIOR = SpreadPrior(0.04, 0.8)
PRIOR_FREE = SpreadPrior(1.0, np.inf)

_T = np.linspace(-3.0, 5.0, 37)
_V = np.linspace(-7.0, 10.0, 18)
_FINE = np.linspace(-7.0, 10.0, 137)
_H = float(_FINE[1] - _FINE[0])


@lru_cache(maxsize=1)
def _spline() -> Floats:
    """From values at the grid to values at the finer one, as a matrix."""
    from scipy.interpolate import CubicSpline  # slow to load

    return np.asarray(CubicSpline(_V, np.eye(len(_V)), axis=0)(_FINE))


_U = np.linspace(-5.5, 5.5, 145)
_STRETCH = 0.5 * np.sinh(_U)
_CHUNK = 100
_IN_ONE_GO = 60_000
_NEGLIGIBLE = -32.0
_AT_MODE = int(np.argmin(np.abs(_V)))


@dataclass(frozen=True, kw_only=True)
class Posterior:
    """Posteriors of several groups.

    Parameters
    ----------
    sigma : ndarray, shape (g, s)
        Spread at the grid.
    weight : ndarray, shape (g, s)
        Posterior mass of each, summing to 1.
    mode, width : ndarray, shape (g, s)
        Conditional mode of mu and its Gaussian width.
    cdf, pdf : ndarray, shape (g, s, f)
        Conditional distribution of v = (mu - mode) / width on the fine grid.
    """

    sigma: Floats
    weight: Floats
    mode: Floats
    width: Floats
    cdf: Floats
    pdf: Floats

    def probability(self, mu: Floats, shift: float = 0.0) -> Floats:
        """P(mu_group - shift x sigma <= mu) for mu of shape (g, m); shape (g, m)."""
        total = np.zeros(mu.shape)
        groups, grid, fine = self.cdf.shape
        cdf, pdf = self.cdf.ravel(), self.pdf.ravel()
        first = (np.arange(groups) * grid * fine)[:, None]
        if mu.size * grid <= _IN_ONE_GO:
            at = mu[:, None, :] + (shift * self.sigma - self.mode)[..., None]
            base = first[:, None] + (np.arange(grid) * fine)[:, None]
            part = _hermite(cdf, pdf, base, at / self.width[..., None])
            return np.asarray(np.einsum("gs,gsm->gm", self.weight, part))
        for k in np.flatnonzero(self.weight.any(axis=0)):
            at = mu + shift * self.sigma[:, k, None] - self.mode[:, k, None]
            v = at / self.width[:, k, None]
            total += self.weight[:, k, None] * _hermite(cdf, pdf, first + k * fine, v)
        return total

    def quantile(self, share: float, shift: float = 0.0) -> Floats:
        """Quantile of mu - shift x sigma; shape (g,)."""
        spread = (self.weight * self.width).sum(axis=1)
        centre = (self.weight * (self.mode - shift * self.sigma)).sum(axis=1)
        scale = spread + abs(shift) * (self.weight * self.sigma).sum(axis=1)
        return solve_rising(
            lambda q: self.probability(q[:, None], shift)[:, 0] - share, centre, scale
        )

    def under(self, prior: SpreadPrior) -> Posterior:
        """The same groups under another prior of the spread, from the prior-free posterior.

        Only the weights of the spreads change: mu given sigma does not depend on the prior.
        """
        away = (np.log(self.sigma) - np.log(prior.median)) / prior.width
        with np.errstate(divide="ignore"):
            log_w = np.log(self.weight) - 0.5 * away**2
        weight = np.exp(log_w - log_w.max(axis=1, keepdims=True))
        return replace(self, weight=weight / weight.sum(axis=1, keepdims=True))

    def table(self) -> Marginal:
        """The marginal of mu, tabulated on a sinh-spaced grid."""
        spread = (self.weight * self.width).sum(axis=1)
        centre = self.quantile(0.5)
        mu = centre[:, None] + spread[:, None] * _STRETCH
        return Marginal(centre=centre, spread=spread, mu=mu, cdf=self.probability(mu))


@dataclass(frozen=True, kw_only=True)
class Marginal:
    """Marginal distribution of mu of several groups, tabulated; arrays of shape (g, m)."""

    centre: Floats
    spread: Floats
    mu: Floats
    cdf: Floats

    def take(self, rows: list[int]) -> Marginal:
        """Some groups, in the order given."""
        return Marginal(
            centre=self.centre[rows], spread=self.spread[rows], mu=self.mu[rows], cdf=self.cdf[rows]
        )

    def probability(self, mu: Floats) -> Floats:
        """P(mu_group <= mu) for mu of shape (g, m)."""
        u = np.arcsinh((mu - self.centre[:, None]) / (0.5 * self.spread[:, None]))
        place = np.clip((u - _U[0]) / (_U[1] - _U[0]), 0.0, len(_U) - 1.000001)
        low = place.astype(np.intp)
        share = place - low
        left = np.take_along_axis(self.cdf, low, axis=1)
        right = np.take_along_axis(self.cdf, low + 1, axis=1)
        return np.asarray(left + share * (right - left))


def _hermite(cdf: Floats, pdf: Floats, first: Any, v: Floats) -> Floats:
    """Conditional distribution function between the fine nodes, from `first` in flat arrays."""
    place = np.clip((v - _FINE[0]) / _H, 0.0, len(_FINE) - 1.000001)
    low = place.astype(np.intp)
    s = place - low
    low += first
    c0 = cdf.take(low)
    f0 = pdf.take(low) * _H
    low += 1
    d = cdf.take(low) - c0
    f1 = pdf.take(low) * _H
    return np.asarray(c0 + s * (f0 + s * (3 * d - 2 * f0 - f1 + s * (f0 + f1 - 2 * d))))


def solve_rising(
    function: Callable[[Floats], Floats], centre: Floats, scale: Floats, *, steps: int = 60
) -> Floats:
    """Root of a rising function of one variable, for many at once.

    Brackets outwards from `centre` in steps of `scale`, then uses false position with the
    Illinois correction, which keeps the bracket; about ten evaluations a root.
    """
    low, high = centre - 3 * scale, centre + 3 * scale
    f_low, f_high = function(low), function(high)
    for _ in range(60):
        out = f_low > 0
        if not out.any():
            break
        low = np.where(out, low - 2 * (centre - low), low)
        f_low = function(low)
    for _ in range(60):
        out = f_high < 0
        if not out.any():
            break
        high = np.where(out, high + 2 * (high - centre), high)
        f_high = function(high)
    root = centre
    side = np.zeros(len(centre))
    for _ in range(steps):
        gap = f_high - f_low
        last = root
        root = np.where(gap > 0, (low * f_high - high * f_low) / np.where(gap > 0, gap, 1.0), last)
        f = function(root)
        above = f > 0
        f_low = np.where(above & (side > 0), 0.5 * f_low, f_low)
        f_high = np.where(~above & (side < 0), 0.5 * f_high, f_high)
        high, f_high = np.where(above, root, high), np.where(above, f, f_high)
        low, f_low = np.where(above, low, root), np.where(above, f_low, f)
        side = np.where(above, 1.0, -1.0)
        if np.all((np.abs(f) < 1e-9) | (high - low < 1e-10 * scale)):
            break
    return root


def posterior(samples: list[Sample], prior: SpreadPrior, start: Fit | None = None) -> Posterior:
    """Posterior of every group.

    Parameters
    ----------
    samples : list of Sample
        Each with at least one event; with a flat prior, two different ones.
    prior : SpreadPrior
        Prior of the spread.
    start : Fit, optional
        Maximum-likelihood estimates, where they are known already.

    Returns
    -------
    Posterior

    Raises
    ------
    ValueError
        If a group has no event, or cannot be estimated under a flat prior.
    """
    if any(s.event_count == 0 for s in samples):
        raise ValueError("a posterior needs an observed strength")
    if prior.flat and not all(s.estimable for s in samples):
        raise ValueError("prior free needs two different observed strengths")
    x, d, c = stack(samples)
    found = fit(x, d, c) if start is None else start
    parts = [
        _chunk(
            x[k : k + _CHUNK],
            d[k : k + _CHUNK],
            c[k : k + _CHUNK],
            found.sigma[k : k + _CHUNK],
            prior,
        )
        for k in range(0, len(samples), _CHUNK)
    ]
    sigma, weight, mode, width, cdf, pdf = (
        np.concatenate(group) for group in zip(*parts, strict=True)
    )
    return Posterior(sigma=sigma, weight=weight, mode=mode, width=width, cdf=cdf, pdf=pdf)


def _sigma_grid(d: Floats, sigma_hat: Floats, prior: SpreadPrior) -> Floats:
    events = d.sum(axis=1)
    known = np.isfinite(sigma_hat)
    own = np.log(np.where(known, sigma_hat, 1.0))
    information = np.where(known, 2.0 * events, 0.0)
    if prior.flat:
        centre, total = own, information
    else:
        pull = 1.0 / prior.width**2
        total = information + pull
        centre = (information * own + pull * np.log(prior.median)) / total
    return np.asarray(centre[:, None] + 0.55 * np.sinh(_T) / np.sqrt(total)[:, None])


def _chunk(
    x: Floats, d: Floats, c: Floats, sigma_hat: Floats, prior: SpreadPrior
) -> tuple[Floats, ...]:
    ln_sigma = _sigma_grid(d, sigma_hat, prior)
    sigma = np.exp(ln_sigma)
    events = d.sum(axis=1)[:, None]
    mean = (d * x).sum(axis=1)[:, None] / events
    square = (d * (x - mean) ** 2).sum(axis=1)[:, None]
    floor_at = np.flatnonzero(c.any(axis=0))
    xf, cf = x[:, None, floor_at], c[:, None, floor_at]
    mode, width = _modes(events, mean, sigma, xf, cf)
    shape = np.log(np.gradient(ln_sigma, axis=1)) - events * ln_sigma - 0.5 * square / sigma**2
    if not prior.flat:
        shape -= 0.5 * ((ln_sigma - np.log(prior.median)) / prior.width) ** 2
    top = -0.5 * events * ((mode - mean) / sigma) ** 2
    for k in range(len(floor_at)):
        top += cf[..., k] * log_ndtr((mode - xf[..., k]) / sigma)
    rough = shape + top + np.log(width)
    live = np.flatnonzero((rough - rough.max(axis=1, keepdims=True) > _NEGLIGIBLE).any(axis=0))
    pdf = _conditional(
        events[..., None], mean[..., None], sigma[:, live], mode[:, live], width[:, live], xf, cf
    )
    cdf = _cumulative(pdf)
    mass = cdf[..., -1]
    log_w = rough[:, live] + np.log(mass)
    live_weight = np.exp(log_w - log_w.max(axis=1, keepdims=True))
    weight = np.zeros(sigma.shape)
    weight[:, live] = live_weight / live_weight.sum(axis=1, keepdims=True)
    full_cdf, full_pdf = (np.zeros((*sigma.shape, len(_FINE))) for _ in range(2))
    full_cdf[:, live] = cdf / mass[..., None]
    full_pdf[:, live] = pdf / mass[..., None]
    return sigma, weight, mode, width, full_cdf, full_pdf


def _modes(
    events: Floats, mean: Floats, sigma: Floats, xf: Floats, cf: Floats
) -> tuple[Floats, Floats]:
    """Conditional mode of mu and its Gaussian width at every sigma, by Newton."""
    mode = np.broadcast_to(mean, sigma.shape).copy()
    curve = np.broadcast_to(events, sigma.shape).copy()
    for _ in range(40 if xf.shape[-1] else 0):
        z = (xf - mode[..., None]) / sigma[..., None]
        h = hazard(z)
        slope = events * (mean - mode) / sigma + (cf * h).sum(axis=-1)
        curve = events + (cf * bend_of(h, z)).sum(axis=-1)
        step = slope / curve * sigma
        mode += step
        if np.all(np.abs(step) < 1e-8 * sigma):
            break
    return mode, sigma / np.sqrt(curve)


def _conditional(
    events: Floats,
    mean: Floats,
    sigma: Floats,
    mode: Floats,
    width: Floats,
    xf: Floats,
    cf: Floats,
) -> Floats:
    """Conditional density of v on the fine grid, 1 at v = 0."""
    mu = mode[..., None] + width[..., None] * _V
    log_p = -0.5 * events * ((mu - mean) / sigma[..., None]) ** 2
    for k in range(xf.shape[-1]):
        log_p += cf[..., k, None] * log_ndtr((mu - xf[..., k, None]) / sigma[..., None])
    ratio = log_p - log_p[..., _AT_MODE, None] + 0.5 * _V**2
    return np.asarray(np.exp(ratio @ _spline().T - 0.5 * _FINE**2))


def _cumulative(pdf: Floats) -> Floats:
    """Fourth-order cumulative integral along the last axis on the fine grid."""
    inner = (-pdf[..., :-3] + 13 * (pdf[..., 1:-2] + pdf[..., 2:-1]) - pdf[..., 3:]) / 24
    first = 0.5 * (pdf[..., :1] + pdf[..., 1:2])
    last = 0.5 * (pdf[..., -2:-1] + pdf[..., -1:])
    steps = np.concatenate([np.zeros_like(first), first, inner, last], axis=-1)
    return np.cumsum(steps, axis=-1) * _H


def ratio_quantiles(knots: Marginal, baselines: Marginal, shares: tuple[float, ...]) -> Floats:
    """Quantiles of mu_knot - mu_baseline, row by row; shape (shares, g)."""
    mass = np.diff(baselines.cdf[:, ::2], axis=1)
    mass /= mass.sum(axis=1, keepdims=True)
    middle = baselines.mu[:, 1::2]
    centre = knots.centre - baselines.centre
    scale = np.hypot(knots.spread, baselines.spread)

    def probability(rho: Floats) -> Floats:
        return np.asarray((mass * knots.probability(middle + rho[:, None])).sum(axis=1))

    found = [
        solve_rising(lambda r, s=share: probability(r) - s, centre, scale)  # type: ignore[misc]
        for share in shares
    ]
    return np.array(found)


def typical_values(samples: list[Sample], prior: SpreadPrior) -> list[Interval | None]:
    """Typical value e^mu of every sample with its 95 % interval, in the unit of the samples.

    None without an observed value: floors alone give no typical value.

    Notes
    -----
    Median and 2.5 and 97.5 % quantiles of the posterior of mu; mu flat, sigma by the prior.
    """
    rows = [k for k, sample in enumerate(samples) if sample.event_count > 0]
    found: list[Interval | None] = [None] * len(samples)
    if rows:
        fitted = posterior([samples[k] for k in rows], prior)
        low, middle, high = (np.exp(fitted.quantile(q)) for q in (0.025, 0.5, 0.975))
        for n, k in enumerate(rows):
            found[k] = Interval(float(middle[n]), float(low[n]), float(high[n]))
    return found


def typical_value(sample: Sample, prior: SpreadPrior) -> Interval | None:
    """Typical value of one sample, see :func:`typical_values`."""
    return typical_values([sample], prior)[0]
