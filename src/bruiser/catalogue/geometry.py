"""What follows from a structure's geometry, and where its entry says something else.

Only counting is done here: ends, legs, turns round a host. What these say wins over what an entry
says; an entry of one's own is asked about, a shipped one fails the tests.
"""

from __future__ import annotations

import itertools

from bruiser.catalogue.structure import COUNTED, Answer, Structure
from bruiser.core.records.layouts import LAYOUTS, PlaceKind
from bruiser.core.records.legs import EYE, SECOND_EYE

_ENDS = {"bend": 2, "midline": 0, "binding": 2, "loop_pair": 1, "loop_single": 1, "stopper": 1}
_LEAST_LEGS = {"bend": 2, "midline": 4, "double_loop": 4, "loop_pair": 2, "loop_single": 2}
_HELD = ("hitch on a host", "friction hitch", "binding")
_WITH_EYE = (PlaceKind.EYE, PlaceKind.LEG)


def contradictions(s: Structure) -> dict[str, str]:
    """Where an entry contradicts its own geometry: by field, with the number that does not fit."""
    found: dict[str, str] = {}
    name = LAYOUTS[s.layout].title
    ends = _ENDS.get(s.layout)
    if ends is not None and s.ends != ends:
        found["ends"] = f"A {name} has {ends} rope ends, not {s.ends}."
    legs = _LEAST_LEGS.get(s.layout, 1)
    if s.legs < legs:
        found["legs"] = f"A {name} has {legs} legs at the least, not {s.legs}."
    kinds = {p.kind for p in LAYOUTS[s.layout].places}
    loads_eyes = {leg for way in s.loadings for leg in way.legs} & {EYE, SECOND_EYE}
    if loads_eyes and not kinds & set(_WITH_EYE):
        found["directions"] = f"It loads an eye, and a {name} has none."
    if s.ends == 0 and s.tail_usual_d > 0:
        found["tail_usual_d"] = f"Without an end there is no tail of {s.tail_usual_d:g} d."
    if s.ends == 0 and s.closed_ring is Answer.YES:
        found["closed_ring"] = "With 0 ends nothing can be led round a closed ring."
    if s.ends == 0 and s.needs_end is Answer.YES:
        found["needs_end"] = "It has 0 ends to need."
    if s.family in _HELD and s.host is None:
        found["layout"] = f"A {s.family} is tied round something, and it has 0 turns round a host."
    short = _too_little_cord(s)
    if short:
        found["cord_use_d"] = short
    return found


def _too_little_cord(s: Structure) -> str:
    """The first variant that asks for less cord than its turns round its own host take."""
    counted = [a for a in s.axes if a.key in (*COUNTED, "twists")]
    for picked in itertools.product(*([(a.key, o.key) for o in a.options] for a in counted)):
        choices = dict(picked)
        bare, says = s.bare_cord_d(choices), s.cord_rule(choices).cord_d
        if says < bare and s.host is not None:
            variant = s.variant_words(choices)
            return (
                f"{s.host_turns(choices):g} turns round a host {s.host.d_over_d:g} times as thick "
                f"take {bare:.0f} d ({variant}); {says:g} d is less."
            )
    return ""
