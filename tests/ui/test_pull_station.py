"""The pull station's tables and figures by themselves: long queues, small strips, directions."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPoint, Qt
from tests.build import SPECIMEN

from bruiser.core.records.layouts import LAYOUTS, lay
from bruiser.core.records.legs import EYE, OTHER, SECOND_EYE, STANDING, legs_of
from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.figures.direction_chart import (
    DirectionMark,
    DirectionRow,
    direction_figure,
)
from bruiser.figures.display import Box, Disc, Line, Text
from bruiser.figures.strip import StripState, strip_figure
from bruiser.ui.kit.live_plot import LivePlot
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.findings.keys import GAVE_KEYS, LEVEL_KEYS, LEVEL_OF
from bruiser.ui.stations.pull.shown import strip_notes


def test_two_thousand_specimens_with_their_strips_are_scrolled(dressed, qtbot):
    """With a strip in every row; how fast is measured by ``./run bench``."""
    table = RowsTable("q", "queue", ("code", "what", "state"), (1.0, 3.0, 1.3))
    qtbot.addWidget(table)
    specimens = [replace(SPECIMEN, layout_key=key) for key in LAYOUTS]
    table.draw_strips(1, lambda key: specimens[int(key) % len(specimens)])
    table.resize(300, 720)
    table.show_rows([(str(n), (f"S-{n}", "Bowline, both ends", "planned")) for n in range(2_000)])
    table.show()
    qtbot.waitExposed(table)
    bar = table.verticalScrollBar()
    assert bar.maximum() > 1_900
    for _ in range(40):
        bar.setValue(bar.value() + 12)
        table.viewport().repaint()
    row = table.rowAt(100)
    assert row > 100
    picture = table.grab().toImage()
    area = table.visualRect(table.model().index(row, 1))
    header = table.horizontalHeader().height()
    y = area.bottom() - 14 + header
    colours = {picture.pixelColor(x, y).name() for x in range(area.left() + 8, area.right() - 8)}
    assert len(colours) > 3


@pytest.mark.parametrize("layout", [*LAYOUTS, "edge"])
def test_every_strip_draws_its_places_its_keys_and_its_tails(layout):
    made = lay("loop_single", over_edge=True) if layout == "edge" else LAYOUTS[layout]
    notes = {t.key: "of 90 mm" for t in made.tails}
    drawn = {t.key: 0.5 for t in made.tails}
    figure = strip_figure(made, 180.0, 40.0, StripState(tail_notes=notes, drawn=drawn, keys=True))
    spots = {s.key for s in figure.spots}
    assert spots >= {p.key for p in made.places}
    assert {s.key for s in figure.spots if s.drags} == {f"drawn:{t.key}" for t in made.tails}
    words = [s.text for s in figure.shapes if isinstance(s, Text)]
    assert words.count("of 90 mm") == len(made.tails)
    assert all(str(n) in words for n in range(1, len(made.places) + 1))
    for s in figure.shapes:
        points = s.points if isinstance(s, Line) else ((s.x, s.y),)
        assert all(-3 <= x <= 183 and -3 <= y <= 43 for x, y in points)


def test_a_specimen_that_is_drawn_out_has_a_longer_span():
    short = strip_figure(LAYOUTS["loop_pair"], 180.0, 40.0, StripState())
    long = strip_figure(LAYOUTS["loop_pair"], 180.0, 40.0, StripState(stretched=0.5))
    width = {
        name: next(s.width for s in figure.spots if s.key == "span")
        for name, figure in (("short", short), ("long", long))
    }
    assert width["long"] > 1.2 * width["short"]
    notes, stretched = strip_notes(SPECIMEN, None, UnitChoice())
    assert notes == {"tail_a": "tail 100 mm", "tail_b": "tail 110 mm"}
    assert stretched == 0.0


def test_dragging_tells_how_far_and_does_not_tap(dressed, qtbot):
    view, taps, drags = StripView("s", tappable=True), [], []
    qtbot.addWidget(view)
    view.resize(700, 150)
    view.show()
    view.show_strip(
        LAYOUTS["loop_single"], StripState(tail_notes={"tail_a": "x"}, drawn={"tail_a": 0.0})
    )
    view.spot_tapped.connect(taps.append)
    view.spot_dragged.connect(lambda key, share: drags.append((key, share)))
    middle = view.spot_centre("drawn:tail_a").toPoint()
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=middle)
    qtbot.mouseMove(view, middle + QPoint(400, 0))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=middle + QPoint(-400, 0))
    assert taps == []
    assert [key for key, _ in drags] == ["drawn:tail_a"] * len(drags)
    assert drags[-1][1] == 0.0
    assert any(share == 1.0 for _, share in drags)
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.spot_centre("span").toPoint())
    assert taps == ["span"]


@pytest.mark.parametrize(
    ("words", "legs"),
    [
        ("end to end", {STANDING, OTHER}),
        ("end to end, with loss", {STANDING, OTHER}),
        ("end to end with the eye loaded", {STANDING, OTHER, EYE}),
        ("eye against one end", {STANDING, EYE}),
        ("both ends against the eye", {STANDING, OTHER, EYE}),
        ("ring load", {EYE}),
        ("one eye at a time, unequal", {STANDING, EYE}),
        ("both eyes together", {STANDING, EYE, SECOND_EYE}),
        ("standing part away from a ring", {STANDING}),
        ("both parts loaded together", {STANDING, OTHER}),
    ],
)
def test_the_legs_follow_the_words_of_a_direction(words, legs):
    assert legs_of(words) == legs


def test_the_direction_chart_marks_by_shape_and_says_what_was_not_tested():
    marks = (
        DirectionMark(key="a", share=1.0, gave=Gave.BROKE, words="S-1: broke"),
        DirectionMark(key="b", share=0.5, gave=Gave.CAME_OUT, words="S-2: came out"),
        DirectionMark(key="c", share=0.7, gave=Gave.STOPPED, words="S-3: outlasted"),
    )
    rows = [
        DirectionRow(
            "end to end", legs_of("end to end"), ((marks, "held 2 of 3"), ((), "not tested"))
        ),
    ]
    figure = direction_figure(("N6", "P8"), rows, 220.0, "0 to 9 kN")
    assert [s.key for s in figure.spots] == ["a", "b", "c"]
    x = {s.key: s.x for s in figure.spots}
    assert x["b"] < x["c"] < x["a"]
    kinds = [type(s) for s in figure.shapes]
    assert kinds.count(Disc) == 2
    assert kinds.count(Box) == 1
    assert ("end to end", "P8", "not tested") in figure.rows


def test_slips_are_marked_where_they_happened(dressed, qtbot):
    import numpy as np

    plot = LivePlot("p")
    qtbot.addWidget(plot)
    x, y = np.arange(50.0), np.arange(50.0) * 2
    plot.show_slips(x, y, [10, 20, 99])
    px, py = plot._slips.getData()
    assert list(px) == [10, 20]
    assert list(py) == [20, 40]
    y[-1] = np.nan
    plot.show_trace(x, y)
    assert plot._tip.getData()[0][0] == 48


def test_no_key_of_the_findings_means_two_things():
    keys = [*LEVEL_KEYS.values(), *GAVE_KEYS.values(), "M", "U", *"123456789"]
    assert len(set(keys)) == len(keys)
    assert len(LEVEL_OF) == len(LEVEL_KEYS)
