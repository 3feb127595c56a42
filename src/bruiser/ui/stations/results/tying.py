"""The sheet of tying and checking: how long, how often wrong, and whether an inspector sees it."""

from __future__ import annotations

from functools import partial

from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.rungs import Rung, Rungs, rungs_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.groups.trials import trials_of
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.overview import Overview, Tied
from bruiser.workshop.results.result_words import say_tying


def tying_sheet(found: Overview, logbook: Logbook, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the knot talked about."""
    if not found.tied:
        return Sheet(
            about=about_lots(found, units),
            main=None,
            sentence="",
            empty="No tying trials with this lot yet. “Tie and check” in Pull takes them down: "
            "time, attempts, and what an inspector makes of the knot.",
        )
    behind: dict[str, Behind] = {}
    rungs = []
    pulls = trials_of(logbook).pulls
    for tied in found.tied:
        key = f"n:tied|{tied.knot.id}"
        ids = dict.fromkeys(pulls[s] for s, _ in tied.trials if s in pulls)
        behind[key] = Behind(f"Specimens on which {tied.knot.title} was timed", tuple(ids))
        rungs += _rungs(tied, key)
    chart = Rungs(
        title="Tying trials",
        rows=tuple(rungs),
        headings=("first time right", "wrong ties", "known blind"),
        widths=(26.0, 22.0, 24.0),
        label="seconds to a right tie",
        say=lambda v: f"{v:.0f} s",
        most=60.0,
    )
    row = next((t for t in found.tied if t.knot.id == chosen), found.tied[0])
    trials = sum(len(t.trials) for t in found.tied)
    lines = (
        ResultLine(
            f"{count(trials, 'trial')} in all. “Known blind”: named for what it is by "
            "somebody who was not told.",
            "muted",
        ),
    )
    return Sheet(
        about=about_lots(found, units),
        main=only_width(partial(rungs_figure, chart)),
        sentence=say_tying(row.knot.title, row.result),
        parts=(),
        lines=lines,
        behind=behind,
    )


def _rungs(tied: Tied, key: str) -> list[Rung]:
    seen = tied.result.inspected
    own = seen.right - seen.taken_for_another
    blind = f"{own} of {seen.judged}" if seen.judged else "not asked"
    rungs = []
    for n, hands in enumerate(tied.result.by_hands):
        first = hands.first_time
        right = 0 if first is None else round(first.value * hands.trials)
        i = hands.seconds
        rungs.append(
            Rung(
                key=f"{tied.knot.id}|{hands.hands}",
                name=tied.knot.title if n == 0 else "",
                words=f"{hands.hands}, {count(hands.trials, 'trial')}",
                value=None if i is None else i.value,
                low=None if i is None else i.low,
                high=None if i is None else min(i.high, 600.0),
                columns=(f"{right} of {hands.trials}", f"{hands.wrong}", blind if n == 0 else ""),
                tone="plum-soft",
                behind=key,
            )
        )
    return rungs
