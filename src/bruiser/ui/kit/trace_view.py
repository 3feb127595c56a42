"""A stored trace as a widget: what was recorded and what the analysis read off it."""

from __future__ import annotations

from bruiser.core.trace import TRACE_END_WORDS, Trace, TraceResult
from bruiser.core.units import UnitChoice, si_factor
from bruiser.figures.trace_chart import TraceNote, trace_figure
from bruiser.ui.canvas.figure_view import FigureView


class TraceView(FigureView):
    """Shows a trace with its first slip and its peak."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self._trace: Trace | None = None
        self._seen: TraceResult | None = None
        self._units = UnitChoice()
        self.resized.connect(self._draw)
        self.setMinimumHeight(110)

    def show_trace(self, trace: Trace | None, seen: TraceResult | None, units: UnitChoice) -> None:
        """Show a trace; None clears it."""
        self._trace, self._seen, self._units = trace, seen, units
        self._draw()

    def _draw(self) -> None:
        if self._trace is None or self.width() < 60:
            return
        force = si_factor(self._units.force, "force")
        length = si_factor(self._units.length, "length")
        zero = 0.0 if self._seen is None else self._seen.zero_n
        x = self._trace.travel_m / length
        y = (self._trace.load_n - zero) / force
        notes = []
        if self._seen is not None and len(x):
            first = next((s for s in self._seen.slips if s.load_n == self._seen.first_slip_n), None)
            if first is not None:
                where = float(x[first.index])
                notes.append(
                    TraceNote(
                        x=where,
                        y=first.load_n / force,
                        words="first slip",
                        colour="ochre",
                        right=False,
                    )
                )
            end = TRACE_END_WORDS[self._seen.end].split(",")[0]
            peak = float(x[self._seen.peak_index])
            notes.append(TraceNote(x=peak, y=self._seen.peak_n / force, words=end, colour="plum"))
        width, height = self.page_mm()
        self.show_figure(
            trace_figure(
                x,
                y,
                tuple(notes),
                width,
                height,
                x_title=f"travel ({self._units.length})",
                y_title=f"load ({self._units.force})",
                title="Load against travel",
            )
        )
