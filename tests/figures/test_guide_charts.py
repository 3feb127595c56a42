"""The drawings of the guide: gauges that go the right way, boards, ranks, parts and weights."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bruiser.core.choice.rating import SCALES, STARTING_BANDS, Rating
from bruiser.figures.display import Box, Line, Text
from bruiser.figures.gauges import (
    Board,
    BoardRow,
    GaugeBar,
    TurnedRow,
    board_figure,
    gauge_list,
    place,
)
from bruiser.figures.rank_charts import (
    PartsRow,
    RankRow,
    WeightLine,
    parts_figure,
    rank_figure,
    weight_figure,
)
from bruiser.formats.svg import write_svg
from bruiser.ui.theme.tokens import CHALK, TEXT_MM

GOOD = GaugeBar(
    rating=Rating.STRENGTH,
    value=0.7,
    low=0.6,
    high=0.8,
    band="over half",
    words="70 % (60–80 %)",
    could_be="",
    points=83.0,
    tooltip="basis",
)
DOUBTFUL = GaugeBar(
    rating=Rating.SECURITY,
    value=0.9,
    low=0.1,
    high=1.0,
    band="stays tied",
    words="90",
    could_be="lets go",
)
QUICK = GaugeBar(rating=Rating.TYING, value=20.0, low=12.0, high=40.0, band="quick", words="20 s")
NOTHING = GaugeBar(rating=Rating.OPENING, tooltip="never untied")
CHECK = GaugeBar(rating=Rating.CHECKING, value=0.8, low=0.4, high=0.9, band="clear", words="80 %")
GAUGES = (GOOD, DOUBTFUL, NOTHING, QUICK, CHECK)


def board(**more):
    row = BoardRow(
        key="l|Bowline",
        place="1",
        name="Bowline",
        under="first 61 %",
        letters="a",
        gauges=GAUGES,
        score="84",
        score_under="66 to 93",
        load="0.7 kN",
    )
    turned = (
        TurnedRow(name="Sheet bend", words="came out 4 of 4", excluded=True, behind="x"),
        TurnedRow(name="Reef", words="?", excluded=False),
    )
    values = {"turned": turned, "more": "Never pulled here: Granny.", **more}
    return Board(
        title="Short list",
        rows=(row,),
        bands=dict(STARTING_BANDS),
        weights={Rating.STRENGTH: 1.0},
        **values,
    )


def texts(figure):
    return [s.text for s in figure.shapes if isinstance(s, Text)]


@given(st.sampled_from(list(Rating)), st.floats(0.001, 300), st.floats(0.001, 300))
def test_better_always_lies_further_right(rating, a, b):
    if SCALES[rating].unit != "seconds":
        a, b = a / 300, b / 300
    worse, better = sorted((a, b), reverse=not SCALES[rating].better_high)
    assert 0.0 <= place(rating, worse) <= place(rating, better) <= 1.0


def test_a_gauge_shows_its_interval_its_value_and_what_it_leaves_open():
    figure = gauge_list(GAUGES, dict(STARTING_BANDS), 120.0)
    said = texts(figure)
    assert "over half" in said
    assert "stays tied ?" in said
    assert "not measured" in said
    bars = [s for s in figure.shapes if isinstance(s, Box) and s.fill == "plum-soft"]
    assert len(bars) == 4
    strength = bars[0]
    width = 120.0 - 0.34 * 120.0 - 0.5
    assert strength.width == pytest.approx(0.2 * width)
    quick = bars[2]
    left, right = (0.34 * 120 + width * place(Rating.TYING, v) for v in (40.0, 12.0))
    assert (quick.x, quick.x + quick.width) == pytest.approx((left, right))
    broken = [s for s in figure.shapes if isinstance(s, Line) and s.dash]
    assert len(broken) == 1
    assert dict(figure.rows)["Opens after load"] == "not measured"
    assert "could be “lets go”" in dict(figure.rows)["Stays tied"]
    narrow = gauge_list(GAUGES, dict(STARTING_BANDS), 60.0)
    assert "Strength kept" in texts(narrow)


def test_a_board_leads_from_every_gauge_and_reason_to_what_is_behind():
    figure = board_figure(board(), 280.0)
    keys = [s.key for s in figure.spots]
    assert keys[0] == "row:l|Bowline"
    assert f"gauge:l|Bowline:{Rating.TYING}" in keys
    assert "load:l|Bowline" in keys
    assert "turned:0" in keys
    assert "turned:1" not in keys
    assert {"Score", "Work load", "excluded: ", "not ranked: ", "83"} <= set(texts(figure))
    assert figure.rows[0][:2] == ("1", "Bowline")
    assert figure.rows[1][-1] == "excluded: came out 4 of 4"
    assert len(figure.keys) == len(figure.rows)
    for spot in figure.spots:
        assert 0 <= spot.x <= spot.x + spot.width <= figure.width + 1
        assert 0 <= spot.y <= spot.y + spot.height <= figure.height


@pytest.mark.parametrize("width", [150.0, 180.0, 240.0, 330.0])
def test_a_board_keeps_inside_its_width(width):
    figure = board_figure(board(), width)
    for shape in figure.shapes:
        if isinstance(shape, Box):
            assert -0.01 <= shape.x <= shape.x + shape.width <= width + 1.01
    svg = write_svg(figure, CHALK, TEXT_MM)
    assert svg.count("<text") == len(texts(figure))


def test_an_empty_board_has_no_score_and_no_load():
    empty = Board(title="Short list", rows=(), bands=dict(STARTING_BANDS), weights={})
    figure = board_figure(empty, 200.0)
    assert "Score" not in texts(figure)
    assert figure.rows == ()


def test_chances_are_filled_as_far_as_they_go_and_add_up():
    rows = [
        RankRow(
            key="a",
            name="Bowline",
            under="score 84",
            chances=(0.75, 0.25),
            likely=(1, 2),
            letters="a",
        ),
        RankRow(
            key="b", name="Reef", under="score 60", chances=(0.25, 0.75), likely=(1, 2), letters="a"
        ),
    ]
    figure = rank_figure(rows, 150.0)
    filled = [s.height for s in figure.shapes if isinstance(s, Box) and s.fill == "plum-soft"]
    assert filled[0] == pytest.approx(3 * filled[1])
    assert figure.header == ("knot", "1st", "2nd", "letters")
    assert figure.keys == ("row:a", "row:b")
    assert rank_figure([], 100.0).rows == ()


def test_a_score_is_drawn_in_its_parts():
    row = PartsRow(
        key="a", name="Bowline", score=60.0, parts=(("Strength", 0.5, 80.0), ("Tying", 0.5, 40.0))
    )
    figure = parts_figure([row], 150.0)
    pieces = [s for s in figure.shapes if isinstance(s, Box) and s.fill != "sunk"]
    assert pieces[0].width == pytest.approx(2 * pieces[1].width, rel=0.05)
    assert {"40", "20", "60"} <= set(texts(figure))
    assert [r[2] for r in figure.rows] == ["Strength", "Tying"]


def test_a_weight_moves_scores_along_straight_lines_with_names_apart():
    lines = [WeightLine("Bowline", 80.0, 70.0), WeightLine("Reef", 60.0, 70.2)]
    figure = weight_figure(lines, 0.25, (0.6,), "strength", 140.0, 80.0)
    names = [s for s in figure.shapes if isinstance(s, Text) and s.text in ("Bowline", "Reef")]
    assert abs(names[0].y - names[1].y) >= 4.2 - 1e-9
    assert figure.rows == (("Bowline", "80.00", "70.00"), ("Reef", "60.00", "70.20"))
    dashed = [s for s in figure.shapes if isinstance(s, Line) and s.dash]
    assert len(dashed) == 1
