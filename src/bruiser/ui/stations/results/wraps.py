"""The sheet of wraps: grip against their number for every cord and host."""

from __future__ import annotations

from bruiser.core.units import UnitChoice
from bruiser.figures.display import Figure
from bruiser.figures.wrap_chart import WrapBound, WrapChart, WrapPoint, wrap_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.groups.wrap_results import WrapRow
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import say_wraps


def wraps_key(row: WrapRow) -> str:
    """What tells a pair of cord and host from others."""
    return f"{row.knot.id}|{row.cord.id}|{row.host.id}"


def wraps_sheet(found: Overview, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the pair shown."""
    behind: dict[str, Behind] = {}
    row = next((r for r in found.wraps if wraps_key(r) == chosen), None)
    row = row or (found.wraps[0] if found.wraps else None)
    if row is None:
        return Sheet(
            about=about_lots(found, units),
            main=None,
            sentence="",
            empty="No slide tests of a cord on a host rope in this lot: plan “cord on rope” with "
            "several numbers of wraps.",
        )
    cord_n = found.results[row.cord.id].baseline.median_n
    key = f"n:wraps|{wraps_key(row)}"
    behind[key] = Behind(
        f"{row.knot.title} of {row.cord.name} on {row.host.name}",
        tuple(m.pull_id for m in row.marks),
    )
    held = sum(not m.slid for m in row.marks)
    lines = [
        ResultLine(f"From {len(row.marks)} slide tests, in {held} of which it held.", "muted", key)
    ]
    if row.certificates:
        lines.append(
            ResultLine(
                "The short bar at every number is the load shown to be typically held: the lower "
                "of two bounds, by likelihood and by posterior, each with 95 % confidence.",
                "muted",
            )
        )
    chart = _chart(row, cord_n, units)

    def draw(width: float, height: float) -> Figure:
        return wrap_figure(chart, width, height, units.force_text)

    return Sheet(
        about=about_lots(found, units),
        main=draw,
        sentence=say_wraps(row, units, cord_n),
        parts=(),
        lines=tuple(lines),
        behind=behind,
    )


def _chart(row: WrapRow, cord_n: float | None, units: UnitChoice) -> WrapChart:
    points = tuple(
        WrapPoint(
            key=m.pull_id,
            wraps=m.wraps,
            load_n=m.load_n,
            slid=m.slid,
            label=f"{m.code}: {'slid at' if m.slid else 'held'} {units.force_text(m.load_n)}",
        )
        for m in row.marks
    )
    bounds = tuple(
        WrapBound(
            wraps=c.wraps,
            typical_n=row.fit.median_n(c.wraps),
            shown_n=min(c.by_likelihood_n, c.by_posterior_n),
            holds=c.holds,
        )
        for c in row.certificates
        if row.fit is not None
    )
    name = f"{row.knot.title} of {row.cord.name} on {row.host.name}"
    return WrapChart(
        name=name,
        points=points,
        bounds=bounds,
        target_n=row.target_n,
        cord_n=cord_n,
        most_tested=row.most_tested,
    )
