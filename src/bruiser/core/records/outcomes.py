"""What a pull can say: a finding turned into events and floors.

The one place that knows the rules. An *event* is an observed strength; a *floor* says only "at
least this much". Two strengths are kept apart for every knot: **holding strength** (what the knot
held, whichever way it went) and **breaking strength** (the load at which the cord broke in it).

============================  ===================  ===================  ==========
finding                       the knot that gave   every other knot     system
============================  ===================  ===================  ==========
broke at or in the knot       event, event         floor                event
tail ran out, came undone     event, floor         floor                event
capsized and did not hold on  event, floor         floor                event
broke in the span             -                    floor                event
broke at pin or termination   -                    floor                floor
stopped at a limit            -                    floor                floor
void                          nothing              nothing              nothing
============================  ===================  ===================  ==========

(First word holding strength, second breaking strength.) For a baseline pull a clear break in the
span is an event, everything else a floor.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from bruiser.core.records.layouts import End, Layout, PlaceKind
from bruiser.core.records.records import Finding, Gave, Role, Specimen


class Says(StrEnum):
    """What a peak load says about a strength."""

    EVENT = "event"
    FLOOR = "floor"
    NOTHING = "nothing"


@dataclass(frozen=True, kw_only=True)
class Evidence:
    """What one pull says; the load itself is the finding's peak."""

    baseline: Says = Says.NOTHING
    holding: dict[End, Says] = field(default_factory=dict)
    breaking: dict[End, Says] = field(default_factory=dict)
    system: Says = Says.NOTHING


def knot_says(gave: Gave, gave_here: bool) -> tuple[Says, Says]:
    """What a pull says of one knot: its holding strength, then its breaking strength."""
    if gave is Gave.VOID:
        return Says.NOTHING, Says.NOTHING
    if not gave_here or gave is Gave.STOPPED:
        return Says.FLOOR, Says.FLOOR
    return Says.EVENT, Says.EVENT if gave is Gave.BROKE else Says.FLOOR


_NEEDS_PLACE = (Gave.BROKE, Gave.CAME_OUT, Gave.CAPSIZED)


def possible_findings(layout: Layout, place_key: str | None) -> tuple[Gave, ...]:
    """The findings that make sense at a place (None: no place was marked)."""
    if place_key is None:
        return (Gave.STOPPED, Gave.VOID)
    place = layout.place(place_key)
    if place.kind is PlaceKind.KNOT:
        return (Gave.BROKE, Gave.CAME_OUT, Gave.CAPSIZED)
    return (Gave.BROKE,)


def evidence(role: Role, layout: Layout, gave: Gave, place_key: str | None) -> Evidence:
    """Turn a finding into events and floors.

    Parameters
    ----------
    role : Role
        Baseline or knot.
    layout : Layout
        The places of the specimen.
    gave : Gave
        What was found.
    place_key : str or None
        Where it gave; required when it broke, came out or capsized.

    Returns
    -------
    Evidence

    Raises
    ------
    ValueError
        If the place is missing or cannot give in that way.
    """
    if gave is Gave.VOID:
        return Evidence()
    if gave in _NEEDS_PLACE and place_key is None:
        raise ValueError(f"{gave} needs the place where it gave")
    place = layout.place(place_key) if place_key is not None and gave is not Gave.STOPPED else None
    if place is not None and gave not in possible_findings(layout, place.key):
        raise ValueError(f"{place.key} cannot have {gave}")
    if role is Role.BASELINE:
        clear = place is not None and place.kind is PlaceKind.SPAN
        says = Says.EVENT if clear else Says.FLOOR
        return Evidence(baseline=says, system=says)
    owner = None if place is None else place.owner
    said = {end: knot_says(gave, end is owner) for end in layout.ends}
    clear = place is not None and (owner is not None or place.kind is PlaceKind.SPAN)
    return Evidence(
        baseline=Says.NOTHING,
        holding={end: pair[0] for end, pair in said.items()},
        breaking={end: pair[1] for end, pair in said.items()},
        system=Says.EVENT if clear else Says.FLOOR,
    )


def evidence_of(specimen: Specimen, finding: Finding) -> Evidence:
    """Evidence of a stored finding."""
    return evidence(specimen.role, specimen.layout, finding.gave, finding.place)
