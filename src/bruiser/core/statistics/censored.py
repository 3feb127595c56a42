"""Right-censored log-normal likelihood and its maximum, vectorised over groups.

A group is a row of padded arrays: ``ln_load`` (x), ``events`` (d, strengths observed at x) and
``floors`` (c, strengths known only to exceed x). A cell with d = c = 0 is padding.

Notes
-----
    log L(mu, sigma) = sum d (ln phi(z) - ln sigma) + c ln Phi(-z),   z = (x - mu) / sigma

the log-likelihood of ln(load), not of load. Maximised in Olsen's parameters theta = 1/sigma,
delta = mu/sigma, in which it is concave everywhere, so that Newton's method with step-halving
cannot stop at a wrong place (R. J. Olsen, "Note on the uniqueness of the maximum likelihood
estimator for the Tobit model", Econometrica 46, 1978). Checked in the tests against
``scipy.stats`` fits to censored data and by the gradient at the maximum.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import erfcx, log_ndtr

from bruiser.core.errors import DataError

Floats = NDArray[np.float64]
_SQRT_HALF = math.sqrt(0.5)
_SQRT_2_OVER_PI = math.sqrt(2.0 / math.pi)
_LOG_SQRT_2PI = 0.5 * math.log(2.0 * math.pi)


@dataclass(frozen=True, kw_only=True)
class Sample:
    """The evidence of one group.

    Parameters
    ----------
    ln_load : ndarray, shape (k,)
        ln of the peak load in newton.
    events, floors : ndarray, shape (k,)
        How many strengths were observed at that load, and how many exceeded it.
    pull_ids : tuple of str
        The pulls behind it, in the same order.
    """

    ln_load: Floats
    events: Floats
    floors: Floats
    pull_ids: tuple[str, ...] = ()

    @property
    def event_count(self) -> int:
        """Number of observed strengths."""
        return int(self.events.sum())

    @property
    def floor_count(self) -> int:
        """Number of strengths known only as a floor."""
        return int(self.floors.sum())

    @property
    def estimable(self) -> bool:
        """Whether the maximum likelihood exists: two different observed strengths."""
        return len(np.unique(self.ln_load[self.events > 0])) >= 2


def make_sample(rows: list[tuple[str, float, int, int]]) -> Sample:
    """Build a sample from (pull id, load in newton, events, floors).

    Raises
    ------
    DataError
        If a load is zero, negative, NaN or infinite; it names the pull.
    """
    for pull, load, _, _ in rows:
        if not (math.isfinite(load) and load > 0):
            raise DataError(f"Pull {pull} has no usable load ({load:g} N).", "Correct or void it.")
    return Sample(
        ln_load=np.log(np.array([r[1] for r in rows], dtype=np.float64)),
        events=np.array([r[2] for r in rows], dtype=np.float64),
        floors=np.array([r[3] for r in rows], dtype=np.float64),
        pull_ids=tuple(r[0] for r in rows),
    )


@dataclass(frozen=True)
class Fit:
    """Maximum-likelihood estimates; one entry a group, NaN where there is none."""

    mu: Floats
    sigma: Floats
    log_likelihood: Floats


def stack(samples: list[Sample]) -> tuple[Floats, Floats, Floats]:
    """Pad samples into arrays of shape (groups, longest)."""
    width = max((len(s.ln_load) for s in samples), default=0)
    shape = (len(samples), width)
    x, d, c = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for row, s in enumerate(samples):
        k = len(s.ln_load)
        x[row, :k], d[row, :k], c[row, :k] = s.ln_load, s.events, s.floors
    return x, d, c


def hazard(z: Floats) -> Floats:
    """phi(z) / Phi(-z) = sqrt(2/pi) / erfcx(z / sqrt 2), stable for any z."""
    return np.asarray(_SQRT_2_OVER_PI / erfcx(z * _SQRT_HALF))


def bend_of(h: Floats, z: Floats) -> Floats:
    """h (h - z) for the hazard h at z, which lies between 0 and 1: the curvature of a floor."""
    return np.clip(h * (h - z), 0.0, 1.0)


def log_likelihood(x: Floats, d: Floats, c: Floats, mu: Floats, sigma: Floats) -> Floats:
    """Log-likelihood of ln(load), summed over the last axis.

    Parameters
    ----------
    x, d, c : ndarray, shape (..., k)
        Data as in the module's description.
    mu, sigma : ndarray, shape (...)
        Parameters; broadcast against the leading axes.

    Returns
    -------
    ndarray, shape (...)
    """
    z = (x - mu[..., None]) / sigma[..., None]
    seen = d * (-0.5 * z * z - _LOG_SQRT_2PI - np.log(sigma)[..., None])
    return np.asarray((seen + c * log_ndtr(-z)).sum(axis=-1))


def _olsen_value(x: Floats, d: Floats, c: Floats, delta: Floats, theta: Floats) -> Floats:
    z = theta[:, None] * x - delta[:, None]
    seen = d * (np.log(theta)[:, None] - 0.5 * z * z - _LOG_SQRT_2PI)
    return np.asarray((seen + c * log_ndtr(-z)).sum(axis=1))


def fit(x: Floats, d: Floats, c: Floats, *, iterations: int = 60) -> Fit:
    """Maximum-likelihood mu and sigma of every group.

    Parameters
    ----------
    x, d, c : ndarray, shape (g, k)
        Data as in the module's description.
    iterations : int
        Upper limit of Newton steps; about eight are needed.

    Returns
    -------
    Fit
        Arrays of shape (g,); NaN for groups without two different observed strengths.
    """
    groups = x.shape[0]
    mu, sigma = np.full(groups, np.nan), np.full(groups, np.nan)
    best = np.full(groups, np.nan)
    low = np.where(d > 0, x, np.inf).min(axis=1, initial=np.inf)
    high = np.where(d > 0, x, -np.inf).max(axis=1, initial=-np.inf)
    todo = np.flatnonzero(high > low)
    if not len(todo):
        return Fit(mu, sigma, best)
    xs, ds, cs = x[todo], d[todo], c[todo]
    count = ds.sum(axis=1)
    centre = (ds * xs).sum(axis=1) / count
    scale = np.sqrt((ds * (xs - centre[:, None]) ** 2).sum(axis=1) / count)
    u = np.where((ds + cs) > 0, (xs - centre[:, None]) / scale[:, None], 0.0)
    delta, theta = np.zeros(len(todo)), np.ones(len(todo))
    value = _olsen_value(u, ds, cs, delta, theta)
    for _ in range(iterations):
        z = theta[:, None] * u - delta[:, None]
        h = hazard(z)
        bend = cs * bend_of(h, z)
        g_delta = (ds * z + cs * h).sum(axis=1)
        g_theta = count / theta - ((ds * z + cs * h) * u).sum(axis=1)
        h_dd = (ds + bend).sum(axis=1)
        h_dt = -((ds + bend) * u).sum(axis=1)
        h_tt = count / theta**2 + ((ds + bend) * u * u).sum(axis=1)
        det = h_dd * h_tt - h_dt * h_dt
        step_delta = (h_tt * g_delta - h_dt * g_theta) / det
        step_theta = (h_dd * g_theta - h_dt * g_delta) / det
        length = np.ones(len(todo))
        shrink = np.where(step_theta < 0, -0.9 * theta / np.minimum(step_theta, -1e-300), np.inf)
        length = np.minimum(length, shrink)
        for _ in range(40):
            tried = _olsen_value(
                u, ds, cs, delta + length * step_delta, theta + length * step_theta
            )
            worse = tried < value - 1e-13 * np.abs(value)
            if not worse.any():
                break
            length = np.where(worse, 0.5 * length, length)
        delta, theta = delta + length * step_delta, theta + length * step_theta
        value = tried
        decrement = g_delta * step_delta + g_theta * step_theta
        if np.all(decrement < 1e-18):
            break
    sigma[todo] = scale / theta
    mu[todo] = centre + scale * delta / theta
    best[todo] = log_likelihood(xs, ds, cs, mu[todo], sigma[todo])
    return Fit(mu, sigma, best)


def profile_over_sigma(sample: Sample, mu: Floats, start_sigma: float) -> Floats:
    """Largest log-likelihood over sigma at every given mu.

    Parameters
    ----------
    sample : Sample
        One group with at least one event.
    mu : ndarray, shape (m,)
        Where the profile is wanted.
    start_sigma : float
        A reasonable sigma to start from, such as the maximum-likelihood one.

    Returns
    -------
    ndarray, shape (m,)
    """
    x, d, c = sample.ln_load[None, :], sample.events[None, :], sample.floors[None, :]
    offset = x - mu[:, None]
    count = float(sample.events.sum())
    seen = (d * offset**2).sum(axis=1)
    theta = np.sqrt(count / np.maximum(seen, count * start_sigma**2 * 1e-6))

    def value(th: Floats) -> Floats:
        tail = (c * log_ndtr(-th[:, None] * offset)).sum(axis=1)
        return np.asarray(count * np.log(th) - 0.5 * th**2 * seen + tail - count * _LOG_SQRT_2PI)

    now = value(theta)
    for _ in range(60):
        z = theta[:, None] * offset
        h = hazard(z)
        slope = count / theta - theta * seen - (c * h * offset).sum(axis=1)
        curve = count / theta**2 + seen + (c * bend_of(h, z) * offset**2).sum(axis=1)
        step = np.maximum(slope / curve, -0.9 * theta)
        length = np.ones_like(theta)
        for _ in range(40):
            tried = value(theta + length * step)
            worse = tried < now - 1e-13 * np.abs(now)
            if not worse.any():
                break
            length = np.where(worse, 0.5 * length, length)
        theta, now = theta + length * step, tried
        if np.all(np.abs(slope * step) < 1e-14):
            break
    return now
