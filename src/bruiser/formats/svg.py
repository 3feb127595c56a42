"""A figure as SVG, in millimetres; colours and text sizes are handed in by name."""

from __future__ import annotations

from collections.abc import Mapping
from xml.sax.saxutils import escape, quoteattr

from bruiser.figures.display import Box, Disc, Figure, Line, Shape
from bruiser.figures.typefaces import elide, family_of


def write_svg(
    figure: Figure, colours: Mapping[str, str], sizes_mm: Mapping[str, tuple[float, int]]
) -> str:
    """A figure as an SVG element that stands alone or inside a page.

    Parameters
    ----------
    colours : mapping
        Colour by token.
    sizes_mm : mapping
        Text height in millimetre and weight by text style.
    """
    inside = "\n".join(_shape(s, colours, sizes_mm) for s in figure.shapes)
    w, h = f"{figure.width:.2f}", f"{figure.height:.2f}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" '
        f'viewBox="0 0 {w} {h}" role="img"><title>{escape(figure.title)}</title>\n{inside}\n</svg>'
    )


def _paint(colours: Mapping[str, str], fill: str | None, stroke: str | None, width: float) -> str:
    inner = "none" if fill is None else colours[fill]
    outer = "none" if stroke is None else colours[stroke]
    return f'fill="{inner}" stroke="{outer}" stroke-width="{width:.2f}"'


def _shape(
    shape: Shape, colours: Mapping[str, str], sizes_mm: Mapping[str, tuple[float, int]]
) -> str:
    if isinstance(shape, Line):
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in shape.points)
        tag = "polygon" if shape.closed or shape.fill is not None else "polyline"
        dash = ' stroke-dasharray="1.2 0.8"' if shape.dash else ""
        paint = _paint(colours, shape.fill, shape.stroke, shape.width)
        return f'<{tag} points="{points}" {paint}{dash} stroke-linejoin="round"/>'
    if isinstance(shape, Disc):
        paint = _paint(colours, shape.fill, shape.stroke, shape.width)
        return f'<circle cx="{shape.x:.2f}" cy="{shape.y:.2f}" r="{shape.radius:.2f}" {paint}/>'
    if isinstance(shape, Box):
        paint = _paint(colours, shape.fill, shape.stroke, shape.line)
        return (
            f'<rect x="{shape.x:.2f}" y="{shape.y:.2f}" width="{max(shape.width, 0):.2f}" '
            f'height="{max(shape.height, 0):.2f}" rx="{shape.radius:.2f}" {paint}/>'
        )
    size, weight = sizes_mm[shape.style]
    family = family_of(shape.style)
    text = shape.text
    if shape.max_width > 0:
        text = elide(text, family, weight, size, shape.max_width)
    return (
        f'<text x="{shape.x:.2f}" y="{shape.y:.2f}" font-family="{family}, sans-serif" '
        f'font-size="{size:.2f}" font-weight="{weight}" text-anchor={quoteattr(shape.anchor)} '
        f'fill="{colours[shape.colour]}">{escape(text)}</text>'
    )
