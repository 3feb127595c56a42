"""The shelf, the load scale, the schools and the cord scale."""

import pytest
from tests.figures.test_figures import inside, tokens_of

from bruiser.core.planning.cord_on_host import cord_ranges
from bruiser.core.units import UnitChoice
from bruiser.figures.cord_scale import cord_scale_figure
from bruiser.figures.display import Box, Line, Text
from bruiser.figures.load_scale import (
    BaselineMark,
    BaselineScale,
    SchoolRow,
    baseline_figure,
    schools_figure,
)
from bruiser.figures.shelf import ShelfHank, ShelfLot, hanks_figure, lots_figure
from bruiser.ui.theme.tokens import CHALK, TEXT

SAY = UnitChoice("kN", "mm").force_text
SAY_D = UnitChoice("kN", "mm").diameter_text


def sound(figure):
    assert set(tokens_of(figure)) <= set(CHALK)
    assert {t.style for t in figure.shapes if isinstance(t, Text)} <= set(TEXT)
    assert all(len(row) == len(figure.header) for row in figure.rows)
    assert figure.title
    inside(figure)


def lot(key, on_hand, thickness=1.0):
    return ShelfLot(
        key=key,
        name=key.upper(),
        words="8 mm polyester",
        state="5 pulls",
        on_hand_m=on_hand,
        thickness=thickness,
    )


@pytest.mark.parametrize("count", [1, 6, 30])
def test_every_lot_lies_on_the_shelf_and_can_be_tapped(count):
    lots = [lot(f"l{n}", 12.0 * n) for n in range(count)]
    figure = lots_figure(lots, 75, 190, "l0")
    sound(figure)
    assert [s.key for s in figure.spots] == [x.key for x in lots]
    assert figure.height <= 190.01


def test_more_rope_is_a_fuller_coil_and_none_is_an_empty_place():
    def loops(on_hand):
        shapes = lots_figure([lot("a", on_hand)], 75, 190).shapes
        return sum(isinstance(s, Line) and s.stroke == "hemp" for s in shapes)

    assert loops(0) == 0
    assert loops(5) < loops(40) < loops(90)
    assert loops(1e6) < 12


def test_hanks_are_drawn_to_one_scale_with_their_cuts():
    hanks = [
        ShelfHank(
            key="a",
            label="A",
            kind="hank",
            received_m=40.0,
            cuts_m=(2.0, 3.0),
            left_m=35.0,
            left_words="35.00 m of 40.00 m",
        ),
        ShelfHank(
            key="b",
            label="B",
            kind="offcut",
            received_m=10.0,
            cuts_m=(),
            left_m=10.0,
            left_words="10.00 m of 10.00 m",
        ),
        ShelfHank(
            key="c",
            label="C",
            kind="hank",
            received_m=10.0,
            cuts_m=(10.0,),
            left_m=0.0,
            left_words="0.00 m of 10.00 m",
        ),
    ]
    figure = hanks_figure(hanks, 190, 60)
    sound(figure)
    outlines = [s for s in figure.shapes if isinstance(s, Box)]
    assert outlines[0].width == pytest.approx(4 * outlines[1].width)
    ropes = [s for s in figure.shapes if isinstance(s, Line) and s.stroke == "hemp"]
    assert len(ropes) == 2
    cuts = [s for s in figure.shapes if isinstance(s, Line) and s.stroke == "muted"]
    assert len(cuts) == 3
    assert [r[3] for r in figure.rows] == ["35.00", "10.00", "0.00"]


def test_straight_pulls_lie_beside_the_rating_on_one_scale():
    marks = tuple(
        BaselineMark(key=k, kind=kind, load_n=load, label=k)
        for k, kind, load in (("p1", "broke", 14_000.0), ("p2", "outlasted", 15_000.0))
    )
    figure = baseline_figure(
        BaselineScale(
            marks=marks, typical_n=14_500.0, low_n=14_000.0, high_n=15_200.0, rated_n=13_000.0
        ),
        190,
        60,
        SAY,
    )
    sound(figure)
    first, second = figure.spots
    assert (first.key, second.key) == ("p1", "p2")
    assert first.x < second.x
    (rating,) = [s for s in figure.shapes if isinstance(s, Line) and s.dash]
    assert rating.points[0][0] < first.x
    assert "rated 13.00 kN" in [t.text for t in figure.shapes if isinstance(t, Text)]


@pytest.mark.parametrize(
    "scale",
    [
        BaselineScale(marks=()),
        BaselineScale(marks=(), rated_n=13_000.0),
        BaselineScale(marks=(BaselineMark(key="p", kind="broke", load_n=9.0, label="p"),)),
    ],
)
def test_a_scale_with_little_on_it_draws(scale):
    sound(baseline_figure(scale, 190, 60, SAY))


def test_the_longest_bar_is_the_highest_working_load():
    rows = [
        SchoolRow(
            name="Halve it", load_n=650.0, steps=("13.00 kN × 1/2 = 6.50 kN", "÷ 10 = 0.65 kN")
        ),
        SchoolRow(name="A third", load_n=433.0, steps=("a", "b"), default=True),
        SchoolRow(name="Measured typical", load_n=None, steps=("no efficiency measured",)),
    ]
    figure = schools_figure(rows, 190, 110, SAY)
    sound(figure)
    bars = [s for s in figure.shapes if isinstance(s, Box) and s.fill in ("plum", "plum-soft")]
    assert bars[1].width / bars[0].width == pytest.approx(433 / 650)
    texts = [t.text for t in figure.shapes if isinstance(t, Text)]
    assert "taken by default" in texts
    assert "none" in texts
    assert figure.rows[2] == ("Measured typical", "", "no efficiency measured")
    sound(schools_figure([], 190, 110, SAY))


@pytest.mark.parametrize(("host", "cord"), [(0.010, 0.006), (0.006, 0.010), (0.002, 0.001)])
def test_a_cord_is_shown_against_all_three_schools(host, cord):
    figure = cord_scale_figure(cord_ranges(host, cord), host, cord, (190, 80), SAY_D)
    sound(figure)
    assert len(figure.rows) == 3
    texts = [t.text for t in figure.shapes if isinstance(t, Text)]
    assert f"cord is {100 * cord / host:.0f} % of the host" in texts
