"""Solves heights and polynomials of every recipe and keeps them by content: ``./run heights``."""

from __future__ import annotations

import sys
from pathlib import Path

import bruiser.catalogue
from bruiser.catalogue.drawings import solve_heights, solve_polynomials


def main() -> int:
    """Write them beside the catalogue."""
    folder = Path(bruiser.catalogue.__file__).parent
    (folder / "heights.json").write_text(solve_heights() + "\n", encoding="utf-8")
    (folder / "polynomials.json").write_text(solve_polynomials() + "\n", encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
