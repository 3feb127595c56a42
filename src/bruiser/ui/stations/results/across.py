"""The sheet across cordages: knots down, cordages across, and what is predicted between them."""

from __future__ import annotations

from functools import partial

from bruiser.core.beyond.across import WITHDRAWS, CellKind
from bruiser.core.statistics.strength import Interval
from bruiser.core.words import count
from bruiser.figures.across_chart import Grid, GridCell, across_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.workshop.results.across_sets import AcrossSet
from bruiser.workshop.results.across_words import (
    NEW_CORDAGE,
    PREDICTED,
    alike_words,
    check_words,
    condition_words,
    note_words,
    range_ends,
    rests_words,
    spread_words,
)
from bruiser.workshop.results.overview import Overview

EMPTY = (
    "Nothing can be laid across cordages yet: it takes a knot and three straight pulls of plain "
    "rope in one cordage, and the same in a second one to predict anything."
)
CAUTION = (
    "A predicted range is no measurement: it makes no band, no first place and no working load."
)


def set_key(one: AcrossSet) -> str:
    """What tells a set of groups that compare from the others."""
    a = one.alike
    return "|".join((a.condition, a.method, a.direction, a.dressing))


def chosen_set(found: Overview, key: str) -> AcrossSet | None:
    """The set looked at: the one chosen, else the largest."""
    own = [one for one in found.across if set_key(one) == key]
    return next(iter((*own, *found.across)), None)


def across_sheet(found: Overview, key: str) -> Sheet:
    """Build the sheet; `key` is that of a set, the largest where there is none."""
    one = chosen_set(found, key)
    if one is None:
        return Sheet(about="Across cordages", main=None, sentence="", empty=EMPTY)
    across = one.across
    behind: dict[str, Behind] = {}
    cells: dict[tuple[str, str], GridCell] = {}
    elsewhere: dict[str, tuple[str, ...]] = {}
    for cell in across.cells:
        elsewhere[cell.knot] = (*elsewhere.get(cell.knot, ()), *cell.pull_ids)
    for cell in across.cells:
        at = cell.knot, cell.cordage
        mark = f"n:across|{cell.knot}|{cell.cordage}"
        if cell.kind is CellKind.PREDICTED:
            cells[at] = _open(*at, cell.share, mark)
            behind[mark] = Behind(f"{cell.knot} elsewhere, for {cell.cordage}", elsewhere[at[0]])
            continue
        behind[mark] = Behind(f"{cell.knot} in {cell.cordage}", cell.pull_ids)
        share, pulls = cell.share, one.pulls.get(at, 0)
        low, high = f"{100 * share.low:.0f}", f"{100 * share.high:.0f}"
        cells[at] = GridCell(
            text=f"{100 * share.value:.0f} %",
            small=f"{low}–{high}, n {pulls}",
            value=share.value,
            low=share.low,
            high=share.high,
            label=f"{cell.knot} in {cell.cordage} keeps {100 * share.value:.0f} % of the plain "
            f"rope, measured ({low} to {high}, from {count(pulls, 'pull')}).",
            behind=mark,
        )
    for knot, share in across.new_cordage.items():
        mark = f"n:across|{knot}|new"
        cells[knot, NEW_CORDAGE] = _open(knot, NEW_CORDAGE, share, mark)
        behind[mark] = Behind(f"{knot}, for {NEW_CORDAGE}", elsewhere[knot])
    typical = {c.knot: c.share.value for c in across.cells if c.kind is CellKind.MEASURED}
    typical |= {knot: share.value for knot, share in across.typical.items()}
    names = tuple(sorted(across.knots, key=lambda knot: (-typical[knot], knot)))
    notes = sorted(across.notes, key=lambda note: note.doubt not in WITHDRAWS)
    lines = [ResultLine(note_words(n), "ochre" if n.doubt in WITHDRAWS else "muted") for n in notes]
    lines.insert(0, ResultLine(check_words(across.check)))
    lines += [ResultLine(condition_words(c)) for c in found.conditions]
    lines += [ResultLine(rests_words(one), "muted"), ResultLine(CAUTION, "ink")]
    grid = Grid(
        title="Knots across cordages",
        names=names,
        columns=across.cordages,
        cells=cells,
        beside=NEW_CORDAGE if across.new_cordage else "",
    )
    without = f"  ·  {count(len(one.left_out), 'cordage')} left out" if one.left_out else ""
    sentence = spread_words(across) or note_words(notes[0])
    return Sheet(
        about=f"{alike_words(one.alike)}: solid is measured, open is {PREDICTED}{without}",
        main=only_width(partial(across_figure, grid)),
        sentence=sentence,
        lines=tuple(lines),
        behind=behind,
    )


def _open(knot: str, cordage: str, share: Interval, mark: str) -> GridCell:
    low, high = range_ends(share)
    return GridCell(
        text=f"{low}–{high} %",
        small=PREDICTED,
        value=share.value,
        low=share.low,
        high=min(share.high, 1.0),
        open=True,
        label=f"{knot} was not pulled in {cordage}: {PREDICTED} to keep {low} to {high} % of the "
        "plain rope, from its other cordages.",
        behind=mark,
    )
