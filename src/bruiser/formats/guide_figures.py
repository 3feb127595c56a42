"""The drawings of a guide, made from its facts alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from bruiser.core.choice.guide import (
    GaugeFacts,
    Guide,
    KnotFacts,
    ListFacts,
    RankedFacts,
    ResultFacts,
    TurnedFacts,
)
from bruiser.core.choice.ranking import shares_of
from bruiser.core.choice.rating import SCALES, Bands, Rating
from bruiser.figures.display import Figure, thinned
from bruiser.figures.drawn_knots import faces
from bruiser.figures.gauges import Board, BoardRow, GaugeBar, TurnedRow, strand_figure
from bruiser.figures.rank_charts import RankRow
from bruiser.formats.svg import write_svg

PAGE_MM = 180.0
_CARD_ROW_MM = 8.6
SHORT_SCHOOLS = {
    "measured floor": "floor",
    "measured typical": "typical",
    "halve it": "half",
    "third": "third",
}


@dataclass(frozen=True)
class PrintStyle:
    """Colours by token, and text height in millimetre and weight by style, as printed."""

    colours: Mapping[str, str]
    sizes_mm: Mapping[str, tuple[float, int]]

    def scaled(self, factor: float) -> PrintStyle:
        """The same with smaller or larger texts."""
        sizes = {k: (factor * mm, weight) for k, (mm, weight) in self.sizes_mm.items()}
        return PrintStyle(self.colours, sizes)

    def svg(self, figure: Figure) -> str:
        """A figure as an SVG element."""
        return write_svg(figure, self.colours, self.sizes_mm)


FACE_MM = (84.0, 40.0)
_THIN = 0.04


def faces_svg(knot: KnotFacts, style: PrintStyle) -> tuple[str, ...]:
    """Front and back of a knot as SVG elements; none where it has no drawing."""
    found = faces(knot.structure, dict(knot.choices), knot.name, *FACE_MM)
    return () if found is None else tuple(style.svg(thinned(f, _THIN)) for f in found)


def face_svg(knot: KnotFacts, style: PrintStyle, width: float, height: float) -> str:
    """The front of a knot, small; empty where it has no drawing."""
    found = faces(knot.structure, dict(knot.choices), knot.name, width, height)
    return "" if found is None else style.svg(thinned(found[0], 2 * _THIN))


def gauge_bar(facts: GaugeFacts, points: float | None = None, *, brief: bool = False) -> GaugeBar:
    """A rating as a gauge with its part of a score; `brief` leaves out how many pulls it has."""
    if facts.value is None:
        return GaugeBar(rating=facts.rating, tooltip=facts.why)
    caveat = f"; {facts.caveat}" if facts.caveat else ""
    could = f". The pulls leave open “{facts.could_be}”" if facts.could_be else ""
    return GaugeBar(
        rating=facts.rating,
        value=facts.value,
        low=facts.low,
        high=facts.high,
        band=facts.band,
        words=f"{facts.text} ({facts.range_text.replace(' to ', '–')})"
        + ("" if brief else f", n {facts.n}"),
        could_be=facts.could_be,
        points=points,
        tooltip=f"{facts.band}{could}. {facts.basis}{caveat}",
    )


def board_row(row: RankedFacts, number: int, chosen: str = "", *, brief: bool = False) -> BoardRow:
    """A knot of a short list as a row of the board."""
    first, last = row.likely
    ranks = f"place {first}" if first == last else f"places {first}–{last}"
    under = f"first {100 * row.chances[0]:.0f} %, {ranks}"
    under += f", tied {row.letters}" if row.tied_with else ""
    return BoardRow(
        key=row.result,
        place=str(number),
        name=row.name,
        under=under,
        letters=row.letters,
        gauges=tuple(gauge_bar(g, row.parts.get(g.rating), brief=brief) for g in row.gauges),
        score=f"{row.score:.0f}",
        score_under=f"{row.low:.0f} to {row.high:.0f}",
        load=row.load_text,
        load_under=SHORT_SCHOOLS.get(row.load_school, row.load_school),
        chosen=row.result == chosen,
    )


def short_list_board(
    found: ListFacts,
    weights: Mapping[Rating, float],
    bands: Mapping[Rating, Bands],
    title: str,
    *,
    brief: bool = False,
    chosen: str = "",
) -> Board:
    """The board of a short list, with what is not on it below."""
    absent = [t.name for t in found.not_ranked if never_pulled(t)]
    below = (
        *(
            TurnedRow(name=t.name, words=t.why, excluded=True, behind=t.name)
            for t in found.excluded
        ),
        *(
            TurnedRow(name=t.name, words=t.why, excluded=False, behind=t.name)
            for t in found.not_ranked
            if not never_pulled(t)
        ),
    )
    more = [f"Never pulled here: {', '.join(absent)}."] if absent else []
    more += [f"{found.other_kinds} knots are of another kind."] if found.other_kinds else []
    return Board(
        title=title,
        rows=tuple(board_row(r, n, chosen, brief=brief) for n, r in enumerate(found.rows, start=1)),
        bands=dict(bands),
        weights=shares_of(weights),
        turned=below,
        more=" ".join(more),
    )


def never_pulled(turned: TurnedFacts) -> bool:
    """Whether a knot is off the list only because it was never pulled in that cordage."""
    return not turned.pulled


def rank_rows(found: ListFacts) -> tuple[RankRow, ...]:
    """How sure the order of a short list is."""
    return tuple(
        RankRow(
            key=r.result,
            name=r.name,
            under=f"score {r.score:.0f} ({r.low:.0f} to {r.high:.0f})",
            chances=r.chances,
            likely=r.likely,
            letters=r.letters,
        )
        for r in found.rows
    )


def knot_results(guide: Guide, knot: KnotFacts) -> tuple[ResultFacts, ...]:
    """What was found of a knot, cordage by cordage."""
    return tuple(r for r in guide.results if r.knot == knot.key)


def best_result(guide: Guide, knot: KnotFacts) -> ResultFacts | None:
    """The result with the most ratings measured, then the most pulls behind it."""
    own = knot_results(guide, knot)
    if not own:
        return None
    return max(own, key=lambda r: (sum(g.value is not None for g in r.gauges), len(r.pulls)))


@dataclass(frozen=True)
class PrintedGauge:
    """A gauge as it is printed: its words as text, and the strand as an SVG element."""

    bar: GaugeBar
    name: str
    svg: str


def printed_gauges(
    guide: Guide, gauges: Sequence[GaugeFacts], width: float, style: PrintStyle
) -> list[PrintedGauge]:
    """The gauges of a knot in the order of the ratings."""
    bands, bars = guide.limits.bands, [gauge_bar(g) for g in gauges]
    return [
        PrintedGauge(b, SCALES[b.rating].name, style.svg(strand_figure(b, bands[b.rating], width)))
        for b in bars
    ]
