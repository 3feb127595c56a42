"""A long trace drawn from minima and maxima."""

import numpy as np
import pytest

from bruiser.figures.pyramid import Pyramid


@pytest.mark.parametrize("count", [1, 7, 100, 4_096, 100_003])
def test_every_window_holds_the_extremes_of_its_samples(count):
    rng = np.random.default_rng(count)
    values = rng.standard_normal(count)
    pyramid = Pyramid(values)
    for _ in range(20):
        first, after = sorted(rng.integers(0, count + 1, 2))
        index, value = pyramid.window(first, after, 50)
        if after <= first:
            assert len(index) == 0
            continue
        assert value.max() >= values[first:after].max()
        assert value.min() <= values[first:after].min()
        assert index[0] <= first
        assert len(index) <= 2 * 8 * 50 + 4


def test_few_samples_are_shown_as_they_are_and_missing_ones_are_skipped():
    values = np.arange(1_000.0)
    index, value = Pyramid(values).window(10, 40, 100)
    np.testing.assert_array_equal(index, np.arange(10, 40))
    np.testing.assert_array_equal(value, values[10:40])
    holes = np.where(np.arange(10_000) % 3 == 0, np.nan, 1.0)
    _, value = Pyramid(holes).window(0, 10_000, 50)
    assert np.isfinite(value).all()


def test_a_million_samples_are_thinned_to_a_fiftieth():
    pyramid = Pyramid(np.random.default_rng(1).standard_normal(1_000_000))
    for k in range(200):
        index, _ = pyramid.window(1_000 * k, 500_000 + 1_000 * k, 1_000)
        assert len(index) <= 20_000
