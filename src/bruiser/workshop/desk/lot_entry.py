"""From what was typed about a lot, a hank or a rest to records, or to the fields that are wrong."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from bruiser.core.planning.plausibility import THICKEST_M, WIDEST_M, rating_is_odd
from bruiser.core.records.records import Lot, Role, Specimen
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.core.units import UnitChoice
from bruiser.workshop.desk.cutting import cut_length_m
from bruiser.workshop.desk.form_texts import Typed
from bruiser.workshop.desk.lot_commands import (
    AddLot,
    CutSpecimen,
    EditLot,
    PutBackOffcut,
    ReceiveHank,
)
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop

PLAIN_SPAN_M = 0.35
DIAMETER_MEANS = {"measured": "measured at a tension", "nominal": "nominal, as the maker says"}
RATING_MEANS = {"minimum": "minimum", "average": "average", "unknown": "unknown"}
TEXT_FIELDS = (
    "name",
    "designation",
    "material",
    "construction",
    "condition",
    "conditioning",
    "age",
    "history",
)


@dataclass
class Checked:
    """What came of a form: wrong fields, fields to ask about, and whether it was stored."""

    errors: dict[str, str] = field(default_factory=dict)
    asks: dict[str, str] = field(default_factory=dict)
    stored: str = ""


def lot_texts(lot: Lot, units: UnitChoice) -> dict[str, str]:
    """A lot as its form shows it; quantities without loss in the campaign's units."""
    texts = {name: str(getattr(lot, name)) for name in TEXT_FIELDS}
    texts["diameter"] = units.section_text(lot.diameter_m, lot.thickness_m)
    texts["diameter_means"] = lot.diameter_means
    texts["reference_tension"] = _force(lot.reference_tension_n, units)
    mass = lot.mass_per_length_kg_m
    texts["mass"] = "" if mass is None else f"{round(1000 * mass, 3):g} g/m"
    texts["rating"] = _force(lot.rated_strength_n, units)
    texts["rating_means"] = lot.rating_means
    stretch = lot.static_elongation
    texts["stretch"] = "" if stretch is None else f"{round(100 * stretch, 3):g} %"
    texts["stock"] = lot.stock_lot_id or ""
    texts["soak"] = duration_text(lot.soak_s)
    texts["keep"] = duration_text(lot.keep_s)
    return texts


def duration_text(seconds: float | None) -> str:
    """A time as it is typed: hours or minutes, whichever is whole."""
    if seconds is None:
        return ""
    return f"{seconds / 3600:g} h" if seconds % 3600 == 0 else f"{seconds / 60:g} min"


def _force(load_n: float | None, units: UnitChoice) -> str:
    return "" if load_n is None else units.force_text(load_n)


_FLAT = ("web", "tape", "flat")


def _section(
    typed: Typed, texts: Mapping[str, str], units: UnitChoice, construction: str
) -> tuple[float | None, float | None]:
    """Diameter, or width and thickness of webbing as ``25 x 2 mm``, in metre."""
    text = texts.get("diameter", "")
    wide, times, thick = (p.strip() for p in re.sub("[x×*]", "x", text.lower()).partition("x"))
    if not times:
        found = typed.quantity("diameter", "length", units.length, missing="Type the diameter.")
        if found is not None and any(word in construction.lower() for word in _FLAT):
            typed.errors["diameter"] = "Webbing has two: width x thickness, as 25 x 2 mm."
        return found, None
    unit = thick.lstrip("0123456789.,/ ") if wide and wide[-1].isdigit() else ""
    both = Typed({"wide": f"{wide} {unit}".strip(), "thick": thick})
    width = both.quantity("wide", "length", units.length, missing="The width comes first.")
    height = both.quantity("thick", "length", units.length, missing="The thickness is missing.")
    wrong = "; ".join(dict.fromkeys(both.errors.values()))
    if width is not None and height is not None and height > width:
        wrong = "The width comes first, then the thickness."
    if wrong:
        typed.errors["diameter"] = wrong
    return width, height


