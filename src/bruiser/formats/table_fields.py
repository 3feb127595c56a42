"""What a column of a table of pulls may mean: its fields, and what people call them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

from bruiser.catalogue.finding import fold


class FieldKind(StrEnum):
    """How a field is read."""

    TEXT = "text"
    FORCE = "force"
    LENGTH = "length"
    SECONDS = "seconds"
    NUMBER = "number"
    WHOLE = "whole"
    DATE = "date"
    WORD = "word"


@dataclass(frozen=True, kw_only=True)
class TableField:
    """A field of a pull: its key, what it is called on screen, and what it is called by people."""

    key: str
    words: str
    kind: FieldKind
    called: tuple[str, ...]
    choices: tuple[str, ...] = ()


_T, _W = FieldKind.TEXT, FieldKind.WORD
FIELDS: dict[str, TableField] = {
    f.key: f
    for f in (
        TableField(
            key="pull", words="pull (code)", kind=_T,
            called=("pull", "code", "id", "specimen", "sample", "piece", "test no", "no", "nr",
                    "number", "test", "test id", "specimen no"),
        ),
        TableField(
            key="role", words="plain rope or knot", kind=_W, called=("role", "kind of pull"),
            choices=("baseline", "knot"),
        ),
        TableField(
            key="cordage", words="cordage", kind=_T,
            called=("cordage", "rope", "cord", "line", "lot", "rope type", "cordage lot", "cord type"),
        ),
        TableField(
            key="condition", words="condition", kind=_T,
            called=("condition", "state", "wet dry", "conditioning", "state of cord"),
        ),
        TableField(
            key="cordage_b", words="second cordage", kind=_T,
            called=("cordage b", "second rope", "other rope", "rope 2", "host rope", "host"),
        ),
        TableField(
            key="knot", words="knot", kind=_T,
            called=("knot", "bend", "hitch", "knot name", "tied", "knot tied", "loop"),
        ),
        TableField(
            key="ends", words="ends that carry it", kind=FieldKind.WHOLE,
            called=("ends", "number of knots", "knots tied", "how many ends"),
        ),
        TableField(
            key="knot_b", words="knot at end B", kind=_T,
            called=("knot b", "second knot", "other knot", "knot 2", "knot at b"),
        ),
        TableField(
            key="peak", words="peak load", kind=FieldKind.FORCE,
            called=("peak", "peak load", "max", "max load", "maximum", "maximum load", "load",
                    "breaking load", "break load", "breaking strength", "load at failure", "force",
                    "failed at", "broke at", "strength", "failure load", "max force", "peak force"),
        ),
        TableField(
            key="unit", words="unit of force", kind=_W, called=("unit", "units", "force unit"),
            choices=("N", "kN", "daN", "kgf", "lbf"),
        ),
        TableField(
            key="finding", words="what gave", kind=_W,
            called=("finding", "result", "outcome", "what gave", "failure", "failure mode", "mode",
                    "how it failed", "what happened", "ended", "gave"),
            choices=("broke_at_knot", "came_out", "capsized", "slid", "broke_elsewhere", "broke_clear",
                     "broke_at_termination", "stopped", "void"),
        ),
        TableField(
            key="failed_end", words="end that failed", kind=_W,
            called=("failed end", "end", "which end", "end failed"), choices=("A", "B"),
        ),
        TableField(
            key="jam_level", words="how it was untied", kind=_W,
            called=("jam level", "jam", "jamming", "untied", "how untied", "untying", "opened",
                    "ease of untying"),
            choices=("shaken", "hand", "worked", "tool", "cut", "fused", "not_tried"),
        ),
        TableField(
            key="untie_s", words="time to untie", kind=FieldKind.SECONDS,
            called=("untie s", "untie time", "time to untie", "untying time", "seconds to untie"),
        ),
        TableField(
            key="gave_up", words="untying given up", kind=_W, called=("gave up", "given up"),
            choices=("yes", "no"),
        ),
        TableField(
            key="draw_mm", words="tail drawn", kind=FieldKind.LENGTH,
            called=("draw mm", "draw", "tail draw", "slip", "slippage", "tail slip", "tail drawn"),
        ),
        TableField(
            key="first_slip", words="load at first slip", kind=FieldKind.FORCE,
            called=("first slip", "load at first slip", "slip load"),
        ),
        TableField(
            key="method", words="method", kind=_W, called=("method", "test method"),
            choices=("ramp", "stepped", "cycles", "shaking", "hold", "slide", "release", "advantage",
                     "retention", "seat", "bulk"),
        ),
        TableField(
            key="cycles", words="cycles or shakes", kind=FieldKind.WHOLE,
            called=("cycles", "number of cycles", "shakes"),
        ),
        TableField(
            key="cycles_end", words="how the cycles ended", kind=_W,
            called=("cycles end", "survived"), choices=("failed", "survived"),
        ),
        *(
            TableField(key=key, words=words, kind=FieldKind.FORCE, called=(words,))
            for key, words in (
                ("release_force", "force to release"), ("hand_load", "load in the hand line"),
                ("applied_load", "load applied"), ("kept_load", "load kept"),
                ("before_load", "force to move it before"),
                ("after_load", "force to move it after"), ("ledge_force", "force over the ledge"),
            )
        ),
        *(
            TableField(key=key, words=words, kind=_W, called=(words,), choices=("yes", "no"))
            for key, words in (
                ("slides_by_hand", "slides by hand"), ("frees_by_hand", "frees by hand"),
                ("freed", "freed"), ("freed_itself", "freed itself"),
                ("passed", "passed the ledge"),
            )
        ),
        TableField(
            key="sheath", words="sheath afterwards", kind=_W, called=("sheath",),
            choices=("clean", "glazed", "torn"),
        ),
        TableField(
            key="width_d", words="width in diameters", kind=FieldKind.NUMBER,
            called=("width d", "width in diameters"),
        ),
        TableField(
            key="wraps", words="wraps", kind=FieldKind.WHOLE, called=("wraps", "turns", "no of wraps"),
        ),
        TableField(
            key="order", words="order", kind=FieldKind.NUMBER, called=("order", "sequence", "run"),
        ),
        TableField(
            key="day", words="date", kind=FieldKind.DATE,
            called=("day", "date", "when", "pulled on", "test date", "date of test"),
        ),
        TableField(
            key="technician", words="technician", kind=_T,
            called=("technician", "by", "tester", "operator", "who", "initials", "pulled by", "name"),
        ),
        TableField(
            key="note", words="note", kind=_T,
            called=("note", "notes", "comment", "comments", "remark", "remarks"),
        ),
        TableField(
            key="diameter_mm", words="diameter of the cord", kind=FieldKind.LENGTH,
            called=("diameter mm", "diameter", "dia", "size", "thickness", "rope diameter"),
        ),
        TableField(
            key="material", words="material", kind=_T, called=("material", "fibre", "fiber"),
        ),
        TableField(
            key="construction", words="construction", kind=_T,
            called=("construction", "make", "braid", "lay"),
        ),
    )
}  # fmt: skip
"""Every field, the pull table's own names among what it is called."""

