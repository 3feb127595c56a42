"""The sheet of grip: at which load every hitch begins to slide, on what, with how many wraps."""

from __future__ import annotations

from functools import partial

from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.rungs import Rung, Rungs, rungs_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.groups.work_results import WorkRow
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import percent
from bruiser.workshop.results.work_words import answers, counted, loads_of, say_grip


def work_row_key(row: WorkRow) -> str:
    """What tells a row of work from others."""
    return f"{row.lot.id}|{row.knot.id}|{row.key.on}|{row.key.wraps}"


def grip_sheet(found: Overview, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the grip talked about."""
    rows = [r for r in found.work if r.result.grip is not None]
    if not rows:
        return Sheet(
            about=about_lots(found, units),
            main=None,
            sentence="",
            empty="No slide tests in this lot: plan “cord on rope” for a friction hitch on its "
            "host rope, “slide test” for an adjustable loop or a hitch along its host.",
        )
    rows.sort(key=_order)
    behind = {f"n:grip|{work_row_key(r)}": Behind(_heading(r), r.pull_ids) for r in rows}
    lot_n = rows[0].lot_n
    chart = Rungs(
        title="Grip",
        rows=tuple(_rung(r, units) for r in rows),
        headings=("slides at", "95 % interval", "of the rope", "by hand slack", "freed by hand"),
        widths=(20.0, 34.0, 20.0, 22.0, 22.0),
        label="load at which it begins to slide",
        say=units.force_text,
        least=0.0,
        most=0.3 * lot_n if lot_n is not None else 1.0,
    )
    row = next((r for r in rows if work_row_key(r) == chosen), rows[0])
    lines = [
        ResultLine(
            "A pull in which the cord broke or the bench stopped before it slid says “at least”: "
            "it is drawn as an outline from the highest load held.",
            "muted",
        )
    ]
    if row.ratio is not None:
        host = row.host_lot
        lines.append(
            ResultLine(
                f"Cord over host: {row.ratio:.2f}"
                + (f" ({row.lot.name} on {host.name}, {host.condition})." if host else "."),
                "muted",
                f"n:grip|{work_row_key(row)}",
            )
        )
    return Sheet(
        about=about_lots(found, units),
        main=only_width(partial(rungs_figure, chart)),
        sentence=say_grip(row, units),
        lines=tuple(lines),
        behind=behind,
    )


def _order(row: WorkRow) -> float:
    grip = row.result.grip
    if grip is None:
        return 0.0
    return -(grip.at_least_n if grip.interval is None else grip.interval.value)


def _heading(row: WorkRow) -> str:
    wraps = f", {count(row.key.wraps, 'wrap')}" if row.key.wraps else ""
    return f"{row.key.knot}{wraps} {row.key.on}".strip()


def _rung(row: WorkRow, units: UnitChoice) -> Rung:
    grip = row.result.grip
    assert grip is not None
    wraps = count(row.key.wraps, "wrap") if row.key.wraps else ""
    words = ", ".join(p for p in (wraps, row.key.on, counted(grip, "slid")) if p)
    typical = grip.interval
    at_least = grip.at_least_n or None
    most = max(row.lot_n or 0.0, grip.at_least_n, 0.0 if typical is None else typical.value)
    share = "" if grip.share is None else f"{percent(grip.share.value)} %"
    if typical is None:
        columns = (f"≥ {units.force_text(grip.at_least_n)}", "never slid", "")
    else:
        columns = (units.force_text(typical.value), loads_of(typical, units, row.lot_n), share)
    return Rung(
        key=work_row_key(row),
        name=row.key.knot,
        words=words,
        value=at_least if typical is None else typical.value,
        low=at_least if typical is None else typical.low,
        high=most if typical is None else min(typical.high, most),
        columns=(*columns, answers(grip.slides_by_hand), answers(grip.frees_by_hand)),
        tone="plum-soft",
        shape="outline" if typical is None else "bar",
        behind=f"n:grip|{work_row_key(row)}",
    )
