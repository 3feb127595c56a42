"""The sheet of strengths in a lot without a measured plain rope: loads, and no share."""

from __future__ import annotations

from functools import partial

import numpy as np

from bruiser.core.units import UnitChoice
from bruiser.figures.ladder import (
    Ladder,
    LadderAxis,
    LadderRow,
    ladder_figure,
    ladder_row,
    tally_words,
)
from bruiser.ui.stations.results.sheet import Behind, Sheet
from bruiser.ui.stations.results.strength import (
    about_lots,
    caveat_lines,
    marks_of,
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
    axis = LadderAxis(say=units.force_text, bare=units.force_text, measure="load (N)")
    drawn = tuple(_load_row(row, units, axis, behind) for row in rows)
    drawn += tuple(rope_rows(found, found.shown[0], units, axis, behind))[: bool(drawn)]
    ladder = Ladder(
        title="Load held: no plain rope to set it against",
        rows=tuple(r for r in drawn if r.marks),
        axis=axis,
    )
    return Sheet(
        about=about_lots(found, units),
        main=partial(ladder_figure, ladder) if ladder.rows else None,
        sentence=say_ladder(found.shown[0]) if rows else "",
        lines=tuple(caveat_lines(rows)),
        behind=behind,
        empty=nothing_words(found),
    )


def _load_row(
    row: KnotResult, units: UnitChoice, axis: LadderAxis, behind: dict[str, Behind]
) -> LadderRow:
    n, known = row.efficiency.counts, row.efficiency.marginal
    key = f"n:{row_key(row)}"
    behind[key] = Behind(f"{row.name}, {row.lot.name}", tuple(m.pull_id for m in row.marks))
    name, apart = short_name(row, False)
    words = tally_words(n.broke, n.came_out, n.outlasted)
    interval = None
    if known is not None and row.result.estimate is not None:
        middle, low, high = (
            float(np.exp(np.interp(q, known.cdf[0], known.mu[0]))) for q in (0.5, 0.025, 0.975)
        )
        interval = (middle, low, high)
    return ladder_row(
        axis,
        key=row_key(row),
        name=name,
        counts=f"{apart} · {words}" if apart else words,
        marks=marks_of(row.marks, units, axis),
        interval=interval,
        behind=key,
        tooltip=row.name,
        caveat="no share",
    )
