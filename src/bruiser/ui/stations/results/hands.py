"""The sheet of hands and benches: spread within one technician, between them, and in all."""

from __future__ import annotations

from functools import partial

from bruiser.core.beyond.hands import HandsSpread
from bruiser.core.statistics.strength import Interval
from bruiser.core.words import count
from bruiser.figures.rungs import Rung, Rungs, rungs_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.workshop.results.hands_work import (
    HandsMeasure,
    hands_statement,
    lack_words,
    say_spread,
)
from bruiser.workshop.results.overview import Overview

_ROWS = (
    ("within", "one pair of hands again", "bar"),
    ("technicians", "between technicians", "outline"),
    ("benches", "between benches", "outline"),
    ("total", "any hands at any bench", "bar"),
)
EMPTY = (
    "Too little to tell hands apart yet: it takes two technicians, or two benches, with the same "
    "knot in the same cordage, and somebody who pulled it three times or more."
)
NO_KAPPA = (
    "Inspectors: {seen} seen by two. From ten on, some of them wrong, it is said how well they "
    "agree; in Knots a tie can be shown to a second inspector."
)


def hands_sheet(found: Overview) -> Sheet:
    """Build the sheet."""
    hands = found.hands
    if hands is None:
        return Sheet(about="Hands and benches", main=None, sentence="", empty=EMPTY)
    behind: dict[str, Behind] = {}
    rungs: list[Rung] = []
    lines: list[ResultLine] = []
    lacks: dict[str, list[str]] = {}
    for measure, spread in hands.spreads.items():
        rungs += _rungs(measure, spread, behind)
        lacks.setdefault(lack_words(spread), []).append(measure.value)
    for lack, measures in lacks.items():
        if lack:
            lines.append(ResultLine(f"{', '.join(measures).capitalize()}: {lack}.", "muted"))
    if hands.kappa is None:
        seen = count(hands.agreement.ties, "tie")
        lines.append(ResultLine(NO_KAPPA.format(seen=seen), "muted"))
    people = sorted({p for s in hands.spreads.values() for p in s.people})
    pulled = [s for m, s in hands.spreads.items() if m is not HandsMeasure.TYING]
    places = sorted({p for s in pulled for p in s.places})
    chart = Rungs(
        title="Spread by hands and benches",
        rows=tuple(rungs),
        headings=("spread",),
        widths=(44.0,),
        label="standard deviation, in per cent of the value (jamming: a hundred is one step)",
        least=0.0,
        most=0.1,
        names_mm=70.0,
    )
    said = hands_statement(hands)
    return Sheet(
        about=f"{count(len(people), 'technician')} ({', '.join(people)}), "
        f"{count(len(places), 'bench', 'benches')}, every group against its own mean",
        main=only_width(partial(rungs_figure, chart)) if rungs else None,
        sentence=said[0] if said else EMPTY,
        lines=(*(ResultLine(text) for text in said[1:]), *lines),
        behind=behind,
        empty=EMPTY,
    )


def _rungs(measure: HandsMeasure, spread: HandsSpread, behind: dict[str, Behind]) -> list[Rung]:
    rows = []
    for name, words, shape in _ROWS:
        value: Interval | None = getattr(spread, name)
        if value is None:
            continue
        key = f"n:hands|{measure}|{name}"
        behind[key] = Behind(f"{measure.value}, {words}", spread.pull_ids)
        steps = measure is HandsMeasure.JAMMING
        rows.append(
            Rung(
                key=key,
                name=words.capitalize(),
                words=measure.value,
                value=value.value,
                low=value.low,
                high=value.high,
                columns=(say_spread(value, steps=steps),),
                tone="plum" if shape == "bar" else "storm",
                shape=shape,
                behind=key,
            )
        )
    return rows
