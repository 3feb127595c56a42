"""Decides what the load-direction matrix shows."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal

from bruiser.core.records import Gave
from bruiser.figures.direction_chart import DirectionMark, DirectionRow, legs_of
from bruiser.ui.runtime.desk import Desk
from bruiser.workshop.directions import DirectionCell, DirectionMatrix, direction_matrix
from bruiser.workshop.journal import Journal
from bruiser.workshop.workshop import Workshop

_GAVE_WORDS = {
    Gave.BROKE: "broke",
    Gave.CAME_OUT: "came out",
    Gave.CAPSIZED: "capsized and let go",
    Gave.STOPPED: "outlasted",
}


class DirectionsPresenter(Desk):
    """One knot's directions."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, workshop: Workshop) -> None:
        super().__init__(workshop)
        self.knot_id = ""
        self._matrix: DirectionMatrix | None = None

    def take_up(self, journal: Journal, knot_id: str = "") -> None:
        """The logbook changed; `knot_id` is the knot on the bench, if it knows directions."""
        self.journal = journal
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
        journal = self.journal
        there = journal is not None and bool(self.knot_id)
        self._matrix = direction_matrix(journal, self.knot_id) if there and journal else None
        self.changed.emit()

    def knots(self) -> list[tuple[str, str]]:
        """Knots with more than one direction, the midline loops first."""
        journal = self.journal
        if journal is None:
            return []
        found = []
        for knot in journal.knots_in_play:
            structure = journal.catalogue.get(knot.structure)
            if structure is not None and len(structure.directions) > 1:
                found.append((structure.family != "midline loop", knot.title, knot.id))
        return [(key, title) for _, title, key in sorted(found)]

    def _most_n(self) -> float:
        cells = () if self._matrix is None else self._matrix.cells.values()
        return max((p.load_n for c in cells for p in c.pulls), default=1.0)

    def most(self) -> str:
        """The load at the right end of every cell's axis, in words."""
        return f"0 to {self.units.force_text(self._most_n())}"

    def rows(self) -> tuple[tuple[str, ...], list[DirectionRow]]:
        """Lots across, directions down."""
        m = self._matrix
        if m is None:
            return (), []
        most = self._most_n()
        lots = m.lots or (("", "not pulled yet"),)
        rows = []
        for direction in m.directions:
            cells = [self._cell(m.cells.get((direction, key)), most) for key, _ in lots]
            rows.append(DirectionRow(direction, legs_of(direction), tuple(cells)))
        return tuple(name for _, name in lots), rows

    def _cell(
        self, cell: DirectionCell | None, most: float
    ) -> tuple[tuple[DirectionMark, ...], str]:
        if cell is None:
            return (), "not tested"
        say = self.units.force_text
        marks = tuple(
            DirectionMark(
                p.pull_id,
                p.load_n / most,
                p.gave,
                f"{p.code}: {_GAVE_WORDS[p.gave]} at {say(p.load_n)}",
            )
            for p in cell.pulls
        )
        changed = sum(p.changed_form for p in cell.pulls)
        words = f"held {cell.held} of {len(cell.pulls)}, lowest {say(cell.lowest_n)}"
        return marks, words + (f", {changed} changed form" if changed else "")

    def words(self) -> str:
        """What can be said of it, and what cannot."""
        m = self._matrix
        if m is None:
            return "No knot in play knows more than one direction."
        tested = {d for d, _ in m.cells}
        missing = [d for d in m.directions if d not in tested]
        let_go = [d for (d, _), c in m.cells.items() if c.held < len(c.pulls)]
        said = []
        if let_go:
            said.append(f"Came out or let go: {', '.join(dict.fromkeys(let_go))}.")
        elif tested:
            few = min(len(c.pulls) for c in m.cells.values())
            said.append(f"Held in every direction pulled; the thinnest has {few} pulls.")
        if missing:
            said.append(f"Not tested: {', '.join(missing)}.")
        return " ".join(said)
