"""Knots on the specimen strip: told apart, turned to the line, and as they were left."""

from __future__ import annotations

import pytest

from bruiser.catalogue import load_catalogue
from bruiser.catalogue.drawings import drawn_keys
from bruiser.core.records.layouts import LAYOUTS, End, PlaceKind
from bruiser.core.records.records import Gave
from bruiser.figures.display import Line
from bruiser.figures.silhouette import TiedKnot
from bruiser.figures.strip import StripState, strip_figure

CATALOGUE = load_catalogue()
WIDE, HIGH = 190.0, 27.0


def strip(key, *, choices=(), place=None, gave=None):
    knots = dict.fromkeys(End, TiedKnot(key, choices))
    state = StripState(knots=knots, place=place, gave=gave)
    return strip_figure(LAYOUTS[CATALOGUE[key].layout], WIDE, HIGH, state)


def knot_spot(key, figure):
    layout = LAYOUTS[CATALOGUE[key].layout]
    place = next(p for p in layout.places if p.kind is PlaceKind.KNOT)
    return next(s for s in figure.spots if s.key == place.key)


def ribbons(figure):
    return [s for s in figure.shapes if isinstance(s, Line) and s.closed and s.stroke is None]


@pytest.mark.parametrize("key", drawn_keys())
def test_a_knot_stays_in_its_cell_and_above_its_label(key):
    figure = strip(key)
    spot = knot_spot(key, figure)
    mine = [
        r for r in ribbons(figure) if spot.x < sum(x for x, _ in r.points) / len(r.points)
        < spot.x + spot.width
    ]  # fmt: skip
    assert len(mine) > 5
    for shape in mine:
        for x, y in shape.points:
            assert spot.x - 0.8 <= x <= spot.x + spot.width + 0.8
            assert -0.1 <= y <= HIGH - 5.4


def test_knots_differ_and_so_do_their_variants():
    drawn = {}
    for key in drawn_keys():
        drawn.setdefault(tuple(strip(key).shapes), []).append(key)
    alike = {tuple(keys) for keys in drawn.values() if len(keys) > 1}
    assert all(len({CATALOGUE[k].layout for k in keys}) == 1 for keys in alike)
    assert ("bowline",) not in alike
    plain, mirrored = strip("bowline"), strip("bowline", choices=(("hand", "mirrored"),))
    assert plain.shapes != mirrored.shapes
    assert plain.shapes != strip("bowline", choices=(("turns", "round-turn"),)).shapes


def test_the_line_is_open_where_the_knot_broke_and_the_knot_gone_where_it_came_out():
    place = next(p.key for p in LAYOUTS["loop_pair"].places if p.kind is PlaceKind.KNOT)
    whole = strip("bowline")
    broke, out, turned = (
        strip("bowline", place=place, gave=g) for g in (Gave.BROKE, Gave.CAME_OUT, Gave.CAPSIZED)
    )
    spot = knot_spot("bowline", whole)

    def within(figure):
        return [
            r
            for r in ribbons(figure)
            if all(spot.x <= x <= spot.x + spot.width for x, _ in r.points)
        ]  # fmt: skip

    assert len(within(broke)) == len(within(whole))
    assert len(within(out)) < 5 < len(within(whole))
    assert len(within(turned)) < 5

    def reaches(figure):
        """How near the knot the line along the span comes."""
        return min(
            min(x for x, _ in s.points)
            for s in figure.shapes
            if isinstance(s, Line) and s.stroke == "hemp" and s.fill is None
            and max(x for x, _ in s.points) > WIDE / 2 > min(x for x, _ in s.points)
        )  # fmt: skip

    assert reaches(broke) > reaches(whole)
    assert reaches(whole) == pytest.approx(spot.x + spot.width)
