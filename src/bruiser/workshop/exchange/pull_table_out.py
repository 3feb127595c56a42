"""The pulls of a campaign as a plain pull table: strength pulls, one row each."""

from __future__ import annotations

from bruiser.core.records.layouts import End, PlaceKind
from bruiser.core.records.method_kinds import Tells
from bruiser.core.records.methods import tells
from bruiser.core.records.records import Finding, Gave, JamLevel, Role, Specimen
from bruiser.formats.pull_table import COLUMNS
from bruiser.workshop.logbook.entries import Entry, Logbook

_METHODS = {"slide test": "slide", "cord on rope": "slide", "stopper through a plate": "seat"}


def pull_rows(logbook: Logbook) -> tuple[list[dict[str, str]], int]:
    """A row for every inspected pull that counts; also how many had to be left out.

    Left out are pulls excluded from the results, and methods that the table has no row for.
    """
    found, left = [], 0
    days = sorted({e.pull.started_at[:10] for e in logbook.entries if e.pull is not None})
    for entry in logbook.entries:
        if entry.finding is None or entry.pull is None:
            continue
        method = entry.specimen.method.key
        known = method in _METHODS or tells(method, Tells.STRENGTH)
        if entry.excluded is not None or not known:
            left += 1
            continue
        found.append(_row(entry, entry.finding, days.index(entry.pull.started_at[:10]) + 1))
    return found, left


def _row(entry: Entry, finding: Finding, day: int) -> dict[str, str]:
    s, pull = entry.specimen, entry.pull
    owner = _owner(s, finding)
    row = dict.fromkeys(COLUMNS, "")
    row |= {
        "pull": s.code,
        "role": s.role.value,
        "cordage": s.lot.name,
        "condition": _condition(s),
        "cordage_b": "" if s.lot_b is None else s.lot_b.name,
        "peak": f"{finding.peak_load_n:.10g}",
        "unit": "N",
        "finding": _finding(s, finding, owner),
        "order": f"{s.queue_position}",
        "day": f"{day}",
        "technician": "" if pull is None else pull.technician,
        "note": finding.note,
    }
    if s.role is Role.KNOT:
        row |= _of_knots(s, finding, owner)
        row["method"] = _METHODS.get(s.method.key, "")
    return row


def _condition(s: Specimen) -> str:
    """What must be kept apart beside the lot and the knot, in words."""
    if s.role is Role.BASELINE:
        return "" if s.fixture is None else f"over {s.fixture.name}"
    pin = f"pin {1000 * s.pin_diameter_m:g} mm" if s.pin_diameter_m else ""
    words = [w for w in s.state_words if s.lot_b is None or w != f"to {s.lot_b.name}"]
    usual = [] if s.method.key != "ring load" else ["ring load"]
    return ", ".join(part for part in (pin, *usual, *words) if part)


def _of_knots(s: Specimen, finding: Finding, owner: End | None) -> dict[str, str]:
    a, b = s.knot_a, s.knot_b
    same = a is not None and b is not None and a.id == b.id
    seen = next((x for x in finding.inspections if x.end is not owner), None)
    seen = seen or next(iter(finding.inspections), None)
    row = {
        "knot": "" if a is None else a.title,
        "ends": "2" if same else "1",
        "knot_b": "" if b is None or same else b.title,
        "failed_end": "" if owner is None or b is None else owner.value,
    }
    if seen is not None:
        row["jam_level"] = "" if seen.jam_level is JamLevel.NOT_TRIED else seen.jam_level.value
        row["untie_s"] = "" if not seen.untie_s else f"{seen.untie_s:g}"
        row["gave_up"] = "yes" if seen.given_up else ""
    if finding.draws:
        row["draw_mm"] = f"{1000 * max(d.draw_m for d in finding.draws):g}"
    return row


def _owner(s: Specimen, finding: Finding) -> End | None:
    if finding.place is None or finding.gave in (Gave.STOPPED, Gave.VOID):
        return None
    return s.layout.place(finding.place).owner


def _finding(s: Specimen, finding: Finding, owner: End | None) -> str:
    if finding.gave in (Gave.STOPPED, Gave.VOID):
        return finding.gave.value
    if s.role is Role.BASELINE:
        clear = finding.place is not None and s.layout.place(finding.place).kind is PlaceKind.SPAN
        return "broke_clear" if clear else "broke_at_termination"
    if finding.gave is Gave.BROKE:
        return "broke_at_knot" if owner is not None else "broke_elsewhere"
    return finding.gave.value
