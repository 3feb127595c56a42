"""The keys of the findings station: one a place, one a level, one for marks that did not move."""

from __future__ import annotations

from bruiser.core.records.records import Gave, JamLevel

LEVEL_KEYS: dict[JamLevel, str] = {
    JamLevel.SHAKEN: "S",
    JamLevel.HAND: "H",
    JamLevel.WORKED: "W",
    JamLevel.TOOL: "T",
    JamLevel.CUT: "C",
    JamLevel.FUSED: "F",
    JamLevel.NOT_TRIED: "N",
}
GAVE_WORDS = {
    Gave.BROKE: "Broke",
    Gave.CAME_OUT: "Came out",
    Gave.CAPSIZED: "Capsized",
    Gave.STOPPED: "Nothing gave",
    Gave.VOID: "Void",
}
GAVE_KEYS: dict[Gave, str] = {
    Gave.BROKE: "B",
    Gave.CAME_OUT: "O",
    Gave.CAPSIZED: "P",
    Gave.STOPPED: "0",
    Gave.VOID: "V",
}
MARKS_KEY, CLOCK_KEY = "M", "U"
LEVEL_OF = {key: level for level, key in LEVEL_KEYS.items()}
GAVE_OF = {key: gave for gave, key in GAVE_KEYS.items()}
