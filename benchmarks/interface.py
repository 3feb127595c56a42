"""Times what a person sees: scrolling, zooming, panning."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from benchmarks.campaign import blank_specimen, large_campaign
from benchmarks.timing import Timing, median_seconds
from PyQt6.QtWidgets import QApplication, QWidget

from bruiser.core.records.layouts import LAYOUTS
from bruiser.figures.pyramid import Pyramid
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.trace_plot import TracePlot
from bruiser.ui.opening.goto import GoToDialog
from bruiser.ui.theme.theme import dress
from bruiser.workshop.course.finder import FoundPlaces, campaign_places

FRAME_S = 1 / 30


def scroll_specimens() -> float:
    """A page down of 2,000 specimens with their strips."""
    table = RowsTable("q", "queue", ("code", "what", "state"), (1.0, 3.0, 1.3))
    blank = blank_specimen()
    specimens = [replace(blank, layout_key=key) for key in LAYOUTS]
    table.draw_strips(1, lambda key: specimens[int(key) % len(specimens)])
    table.resize(300, 720)
    table.show_rows([(str(n), (f"S-{n}", "Bowline, both ends", "planned")) for n in range(2_000)])
    table.show()
    QApplication.processEvents()
    bar, port = table.verticalScrollBar(), table.viewport()
    assert bar is not None
    assert port is not None

    def page(_: int) -> None:
        bar.setValue(bar.value() + 12)
        port.repaint()

    return median_seconds(page, 40)


def zoom_trace() -> float:
    """Zooming into a million samples."""
    plot = TracePlot("trace")
    plot.resize(800, 400)
    x = np.linspace(0, 200, 1_000_000)
    plot.show_trace(x, 40 * x, "travel (mm)", "load (N)")

    def zoom(n: int) -> None:
        plot.zoom_to(2.0 * n, 2.0 * n + 60 / (n + 1))
        plot.grab()

    return median_seconds(zoom, 30)


def pan_pyramid() -> float:
    """What a window of a million samples takes before it is drawn."""
    pyramid = Pyramid(np.random.default_rng(1).standard_normal(1_000_000))
    return median_seconds(lambda n: pyramid.window(1_000 * n, 500_000 + 1_000 * n, 1_000), 200)


def go_to() -> float:
    """Go to, until it is seen, in a campaign of 10,500 specimens."""
    parent = QWidget()

    def open_it(n: int) -> None:
        dialog = GoToDialog(places, [], parent)
        dialog.show()
        QApplication.processEvents()
        dialog.line.setText(f"bow {n}")
        dialog.close()

    places = FoundPlaces(campaign_places(large_campaign()))
    return median_seconds(open_it, 20)


def timings() -> Iterator[Timing]:
    """What a person sees, beside one frame at 30 Hz."""
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    dress(app)
    rows = {
        "a page down of 2,000 specimens": scroll_specimens,
        "zooming into a million samples": zoom_trace,
        "Go to, and a word in it, over 10,500 specimens": go_to,
        "thinning a million samples out": pan_pyramid,
    }
    for name, measure in rows.items():
        yield Timing(name=name, took_s=measure(), beside_s=FRAME_S, beside="of a frame at 30 Hz")
