"""What was pulled before of the same kind: traces to lay under this one, and where they gave."""

from __future__ import annotations

from collections.abc import Sequence

from bruiser.core.trace import Floats
from bruiser.core.units import UnitChoice, si_factor
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import Workshop


def sibling_traces(workshop: Workshop, siblings: Sequence[Entry]) -> list[tuple[Floats, Floats]]:
    """Travel and load of each up to its peak, in the units shown."""
    force = si_factor(workshop.units.force, "force")
    length = si_factor(workshop.units.length, "length")
    found = []
    for entry in siblings:
        if entry.pull is None or entry.analysis is None:
            continue
        trace = read_trace(workshop, entry.pull)
        stop = entry.analysis.peak_index + 1
        load = (trace.load_n[:stop] - entry.analysis.zero_n) / force
        found.append((trace.travel_m[:stop] / length, load))
    return found


def sibling_band(siblings: Sequence[Entry], units: UnitChoice) -> tuple[float, float] | None:
    """Lowest and highest load at which they gave, in the unit shown; None for fewer than two."""
    loads = [
        e.finding.peak_load_n
        for e in siblings
        if e.finding is not None and e.finding.place is not None
    ]
    if len(loads) < 2:
        return None
    force = si_factor(units.force, "force")
    return min(loads) / force, max(loads) / force
