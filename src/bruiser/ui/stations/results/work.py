"""The sheet of work: seat, release, advantage, retention and bulk of every knot that has them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

from bruiser.core.statistics.strength import Interval
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.rungs import Rung, Rungs, rungs_figure
from bruiser.ui.stations.results.grip import work_row_key
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.ui.stations.results.slip import only_width
from bruiser.ui.stations.results.strength import about_lots
from bruiser.workshop.groups.work_results import DamageRow, EdgeRow, EyesRow, WorkRow
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import percent
from bruiser.workshop.results.work_words import (
    answers,
    counted,
    hand_loads_of,
    kept_of,
    loads_of,
    say_damage,
    say_edge,
    say_eyes,
    say_work,
    spread_of,
)


def work_sheet(found: Overview, logbook: Logbook, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the row talked about."""
    rows = [r for r in found.work if any(_rungs(r, units, None))]
    if not rows and not (found.edges or found.eyes or found.damage):
        return Sheet(
            about=about_lots(found, units),
            main=None,
            sentence="",
            empty="Nothing was tried here that holds, lets go, hauls, binds or stops: plan a "
            "release, advantage or retention test, a stopper through a plate, or bulk and snag.",
        )
    theory = {r.knot.id: _theory(logbook, r) for r in rows}
    behind = {f"n:work|{work_row_key(r)}": Behind(r.key.knot, r.pull_ids) for r in rows}
    chart = Rungs(
        title="At work",
        rows=(
            *(rung for r in rows for rung in _rungs(r, units, theory[r.knot.id])),
            *(_edge_rung(e, units) for e in found.edges),
            *(_damage_rung(d, units) for d in found.damage),
            *(_eyes_rung(e, units) for e in found.eyes),
        ),
        headings=("typical", "95 % interval", "counted"),
        widths=(22.0, 38.0, 52.0),
        label="share, of what stands under each name",
    )
    pointed = chosen.partition("#")[0]
    behind |= {
        _edge_key(e): Behind(f"Plain rope over {e.edge}", e.found.pull_ids) for e in found.edges
    }
    row = next((r for r in rows if work_row_key(r) == pointed), rows[0] if rows else None)
    for y in found.eyes:
        behind[_eyes_key(y)] = Behind(f"The two eyes of {y.name}", y.pull_ids)
    edges = [(say_edge(e, units), _edge_key(e)) for e in found.edges]
    for d in found.damage:
        behind[_damage_key(d)] = Behind(say_damaged(d), d.found.pull_ids)
    edges += [(say_damage(d, units), _damage_key(d)) for d in found.damage]
    edges += [(say_eyes(y, units), _eyes_key(y)) for y in found.eyes]
    said = [] if row is None else say_work(row, units, theory[row.knot.id])
    own = "" if row is None else f"n:work|{work_row_key(row)}"
    lines = [(s, own) for s in said if s] + edges
    note = ResultLine(
        "Slack bindings and lock-offs that slipped back are counted, not averaged; from one "
        "reading no interval follows.",
        "muted",
    )
    more = [ResultLine(text, "ink", key) for text, key in lines[1:]]
    return Sheet(
        about=about_lots(found, units),
        main=only_width(partial(rungs_figure, chart)),
        sentence=lines[0][0],
        lines=(*more, note),
        behind=behind,
    )


def _edge_key(row: EdgeRow) -> str:
    return f"n:edge|{row.lot.id}|{row.edge}"


def _edge_rung(row: EdgeRow, units: UnitChoice) -> Rung:
    words = f"over {row.edge}, breaks at the edge, of the rope"
    said = ("never broke there", "broke there")
    return _held_rung(row, units, _edge_key(row), ("Plain rope", words), said)


def _damage_key(row: DamageRow) -> str:
    return f"n:damage|{row.lot.id}|{'' if row.knot is None else row.knot.id}|{row.done}"


def say_damaged(row: DamageRow) -> str:
    """A rope that was cut into, in a few words."""
    return "Plain rope" if row.knot is None else row.knot.title


def _damage_rung(row: DamageRow, units: UnitChoice) -> Rung:
    words = row.done if row.knot is None else f"{row.done}, the cut in its eye"
    said = ("never gave", "gave")
    return _held_rung(row, units, _damage_key(row), (say_damaged(row), words), said)


