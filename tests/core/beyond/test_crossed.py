"""Crossed random effects against the worked example, dense matrices and fits without a cell."""

import numpy as np
import pytest
from scipy.special import ndtr
from scipy.stats import multivariate_normal, norm

from bruiser.core.beyond.crossed import (
    REFERENCE,
    SHARES,
    fit_crossed,
)
from bruiser.core.beyond.given import Cells, Components, Given
from bruiser.core.beyond.mixtures import mixture_quantiles
from bruiser.core.beyond.rules import CrossedPrior

NO = np.nan
SHARE = np.array(
    [
        [0.72, 0.66, 0.78, NO],
        [0.61, NO, 0.69, 0.58],
        [0.80, 0.74, NO, NO],
        [NO, 0.52, 0.63, NO],
        [0.67, NO, NO, NO],
    ]
)
ERROR = np.array(
    [
        [0.030, 0.035, 0.040, NO],
        [0.045, NO, 0.030, 0.035],
        [0.030, 0.050, NO, NO],
        [NO, 0.040, 0.045, NO],
        [0.035, NO, NO, NO],
    ]
)
EXAMPLE = Cells(y=np.log(SHARE), error=ERROR, shared=np.array([0.018, 0.018, 0.022, 0.018]))
PRIOR = CrossedPrior(rows=0.25, spread=0.15)
LAST = 1.6e-4
"""A unit of the last digit given, and the half that its own grid left."""


def components(rows, columns, cells):
    return Components(rows=np.array([rows]), columns=np.array([columns]), cells=np.array([cells]))


def as_three(interval):
    return interval.low, interval.value, interval.high


def test_the_worked_example_with_given_components():
    given = Given(EXAMPLE, components(0.15, 0.06, 0.04))
    assert given.log_likelihood[0] == pytest.approx(7.914066, abs=5e-7)
    for (mean, variance), at, wanted in (
        (given.rows(), (0, 0), (-0.346660, 0.043863)),
        (given.new_cells(), (0, 1, 1), (-0.536838, 0.062623)),
        (given.new_column(), (0, 4), (-0.411481, 0.095169)),
    ):
        assert (mean[at], np.sqrt(variance[at])) == pytest.approx(wanted, abs=1e-6)


def test_the_worked_example_integrated():
    fit = fit_crossed(EXAMPLE, PRIOR, REFERENCE)
    typical = (
        (0.6314, 0.7056, 0.7832),
        (0.5561, 0.6184, 0.6897),
        (0.6725, 0.7771, 0.8728),
        (0.5075, 0.5708, 0.6571),
        (0.5770, 0.6619, 0.7586),
    )
    new = (
        (0.5636, 0.7058, 0.8763),
        (0.4968, 0.6184, 0.7724),
        (0.6084, 0.7770, 0.9678),
        (0.4577, 0.5708, 0.7272),
        (0.5222, 0.6621, 0.8370),
    )
    where = np.zeros(SHARE.shape, bool)
    where[1, 1] = where[4, 3] = True
    cells = ((0.5139, 0.5861, 0.6887), (0.5371, 0.6374, 0.7636))
    for found, wanted in (
        (fit.rows(), typical),
        (fit.new_column(), new),
        (fit.new_cells(where), cells),
        ([fit.spread], ((0.0359, 0.0790, 0.1807),)),
    ):
        assert np.array([as_three(i) for i in found]) == pytest.approx(np.array(wanted), abs=LAST)
    below = fit.left_out()
    for at, wanted in (
        ((0, 0), 0.6037),
        ((0, 1), 0.3844),
        ((1, 2), 0.8310),
        ((3, 1), 0.1093),
    ):
        assert below[at] == pytest.approx(wanted, abs=LAST)
    assert np.isnan(below[0, 3])


def test_the_grid_of_every_day_is_near_enough():
    fine, everyday = fit_crossed(EXAMPLE, PRIOR, REFERENCE), fit_crossed(EXAMPLE, PRIOR)
    for one, other in zip(fine.new_column(), everyday.new_column(), strict=True):
        assert as_three(other) == pytest.approx(as_three(one), abs=1e-3)


def dense(cells, sa, sb, sc):
    """Covariance of everything measured and the effects, with mu apart: no trick at all."""
    at = np.argwhere(cells.mask)
    k, j = at.T
    same_k, same_j = k[:, None] == k, j[:, None] == j
    tau2 = cells.shared[j] ** 2
    own = np.maximum(cells.error[k, j] ** 2 - tau2, 1e-6)
    v = sa**2 * same_k + (sb**2 + tau2) * same_j + np.diag(own + sc**2)
    return at, v, cells.y[k, j]


def gls(v, y, cross, prior_variance):
    """Mean and variance of a target with covariance `cross` to the data, mu flat."""
    one = np.ones(len(y))
    inverse = np.linalg.inv(v)
    weight = 1.0 / (one @ inverse @ one)
    mu = weight * (one @ inverse @ y)
    rest = 1.0 - one @ inverse @ cross
    mean = mu + cross @ inverse @ (y - mu)
    return mean, prior_variance - cross @ inverse @ cross + weight * rest**2


@pytest.fixture
def random_cells():
    dice = np.random.default_rng(7)
    mask = dice.random((7, 4)) < 0.6
    mask[np.arange(7), dice.integers(4, size=7)] = True
    y = np.where(mask, dice.normal(-0.4, 0.15, mask.shape), NO)
    error = dice.uniform(0.03, 0.06, mask.shape)
    return Cells(y=y, error=error, shared=dice.uniform(0.01, 0.025, 4))


