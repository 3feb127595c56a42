import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.errors import InputError
from bruiser.core.units import UnitChoice, parse_quantity, si_factor


@pytest.mark.parametrize(
    ("text", "dimension", "default", "expected"),
    [
        ("1.2 kN", "force", "kN", 1200.0),
        ("270 lbf", "force", "kN", 270 * 4.4482216152605),
        ("3/8 in", "length", "mm", 0.009525),
        ("1 1/2 in", "length", "mm", 0.0381),
        ("12,5 mm", "length", "mm", 0.0125),
        ("1 200", "force", "N", 1200.0),
        ("100 kgf", "force", "kN", 980.665),
        ("5 daN", "force", "kN", 50.0),
        ("14", "length", "mm", 0.014),
        (".5 min", "time", "s", 30.0),
        ("8 mm/s", "speed", "mm/s", 0.008),
    ],
)
def test_units_are_understood_as_typed(text, dimension, default, expected):
    assert parse_quantity(text, dimension, default) == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Nothing entered"),
        ("twelve", "no number"),
        ("-3 mm", "negative"),
        ("5 kN", "no unit of length"),
        ("1/0 in", "over zero"),
        ("1e400 mm", "too large"),
        ("nan", "no number"),
    ],
)
def test_what_is_no_length_is_refused_with_its_field(text, says):
    with pytest.raises(InputError, match=says) as caught:
        parse_quantity(text, "length", "mm", field="tail A")
    assert caught.value.where == "tail A"


@given(st.floats(0.001, 1e6), st.sampled_from(["N", "kN", "daN", "kgf", "lbf"]))
def test_a_number_written_in_a_unit_reads_back(value, unit):
    assert parse_quantity(f"{value!r} {unit}", "force", "N") == pytest.approx(
        value * si_factor(unit, "force")
    )


def test_readings_are_shown_in_the_campaigns_units():
    assert UnitChoice("kN", "mm").force_text(8034) == "8.03 kN"
    assert UnitChoice("lbf", "in").force_text(4448.2216) == "1000 lbf"
    assert UnitChoice("lbf", "in").length_text(0.0254) == "1.00 in"


def test_an_unknown_unit_in_our_own_code_is_a_mistake():
    with pytest.raises(ValueError, match="no unit"):
        si_factor("stone", "force")


def test_every_factor_is_the_one_that_an_independent_registry_gives():
    import pint

    from bruiser.core.units import si_factor, unit_names

    names = {
        "kgf": "kilogram_force", "kp": "kilogram_force", "lbf": "pound_force", "lb": "pound_force",
        '"': "inch", "in": "inch", "h": "hour", "in/min": "inch/minute",
    }  # fmt: skip
    registry = pint.UnitRegistry()
    base = {
        "force": "newton", "length": "metre", "time": "second",
        "mass per length": "kilogram/metre", "speed": "metre/second",
    }  # fmt: skip
    for dimension, si in base.items():
        for unit in unit_names(dimension):
            asked = registry.Quantity(1.0, names.get(unit, unit)).to(si).magnitude
            assert si_factor(unit, dimension) == pytest.approx(asked, rel=1e-14), unit
