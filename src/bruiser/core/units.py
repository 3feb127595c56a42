"""Reading and writing quantities in the technician's units; SI everywhere inside.

Typing a number accepts units anywhere ("1.2 kN", "270 lbf", "3/8 in", "12,5 mm").
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from bruiser.core.decimal_sign import (
    LOADS_ANYWHERE_N,
    DecimalMark,
    Range,
    may_be_two,
    reads_as,
    sign_by_size,
)
from bruiser.core.errors import InputError

_POUND_KG, _INCH_M, _GRAVITY = 0.45359237, 0.0254, 9.80665
_POUND_N = _POUND_KG * _GRAVITY

_DIMENSIONS: dict[str, dict[str, float]] = {
    "force": {
        "N": 1.0,
        "kN": 1000.0,
        "daN": 10.0,
        "kgf": _GRAVITY,
        "kp": _GRAVITY,
        "lbf": _POUND_N,
        "lb": _POUND_N,
    },
    "length": {
        "mm": 0.001,
        "cm": 0.01,
        "m": 1.0,
        "in": _INCH_M,
        '"': _INCH_M,
        "ft": 12 * _INCH_M,
    },
    "time": {"s": 1.0, "min": 60.0, "h": 3600.0},
    "mass per length": {
        "g/m": 0.001,
        "kg/m": 1.0,
        "lb/ft": _POUND_KG / (12 * _INCH_M),
        "oz/yd": _POUND_KG / 16 / (36 * _INCH_M),
    },
    "speed": {"mm/s": 0.001, "mm/min": 0.001 / 60, "in/min": _INCH_M / 60},
}
"""SI value of one of each unit, by definition: the international pound and yard, standard gravity.

