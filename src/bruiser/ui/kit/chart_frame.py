"""A chart with what every chart has: the same as a table, a copy, files, and room to move in."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import (
    QBuffer,
    QIODevice,
    QMarginsF,
    QMimeData,
    QPoint,
    QRect,
    QRectF,
    QSizeF,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import (
    QGuiApplication,
    QImage,
    QMouseEvent,
    QPageSize,
    QPainter,
    QPdfWriter,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.core.progress import Progress, no_progress
from bruiser.figures.display import Figure
from bruiser.formats.figure_files import (
    figure_csv,
    figure_svg,
    figure_tsv,
    figure_workbook,
    on_ground,
)
from bruiser.ui.canvas.figure_view import FigureView, paint_figure, paint_shape
from bruiser.ui.canvas.tiles import Place, Tiles
from bruiser.ui.kit.parts import button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.theme import tokens
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

Draw = Callable[[float, float], Figure]
_SHARPNESS = 2.0
_LEAST_ZOOM, _MOST_ZOOM = 1.0, 8.0
FILES = "Vector picture (*.svg);;Page (*.pdf);;Picture (*.png);;Table (*.csv);;Workbook (*.xlsx)"


def _width(column: int, figure: Figure) -> float:
    """A share of the table's width: by the longest of the first texts of a column."""
    texts = [figure.header[column], *(row[column] for row in figure.rows[:60])]
    return float(min(26, max(6, *(len(t) for t in texts))))


class Pane(QScrollArea):
    """Holds a figure that may be larger than the pane: it scrolls, and is dragged about."""

    zoomed = pyqtSignal(float)
    resized = pyqtSignal()

    def __init__(self, figure: FigureView, name: str) -> None:
        super().__init__()
        self.setObjectName(f"{name}.pane")
        self.setWidget(figure)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        port = self.viewport()
        if port is not None:
            port.setAutoFillBackground(False)
        figure.setAutoFillBackground(False)
        self._held: QPoint | None = None

    @override
    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is not None:
            self._held = a0.position().toPoint()

    @override
    def mouseReleaseEvent(self, a0: QMouseEvent | None) -> None:
        self._held = None

    @override
    def mouseMoveEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None or self._held is None:
            return
        here = a0.position().toPoint()
        self.move_by(self._held - here)
        self._held = here

    def move_by(self, way: QPoint) -> None:
        """Move the view over the figure."""
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        if across is not None and down is not None:
            across.setValue(across.value() + way.x())
            down.setValue(down.value() + way.y())

    @override
    def wheelEvent(self, a0: QWheelEvent | None) -> None:
        if a0 is not None and a0.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoomed.emit(1.25 if a0.angleDelta().y() > 0 else 0.8)
            a0.accept()
            return
        super().wheelEvent(a0)

    @override
    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self.resized.emit()


