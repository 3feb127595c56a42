"""Decides what the load-direction matrix shows."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal

from bruiser.figures.direction_chart import DirectionRow
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.findings.directions import (
    DirectionMatrix,
    direction_matrix,
    direction_rows,
    most_n,
    say_directions,
)
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


class DirectionsPresenter(Desk):
    """One knot's directions."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.knot_id = ""
        self._matrix: DirectionMatrix | None = None

    def take_up(self, logbook: Logbook, knot_id: str = "") -> None:
        """The logbook changed; `knot_id` is the knot on the bench, if it knows directions."""
        self.logbook = logbook
        known = [key for key, _ in self.knots()]
        if knot_id in known and not self.knot_id:
            self.knot_id = knot_id
        if self.knot_id not in known:
            self.knot_id = known[0] if known else ""
        self._look()

    def pick(self, knot_id: str) -> None:
        """Look at another knot."""
        self.knot_id = knot_id
        self._look()

    def _look(self) -> None:
        logbook = self.logbook
        there = logbook is not None and bool(self.knot_id)
        self._matrix = direction_matrix(logbook, self.knot_id) if there and logbook else None
        self.changed.emit()

    def knots(self) -> list[tuple[str, str]]:
        """Knots with more than one direction, the midline loops first."""
        logbook = self.logbook
        if logbook is None:
            return []
        found = []
        for knot in logbook.knots_in_play:
            structure = logbook.catalogue.get(knot.structure)
            if structure is not None and len(structure.directions) > 1:
                found.append((structure.family != "midline loop", knot.title, knot.id))
        return [(key, title) for _, title, key in sorted(found)]

    def most(self) -> str:
        """The load at the right end of every cell's axis, in words."""
        found = 1.0 if self._matrix is None else most_n(self._matrix)
        return f"0 to {self.units.force_text(found)}"

    def rows(self) -> tuple[tuple[str, ...], list[DirectionRow]]:
        """Lots across, directions down."""
        return ((), []) if self._matrix is None else direction_rows(self._matrix, self.units)

    def words(self) -> str:
        """What can be said of it, and what cannot."""
        if self._matrix is None:
            return "No knot in play knows more than one direction."
        return say_directions(self._matrix)
