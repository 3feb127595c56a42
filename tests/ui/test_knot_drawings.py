"""Drawings on screen: faces, the other hand, the rope followed, and knots that have none."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from bruiser.catalogue.drawings import drawn, drawn_keys
from bruiser.figures.display import Disc, Line
from bruiser.figures.drawn_knots import NO_DRAWING
from bruiser.figures.knot_drawing import Facing, knot_figure
from bruiser.ui.kit.knot_panel import KnotPanel

FAST = [k for k in drawn_keys() if len(drawn(k).layout.crossings) < 40]


@pytest.fixture
def panel(dressed, qtbot):
    made = KnotPanel("test", 190)
    qtbot.addWidget(made)
    made.resize(420, 260)
    made.show()
    qtbot.waitExposed(made)
    return made


def points(figure):
    return [p for s in figure.shapes if isinstance(s, Line) for p in s.points]


@pytest.mark.parametrize("key", FAST)
@pytest.mark.parametrize("look", [Facing(), Facing(back=True), Facing(mirrored=True)])
def test_a_knot_fits_its_page_and_every_crossing_can_be_asked(key, look):
    layout = drawn(key).layout
    figure = knot_figure(layout, 80.0, 60.0, key, look)
    ropes = [s for s in figure.shapes if isinstance(s, Line) and s.fill in ("hemp", "flax")]
    xs, ys = zip(*[p for s in ropes for p in s.points], strict=True)
    assert min(xs) > 0
    assert max(xs) < 80
    assert min(ys) > 0
    assert max(ys) < 60
    assert len(figure.spots) == len(figure.rows) == len(layout.crossings)


def test_front_and_other_hand_are_left_for_right_of_one_another():
    layout = drawn("bowline").layout
    front = knot_figure(layout, 80.0, 60.0, "x", Facing())
    hand = knot_figure(layout, 80.0, 60.0, "x", Facing(mirrored=True))
    turned = [(80.0 - x, y) for x, y in points(hand)]
    for one, two in zip(sorted(points(front)), sorted(turned), strict=True):
        assert one == pytest.approx(two, abs=1e-6)


def test_from_behind_what_was_over_is_painted_first():
    layout = drawn("overhand-stopper").layout
    front = knot_figure(layout, 80.0, 60.0, "x", Facing())
    back = knot_figure(layout, 80.0, 60.0, "x", Facing(back=True))
    middles = [
        [sum(p[0] for p in s.points) / len(s.points) for s in f.shapes
         if isinstance(s, Line) and s.fill == "hemp-edge"]
        for f in (front, back)
    ]  # fmt: skip
    turned = [80.0 - x for x in middles[1]]
    assert sorted(middles[0]) == pytest.approx(sorted(turned))
    assert middles[0] != pytest.approx(turned)


def test_a_rope_followed_grows_and_a_ringed_crossing_is_ringed():
    layout = drawn("bowline").layout
    drawn_so_far = [
        len(points(knot_figure(layout, 80.0, 60.0, "x", Facing(upto=share))))
        for share in (0.1, 0.4, 0.7, 1.0)
    ]
    assert drawn_so_far == sorted(drawn_so_far)
    assert len(set(drawn_so_far)) == 4
    ringed = knot_figure(layout, 80.0, 60.0, "x", Facing(ringed=(0, 2)))
    assert sum(isinstance(s, Disc) and s.stroke == "brick" for s in ringed.shapes) == 2


def test_the_panel_turns_mirrors_and_follows_with_the_keys(panel):
    panel.show_knot("bowline", {}, "Bowline")
    whole = panel.view.grab().toImage()
    panel.other_hand.click()
    assert panel.view.grab().toImage() != whole
    panel.other_hand.setChecked(False)
    assert panel.view.grab().toImage() == whole
    panel.face.chip("back").click()
    assert panel.view.grab().toImage() != whole
    panel.face.chip("front").click()
    panel.follow.setFocus()
    before = panel.follow.value()
    for _ in range(30):
        QTest.keyClick(panel.follow, Qt.Key.Key_Left)
    assert panel.follow.value() == before - 30
    assert panel.view.grab().toImage() != whole
    panel.show_knot("bowline", {}, "Bowline")
    assert panel.follow.value() == before, "another knot is shown whole"


def test_a_knot_without_a_drawing_says_so_and_shows_none(panel):
    panel.show_knot("munter-lockoff", {}, "Munter")
    assert drawn("munter-lockoff") is None
    assert not panel.view.isVisible()
    assert not panel.controls.isVisible()
    assert panel.words.text() == NO_DRAWING
    panel.show_knot("bowline", {"finish": "half-hitch"}, "Bowline, half hitch")
    assert panel.view.isVisible()
    assert "without what was chosen for: finish" in panel.words.text()
