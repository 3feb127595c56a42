"""Cut plans: sound, as good as brute force on small cases, near the bound on large ones."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.planning.cut_plan import Piece, Supply, TooShort, plan_cuts


def rng():
    return np.random.default_rng(1)


def pieces_of(*lengths):
    return [Piece(f"p{n}", x) for n, x in enumerate(lengths)]


def supplies_of(*lengths):
    return [Supply(f"h{n}", x) for n, x in enumerate(lengths)]


def sound(plan, pieces, supplies):
    """Every piece once, no hank overdrawn, what must stay together stays together."""
    length = {p.key: p.length_m for p in pieces}
    cut = [key for keys in plan.cuts.values() for key in keys]
    assert sorted(cut) == sorted(length)
    on = {s.key: s.length_m for s in supplies}
    for hank, keys in plan.cuts.items():
        assert math.fsum(length[k] for k in keys) <= on[hank] + 1e-3
    where = {key: hank for hank, keys in plan.cuts.items() for key in keys}
    for group in {p.together for p in pieces if p.together}:
        assert len({where[p.key] for p in pieces if p.together == group}) == 1
    assert plan.bound_m <= plan.used_up_m + 1e-9


def brute_force(pieces, supplies, minimum):
    """Least written off, then least opened, over every way to lay the pieces."""
    best = (math.inf, math.inf)
    for at in itertools.product(range(len(supplies)), repeat=len(pieces)):
        used = [0.0] * len(supplies)
        for piece, hank in zip(pieces, at, strict=True):
            used[hank] += piece.length_m
        if any(u > s.length_m + 1e-9 for u, s in zip(used, supplies, strict=True)):
            continue
        rests = [s.length_m - u for u, s in zip(used, supplies, strict=True) if u > 0]
        opened = sum(s.length_m for u, s in zip(used, supplies, strict=True) if u > 0)
        best = min(best, (round(sum(r for r in rests if r < minimum - 1e-9), 6), round(opened, 6)))
    return best


@pytest.mark.parametrize("seed", range(12))
def test_small_plans_are_as_good_as_brute_force(seed):
    random = np.random.default_rng(seed)
    pieces = pieces_of(*np.round(random.uniform(0.8, 2.0, 6), 2))
    supplies = supplies_of(*np.round(random.uniform(2.0, 5.0, 4), 2))
    least, opened = brute_force(pieces, supplies, 0.5)
    if math.isinf(least):
        with pytest.raises(TooShort):
            plan_cuts(pieces, supplies, 0.5, rng())
        return
    plan = plan_cuts(pieces, supplies, 0.5, rng())
    sound(plan, pieces, supplies)
    assert plan.optimal
    assert plan.written_off_m == pytest.approx(least, abs=1e-6)
    assert plan.opened_m == pytest.approx(opened, abs=1e-6)


lengths = st.floats(0.3, 2.5).map(lambda x: round(x, 2))


@pytest.mark.long
@given(st.lists(lengths, max_size=25), st.lists(st.floats(1.0, 12.0), min_size=1, max_size=8))
@settings(max_examples=60)
def test_no_specimen_is_short_and_no_hank_overdrawn(wanted, hanks):
    pieces, supplies = pieces_of(*wanted), supplies_of(*(round(x, 2) for x in hanks))
    try:
        plan = plan_cuts(pieces, supplies, 0.5, rng(), time_limit_s=0.5, tries=20)
    except TooShort as short:
        missing = short.short_m
    else:
        sound(plan, pieces, supplies)
        return
    assert missing > 0


@pytest.mark.long
@pytest.mark.slow
def test_sixty_pieces_from_twelve_hanks_come_within_a_hundredth():
    random = np.random.default_rng(3)
    pieces = pieces_of(*random.choice([0.94, 1.17, 1.54, 1.74, 1.66, 1.25], 60))
    total = sum(p.length_m for p in pieces)
    raw = random.uniform(2, 14, 12)
    supplies = supplies_of(*np.round(raw * total * 1.06 / raw.sum(), 2))
    plan = plan_cuts(pieces, supplies, 0.5, rng())
    sound(plan, pieces, supplies)
    assert plan.gap <= 0.01


def test_offcuts_that_hold_everything_are_taken_before_a_new_spool():
    plan = plan_cuts(pieces_of(1.0, 1.0, 1.2), supplies_of(60.0, 4.0, 2.0), 0.5, rng())
    assert set(plan.cuts) == {"h1"}
    assert plan.written_off_m == 0
    assert plan.optimal


def test_what_is_compared_in_pairs_comes_from_one_hank():
    pieces = [Piece(f"{side}{n}", 1.0, f"pair{n}") for n in range(4) for side in "ab"]
    supplies = supplies_of(3.0, 3.0, 3.0, 3.0)
    plan = plan_cuts(pieces, supplies, 0.5, rng())
    sound(plan, pieces, supplies)
    assert len(plan.cuts) == 4


@pytest.mark.parametrize(
    ("wanted", "hanks", "short", "words"),
    [
        ((2.0, 2.0, 2.0), (5.0,), 1.0, "too little"),
        ((6.0,), (4.0, 4.0), 2.0, "more than any hank"),
        ((3.0, 3.0), (4.0, 2.5), 3.0, "broken up"),
        ((1.0,), (), 1.0, "too little"),
    ],
)
def test_what_cannot_be_cut_says_by_how_much(wanted, hanks, short, words):
    with pytest.raises(TooShort, match=words) as caught:
        plan_cuts(pieces_of(*wanted), supplies_of(*hanks), 0.5, rng())
    assert caught.value.short_m == pytest.approx(short)


def test_beyond_the_exact_limit_it_says_so_and_can_be_stopped():
    random = np.random.default_rng(5)
    pieces = pieces_of(*np.round(random.uniform(0.8, 2.0, 120), 2))
    supplies = supplies_of(*[14.0] * 16)
    seen = []
    plan = plan_cuts(pieces, supplies, 0.5, rng(), exact_up_to=50, tries=30, progress=seen.append)
    sound(plan, pieces, supplies)
    assert plan.method.startswith("best fit")
    assert seen == sorted(seen)
    assert seen[-1] == 1.0
    stopped = plan_cuts(pieces, supplies, 0.5, rng(), cancelled=lambda: True)
    sound(stopped, pieces, supplies)
    assert not stopped.optimal or stopped.written_off_m == 0


def test_the_same_seed_gives_the_same_plan():
    random = np.random.default_rng(8)
    pieces = pieces_of(*np.round(random.uniform(0.8, 2.0, 40), 2))
    supplies = supplies_of(*[8.0] * 9)
    first, second = (plan_cuts(pieces, supplies, 0.5, rng(), exact_up_to=0) for _ in range(2))
    assert first == second
    assert plan_cuts([], supplies, 0.5, rng()).cuts == {}
