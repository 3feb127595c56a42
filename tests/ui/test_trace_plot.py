"""The trace plot with a million samples."""

import numpy as np
import pytest

from bruiser.ui.kit.trace_plot import TraceMark, TracePlot


@pytest.fixture
def plot(dressed, qtbot):
    made = TracePlot("t")
    qtbot.addWidget(made)
    made.resize(900, 500)
    made.show()
    return made


def test_a_million_samples_pan_and_zoom_with_few_drawn(plot, qtbot):
    n = 1_000_000
    x = np.linspace(0, 200, n)
    y = 40 * x + np.random.default_rng(1).standard_normal(n)
    plot.show_trace(x, y, "travel (mm)", "load (N)")
    plot.show_marks(
        (
            TraceMark(n - 1, "peak", "plum"),
            TraceMark(5, "begins", "muted"),
            TraceMark(-3, "", "ochre"),
        )
    )
    for k in range(30):
        plot.zoom_to(2.0 * k, 2.0 * k + 60 / (k + 1))
        drawn, _ = plot.drawn()
        assert len(drawn) < 20_000
    first, after = plot.seen()
    assert x[first] == pytest.approx(58.0, abs=0.01)
    assert x[after - 1] == pytest.approx(60.0, abs=0.01)
    plot.zoom_to(10.0, 10.01)
    drawn, _ = plot.drawn()
    assert len(drawn) < 60
    assert np.isin(drawn, x).all()


def test_a_trace_that_goes_back_is_shown_and_read_to_the_sample(plot, qtbot):
    x = np.concatenate([np.linspace(0, 10, 500), np.linspace(10, 4, 300)])
    y = np.concatenate([np.linspace(0, 5, 500), np.linspace(5, 1, 300)])
    plot.show_trace(x, y, "travel", "load")
    seen = []
    plot.read.connect(seen.append)
    plot.point_at(plot.sample_at(float(x[600]), float(y[600])))
    assert seen == [600]
    plot.zoom_to(4.0, 6.0)
    first, after = plot.seen()
    assert first < 250 < after
    assert after == 800
    plot.show_others([(x, 0.5 * y)])
    plot.show_whole()
    assert plot.sample_at(0.0, 0.0) == 0
    plot.show_trace(np.empty(0), np.empty(0), "", "")
    assert plot.sample_at(0.0, 0.0) == -1
