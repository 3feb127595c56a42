"""Synthetic knot of every catalogue variant: a base, what the structure changes, what the variant.

These numbers are invented so that every effect shows. They say nothing of real knots.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from bruiser.rig.simulated.archetypes import ARCHETYPES, Archetype, Kind

_TURN = 2 * math.pi
_WRONG_WAY = 0.13
"""What is left of a one-way hitch's grip when it is pulled the other way."""
_EIGHT, _OVER, _BOWL = (ARCHETYPES[k] for k in ("figure-eight-loop", "overhand-loop", "bowline"))
_REEF, _SHEET, _FISH = (ARCHETYPES[k] for k in ("reef", "sheet-bend", "double-fishermans"))
_FLAT, _CLOVE = ARCHETYPES["flat-overhand"], ARCHETYPES["clove-hitch"]


def _midline(base: Archetype, efficiency: float, loosen: float, jam: float) -> Archetype:
    return replace(
        base, kind=Kind.MIDLINE, efficiency=efficiency, loosen=loosen, jam_base=jam, jam_slope=5.0
    )


def _grip(
    wraps: float, share: float, loosen: float, jam: float, *, one_way: bool = True
) -> Archetype:
    return replace(
        _CLOVE,
        kind=Kind.FRICTION,
        efficiency=0.80,
        wraps=wraps,
        grip_share=share,
        loosen=loosen,
        jam_base=jam,
        reverse=(1.0, _WRONG_WAY if one_way else 1.0),
    )


def _slide(wraps: float, share: float, efficiency: float = 0.70) -> Archetype:
    return replace(
        _CLOVE, kind=Kind.ADJUSTABLE, efficiency=efficiency, wraps=wraps, grip_share=share
    )


def _stop(bulk: float, efficiency: float) -> Archetype:
    return replace(
        _OVER,
        kind=Kind.STOPPER,
        bulk_d=bulk,
        efficiency=efficiency,
        engaged_d=8,
        jam_base=-0.4,
        jam_slope=5.0,
    )


def _bind(turns: float, angle: float, jam: float) -> Archetype:
    return replace(_CLOVE, kind=Kind.BINDING, turns=turns, wrap_angle=angle, jam_base=jam)


def _hitch(angle: float, efficiency: float, loosen: float, pinch: float = 1.3) -> Archetype:
    return replace(
        _CLOVE, wrap_angle=angle, efficiency=efficiency, loosen=loosen, pinch=pinch, bite=0.04
    )


_EIGHT_STOP = 9.0
"""A slip loop stopped by a figure eight bears on the eight: it no longer closes."""

