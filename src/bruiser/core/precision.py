"""How precise n pulls will be, and how many it takes to tell two knots apart."""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.stats import nct
from scipy.stats import t as student_t

ONE_KNOT = 1.0
TWO_KNOTS = 0.781


@dataclass(frozen=True)
class SpreadGuess:
    """Spread of ln strength assumed for planning, and where it comes from."""

    knot: float
    baseline: float
    source: str = "stated prior"


def half_width(
    share: float, spread: SpreadGuess, pulls: int, baseline_pulls: int, knots_per_specimen: int = 1
) -> float:
    """Half-width of the 95 % efficiency interval expected after n pulls.

    Parameters
    ----------
    share : float
        Efficiency expected.
    spread : SpreadGuess
        Spreads of ln strength.
    pulls, baseline_pulls : int
        Specimens of the knot and of the plain rope; two or more each.
    knots_per_specimen : int
        1, or 2 when the knot is tied at both ends.

    Returns
    -------
    float
        In the same terms as `share`.

    Raises
    ------
    ValueError
        With fewer than two pulls of either.

    Notes
    -----
    E t sqrt(f s_k^2/n_k + s_b^2/n_b), t at 97.5 % on Welch and Satterthwaite's degrees of
    freedom; f is 1 for one knot and 0.781 for two knots a specimen. The first-order formula of
    the delta method; for very few pulls the interval of the posterior is narrower than this.
    """
    if pulls < 2 or baseline_pulls < 2:
        raise ValueError("two pulls of each at least")
    factor = TWO_KNOTS if knots_per_specimen == 2 else ONE_KNOT
    v_k = factor * spread.knot**2 / pulls
    v_b = spread.baseline**2 / baseline_pulls
    freedom = (v_k + v_b) ** 2 / (v_k**2 / (pulls - 1) + v_b**2 / (baseline_pulls - 1))
    return share * float(student_t.ppf(0.975, freedom)) * math.sqrt(v_k + v_b)


def pulls_for_half_width(
    wanted: float,
    share: float,
    spread: SpreadGuess,
    baseline_pulls: int,
    knots_per_specimen: int = 1,
    most: int = 500,
) -> int | None:
    """Fewest pulls that reach a half-width; None if `most` do not (the baseline may limit it)."""
    for pulls in range(2, most + 1):
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
    edge = float(student_t.ppf(0.975, freedom))
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
