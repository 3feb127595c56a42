"""The sheet of strengths: the ladder, why means are off, and the criteria of the brief."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import partial

from bruiser.core.behaviour.security import share_interval
from bruiser.core.performance.efficiency import AGAINST_WORDS, Against
from bruiser.core.performance.mean_reason import mean_differs, why_mean_differs
from bruiser.core.records.records import OUTCOME_WORDS
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.ladder import (
    Ladder,
    LadderAxis,
    LadderMark,
    LadderRow,
    ladder_figure,
    ladder_row,
    share_axis,
    tally_words,
)
from bruiser.ui.stations.results.asked import asked_lines
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.lot_results import KnotResult, LotResults, PullMark
from bruiser.workshop.results.overview import Overview, row_key
from bruiser.workshop.results.result_words import (
    OPEN_ABOVE,
    between,
    percent,
    say_ladder,
    say_strength,
)

SORTS = {"strength": "strongest first", "floor": "highest floor first", "name": "by name"}
REFERENCE = {
    Against.TYPICAL: "plain rope",
    Against.LOWEST: "lowest plain pull",
    Against.RATING: "maker's rating",
}


@dataclass(frozen=True)
class LadderChoice:
    """How the ladder is shown: its order, and the row talked about."""

    sort: str = "strength"
    row: str = ""


def strength_sheet(
    found: Overview, logbook: Logbook, choice: LadderChoice, units: UnitChoice
) -> Sheet:
    """Build the sheet."""
    rows = sorted_rows(found, choice.sort)
    many = len(found.shown) > 1
    behind: dict[str, Behind] = {}
    axis = share_axis(REFERENCE[found.asked.against])
    ladder_rows = [_row(found, row, units, axis, behind) for row in rows]
    for results in found.shown:
        ladder_rows += (
            rope_rows(found, results, units, axis, behind) if results.baseline.marks else []
        )
    ladder = Ladder(
        title=f"Strength kept: {AGAINST_WORDS[found.asked.against]}",
        rows=tuple(ladder_rows),
        axis=axis,
        band=_band(found),
        floor_title=_floor_words(found),
    )
    chosen = next((r for r in rows if row_key(r) == choice.row), None)
    lines = [*_mean_lines(found, rows, chosen), *_left_out_lines(rows)]
    open_above = [r for r in rows if (i := r.efficiency.interval) is not None and i.high > 1]
    if open_above:
        lines.append(ResultLine(OPEN_ABOVE, "muted"))
    lines += [*_host_lines(found, rows), *_sling_lines(rows, units), *caveat_lines(rows)]
    for results in found.shown:
        judged = found.judged.get(results.baseline.lot.id, [])
        where = f"{results.baseline.lot.name}: " if many else ""
        lines += asked_lines(logbook, judged, behind, where)
    drawable = any(r.marks for r in ladder_rows)
    return Sheet(
        about=about_lots(found, units),
        main=partial(ladder_figure, ladder) if drawable else None,
        sentence=_sentence(found, chosen),
        lines=tuple(lines),
        behind=behind,
        empty=nothing_words(found),
    )


def _sling_lines(rows: Sequence[KnotResult], units: UnitChoice) -> list[ResultLine]:
    """What the figures of closed slings are: of one leg, where two share the load."""
    found = []
    for row in rows:
        shares = max((t.shares for t in row.group.tried), default=1)
        interval = row.efficiency.interval
        if shares > 1:
            whole = ""
            if row.result.estimate is not None:
                load = units.force_text(shares * row.result.estimate.median_n)
                whole = f"; the whole sling bears {load}"
            said = "bears half in each leg, and so the joint does"
            said += whole if interval is not None else ""
            found.append(ResultLine(f"{row.name} {said}.", "muted"))
    return found


def about_lots(found: Overview, units: UnitChoice) -> str:
    """The lots shown, and what their plain rope rests on."""
    if not found.shown:
        return "No lot is chosen."
    if len(found.shown) > 1:
        return f"{len(found.shown)} lots side by side, each against its own plain rope"
    base = found.shown[0].baseline
    lot, n = base.lot, base.counts
    about = (
        f"{units.section_text(lot.diameter_m, lot.thickness_m)} {lot.material} {lot.construction}, "
        f"lot {lot.name}, "
        f"{lot.condition}"
    )
    if base.median_n is None:
        return f"{about}  ·  no measured plain rope"
    return (
        f"{about}  ·  plain rope {units.force_text(base.median_n)}, "
        f"{count(n.specimens, 'straight pull')}, {n.broke} broke clear of the drums"
    )


def sorted_rows(found: Overview, sort: str) -> list[KnotResult]:
    """The knots of the lots shown, in an order of :data:`SORTS`."""
    rows = list(found.rows)
    if sort == "name":
        rows.sort(key=lambda r: (r.key.knot, r.key.dressing != "dressed", r.name, r.lot.name))
    elif sort == "floor":
        floors = found.floors

        def floor(row: KnotResult) -> float:
            bound = floors.get(row_key(row))
            reference = _reference_n(row)
            return -math.inf if bound is None or not reference else bound.load_n / reference

        rows.sort(key=lambda r: -floor(r))
    else:
        rows.sort(key=lambda r: -_typical(r))
    return rows


def _typical(row: KnotResult) -> float:
    interval = row.efficiency.interval
    if interval is not None:
        return interval.value
    return max((m.share for m in row.marks if m.share is not None), default=-1.0)


def _reference_n(row: KnotResult) -> float | None:
    """What stands at 100 % for a row: told by any of its marks."""
    return next((m.load_n / m.share for m in row.marks if m.share), None)


def short_name(row: KnotResult, many: bool) -> tuple[str, str]:
    """A row's name, and what sets it apart in small."""
    name = row.key.knot
    if row.key.dressing != "dressed":
        name += f", {row.key.dressing}"
    rest = row.name.removeprefix(row.key.knot).strip(", ")
    parts = [p for p in rest.split(", ") if p not in ("", "dressed", "ramp", row.key.dressing)]
    if row.key.cordage_b:
        parts.insert(0, f"to {row.key.cordage_b}")
    if many:
        parts.insert(0, row.lot.name)
    return name, ", ".join(dict.fromkeys(parts))