WORDS: dict[str, dict[str, tuple[str, ...]]] = {
    "role": {
        "baseline": ("baseline", "plain", "plain rope", "control", "straight", "reference", "rope"),
        "knot": ("knot", "knotted"),
    },
    "finding": {
        "broke": ("broke", "break", "broken", "snapped", "parted", "failed", "failure", "rupture"),
        "broke_at_knot": ("broke at knot", "at knot", "knot", "nip", "at the nip", "in the knot",
                          "broke at the knot", "broke in knot", "broke in the knot", "broke at nip",
                          "break at knot", "failed at knot"),
        "came_out": ("came out", "came undone", "slipped", "slip", "slipped out", "pulled out",
                     "pulled through", "ran out", "undone", "tail ran out", "slipped apart"),
        "capsized": ("capsized", "rolled", "rolled out", "flipped", "turned over"),
        "slid": ("slid", "slide", "slides"),
        "broke_elsewhere": ("broke elsewhere", "elsewhere", "at pin", "pin", "thimble", "outside",
                            "broke outside", "not at knot"),
        "broke_clear": ("broke clear", "clear", "mid", "middle", "span", "mid span", "clean",
                        "in the rope", "clear break"),
        "broke_at_termination": ("broke at termination", "termination", "drum", "bollard", "grip",
                                 "clamp", "at drum", "at bollard", "at grip"),
        "stopped": ("stopped", "held", "no break", "not broken", "survived", "did not break",
                    "stopped at limit", "limit", "ok", "no failure"),
        "void": ("void", "invalid", "discard", "discarded", "bad", "aborted", "rejected"),
    },
    "jam_level": {
        "shaken": ("shaken", "shaken loose", "fell apart", "none", "easy"),
        "hand": ("hand", "by hand", "opened by hand", "fingers", "no tools"),
        "worked": ("worked", "worked loose", "hard", "with effort"),
        "tool": ("tool", "needed a tool", "spike", "marlinspike", "fid", "pliers"),
        "cut": ("cut", "cut off", "cut open"),
        "fused": ("fused", "melted", "welded"),
        "not_tried": ("not tried", "-", "n a", "na", "not untied"),
    },
    **{
        key: {"yes": ("yes", "y", "true", "1", "x"), "no": ("no", "n", "false", "0")}
        for key in ("gave_up", "slides_by_hand", "frees_by_hand", "freed", "freed_itself", "passed")
    },
    "cycles_end": {"failed": ("failed", "no"), "survived": ("survived", "yes", "ok")},
    "sheath": {"clean": ("clean",), "glazed": ("glazed", "melted"), "torn": ("torn",)},
    "failed_end": {"A": ("a", "left", "1", "top"), "B": ("b", "right", "2", "bottom")},
    "method": {
        "ramp": ("ramp", "pull", "break", "slow pull", "ramp to failure", "straight pull"),
        "stepped": ("stepped", "stepped load"),
        "cycles": ("cycles", "cyclic"),
        "shaking": ("shaking", "shaken"),
        "hold": ("hold", "sustained hold"),
        "slide": ("slide", "slide test"),
        "release": ("release", "release test"),
        "advantage": ("advantage", "advantage test"),
        "retention": ("retention", "retention test"),
        "seat": ("seat", "through a plate", "plate"),
        "bulk": ("bulk", "bulk and snag"),
    },
    "unit": {"N": ("n", "newton"), "kN": ("kn", "kilonewton"), "daN": ("dan",),
             "kgf": ("kgf", "kg", "kp"), "lbf": ("lbf", "lb", "lbs", "pounds")},
}  # fmt: skip
"""Words of others, as folded, for what a field may be."""

