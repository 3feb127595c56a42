"""Wraps: how the grip of a friction hitch grows with its wraps, and how many are enough."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import log_ndtr, stdtrit

from bruiser.core.errors import TooFewPulls
from bruiser.core.statistics.censored import Floats, hazard

NINE_OF_TEN = 1.2815515655446004
_RISE_PRIOR = (math.log(0.6), 0.7)


@dataclass(frozen=True, kw_only=True)
class WrapSample:
    """Grip tests of one cord on one host.

    Parameters
    ----------
    wraps, ln_grip : ndarray, shape (n,)
        Number of wraps and ln of the grip load in newton.
    held : ndarray of bool, shape (n,)
        True where it held at least that load (a floor).
    """

    wraps: Floats
    ln_grip: Floats
    held: np.ndarray
    pull_ids: tuple[str, ...] = ()

    @property
    def events(self) -> int:
        """Specimens whose grip load was observed."""
        return int((~self.held).sum())


@dataclass(frozen=True, kw_only=True)
class WrapFit:
    """ln grip = intercept + per_wrap x wraps, with spread sigma."""

    intercept: float
    per_wrap: float
    sigma: float
    log_likelihood: float

    def median_n(self, wraps: float) -> float:
        """Typical grip in newton with so many wraps."""
        return math.exp(self.intercept + self.per_wrap * wraps)


@dataclass(frozen=True, kw_only=True)
class WrapCertificate:
    """Whether `wraps` hold a load, and the lower bounds that decide."""

    wraps: int
    target_n: float
    nine_of_ten: bool
    holds: bool
    by_likelihood_n: float
    by_posterior_n: float
    pull_ids: tuple[str, ...]


def _log_likelihood(sample: WrapSample, mean: Floats, ln_sigma: Floats) -> Floats:
    """Log-likelihood; `mean` of shape (..., n), `ln_sigma` of shape (...)."""
    z = (sample.ln_grip - mean) * np.exp(-ln_sigma)[..., None]
    seen = -0.5 * z * z - ln_sigma[..., None] - 0.5 * math.log(2 * math.pi)
    return np.asarray(np.where(sample.held, log_ndtr(-z), seen).sum(axis=-1))


def fit_wraps(sample: WrapSample) -> WrapFit | None:
    """Maximum likelihood of the wrap line; None if it does not exist.

    Notes
    -----
    Needs three observed grips on two numbers of wraps or more. BFGS with the exact gradient from
    the observed least-squares line; the tests check the gradient at the maximum.
    """
    from scipy.optimize import minimize  # slow to load

    seen = ~sample.held
    if seen.sum() < 3 or len(np.unique(sample.wraps[seen])) < 2:
        return None
    middle = float(sample.wraps.mean())
    w = sample.wraps - middle
    rise, level = np.polyfit(w[seen], sample.ln_grip[seen], 1)
    rest = float(np.std(sample.ln_grip[seen] - level - rise * w[seen]))
    if rest < 1e-9:
        return None

    def minus(par: Floats) -> tuple[float, Floats]:
        sigma = math.exp(par[2])
        mean = par[0] + par[1] * w
        z = (sample.ln_grip - mean) / sigma
        pull = np.where(sample.held, hazard(z), z)
        slope = np.array(
            [
                pull.sum() / sigma,
                (pull * w).sum() / sigma,
                (pull * z).sum() - seen.sum(),
            ]
        )
        return -float(_log_likelihood(sample, mean, np.array(par[2]))), -slope

    start = np.array([level, rise, math.log(rest)])
    done = minimize(minus, start, jac=True, method="BFGS", options={"gtol": 1e-8})
    level, rise, ln_sigma = (float(v) for v in done.x)
    return WrapFit(
        intercept=level - rise * middle,
        per_wrap=rise,
        sigma=math.exp(ln_sigma),
        log_likelihood=-float(done.fun),
    )


def _cutoff(events: int, confidence: float) -> float:
    """Fall of twice the log-likelihood for a one-sided bound, three parameters estimated."""
    free = max(events - 3, 1)
    t = float(stdtrit(free, confidence))
    return events * math.log1p(t * t / free)


def _bound_by_likelihood(
    sample: WrapSample, found: WrapFit, wraps: int, z: float, confidence: float
) -> float:
    """Lowest mu(wraps) - z sigma whose profile has not fallen by the cutoff."""
    from scipy.optimize import minimize  # slow to load

    w = sample.wraps - wraps
    best = math.log(found.median_n(wraps)) - z * found.sigma
    cutoff = _cutoff(sample.events, confidence)
    start = np.array([found.per_wrap, math.log(found.sigma)])

    def fall(bound: float) -> float:

        nonlocal start

        def minus(par: Floats) -> float:
            mean = bound + z * math.exp(par[1]) + par[0] * w
            return -float(_log_likelihood(sample, mean, np.array(par[1])))

        done = minimize(minus, start, method="Nelder-Mead", options={"xatol": 1e-6, "fatol": 1e-8})
        start = done.x
        return 2 * (found.log_likelihood + float(done.fun)) - cutoff

    low, step = best, found.sigma
    for _ in range(40):
        low -= step
        step *= 1.5
        if fall(low) > 0:
            break
    high = best
    for _ in range(40):
        middle = 0.5 * (low + high)
        if fall(middle) > 0:
            low = middle
        else:
            high = middle
        if high - low < 1e-6:
            break
    return low


def _bound_by_posterior(
    sample: WrapSample, found: WrapFit, wraps: int, z: float, confidence: float
) -> float:
    """1 - confidence quantile of mu(wraps) - z sigma; b ~ LogNormal(ln 0.6, 0.7^2), 1/sigma."""
    centre = math.log(found.median_n(wraps))
    free = max(sample.events - 2, 1)
    u = np.linspace(-3.0, 5.0, 41)
    ln_sigma = math.log(found.sigma) + 0.55 * np.sinh(u) / math.sqrt(2 * free)
    rise_u = np.linspace(-4, 4, 61)
    own = found.sigma / (np.std(sample.wraps) * math.sqrt(len(sample.wraps)))
    rises = np.exp(_RISE_PRIOR[0] + _RISE_PRIOR[1] * rise_u)
    near = found.per_wrap + own * np.sinh(np.linspace(-4, 4, 61))
    rise = np.unique(np.concatenate([rises, near[near > 0]]))
    spread = found.sigma * (1 + np.abs(sample.wraps - wraps).min())
    level = centre + spread * 0.5 * np.sinh(np.linspace(-4.5, 3.5, 81))
    a, b, s = np.meshgrid(level, rise, ln_sigma, indexing="ij")
    log_p = np.zeros(a.shape)
    for value, count, held in zip(sample.ln_grip, sample.wraps, sample.held, strict=True):
        t = (value - a - b * (count - wraps)) * np.exp(-s)
        log_p += log_ndtr(-t) if held else -0.5 * t * t - s
    log_p += -np.log(b) - 0.5 * ((np.log(b) - _RISE_PRIOR[0]) / _RISE_PRIOR[1]) ** 2
    log_p += np.log(np.gradient(level))[:, None, None]
    log_p += np.log(np.gradient(rise))[None, :, None]
    log_p += np.log(np.gradient(ln_sigma))[None, None, :]
    weight = np.exp(log_p - log_p.max())
    value = (a - z * np.exp(s)).ravel()
    order = np.argsort(value)
    cdf = np.cumsum(weight.ravel()[order])
    return float(np.interp(1 - confidence, cdf / cdf[-1], value[order]))


def certify_wraps(
    sample: WrapSample, wraps: int, target_n: float, *, nine_of_ten: bool = False
) -> WrapCertificate:
    """Judge whether so many wraps hold a load.

    Parameters
    ----------
    sample : WrapSample
        The grip tests.
    wraps : int
        Wraps to judge; at most one more than was tested.
    target_n : float
        Load to be held.
    nine_of_ten : bool
        Ask that nine of ten hold it (at 2.5 %) instead of the typical one (at 5 %).

    Returns
    -------
    WrapCertificate
        It holds only if both lower bounds clear the target: likelihood ratio with the t cutoff,
        and the posterior.

    Raises
    ------
    TooFewPulls
        If the line cannot be fitted, or `wraps` reaches beyond one more than was tested.
    """
    if wraps > sample.wraps.max() + 1:
        raise TooFewPulls(
            f"{wraps} wraps lie beyond what was tested.",
            f"Test up to {wraps - 1} wraps first.",
        )
    found = fit_wraps(sample)
    if found is None:
        raise TooFewPulls(
            "The wraps cannot be judged.", "Observe three grips on two numbers of wraps or more."
        )
    z, confidence = (NINE_OF_TEN, 0.975) if nine_of_ten else (0.0, 0.95)
    by_likelihood = math.exp(_bound_by_likelihood(sample, found, wraps, z, confidence))
    by_posterior = math.exp(_bound_by_posterior(sample, found, wraps, z, confidence))
    holds = min(by_likelihood, by_posterior) > target_n
    return WrapCertificate(
        wraps=wraps,
        target_n=target_n,
        nine_of_ten=nine_of_ten,
        holds=holds,
        by_likelihood_n=by_likelihood,
        by_posterior_n=by_posterior,
        pull_ids=sample.pull_ids,
    )


def fewest_wraps(
    sample: WrapSample, target_n: float, *, nine_of_ten: bool = False
) -> WrapCertificate | None:
    """The fewest wraps that hold the load with confidence; None if none within reach does."""
    first, last = int(sample.wraps.min()), int(sample.wraps.max()) + 1
    for wraps in range(first, last + 1):
        certificate = certify_wraps(sample, wraps, target_n, nine_of_ten=nine_of_ten)
        if certificate.holds:
            return certificate
    return None
