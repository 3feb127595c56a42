"""The drawing of a variant of a catalogue structure, and what is said beside it."""

from __future__ import annotations

from collections.abc import Mapping

from bruiser.catalogue.drawings import drawn, other_hand
from bruiser.figures.display import Figure
from bruiser.figures.knot_drawing import Facing, knot_figure

_KEEPS_PATH = ("hand", "made", "method", "tying")
"""Axes that leave the path: the other hand is its mirror image, the rest how it was made."""
NO_DRAWING = "No drawing yet: none was proven to be this knot."


def variant_is_drawn(choices: Mapping[str, str]) -> bool:
    """Whether a variant's own path is the plain one's."""
    return set(choices) <= set(_KEEPS_PATH)


def faces(
    key: str, choices: Mapping[str, str], title: str, width: float, height: float
) -> tuple[Figure, Figure] | None:
    """Front and back of a structure's drawing, in millimetre; None where it has none."""
    found = drawn(key)
    if found is None:
        return None
    mirrored = other_hand(choices)
    front, back = Facing(mirrored=mirrored), Facing(back=True, mirrored=mirrored)
    return (
        knot_figure(found.layout, width, height, f"{title}, front", front),
        knot_figure(found.layout, width, height, f"{title}, back", back),
    )


def drawing_words(key: str, choices: Mapping[str, str]) -> str:
    """What a reader must know of a drawing: what it rests on, and what it does not show."""
    found = drawn(key)
    if found is None:
        return NO_DRAWING
    said = [] if variant_is_drawn(choices) else ["Drawn is the plain form."]
    said.append(
        "Two recipes agree."
        if found.recipes > 1
        else "Proven from one recipe, not cross-checked by a second."
    )
    return " ".join(said)
