"""What the synthetic cords and knots must do, whatever their constants."""

from itertools import pairwise

import numpy as np
import pytest

from bruiser.catalogue import load_catalogue
from bruiser.rig.simulated.archetypes import ARCHETYPES, grips, slip_share
from bruiser.rig.simulated.cords import CORDS
from bruiser.rig.simulated.stretch import virgin_curve
from bruiser.rig.simulated.variants import BASES, tying


def test_every_catalogue_variant_has_a_synthetic_knot():
    catalogue = load_catalogue()
    assert set(catalogue) == set(BASES)
    for key, structure in catalogue.items():
        assert tying(key, structure.plain) == tying(key)
        for axis in structure.axes:
            for option in axis.options:
                assert tying(key, {axis.key: option.key}) is not None
    assert tying("no-such-knot") is None
    with pytest.raises(ValueError, match="no synthetic effect"):
        tying("bowline", {"colour": "red"})


@pytest.mark.parametrize("cord", CORDS.values(), ids=CORDS)
def test_a_cord_stretches_more_under_more_load(cord):
    strain = [cord.strain(s) for s in np.linspace(0, 1, 50)]
    assert strain[0] == 0
    assert strain[-1] == pytest.approx(cord.break_strain)
    assert np.all(np.diff(strain) > 0)
    assert cord.strain(0.1) > 0.1 * cord.break_strain


@pytest.mark.parametrize("cord", CORDS.values(), ids=CORDS)
def test_friction_falls_with_load_and_when_wet(cord):
    assert cord.friction_at(0.1) == pytest.approx(cord.friction)
    assert cord.friction_at(0.8) < cord.friction_at(0.1)
    wet = cord.soaked()
    assert wet.friction_at(0.3) == pytest.approx(cord.wet_friction * cord.friction_at(0.3))
    assert wet.strength_n_per_mm2 == pytest.approx(cord.wet_strength * cord.strength_n_per_mm2)


@pytest.mark.parametrize("name", ARCHETYPES)
def test_a_knot_holds_less_when_loose_slick_or_running_out(name):
    knot = ARCHETYPES[name]
    polyester, slick = CORDS["polyester double braid"], CORDS["HMPE hollow braid"]
    assert grips(knot, polyester, 0.3, 1.0, 1.0) > grips(knot, polyester, 0.3, 0.7, 1.0)
    assert grips(knot, polyester, 0.3, 1.0, 1.0) > grips(knot, slick, 0.3, 1.0, 1.0)
    loads = [slip_share(knot, polyester, 1.0, e) for e in (1.0, 0.8, 0.6, 0.4)]
    assert all(a >= b for a, b in pairwise(loads))


def test_the_slip_load_is_where_the_grip_is_just_enough():
    knot, cord = ARCHETYPES["sheet-bend"], CORDS["polyester double braid"]
    share = slip_share(knot, cord, 1.0)
    assert grips(knot, cord, share, 1.0, 1.0) == pytest.approx(1.0, abs=1e-6)
    assert slip_share(ARCHETYPES["drum-termination"], cord, 1.0) == 9.0
    assert slip_share(knot, cord, 1e-9) == 0.0


def test_a_virgin_curve_is_denser_where_the_load_is_low():
    y, f = virgin_curve(lambda load: load**0.5, 10_000.0, 101)
    assert (f[0], f[-1], y[-1]) == (0.0, 10_000.0, 100.0)
    assert f[1] - f[0] < f[-1] - f[-2]
