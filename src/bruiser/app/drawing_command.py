"""``bruiser-cli drawing``: a knot's drawing as SVG, and what it is proven to be as JSON."""

from __future__ import annotations

import argparse
import json

from bruiser.app.guide_command import STYLE
from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import drawn_keys, variant_drawn
from bruiser.core.errors import InputError
from bruiser.figures.drawn_knots import drawing_words, faces
from bruiser.formats.drawing_json import drawing_json

_MM = (120.0, 90.0)


def _choices(key: str, said: list[str]) -> dict[str, str]:
    structure = load_catalogue().get(key)
    if structure is None:
        raise InputError(f"There is no structure “{key}” in the catalogue.", where="knot")
    choices = {}
    for text in said:
        axis, equals, option = text.partition("=")
        if not equals:
            raise InputError(f"“{text}”: write a variant as AXIS=OPTION.", where="variant")
        choices[axis] = option
    try:
        structure.chosen(choices)
    except ValueError as error:
        raise InputError(f"{error}.", where="variant") from error
    return structure.differing(choices)


def drawing_command(options: argparse.Namespace) -> str:
    """Do what was asked; returns what is printed.

    Raises
    ------
    InputError
        If there is no such knot, variant or drawing.
    """
    if options.list:
        return "\n".join(drawn_keys())
    if not options.knot:
        raise InputError("Which knot? --list names those that have a drawing.", where="knot")
    choices = _choices(options.knot, options.variant)
    found = faces(options.knot, choices, load_catalogue()[options.knot].name, *_MM)
    variant = variant_drawn(options.knot, choices)
    if found is None or variant is None or variant.missing:
        what = options.knot if found is None else f"This variant of {options.knot}"
        raise InputError(f"{what} has no drawing.", "--list names the structures that have one.")
    if options.svg is not None:
        options.svg.write_text(STYLE.svg(found[1 if options.back else 0]), encoding="utf-8")
    if options.json:
        return json.dumps(drawing_json(options.knot, choices), ensure_ascii=False)
    return f"{options.knot}: {drawing_words(options.knot, choices)}"
