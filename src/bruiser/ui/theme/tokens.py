"""The only colour and size literals of the interface."""

from __future__ import annotations

from dataclasses import dataclass

CHALK: dict[str, str] = {
    "ground": "#E9E6EE",
    "surface": "#FBFAFC",
    "sunk": "#F1EFF5",
    "ink": "#231B2E",
    "muted": "#5F566C",
    "line": "#D3CDDD",
    "plum": "#5B2A78",
    "plum-wash": "#EADFF2",
    "plum-soft": "#D5C3E3",
    "moss": "#386E33",
    "ochre": "#8A5700",
    "ochre-wash": "#F7E9CC",
    "brick": "#B0342B",
    "storm": "#2B6590",
    "rail": "#2B2138",
    "rail-lit": "#443459",
    "hemp": "#D2BC8C",
    "hemp-light": "#E9DBB8",
    "hemp-edge": "#6B5730",
    "flax": "#7E6BA3",
    "flax-light": "#A896C9",
    "flax-edge": "#372A52",
    "rope-dim": "#5D5270",
    "steel": "#A9A2B5",
    "on-plum": "#FFFFFF",
    "on-brick": "#FFFFFF",
    "rail-ink": "#CFC6DC",
    "rail-strong": "#FFFFFF",
}

PITCH: dict[str, str] = {
    "ground": "#17131D",
    "surface": "#221C2B",
    "sunk": "#1C1724",
    "ink": "#EFEAF5",
    "muted": "#A79DB6",
    "line": "#3A3147",
    "plum": "#C79BE6",
    "plum-wash": "#38264A",
    "plum-soft": "#553A70",
    "moss": "#8CC084",
    "ochre": "#E5AE4F",
    "ochre-wash": "#3B2E17",
    "brick": "#F0847A",
    "storm": "#7FB6DE",
    "rail": "#100C15",
    "rail-lit": "#2E243B",
    "hemp": "#C9B07A",
    "hemp-light": "#E0CDA0",
    "hemp-edge": "#4A3B1E",
    "flax": "#7562A0",
    "flax-light": "#9D8BC4",
    "flax-edge": "#0F0A1A",
    "rope-dim": "#443A54",
    "steel": "#6C6478",
    "on-plum": "#17131D",
    "on-brick": "#17131D",
    "rail-ink": "#CFC6DC",
    "rail-strong": "#FFFFFF",
}

THEMES: dict[str, dict[str, str]] = {"chalk": CHALK, "pitch": PITCH}

# Text colour on the surface it is used on; a test computes the contrast of each.
TEXT_PAIRS: tuple[tuple[str, str], ...] = (
    ("ink", "ground"),
    ("ink", "surface"),
    ("ink", "sunk"),
    ("ink", "plum-wash"),
    ("ink", "ochre-wash"),
    ("muted", "ground"),
    ("muted", "surface"),
    ("muted", "sunk"),
    ("plum", "surface"),
    ("plum", "plum-wash"),
    ("moss", "surface"),
    ("ochre", "surface"),
    ("ochre", "ochre-wash"),
    ("brick", "surface"),
    ("storm", "surface"),
    ("on-plum", "plum"),
    ("on-brick", "brick"),
    ("rail-ink", "rail"),
    ("rail-ink", "rail-lit"),
    ("rail-strong", "rail-lit"),
)

SPACE = {"xs": 4, "s": 8, "m": 12, "l": 16, "xl": 24}
RADIUS = 6
TOUCH = 44
RAIL_WIDTH = 176
SIDE_WIDTH = 272
SHELF_WIDTH = 300
NARROW_SHELF_WIDTH = 232
PX_PER_MM = 96 / 25.4


@dataclass(frozen=True)
class TextStyle:
    """A text style: family, size in pixel at normal scale, and weight."""

    family: str
    pixels: int
    weight: int = 400


TEXT: dict[str, TextStyle] = {
    "small": TextStyle("Karla", 12),
    "strong-small": TextStyle("Karla", 12, 700),
    "label": TextStyle("Karla", 11, 700),
    "body": TextStyle("Karla", 14),
    "strong": TextStyle("Karla", 14, 700),
    "title": TextStyle("Karla", 20, 700),
    "brand": TextStyle("Karla", 21, 700),
    "figure": TextStyle("B612", 15, 700),
    "unit": TextStyle("B612", 14),
    "reading": TextStyle("B612", 36, 700),
}

# Text height in millimetre and weight by style, as figures are written to files with.
TEXT_MM: dict[str, tuple[float, int]] = {
    name: (style.pixels / PX_PER_MM, style.weight) for name, style in TEXT.items()
}
