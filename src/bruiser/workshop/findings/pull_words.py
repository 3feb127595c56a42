"""A pull in words, as it stands behind a number."""

from __future__ import annotations

from collections.abc import Iterable

from bruiser.core.records.records import JAM_WORDS, JamLevel
from bruiser.core.units import UnitChoice
from bruiser.workshop.findings.method_summary import method_summary
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.lines import outcome_words
from bruiser.workshop.logbook.logbook import Logbook


def pull_words(entry: Entry, units: UnitChoice) -> str:
    """The pull on several lines; why it is left out comes first."""
    f, s = entry.finding, entry.specimen
    if entry.pull is None or f is None:
        return ""
    parts = []
    if entry.excluded is not None:
        parts.append(f"Left out: {entry.excluded.reason}")
    load = units.force_text(f.peak_load_n)
    if s.layout.shares > 1:
        load += f", {units.force_text(f.peak_load_n / s.layout.shares)} in each of its legs"
    parts += [f"{s.code} · {s.title}", f"{outcome_words(entry)}, {load}"]
    for draw in f.draws:
        label = next(t.label for t in s.layout.tails if t.key == draw.key)
        ratio = draw.draw_m / s.lot.diameter_m
        parts.append(f"{label} drew {units.length_text(draw.draw_m)} ({ratio:.1f} d)")
    for seen in f.inspections:
        if seen.jam_level is not JamLevel.NOT_TRIED:
            took = "" if seen.untie_s is None else f" in {seen.untie_s:.0f} s"
            parts.append(f"knot {seen.end}: {JAM_WORDS[seen.jam_level]}{took}")
    parts += method_summary(entry.readings, s, units)
    parts.append(f"pulled {entry.pull.started_at[:10]} on the {entry.pull.instrument}")
    return "\n".join(parts)


def pull_rows(
    logbook: Logbook, pulls: Iterable[str], units: UnitChoice
) -> list[tuple[str, tuple[str, ...]]]:
    """Some pulls as rows: code, outcome (or that it is left out), and load, by pull id."""
    rows: list[tuple[str, tuple[str, ...]]] = []
    for pull_id in pulls:
        entry = logbook.by_pull.get(pull_id)
        if entry is None or entry.finding is None:
            continue
        load = units.force_text(entry.finding.peak_load_n)
        out = "" if entry.excluded is None else "left out; "
        rows.append((pull_id, (entry.specimen.code, out + outcome_words(entry), load)))
    return rows
