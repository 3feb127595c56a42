"""The drawing of a variant of a catalogue structure, and what is said beside it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import on_other_own, other_hand, variant_drawn
from bruiser.figures.display import Figure
from bruiser.figures.knot_drawing import Facing, knot_figure

NO_DRAWING = "No drawing yet: none was proven to be this knot."


def faces(
    key: str, choices: Mapping[str, str], title: str, width: float, height: float
) -> tuple[Figure, Figure] | None:
    """Front and back of a structure's drawing, in millimetre; None where it has none."""
    return _faces(key, tuple(sorted(choices.items())), title, width, height)


@lru_cache(maxsize=256)
def _faces(
    key: str, picked: tuple[tuple[str, str], ...], title: str, width: float, height: float
) -> tuple[Figure, Figure] | None:
    choices = dict(picked)
    found = variant_drawn(key, choices)
    if found is None:
        return None
    mirrored = other_hand(choices)
    front, back = Facing(mirrored=mirrored), Facing(back=True, mirrored=mirrored)
    return (
        knot_figure(found.drawn.layout, width, height, f"{title}, front", front),
        knot_figure(found.drawn.layout, width, height, f"{title}, back", back),
    )


def drawing_words(key: str, choices: Mapping[str, str]) -> str:
    """What a reader must know of a drawing: what it rests on, and what it does not show."""
    found = variant_drawn(key, choices)
    if found is None:
        return NO_DRAWING
    said = []
    if found.missing:
        structure = load_catalogue()[key]
        axes = [a.name.lower() for a in structure.axes if a.key in found.missing]
        said.append(f"Drawn without what was chosen for: {', '.join(axes)}.")
    said.append(
        "Two recipes agree."
        if found.drawn.recipes > 1
        else "Proven from one recipe, not cross-checked by a second."
    )
    return " ".join(said)


on_other_own(_faces.cache_clear)
