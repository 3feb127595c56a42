"""Lower tolerance bound: the load that p of all such knots exceed, with stated confidence."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.posterior import PRIOR_FREE, Posterior, posterior
from bruiser.core.statistics.strength import Caveat


@dataclass(frozen=True, kw_only=True)
class ToleranceBound:
    """The load in newton that a `share` of such knots exceed, with `confidence`."""

    share: float
    confidence: float
    load_n: float
    caveats: tuple[Caveat, ...]
    pull_ids: tuple[str, ...]


def lower_tolerance_bounds(
    samples: list[Sample],
    shares: tuple[float, ...] = (0.90, 0.95, 0.99),
    confidence: float = 0.95,
    known: Posterior | None = None,
) -> list[dict[float, ToleranceBound]]:
    """Lower tolerance bounds of every group.

    Parameters
    ----------
    samples : list of Sample
        The groups.
    shares : tuple of float
        Shares of all such knots.
    confidence : float
        One-sided confidence.
    known : Posterior, optional
        Prior-free posterior of the estimable groups in order, where it was computed already.

    Returns
    -------
    list of dict
        Bound by share; empty for a group without two different observed strengths.

    Notes
    -----
    The 1 - confidence posterior quantile of mu - z_p sigma under the prior-free 1/sigma (never
    the informative prior). Without floors this equals mean - k s with
    k = t'_{n-1, z_p sqrt n}(confidence) / sqrt n, the noncentral t factor (G. J. Hahn and W. Q.
    Meeker, "Statistical Intervals", normal tolerance bounds), which is then used as it stands and
    which the tests hold the quadrature against. The 99 %
    bound depends on the tail of the distribution; below 30 specimens it carries that caveat.
    """
    rows = [k for k, sample in enumerate(samples) if sample.estimable]
    found: list[dict[float, ToleranceBound]] = [{} for _ in samples]
    if not rows:
        return found
    fitted = posterior([samples[k] for k in rows], PRIOR_FREE) if known is None else known
    for share in shares:
        z = float(ndtri(share))
        bounds = fitted.quantile(1 - confidence, z)
        for n, k in enumerate(rows):
            sample = samples[k]
            exact = None if sample.floor_count else closed_form(sample, z, confidence)
            load = math.exp(float(bounds[n]) if exact is None else exact)
            found[k][share] = ToleranceBound(
                share=share,
                confidence=confidence,
                load_n=load,
                caveats=_caveats(share, sample),
                pull_ids=sample.pull_ids,
            )
    return found


def closed_form(sample: Sample, z: float, confidence: float) -> float:
    """The bound of ln load where every strength was observed: mean - k s."""
    x = np.repeat(sample.ln_load, sample.events.astype(int))
    return float(x.mean() - _factor(len(x), z, confidence) * x.std(ddof=1))


@lru_cache(maxsize=4_096)
def _factor(n: int, z: float, confidence: float) -> float:
    from scipy.stats import nct  # slow to load

    return float(nct.ppf(confidence, n - 1, z * math.sqrt(n))) / math.sqrt(n)


def _caveats(share: float, sample: Sample) -> tuple[Caveat, ...]:
    if share > 0.95 and len(sample.ln_load) < 30:
        words = "rests on the tail of the assumed distribution; fewer than 30 specimens"
        return (Caveat("tail assumed", words),)
    return ()