BASES: dict[str, Archetype] = {
    **{k: a for k, a in ARCHETYPES.items() if k not in ("drum-termination", "double-bowline")},
    "alpine-butterfly": _midline(_EIGHT, 0.66, 0.04, -2.6),
    "anchor-bend": _hitch(10.0, 0.72, 0.05),
    "artillery-loop": _midline(_SHEET, 0.54, 0.22, -2.8),
    "ashley-bend": replace(_EIGHT, efficiency=0.60, jam_base=-2.4, jam_slope=4.5, loosen=0.03),
    "ashley-stopper": _stop(3.4, 0.62),
    "autoblock": _grip(3, 0.0050, 0.06, -4.5, one_way=False),
    "bachmann": _grip(4, 0.0110, 0.12, -3.0),
    "barrel-noose": replace(_FISH, efficiency=0.70, jam_base=-2.0, jam_slope=4.5),
    "blood-dropper-loop": _midline(_FISH, 0.62, 0.05, -0.6),
    "blood-knot": replace(_FISH, efficiency=0.72, wrap_angle=13.0, jam_base=0.8),
    "boa": _bind(4, 12.0, 0.2),
    "bowline-on-the-bight": replace(_BOWL, kind=Kind.DOUBLE, efficiency=0.70, loosen=0.14),
    "buckle-toggle": replace(_CLOVE, kind=Kind.DOUBLE, efficiency=0.66, loosen=0.08),
    "buntline-hitch": replace(_hitch(8.5, 0.66, 0.03), jam_base=0.6, jam_slope=7.0),
    "butterfly-bend": replace(_EIGHT, efficiency=0.62, jam_base=-2.6, jam_slope=4.8, loosen=0.03),
    "canadian-jam-knot": _slide(3, 0.0100, 0.60),
    "carrick-bend": replace(_SHEET, efficiency=0.62, wrap_angle=8.5, engaged_d=14, loosen=0.10),
    "clove-binding": _bind(2, 6.0, -2.4),
    "constrictor": _bind(3, 10.0, 0.4),
    "cow-hitch": _hitch(5.5, 0.72, 0.16),
    "double-dragon-loop": replace(_BOWL, efficiency=0.72, loosen=0.05, engaged_d=15),
    "double-dragon-midline": _midline(_BOWL, 0.68, 0.06, -3.4),
    "double-figure-eight-loop": replace(_EIGHT, kind=Kind.DOUBLE, efficiency=0.78),
    "double-overhand-loop": replace(_OVER, efficiency=0.65, wrap_angle=9.5, jam_base=0.3),
    "double-overhand-sliding-loop": _slide(2, 0.0300, 0.70),
    "double-overhand-stopper": _stop(3.1, 0.64),
    "double-sheet-bend": replace(_SHEET, efficiency=0.54, wrap_angle=8, loosen=0.12, engaged_d=11),
    "englishmans-loop": replace(_OVER, efficiency=0.64, wrap_angle=9.0, loosen=0.03),
    "farrimond": _slide(3, 0.0140, 0.66),
    "figure-eight-bend": replace(_EIGHT, efficiency=0.70),
    "figure-eight-midline": _midline(_EIGHT, 0.70, 0.05, -1.4),
    "figure-eight-stopper": _stop(2.8, 0.70),
    "fishermans": replace(_FISH, efficiency=0.62, wrap_angle=8.0, engaged_d=13, jam_base=-0.4),
    "flat-figure-eight": replace(_FLAT, efficiency=0.47, capsize_chance=0.75),
    "four-strand-master-loop": replace(_EIGHT, kind=Kind.MIDLINE, efficiency=0.82, loosen=0.02),
    "granny": replace(_REEF, efficiency=0.43, capsize_chance=0.15, wrap_angle=3.8, loosen=0.25),
    "halter-hitch": replace(_hitch(6.5, 0.62, 0.14), kind=Kind.RELEASE, turns=1.2),
    "highwaymans": replace(_hitch(5.0, 0.58, 0.30), kind=Kind.RELEASE, turns=0.9),
    "honda-loop": replace(_OVER, efficiency=0.60, loosen=0.03),
    "hunters-bend": replace(_EIGHT, efficiency=0.64, jam_base=-1.6, jam_slope=5.2, loosen=0.03),
    "klemheist": _grip(4, 0.0080, 0.08, -1.2),
    "midshipmans-hitch": replace(_slide(2, 0.0400, 0.68), riding=True),
    "munter-lockoff": _hitch(9.0, 0.72, 0.08),
    "neck-halter": _slide(1, 0.0300 * _EIGHT_STOP, 0.58),
    "overhand-midline": _midline(_OVER, 0.56, 0.03, -0.2),
    "overhand-stopper": _stop(2.3, 0.62),
    "perfection-loop": replace(_OVER, efficiency=0.63, jam_base=-0.6, loosen=0.03),
    "prusik": _grip(2, 0.0170, 0.05, -0.5, one_way=False),
    "ring-bend": replace(_OVER, efficiency=0.60, loosen=0.10, jam_base=-0.4),
    "rolling-hitch-on-rope": _grip(2, 0.0120, 0.12, -2.5),
    "rolling-hitch": replace(_hitch(8.0, 0.66, 0.10), reverse=(0.95, _WRONG_WAY)),
    "round-turn-two-half-hitches": _hitch(11.0, 0.75, 0.06),
    "slip-knot": _slide(1, 0.0300, 0.58),
    "slipped-half-hitch": replace(_hitch(4.6, 0.56, 0.32), kind=Kind.RELEASE, turns=0.8),
    "slipped-lowering-loop": replace(_hitch(6.0, 0.60, 0.20), kind=Kind.RELEASE, turns=1.1),
    "stevedore": _stop(3.2, 0.72),
    "strangle": _bind(3, 9.0, 0.1),
    "surgeons-bend": replace(_REEF, efficiency=0.50, wrap_angle=6.8, capsize_chance=0.12),
    "surgeons-join": replace(_OVER, efficiency=0.58, wrap_angle=8.5, loosen=0.02),
    "surgeons-binding": _bind(2, 7.0, -0.8),
    "taut-line-hitch": _slide(3, 0.009, 0.66),
    "tensionless-wrap": replace(ARCHETYPES["drum-termination"], efficiency=0.95, loosen=0.01),
    "thief": replace(_REEF, wrap_angle=3.2, loosen=0.35, capsize_chance=0.05),
    "timber-hitch": replace(_hitch(7.0, 0.70, 0.75, 1.1), jam_base=-6.5),
    "triple-fishermans": replace(_FISH, efficiency=0.70, wrap_angle=16, engaged_d=27, jam_base=1),
    "truckers-hitch": replace(
        _CLOVE, kind=Kind.TENSIONING, efficiency=0.60, turns=3.0, grip_share=0.075
    ),
    "twin-bowline-bend": replace(_BOWL, efficiency=0.69, loosen=0.16),
    "twin-eye-adjusted": replace(_EIGHT, kind=Kind.DOUBLE, efficiency=0.76),
    "zeppelin-bend": replace(_EIGHT, efficiency=0.63, jam_base=-3.6, jam_slope=4.4, loosen=0.02),
}  # fmt: skip

