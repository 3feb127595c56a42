"""How precise n pulls will be, and how many it takes to tell two knots apart."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from bruiser.core.statistics.precision_table import HALF_WIDTHS, PULLS, SPREADS

ONE_KNOT = 1.0
TWO_KNOTS = 0.781


@dataclass(frozen=True)
class SpreadGuess:
    """Spread of ln strength assumed for planning, and where it comes from."""

    knot: float
    baseline: float
    source: str = "stated prior"


def typical_half_width(spread: float, pulls: int, kind: str) -> float:
    """Expected half-width of the 95 % interval of a group's typical ln strength.

    Parameters
    ----------
    spread : float
        Standard deviation of ln strength of one knot, or of the plain rope.
    pulls : int
        One or more.
    kind : str
        ``one knot``, ``two knots`` (the knot at both ends) or ``plain rope``.

    Raises
    ------
    ValueError
        Without a pull.

    Notes
    -----
    Up to 8 pulls: the mean over simulated samples of the default posterior's half-width
    (:mod:`bruiser.core.statistics.precision_table`), interpolated in ln spread and, outside the
    table, in proportion. Beyond: t sqrt(f) s / sqrt(n), t at 97.5 % on n - 1 degrees of freedom,
    f = 0.781 for two knots a specimen, else 1, scaled to join the table at 8.
    """
    if pulls < 1:
        raise ValueError("one pull at least")
    row = HALF_WIDTHS[kind][min(pulls, PULLS[-1]) - 1]
    inside = min(max(spread, SPREADS[0]), SPREADS[-1])
    width = math.exp(float(np.interp(math.log(inside), np.log(SPREADS), np.log(row))))
    if spread > SPREADS[-1]:
        width *= spread / SPREADS[-1]
    if pulls <= PULLS[-1]:
        return width
    factor = TWO_KNOTS if kind == "two knots" else ONE_KNOT
    return width * _formula(spread, pulls, factor) / _formula(spread, PULLS[-1], factor)


def _formula(spread: float, pulls: int, factor: float) -> float:
    return float(stdtrit(pulls - 1, 0.975)) * math.sqrt(factor / pulls) * spread


def half_width(
    share: float, spread: SpreadGuess, pulls: int, baseline_pulls: int, knots_per_specimen: int = 1
) -> float:
    """Half-width of the default 95 % efficiency interval expected after n pulls.

    Parameters
    ----------
    share : float
        Efficiency expected.
    spread : SpreadGuess
        Spreads of ln strength.
    pulls, baseline_pulls : int
        Specimens of the knot and of the plain rope that break; one or more each.
    knots_per_specimen : int
        1, or 2 when the knot is tied at both ends.

    Returns
    -------
    float
        In the same terms as `share`.

    Raises
    ------
    ValueError
        Without a pull of either.

    Notes
    -----
    E sinh sqrt(h_k^2 + h_b^2), h the half-widths of the two typical ln strengths
    (:func:`typical_half_width`). Against simulated campaigns within 12 % (docs/planning.md).
    """
    kind = "two knots" if knots_per_specimen == 2 else "one knot"
    knot = typical_half_width(spread.knot, pulls, kind)
    base = typical_half_width(spread.baseline, baseline_pulls, "plain rope")
    return share * math.sinh(math.hypot(knot, base))


def pulls_for_half_width(
    wanted: float,
    share: float,
    spread: SpreadGuess,
    baseline_pulls: int,
    knots_per_specimen: int = 1,
    most: int = 500,
) -> int | None:
    """Fewest pulls that reach a half-width; None if `most` do not (the baseline may limit it)."""
    for pulls in range(1, most + 1):
        if half_width(share, spread, pulls, baseline_pulls, knots_per_specimen) <= wanted:
            return pulls
    return None


def power(
    share_a: float,
    share_b: float,
    spread_a: float,
    spread_b: float,
    pulls: int,
    factor: float = 1.0,
) -> float:
    """Chance that n pulls of each tell two knots of one lot apart at the 5 % level, two-sided.

    Notes
    -----
    Welch's t on ln strength with the noncentral t distribution; the baseline cancels.
    """
    v_a, v_b = factor * spread_a**2 / pulls, factor * spread_b**2 / pulls
    freedom = (v_a + v_b) ** 2 / ((v_a**2 + v_b**2) / (pulls - 1))
    shift = abs(math.log(share_a / share_b)) / math.sqrt(v_a + v_b)
    edge = float(stdtrit(freedom, 0.975))
    from scipy.stats import nct  # slow to load

    return float(nct.sf(edge, freedom, shift) + nct.cdf(-edge, freedom, shift))


def pulls_to_tell_apart(
    share_a: float,
    share_b: float,
    spread_a: float,
    spread_b: float,
    wanted_power: float = 0.8,
    factor: float = 1.0,
    most: int = 500,
) -> int | None:
    """Fewest pulls of each that tell two knots apart with a stated power; None beyond `most`."""
    if share_a == share_b:
        return None
    for pulls in range(2, most + 1):
        if power(share_a, share_b, spread_a, spread_b, pulls, factor) >= wanted_power:
            return pulls
    return None
