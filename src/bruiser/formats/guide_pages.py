"""A guide as pages: the document, bench cards and a wall chart, as HTML and as PDF."""

from __future__ import annotations

import base64
from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from markupsafe import Markup

from bruiser.core.choice.answers import GuideAnswer, answer_school, answers_of
from bruiser.core.choice.guide import (
    Guide,
    KnotFacts,
    ListFacts,
    LotFacts,
    PullFacts,
    RankedFacts,
    ResultFacts,
    UseFacts,
)
from bruiser.core.choice.ranking import shares_of
from bruiser.core.choice.rating import SCALES, Rating, say_bands
from bruiser.figures.drawn_knots import drawing_words
from bruiser.figures.typefaces import FACES
from bruiser.formats.guide_figures import (
    PrintedGauge,
    PrintStyle,
    best_result,
    face_svg,
    faces_svg,
    knot_results,
    never_pulled,
    printed_gauges,
)

if TYPE_CHECKING:
    from jinja2 import Environment

_LIST_MM = 84.0
WALL_SHEETS = {"A3": 1.0, "A2": 2**0.5}
"""Sheets of the wall chart, and how large everything is on them."""
_ACROSS = 4
"""Cordages beside one another in the table of answers."""


def css_string(text: str) -> str:
    """A text as a CSS string: everything but letters, digits and spaces is written as its code."""
    # A blank ends a code, and belongs to it.
    safe = "".join(c if c.isalnum() or c == " " else f"\\{ord(c):06x} " for c in text)
    return f'"{safe}"'


@lru_cache(maxsize=1)
def _environment() -> Environment:
    from jinja2 import Environment, PackageLoader, StrictUndefined

    made = Environment(
        loader=PackageLoader("bruiser.formats", "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["css_string"] = lambda text: Markup(css_string(text))
    return made


@lru_cache(maxsize=1)
def _faces() -> tuple[dict[str, Any], ...]:
    return tuple(
        {
            "family": face.family,
            "weight": face.weight,
            "data": base64.b64encode(face.read()).decode("ascii"),
        }
        for face in FACES
        if face.weight != 500
    )


def title_of(knot: KnotFacts) -> str:
    """Name and variant of a knot."""
    return knot.name if knot.variant == "plain" else f"{knot.name}, {knot.variant}"


def _percent(value: float | None) -> str:
    return "none" if value is None else f"{100 * value:.0f} %"


def _anchor_words(rating: Rating, anchors: tuple[tuple[float, float], ...]) -> str:
    say = SCALES[rating].say
    return ", ".join(f"{say(value)} = {points:g}" for value, points in anchors)


def worth_a_list(found: ListFacts) -> bool:
    """Whether something for a use was pulled in a cordage."""
    pulled = any(t.pulled for t in found.not_ranked)
    return bool(found.rows or pulled or any(t.by_pulls for t in found.excluded))


def _pull_groups(guide: Guide) -> list[tuple[tuple[str, str], list[PullFacts]]]:
    """The pulls by cordage and specimen, in the order in which these first come."""
    found: dict[tuple[str, str], list[PullFacts]] = {}
    for pull in guide.pulls:
        found.setdefault((pull.lot, pull.knot), []).append(pull)
    order = {lot.key: n for n, lot in enumerate(guide.lots)}
    return sorted(found.items(), key=lambda item: order.get(item[0][0], len(order)))


def _common(guide: Guide, style: PrintStyle) -> dict[str, Any]:
    def results_of(knot: KnotFacts) -> tuple[ResultFacts, ...]:
        return knot_results(guide, knot)

    def in_lot(lot: LotFacts) -> tuple[ResultFacts, ...]:
        return tuple(r for r in guide.results if r.lot == lot.key)

    def schools(lot: LotFacts) -> tuple[str, ...]:
        first = next((r for r in in_lot(lot) if r.loads), None)
        return () if first is None else tuple(s.school for s in first.loads)

    def worthy(use: UseFacts) -> list[str]:
        return [found.lot for found in use.lists if worth_a_list(found)]

    def never(found: ListFacts) -> list[Any]:
        return [t for t in found.not_ranked if never_pulled(t)]

    every = answers_of(guide)
    knots = {knot.key: knot for knot in guide.knots}

    def answers(use: int, lots: tuple[LotFacts, ...]) -> list[GuideAnswer]:
        keys = [lot.key for lot in lots]
        return [a for a in every[use] if a.lot in keys]

    def gauges(found: ResultFacts | RankedFacts) -> list[PrintedGauge]:
        return printed_gauges(guide, found.gauges, _LIST_MM, style)

    def face(knot: str, width: float, height: float) -> Markup:
        return Markup(face_svg(knots[knot], style, width, height)) if knot in knots else Markup("")

    css = _environment().get_template("guide.css.jinja").render(faces=_faces(), c=style.colours)
    names: dict[str, Callable[..., Any]] = {
        "rating_name": lambda rating: SCALES[rating].name,
        "band_words": lambda rating: say_bands(rating, guide.limits.bands[rating]),
        "anchor_words": _anchor_words,
        "shares": shares_of,
        "results_of": results_of,
        "in_lot": in_lot,
        "schools": schools,
        "worth": worth_a_list,
        "worthy": worthy,
        "never": never,
        "never_pulled": never_pulled,
        "listed_out": lambda f: bool(f.excluded) or len(never(f)) < len(f.not_ranked),
        "pct": _percent,
        "title_of": title_of,
        "best": lambda knot: best_result(guide, knot),
        "both_faces": lambda knot: [Markup(svg) for svg in faces_svg(knot, style)],
        "face": face,
        "reach_groups": lambda a: [
            a.cordages[n : n + _ACROSS] for n in range(0, len(a.cordages), _ACROSS)
        ],
        "answers": answers,
        "drawing_words": lambda knot: drawing_words(knot.structure, dict(knot.choices)),
        "gauges": gauges,
    }
    running = f"{guide.title}, knot selection guide, revision {guide.revision}, {guide.state}"
    return {
        "guide": guide,
        "css": Markup(css),
        "c": style.colours,
        "running": running,
        "ratings": tuple(Rating),
        "lot_groups": [guide.lots[n : n + _ACROSS] for n in range(0, len(guide.lots), _ACROSS)],
        "school": answer_school(guide),
        "pull_groups": _pull_groups(guide),
        **names,
    }


def guide_html(guide: Guide, style: PrintStyle) -> str:
    """The document as one page of HTML that needs nothing from outside."""
    return _environment().get_template("guide.html.jinja").render(_common(guide, style))


def cards_html(guide: Guide, style: PrintStyle, knots: tuple[str, ...] = ()) -> str:
    """Bench cards of A6, one a knot; `knots` by key, empty for all."""
    chosen = [k for k in guide.knots if not knots or k.key in knots]
    page = _environment().get_template("card.html.jinja")
    return page.render({**_common(guide, style), "knots": chosen})


def wall_html(guide: Guide, style: PrintStyle, sheet: str = "A3") -> str:
    """The wall chart, to be read from two metres: on A3, or on A2 half as large again."""
    page = _environment().get_template("wall.html.jinja")
    return page.render({**_common(guide, style), "sheet": sheet, "big": WALL_SHEETS[sheet]})
