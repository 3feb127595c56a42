"""How long a specimen is cut, part by part."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.cord_use import CordUse, cord_use
from bruiser.core.layouts import PlaceKind
from bruiser.core.records import Knot, Lot, Specimen
from bruiser.workshop.journal import Journal

WASTE_M = 0.05
DRUM_TURNS = 3
DRUM_DIAMETER_M = 0.060


@dataclass(frozen=True)
class CutPart:
    """One part of a specimen's length."""

    name: str
    length_m: float


def measured_d(journal: Journal, knot: Knot) -> list[float]:
    """Cord over diameter of every measured knot of this variant, in any lot."""
    lots = {lot.id: lot for lot in journal.lots}
    return [
        r.length_m / lots[r.lot_id].diameter_m
        for r in journal.cord_readings
        if r.knot_id == knot.id and r.lot_id in lots
    ]


def cord_use_of(journal: Journal, knot: Knot) -> CordUse:
    """Cord a knot in play takes: the catalogue's figure, corrected by measured knots."""
    structure = journal.catalogue.get(knot.structure)
    catalogue_d = 0.0 if structure is None else structure.cord_rule(dict(knot.choices)).cord_d
    return cord_use(catalogue_d, measured_d(journal, knot))


def cut_parts(journal: Journal, specimen: Specimen) -> list[CutPart]:
    """The parts of a specimen's length in metre.

    Span, cord in each knot, tails, the way round pins (half a turn and both legs' bend) and drums
    (three turns of a 60 mm drum), and waste.
    """
    lot: Lot = specimen.lot
    parts = [CutPart("span", specimen.span_m)]
    for knot in (specimen.knot_a, specimen.knot_b):
        if knot is not None:
            use = cord_use_of(journal, knot)
            parts.append(CutPart(f"in the {knot.name.lower()}", use.length_m(lot.diameter_m)))
    parts += [CutPart(tail.key.replace("_", " "), tail.length_m) for tail in specimen.tails]
    kinds = [place.kind for place in specimen.layout.places]
    pins = kinds.count(PlaceKind.PIN)
    if pins:
        turn = math.pi * (specimen.pin_diameter_m + lot.diameter_m)
        parts.append(CutPart("round the pins", pins * turn))
    drums = kinds.count(PlaceKind.TERMINATION)
    if drums:
        turn = math.pi * (DRUM_DIAMETER_M + lot.diameter_m)
        parts.append(CutPart("on the drums", drums * DRUM_TURNS * turn))
    parts.append(CutPart("waste", WASTE_M))
    return parts


def cut_length_m(journal: Journal, specimen: Specimen) -> float:
    """Length to cut for a specimen in metre, rounded up to the centimetre."""
    total = math.fsum(part.length_m for part in cut_parts(journal, specimen))
    return math.ceil(total * 100 - 1e-9) / 100
