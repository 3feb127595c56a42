"""From what was typed about a use or the rating limits to records, or to what is wrong with it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace

from bruiser.core.behaviour.security import CRITERIA, SecurityLimits
from bruiser.core.beyond.rules import CrossedPrior
from bruiser.core.choice.ranking import Anchors, check_anchors
from bruiser.core.choice.rating import SCALES, Band, Rating, RatingLimits
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.errors import InputError
from bruiser.core.records.families import FAMILIES
from bruiser.core.records.preparation import Hands
from bruiser.core.units import parse_share
from bruiser.workshop.desk.form_texts import Typed

YES = "yes"
SWITCHES = ("no_end", "closed_ring", "must_open", "stays", "slippery")


def profile_texts(profile: UseProfile) -> dict[str, str]:
    """A use as its form shows it."""
    texts = {name: YES if getattr(profile, name) else "" for name in SWITCHES}
    texts |= {
        "name": profile.name,
        "directions": "; ".join(profile.directions),
        "host": profile.host,
        "load": f"{100 * profile.load:g} %",
        "holds": f"{100 * profile.holds:g} %",
        "hands": profile.hands.value,
        "caution": profile.caution,
    }
    for rating in Rating:
        texts[f"weight.{rating}"] = f"{profile.weights.get(rating, 0.0):g}"
        texts[f"anchors.{rating}"] = anchors_text(rating, profile.anchors[rating])
    return texts


def anchors_text(rating: Rating, anchors: Anchors) -> str:
    """A scale as it is typed: value = points, from one end to the other."""
    say = _typed_value(rating)
    return ", ".join(f"{say(value)} = {points:g}" for value, points in anchors)


def _typed_value(rating: Rating):  # type: ignore[no-untyped-def]
    unit = SCALES[rating].unit
    if unit == "seconds":
        return lambda v: f"{v:g} s"
    return (lambda v: f"{100 * v:g} %") if unit == "share" else (lambda v: f"{100 * v:g}")


def _value_of(rating: Rating, text: str, field: str) -> float:
    """A value on a rating's scale as typed: seconds, percent or points."""
    if SCALES[rating].unit == "seconds":
        found = re.fullmatch(r"([0-9]+(?:[.,][0-9]+)?)\s*(?:s|sec|seconds)?", text.strip())
        if found is None:
            raise InputError("Type seconds, like 30 s.", where=field)
        return float(found.group(1).replace(",", "."))
    return parse_share(text, maximum=1.0, field=field)


def read_anchors(rating: Rating, text: str) -> Anchors:
    """A scale from its text, like ``20 % = 0, 50 % = 50, 80 % = 100``.

    Raises
    ------
    InputError
        If it cannot be read or is no monotone scale from 0 to 100.
    """
    field = f"anchors.{rating}"
    found = []
    for part in re.split(r"[;,](?![0-9])", text):
        value, equals, points = part.partition("=")
        if not equals:
            raise InputError("Type value = points, with commas between.", where=field)
        found.append((_value_of(rating, value, field), 100 * parse_share(points, field=field)))
    anchors = tuple(sorted(found))
    check_anchors(rating, anchors)
    return anchors


def read_profile(
    texts: Mapping[str, str], families: tuple[str, ...], base: UseProfile
) -> tuple[UseProfile | None, dict[str, str]]:
    """A use from its form; None with what is wrong, by field.

    Parameters
    ----------
    families : tuple of str
        Families ticked; empty for any.
    base : UseProfile
        What it is a change of; its key stays.
    """
    typed = Typed(texts)
    name = typed.text("name", "A use needs a name.")
    load = typed.share("load", missing="After which load is it opened?")
    holds = typed.share("holds", missing="Which load does a grip have to hold?")
    weights: dict[Rating, float] = {}
    anchors: dict[Rating, Anchors] = {}
    for rating in Rating:
        field = f"weight.{rating}"
        weight = typed.number(field)
        weights[rating] = 0.0 if weight is None else weight
        try:
            anchors[rating] = read_anchors(rating, texts.get(f"anchors.{rating}", ""))
        except InputError as error:
            typed.errors[f"anchors.{rating}"] = str(error)
    if sum(weights.values()) <= 0 and not any(k.startswith("weight") for k in typed.errors):
        typed.errors[f"weight.{Rating.STRENGTH}"] = "At least one weight must be above zero."
    directions = tuple(p.strip() for p in texts.get("directions", "").split(";") if p.strip())
    if typed.errors or load is None or holds is None:
        return None, typed.errors
    made = replace(
        base,
        name=name,
        families=tuple(f for f in FAMILIES if f in families),
        directions=directions,
        host=typed.text("host"),
        load=load,
        holds=holds,
        hands=Hands(texts.get("hands") or Hands.BARE),
        weights=weights,
        anchors=anchors,
        caution=typed.text("caution"),
        **{switch: texts.get(switch) == YES for switch in SWITCHES},  # type: ignore[arg-type]
    )
    return made, {}