def check_lot(
    logbook: Logbook, texts: Mapping[str, str], units: UnitChoice, before: Lot | None = None
) -> tuple[Lot | None, Checked]:
    """Turn a lot's form into a lot.

    Parameters
    ----------
    texts : mapping
        By field: those of :data:`TEXT_FIELDS`, and ``diameter``, ``diameter_means``,
        ``reference_tension``, ``mass``, ``rating``, ``rating_means``, ``stretch``, ``soak``,
        ``keep``, ``stock``.
    before : Lot, optional
        The lot that is changed. A quantity whose text still reads as before keeps its exact value.

    Returns
    -------
    lot : Lot or None
        None when a field is wrong; a new one has an empty id.
    checked : Checked
        Wrong fields, and values that are odd enough to ask.
    """
    typed = Typed(texts)
    name = typed.text("name", "Give the lot a name, as on its label.")
    others = [lot for lot in logbook.lots if before is None or lot.id != before.id]
    if name and any(lot.name.lower() == name.lower() for lot in others):
        typed.errors["name"] = "Another lot has this name."
    material = typed.text("material", "Say what it is made of.")
    construction = typed.text("construction", "Say how it is made: braid, laid, kernmantle.")
    condition = typed.text("condition", "Say in what condition it is pulled: new, wet, worn.")
    diameter, thickness = _section(typed, texts, units, construction)
    tension = typed.quantity("reference_tension", "force", units.force)
    means = texts.get("diameter_means", "nominal")
    if means == "measured" and tension is None and "reference_tension" not in typed.errors:
        typed.errors["reference_tension"] = "Say at which tension it was measured."
    rating = typed.quantity("rating", "force", units.force)
    mass = typed.quantity("mass", "mass per length", "g/m")
    stretch = typed.share("stretch")
    stock = texts.get("stock", "")
    soak = typed.quantity("soak", "time", "h")
    keep = typed.quantity("keep", "time", "min")
    if keep is not None and soak is None and "soak" not in typed.errors:
        typed.errors["soak"] = "Say how long it is conditioned."
    if typed.errors or diameter is None:
        return None, Checked(typed.errors)
    made = Lot(
        id="" if before is None else before.id,
        name=name,
        material=material,
        construction=construction,
        diameter_m=diameter,
        thickness_m=thickness,
        condition=condition,
        rated_strength_n=rating,
        rating_means="unknown" if rating is None else texts.get("rating_means", "unknown"),
        cord_model="" if before is None else before.cord_model,
        designation=typed.text("designation"),
        diameter_means=means,
        reference_tension_n=tension if means == "measured" else None,
        mass_per_length_kg_m=mass,
        static_elongation=stretch,
        age=typed.text("age"),
        history=typed.text("history"),
        conditioning=typed.text("conditioning"),
        soak_s=soak,
        keep_s=keep,
        stock_lot_id=stock or None,
        archived=before is not None and before.archived,
    )
    if before is not None:
        made = _keep_exact(made, before, texts, units)
    _ask_about(made, typed, units)
    return made, Checked(typed.errors, typed.asks)


_EXACT = {
    "diameter": "diameter_m",
    "reference_tension": "reference_tension_n",
    "mass": "mass_per_length_kg_m",
    "rating": "rated_strength_n",
    "stretch": "static_elongation",
    "soak": "soak_s",
    "keep": "keep_s",
}


def _keep_exact(made: Lot, before: Lot, texts: Mapping[str, str], units: UnitChoice) -> Lot:
    shown = lot_texts(before, units)
    same = {
        attribute: getattr(before, attribute)
        for name, attribute in _EXACT.items()
        if texts.get(name, "").strip() == shown[name] and shown[name]
    }
    if made.diameter_means != "measured":
        same.pop("reference_tension_n", None)
    return replace(made, **same)


def _ask_about(lot: Lot, typed: Typed, units: UnitChoice) -> None:
    if lot.bend_m > THICKEST_M or lot.diameter_m > WIDEST_M:
        typed.asks["diameter"] = (
            f"That is {units.diameter_text(lot.diameter_m)} thick, above "
            f"{units.diameter_text(THICKEST_M)}. Is the unit right?"
        )
    if lot.rated_strength_n is None:
        return
    odd = rating_is_odd(lot.rated_strength_n, lot.material, lot.construction, lot.round_m)
    if odd is not None:
        of = odd.material or "any cordage"
        typed.asks["rating"] = (
            f"{units.force_text(lot.rated_strength_n)} is far from what {of} of "
            f"{units.section_text(lot.diameter_m, lot.thickness_m)} holds, very roughly "
            f"{units.force_text(odd.low_n)} to {units.force_text(odd.high_n)}. Is the unit right?"
        )


def store_lot(
    workshop: Workshop,
    logbook: Logbook,
    texts: Mapping[str, str],
    before: Lot | None = None,
    *,
    anyway: bool = False,
) -> Checked:
    """Store a lot's form as a new lot or a changed one.

    Nothing is stored while a field is wrong, nor while one is odd unless `anyway`.
    """
    lot, checked = check_lot(logbook, texts, workshop.units, before)
    if lot is None or (checked.asks and not anyway):
        return checked
    if before is None:
        lot = replace(lot, id=workshop.new_id())
        workshop.do(AddLot(lot))
    elif lot != before:
        workshop.do(EditLot(lot))
    checked.stored = lot.id
    return checked


