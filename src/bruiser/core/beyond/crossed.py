"""Two crossed random effects on cells that are measured with error: rows by columns, many empty.

Notes
-----
A linear mixed model with two crossed random factors and their interaction, taken as Bayesian with
its variance components integrated (for the model and its restricted likelihood see any text on
mixed models; the elimination of the rows is the partitioned inverse):

    y_kj = mu + a_k + b_j + u_j + c_kj + e_kj

with a ~ N(0, sa^2) rows, b ~ N(0, sb^2) columns, c ~ N(0, sc^2) row by column, u_j ~ N(0, tau_j^2)
an error that all cells of a column share, e_kj ~ N(0, s_kj^2 - tau_j^2), mu flat. Given the three
components all is Gaussian. The rows are eliminated by hand: with W = mask / (sc^2 + v_kj),
phi_k = sa^2 / (1 + sa^2 sum_j W_kj), the precision of the columns is diag(sum_k W_k) - sum_k phi_k
W_k W_k' beside their prior, and one Cholesky of a column-sized matrix serves a point of the grid.
Integrated is over (sqrt sa, sqrt t, angle), t^2 = sb^2 + sc^2, by Gauss-Legendre on a box found by
two coarse looks. Leaving out a cell or a column needs no second fit: the points are weighed anew
by the density of what was left out given the rest.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.special import ndtr

from bruiser.core.beyond.given import Cells, Components, Given
from bruiser.core.beyond.mixtures import mixture_quantiles
from bruiser.core.beyond.rules import CrossedPrior
from bruiser.core.statistics.censored import Floats
from bruiser.core.statistics.strength import Interval

SHARES = (0.5, 0.025, 0.975)
COARSE = (8, 8, 5)
FINE = (14, 16, 8)
REFERENCE = (24, 26, 12)
"""The grid that reference digits are worked out on."""
_FARTHEST_PRIORS = 5.0
_LOOKED_AT = 9.0
_NEGLIGIBLE = 1e-7


@lru_cache(maxsize=16)
def _legendre(count: int) -> tuple[Floats, Floats]:
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return np.asarray(nodes), np.asarray(weights)


Box = tuple[tuple[float, float], tuple[float, float], tuple[float, float]]


@dataclass(frozen=True, kw_only=True)
class _Grid:
    """Points of the grid with the log of their quadrature weight times prior, and their axes."""

    at: Components
    log_weight: Floats
    axes: tuple[Floats, Floats, Floats]


def _grid(box: Box, shape: tuple[int, int, int], prior: CrossedPrior) -> _Grid:
    axes, weights = [], []
    for (low, high), count in zip(box, shape, strict=True):
        nodes, weight = _legendre(count)
        axes.append(0.5 * (high + low) + 0.5 * (high - low) * nodes)
        weights.append(0.5 * (high - low) * weight)
    x, z, angle = (a.ravel() for a in np.meshgrid(*axes, indexing="ij"))
    quadrature = np.prod([w.ravel() for w in np.meshgrid(*weights, indexing="ij")], axis=0)
    sa, t = x**2, z**2
    density = -0.5 * (sa / prior.rows) ** 2 - 0.5 * (t / prior.spread) ** 2
    # Square roots as axes: 2 sqrt(sa) and 2 sqrt(t); the share cos^2 is uniform: sin(2 angle).
    turned = 4.0 * x * z * np.sin(2.0 * angle)
    at = Components(rows=sa, columns=t * np.cos(angle), cells=t * np.sin(angle))
    return _Grid(
        at=at,
        log_weight=density + np.log(turned * quadrature),
        axes=(axes[0], axes[1], axes[2]),
    )


def _whole_box(prior: CrossedPrior) -> Box:
    return (
        (0.0, float(np.sqrt(_FARTHEST_PRIORS * prior.rows))),
        (0.0, float(np.sqrt(_FARTHEST_PRIORS * prior.spread))),
        (0.0, 0.5 * np.pi),
    )


def _closer(box: Box, grid: _Grid, log_posterior: Floats, shape: tuple[int, int, int]) -> Box:
    """The part of a box in which there is any weight, a node wider on either side."""
    whole = log_posterior.reshape(shape)
    found = []
    for axis, (limits, nodes) in enumerate(zip(box, grid.axes, strict=True)):
        others = tuple(n for n in range(3) if n != axis)
        along = whole.max(axis=others)
        kept = np.flatnonzero(along > along.max() - _LOOKED_AT)
        low = nodes[kept[0] - 1] if kept[0] > 0 else limits[0]
        high = nodes[kept[-1] + 1] if kept[-1] + 1 < len(nodes) else limits[1]
        found.append((float(low), float(high)))
    return found[0], found[1], found[2]


@dataclass(frozen=True, kw_only=True)
class CrossedFit:
    """The posterior: points of the variance components that matter, with their weights.

    Parameters
    ----------
    weight : ndarray, shape (g,)
        Summing to 1.
    """

    cells: Cells
    prior: CrossedPrior
    given: Given
    weight: Floats
    spread: Interval

    def rows(self) -> list[Interval]:
        """The typical value of every row: exp of median and 95 % interval."""
        return _intervals(*self.given.rows(), self.weight)

    def new_column(self) -> list[Interval]:
        """Every row in a column nobody measured."""
        return _intervals(*self.given.new_column(), self.weight)

    def new_cells(self, where: np.ndarray) -> list[Interval]:
        """Cells that were not measured; `where` of shape (k, j) says which, read row by row."""
        mean, variance = self.given.new_cells()
        return _intervals(mean[:, where], variance[:, where], self.weight)

    def left_out(self) -> Floats:
        """For each measured cell the probability, from all others, to lie below it.

        Returns
        -------
        ndarray, shape (k, j)
            NaN where nothing was measured.
        """
        away, variance = self.given.left_out()
        mask = self.cells.mask
        away, sd = away[:, mask], np.sqrt(variance[:, mask])
        z = away / sd
        log_density = -0.5 * z**2 - np.log(sd)
        found = np.full(mask.shape, np.nan)
        found[mask] = self._without(log_density, ndtr(z))
        return found

    def columns_left_out(self) -> Floats:
        """For each whole column the probability, from the others, to lie below it; shape (j,)."""
        shifts, densities = zip(
            *(self.given.column_left_out(j) for j in range(self.cells.y.shape[1])), strict=True
        )
        return self._without(np.stack(densities, axis=1), ndtr(np.stack(shifts, axis=1)))

    def _without(self, log_density: Floats, below: Floats) -> Floats:
        """Average over the points as weighed without what has this density given the rest."""
        with np.errstate(divide="ignore"):
            log_weight = np.log(self.weight)[:, None] - log_density
        weight = np.exp(log_weight - log_weight.max(axis=0))
        return np.asarray((weight * below).sum(axis=0) / weight.sum(axis=0))


def fit_crossed(
    cells: Cells, prior: CrossedPrior | None = None, shape: tuple[int, int, int] = FINE
) -> CrossedFit:
    """Integrate the variance components.

    Parameters
    ----------
    cells : Cells
        Every row and column has at least one measured cell.
    prior : CrossedPrior, optional
        Of the components.
    shape : tuple of int
        Points of the grid along sqrt sa, sqrt t and the angle.

    Raises
    ------
    ValueError
        If a row or a column has no measured cell, or an error is no positive number.
    """
    mask = cells.mask
    if not mask.any(axis=0).all() or not mask.any(axis=1).all():
        raise ValueError("every row and every column needs a measured cell")
    if not (cells.error[mask] > 0).all() or not (cells.shared >= 0).all():
        raise ValueError("errors must be positive")
    used = prior or CrossedPrior()
    box = _whole_box(used)
    for _ in range(2):
        coarse = _grid(box, COARSE, used)
        posterior = coarse.log_weight + Given(cells, coarse.at).log_likelihood
        box = _closer(box, coarse, posterior, COARSE)
    grid = _grid(box, shape, used)
    log_posterior = grid.log_weight + Given(cells, grid.at).log_likelihood
    weight = np.exp(log_posterior - log_posterior.max())
    spread = _spread(weight.reshape(shape).sum(axis=(0, 2)), box[1])
    kept = weight > _NEGLIGIBLE
    weight = weight[kept] / weight[kept].sum()
    at = Components(
        rows=grid.at.rows[kept], columns=grid.at.columns[kept], cells=grid.at.cells[kept]
    )
    return CrossedFit(cells=cells, prior=used, given=Given(cells, at), weight=weight, spread=spread)


def doubled(prior: CrossedPrior) -> CrossedPrior:
    """The prior with twice the scale of t, to see how much rests on it."""
    return replace(prior, spread=2.0 * prior.spread)


def _spread(masses: Floats, limits: tuple[float, float]) -> Interval:
    """Quantiles of t from the weights at Gauss-Legendre nodes of its square root.

    The density is projected on Legendre polynomials by that quadrature and integrated term by term.
    """
    nodes, _ = _legendre(len(masses))
    degrees = np.arange(len(nodes))
    basis = np.polynomial.legendre.legvander(nodes, len(nodes) - 1)
    series = (2 * degrees + 1) / 2.0 * (masses[:, None] * basis).sum(axis=0)
    fine = np.linspace(-1.0, 1.0, 4001)
    rising = np.polynomial.legendre.legval(fine, np.polynomial.legendre.legint(series, lbnd=-1.0))
    rising = np.maximum.accumulate(np.clip(rising / rising[-1], 0.0, 1.0))
    rising += 1e-12 * np.arange(len(fine))  # So that it rises everywhere.
    at = np.interp(SHARES, rising, fine)
    low, high = limits
    middle, least, most = (0.5 * (high + low) + 0.5 * (high - low) * at) ** 2
    return Interval(float(middle), float(least), float(most))


def _intervals(mean: Floats, variance: Floats, weight: Floats) -> list[Interval]:
    """exp of quantiles of normal mixtures; mean and variance of shape (g, n), weight (g,)."""
    quantiles = np.exp(mixture_quantiles(mean, np.sqrt(variance), weight, SHARES))
    return [Interval(float(q[0]), float(q[1]), float(q[2])) for q in quantiles.T]
