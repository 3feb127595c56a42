"""Coverage, bias and error rates of every method, from campaigns with the truth known.

Each function simulates one cell and returns what was measured. ``validation/run.py`` runs them all
and writes the report; the tests run a reduced number with fixed seeds.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import expit

from bruiser.core.behaviour.jamming import jam_load, untying_time
from bruiser.core.behaviour.wraps import WrapSample, certify_wraps
from bruiser.core.performance.efficiency import Against, Case, Priors, _intervals, tabulate
from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.compare import compare_all
from bruiser.core.statistics.profile import profile_interval
from bruiser.core.statistics.strength import OutcomeCounts
from bruiser.core.statistics.tolerance import lower_tolerance_bounds

BASELINE_N, BASELINE_CV, BASELINE_PULLS = 10_000.0, 0.04, 5
SHARE = 0.70
TERMINATION_BREAKS = 0.35
BATCH = 500


@dataclass(frozen=True)
class Measured:
    """Share of campaigns in which something held, out of `trials`; bias where it was asked."""

    share: float
    trials: int
    bias: float = 0.0
    without: int = 0

    @property
    def error(self) -> float:
        """Standard error of the share."""
        return math.sqrt(max(self.share * (1 - self.share), 1e-9) / max(self.trials, 1))


def _baseline(rng: np.random.Generator, terminations: bool) -> Sample:
    strength = math.log(BASELINE_N) + BASELINE_CV * rng.standard_normal(BASELINE_PULLS)
    if not terminations:
        return Sample(
            ln_load=strength, events=np.ones(BASELINE_PULLS), floors=np.zeros(BASELINE_PULLS)
        )
    # Terminations as scattered as the rope, placed so that 35 % of them go first.
    shift = 0.38532 * math.sqrt(2) * BASELINE_CV
    other = math.log(BASELINE_N) + shift + BASELINE_CV * rng.standard_normal(BASELINE_PULLS)
    clear = (strength <= other).astype(float)
    return Sample(ln_load=np.minimum(strength, other), events=clear, floors=1 - clear)


def knot_sample(rng: np.random.Generator, cv: float, pulls: int, knots: int) -> Sample:
    """Pulls of a knot tied at one or both ends; the weaker end gives."""
    ends = math.log(SHARE * BASELINE_N) + cv * rng.standard_normal((pulls, knots))
    return Sample(
        ln_load=ends.min(axis=1), events=np.ones(pulls), floors=np.full(pulls, knots - 1.0)
    )


def efficiency_cell(
    cv: float, pulls: int, knots: int, terminations: bool, campaigns: int, seed: int
) -> Measured:
    """Coverage of the default efficiency interval and bias of its median."""
    rng = np.random.default_rng([seed, round(1000 * cv), pulls, knots, int(terminations)])
    held, values, without = 0, [], 0
    priors = Priors()
    for start in range(0, campaigns, BATCH):
        count = min(BATCH, campaigns - start)
        cases = [
            Case(
                knot=knot_sample(rng, cv, pulls, knots),
                baseline=_baseline(rng, terminations),
                counts=OutcomeCounts(),
            )
            for _ in range(count)
        ]
        tables = (
            tabulate([c.knot for c in cases], priors.knot),
            tabulate([c.baseline for c in cases], priors.baseline),
        )
        for interval in _intervals(cases, *tables, Against.TYPICAL):
            if interval is None:
                without += 1
                continue
            held += interval.low <= SHARE <= interval.high
            values.append(interval.value)
    n = len(values)
    return Measured(held / n, n, float(np.mean(values)) / SHARE - 1, without)


def profile_cell(cv: float, pulls: int, knots: int, campaigns: int, seed: int) -> Measured:
    """Coverage of the profile-likelihood cross-check."""
    rng = np.random.default_rng([seed, 2, round(1000 * cv), pulls, knots])
    held = 0
    for _ in range(campaigns):
        found = profile_interval(knot_sample(rng, cv, pulls, knots), _baseline(rng, False))
        held += found is not None and found.low <= SHARE <= found.high
    return Measured(held / campaigns, campaigns)


def tolerance_cell(
    cv: float, pulls: int, censored: float, share: float, campaigns: int, seed: int
) -> Measured:
    """How often the lower tolerance bound lies below the true quantile."""
    rng = np.random.default_rng([seed, 3, round(1000 * cv), pulls, round(100 * censored)])
    z = {0.90: 1.2815515655, 0.95: 1.6448536270, 0.99: 2.3263478740}[share]
    truth = math.exp(math.log(7_000) - z * cv)
    samples = []
    while len(samples) < campaigns:
        x = math.log(7_000) + cv * rng.standard_normal(pulls)
        limit = np.full(pulls, math.inf)
        if censored:
            # Something else gives first, independently and as scattered as the knot.
            reach = {0.3: 0.5244}[censored] * math.sqrt(2)
            limit = math.log(7_000) + cv * (reach + rng.standard_normal(pulls))
        seen = (x <= limit).astype(float)
        sample = Sample(ln_load=np.minimum(x, limit), events=seen, floors=1 - seen)
        if sample.estimable:
            samples.append(sample)
    held = 0
    for start in range(0, campaigns, BATCH):
        bounds = lower_tolerance_bounds(samples[start : start + BATCH], (share,))
        held += sum(b[share].load_n <= truth for b in bounds)
    return Measured(held / campaigns, campaigns)


def jam_cell(knots: int, campaigns: int, seed: int) -> Measured:
    """Coverage of J50 among campaigns that decide it; `without` counts those that do not."""
    rng = np.random.default_rng([seed, 4, knots])
    theta, width, g1, g2 = math.log(0.6), 0.18, 0.4, 0.4
    held = decided = without = 0
    for _ in range(campaigns):
        x = math.log(0.6) + rng.uniform(-0.7, 0.6, knots)
        chance = [expit((x - t) / width) for t in (theta - g1, theta, theta + g2)]
        level = (rng.random(knots)[None, :] < np.array(chance)).sum(axis=0)
        found = jam_load(np.exp(x), level)
        if found is None or found.j50 is None:
            without += 1
            continue
        decided += 1
        held += found.j50.low <= 0.6 <= found.j50.high
    return Measured(held / max(decided, 1), decided, 0.0, without)


def untie_cell(knots: int, campaigns: int, seed: int) -> Measured:
    """Coverage of the typical untying time with giving up at three minutes."""
    rng = np.random.default_rng([seed, 5, knots])
    held = trials = 0
    for _ in range(campaigns):
        x = math.log(60) + 0.8 * rng.standard_normal(knots)
        seen = (x < math.log(180)).astype(float)
        sample = Sample(ln_load=np.minimum(x, math.log(180)), events=seen, floors=1 - seen)
        found = untying_time(sample)
        if found is not None:
            trials += 1
            held += found.low <= 60 <= found.high
    return Measured(held / trials, trials)


def wraps_cell(per_count: int, nine_of_ten: bool, campaigns: int, seed: int) -> Measured:
    """How often wraps are certified for a load they truly just fail to hold."""
    rng = np.random.default_rng([seed, 6, per_count, int(nine_of_ten)])
    a, b, sigma, asked = math.log(300), 0.6, 0.12, 4
    counts = np.repeat([2.0, 3.0, 4.0], per_count)
    z = 1.2815515655 if nine_of_ten else 0.0
    target = math.exp(a + b * asked - z * sigma)
    limit = a + b * 4.1
    false = 0
    for _ in range(campaigns):
        grip = a + b * counts + sigma * rng.standard_normal(len(counts))
        sample = WrapSample(wraps=counts, ln_grip=np.minimum(grip, limit), held=grip > limit)
        false += certify_wraps(sample, asked, target, nine_of_ten=nine_of_ten).holds
    return Measured(false / campaigns, campaigns)


def family_cell(groups: int, pulls: int, knots: int, campaigns: int, seed: int) -> Measured:
    """How often any pair of truly equal knots is told apart."""
    rng = np.random.default_rng([seed, 7, groups, pulls, knots])
    wrong = 0
    cvs = np.linspace(0.04, 0.12, groups)
    for _ in range(campaigns):
        found = compare_all([knot_sample(rng, cv, pulls, knots) for cv in cvs])
        wrong += any(c.p_adjusted < 0.05 for c in found)
    return Measured(wrong / campaigns, campaigns)