def marks_of(
    marks: Iterable[PullMark], units: UnitChoice, axis: LadderAxis
) -> tuple[LadderMark, ...]:
    """Pulls as they are drawn, those that have a place on the axis."""
    placed = ((m, m.share if axis.reference else m.load_n) for m in marks)
    return tuple(_mark(m, at, units) for m, at in placed if at is not None)


def _mark(m: PullMark, at: float, units: UnitChoice) -> LadderMark:
    label = f"{m.code}: {OUTCOME_WORDS[m.kind]}, {units.force_text(m.load_n)}"
    if m.left_out:
        label += f"; left out: {m.left_out}"
    return LadderMark(key=m.pull_id, kind=m.kind, at=at, label=label, left_out=bool(m.left_out))


def _row(
    found: Overview,
    row: KnotResult,
    units: UnitChoice,
    axis: LadderAxis,
    behind: dict[str, Behind],
) -> LadderRow:
    eff, n = row.efficiency, row.efficiency.counts
    many = len(found.shown) > 1
    name, apart = short_name(row, many)
    words = tally_words(n.broke, n.came_out, n.outlasted, n.void)
    key = f"n:{row_key(row)}"
    behind[key] = Behind(f"{row.name}, {row.lot.name}", tuple(m.pull_id for m in row.marks))
    bound, reference = found.floors.get(row_key(row)), _reference_n(row)
    floor = None if bound is None or reference is None else bound.load_n / reference
    caveats = [*eff.caveats, *(bound.caveats if bound is not None else ())]
    i = eff.interval
    return ladder_row(
        axis,
        key=row_key(row),
        name=name,
        counts=f"{apart} · {words}" if apart else words,
        marks=marks_of(row.marks, units, axis),
        interval=None if i is None else (i.value, i.low, i.high),
        instead="" if eff.at_least is None else f"≥ {axis.say(eff.at_least)}",
        letters="" if many else row.letters,
        floor=floor,
        mean=eff.plain_mean
        if mean_differs(eff) and found.asked.against is Against.TYPICAL
        else None,
        behind=key,
        tooltip=_tooltip(found, row, floor, [str(c) for c in caveats], units),
        caveat=caveats[0].kind if caveats else "",
    )


def _tooltip(
    found: Overview, row: KnotResult, floor: float | None, caveats: list[str], units: UnitChoice
) -> str:
    eff, n = row.efficiency, row.efficiency.counts
    lines = [f"{row.name}, {row.lot.name}"]
    if eff.prior_free is not None:
        p = eff.prior_free
        lines.append(f"without prior: {percent(p.value)} % ({between(p)})")
    out = share_interval(n.came_out, n.broke + n.came_out)
    if out is not None:
        lines.append(
            f"came out: {n.came_out} of {n.broke + n.came_out} that gave "
            f"({percent(out.low)} to {percent(out.high)} %)"
        )
    bound = found.floors.get(row_key(row))
    if bound is not None:
        share = "" if floor is None else f" ({percent(floor)} %)"
        lines.append(
            f"{100 * bound.share:.0f} of 100 such knots hold {units.force_text(bound.load_n)}"
            f"{share} or more, said with {100 * bound.confidence:.0f} % confidence"
        )
    if mean_differs(eff) and eff.plain_mean is not None:
        lines.append(f"plain mean of the peaks: {percent(eff.plain_mean)} %")
    return "\n".join([*lines, *caveats, eff.measurement])


