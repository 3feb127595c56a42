"""The fonts shipped with the application, and how wide a text is in them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from io import BytesIO

_UNKNOWN_EM = 0.65
_DOTS = "…"


@dataclass(frozen=True)
class Face:
    """One font file: its family and weight."""

    family: str
    weight: int
    file: str

    def read(self) -> bytes:
        """The file's content."""
        return files("bruiser.figures").joinpath("fonts", self.file).read_bytes()


FACES = (
    Face("Karla", 400, "Karla-Regular.otf"),
    Face("Karla", 500, "Karla-Medium.otf"),
    Face("Karla", 700, "Karla-Bold.otf"),
    Face("B612", 400, "B612-Regular.otf"),
    Face("B612", 700, "B612-Bold.otf"),
)

READINGS = frozenset({"figure", "unit", "reading"})
"""Text styles that are set in the font for readings."""


def family_of(style: str) -> str:
    """The family a text style is set in."""
    return "B612" if style in READINGS else "Karla"


@lru_cache(maxsize=8)
def _advances(family: str, bold: bool) -> dict[int, float]:
    """Width of every character in em."""
    # Read when a text is first cut to its room, not at start-up.
    from fontTools.ttLib import TTFont

    weight = 700 if bold else 400
    face = next(f for f in FACES if (f.family, f.weight) == (family, weight))
    font = TTFont(BytesIO(face.read()))
    em = font["head"].unitsPerEm
    metrics = font["hmtx"].metrics
    return {code: metrics[glyph][0] / em for code, glyph in font.getBestCmap().items()}


def text_width(text: str, family: str, weight: int, size: float) -> float:
    """Width of a text, in the unit of `size`; a character the font lacks counts as usual wide."""
    known = _advances(family, weight >= 600)
    return size * sum(known.get(ord(c), _UNKNOWN_EM) for c in text)


def elide(text: str, family: str, weight: int, size: float, room: float) -> str:
    """The text, cut with dots at its end where it is wider than the room."""
    if text_width(text, family, weight, size) <= room:
        return text
    left = room - text_width(_DOTS, family, weight, size)
    known = _advances(family, weight >= 600)
    kept, used = [], 0.0
    for c in text:
        used += size * known.get(ord(c), _UNKNOWN_EM)
        if used > left:
            break
        kept.append(c)
    return "".join(kept).rstrip() + _DOTS
