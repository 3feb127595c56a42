"""What lies on the simulated bench after a pull, in words."""

from __future__ import annotations

from typing import Any

from bruiser.core.records.layouts import End
from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.core.units import UnitChoice
from bruiser.workshop.logbook.entries import Entry

_GAVE_WORDS = {
    "broke": "The cord is parted at",
    "came_out": "The tail has come out at",
    "capsized": "The knot has changed form and let go at",
}


def remains_words(entry: Entry, units: UnitChoice) -> list[str]:
    """What lies there, as one would see and feel it; nothing of a bench that cannot know."""
    if entry.pull is None or not entry.pull.remains:
        return []
    remains: dict[str, Any] = dict(entry.pull.remains)
    layout = entry.specimen.layout
    lines = ["Nothing has given; everything is still tied."]
    if remains["place"] is not None:
        place = layout.place(str(remains["place"]))
        lines = [f"{_GAVE_WORDS[str(remains['gave'])]} {place.label}."]
    for spot in layout.tails:
        drawn = remains["draws_m"].get(spot.key)
        if drawn is not None:
            lines.append(f"{spot.label}: mark moved {units.length_text(drawn)}.")
    for end in End:
        changed = remains["truth"].get(f"form_{end}_n")
        if changed is not None and remains["gave"] != "capsized":
            load = units.force_text(changed)
            lines.append(f"knot {end}: changed form on the way, at {load}.")
    for knot in remains["knots"]:
        level = JamLevel(knot["jam_level"])
        if level is not JamLevel.NOT_TRIED:
            lines.append(f"knot {knot['end']}: {JAM_WORDS[level]}, {knot['untie_s']:.0f} s.")
    return lines
