"""A structure for a knot that only its name is known of: everything else is not established."""

from __future__ import annotations

from typing import Any

import tomli_w

from bruiser.catalogue import structure_from
from bruiser.catalogue.finding import fold
from bruiser.core.records.families import GENERAL
from bruiser.store.briefs import OwnStructure

FAMILIES_MADE = {
    "end loop": ("loop_pair", 1, 2, "standing part against the eye on a pin"),
    "midline loop": ("midline", 0, 4, "one end against the other"),
    "bend": ("bend", 2, 2, "one line against the other"),
    "hitch on a host": ("hitch", 1, 1, "standing part away from the host"),
    "stopper": ("stopper", 1, 1, "standing part through the plate"),
}
"""Families a knot can be made in from its name alone: layout, ends, legs, how it is pulled."""
_UNKNOWN = "not established"


def likely_family(name: str) -> str:
    """The family a name suggests."""
    words = fold(name).split()
    for word, family in (
        ("bend", "bend"),
        ("join", "bend"),
        ("hitch", "hitch on a host"),
        ("stopper", "stopper"),
        ("midline", "midline loop"),
        ("butterfly", "midline loop"),
    ):
        if word in words:
            return family
    return "end loop"


def made_structure(key: str, name: str, family: str, made_at: str) -> OwnStructure:
    """A structure of the campaign's own for a name.

    Raises
    ------
    ValueError
        If none can be made in that family.
    """
    if family not in FAMILIES_MADE:
        raise ValueError(f"no structure is made as {family}")
    layout, ends, legs, direction = FAMILIES_MADE[family]
    later = "Not written down yet; it came in with a table of pulls."
    data: dict[str, Any] = {
        "family": family,
        "layout": layout,
        "needs_end": _UNKNOWN,
        "in_the_bight": _UNKNOWN,
        "closed_ring": _UNKNOWN,
        "ends": ends,
        "legs": legs,
        "directions": [direction],
        "slippery": _UNKNOWN,
        "opens": _UNKNOWN,
        "tail_floor_d": 10.0 if ends else 0.0,
        "tail_usual_d": 12.0 if ends else 0.0,
        "cord_use_d": 25.0,
        "dressing": [later],
        "setting": [later],
        "opening": later,
        "weaknesses": [later],
        "never": [later],
        "opinions": [],
        "look_alikes": [],
        "names": [{"name": name, "trade": GENERAL}],
        "cues": {"front": later, "back": later},
    }
    structure_from(key, data)
    return OwnStructure(key=key, text=tomli_w.dumps(data), based_on="", made_at=made_at)
