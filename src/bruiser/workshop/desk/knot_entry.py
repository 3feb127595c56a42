"""Bringing variants into play, cord they take in each lot, and structures of one's own."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass

import tomli_w

from bruiser.catalogue import PLAIN, Structure, shipped_texts, structure_from
from bruiser.catalogue.drawings import looked_over
from bruiser.catalogue.finding import fold
from bruiser.catalogue.geometry import contradictions
from bruiser.core.errors import InputError, Refused
from bruiser.core.planning.cord_use import CordReading, CordUse, cord_use
from bruiser.core.records.families import GENERAL
from bruiser.core.records.records import Knot, Lot
from bruiser.store.briefs import OwnStructure
from bruiser.workshop.desk.cutting import measured_d
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.desk.knot_commands import (
    AddKnot,
    ArchiveKnot,
    DropKnot,
    DropStructure,
    KeepStructure,
    RecordCord,
)
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True, kw_only=True)
class CordRow:
    """Cord and tail of a variant in one lot; the measured length stands beside the catalogue's."""

    lot: Lot
    catalogue_m: float
    measured_m: float | None
    tail_floor_m: float
    tail_usual_m: float


def knot_of(logbook: Logbook, structure: Structure, choices: Mapping[str, str]) -> Knot | None:
    """The knot in play, or archived, that is this variant."""
    wanted = structure.differing(choices)
    for knot in logbook.knots:
        if knot.structure == structure.key and dict(knot.choices) == wanted:
            return knot
    return None


def variant_cord(
    logbook: Logbook, structure: Structure, choices: Mapping[str, str]
) -> tuple[CordUse, list[CordRow]]:
    """Cord use of a variant in diameters, and its lengths in every lot in use."""
    rule = structure.cord_rule(choices)
    knot = knot_of(logbook, structure, choices)
    use = cord_use(rule.cord_d, [] if knot is None else measured_d(logbook, knot))
    rows = [
        CordRow(
            lot=lot,
            catalogue_m=rule.cord_d * lot.diameter_m,
            measured_m=None if use.measured_d is None else use.measured_d * lot.diameter_m,
            tail_floor_m=rule.tail_floor_d * lot.diameter_m,
            tail_usual_m=rule.tail_usual_d * lot.diameter_m,
        )
        for lot in logbook.lots_in_use
    ]
    return use, rows


def bring_into_play(
    workshop: Workshop, logbook: Logbook, structure: Structure, choices: Mapping[str, str]
) -> str:
    """Bring a variant into play, or back from the archive; returns its id."""
    known = knot_of(logbook, structure, choices)
    if known is not None:
        if known.archived:
            title = "bring the knot back into play"
            workshop.do(ArchiveKnot(known.id, False, title))
        return known.id
    differing = structure.differing(choices)
    knot = Knot(
        id=workshop.new_id(),
        structure=structure.key,
        variant=structure.variant_words(choices) if differing else PLAIN,
        name=structure.name,
        family=structure.family,
        choices=tuple(differing.items()),
    )
    workshop.do(AddKnot(knot))
    return knot.id


def archive(workshop: Workshop, knot: Knot) -> None:
    """Take a knot out of the way; it stays on record."""
    workshop.do(ArchiveKnot(knot.id))


def drop(workshop: Workshop, knot: Knot) -> None:
    """Delete a knot that nothing depends on.

    Raises
    ------
    Refused
        With the list of what depends on it.
    """
    workshop.do(DropKnot(knot))


def store_cord(
    workshop: Workshop, logbook: Logbook, knot: Knot, texts: Mapping[str, str]
) -> Checked:
    """Note the cord one tied knot took: fields ``lot`` (id) and ``cord``."""
    typed = Typed(texts)
    lot_id = typed.text("lot", "Choose the lot it was tied in.")
    length = typed.quantity(
        "cord", "length", workshop.units.length, missing="Untie it, measure, and type the length."
    )
    if typed.errors or length is None:
        return Checked(typed.errors)
    lot = logbook.lot(lot_id)
    structure = logbook.catalogue.get(knot.structure)
    expected = 0.0 if structure is None else structure.cord_rule(dict(knot.choices)).cord_d
    ratio = length / lot.diameter_m / expected if expected else 1.0
    if not 0.2 < ratio < 5:
        of = workshop.units.length_text(expected * lot.diameter_m)
        typed.errors["cord"] = f"The catalogue says about {of}. Is the unit right?"
        return Checked(typed.errors)
    reading = CordReading(
        id=workshop.new_id(),
        knot_id=knot.id,
        lot_id=lot_id,
        length_m=length,
        made_at=workshop.now(),
    )
    workshop.do(RecordCord(reading))
    return Checked(stored=reading.id)


