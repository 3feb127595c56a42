"""The sheet of strengths in a lot without a measured plain rope: loads, and no share."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from bruiser.core.units import UnitChoice
from bruiser.figures.ladder import Ladder, LadderRow, ladder_figure
from bruiser.ui.stations.results.sheet import Behind, Sheet
from bruiser.ui.stations.results.strength import (
    about_lots,
    caveat_lines,
    mark_of,
    nothing_words,
    rope_rows,
    short_name,
    sorted_rows,
)
from bruiser.workshop.results.lot_results import KnotResult
from bruiser.workshop.results.overview import Overview, row_key
from bruiser.workshop.results.result_words import say_ladder


def load_sheet(found: Overview, units: UnitChoice) -> Sheet:
    """The sheet of a lot without a measured plain rope: loads, and no share of anything."""
    rows = sorted_rows(found, "name")
    behind: dict[str, Behind] = {}
    drawn = tuple(_load_row(row, units, behind) for row in rows)
    drawn += tuple(rope_rows(found, found.shown[0], units, behind))[: bool(drawn)]
    ladder = Ladder(
        "Load held: no plain rope to set it against",
        tuple(r for r in drawn if r.marks),
        say=units.force_text,
        loads=True,
    )
    return Sheet(
        about_lots(found, units),
        partial(ladder_figure, ladder) if ladder.rows else None,
        say_ladder(found.shown[0]) if rows else "",
        lines=tuple(caveat_lines(rows)),
        behind=behind,
        empty=nothing_words(found),
    )


def _load_row(row: KnotResult, units: UnitChoice, behind: dict[str, Behind]) -> LadderRow:
    n, known = row.efficiency.counts, row.efficiency.marginal
    key = f"n:{row_key(row)}"
    behind[key] = Behind(f"{row.name}, {row.lot.name}", tuple(m.pull_id for m in row.marks))
    name, apart = short_name(row, False)
    words = f"{n.broke} broke, {n.came_out} came out, {n.outlasted} outlasted"
    low = middle = high = None
    if known is not None and row.result.estimate is not None:
        low, middle, high = (
            float(np.exp(np.interp(q, known.cdf[0], known.mu[0]))) for q in (0.025, 0.5, 0.975)
        )
    marks = tuple(
        replace(mark, share=m.load_n)
        for m in row.marks
        if (mark := mark_of(replace(m, share=1.0), units)) is not None
    )
    return LadderRow(
        row_key(row),
        name,
        f"{apart} · {words}" if apart else words,
        marks,
        middle,
        low,
        high,
        "" if middle is None else units.force_text(middle),
        ""
        if low is None or high is None
        else f"{units.force_text(low)} to {units.force_text(high)}",
        behind=key,
        tooltip=row.name,
        caveat="no share",
    )
