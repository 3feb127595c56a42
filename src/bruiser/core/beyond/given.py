"""Crossed effects once their variance components are given: all is Gaussian, rows eliminated.

The model and its sources stand in :mod:`bruiser.core.beyond.crossed`.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bruiser.core.statistics.censored import Floats

_LEAST_VARIANCE = 1e-6
_LEAST_PRIOR_VARIANCE = 1e-9


@dataclass(frozen=True, kw_only=True)
class Cells:
    """What was measured, a row of cells each.

    Parameters
    ----------
    y : ndarray, shape (k, j)
        Natural logarithms; NaN where nothing was measured.
    error : ndarray, shape (k, j)
        Standard error of each, the shared one included.
    shared : ndarray, shape (j,)
        Standard error that the cells of a column have in common.
    """

    y: Floats
    error: Floats
    shared: Floats

    @property
    def mask(self) -> np.ndarray:
        """Where something was measured; shape (k, j)."""
        return np.isfinite(self.y)


@dataclass(frozen=True, kw_only=True)
class Components:
    """Variance components at points of a grid, in ln; each of shape (g,)."""

    rows: Floats
    columns: Floats
    cells: Floats

    @property
    def spread(self) -> Floats:
        """sqrt(sb^2 + sc^2)."""
        return np.hypot(self.columns, self.cells)


class Given:
    """All that is Gaussian once the components are given, at every point of a grid.

    Parameters
    ----------
    cells : Cells
        Measured; every column and row has at least one.
    at : Components
        The points.

    Attributes
    ----------
    log_likelihood : ndarray, shape (g,)
        Restricted (mu integrated).
    """

    def __init__(self, cells: Cells, at: Components) -> None:
        mask = cells.mask
        self.at, self._mask = at, mask
        self._centre = float(cells.y[mask].mean())
        self._y = y = np.where(mask, cells.y - self._centre, 0.0)
        tau2 = cells.shared**2
        own = np.maximum(np.where(mask, cells.error, 1.0) ** 2 - tau2, _LEAST_VARIANCE)
        sa2, sb2, sc2 = at.rows**2, at.columns**2, at.cells**2
        self._w = w = mask / (sc2[:, None, None] + own)
        total = w.sum(axis=2)
        self._phi = phi = sa2[:, None] / (1.0 + sa2[:, None] * total)
        self._wy = wy = (w * y).sum(axis=2)
        prior = np.maximum(sb2[:, None] + tau2, _LEAST_PRIOR_VARIANCE)
        inverse = 1.0 / prior
        self._sum = inverse.sum(axis=1)
        self._h = h = inverse / self._sum[:, None]
        columns = len(tau2)
        diagonal = np.arange(columns)
        precision = -np.matmul((phi[..., None] * w).transpose(0, 2, 1), w)
        precision[:, diagonal, diagonal] += w.sum(axis=1) + inverse
        precision -= self._sum[:, None, None] * h[:, :, None] * h[:, None, :]
        lower = np.linalg.cholesky(precision)
        half = np.linalg.inv(lower)
        self._covariance = cov = np.matmul(half.transpose(0, 2, 1), half)
        b = (w * y).sum(axis=1) - np.einsum("gk,gkj->gj", phi * wy, w)
        self._m = m = np.einsum("gij,gj->gi", cov, b)
        log_w = np.log(np.where(mask, w, 1.0)).sum(axis=(1, 2))
        seen = int(mask.sum())
        self.log_likelihood = (
            -0.5 * (seen - 1) * np.log(2.0 * np.pi)
            + 0.5 * log_w
            - 0.5 * np.log1p(sa2[:, None] * total).sum(axis=1)
            - 0.5 * ((w * y**2).sum(axis=(1, 2)) - (phi * wy**2).sum(axis=1))
            - 0.5 * np.log(prior).sum(axis=1)
            - 0.5 * np.log(self._sum)
            - np.log(lower[:, diagonal, diagonal]).sum(axis=1)
            + 0.5 * (b * m).sum(axis=1)
        )
        self._wc = np.matmul(w, cov)
        self._wcw = (self._wc * w).sum(axis=2)
        self._hc = np.einsum("gij,gj->gi", cov, h)
        self._hch = (self._hc * h).sum(axis=1)
        self._variances = cov[:, diagonal, diagonal]
        # What is left of a column's prior once its mean is known: b_j given b_j + u_j.
        self._r = sb2[:, None] / prior
        self._beside = sb2[:, None] * tau2 / prior

    def rows(self) -> tuple[Floats, Floats]:
        """mu + a_k: mean and variance, each of shape (g, k)."""
        phi, hm = self._phi, (self._h * self._m).sum(axis=1)
        mean = hm[:, None] + self._effects() + self._centre
        hcw = np.einsum("gkj,gj->gk", self._wc, self._h)
        variance = self._hch[:, None] - 2.0 * phi * hcw + phi**2 * self._wcw
        return mean, variance + 1.0 / self._sum[:, None] + phi

    def new_column(self) -> tuple[Floats, Floats]:
        """mu + a_k + b + c in a column nobody measured: mean and variance, shape (g, k)."""
        mean, variance = self.rows()
        return mean, variance + self.at.spread[:, None] ** 2

    def new_cells(self) -> tuple[Floats, Floats]:
        """mu + a_k + b_j + c of a cell not measured: mean and variance, shape (g, k, j)."""
        r, phi = self._r[:, None, :], self._phi[..., None]
        hm = (self._h * self._m).sum(axis=1)[:, None, None]
        mean = (1.0 - r) * hm + r * self._m[:, None, :] + self._effects()[..., None]
        hcw = np.einsum("gkj,gj->gk", self._wc, self._h)[..., None]
        variance = (
            (1.0 - r) ** 2 * self._hch[:, None, None]
            + r**2 * self._variances[:, None, :]
            + phi**2 * self._wcw[..., None]
            + 2.0 * (1.0 - r) * r * self._hc[:, None, :]
            - 2.0 * (1.0 - r) * phi * hcw
            - 2.0 * r * phi * self._wc
        )
        more = (1.0 - r) ** 2 / self._sum[:, None, None] + phi + self._beside[:, None, :]
        return mean + self._centre, variance + more + self.at.cells[:, None, None] ** 2

    def _effects(self) -> Floats:
        """Posterior mean of a_k given the column means; shape (g, k)."""
        return np.asarray(self._phi * (self._wy - np.einsum("gkj,gj->gk", self._w, self._m)))

    def left_out(self) -> tuple[Floats, Floats]:
        """A measured cell less what the others say of it, and its variance; shape (g, k, j).

        With P the projected inverse covariance, y_i less its mean given the rest is (P y)_i / P_ii
        and its variance 1 / P_ii.
        """
        phi = self._phi[..., None]
        fitted = self._m[:, None, :] + self._effects()[..., None]
        variance = (
            self._variances[:, None, :] - 2.0 * phi * self._wc + phi**2 * self._wcw[..., None] + phi
        )
        pull = self._w * (self._y - fitted)
        own = np.where(self._mask, self._w - self._w**2 * variance, 1.0)
        own = np.maximum(own, np.finfo(float).tiny)
        return pull / own, 1.0 / own

    def column_left_out(self, column: int) -> tuple[Floats, Floats]:
        """A whole column against the rest: its standardised common shift, and its log density.

        Returns
        -------
        shift, log_density : ndarray, shape (g,)
            1' P y / sqrt(1' P 1) over the column's cells, and ln of their density given the rest.
        """
        rows = np.flatnonzero(self._mask[:, column])
        w, phi = self._w[:, rows, column], self._phi[:, rows]
        wc = self._wc[:, rows, column]
        between = np.matmul(self._wc[:, rows], self._w[:, rows].transpose(0, 2, 1))
        cov = self._variances[:, column, None, None] + phi[:, :, None] * phi[:, None] * between
        cov -= phi[:, :, None] * wc[:, :, None] + phi[:, None] * wc[:, None]
        at = np.arange(len(rows))
        cov[:, at, at] += phi
        precision = -w[:, :, None] * cov * w[:, None]
        precision[:, at, at] += w
        fitted = self._m[:, column, None] + self._effects()[:, rows]
        pull = w * (self._y[rows, column] - fitted)
        lower = np.linalg.cholesky(precision)
        half = np.linalg.solve(lower, pull[..., None])[..., 0]
        log_density = (
            -0.5 * len(rows) * np.log(2.0 * np.pi)
            + np.log(lower[:, at, at]).sum(axis=1)
            - 0.5 * (half**2).sum(axis=1)
        )
        return pull.sum(axis=1) / np.sqrt(precision.sum(axis=(1, 2))), log_density
