"""How long a specimen is cut, part by part, and what of the queue is still to be cut."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bruiser.core.planning.cord_use import CordUse, cord_use
from bruiser.core.records.layouts import PlaceKind
from bruiser.core.records.records import Knot, Lot, Specimen
from bruiser.workshop.logbook.logbook import Logbook

WASTE_M = 0.05
DRUM_TURNS = 3
DRUM_DIAMETER_M = 0.060


@dataclass(frozen=True)
class CutPart:
    """One part of a specimen's length."""

    name: str
    length_m: float


def measured_d(logbook: Logbook, knot: Knot, *, flat: bool = False) -> list[float]:
    """Cord over diameter of every measured knot of this variant, in any lot that is as flat."""
    lots = {lot.id: lot for lot in logbook.lots if lot.flat is flat}
    return [
        r.length_m / lots[r.lot_id].diameter_m
        for r in logbook.cord_readings
        if r.knot_id == knot.id and r.lot_id in lots
    ]


def cord_use_of(logbook: Logbook, knot: Knot, *, flat: bool = False) -> CordUse:
    """Cord a knot in play takes: the catalogue's figure, corrected by measured knots."""
    structure = logbook.catalogue.get(knot.structure)
    rule = None if structure is None else structure.cord_rule(dict(knot.choices), flat=flat)
    return cord_use(0.0 if rule is None else rule.cord_d, measured_d(logbook, knot, flat=flat))


def cut_parts(logbook: Logbook, specimen: Specimen) -> list[CutPart]:
    """The parts of a specimen's length in metre.

    Span, cord in each knot, tails, the way round pins (half a turn and both legs' bend) and drums
    (three turns of a 60 mm drum), what a host thicker than usual takes more, and waste. A closed
    sling takes its circumference in place of span, pins and drums.
    """
    lot: Lot = specimen.lot
    around_m = specimen.state.around_m
    parts = [CutPart("round the sling", around_m)]
    if not around_m:
        parts = [CutPart("span", specimen.span_m)]
    for knot in (specimen.knot_a, specimen.knot_b):
        if knot is not None:
            use = cord_use_of(logbook, knot, flat=lot.flat)
            parts.append(CutPart(f"in the {knot.name.lower()}", use.length_m(lot.diameter_m)))
    parts += [CutPart(tail.key.replace("_", " "), tail.length_m) for tail in specimen.tails]
    kinds = [place.kind for place in specimen.layout.places]
    around = round_host_m(logbook, specimen)
    if around > 0:
        parts.append(CutPart("round the host", around))
    # A sling's way round its pins is part of its circumference.
    pins = 0 if around_m else kinds.count(PlaceKind.PIN)
    if pins:
        turn = math.pi * (specimen.pin_diameter_m + lot.diameter_m)
        parts.append(CutPart("round the pins", pins * turn))
    drums = kinds.count(PlaceKind.TERMINATION)
    if drums:
        turn = math.pi * (DRUM_DIAMETER_M + lot.diameter_m)
        parts.append(CutPart("on the drums", drums * DRUM_TURNS * turn))
    parts.append(CutPart("waste", WASTE_M))
    return parts


def round_host_m(logbook: Logbook, specimen: Specimen) -> float:
    """What the turns round a host take beyond the cord that is in the knot already, in metre.

    Notes
    -----
    Turns times pi (D + d), D the host and d the cord. The catalogue's figure for the knot holds
    those turns at its usual host; the rest of the circumference is added, and never less than the
    turns themselves need.
    """
    knot, lot = specimen.knot_a, specimen.lot
    structure = None if knot is None else logbook.catalogue.get(knot.structure)
    if knot is None or structure is None:
        return 0.0
    if structure.host is None:
        # A bend that binds: once round, and the knot itself is in the catalogue's figure.
        fixture, binds = specimen.fixture, specimen.layout_key == "binding"
        return math.pi * (fixture.diameter_m + lot.diameter_m) if fixture and binds else 0.0
    if specimen.fixture is not None and specimen.fixture.kind == "host":
        wide_m = specimen.fixture.diameter_m
    elif specimen.lot_b is not None and specimen.layout_key == "friction":
        wide_m = specimen.lot_b.diameter_m
    else:
        return 0.0
    choices = dict(knot.choices)
    turns, d = structure.host_turns(choices), lot.diameter_m
    usual_m = structure.host.d_over_d * d
    in_knot_m = cord_use_of(logbook, knot).length_m(d)
    more_m = turns * math.pi * max(0.0, wide_m - usual_m)
    return max(more_m, turns * math.pi * (wide_m + d) - in_knot_m)


def to_cut(logbook: Logbook, lot: Lot) -> list[tuple[str, str, float]]:
    """Planned specimens of a lot that are not cut yet: id, code, length to cut in metre."""
    alike: dict[int, float] = {}
    found = []
    for waiting in logbook.waiting:
        kind = waiting.kind
        if lot.stock_id in kind.stock_ids and lot.stock_id not in waiting.cut_of:
            if id(kind) not in alike:
                alike[id(kind)] = cut_length_m(logbook, kind, lot.stock_id)
            found.append((waiting.specimen_id, waiting.code, alike[id(kind)]))
    return found


def queued_m(logbook: Logbook, lot: Lot) -> float:
    """Cord that planned specimens of a lot still are to be cut from, in metre."""
    return math.fsum(length_m for _, _, length_m in to_cut(logbook, lot))


def cut_unloaded(logbook: Logbook, lot: Lot) -> list[tuple[str, str]]:
    """Specimens of a lot that are cut and were never loaded: id and code."""
    return [(w.specimen_id, w.code) for w in logbook.waiting if lot.stock_id in w.cut_of]


def _up(length_m: float) -> float:
    return math.ceil(length_m * 100 - 1e-9) / 100


def cut_length_m(logbook: Logbook, specimen: Specimen, stock_id: str = "") -> float:
    """Length to cut for a specimen in metre, rounded up to the centimetre.

    Parameters
    ----------
    stock_id : str, optional
        The lot whose piece is meant, where a specimen is made of two.

    Notes
    -----
    Of a bend of unlike lines each takes half the span, half the cord in the knot by its own
    diameter, its own tail, one drum and waste. A host rope takes the span, two drums and waste.
    """
    other = specimen.lot_b
    parts = cut_parts(logbook, specimen)
    if other is None:
        return _up(math.fsum(part.length_m for part in parts))
    mine = stock_id in ("", specimen.lot.stock_id)
    drum = DRUM_TURNS * math.pi
    if specimen.layout_key != "bend":
        if mine:
            return _up(math.fsum(part.length_m for part in parts))
        return _up(specimen.span_m + 2 * drum * (DRUM_DIAMETER_M + other.diameter_m) + WASTE_M)
    knots = [k for k in (specimen.knot_a, specimen.knot_b) if k is not None]
    lot = specimen.lot if mine else other
    tails = [t.length_m for t in specimen.tails]
    tail_m = tails[0 if mine else -1] if tails else 0.0
    uses = [cord_use_of(logbook, k, flat=lot.flat) for k in knots]
    in_knot = math.fsum(use.length_m(lot.diameter_m) for use in uses)
    around = drum * (DRUM_DIAMETER_M + lot.diameter_m)
    both = specimen.span_m + in_knot
    if other.stock_id == specimen.lot.stock_id:
        return _up(both + math.fsum(tails) + 2 * (around + WASTE_M))
    return _up(both / 2 + tail_m + around + WASTE_M)