@pytest.mark.parametrize("sizes", [(0.15, 0.06, 0.04), (0.3, 0.01, 0.2), (0.02, 0.2, 0.01)])
def test_everything_is_what_dense_matrices_say(random_cells, sizes):
    sa, sb, sc = sizes
    given = Given(random_cells, components(*sizes))
    at, v, y = dense(random_cells, *sizes)
    k, j = at.T
    inverse = np.linalg.inv(v)
    one = np.ones(len(y))
    p = inverse - np.outer(inverse @ one, inverse @ one) / (one @ inverse @ one)
    sign, log_det = np.linalg.slogdet(v)
    assert sign > 0
    wanted = -0.5 * (
        (len(y) - 1) * np.log(2 * np.pi) + log_det + np.log(one @ inverse @ one) + y @ p @ y
    )
    assert given.log_likelihood[0] == pytest.approx(wanted, abs=1e-7)
    rows, new, cells = given.rows(), given.new_column(), given.new_cells()
    for row in range(7):
        target = gls(v, y, sa**2 * (k == row), sa**2)
        assert (rows[0][0, row], rows[1][0, row]) == pytest.approx(target, abs=1e-8)
        assert new[1][0, row] == pytest.approx(target[1] + sb**2 + sc**2, abs=1e-8)
        for column in range(4):
            cross = sa**2 * (k == row) + sb**2 * (j == column)
            mean, variance = gls(v, y, cross, sa**2 + sb**2 + sc**2)
            found = cells[0][0, row, column], cells[1][0, row, column]
            assert found == pytest.approx((mean, variance), abs=1e-8)
    away, spread = given.left_out()
    for n, (row, column) in enumerate(at):
        assert spread[0, row, column] == pytest.approx(1 / p[n, n], rel=1e-7)
        assert away[0, row, column] == pytest.approx((p @ y)[n] / p[n, n], abs=1e-8)
    for column in range(4):
        mine = np.flatnonzero(j == column)
        block, pull = p[np.ix_(mine, mine)], (p @ y)[mine]
        shift, log_density = given.column_left_out(column)
        assert shift[0] == pytest.approx(pull.sum() / np.sqrt(block.sum()), abs=1e-7)
        inverse_block = np.linalg.inv(block)
        density = multivariate_normal(cov=(inverse_block + inverse_block.T) / 2)
        assert log_density[0] == pytest.approx(density.logpdf(inverse_block @ pull), abs=1e-6)


@pytest.mark.parametrize("at", [(0, 0), (1, 2), (3, 1)])
def test_leaving_a_cell_out_is_what_a_fit_without_it_says(at):
    y = EXAMPLE.y.copy()
    y[at] = NO
    without = fit_crossed(Cells(y=y, error=EXAMPLE.error, shared=EXAMPLE.shared), PRIOR, REFERENCE)
    expected = 0.0
    for weight, sa, sb, sc in zip(
        without.weight,
        without.given.at.rows,
        without.given.at.columns,
        without.given.at.cells,
        strict=True,
    ):
        known, v, seen = dense(without.cells, sa, sb, sc)
        k, j = known.T
        tau2 = EXAMPLE.shared[at[1]] ** 2
        cross = sa**2 * (k == at[0]) + (sb**2 + tau2) * (j == at[1])
        mean, variance = gls(v, seen, cross, sa**2 + sb**2 + sc**2 + ERROR[at] ** 2)
        expected += weight * ndtr((EXAMPLE.y[at] - mean) / np.sqrt(variance))
    assert fit_crossed(EXAMPLE, PRIOR, REFERENCE).left_out()[at] == pytest.approx(
        expected, abs=0.003
    )


def test_quantiles_of_mixtures():
    dice = np.random.default_rng(3)
    mean, sd = dice.normal(0, 2, (5, 3)), dice.uniform(0.1, 1.5, (5, 3))
    weight = np.array([0.1, 0.4, 0.2, 0.25, 0.05])
    for share, row in zip(SHARES, mixture_quantiles(mean, sd, weight, SHARES), strict=True):
        assert weight @ norm.cdf((row - mean) / sd) == pytest.approx(np.full(3, share), abs=1e-9)
    far = mixture_quantiles(np.array([[0.0], [50.0]]), np.ones((2, 1)), np.array([0.97, 0.03]), (
        0.98,
    ))  # fmt: skip
    assert far[0, 0] == pytest.approx(50 + norm.ppf(1 / 3), abs=1e-6)


def test_without_spread_the_cells_are_one_mean():
    prior = CrossedPrior(rows=1e-4, spread=1e-4)
    fit = fit_crossed(EXAMPLE, prior)
    mask = EXAMPLE.mask
    first = fit.rows()[0]
    assert np.log(first.value) == pytest.approx(np.average(
        EXAMPLE.y[mask], weights=1 / ERROR[mask] ** 2
    ), abs=0.02)  # fmt: skip
    assert all(r.value == pytest.approx(first.value, rel=1e-3) for r in fit.rows())


@pytest.mark.parametrize(
    "wrong",
    [
        {"y": np.array([[0.1, NO], [NO, NO]])},
        {"y": np.array([[0.1, NO], [0.2, NO]])},
        {"error": np.array([[0.1, 0.0], [0.1, 0.1]])},
    ],
)
def test_what_cannot_be_fitted_is_refused(wrong):
    right = {"y": np.full((2, 2), -0.3), "error": np.full((2, 2), 0.05), "shared": np.zeros(2)}
    fit_crossed(Cells(**right))
    with pytest.raises(ValueError, match=r"needs a measured cell|must be positive"):
        fit_crossed(Cells(**{**right, **wrong}))
