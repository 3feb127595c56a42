"""What is left of a simulated specimen: draws, untying, and the truth behind them."""

from __future__ import annotations

import math
from typing import Protocol

import numpy as np

from bruiser.core.records.layouts import End
from bruiser.rig.instrument import KnotRemains, Remains
from bruiser.rig.simulated.archetypes import (
    Kind,
    advantage,
    binding_grip_share,
    ledge_share,
    release_force_share,
    residual_grip,
    slack_force_share,
    width_d,
)
from bruiser.rig.simulated.cords import Cord
from bruiser.rig.simulated.knot import KnotState
from bruiser.rig.simulated.setup import SpecimenSetup

_JAM_CUTS = (0.0, 2.5, 5.0)
_JAM_NAMES = ("hand", "worked", "tool", "cut")


class Pulled(Protocol):
    """What must be known of a specimen to say what is left of it."""

    setup: SpecimenSetup
    cord: Cord
    strength_n: float
    lot_strength_n: float
    load_n: float
    highest_n: float
    snatches: int
    gave: tuple[str, str] | None

    @property
    def knots(self) -> list[KnotState]:
        """Its knots, with what has happened to them."""


def jam_score(specimen: Pulled, knot: KnotState) -> float:
    """Jam score of a knot without the inspection's noise."""
    return knot.archetype.jam_base + knot.archetype.jam_slope * specimen.highest_n / knot.cord_n


def try_untying(specimen: Pulled, end: End, attempt: int) -> tuple[str, float]:
    """What untying a knot takes now, and the seconds; repeats exactly for an attempt."""
    knot = next(k for k in specimen.knots if k.end is end)
    rng = np.random.default_rng([specimen.setup.seed, 77, attempt, ord(end.value)])
    if knot.fused:
        return "fused", 900.0
    score = jam_score(specimen, knot) + float(rng.logistic())
    level = "shaken" if score < -2.5 else _JAM_NAMES[int(np.searchsorted(_JAM_CUTS, score))]
    seconds = max(1.0, 4.0 * math.exp(0.55 * score) * float(np.exp(0.2 * rng.normal())))
    return level, round(min(seconds, 900.0), 1)


def seated_mm(specimen: Pulled, knot: KnotState) -> float:
    """What a tail draws as its knot seats itself, up to the highest load it has seen."""
    share = specimen.highest_n / specimen.strength_n
    most = 0.10 * knot.archetype.seating_d * specimen.setup.diameter_mm
    return most * (1 - math.exp(-share / knot.archetype.seating_share))


def remains_of(specimen: Pulled, attempt: int = 0) -> Remains:
    """What somebody with hands would find now; the seeded inspection repeats exactly."""
    rng = np.random.default_rng([specimen.setup.seed, 77])
    gave, place = specimen.gave if specimen.gave is not None else ("stopped", None)
    draws: dict[str, float] = {}
    knots: list[KnotRemains] = []
    for knot in specimen.knots:
        for tail, drawn in knot.drawn.items():
            measured = drawn + seated_mm(specimen, knot) + float(rng.normal(0.0, 0.7))
            draws[tail] = min(max(0.0, round(measured)), knot.tails[tail]) / 1000.0
        own = place is not None and specimen.setup.lies.place(place).owner is knot.end
        if own:
            knots.append(KnotRemains(knot.end.value, "not_tried", None))
            continue
        level, seconds = try_untying(specimen, knot.end, attempt)
        knots.append(KnotRemains(knot.end.value, level, seconds))
    return Remains(
        gave=gave, place=place, draws_m=draws, knots=tuple(knots), truth=truth_of(specimen)
    )


def own(specimen: Pulled, spread: float) -> float:
    """What sets one specimen apart from its like: log-normal about 1, the same at every look."""
    rng = np.random.default_rng([specimen.setup.seed, 91, round(1000 * spread)])
    return float(np.exp(spread * rng.normal()))


EYE_D = 12.0
"""Length of the first eye of a double loop as tied, in diameters."""


def eyes_mm(specimen: Pulled) -> dict[str, float]:
    """Lengths of the two eyes of a double loop before and after, in mm.

    Notes
    -----
    Cord goes from the longer eye, which bears less, into the shorter: 0.6 d and a tenth of the
    difference at the cord's strength, in proportion to the highest load, scattering by 30 %.
    """
    d = specimen.setup.diameter_mm
    first, second = EYE_D * d, EYE_D * d * (1.0 + specimen.setup.uneven)
    share = specimen.highest_n / specimen.strength_n
    moved = (0.6 * d + 0.1 * (second - first)) * share * own(specimen, 0.30)
    return {
        "eye_a_before_mm": first,
        "eye_a2_before_mm": second,
        "eye_a_mm": first + moved,
        "eye_a2_mm": second - moved,
    }


def truth_of(specimen: Pulled) -> dict[str, float]:
    """What the simulator knows and no bench would: strengths, slides, advantage, release."""
    found = {
        "strength_n": specimen.strength_n,
        "lot_strength_n": specimen.lot_strength_n,
        "highest_n": specimen.highest_n,
        "snatches": float(specimen.snatches),
        **{f"knot_{k.end.value}_n": k.strength_n for k in specimen.knots},
        **{f"slid_{k.end.value}_mm": k.slid_mm for k in specimen.knots},
        **{f"glazed_{k.end.value}": float(k.glazed) for k in specimen.knots},
        **{f"form_{k.end.value}_n": k.capsized_n for k in specimen.knots},
    }
    for knot in specimen.knots:
        a = knot.archetype
        if a.kind is Kind.DOUBLE:
            found |= eyes_mm(specimen)
        if a.kind is Kind.TENSIONING:
            found["advantage_theory"], found["advantage_real"] = advantage(a, specimen.cord)
        elif a.kind is Kind.RELEASE:
            share = specimen.load_n / specimen.strength_n
            found["release_n"] = specimen.strength_n * release_force_share(a, specimen.cord, share)
            found["release_n"] *= own(specimen, 0.15)
        elif a.kind is Kind.BINDING:
            left = residual_grip(a, specimen.cord, specimen.snatches, knot.fitness)
            found["residual_grip"] = left
            grip = binding_grip_share(a, specimen.cord, knot.fitness)
            found["move_n"] = specimen.strength_n * grip * left * own(specimen, 0.12)
        elif a.kind in (Kind.FRICTION, Kind.ADJUSTABLE):
            slack = slack_force_share(a, specimen.cord, specimen.highest_n / knot.cord_n)
            found["by_hand_n"] = specimen.strength_n * slack * own(specimen, 0.25)
        wide = width_d(a) * own(specimen, 0.05)
        found["width_m"] = wide * specimen.setup.diameter_mm / 1000.0
        found["ledge_n"] = specimen.strength_n * ledge_share(a, wide) * own(specimen, 0.2)
    return {k: v for k, v in found.items() if math.isfinite(v)}
