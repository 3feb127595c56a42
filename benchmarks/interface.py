"""Times what a person sees: panning, zooming, scrolling, opening a long trace, a large plan."""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtWidgets import QApplication

from bruiser.core.records.layouts import LAYOUTS
from bruiser.figures.pyramid import Pyramid
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.trace_plot import TracePlot
from bruiser.ui.theme.theme import dress

FRAME_MS = 1000 / 30


def median_ms(act: Callable[[int], object], times: int = 40) -> float:
    """Median duration of an act in millisecond; it is handed its number."""
    taken = []
    for n in range(times):
        began = time.perf_counter()
        act(n)
        taken.append(time.perf_counter() - began)
    return 1000 * statistics.median(taken)


def scroll_specimens() -> float:
    """A page down of 2,000 specimens with their strips."""
    table = RowsTable("q", "queue", ("code", "what", "state"), (1.0, 3.0, 1.3))
    layouts = list(LAYOUTS.values())
    table.draw_strips(1, lambda key: layouts[int(key) % len(layouts)])
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

    return median_ms(page)


def zoom_trace() -> float:
    """Zooming into a million samples."""
    plot = TracePlot("trace")
    plot.resize(800, 400)
    x = np.linspace(0, 200, 1_000_000)
    plot.show_trace(x, 40 * x, "travel (mm)", "load (N)")

    def zoom(n: int) -> None:
        plot.zoom_to(2.0 * n, 2.0 * n + 60 / (n + 1))
        plot.grab()

    return median_ms(zoom, 30)


def pan_pyramid() -> float:
    """What a window of a million samples takes before it is drawn."""
    pyramid = Pyramid(np.random.default_rng(1).standard_normal(1_000_000))
    return median_ms(lambda n: pyramid.window(1_000 * n, 500_000 + 1_000 * n, 1_000), 200)


def main() -> None:
    app = QApplication([])
    dress(app)
    rows = {
        "a page down of 2,000 specimens": scroll_specimens,
        "zooming into a million samples": zoom_trace,
        "thinning a million samples out": pan_pyramid,
    }
    for name, measure in rows.items():
        took = measure()
        print(f"{took / FRAME_MS:9.2f} x   a frame at 30 Hz: {name} ({took:.2f} ms)")


if __name__ == "__main__":
    main()
