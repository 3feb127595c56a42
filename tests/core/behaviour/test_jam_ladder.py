"""The adaptive jam ladder: the worked example, its ends, and what it reaches beside a fixed one."""

import math

import numpy as np
import pytest

from bruiser.core.behaviour.jam_ladder import (
    FIRST,
    LEAST_TRIES,
    MOST_TRIES,
    JamTry,
    LadderEnd,
    next_try,
)
from bruiser.core.behaviour.jamming import fit_jams


def tries(*pairs):
    return [JamTry(share=share, level=level) for share, level in pairs]


def test_the_worked_example():
    assert next_try((), 2.0).next_share == FIRST
    opened = next_try(tries((0.45, 0)), 2.0)
    assert opened.j50.value == pytest.approx(1.464, abs=5e-4)
    both = next_try(tries((0.45, 0), (0.60, 2)), 2.0)
    assert both.j50.value == pytest.approx(0.631, abs=5e-4)
    assert both.next_share == pytest.approx(0.65)


def test_the_next_load_keeps_between_the_least_and_the_cap():
    assert next_try(tries((0.45, 0)), 0.72).next_share == pytest.approx(0.70)
    assert next_try(tries((0.10, 3), (0.10, 3)), 0.6).next_share == pytest.approx(0.10)
    assert next_try((), 0.30).next_share == pytest.approx(0.30)


def test_it_ends_narrow_above_the_cap_or_at_sixteen():
    narrow = next_try(tries(*[(0.40, 0), (0.50, 2)] * 4), 0.8)
    assert narrow.end is LadderEnd.NARROW
    assert narrow.next_share is None
    assert next_try(tries((0.6, 0)), 0.6).end is None
    above = next_try(tries(*[(0.6, 0)] * 8), 0.6)
    assert above.end is LadderEnd.ABOVE_CAP
    wide = next_try(tries(*[(0.2, 2), (0.9, 0)] * (MOST_TRIES // 2)), 1.2)
    assert wide.end is LadderEnd.MOST
    assert next_try(tries(*[(0.40, 0), (0.50, 2)]), 0.8).tries < LEAST_TRIES


def jam(dice, share, j50, width=0.18, gap=0.4):
    """One knot of known truth: its level after a load."""
    z = (math.log(share) - math.log(j50)) / width + dice.logistic()
    return int(np.searchsorted([-gap / width, 0.0, gap / width], z))


def run(dice, j50, most):
    """So many tries by the rule; one that is over goes on at its last load."""
    made = []
    while len(made) < most:
        share = next_try(made, 1.2).next_share or made[-1].share
        made.append(JamTry(share=share, level=jam(dice, share, j50)))
    return made


def error(made, j50):
    fit = fit_jams(np.array([t.share for t in made]), np.array([t.level for t in made]))
    return math.log(fit.j50.value) - math.log(j50)


def test_six_tries_tell_as_much_as_sixteen_of_a_fixed_ladder():
    dice = np.random.default_rng(3)
    adaptive, fixed = [], []
    for _ in range(90):
        j50 = float(np.exp(dice.normal(math.log(0.5), 0.4)))
        adaptive.append(error(run(dice, j50, 6), j50))
        steps = [(0.15, 0.30, 0.45, 0.60)[n % 4] for n in range(16)]
        fixed.append(error([JamTry(share=s, level=jam(dice, s, j50)) for s in steps], j50))
    rms = [math.sqrt(np.mean(np.square(e))) for e in (adaptive, fixed)]
    assert rms[0] < 1.25 * rms[1]
    assert rms[0] < 0.30