TEXT_LISTS = ("dressing", "setting", "weaknesses", "never", "opinions", "directions")
ANSWER_FIELDS = ("needs_end", "in_the_bight", "closed_ring", "slippery", "opens")
NUMBERS = ("cord_use_d", "tail_floor_d", "tail_usual_d", "ends", "legs")


def structure_texts(logbook: Logbook, key: str) -> dict[str, str]:
    """A structure as the form for one's own shows it: lists a line each, names as “name: trade”."""
    s = logbook.catalogue[key]
    texts = {name: "\n".join(getattr(s, name)) for name in TEXT_LISTS}
    texts |= {name: str(getattr(s, name).value) for name in ANSWER_FIELDS}
    texts |= {name: f"{getattr(s, name):g}" for name in NUMBERS}
    texts |= {
        "names": "\n".join(f"{n.name}: {n.trade}" for n in s.names),
        "family": s.family,
        "layout": s.layout,
        "front": s.front,
        "back": s.back,
        "opening": s.opening,
        "drawing": s.drawing,
    }
    return texts


def _source_text(logbook: Logbook, key: str) -> str:
    own = next((o.text for o in logbook.own_structures if o.key == key), None)
    return own if own is not None else shipped_texts()[key]


def store_structure(
    workshop: Workshop,
    logbook: Logbook,
    texts: Mapping[str, str],
    based_on: str,
    *,
    adapt: bool,
    anyway: bool = False,
) -> Checked:
    """Store a structure of the campaign's own; one that contradicts its geometry is asked about.

    Parameters
    ----------
    texts : mapping
        As :func:`structure_texts` gives them.
    based_on : str
        Key of the structure whose axes, look-alikes and host are taken over.
    adapt : bool
        True puts it in the place of `based_on` in this campaign; False makes a new one beside it.
    anyway : bool
        Whether what does not fit is kept all the same.
    """
    typed = Typed(texts)
    names = []
    for line in texts.get("names", "").splitlines():
        name, _, trade = line.partition(":")
        if name.strip():
            names.append({"name": name.strip(), "trade": trade.strip() or GENERAL})
    if not names:
        typed.errors["names"] = "Give it a name; a line each, as “name: trade”."
    numbers = {name: typed.number(name, missing="Type a number.") for name in NUMBERS}
    if typed.errors:
        return Checked(typed.errors)
    key = based_on if adapt else _new_key(logbook, names[0]["name"])
    if not key:
        return Checked({"names": "Another structure is called so already."})
    data = tomllib.loads(_source_text(logbook, based_on))
    base = data["directions"]
    data |= {
        name: [x.strip() for x in texts[name].splitlines() if x.strip()] for name in TEXT_LISTS
    }
    kept = {way["words"]: way for way in base if not isinstance(way, str)}
    data["directions"] = [kept.get(words, words) for words in data["directions"]]
    data |= {name: texts[name] for name in (*ANSWER_FIELDS, "family", "layout", "opening")}
    data |= {n: int(v) if n in ("ends", "legs") else v for n, v in numbers.items() if v is not None}
    data["names"] = names
    data["cues"] = {"front": texts["front"].strip(), "back": texts["back"].strip()}
    if not adapt:
        data["look_alikes"] = []
    drawing = texts.get("drawing", "").strip()
    data = {k: v for k, v in data.items() if k != "drawing"} | (
        {"drawing": drawing} if drawing else {}
    )
    try:
        if drawing:
            looked_over(key, drawing)
    except InputError as error:
        return Checked({"drawing": str(error)})
    try:
        made = structure_from(key, data)
    except InputError as error:
        field = error.where.partition(": ")[2]
        first = field.partition("[")[0].rpartition(".")[2]
        return Checked({first: str(error)})
    odd = contradictions(made)
    if odd and not anyway:
        return Checked({}, odd)
    shipped = based_on if adapt and based_on in shipped_texts() else ""
    own = OwnStructure(key=key, text=tomli_w.dumps(data), based_on=shipped, made_at=workshop.now())
    workshop.do(KeepStructure(own))
    return Checked(stored=key)


def _new_key(logbook: Logbook, name: str) -> str:
    key = fold(name).replace(" ", "-")
    return "" if not key or key in logbook.catalogue else key


def drop_structure(workshop: Workshop, logbook: Logbook, key: str) -> None:
    """Take back a structure of one's own; a shipped one stands again as it was.

    Raises
    ------
    Refused
        If a knot in play is made of it.
    """
    own = next((o for o in logbook.own_structures if o.key == key), None)
    if own is None:
        raise Refused("This structure ships with Bruiser; it cannot be removed.")
    workshop.do(DropStructure(own))
