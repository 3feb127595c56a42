"""Samples shared by the tests of the statistics."""

import numpy as np

from bruiser.core.statistics.censored import Sample


def sample(loads, events=None, floors=None, name="p"):
    x = np.log(np.asarray(loads, dtype=float))
    d = np.ones(len(x)) if events is None else np.asarray(events, dtype=float)
    c = np.zeros(len(x)) if floors is None else np.asarray(floors, dtype=float)
    return Sample(
        ln_load=x, events=d, floors=c, pull_ids=tuple(f"{name}{k}" for k in range(len(x)))
    )


def scattered(rng, median, cv, pulls, knots=1):
    """Pulls of a knot at one or both ends; the weaker gives."""
    ends = np.log(median) + cv * rng.standard_normal((pulls, knots))
    floors = np.full(pulls, knots - 1.0)
    return sample(np.exp(ends.min(axis=1)), floors=floors)
