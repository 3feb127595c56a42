"""Makes ``core/statistics/precision_table.py``: half-widths of the posterior after few pulls.

Run with ``python -m validation.precision_table``; the seed is in the file it writes.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from bruiser.core.statistics.censored import Sample
from bruiser.core.statistics.posterior import BASELINE_PRIOR, KNOT_PRIOR, SpreadPrior, posterior

SEED = 20261125
TRIALS = 2000
PULLS = tuple(range(1, 9))
SPREADS = (0.01, 0.02, 0.03, 0.05, 0.08, 0.12, 0.20, 0.30)
KINDS: tuple[tuple[str, int, SpreadPrior], ...] = (
    ("one knot", 1, KNOT_PRIOR),
    ("two knots", 2, KNOT_PRIOR),
    ("plain rope", 1, BASELINE_PRIOR),
)
TARGET = Path(__file__).parents[1] / "src/bruiser/core/statistics/precision_table.py"


def scattered(
    rng: np.random.Generator, pulls: int, spread: float, knots: int, trials: int
) -> list[Sample]:
    """Seeded samples of ln strength about 0: the weaker knot of a specimen gives."""
    ends = spread * rng.standard_normal((trials, pulls, knots))
    ones, floors = np.ones(pulls), np.full(pulls, knots - 1.0)
    return [Sample(ln_load=x, events=ones, floors=floors) for x in ends.min(axis=2)]


def mean_half_width(
    rng: np.random.Generator, pulls: int, spread: float, knots: int, prior: SpreadPrior
) -> float:
    """Half-width h in ln strength: sinh h is the mean half-width of e^mu's 95 % interval."""
    found = posterior(scattered(rng, pulls, spread, knots, TRIALS), prior)
    width = np.exp(found.quantile(0.975)) - np.exp(found.quantile(0.025))
    return float(np.arcsinh(np.mean(width) / 2))


def main() -> None:
    """Compute every cell and write the module."""
    rng = np.random.default_rng(SEED)
    lines = [
        '"""Half-widths of the typical ln strength after few pulls, made by simulation.',
        "",
        "sinh of a cell: mean half-width of the 95 % interval of e^mu, whose true value is 1.",
        f"Made by ``python -m validation.precision_table``: seed {SEED}, {TRIALS} samples a cell,",
        "the default posterior of :mod:`bruiser.core.statistics.posterior`. Do not edit.",
        '"""',
        "",
        "# fmt: off",
        f"SPREADS = {SPREADS}",
        f"PULLS = {PULLS}",
        "# kind -> one row a number of pulls, one column a spread",
        "HALF_WIDTHS: dict[str, tuple[tuple[float, ...], ...]] = {",
    ]
    for kind, knots, prior in KINDS:
        lines.append(f'    "{kind}": (')
        for pulls in PULLS:
            row = [mean_half_width(rng, pulls, s, knots, prior) for s in SPREADS]
            lines.append("        (" + ", ".join(f"{w:.4f}" for w in row) + "),")
            print(kind, pulls, flush=True)
        lines.append("    ),")
    lines += ["}", ""]
    TARGET.write_text("\n".join(lines), encoding="utf-8")


if __name__ == "__main__":
    main()
