"""Spread by hands and benches against dense matrices, analysis of variance and known truth."""

import numpy as np
import pytest
from scipy.stats import multivariate_normal

from bruiser.core.beyond.agreement import Agreement, kappa
from bruiser.core.beyond.hands import HandReading, HandsLack, _swept, measure_hands


def readings(dice, people=3, groups=4, repeats=3, within=0.06, between=0.05, benches=None):
    who = dice.normal(0, between, people)
    where = dice.normal(0, benches or 0.0, 2)
    found = []
    for g in range(groups):
        for p in range(people):
            for n in range(repeats):
                b = n % 2 if benches is not None else 0
                found.append(
                    HandReading(
                        group=f"g{g}",
                        technician=f"t{p}",
                        bench=f"b{b}",
                        value=float(g + who[p] + where[b] + dice.normal(0, within)),
                        pull_id=f"{g} {p} {n}",
                    )
                )
    return found


def test_the_contrasts_have_the_restricted_likelihood():
    """Swept data give, up to a constant, the likelihood of any full set of error contrasts."""
    made = readings(np.random.default_rng(2))
    z, y, _ = _swept(made, ("technician",))
    groups = sorted({r.group for r in made})
    x = np.array([[float(r.group == g) for g in groups] for r in made])
    basis = np.linalg.svd(x, full_matrices=True)[0][:, len(groups) :]
    whole = np.array([[float(r.technician == t) for t in ("t0", "t1", "t2")] for r in made])
    values = np.array([r.value for r in made])
    found, wanted = [], []
    for ratio in (0.1, 0.7, 2.0):
        v = basis.T @ (np.eye(len(made)) + ratio**2 * whole @ whole.T) @ basis
        wanted.append(multivariate_normal(cov=v).logpdf(basis.T @ values))
        d = np.full(3, ratio**2)
        inner = np.eye(3) + d[:, None] * (z.T @ z)
        q = y @ y - (z.T @ y) @ np.linalg.solve(inner, d * (z.T @ y))
        found.append(-0.5 * np.linalg.slogdet(inner)[1] - 0.5 * q)
    assert np.diff(found) == pytest.approx(np.diff(wanted), abs=1e-8)


def test_balanced_readings_agree_with_analysis_of_variance():
    dice = np.random.default_rng(5)
    made = readings(dice, people=8, groups=6, repeats=4, within=0.06, between=0.08)
    y = np.array([r.value for r in made]).reshape(6, 8, 4)
    y = y - y.mean(axis=(1, 2), keepdims=True)
    people = y.mean(axis=(0, 2))
    freedom = 6 * 8 * 4 - 6 - 7
    within = ((y - people[None, :, None]) ** 2).sum() / freedom
    between = people.var(ddof=1) - within / 24
    found = measure_hands(made)
    assert found.within.value == pytest.approx(np.sqrt(within), rel=0.02)
    assert found.technicians.value == pytest.approx(np.sqrt(between), rel=0.12)
    assert found.total.value == pytest.approx(np.sqrt(within + between), rel=0.12)
    assert found.lacks == (HandsLack.ONE_BENCH,)
    assert len(found.pull_ids) == len(made)


@pytest.mark.parametrize(("people", "between"), [(2, 0.05), (4, 0.05), (3, 0.0)])
def test_the_intervals_hold_the_truth(people, between):
    dice = np.random.default_rng(people)
    inside = {"within": 0, "technicians": 0, "total": 0}
    trials = 150
    for _ in range(trials):
        found = measure_hands(readings(dice, people=people, between=between))
        truth = {"within": 0.06, "technicians": between, "total": np.hypot(0.06, between)}
        for name, value in truth.items():
            interval = getattr(found, name)
            low = 0.0 if name == "technicians" and between == 0 else interval.low
            inside[name] += low <= value <= interval.high
    assert min(inside.values()) / trials > 0.90


def test_benches_are_told_from_hands_where_both_overlap():
    dice = np.random.default_rng(9)
    found = measure_hands(readings(dice, people=4, repeats=6, benches=0.2))
    assert found.lacks == ()
    assert found.benches.high > 0.05
    assert found.total.value > found.within.value


def made(*rows):
    return [
        HandReading(group=g, technician=t, bench=b, value=v)
        for g, t, b, values in rows
        for v in values
    ]


@pytest.mark.parametrize(
    ("rows", "lack"),
    [
        ((("a", "TV", "b", (1.0, 1.1, 1.2)),), HandsLack.FEW_REPEATS),
        ((("a", "TV", "b", (1.0, 1.1, 1.2, 1.3, 1.2)),), HandsLack.ONE_TECHNICIAN),
        (
            (("a", "TV", "b", (1.0, 1.1, 1.2)), ("c", "OQ", "b", (2.0, 2.1, 2.3))),
            HandsLack.NEVER_OVERLAPPED,
        ),
        (
            (("a", "TV", "b1", (1.0, 1.1, 1.2)), ("a", "OQ", "b2", (1.0, 1.1, 1.3))),
            HandsLack.CONFOUNDED,
        ),
    ],
)
def test_what_cannot_be_told_is_refused(rows, lack):
    found = measure_hands(made(*rows))
    assert lack in found.lacks
    assert (found.within is None) == (lack is HandsLack.FEW_REPEATS)
    if lack is not HandsLack.CONFOUNDED:
        assert found.technicians is None
    assert found.benches is None


def test_kappa_of_two_inspectors():
    seen = Agreement(both_right=30, split=6, both_wrong=14)
    p = (2 * 30 + 6) / (2 * 50)
    moments = 1 - 6 / (2 * 50 * p * (1 - p))
    found = kappa(seen)
    assert found.value == pytest.approx(moments, abs=0.03)
    assert found.low < moments < found.high
    assert kappa(Agreement(both_right=5, split=1, both_wrong=3)) is None
    assert kappa(Agreement(both_right=40, split=0, both_wrong=0)) is None
    assert kappa(Agreement(both_right=20, split=0, both_wrong=20)).low > 0.8


def test_kappa_holds_the_truth():
    dice = np.random.default_rng(12)
    inside, trials = 0, 200
    for _ in range(trials):
        p, k = 0.7, 0.6
        chances = (p * p + k * p * (1 - p), 2 * p * (1 - p) * (1 - k))
        right, split, wrong = dice.multinomial(40, (*chances, 1 - sum(chances)))
        found = kappa(Agreement(both_right=right, split=split, both_wrong=wrong))
        inside += found.low <= k <= found.high
    assert inside / trials > 0.91
