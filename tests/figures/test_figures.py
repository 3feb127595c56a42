import numpy as np
import pytest

from bruiser.core.records.layouts import LAYOUTS
from bruiser.core.records.records import Gave
from bruiser.figures.display import Box, Disc, Line, Text
from bruiser.figures.ladder import (
    Ladder,
    LadderMark,
    LadderRow,
    ladder_figure,
    ladder_row,
    share_axis,
)
from bruiser.figures.scales import round_step, ticks
from bruiser.figures.strip import StripState, strip_figure
from bruiser.figures.trace_chart import TraceNote, thin_out, trace_figure
from bruiser.ui.theme.tokens import CHALK, PITCH, TEXT

ROPE = share_axis("plain rope")


def tokens_of(figure):
    for shape in figure.shapes:
        if isinstance(shape, Line | Disc | Box):
            yield from (t for t in (shape.fill, shape.stroke) if t)
        else:
            yield shape.colour


def inside(figure):
    for spot in figure.spots:
        assert -0.01 <= spot.x <= spot.x + spot.width <= figure.width + 0.01
        assert -0.01 <= spot.y <= spot.y + spot.height <= figure.height + 0.01


@pytest.mark.parametrize("layout", LAYOUTS.values(), ids=lambda x: x.key)
@pytest.mark.parametrize("gave", [None, Gave.BROKE, Gave.CAME_OUT, Gave.CAPSIZED])
def test_every_place_of_every_strip_can_be_tapped(layout, gave):
    place = layout.places[1].key
    figure = strip_figure(layout, 200, 38, StripState(place=place, gave=gave))
    assert [s.key for s in figure.spots] == [p.key for p in layout.places]
    assert set(tokens_of(figure)) <= set(CHALK) == set(PITCH)
    inside(figure)


def test_the_ladder_shows_every_pull_by_its_shape():
    kinds = ("broke", "came_out", "outlasted")
    marks = tuple(LadderMark(key=k, kind=k, at=0.5 + 0.1 * i, label=k) for i, k in enumerate(kinds))
    row = ladder_row(
        ROPE, key="k", name="Bowline", counts="", marks=marks, interval=(0.6, 0.5, 2.0)
    )
    assert (row.value_text, row.range_text) == ("60 %", "50 and more")
    figure = ladder_figure(Ladder(title="t", rows=(row,), axis=ROPE, band=(0.97, 1.03)), 280, 120)
    assert [s.key for s in figure.spots] == list(kinds)
    assert [r[8] for r in figure.rows] == list(kinds)
    assert {t.style for t in figure.shapes if isinstance(t, Text)} <= set(TEXT)
    inside(figure)
    centres = [s.x + s.width / 2 for s in figure.spots]
    assert centres == sorted(centres)


@pytest.mark.parametrize("rows", [0, 1, 30])
def test_a_ladder_of_any_length_draws(rows):
    row = LadderRow(key="k", name="x" * 90, counts="", marks=())
    assert ladder_figure(Ladder(title="t", rows=(row,) * rows, axis=ROPE), 280, 120).height > 0


def test_thinning_keeps_the_extremes():
    rng = np.random.default_rng(1)
    y = rng.standard_normal(100_000)
    x = np.arange(100_000.0)
    thin_x, thin_y = thin_out(x, y, 500)
    assert len(thin_x) == len(thin_y) == 1000
    assert (thin_y.max(), thin_y.min()) == (y.max(), y.min())
    assert np.all(np.diff(thin_x) >= 0)


def test_a_trace_is_drawn_and_listed():
    x = np.linspace(0, 160, 5000)
    note = TraceNote(x=100.0, y=5.0, words="first slip", colour="ochre")
    figure = trace_figure(
        x, x / 20, (note,), 120, 50, x_title="mm", y_title="kN", title="Load against travel"
    )
    assert figure.header == ("mm", "kN")
    assert any(isinstance(s, Text) and s.text == "first slip" for s in figure.shapes)


def test_ticks_are_round_and_inside():
    assert ticks(0, 1.05, 5) == pytest.approx((0, 0.5, 1.0))
    assert ticks(0.1, 0.4, 3) == pytest.approx((0.1, 0.2, 0.3, 0.4))
    assert round_step(0, 4) == 1.0
