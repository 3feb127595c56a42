import math

import numpy as np
import pytest
from scipy import stats
from statsmodels.stats.multitest import multipletests

from bruiser.core.statistics.compare import (
    Comparison,
    chance_best,
    compare_all,
    compare_paired,
    holm,
    letters,
    rank_chances,
)
from bruiser.core.statistics.posterior import KNOT_PRIOR, posterior
from tests.core.samples import sample, scattered


def test_without_floors_it_is_welchs_test():
    rng = np.random.default_rng(1)
    a, b = scattered(rng, 7_000, 0.05, 6), scattered(rng, 6_500, 0.09, 5)
    found = compare_all([a, b])[0]
    reference = stats.ttest_ind(a.ln_load, b.ln_load, equal_var=False)
    interval = reference.confidence_interval(0.95)
    assert found.p == pytest.approx(reference.pvalue, rel=1e-6)
    assert (found.low, found.high) == (pytest.approx(interval.low), pytest.approx(interval.high))
    assert found.ratio.value == pytest.approx(math.exp(a.ln_load.mean() - b.ln_load.mean()))


def test_holm_agrees_with_an_independent_one():
    p = [0.01, 0.04, 0.03, 0.2, 0.005]
    assert holm(p) == pytest.approx(list(multipletests(p, method="holm")[1]))
    assert holm([]) == []


def test_groups_that_cannot_be_located_are_left_out():
    rng = np.random.default_rng(1)
    found = compare_all(
        [scattered(rng, 7_000, 0.05, 5), sample([7_000]), scattered(rng, 5_000, 0.05, 5)]
    )
    assert [(c.a, c.b) for c in found] == [(0, 2)]


def told_apart(pairs):
    return [
        Comparison(a=a, b=b, difference=0, low=0, high=0, p=0.001, p_adjusted=0.001)
        for a, b in pairs
    ]


def test_letters_are_shared_exactly_by_those_not_told_apart():
    pairs = [(0, 2), (0, 3), (1, 3)]
    found = letters(4, told_apart(pairs), [0, 1, 2, 3])
    assert found == ["a", "ab", "bc", "c"]
    for a in range(4):
        for b in range(a + 1, 4):
            assert bool(set(found[a]) & set(found[b])) == ((a, b) not in pairs)
    assert letters(3, [], [0, 1, 2]) == ["a", "a", "a"]
    assert letters(0, [], []) == []


def test_many_letters_still_tell_everything_apart():
    every = [(a, b) for a in range(30) for b in range(a + 1, 30)]
    found = letters(30, told_apart(every), list(range(30)))
    assert len(set(found)) == 30
    assert found[0] == "a"
    assert found[26] == "aa"


def test_paired_hanks_use_the_pairing():
    rng = np.random.default_rng(2)
    hank = 0.2 * rng.standard_normal(6)
    first = 9.0 + hank + 0.01 * rng.standard_normal(6)
    second = 8.95 + hank + 0.01 * rng.standard_normal(6)
    found = compare_paired(first, second)
    reference = stats.ttest_rel(first, second)
    assert found.p == pytest.approx(reference.pvalue)
    assert found.ratio.low > 1.0
    assert stats.ttest_ind(first, second).pvalue > 0.2
    assert compare_paired(first[:1], second[:1]) is None
    assert compare_paired(first, first) is None


def test_the_chance_of_being_best_agrees_with_draws():
    rng = np.random.default_rng(3)
    samples = [scattered(rng, m, 0.06, 5) for m in (7_000, 7_200, 6_600)]
    tables = posterior(samples, KNOT_PRIOR).table()
    found = chance_best([*(tables.take([k]) for k in range(3)), None])
    assert found[3] is None
    assert sum(found[:3]) == pytest.approx(1.0, abs=1e-9)
    draws = np.array(
        [np.interp(rng.random(400_000), c, m) for c, m in zip(tables.cdf, tables.mu, strict=True)]
    )
    share = np.bincount(draws.argmax(axis=0), minlength=3) / draws.shape[1]
    assert found[:3] == pytest.approx(list(share), abs=4e-3)
    ranks = rank_chances(tables)
    np.testing.assert_allclose(ranks.sum(axis=0), 1, atol=3e-3)
    np.testing.assert_allclose(ranks.sum(axis=1), 1, atol=1e-9)
    second = (np.argsort(-draws, axis=0)[1] == 0).mean()
    assert ranks[0, 1] == pytest.approx(second, abs=4e-3)


def test_two_equal_groups_have_even_chances():
    one = posterior([scattered(np.random.default_rng(1), 7_000, 0.06, 5)], KNOT_PRIOR).table()
    assert chance_best([one, one]) == pytest.approx([0.5, 0.5], abs=1e-4)
