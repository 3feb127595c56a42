"""Writes docs/practice.md: the orderings that practice insists on, with medians and shares."""

from __future__ import annotations

from pathlib import Path

from validation.practice import Ordering, all_orderings

REPORT = Path(__file__).parents[1] / "docs" / "practice.md"
SEEDS = 200
_HEAD = """# True to practice: what the simulated bench must show

Written by `./run validate practice` ({seeds} seeds each). A statement holds when it holds on the
medians; the share of seeds beside it says how often a single bench would have seen it. Grips are
load shares of the dry rope at which the knot first slides; 9 and more stands for "breaks before".
"""
_TAIL = """
## What rests on argument, and not on measurement

Every number of the simulator (`rig/simulated/variants.py`, `archetypes.py`) is invented so that an
effect shows. The *order* of the rows above is what technicians who pull such knots agree on, and
each has the argument beside it; the *size* of a step is not measured anywhere, and no figure here
may be quoted of a real knot. In particular these rest on argument alone:

* that ice leaves half and mud three quarters of a grip, the same for every knot;
* that thick line beds as the cube root of its diameter, and a riding turn not at all;
* that a wrong-way hitch keeps about an eighth, whatever the cord;
* how far a lock-off runs back, and that only the friction of its turns decides it;
* that a tail shorter than eight diameters takes grip, and by how much;
* that cord and webbing of equal section behave alike but for what their entry says of tails.

A campaign of one's own pulls overrides all of it: the simulator is for practice and for the demo,
and no result of a campaign takes anything from it.
"""


def _number(value: float, unit: str) -> str:
    if unit:
        return f"{value:.0f}{unit}"
    return "9 +" if value >= 9 else f"{value:.3g}"


def lines(found: list[Ordering]) -> list[str]:
    """The table, a row for each statement."""
    rows = ["", "| statement | medians | seeds that hold | holds | why |", "|---|---|---|---|---|"]
    for o in found:
        medians = ", ".join(f"{name} {_number(value, o.unit)}" for name, value in o.medians)
        held = "yes" if o.holds else "**no**"
        rows.append(
            f"| {o.name} | {medians} | {100 * o.share:.0f} % of {o.seeds} | {held} | {o.argument} |"
        )
    return rows


def write(seeds: int = SEEDS) -> bool:
    """Print and write every statement; False when one does not hold."""
    found = all_orderings(seeds)
    for o in found:
        print(
            "holds    " if o.holds else "DOES NOT ", f"{100 * o.share:5.1f} %", o.name, flush=True
        )
    text = "\n".join([_HEAD.format(seeds=seeds).rstrip(), *lines(found)])
    REPORT.write_text(f"{text}\n{_TAIL}", encoding="utf-8")
    return all(o.holds for o in found)
