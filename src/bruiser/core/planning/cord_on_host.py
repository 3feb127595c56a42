"""Which cord for a friction hitch on a host rope: three schools, side by side.

Rules of thumb of the trade, no limits of this program: the measured grip decides.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class CordSchool(StrEnum):
    """How a practitioner picks the cord."""

    RANGE = "60 to 80 % of the host"
    TWO_THIRDS = "about two thirds of the host"
    THINNER = "about 3 mm thinner"


class Falls(StrEnum):
    """Where a cord falls against a school's range."""

    THINNER = "thinner"
    INSIDE = "inside"
    THICKER = "thicker"


@dataclass(frozen=True, kw_only=True)
class CordRange:
    """One school's diameters for a host, and where the chosen cord falls."""

    school: CordSchool
    low_m: float
    high_m: float
    falls: Falls


_ABOUT = 0.05
_THREE_M = 0.003
_ABOUT_M = 0.0005


def cord_ranges(host_m: float, cord_m: float) -> tuple[CordRange, ...]:
    """The three schools' ranges for a host, and where a cord falls.

    Parameters
    ----------
    host_m, cord_m : float
        Diameters of host rope and cord in metre.

    Returns
    -------
    tuple of CordRange
        “About” is read as within 5 % of the host for two thirds, and within half a millimetre
        for 3 mm thinner.

    Raises
    ------
    ValueError
        If a diameter is not above zero.
    """
    if host_m <= 0 or cord_m <= 0:
        raise ValueError("diameters must be above zero")
    bounds = {
        CordSchool.RANGE: (0.6 * host_m, 0.8 * host_m),
        CordSchool.TWO_THIRDS: ((2 / 3 - _ABOUT) * host_m, (2 / 3 + _ABOUT) * host_m),
        CordSchool.THINNER: (
            max(0.0, host_m - _THREE_M - _ABOUT_M),
            max(0.0, host_m - _THREE_M + _ABOUT_M),
        ),
    }
    return tuple(
        CordRange(school=school, low_m=low, high_m=high, falls=_where(cord_m, low, high))
        for school, (low, high) in bounds.items()
    )


def _where(cord_m: float, low: float, high: float) -> Falls:
    if cord_m < low - 1e-9:
        return Falls.THINNER
    return Falls.THICKER if cord_m > high + 1e-9 else Falls.INSIDE
