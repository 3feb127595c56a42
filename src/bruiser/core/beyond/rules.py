"""How a campaign predicts across cordages, as it is kept with its limits; light to load."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, kw_only=True)
class CrossedPrior:
    """Half-normal scales of the spread between rows, and of t, in ln; the split of t^2 is uniform.

    Parameters
    ----------
    rows : float
        Of sa.
    spread : float
        Of t = sqrt(sb^2 + sc^2): 0.15 covers cells in .92 where knots take very differently to
        cordages and two or three of them were pulled, 0.20 in .93 and more (docs/across.md).
    """

    rows: float = 0.25
    spread: float = 0.20

    def words(self) -> str:
        """How a result names it."""
        return f"spreads half-normal: knots {self.rows:g}, cordages {self.spread:g} (ln)"


@dataclass(frozen=True, kw_only=True)
class AcrossRules:
    """How a campaign predicts across cordages; a version of it is kept with the limits.

    Parameters
    ----------
    left_out : tuple of str
        Lots, by id, that do not enter: of another kind than the others.
    beside : tuple of str
        Campaign files that are laid beside, read-only, as further lots; by their path.
    """

    prior: CrossedPrior = field(default_factory=CrossedPrior)
    left_out: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()