_COUNTS = {"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6}


@dataclass(frozen=True)
class Tying:
    """A knot as tied: its constants, and what a backup on its tail still holds.

    Parameters
    ----------
    backup_share : float
        Load share at which a backup gives too; 0 without one.
    """

    archetype: Archetype
    backup_share: float = 0.0


def _turned(a: Archetype, structure: str, option: str) -> Archetype:
    """More or fewer turns or wraps than the structure's usual."""
    usual = {
        "blood-dropper-loop": 3,
        "blood-knot": 4,
        "barrel-noose": 2,
        "timber-hitch": 3,
        "buckle-toggle": 2,
    }
    if structure == "bowline":
        if option == "round-turn":
            return replace(ARCHETYPES["double-bowline"])
        return replace(a, wrap_angle=a.wrap_angle + 0.7, loosen=0.6 * a.loosen)
    count = _COUNTS[option]
    if a.wraps:
        return replace(a, wraps=float(count))
    more = count - usual.get(structure, 3)
    return replace(
        a,
        wrap_angle=a.wrap_angle + more * _TURN / 2,
        efficiency=a.efficiency * (1 + 0.02 * more),
        engaged_d=a.engaged_d + 3 * more,
        jam_base=a.jam_base + 0.2 * more,
    )


_FINISHES = {
    "back-along": (1.01, 0.35, 1.05),
    "stopper": (1.0, 0.6, 1.0),
    "half-hitch": (1.0, 0.7, 1.05),
    "double-overhand": (1.0, 0.4, 1.0),
    "cow": (0.98, 0.9, 0.70),
}
_BACKUPS = {
    "stopper": 0.28,
    "half-hitch": 0.16,
    "half-hitches": 0.60,
    "overhand": 0.22,
    "double-overhand": 0.40,
}
_OTHER: dict[tuple[str, str], dict[str, float]] = {
    ("tail", "outside"): {"efficiency": 0.99, "loosen": 1.15, "capsize_chance": 1.3},
    ("tails", "opposite"): {"pinch": 0.85, "loosen": 1.3},
    ("dressing", "crossed"): {"efficiency": 0.97, "pinch": 0.9, "cv": 1.3},
    ("made", "thrown"): {"seating_d": 1.1},
    ("tying", "followed"): {"seating_d": 1.15},
    ("method", "twist"): {"seating_d": 0.9},
    ("second", "behind"): {"capsize_chance": 0.15, "pinch": 1.3},
    ("lock", "locked"): {"loosen": 0.25, "pinch": 1.2, "turns": 1.4},
    ("end", "tied"): {"loosen": 0.5},
    ("loop", "figure-eight"): {"efficiency": 1.1},
    ("loop", "butterfly"): {"efficiency": 1.08, "jam_slope": 0.8},
    ("turn", "self-locking"): {"grip_share": 1.35, "lock_turns": 2.0},
    ("stop", "overhand"): {"grip_share": 7.0},
    ("stop", "figure-eight"): {"grip_share": _EIGHT_STOP},
    ("hand", "mirrored"): {},
}


def tying(structure: str, choices: Mapping[str, str] | None = None) -> Tying | None:
    """The synthetic knot of a variant; None for a structure of a campaign's own.

    Raises
    ------
    ValueError
        If a choice has no synthetic effect here: a variant may not pass for the plain form.
    """
    a = BASES.get(structure)
    if a is None:
        return None
    backup = 0.0
    for axis, option in (choices or {}).items():
        if axis in ("turns", "wraps", "twists") and (structure, option) != ("bowline", "one"):
            a = _turned(a, structure, option)
        elif axis == "slip" and option == "slipped":
            a = replace(
                a, efficiency=0.98 * a.efficiency, loosen=1.4 * a.loosen, jam_base=a.jam_base - 1.5
            )
        elif axis == "backup" and option in _BACKUPS:
            backup = _BACKUPS[option]
        elif axis == "finish" and option in _FINISHES:
            strength, loosen, pinch = _FINISHES[option]
            a = replace(
                a,
                efficiency=strength * a.efficiency,
                loosen=loosen * a.loosen,
                pinch=pinch * a.pinch,
                grip_share=pinch * a.grip_share,
            )
            backup = max(backup, _BACKUPS.get(option, 0.0))
        elif (axis, option) in _OTHER:
            changed = _OTHER[axis, option]
            a = replace(a, **{k: f * getattr(a, k) for k, f in changed.items()})
        elif not _plain(axis, option):
            raise ValueError(f"{structure}: {axis} {option} has no synthetic effect")
    return Tying(a, backup)


def _plain(axis: str, option: str) -> bool:
    plain = {
        "turns": "one", "slip": "through", "backup": "none", "finish": ("none", "clove"),
        "tail": "inside", "tails": "same", "dressing": "parallel", "made": "turns",
        "tying": "bight", "method": "hand", "second": "single", "lock": "plain",
        "end": "clipped", "loop": "slip", "turn": "plain", "stop": "plain", "hand": "as-drawn",
    }  # fmt: skip
    wanted = plain.get(axis, ())
    return option in ((wanted,) if isinstance(wanted, str) else wanted)
