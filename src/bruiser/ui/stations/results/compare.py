"""The sheet of comparisons: pairs in points of the plain rope, and knots by cordage."""

from __future__ import annotations

from functools import partial

from bruiser.core.statistics.contrast import Contrast
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.rungs import CordageCell, Rung, Rungs, matrix_figure, rungs_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.ui.stations.results.strength import about_lots, short_name
from bruiser.workshop.results.lot_results import KnotResult
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import say_compared, say_partners

WAYS = {"pairs": "Pair by pair", "matrix": "Knots by cordage"}


def compare_sheet(found: Overview, way: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `way` is one of :data:`WAYS`."""
    return _matrix(found, units) if way == "matrix" else _pairs(found, units)


def _points(value: float) -> str:
    return f"{100 * value:+.0f}" if abs(value) > 5e-4 else "0"


def _name(row: KnotResult, many: bool) -> str:
    name, apart = short_name(row, many)
    return f"{name} ({apart})" if apart else name


def _pairs(found: Overview, units: UnitChoice) -> Sheet:
    compared = found.compared
    behind: dict[str, Behind] = {}
    rungs: list[Rung] = []
    many = len(found.shown) > 1
    for n, pair in enumerate(found.partners):
        points = pair.points
        key = f"n:partners|{n}"
        ids = tuple(pull for both in pair.pairs for pull in both)
        behind[key] = Behind(f"{pair.first} and {pair.second}, pair by pair", ids)
        if points is None or pair.paired is None:
            continue
        told = "yes" if pair.paired.p < 0.05 else "no"
        rungs.append(
            Rung(
                key=key,
                name=f"{pair.knot}: {pair.states[0]} – {pair.states[1]}",
                words=f"{pair.lot_name}, {count(pair.paired.pairs, 'pair')} from one hank each",
                value=points[0],
                low=points[1],
                high=points[2],
                columns=("", f"{pair.paired.p:.3f}", told, ""),
                tone="hemp",
                behind=key,
            )
        )
    lines = [
        ResultLine(say_partners(p), "ink", f"n:partners|{n}") for n, p in enumerate(found.partners)
    ]
    if compared is not None:
        for c, more in zip(compared.contrasts, compared.more, strict=True):
            rungs.append(_rung(compared.rows, c, more, many, behind))
        looked = len(compared.contrasts)
        if looked > 1:
            lines.append(
                ResultLine(
                    f"p is adjusted for the {looked} pairs looked at (Holm); look at fewer and "
                    "less is needed to tell them apart. The intervals are not adjusted.",
                    "muted",
                )
            )
    chart = Rungs(
        title="Differences in points of the plain rope",
        rows=tuple(rungs),
        headings=("stronger", "p", "told apart", "more pulls"),
        widths=(18.0, 14.0, 20.0, 20.0),
        label="first less second, in points of the plain rope",
        say=_points,
        zero=0.0,
        least=-0.05,
        most=0.05,
        names_mm=94.0,
    )
    few = "Choose at least two groups in which something gave."
    return Sheet(
        about=about_lots(found, units),
        main=only_width(partial(rungs_figure, chart)) if rungs else None,
        sentence=say_compared(compared) if compared is not None and compared.contrasts else few,
        parts=(),
        lines=tuple(lines),
        behind=behind,
        empty=few,
    )


def _rung(
    rows: tuple[KnotResult, ...],
    c: Contrast,
    more: int | None,
    many: bool,
    behind: dict[str, Behind],
) -> Rung:
    first, second = rows[c.a], rows[c.b]
    key = f"n:pair|{c.a}|{c.b}"
    ids = (*first.efficiency.pull_ids, *second.efficiency.pull_ids)
    behind[key] = Behind(f"{first.name} and {second.name}", ids)
    i, n = c.points, (r.efficiency.counts.specimens for r in (first, second))
    words = f"less {_name(second, many)}, from {' and '.join(str(v) for v in n)} pulls"
    if i is None:
        words += "; nothing gave in one of them"
    columns = (
        "" if c.chance is None else f"{100 * c.chance:.0f} %",
        "" if c.p_adjusted is None else f"{c.p_adjusted:.3f}",
        "yes" if c.told_apart else "no",
        "" if more is None else f"{more}" if more < 1000 else "> 999",
    )
    return Rung(
        key=key,
        name=_name(first, many),
        words=words,
        value=None if i is None else i.value,
        low=None if i is None else i.low,
        high=None if i is None else i.high,
        columns=columns,
        tone="plum" if c.told_apart else "plum-soft",
        shape="bar",
        behind=key,
    )


def _matrix(found: Overview, units: UnitChoice) -> Sheet:
    matrix = found.matrix
    behind: dict[str, Behind] = {}
    cells: dict[tuple[str, str], CordageCell] = {}
    if matrix is None or not matrix.knots:
        return Sheet(
            about=about_lots(found, units),
            main=None,
            sentence="",
            empty="No knot has been pulled yet.",
        )
    for (knot, lot), row in matrix.cells.items():
        key = f"n:cell|{knot}|{lot}"
        eff, n = row.efficiency, row.efficiency.counts.specimens
        behind[key] = Behind(f"{row.name} in {lot}", eff.pull_ids)
        i = eff.interval
        if i is not None:
            text, small = f"{100 * i.value:.0f} %", f"{100 * i.low:.0f}–{100 * i.high:.0f}, n {n}"
        elif eff.at_least is not None:
            text, small = f"≥ {100 * eff.at_least:.0f} %", f"floor only, n {n}"
        else:
            text, small = "no share", f"{eff.caveats[0].kind}, n {n}" if eff.caveats else f"n {n}"
        cells[knot, lot] = CordageCell(
            text=text, small=small, share=None if i is None else i.value, behind=key
        )
    both = [k for k in matrix.knots if sum((k, lot) in matrix.cells for lot in matrix.lots) > 1]
    told = f"{len(both)} of {count(len(matrix.knots), 'knot')} were pulled in more than one cordage"
    empty = len(matrix.knots) * len(matrix.lots) - len(cells)
    sentence = f"{told}; {count(empty, 'cell')} of the matrix are empty, and say nothing."
    return Sheet(
        about="Every knot in every cordage, each against its own plain rope  ·  "
        f"{len(cells)} cells",
        main=only_width(partial(matrix_figure, matrix.knots, matrix.lots, cells)),
        sentence=sentence,
        parts=(),
        lines=(),
        behind=behind,
    )