_FILLING = (
    "broke", "break", "broken", "snapped", "parted", "failed", "at", "in", "the", "of", "rope", "it",
)  # fmt: skip
"""Words of a finding beside which another says the place."""
FORCE_UNITS = ("N", "kN", "daN", "kgf", "lbf")
LENGTH_UNITS = ("mm", "cm", "m", "in")
_UNIT_WORDS = {word: unit for unit, words in WORDS["unit"].items() for word in words}
_UNIT_WORDS |= {
    "mm": "mm",
    "cm": "cm",
    "inch": "in",
    "in": "in",
    "inches": "in",
    "s": "s",
    "sec": "s",
}
_IN_HEADING = re.compile(r"[(\[{/,]\s*([A-Za-z]+)\s*[)\]}]?\s*$|\bin ([A-Za-z]+)\s*$")
PLAIN_WORDS = (
    "",
    "plain",
    "plain rope",
    "straight",
    "rope",
    "baseline",
    "none",
    "no knot",
    "control",
)


def unit_in_heading(heading: str) -> tuple[str, str]:
    """A heading without its unit, and the unit; empty where none is said."""
    found = _IN_HEADING.search(heading)
    word = "" if found is None else (found[1] or found[2]).lower()
    unit = _UNIT_WORDS.get(word, "m" if word == "m" else "")
    if unit and found is not None:
        return heading[: found.start()].strip(), unit
    last = heading.replace("_", " ").rsplit(" ", 1)
    unit = _UNIT_WORDS.get(last[-1].lower(), "") if len(last) == 2 else ""
    return (last[0], unit) if unit else (heading, "")


def field_called(heading: str) -> tuple[str, bool]:
    """The field a heading names, and whether by one of its own names; empty for none."""
    if heading.strip() in FIELDS:
        return heading.strip(), True
    whole, bare = fold(heading), fold(unit_in_heading(heading)[0])
    for wanted in (whole, bare):
        for field in FIELDS.values():
            if wanted and wanted in field.called:
                return field.key, True
    words = set(bare.split())
    best, most = "", 0
    for field in FIELDS.values():
        for called in field.called:
            parts = set(called.split())
            if len(called) > 2 and parts <= words and len(called) > most:
                best, most = field.key, len(called)
    return best, False


def word_meant(field: str, text: str, *, baseline: bool | None = None) -> str:
    """What a word of others means in a field; empty where it is not known."""
    folded = fold(text) or text.strip().lower()
    if text.strip() in FIELDS[field].choices:
        return text.strip()
    said = [folded]
    if field == "finding":
        said.append(" ".join(w for w in folded.split() if w not in _FILLING))
    for wanted in said:
        for meaning, words in WORDS[field].items():
            if wanted and (wanted in words or wanted == fold(meaning)):
                if meaning != "broke":
                    return meaning
                return "broke_clear" if baseline else "broke_at_knot"
    return ""
