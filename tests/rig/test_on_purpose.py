"""What the simulated bench makes of slings, cuts, unequal eyes, shaking and the wrong way."""

from dataclasses import replace

import numpy as np
import pytest

from bruiser.core.records.layouts import End
from bruiser.rig.simulated.setup import SpecimenSetup, ways
from bruiser.rig.simulated.specimen import SimulatedSpecimen
from bruiser.rig.simulated.variants import tying

CORD = "nylon kernmantle"


def setup(structure, layout, **more):
    knots = {} if structure is None else {End.A: tying(structure)}
    blank = SpecimenSetup(cord=CORD, diameter_mm=8.0, span_mm=300.0, layout=layout, knots=knots)
    return replace(blank, **more)


def pulled(made):
    bench, at = SimulatedSpecimen(made), 0.0
    while bench.gave is None and at < 2_000.0:
        at += 0.08
        bench.advance(at, 0.01)
    return bench


def peaks(structure, layout, seeds=range(12), **more):
    return np.median([pulled(setup(structure, layout, seed=s, **more)).highest_n for s in seeds])


def test_a_sling_bears_twice_what_its_joint_does_end_to_end():
    one = peaks("double-fishermans", "bend")
    two = peaks("double-fishermans", "sling")
    assert two == pytest.approx(2 * one, rel=0.08)


def test_a_midline_loop_takes_a_cut_out_of_the_line_and_plain_rope_does_not():
    sound = peaks(None, "baseline")
    cut = peaks(None, "baseline", cut_share=0.5)
    assert 0.42 < cut / sound < 0.55
    usual = peaks("alpine-butterfly", "midline", direction="end to end")
    around = peaks("alpine-butterfly", "midline", direction="end to end", cut_share=0.5)
    assert around == pytest.approx(usual, rel=1e-9)
    through = peaks("alpine-butterfly", "midline", direction="eye against one end", cut_share=0.8)
    assert through < 0.8 * usual


def test_cord_goes_from_the_longer_eye_into_the_shorter():
    for uneven in (0.0, 0.3):
        lies = pulled(setup("double-figure-eight-loop", "double_loop", uneven=uneven, seed=4))
        truth = lies.remains().truth
        first = truth["eye_a_mm"] - truth["eye_a_before_mm"]
        second = truth["eye_a2_mm"] - truth["eye_a2_before_mm"]
        assert first == pytest.approx(-second)
        assert first > 0


def shaken(structure, layout, low, times=60, seed=1):
    """Quick dips between a load and less of it; how often it was seen to loosen."""
    bench = SimulatedSpecimen(setup(structure, layout, seed=seed))
    at, speed = 0.0, 8.0
    top = 0.10 * bench.strength_n
    for _ in range(times):
        while bench.load_n < top and bench.gave is None:
            at += speed * 0.005
            bench.advance(at, 0.005)
        speed = 32.0
        while bench.load_n > low * top and bench.gave is None:
            at -= speed * 0.005
            bench.advance(at, 0.005)
    return sum(k.loosened for k in bench.knots), bench.snatches


def test_shaking_under_load_loosens_less_than_going_slack():
    loaded = [shaken("sheet-bend", "bend", 0.4, seed=s) for s in range(6)]
    slack = [shaken("sheet-bend", "bend", 0.0, seed=s) for s in range(6)]
    assert all(n > 30 for _, n in loaded)
    per_shake = [np.sum([n for n, _ in g]) / np.sum([n for _, n in g]) for g in (loaded, slack)]
    assert 0 < per_shake[0] < 0.6 * per_shake[1]


@pytest.mark.parametrize("structure", ["klemheist", "rolling-hitch-on-rope", "bachmann"])
def test_the_wrong_way_takes_grip(structure):
    made = setup(structure, "friction", direction="standing part the other way along the host")
    assert ways(made, tying(structure)).grip < 1