def rope_rows(
    found: Overview,
    results: LotResults,
    units: UnitChoice,
    axis: LadderAxis,
    behind: dict[str, Behind],
) -> list[LadderRow]:
    """The row of a lot's plain rope."""
    base, n = results.baseline, results.baseline.counts
    key = f"n:rope|{base.lot.id}"
    behind[key] = Behind(f"Plain rope, {base.lot.name}", tuple(m.pull_id for m in base.marks))
    words = f"{n.broke} broke clear, {n.outlasted} at a drum or stopped"
    name = "Plain rope" if len(found.shown) == 1 else f"Plain rope, {base.lot.name}"
    return [
        ladder_row(
            axis,
            key=f"rope|{base.lot.id}",
            name=name,
            counts=words,
            marks=marks_of(base.marks, units, axis),
            instead="" if base.median_n is None else units.force_text(base.median_n),
            behind=key,
            caveat=base.result.caveats[0].kind if base.result.caveats else "",
        )
    ]


def _band(found: Overview) -> tuple[float, float] | None:
    if len(found.shown) != 1 or found.asked.against is not Against.TYPICAL:
        return None
    known = found.shown[0].baseline.estimate
    return None if known is None else (math.exp(-known.sigma), math.exp(known.sigma))


def _floor_words(found: Overview) -> str:
    asked = found.asked
    return f"{100 * asked.floor_share:.0f} in 100" if found.floors else ""


def _why(found: Overview, row: KnotResult) -> str:
    lot = found.results[row.lot.id]
    return why_mean_differs(row.efficiency, row.result.data.sample, lot.baseline.result.data.sample)


def _mean_lines(
    found: Overview, rows: list[KnotResult], chosen: KnotResult | None
) -> list[ResultLine]:
    """Why the plain mean is off: of the row chosen, or of the one it is furthest off for."""
    if found.asked.against is not Against.TYPICAL:
        return []
    off = [r for r in rows if mean_differs(r.efficiency)]
    if chosen is not None:
        off = [chosen] if chosen in off else []
    if not off:
        return []

    def gap(row: KnotResult) -> float:
        i, mean = row.efficiency.interval, row.efficiency.plain_mean
        return 0.0 if i is None or mean is None else abs(i.value - mean)

    worst = max(off, key=gap)
    name = short_name(worst, len(found.shown) > 1)[0]
    more = f" So it is with {count(len(off) - 1, 'other knot')} here." if len(off) > 1 else ""
    return [ResultLine(f"{name}: {_why(found, worst)}{more}", "muted", f"n:{row_key(worst)}")]


def _left_out_lines(rows: list[KnotResult]) -> list[ResultLine]:
    lines = []
    for row in rows:
        if row.whole is None:
            continue
        out = [m for m in row.marks if m.left_out]
        with_it = row.whole.efficiency.interval
        text = f"{row.key.knot}: {', '.join(f'{m.code} is left out, {m.left_out}' for m in out)}"
        if not out:
            text = f"{row.key.knot}: a straight pull is left out"
        text = text.rstrip(".") + "."
        if with_it is not None:
            text += (
                f" With it {percent(with_it.value)} % ({percent(with_it.low)} to "
                f"{percent(with_it.high)})."
            )
        lines.append(ResultLine(text, "ochre", f"n:{row_key(row)}"))
    return lines


def _host_lines(found: Overview, rows: list[KnotResult]) -> list[ResultLine]:
    mixed: set[str] = set()
    for results in found.shown:
        hosts = {r.key.host.called for r in rows if r.lot.id == results.baseline.lot.id}
        mixed |= hosts if len(hosts) > 1 else set()
    if not mixed:
        return []
    return [
        ResultLine(f"Different pins or hosts side by side: {', '.join(sorted(mixed))}.", "ochre")
    ]


def _sentence(found: Overview, chosen: KnotResult | None) -> str:
    if chosen is not None:
        return say_strength(chosen)
    if not found.rows:
        return ""
    if len(found.shown) == 1:
        return say_ladder(found.shown[0])
    rated = [r for r in found.rows if r.efficiency.interval is not None]
    thin = [r.baseline.lot.name for r in found.shown if r.baseline.median_n is None and r.knots]
    text = f"{count(len(rated), 'figure')} in {count(len(found.shown), 'lot')}; letters and "
    text += "comparisons hold within one lot only."
    if thin:
        text += f" No measured plain rope in {', '.join(thin)}."
    return text


def caveat_lines(rows: list[KnotResult]) -> list[ResultLine]:
    """What weakens the numbers: what is about the plain rope once, the rest with its knot."""
    found = dict.fromkeys(
        str(c) if "baseline" in c.kind or c.kind == "rating used" else f"{r.key.knot}: {c}"
        for r in rows
        for c in r.efficiency.caveats
    )
    return [ResultLine("  ·  ".join(found), "ochre")] if found else []


def nothing_words(found: Overview) -> str:
    """Why there is nothing to draw."""
    if not found.shown:
        return "Nothing has been pulled yet. Results appear here with the first inspected pull."
    base = found.shown[0].baseline
    if not found.rows and not base.marks:
        return f"Nothing of {base.lot.name} has been pulled and inspected yet."
    return "No pull fits what is chosen above."
