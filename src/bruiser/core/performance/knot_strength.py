"""All results of many groups at once: the estimate, efficiency and tolerance bounds."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.behaviour.security import share_interval
from bruiser.core.performance.efficiency import Against, Case, Efficiency, Priors, efficiencies
from bruiser.core.statistics.posterior import PRIOR_FREE, posterior
from bruiser.core.statistics.strength import Estimate, Interval, estimates
from bruiser.core.statistics.tolerance import ToleranceBound, lower_tolerance_bounds


@dataclass(frozen=True, kw_only=True)
class KnotStrength:
    """What is computed of one knot in one lot and condition."""

    estimate: Estimate | None
    efficiency: Efficiency
    tolerance: dict[float, ToleranceBound]
    came_out: Interval | None


def measure_groups(
    cases: list[Case], priors: Priors | None = None, against: Against = Against.TYPICAL
) -> list[KnotStrength]:
    """Rate many groups; a posterior needed twice is computed once.

    Parameters
    ----------
    cases : list of Case
        Knots with their baselines.
    priors : Priors, optional
        Priors of the spreads.
    against : Against
        Definition of efficiency.

    Returns
    -------
    list of KnotStrength
        In the same order.
    """
    knots = [case.knot for case in cases]
    usable = [sample for sample in knots if sample.estimable]
    free = posterior(usable, PRIOR_FREE) if usable else None
    rated = efficiencies(cases, priors, against, free)
    bounds = lower_tolerance_bounds(knots, known=free)
    shares = [share_interval(c.counts.came_out, c.counts.broke + c.counts.came_out) for c in cases]
    return [
        KnotStrength(estimate=estimate, efficiency=efficiency, tolerance=bound, came_out=share)
        for estimate, efficiency, bound, share in zip(
            estimates(knots), rated, bounds, shares, strict=True
        )
    ]
