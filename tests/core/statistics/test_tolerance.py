import math

import numpy as np
import pytest
from scipy import stats

from bruiser.core.statistics.posterior import PRIOR_FREE, posterior
from bruiser.core.statistics.tolerance import lower_tolerance_bounds
from tests.core.samples import sample, scattered


@pytest.mark.parametrize("n", [3, 5, 10, 40])
@pytest.mark.parametrize("share", [0.90, 0.95, 0.99])
def test_without_floors_it_is_the_noncentral_t_bound(n, share):
    s = scattered(np.random.default_rng(n), 7_000, 0.06, n)
    z = stats.norm.ppf(share)
    k = stats.nct.ppf(0.95, n - 1, z * math.sqrt(n)) / math.sqrt(n)
    exact = math.exp(s.ln_load.mean() - k * s.ln_load.std(ddof=1))
    bound = lower_tolerance_bounds([s])[0][share]
    assert bound.load_n == pytest.approx(exact, rel=1e-9)
    assert bound.pull_ids == s.pull_ids


def test_a_hand_worked_factor():
    # n = 5, 90 % with 95 % confidence: the published one-sided factor is 3.407.
    s = sample(np.exp([-1.0, -0.5, 0.0, 0.5, 1.0]))
    bound = lower_tolerance_bounds([s], (0.90,))[0][0.90]
    assert -math.log(bound.load_n) / s.ln_load.std(ddof=1) == pytest.approx(3.407, abs=5e-4)


def test_survivors_count_and_a_known_posterior_gives_the_same():
    rng = np.random.default_rng(1)
    seen = scattered(rng, 7_000, 0.08, 8)
    more = sample(np.r_[np.exp(seen.ln_load), 7_600, 7_700], [1] * 8 + [0, 0], [0] * 8 + [1, 1])
    plain, raised = lower_tolerance_bounds([seen, more], (0.90,))
    assert raised[0.90].load_n == pytest.approx(plain[0.90].load_n, rel=0.02)
    assert raised[0.90].load_n != plain[0.90].load_n
    known = posterior([seen, more], PRIOR_FREE)
    again = lower_tolerance_bounds([seen, more], (0.90,), known=known)
    assert again[1][0.90].load_n == raised[0.90].load_n


def test_groups_without_spread_have_no_bound_and_the_tail_is_labelled():
    few, equal, good = sample([7_000]), sample([7_000, 7_000]), sample([6_800, 7_000, 7_300])
    bounds = lower_tolerance_bounds([few, equal, good])
    assert bounds[:2] == [{}, {}]
    assert [c.kind for c in bounds[2][0.99].caveats] == ["tail assumed"]
    assert bounds[2][0.90].caveats == ()
    assert bounds[2][0.90].load_n > bounds[2][0.95].load_n > bounds[2][0.99].load_n
