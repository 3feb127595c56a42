import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor

from bruiser.figures.display import Box, Disc, Figure, Line, Spot, Text
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.theme.theme import theme

FIGURE = Figure(
    width=100,
    height=50,
    shapes=(
        Box(0, 0, 40, 50, radius=0, fill="plum"),
        Disc(70, 25, 8, fill="ochre", stroke="ink", width=0.5),
        Line(((50, 5), (95, 5)), "brick", width=2.0),
        Line(((50, 40), (60, 48), (70, 40)), None, width=0.3, fill="moss", closed=True),
        Line(((80, 45), (95, 45)), "storm", width=1.0, dash=True),
        Text(
            2,
            20,
            "a very long label that cannot fit",
            style="strong",
            colour="on-plum",
            anchor="start",
            max_width=20,
        ),
    ),
    spots=(
        Spot(key="left", x=0, y=0, width=40, height=50, label="the left"),
        Spot(key="disc", x=60, y=15, width=20, height=20, label="the disc"),
    ),
    title="A figure",
)


@pytest.fixture
def view(dressed, qtbot):
    made = FigureView("test.figure", tappable=True)
    qtbot.addWidget(made)
    made.resize(round(theme().px(100)), round(theme().px(50)))
    made.show_figure(FIGURE)
    made.show()
    qtbot.waitExposed(made)
    yield made
    theme().apply(dressed, "chalk")


def colour_at(view, x, y):
    image = view.grab().toImage()
    return QColor(image.pixel(round(theme().px(x)), round(theme().px(y))))


@pytest.mark.parametrize("name", ["chalk", "pitch"])
def test_shapes_are_painted_where_they_are_in_the_themes_colours(dressed, view, name):
    theme().apply(dressed, name)
    for x, y, token in ((20, 45, "plum"), (70, 25, "ochre"), (70, 5, "brick"), (60, 44, "moss")):
        assert colour_at(view, x, y) == theme().colour(token), token


def test_a_tap_names_the_spot_and_empty_ground_names_none(qtbot, view):
    tapped = []
    view.spot_tapped.connect(tapped.append)
    for x, y in ((20, 25), (70, 25), (50, 30)):
        spot = QPoint(round(theme().px(x)), round(theme().px(y)))
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=spot)
    assert tapped == ["left", "disc"]


def test_the_keyboard_walks_the_spots_both_ways(qtbot, view):
    tapped = []
    view.spot_tapped.connect(tapped.append)
    view.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Left, Qt.Key.Key_Space):
        qtbot.keyClick(view, key)
    assert tapped == ["left", "disc"]
    view.grab()


def test_a_figure_is_named_for_who_cannot_see_it(view):
    assert view.accessibleName() == "A figure"
    assert view.spot_centre("disc").x() == pytest.approx(theme().px(70))
    with pytest.raises(ValueError, match="no spot"):
        view.spot_centre("nowhere")


def test_a_view_that_is_not_tappable_stays_silent(dressed, qtbot):
    still = FigureView("test.still")
    qtbot.addWidget(still)
    still.resize(400, 200)
    still.grab()
    still.show_figure(FIGURE)
    tapped = []
    still.spot_tapped.connect(tapped.append)
    qtbot.mouseClick(still, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert tapped == []