def _held_rung(
    row: EdgeRow | DamageRow,
    units: UnitChoice,
    key: str,
    name: tuple[str, str],
    said: tuple[str, str],
) -> Rung:
    """A rung of a rope that gives at a place of its own; `said` is "never gave" and "gave"."""
    f = row.found
    typical, sides = f"≥ {units.force_text(f.at_least_n)}", said[0]
    if f.interval is not None:
        typical = units.force_text(f.interval.value)
        sides = loads_of(f.interval, units, row.lot_n)
    share = f.share
    return Rung(
        key=key.removeprefix("n:"),
        name=name[0],
        words=name[1],
        value=None if share is None else share.value,
        low=None if share is None else share.low,
        high=None if share is None else min(share.high, 1.5),
        columns=(typical, sides, counted(f, said[1])),
        tone="plum-soft",
        behind=key,
    )


def _eyes_key(row: EyesRow) -> str:
    return f"n:eyes|{row.lot.id}|{row.name}"


def _eyes_rung(row: EyesRow, units: UnitChoice) -> Rung:
    first, _ = row.shares
    apart = units.length_text(abs(row.difference_m))
    words = f"load in the first of two eyes on one pin; {count(len(row.pull_ids), 'pull')}"
    return Rung(
        key=f"eyes|{row.lot.id}|{row.name}",
        name=row.name,
        words=words,
        value=first,
        low=first,
        high=first,
        columns=(f"{percent(first)} %", "", f"eyes {apart} apart"),
        tone="plum-soft",
        behind=_eyes_key(row),
    )


def _theory(logbook: Logbook, row: WorkRow) -> float | None:
    structure = logbook.catalogue.get(row.knot.structure)
    return None if structure is None else structure.advantage


def _rungs(row: WorkRow, units: UnitChoice, theory: float | None) -> Iterator[Rung]:
    """A rung for everything that was measured of a row beside its grip."""
    work = row.result
    if work.seat is not None:
        s = work.seat
        typical = f"≥ {units.force_text(s.at_least_n)}"
        sides = "never pulled through"
        if s.interval is not None:
            typical, sides = (
                units.force_text(s.interval.value),
                loads_of(s.interval, units, row.lot_n),
            )
        words = "pulls through, of the rope"
        yield _rung(row, "seat", words, s.share, (typical, sides, counted(s, "through")))
    if work.release is not None:
        r = work.release
        itself = r.freed_itself
        parts = [] if r.freed is None else [f"{percent(r.freed.value)} % freed"]
        parts += [] if itself is None else [f"{percent(itself.value)} % by itself"]
        freed = ", ".join(parts)
        words = f"force on the tail, of the load; {count(r.n, 'release')}"
        yield _rung(row, "release", words, r.force_share, (*_shares(r.force_share), freed))
    if work.advantage is not None:
        a = work.advantage
        real = a.advantage
        times = "" if real is None else f"raises {real.value:.2f} times"
        times += f" of {theory:g}" if theory and real is not None else ""
        words = f"tension kept after the lock-off; {count(a.n, 'pull')}"
        yield _rung(row, "advantage", words, a.kept, (*_shares(a.kept), times))
    if work.retention is not None:
        k = work.retention
        words = f"grip kept after the squeezes; {count(k.n, 'binding')}"
        said = f"{k.slack} came slack; cut off {answers(k.cut)}"
        yield _rung(row, "retention", words, k.kept, (*_shares(k.kept), said))
    if work.bulk is not None:
        b = work.bulk
        wide = "" if b.width_d is None else f"{b.width_d.value:.1f} d wide"
        force = "" if b.force_n is None else units.hand_force_text(b.force_n.value)
        sides = "" if b.force_n is None else hand_loads_of(b.force_n, units)
        words = f"over the ledge; {count(b.n, 'knot')}"
        yield _rung(row, "bulk", words, None, (force, sides, wide))


def _shares(found: Interval | None) -> tuple[str, str]:
    return ("", "") if found is None else (kept_of(found), spread_of(found))


def _rung(
    row: WorkRow,
    what: str,
    words: str,
    found: Interval | None,
    columns: tuple[str, str, str],
) -> Rung:
    one = found is not None and math.isinf(found.high)
    return Rung(
        key=f"{work_row_key(row)}#{what}",
        name=row.key.knot,
        words=words,
        value=None if found is None else found.value,
        low=None if found is None else found.value if one else found.low,
        high=None if found is None else found.value if one else min(found.high, 1.5),
        columns=columns,
        tone="plum-soft",
        behind=f"n:work|{work_row_key(row)}",
    )