def new_key(name: str, taken: Mapping[str, object]) -> str:
    """A key for a new use, made of its name."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "use"
    key, number = base, 2
    while key in taken:
        key, number = f"{base}-{number}", number + 1
    return key


def limits_texts(limits: RatingLimits) -> dict[str, str]:
    """Limits as their form shows them: name and limit of every band, and the security limits."""
    texts = {}
    for rating, bands in limits.bands.items():
        say = _typed_value(rating)
        for n, band in enumerate(bands):
            texts[f"name.{rating}.{n}"] = band.name
            if band.limit is not None:
                texts[f"limit.{rating}.{n}"] = say(band.limit)
    for key in CRITERIA:
        good, poor = getattr(limits.security, key)
        for end, value in (("good", good), ("poor", poor)):
            texts[f"{key}.{end}"] = f"{value:g} d" if key == "draw_d" else f"{100 * value:g} %"
    texts["across.rows"] = f"{limits.across.prior.rows:g}"
    texts["across.spread"] = f"{limits.across.prior.spread:g}"
    texts["reference"] = f"{100 * limits.security.reference_share:g} %"
    return texts


def read_limits(
    texts: Mapping[str, str], base: RatingLimits
) -> tuple[RatingLimits | None, dict[str, str]]:
    """Limits from their form; None with what is wrong, by field."""
    typed = Typed(texts)
    bands = {r: _bands(typed, r, len(base.bands[r])) for r in Rating}
    pairs = {}
    for key in CRITERIA:
        ends = tuple(_criterion_end(typed, key, end) for end in ("good", "poor"))
        pairs[key] = ends
        if None not in ends and ends[0] == ends[1]:
            typed.errors[f"{key}.poor"] = "Good and poor must differ."
        elif None not in ends and not typed.errors:
            default_good, default_poor = getattr(SecurityLimits(), key)
            if (ends[0] > ends[1]) != (default_good > default_poor):  # type: ignore[operator]
                typed.errors[f"{key}.poor"] = "Good and poor are the wrong way round."
    reference = typed.share("reference", missing="At which share is the draw read?")
    prior = {end: _scale(typed, f"across.{end}") for end in ("rows", "spread")}
    if typed.errors or reference is None:
        return None, typed.errors
    try:
        made = RatingLimits(
            bands,
            SecurityLimits(**pairs, reference_share=reference),  # type: ignore[arg-type]
            base.version,
            replace(base.across, prior=CrossedPrior(**prior)),
        )
    except InputError as error:
        where = error.where or Rating.STRENGTH.value
        return None, {f"limit.{where}.1": str(error)}
    return made, {}


def _scale(typed: Typed, field: str) -> float:
    """A prior's scale: a number above nothing and below what any spread could be."""
    found = typed.number(field)
    if found is None or not 0.01 <= found <= 2.0:
        typed.errors.setdefault(field, "A number from 0.01 to 2, please.")
        return 1.0
    return found


def _bands(typed: Typed, rating: Rating, count: int) -> tuple[Band, ...]:
    found = []
    for n in range(count):
        name = typed.text(f"name.{rating}.{n}", "A band needs a name.")
        field = f"limit.{rating}.{n}"
        limit = None
        if n:
            text = typed.text(field, "A limit is missing.")
            if text:
                try:
                    limit = _value_of(rating, text, field)
                except InputError as error:
                    typed.errors[field] = str(error)
        found.append(Band(name, limit))
    return tuple(found)


def _criterion_end(typed: Typed, key: str, end: str) -> float | None:
    field = f"{key}.{end}"
    if key != "draw_d":
        return typed.share(field, missing="A limit is missing.")
    text = typed.text(field, "A limit is missing.")
    if not text:
        return None
    try:
        return 100 * parse_share(text.lower().removesuffix("d"), field=field)
    except InputError as error:
        typed.errors[field] = str(error)
        return None