Source: the definitions of 1959 and of the third General Conference; a test asks Pint.
"""

_ANYWHERE: dict[str, Range] = {
    "force": LOADS_ANYWHERE_N,
    "length": (1e-4, 25.0),
    "time": (0.0, 900.0),
    "speed": (0.0, 0.5),
    "mass per length": (0.0, 20.0),
}
"""Where typed values lie when nothing else is known: a bench and its cord, in SI."""

_NUMBER = re.compile(
    r"^\s*(?P<sign>[-+−]?)\s*"
    r"(?:(?P<whole>\d+)[\s-]+(?=\d+\s*/))?"
    r"(?:(?P<num>\d+)\s*/\s*(?P<den>\d+)"
    r"|(?P<decimal>(?:\d{1,3}(?:[   ]\d{3})+|\d+)(?:[.,]\d*)?|[.,]\d+)(?P<exp>[eE][-+]?\d+)?)"
    r"\s*(?P<unit>.*?)\s*$"
)


def si_factor(unit: str, dimension: str) -> float:
    """SI value of one `unit`, e.g. ``si_factor("kN", "force") == 1000.0``.

    Raises
    ------
    ValueError
        If the unit does not belong to the dimension.
    """
    factors = _DIMENSIONS[dimension]
    if unit not in factors:
        raise ValueError(f"{unit!r} is no unit of {dimension}")
    return factors[unit]


def unit_names(dimension: str) -> tuple[str, ...]:
    """The unit names understood for a dimension, the customary ones first."""
    return tuple(_DIMENSIONS[dimension])


def _find_unit(text: str, dimension: str) -> str | None:
    names = _DIMENSIONS[dimension]
    if text in names:
        return text
    folded = {name.lower(): name for name in names}
    return folded.get(text.lower().rstrip("."))


def parse_quantity(
    text: str,
    dimension: str,
    default_unit: str,
    *,
    minimum: float | None = 0.0,
    field: str = "",
    within: Range | None = None,
) -> float:
    """Read a number with an optional unit as an SI value.

    Parameters
    ----------
    text : str
        What was typed: decimal comma or point, thousands separated by spaces, fractions and
        mixed fractions ("1 1/2 in") are understood. A number with one sign and three digits behind
        it may be two: it is asked about where its size does not tell.
    dimension : str
        ``force``, ``length``, ``time``, ``speed`` or ``mass per length``.
    default_unit : str
        Unit of a bare number.
    minimum : float or None
        Smallest SI value allowed; None allows any.
    field : str
        Name of the field, for the message.
    within : (float, float), optional
        Where it lies in SI, as far as that is known; without, where anything of its kind lies.
        It refuses nothing.

    Returns
    -------
    float
        The value in newton, metre, second, metre per second or kilogram per metre.

    Raises
    ------
    InputError
        If it is empty, no number, has an unknown unit, or is below the minimum.
    """
    if not text.strip():
        raise InputError("Nothing entered.", "Type a number.", where=field)
    match = _NUMBER.match(text)
    if match is None:
        raise InputError(
            f"“{text.strip()}” is no number.", f"Type it like “12.5 {default_unit}”.", where=field
        )
    if match["num"] is not None:
        if int(match["den"]) == 0:
            raise InputError("A fraction over zero.", where=field)
        value = float(Fraction(int(match["num"]), int(match["den"])) + int(match["whole"] or 0))
    else:
        number = re.sub(r"[   ]", "", match["decimal"])
        value = float(number.replace(",", ".") + (match["exp"] or ""))
        if not match["exp"] and may_be_two(number) is not None:
            value = _one_of_two(number, match["unit"] or default_unit, dimension, within, field)
    if match["sign"] in ("-", "−"):
        value = -value
    unit = default_unit if not match["unit"] else _find_unit(match["unit"], dimension)
    if unit is None:
        known = ", ".join(unit_names(dimension))
        raise InputError(
            f"“{match['unit']}” is no unit of {dimension}.", f"Use {known}.", where=field
        )
    result = value * si_factor(unit, dimension)
    if not math.isfinite(result):
        raise InputError("That number is too large.", where=field)
    if minimum is not None and result < minimum:
        headline = "Cannot be negative." if minimum == 0 else "Too small."
        raise InputError(headline, where=field)
    return result


def _one_of_two(number: str, unit: str, dimension: str, within: Range | None, field: str) -> float:
    """The value of a typed number that may be two, by its size; asked for where that is open."""
    low, high = within or _ANYWHERE.get(dimension, (0.0, math.inf))
    name = _find_unit(unit, dimension)
    one = si_factor(name, dimension) if name is not None else 1.0
    sign = sign_by_size(number, (low / one, high / one))
    value = None if sign is DecimalMark.ASK else reads_as(number, sign)
    if value is None:
        small, large = may_be_two(number) or (0.0, 0.0)
        raise InputError(
            f"“{number}” may be {small:g} or {large:.0f}.",
            f"Type {small:g} or {large:.0f}.",
            where=field,
        )
    return value


def parse_share(text: str, *, maximum: float | None = None, field: str = "") -> float:
    """Read a percentage, with or without its sign, as a share: ``"3.1 %"`` is 0.031.

    Raises
    ------
    InputError
        If it is no number, is negative, or is above the maximum share.
    """
    plain = text.strip().removesuffix("%")
    if re.search(r"[^\W\d_eE]|%", plain):
        raise InputError(
            f"“{text.strip()}” is no percentage.", "Type a number, like 3.1 %.", where=field
        )
    share = parse_quantity(plain, "length", "m", field=field, within=(0.0, 900.0)) / 100.0
    if maximum is not None and share > maximum:
        raise InputError(f"More than {100 * maximum:g} %.", where=field)
    return share


@dataclass(frozen=True)
class UnitChoice:
    """The units a campaign shows; entries may be typed in any unit."""

    force: str = "kN"
    length: str = "mm"

    def force_text(self, load_n: float) -> str:
        """Load with unit, e.g. ``8.03 kN``."""
        return f"{self.force_number(load_n)} {self.force}"

    def hand_force_text(self, load_n: float) -> str:
        """Load read off a hand scale: in newton where kilonewton would hide it, e.g. ``12 N``."""
        return f"{load_n:.0f} N" if self.force == "kN" else self.force_text(load_n)

    def force_number(self, load_n: float) -> str:
        """Load without its unit, rounded to what a bench can mean."""
        decimals = {"kN": 2, "daN": 0, "kgf": 0, "N": 0, "lbf": 0}.get(self.force, 2)
        return f"{load_n / si_factor(self.force, 'force'):.{decimals}f}"

    def length_text(self, length_m: float) -> str:
        """Short length with unit, e.g. ``14 mm``."""
        return f"{self.length_number(length_m)} {self.length}"

    def length_number(self, length_m: float) -> str:
        """Short length without its unit."""
        decimals = {"mm": 0, "in": 2}.get(self.length, 2)
        return f"{length_m / si_factor(self.length, 'length'):.{decimals}f}"

    def cord_text(self, length_m: float) -> str:
        """Length of cord with unit, in metre or foot, e.g. ``12.40 m``."""
        unit = "ft" if self.length == "in" else "m"
        return f"{length_m / si_factor(unit, 'length'):.2f} {unit}"

    def section_text(self, diameter_m: float, thickness_m: float | None) -> str:
        """Diameter of a round cord, or width and thickness of webbing, e.g. ``25 x 2 mm``."""
        if thickness_m is None:
            return self.diameter_text(diameter_m)
        width = self.diameter_text(diameter_m).rpartition(" ")[0]
        return f"{width} x {self.diameter_text(thickness_m)}"

    def diameter_text(self, diameter_m: float) -> str:
        """Diameter with unit to the tenth of a millimetre, e.g. ``8 mm`` or ``6.4 mm``."""
        value = diameter_m / si_factor(self.length, "length")
        return f"{round(value, 3 if self.length == 'in' else 1):g} {self.length}"