def shortest_specimen_m(logbook: Logbook, lot: Lot) -> float:
    """The shortest length a specimen of a lot is cut to; a straight pull where none is planned."""
    lots = [x.id for x in logbook.lots if x.stock_id == lot.stock_id]
    of_lot = [e.specimen for e in logbook.of_lots(lots)]
    plain = Specimen(
        id="",
        code="",
        role=Role.BASELINE,
        lot=lot,
        layout_key="baseline",
        queue_position=0,
        span_m=PLAIN_SPAN_M,
    )
    return min(cut_length_m(logbook, s) for s in of_lot or [plain])


def store_hank(
    workshop: Workshop,
    logbook: Logbook,
    lot: Lot,
    texts: Mapping[str, str],
    *,
    anyway: bool = False,
) -> Checked:
    """Take in a hank: fields ``label``, ``kind``, ``length``; a bare length is in metre or foot."""
    typed = Typed(texts)
    label = typed.text("label", "Write a label on it and type it here.")
    if label in {h.label for h in logbook.stock.of_lot(lot.stock_id)}:
        typed.errors["label"] = "A hank of this lot has that label."
    unit = "ft" if workshop.units.length == "in" else "m"
    length = typed.quantity("length", "length", unit, missing="Measure it and type its length.")
    if typed.errors or length is None:
        return Checked(typed.errors)
    shortest = shortest_specimen_m(logbook, lot)
    say = workshop.units.cord_text
    if length < shortest:
        typed.asks["length"] = (
            f"{say(length)} is shorter than one specimen of this lot ({say(shortest)}). "
            "Is the unit right?"
        )
    if typed.asks and not anyway:
        return Checked({}, typed.asks)
    hank = Hank(
        id=workshop.new_id(),
        lot_id=lot.stock_id,
        label=label,
        kind=HankKind(texts.get("kind", "hank")),
    )
    entry = StockEntry(
        id=workshop.new_id(),
        hank_id=hank.id,
        made_at=workshop.now(),
        move=StockMove.RECEIVED,
        change_m=length,
    )
    workshop.do(ReceiveHank(hank, entry))
    return Checked(stored=hank.id)


def cut(workshop: Workshop, specimen_id: str, hank_id: str, length_m: float) -> None:
    """Cut a specimen from a hank.

    Raises
    ------
    Refused
        If the hank is too short or the specimen is cut already.
    """
    entry = StockEntry(
        id=workshop.new_id(),
        hank_id=hank_id,
        made_at=workshop.now(),
        move=StockMove.CUT,
        change_m=-length_m,
        specimen_id=specimen_id,
    )
    minimum = workshop.campaign.offcut_minimum_m
    workshop.do(CutSpecimen(entry=entry, waste_id=workshop.new_id(), offcut_minimum_m=minimum))


def put_back(workshop: Workshop, logbook: Logbook, lot: Lot, texts: Mapping[str, str]) -> Checked:
    """Put a cut piece that was never loaded back: fields ``specimen``, ``rest``.

    Raises
    ------
    Refused
        If it was loaded, was not cut, or is shorter than what is kept.
    """
    typed = Typed(texts)
    specimen_id = typed.text("specimen", "Choose the piece.")
    unit = "ft" if workshop.units.length == "in" else "m"
    rest = typed.quantity("rest", "length", unit, missing="Measure what is left of it.")
    if typed.errors or rest is None:
        return Checked(typed.errors)
    piece = logbook.entry(specimen_id)
    code = "" if piece is None else piece.specimen.code
    known = {h.label for h in logbook.stock.of_lot(lot.stock_id)}
    label = next(
        x for x in (f"{code} rest", *(f"{code} rest {n}" for n in range(2, 99))) if x not in known
    )
    hank = Hank(id=workshop.new_id(), lot_id=lot.stock_id, label=label, kind=HankKind.OFFCUT)
    entry = StockEntry(
        id=workshop.new_id(),
        hank_id=hank.id,
        made_at=workshop.now(),
        move=StockMove.PUT_BACK,
        change_m=rest,
        specimen_id=specimen_id,
    )
    minimum = workshop.campaign.offcut_minimum_m
    workshop.do(PutBackOffcut(hank=hank, entry=entry, offcut_minimum_m=minimum))
    return Checked(stored=hank.id)
