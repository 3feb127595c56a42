"""Which pair of legs a knot holds, and at which load: the load-direction matrix."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.core.records.legs import RING, legs_of, named, say_legs
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import METHOD_OF
from bruiser.core.records.records import Gave
from bruiser.core.units import UnitChoice
from bruiser.figures.direction_chart import DirectionMark, DirectionRow
from bruiser.store.questions import EntryQuery
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.logbook import Logbook

_GAVE_WORDS = {
    Gave.BROKE: "broke",
    Gave.CAME_OUT: "came out",
    Gave.CAPSIZED: "capsized and let go",
    Gave.STOPPED: "outlasted",
}


@dataclass(frozen=True, kw_only=True)
class DirectionPull:
    """One pull in a direction: its load and how it ended."""

    pull_id: str
    code: str
    load_n: float
    gave: Gave
    changed_form: bool


@dataclass(frozen=True)
class DirectionCell:
    """The pulls of one direction in one lot, weakest first."""

    pulls: tuple[DirectionPull, ...]

    @property
    def held(self) -> int:
        """How many held until the cord broke or the bench was stopped."""
        return sum(p.gave in (Gave.BROKE, Gave.STOPPED) for p in self.pulls)

    @property
    def lowest_n(self) -> float:
        """Lowest load at which one ended."""
        return min(p.load_n for p in self.pulls)


@dataclass(frozen=True)
class DirectionMatrix:
    """Directions down, lots across; cells by (direction, lot id), missing where none was pulled."""

    directions: tuple[str, ...]
    lots: tuple[tuple[str, str], ...]
    cells: dict[tuple[str, str], DirectionCell]


_DIRECTED = tuple(key for key, method in METHOD_OF.items() if Tells.DIRECTIONS in method.tells)


def direction_of(entry: Entry, usual: str) -> str | None:
    """The direction a specimen was pulled in; None for a method that is about something else."""
    plan = entry.specimen.method
    if Tells.DIRECTIONS not in plan.method.tells:
        return None
    if plan.key == "ring load":
        return say_legs(RING)
    return named(plan.direction) or usual


def direction_matrix(logbook: Logbook, knot_id: str) -> DirectionMatrix:
    """What the pulls say of every direction of a knot; empty cells are not tested yet."""
    knot = logbook.knot(knot_id)
    structure = logbook.catalogue.get(knot.structure)
    known = () if structure is None else tuple(say_legs(x) for x in structure.leg_sets)
    usual = known[0] if known else "usual"
    found: dict[tuple[str, str], list[DirectionPull]] = {}
    asked = EntryQuery(stages=(Stage.INSPECTED,), methods=_DIRECTED, knot_id=knot_id)
    for entry in logbook.find(asked):
        s, f = entry.specimen, entry.finding
        if f is None or entry.pull is None or entry.excluded is not None:
            continue
        direction = direction_of(entry, usual)
        if direction is None:
            continue
        pull = DirectionPull(
            pull_id=entry.pull.id,
            code=s.code,
            load_n=f.peak_load_n,
            gave=f.gave,
            changed_form=bool(f.forms),
        )
        found.setdefault((direction, s.lot.id), []).append(pull)
    rows = dict.fromkeys((*known, *(d for d, _ in found)))
    used = {lot_id for _, lot_id in found}
    lots = tuple((x.id, x.name) for x in logbook.lots if x.id in used)
    cells = {
        key: DirectionCell(tuple(sorted(pulls, key=lambda p: p.load_n)))
        for key, pulls in found.items()
    }
    return DirectionMatrix(tuple(rows), lots, cells)


def most_n(matrix: DirectionMatrix) -> float:
    """The highest load of a matrix, which stands at the right end of every cell."""
    return max((p.load_n for c in matrix.cells.values() for p in c.pulls), default=1.0)


def direction_rows(
    matrix: DirectionMatrix, units: UnitChoice
) -> tuple[tuple[str, ...], list[DirectionRow]]:
    """Lots across, directions down, ready to be drawn."""
    lots = matrix.lots or (("", "not pulled yet"),)
    most = most_n(matrix)
    rows = [
        DirectionRow(
            direction,
            legs_of(direction),
            tuple(_drawn(matrix.cells.get((direction, key)), most, units) for key, _ in lots),
        )
        for direction in matrix.directions
    ]
    return tuple(name for _, name in lots), rows


def _drawn(
    cell: DirectionCell | None, most: float, units: UnitChoice
) -> tuple[tuple[DirectionMark, ...], str]:
    if cell is None:
        return (), "not tested"
    say = units.force_text
    marks = tuple(
        DirectionMark(
            key=p.pull_id,
            share=p.load_n / most,
            gave=p.gave,
            words=f"{p.code}: {_GAVE_WORDS[p.gave]} at {say(p.load_n)}",
        )
        for p in cell.pulls
    )
    changed = sum(p.changed_form for p in cell.pulls)
    words = f"held {cell.held} of {len(cell.pulls)}, lowest {say(cell.lowest_n)}"
    return marks, words + (f", {changed} changed form" if changed else "")


def say_directions(m: DirectionMatrix) -> str:
    """What can be said of a matrix, and what cannot."""
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
