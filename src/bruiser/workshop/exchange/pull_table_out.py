"""The pulls of a campaign as a plain pull table, one row each."""

from __future__ import annotations

from bruiser.core.records.layouts import End, PlaceKind
from bruiser.core.records.readings import Reading, Takes, opens_by_hand, survived
from bruiser.core.records.records import Finding, Gave, JamLevel, Role, Specimen
from bruiser.formats.pull_table import COLUMNS
from bruiser.workshop.exchange.bringing_in import METHOD_KEYS, WITHOUT_PEAK
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.logbook import Logbook

_METHODS = {
    **{key: name for name, key in METHOD_KEYS.items() if name != "ramp"},
    "cord on rope": "slide",
    "slack and snatch": "shaking",
}


LOT_COLUMNS = ("diameter_mm", "material", "construction")
"""Facts of the lot beside the columns of the table, for whoever brings it in elsewhere."""


def pull_rows(logbook: Logbook) -> tuple[list[dict[str, str]], int]:
    """A row for every inspected pull that counts; also how many had to be left out.

    Left out are pulls that are excluded from the results.
    """
    found, left = [], 0
    days = sorted({e.pull.started_at[:10] for e in logbook.entries if e.pull is not None})
    for entry in logbook.entries:
        if entry.finding is None or entry.pull is None:
            continue
        if entry.excluded is not None:
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
        "condition": "" if s.role is Role.KNOT or s.fixture is None else f"over {s.fixture.name}",
        "cordage_b": "" if s.lot_b is None else s.lot_b.name,
        "peak": f"{finding.peak_load_n:.10g}",
        "unit": "N",
        "finding": _finding(s, finding, owner),
        "order": f"{s.queue_position}",
        "day": f"{day}",
        "technician": "" if pull is None else pull.technician,
        "note": finding.note,
        "diameter_mm": f"{1000 * s.lot.diameter_m:.10g}",
        "material": s.lot.material,
        "construction": s.lot.construction,
    }
    if s.role is Role.KNOT:
        row |= _of_knots(s, finding, owner)
        row["method"] = _METHODS.get(s.method.key, "")
        row |= _of_method(row["method"], entry)
    return row


def _of_method(method: str, entry: Entry) -> dict[str, str]:
    """What a method measured besides the peak, in the columns of the table."""
    read: dict[Takes, list[Reading]] = {}
    for reading in entry.readings:
        read.setdefault(reading.takes, []).append(reading)

    def value(takes: Takes, at: int = -1) -> str:
        found = read.get(takes, [])
        said = found[at].value if found else None
        return "" if said is None else f"{said:.10g}"

    def answer(takes: Takes) -> str:
        return "" if takes not in read else "no" if read[takes][-1].refused else "yes"

    finding = entry.finding
    gone = finding is not None and finding.gave in (Gave.CAME_OUT, Gave.CAPSIZED)
    row: dict[str, str] = {}
    if method in ("cycles", "shaking"):
        takes = Takes.CYCLE if method == "cycles" else Takes.SHAKE
        done = survived(entry.readings, takes)
        row = {"cycles": f"{done + gone}", "cycles_end": "failed" if gone else "survived"}
    elif method == "slide":
        if Takes.SLID in read:
            slid = read[Takes.SLID][-1]
            row = {"peak": f"{slid.load_n:.10g}", "finding": "slid" if slid.value else "stopped"}
        row["slides_by_hand"] = answer(Takes.BY_HAND)
        if Takes.SHEATH in read:
            row["sheath"] = read[Takes.SHEATH][-1].note
        levels = [] if finding is None else [x.jam_level for x in finding.inspections]
        tried = [level for level in levels if level is not JamLevel.NOT_TRIED]
        if tried:
            row["frees_by_hand"] = "yes" if all(map(opens_by_hand, tried)) else "no"
    elif method == "release":
        row = {"release_force": value(Takes.RELEASE), "freed": answer(Takes.RELEASE)}
        row["freed_itself"] = "yes" if gone and Takes.RELEASE not in read else "no"
        if Takes.RELEASE in read:
            row["peak"] = f"{read[Takes.RELEASE][-1].load_n:.10g}"
    elif method == "advantage" and Takes.TWO_LOADS in read:
        applied, kept = read[Takes.TWO_LOADS][-1].load_n, read.get(Takes.KEPT)
        row = {"hand_load": value(Takes.TWO_LOADS), "applied_load": f"{applied:.10g}"}
        if kept and kept[-1].value is not None:
            row["kept_load"] = f"{applied * kept[-1].value:.10g}"
    elif method == "retention" and Takes.MOVED in read:
        after = value(Takes.MOVED) if len(read[Takes.MOVED]) > 1 else "0"
        count = entry.specimen.method.value("count")
        row = {"before_load": value(Takes.MOVED, 0), "after_load": after, "cycles": f"{count:g}"}
    elif method == "bulk" and Takes.WIDTH in read:
        wide = (read[Takes.WIDTH][-1].value or 0.0) / entry.specimen.lot.diameter_m
        row = {"width_d": f"{wide:.10g}", "ledge_force": value(Takes.LEDGE)}
        row["passed"] = answer(Takes.LEDGE)
    if method in WITHOUT_PEAK:
        row["finding"] = finding.gave.value if finding is not None and gone else ""
        if finding is not None and not finding.peak_load_n and "peak" not in row:
            row["peak"] = ""
    return row


def _kept_apart(s: Specimen) -> str:
    """What is kept apart beside lot and knot, in words that go behind the knot's name."""
    pin = f"pin {1000 * s.pin_diameter_m:g} mm" if s.pin_diameter_m else ""
    method = s.method.direction or s.method.key
    known = (f"to {s.lot_b.name}" if s.lot_b is not None else "", method)
    words = [w for w in s.state_words if w not in known or s.method.key not in _METHODS]
    words = [w for w in words if s.lot_b is None or w != known[0]]
    return ", ".join(part for part in (pin, *words) if part)


def _of_knots(s: Specimen, finding: Finding, owner: End | None) -> dict[str, str]:
    a, b = s.knot_a, s.knot_b
    same = a is not None and b is not None and a.id == b.id
    seen = next((x for x in finding.inspections if x.end is not owner), None)
    seen = seen or next(iter(finding.inspections), None)
    apart = _kept_apart(s)
    behind = f" ({apart})" if apart else ""
    row = {
        "knot": "" if a is None else f"{a.title}{behind}",
        "ends": "2" if same else "1",
        "knot_b": "" if b is None or same else f"{b.title}{behind}",
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
