"""A chart in its frame: table, copies, files, zoom and panning; large charts in pieces."""

import csv
import threading
import time

import numpy as np
import pypdfium2
import pytest
from openpyxl import load_workbook
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QGuiApplication, QImage, QPainter, QPixmap

from bruiser.core.progress import Cancelled, no_progress
from bruiser.figures.display import Disc, Figure, Line, Pen, Spot, Text
from bruiser.ui.canvas.figure_view import FigureView, paint_figure, paint_shape
from bruiser.ui.canvas.tiles import MANY, TILE_PX, Tiles, reach_of
from bruiser.ui.kit.chart_frame import ChartFrame
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme.theme import theme

SHAPES = (
    Disc(20, 20, 5, fill="plum"),
    Line(((0, 0), (90, 40)), "ink", width=0.4),
    Text(40, 30, "words"),
)


def small(width, height):
    spots = (Spot(key="p1", x=10, y=10, width=20, height=20, label="a pull"),)
    rows = (("a", "1"), ("b, c", "2"))
    return Figure(
        width=width,
        height=height,
        shapes=SHAPES,
        spots=spots,
        title="A chart",
        header=("what", "n"),
        rows=rows,
        keys=("p1", ""),
    )


def crowd(count, columns=100):
    pen = Pen()
    for n in range(count):
        x, y = 4.0 + 3.0 * (n % columns), 4.0 + 3.0 * (n // columns)
        pen.add(Disc(x, y, 1.0, fill="plum"))
    return Figure(
        width=310,
        height=3.0 * (count // columns) + 10,
        shapes=tuple(pen.shapes),
        spots=(),
        title="A crowd",
    )


@pytest.fixture
def frame(dressed, qtbot):
    made = ChartFrame("test.chart")
    qtbot.addWidget(made)
    made.resize(700, 420)
    made.show()
    qtbot.waitExposed(made)
    return made


def test_the_chart_is_a_table_whose_rows_lead_where_the_marks_do(qtbot, frame):
    tapped = []
    frame.tapped.connect(tapped.append)
    frame.show_chart(small)
    qtbot.mouseClick(frame.as_table, Qt.MouseButton.LeftButton)
    assert frame.table.isVisible()
    assert not frame.view.isVisible()
    frame.table.selectRow(0)
    frame.table.selectRow(1)
    assert tapped == ["p1"]
    qtbot.mouseClick(frame.as_table, Qt.MouseButton.LeftButton)
    assert frame.view.isVisible()


def test_a_copy_holds_a_picture_svg_and_the_table(qtbot, frame):
    told = []
    frame.told.connect(told.append)
    frame.show_chart(small)
    qtbot.mouseClick(frame.copy, Qt.MouseButton.LeftButton)
    data = QGuiApplication.clipboard().mimeData()
    assert data.text() == "what\tn\na\t1\nb, c\t2"
    assert not QImage(data.imageData()).isNull()
    assert b"<svg" in bytes(data.data("image/svg+xml"))
    assert told[0].startswith("Copied")


@pytest.mark.parametrize("name", ["chalk", "pitch"])
def test_files_are_written_and_read_back(tmp_path, dressed, frame, name):
    theme().apply(dressed, name)
    told = []
    frame.told.connect(told.append)
    frame.show_chart(small)
    for kind in ("csv", "svg", "png", "xlsx", "pdf"):
        frame.save(tmp_path / f"chart.{kind}")
    sheet = load_workbook(tmp_path / "chart.xlsx").active
    assert [[c.value for c in row] for row in sheet.rows] == [["what", "n"], ["a", 1], ["b, c", 2]]
    assert sheet.freeze_panes == "A2"
    page = pypdfium2.PdfDocument(tmp_path / "chart.pdf")[0]
    assert page.get_width() == pytest.approx(frame.figure.width * 72 / 25.4, abs=1.5)
    assert len(np.unique(page.render(scale=1).to_numpy())) > 5
    with (tmp_path / "chart.csv").open(newline="") as file:
        assert list(csv.reader(file)) == [["what", "n"], ["a", "1"], ["b, c", "2"]]
    assert (tmp_path / "chart.svg").read_text().startswith("<svg")
    image = QImage(str(tmp_path / "chart.png"))
    assert image.width() > frame.view.width()
    assert image.pixelColor(3, image.height() - 3) == theme().colour("surface")
    frame.save(tmp_path / "plain")
    assert (tmp_path / "plain.svg").exists()
    frame.save(tmp_path / "nowhere" / "chart.csv")
    assert "was not written" in told[-1]
    theme().apply(dressed, "chalk")


def test_a_wider_chart_scrolls_and_is_dragged_about(qtbot, frame):
    frame.show_chart(lambda w, h: small(w, h))
    wide = frame.view.width()
    frame.zoom_by(2.0)
    assert frame.view.width() == pytest.approx(2 * wide, rel=0.05)
    bar = frame.pane.horizontalScrollBar()
    start, view = bar.value(), frame.view
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(400, 200))
    for x in (380, 340, 300):
        qtbot.mouseMove(view, QPoint(x, 200))
    frame.pane.move_by(QPoint(60, 0))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
    assert bar.value() >= start + 60
    frame.zoom_by(0.01)
    assert frame.view.width() == pytest.approx(wide, rel=0.05)


def test_a_drag_over_a_mark_is_no_tap(qtbot, frame):
    tapped = []
    frame.tapped.connect(tapped.append)
    frame.show_chart(small)
    spot = frame.view.spot_centre("p1").toPoint()
    qtbot.mousePress(frame.view, Qt.MouseButton.LeftButton, pos=spot - QPoint(30, 0))
    qtbot.mouseRelease(frame.view, Qt.MouseButton.LeftButton, pos=spot)
    assert tapped == []
    qtbot.mouseClick(frame.view, Qt.MouseButton.LeftButton, pos=spot)
    assert tapped == ["p1"]


def test_pieces_look_like_the_whole(dressed, qtbot):
    figure = crowd(3_000)
    view = FigureView("test.crowd")
    qtbot.addWidget(view)
    view.show_figure(figure)
    scale = theme().px(1)
    view.resize(round(figure.width * scale), round(figure.height * scale))
    view.setStyleSheet("background: white")
    whole = QPixmap(view.size())
    whole.fill(Qt.GlobalColor.white)
    painter = QPainter(whole)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_figure(painter, figure, scale)
    painter.end()
    pieces = QPixmap(view.size())
    pieces.fill(Qt.GlobalColor.white)
    assert len(figure.shapes) > MANY
    painter = QPainter(pieces)
    view._paint_tiles(painter, view._tiled(scale), QRect(QPoint(0, 0), view.size()))
    painter.end()
    one, two = whole.toImage(), pieces.toImage()
    step = TILE_PX // 7
    for x in range(0, one.width(), step):
        for y in range(0, one.height(), step):
            a, b = one.pixelColor(x, y), two.pixelColor(x, y)
            assert abs(a.lightness() - b.lightness()) <= 3, (x, y)


def test_reach_holds_the_whole_shape():
    assert reach_of(Disc(10, 10, 4))[0] < 6
    assert reach_of(Disc(10, 10, 4))[2] > 14
    left, _, right, _ = reach_of(Text(50, 10, "some words", anchor="end"))
    assert left < 50 - 15
    assert right > 50


def test_ten_thousand_marks_are_panned_and_painted(frame):
    """How fast is measured by ``./run bench``."""
    figure = crowd(10_000, 200)
    figure = Figure(
        width=620, height=figure.height, shapes=figure.shapes, spots=(), title=figure.title
    )
    frame.show_chart(lambda *_: figure)
    image = QImage(frame.pane.viewport().size(), QImage.Format.Format_ARGB32_Premultiplied)
    seen = set()
    for n in range(6):
        frame.pane.move_by(QPoint(9 if n < 3 else -5, 60))
        frame.pane.viewport().render(image)
        seen.add(bytes(image.constBits().asarray(image.sizeInBytes())))
    assert len(seen) > 1


def test_long_work_is_watched_and_can_be_stopped(qtbot):
    runner, seen, got, ended = TaskRunner(), [], [], []

    def work(progress):
        try:
            for n in range(2_000):
                progress(n, 2_000)
                time.sleep(0.001)
        except Cancelled:
            ended.append(True)
            raise
        return "done"

    runner.run_watched(
        "long", work, got.append, got.append, lambda done, whole: seen.append((done, whole))
    )
    qtbot.waitUntil(lambda: len(seen) > 3)
    runner.cancel("long")
    qtbot.waitUntil(lambda: not runner.busy, timeout=3_000)
    runner.close()
    assert ended == [True]
    assert got == []
    assert [d for d, _ in seen] == sorted(d for d, _ in seen)


def test_newer_work_ends_what_is_under_way(qtbot):
    runner, got, steps = TaskRunner(), [], []

    def work(progress):
        for n in range(100_000):
            steps.append(n)
            progress(n, 100_000)
            time.sleep(0.001)
        return "old"

    runner.run_watched("key", work, got.append, got.append, no_progress)
    qtbot.wait(50)
    runner.run("key", lambda: "new", got.append, got.append)
    qtbot.waitUntil(lambda: not runner.busy, timeout=3_000)
    runner.close()
    assert got == ["new"]
    assert len(steps) < 100_000


def words_and_marks(width, height):
    """A large chart with every kind of shape."""
    pen = Pen()
    for n in range(2_000):
        x, y = 3.0 + 5.0 * (n % 40), 4.0 + 5.0 * (n // 40)
        pen.add(Disc(x, y, 1.2, fill="plum"))
        pen.add(Text(x, y + 2, f"{n}"))
        pen.add(Line(((x, y), (x + 3, y + 1)), "ink", width=0.3))
    return Figure(
        width=width, height=260, shapes=tuple(pen.shapes), spots=(), title=f"At {width:.0f}"
    )


def test_a_large_chart_is_described_and_painted_on_a_worker(dressed, qtbot):
    tasks = TaskRunner()
    aside, at_once = ChartFrame("aside", tasks), ChartFrame("at.once")
    threads = []

    def draw(width, height):
        threads.append(threading.current_thread())
        return words_and_marks(width, height)

    for frame in (aside, at_once):
        qtbot.addWidget(frame)
        frame.resize(700, 400)
        frame.show()
    aside.show_chart(draw, large=True)
    assert aside.figure is None
    at_once.show_chart(words_and_marks)
    qtbot.waitUntil(lambda: not tasks.busy)
    assert threading.main_thread() not in threads
    assert aside.figure == at_once.figure
    for down in (0, 900, 300):
        for frame in (aside, at_once):
            frame.pane.verticalScrollBar().setValue(down)
            frame.repaint()
        qtbot.waitUntil(lambda: not tasks.busy)
        seen = [frame.pane.viewport().grab().toImage() for frame in (aside, at_once)]
        assert seen[0] == seen[1]
    tasks.close()


def test_of_a_chart_resized_often_only_the_last_is_described(dressed, qtbot):
    tasks, widths = TaskRunner(), []
    frame = ChartFrame("aside", tasks)
    qtbot.addWidget(frame)
    frame.resize(600, 400)
    frame.show()

    def draw(width, height):
        time.sleep(0.05)
        widths.append(width)
        return words_and_marks(width, height)

    frame.show_chart(draw, large=True)
    for width in range(610, 900, 10):
        frame.resize(width, 400)
        frame.repaint()
    qtbot.waitUntil(lambda: not tasks.busy)
    assert len(widths) < 10
    assert frame.figure.title == f"At {widths[-1]:.0f}"
    frame.show_chart(None)
    assert frame.view.isHidden()
    tasks.close()


def test_more_squares_than_are_kept_are_painted_once(dressed):
    calls = []

    def paint(painter, shape, scale):
        calls.append(shape)
        paint_shape(painter, shape, scale)

    figure = crowd(3_000)
    tiles = Tiles(figure, 40.0, 1.0, paint)
    whole = QRect(0, 0, round(figure.width * 40), round(figure.height * 40))
    assert len(tiles.missing(whole)) > 120
    tiles.take(tiles.painted(tiles.missing(whole)))
    assert calls
    assert not tiles.missing(whole)
