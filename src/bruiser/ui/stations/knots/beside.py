"""Two structures, or two ties of one, line by line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from bruiser.catalogue import Structure
from bruiser.catalogue.drawings import WRONG


@dataclass(frozen=True)
class Pair:
    """One line of a side by side comparison."""

    what: str
    left: str
    right: str


def structure_pairs(one: Structure, two: Structure, names: tuple[str, str]) -> list[Pair]:
    """What is said of two structures."""
    tells = [
        [x.tell for x in a.look_alikes if x.structure == b.key] for a, b in ((one, two), (two, one))
    ]
    lines = [
        Pair("", *names),
        Pair("how to tell", " ".join(tells[0]), " ".join(tells[1])),
        Pair("front", one.front, two.front),
        Pair("back", one.back, two.back),
        Pair("family", ", ".join(one.families), ", ".join(two.families)),
        Pair("needs an end", one.needs_end.value, two.needs_end.value),
        Pair("loaded", ", ".join(one.directions), ", ".join(two.directions)),
        Pair("opened by", one.opening, two.opening),
        Pair("weak where", " ".join(one.weaknesses), " ".join(two.weaknesses)),
        Pair("never", " ".join(one.never), " ".join(two.never)),
        Pair("cord", f"{one.cord_use_d:g} d", f"{two.cord_use_d:g} d"),
        Pair("tail", *(f"{s.tail_usual_d:g} d" if s.tail_usual_d else "none" for s in (one, two))),
    ]
    return [p for p in lines if p.left or p.right]


def variant_pairs(s: Structure, choices: Mapping[str, str], names: tuple[str, str]) -> list[Pair]:
    """What is said of a structure and another path of it: a variant, or a wrong tie."""
    lines = [Pair("", *names)]
    if WRONG in choices:
        wrong = s.mis_ties[int(choices[WRONG]) - 1]
        when = f"{wrong.when[:1].upper()}{wrong.when[1:]}."
        lines += [Pair("it becomes that", "", when), Pair("how to tell", "", wrong.tell)]
    else:
        notes = " ".join(o.note for o in s.chosen(choices) if o.note)
        lines.append(Pair("of it", "", notes))
    lines += [Pair("front", s.front, ""), Pair("back", s.back, "")]
    return [p for p in lines if p.left or p.right]