class ChartFrame(QWidget):
    """Shows a chart that is drawn to its size.

    Parameters
    ----------
    tasks : TaskRunner, optional
        Describes and paints large charts off the interface thread; what was there stays until then.
    """

    tapped = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, name: str, tasks: TaskRunner | None = None) -> None:
        super().__init__()
        self.setObjectName(f"{name}.frame")
        self._name = name
        self._tasks = tasks
        self._large = False
        self._draw: Draw | None = None
        self._zoom = 1.0
        self.view = FigureView(name, tappable=True)
        self.pane = Pane(self.view, name)
        self.table_box = ShownStack()
        self._table: RowsTable | None = None
        self._header: tuple[str, ...] = ()
        self.as_table = button("Table", f"{name}.table", "chip")
        self.as_table.setCheckable(True)
        self.as_table.setAccessibleName("Show the chart as a table")
        self.copy = button("Copy", f"{name}.copy", "chip")
        self.copy.setAccessibleName("Copy the chart")
        self.export = button("Export…", f"{name}.export", "chip")
        self.export.setAccessibleName("Export the chart")
        self.top = QHBoxLayout()
        self.top.setSpacing(SPACE["xs"])
        self.tools = QWidget()
        tools = QHBoxLayout(self.tools)
        tools.setContentsMargins(0, 0, 0, 0)
        tools.setSpacing(SPACE["xs"])
        for chip in (self.as_table, self.copy, self.export):
            tools.addWidget(chip)
        self.top.addStretch(1)
        self.top.addWidget(self.tools)
        self._pages = ShownStack()
        self._pages.addWidget(self.pane)
        self._pages.addWidget(self.table_box)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["xs"])
        column.addLayout(self.top)
        column.addWidget(self._pages, 1)
        self.view.spot_tapped.connect(self.tapped)
        self.pane.resized.connect(self._lay)
        self.pane.zoomed.connect(self.zoom_by)
        self.as_table.toggled.connect(self._on_as_table)
        self.copy.clicked.connect(self.copy_chart)
        self.export.clicked.connect(self._on_export)

    @property
    def figure(self) -> Figure | None:
        """The figure shown."""
        return self.view.figure

    @property
    def table(self) -> RowsTable | None:
        """The chart as a table, once it was asked for."""
        return self._table

    def show_chart(self, draw: Draw | None, *, large: bool = False) -> None:
        """Show a chart; `draw` gets the room in millimetre and returns the figure."""
        self._draw, self._large = draw, large
        self.view.paint_aside = self._paint_aside if large and self._tasks else None
        self._lay()

    def zoom_by(self, factor: float) -> None:
        """Make the chart wider or narrower than its pane."""
        self._zoom = min(_MOST_ZOOM, max(_LEAST_ZOOM, self._zoom * factor))
        self._lay()

    def _lay(self) -> None:
        port = self.pane.viewport()
        if self._draw is None or port is None:
            self.view.hide()
            return
        self.view.show()
        scale = theme().px(1)
        room, bar = self.pane.maximumViewportSize(), self.pane.verticalScrollBar()
        # Room is kept for a bar beside it, so that it need not be drawn twice.
        width = room.width() - (0 if bar is None else bar.sizeHint().width())
        height = room.height()
        wide, high = max(width, 240) * self._zoom / scale, max(height, 80) / scale
        if self._large and self._tasks is not None:
            self._lay_aside(self._tasks, self._draw, (wide, high), (width, height))
        else:
            self._put(self._draw(wide, high), None, (width, height))

    def _put(self, figure: Figure, tiles: Tiles | None, room: tuple[int, int]) -> None:
        """Show a figure that was described for some room, in pixel."""
        scale = theme().px(1)
        self.view.show_figure(figure, tiles)
        self.view.resize(
            max(room[0], round(figure.width * scale)),
            max(room[1] - 1, round(figure.height * scale)),
        )
        if self.as_table.isChecked():
            self._fill_table(figure)

    def _lay_aside(
        self,
        tasks: TaskRunner,
        draw: Draw,
        room_mm: tuple[float, float],
        room: tuple[int, int],
    ) -> None:
        """Describe the chart, and paint what of it is seen, on a worker."""
        scale, ratio = theme().px(1), self.view.devicePixelRatioF()
        seen = self.view.visibleRegion().boundingRect().united(QRect(0, 0, *room))

        def work(progress: Progress) -> tuple[Figure, Tiles]:
            figure = draw(*room_mm)
            progress(0, 1)
            tiles = Tiles(figure, scale, ratio, paint_shape)
            tiles.take(tiles.painted(tiles.missing(seen)))
            return figure, tiles

        def received(made: tuple[Figure, Tiles]) -> None:
            if self._draw is draw:
                self._put(*made, room)

        tasks.run_watched(
            f"describe {self._name}", work, received, self._failed, no_progress, drawing=True
        )

    def _paint_aside(self, tiles: Tiles, places: list[Place]) -> None:
        """Paint squares that came into view on a worker."""

        def received(images: dict[Place, QImage]) -> None:
            tiles.take(images)
            self.view.update()

        assert self._tasks is not None
        self._tasks.run_watched(
            f"paint {self._name}",
            lambda _: tiles.painted(places),
            received,
            self._failed,
            no_progress,
            drawing=True,
        )

    def _failed(self, error: Exception) -> None:
        self.told.emit(f"The chart could not be drawn: {error}")

    def _on_as_table(self, shown: bool) -> None:
        if shown and self.figure is not None:
            self._fill_table(self.figure)
        self._pages.setCurrentIndex(int(shown))

    def _fill_table(self, figure: Figure) -> None:
        if self._table is None or self._header != figure.header:
            if self._table is not None:
                self.table_box.removeWidget(self._table)
                self._table.deleteLater()
            self._header = figure.header
            widths = [_width(n, figure) for n in range(len(figure.header))]
            self._table = RowsTable(f"{self._name}.rows", figure.title, figure.header, widths)
            self._table.chosen.connect(self._on_row_chosen)
            self.table_box.addWidget(self._table)
        keys = figure.keys or ("",) * len(figure.rows)
        pairs = zip(keys, figure.rows, strict=True)
        self._table.show_rows([(f"{n}|{key}", row) for n, (key, row) in enumerate(pairs)])

    def _on_row_chosen(self) -> None:
        keys = () if self._table is None else self._table.keys
        if len(keys) == 1 and (key := keys[0].partition("|")[2]):
            self.tapped.emit(key)

    def picture(self) -> QImage:
        """The chart as a picture on its own ground."""
        figure = (
            on_ground(self.figure)
            if self.figure is not None
            else Figure(width=1, height=1, shapes=())
        )
        scale = theme().px(1) * _SHARPNESS
        image = QImage(
            round(figure.width * scale),
            round(figure.height * scale),
            QImage.Format.Format_ARGB32_Premultiplied,
        )
        image.setDevicePixelRatio(_SHARPNESS)
        image.fill(theme().colour("surface"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(image.rect()))
        paint_figure(painter, figure, theme().px(1))
        painter.end()
        return image

    def pdf(self) -> bytes:
        """The chart as a page of its own size, drawn as lines and letters."""
        figure = on_ground(self.figure) if self.figure is not None else None
        if figure is None:
            return b""
        store = QBuffer()
        store.open(QIODevice.OpenModeFlag.WriteOnly)
        writer = QPdfWriter(store)
        size = QSizeF(figure.width, figure.height)
        writer.setPageSize(QPageSize(size, QPageSize.Unit.Millimeter))
        writer.setPageMargins(QMarginsF())
        writer.setTitle(figure.title)
        painter = QPainter(writer)
        # Fonts are laid out for the screen, and the whole scaled to the page.
        scale = theme().px(1)
        across = writer.width() / (figure.width * scale)
        painter.scale(across, across)
        paint_figure(painter, figure, scale)
        painter.end()
        return bytes(store.data().data())

    def svg(self) -> str:
        """The chart as SVG."""
        assert self.figure is not None
        return figure_svg(self.figure, tokens.THEMES[theme().name], tokens.TEXT_MM)

    def copy_chart(self) -> None:
        """Put the chart on the clipboard: as a picture, as SVG and as a table."""
        board = QGuiApplication.clipboard()
        if self.figure is None or board is None:
            return
        data = QMimeData()
        data.setImageData(self.picture())
        data.setData("image/svg+xml", self.svg().encode())
        data.setText(figure_tsv(self.figure))
        board.setMimeData(data)
        self.told.emit("Copied: the chart as a picture, and its table as text.")

    def _on_export(self) -> None:
        if self.figure is None:
            return
        offered = self.figure.title.lower().replace(",", "").replace(" ", "-")
        name, _ = QFileDialog.getSaveFileName(self, "Export the chart", f"{offered}.svg", FILES)
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the chart; the ending says as what: ``.svg``, ``.pdf``, ``.png``,
        ``.csv`` or ``.xlsx``.
        """
        if self.figure is None:
            return
        kind = path.suffix.lower()
        try:
            if kind == ".csv":
                path.write_text(figure_csv(self.figure), encoding="utf-8", newline="")
            elif kind == ".xlsx":
                path.write_bytes(figure_workbook(self.figure))
            elif kind == ".pdf":
                path.write_bytes(self.pdf())
            elif kind == ".png":
                if not self.picture().save(str(path), "PNG"):
                    raise OSError("the picture could not be written")
            else:
                path = path if kind == ".svg" else path.with_suffix(".svg")
                path.write_text(self.svg(), encoding="utf-8")
        except OSError as error:
            self.told.emit(f"{path.name} was not written: {error.strerror or error}.")
            return
        self.told.emit(f"Written: {path.name}.")
