"""What a row of a table says of the end of a pull, as places, inspections, draws and a note."""

from __future__ import annotations

import uuid
from datetime import date, datetime, timedelta
from typing import Any

from bruiser.core.records.layouts import End, Layout, PlaceKind
from bruiser.core.records.readings import WOULD_NOT, Reading, Takes
from bruiser.core.records.records import (
    Finding,
    JamLevel,
    KnotInspection,
    Pull,
    Role,
    Specimen,
    TailDraw,
)
from bruiser.workshop.exchange.matching import SPACE

AT_KNOT = ("broke_at_knot", "came_out", "capsized", "slid")
"""Findings in which the knot gave, and not something else."""
_OFF_KNOT = (PlaceKind.TERMINATION, PlaceKind.PIN, PlaceKind.HOST, PlaceKind.ANCHOR)


def moment_of(said: date | float | None, now: str, at: int) -> str:
    """When a row was pulled: its date, at noon and in the order of the rows, or now."""
    if isinstance(said, date):
        start = datetime.fromisoformat(f"{said.isoformat()}T12:00:00+00:00")
        return (start + timedelta(seconds=at % 36_000)).isoformat(timespec="milliseconds")
    start = datetime.fromisoformat(now)
    return (start + timedelta(milliseconds=at)).isoformat(timespec="milliseconds")


def place_of(layout: Layout, role: Role, finding: str, failed: End) -> str | None:
    """Where it gave, by the key of a place; None where nothing did."""
    if finding in ("stopped", "void"):
        return None
    low = failed.value.lower()
    if finding == "broke_at_knot":
        nips = [p.key for p in layout.places if p.kind is PlaceKind.NIP and p.owner is failed]
        return nips[0] if nips else f"knot_{low}"
    if finding in AT_KNOT:
        return f"knot_{low}"
    clear = role is Role.BASELINE and finding == "broke_clear"
    kinds = (PlaceKind.SPAN,) if clear else _OFF_KNOT
    found = [p.key for p in layout.places if p.kind in kinds and p.owner is None]
    if not found:
        found = [p.key for p in layout.places if p.kind is PlaceKind.SPAN]
    return found[0]


def inspections_of(
    layout: Layout, specimen: Specimen, finding: str, failed: End, row: dict[str, Any]
) -> tuple[KnotInspection, ...]:
    """How the knots that held were untied, where the row says so."""
    level, seconds = row.get("jam_level", ""), row.get("untie_s")
    if not level and row.get("frees_by_hand"):
        level = "hand" if row["frees_by_hand"] == "yes" else "tool"
    if not level and seconds is None:
        return ()
    ends = list(layout.ends)
    if specimen.knot_b is not None and finding in AT_KNOT:
        ends = [end for end in ends if end is not failed]
    return tuple(
        KnotInspection(
            end=end,
            jam_level=JamLevel(level or "not_tried"),
            untie_s=seconds,
            gave_up=row.get("gave_up") == "yes",
        )
        for end in ends
    )


def draws_of(layout: Layout, row: dict[str, Any]) -> tuple[TailDraw, ...]:
    """How far the first tail drew, where the row says so."""
    drawn = row.get("draw_mm")
    if drawn is None or not layout.tails:
        return ()
    return (TailDraw(key=layout.tails[0].key, draw_m=drawn),)


def readings_of(
    row: dict[str, Any], specimen: Specimen, pull: Pull, finding: Finding
) -> tuple[Reading, ...]:
    """What a method measured besides the peak, as the bench would have stored it."""
    peak, taken = row.get("peak") or 0.0, _taken(row, specimen)
    return tuple(
        Reading(
            id=str(uuid.uuid5(SPACE, f"reading {n} {pull.id}")),
            pull_id=pull.id,
            made_at=finding.made_at,
            takes=takes,
            number=number,
            load_n=peak if load is None else load,
            value=value,
            note=note,
        )
        for n, (takes, number, load, value, note) in enumerate(taken)
    )


_Taken = tuple[Takes, int, float | None, float | None, str]


def _taken(row: dict[str, Any], specimen: Specimen) -> list[_Taken]:
    """Of what, at which number, at which load, its value and note."""
    cycles = row.get("cycles") or 0
    # What failed did so in the one after the last it survived.
    whole = cycles - 1 if row.get("cycles_end") == "failed" else cycles
    match row.get("method"):
        case "cycles" if whole > 0:
            return [(Takes.CYCLE, whole, None, None, "")]
        case "shaking" if whole > 0:
            return [(Takes.SHAKE, whole, None, None, "")]
        case "slide":
            return _of_slide(row)
        case "release" if row.get("release_force") is not None:
            freed = "" if row.get("freed") != "no" else WOULD_NOT
            return [(Takes.RELEASE, 1, None, row["release_force"], freed)]
        case "advantage":
            applied, kept = row["applied_load"], row.get("kept_load")
            found: list[_Taken] = [(Takes.TWO_LOADS, 1, applied, row["hand_load"], "")]
            if kept is not None:
                found.append((Takes.KEPT, 1, applied, kept / applied, ""))
            return found
        case "retention":
            two = (row["before_load"], row["after_load"])
            return [(Takes.MOVED, n, 0.0, force, "") for n, force in enumerate(two, 1)]
        case "bulk":
            wide = row["width_d"] * specimen.lot.diameter_m
            found = [(Takes.WIDTH, 1, 0.0, wide, "")]
            if row.get("ledge_force") is not None:
                note = WOULD_NOT if row.get("passed") == "no" else ""
                found.append((Takes.LEDGE, 1, 0.0, row["ledge_force"], note))
            return found
    return []


def _of_slide(row: dict[str, Any]) -> list[_Taken]:
    slid = row.get("finding") in ("slid", "came_out", "capsized")
    found: list[_Taken] = [(Takes.SLID, 1, None, float(slid), "")]
    if row.get("slides_by_hand"):
        note = "" if row["slides_by_hand"] == "yes" else WOULD_NOT
        found.append((Takes.BY_HAND, 1, 0.0, None, note))
    if row.get("sheath"):
        found.append((Takes.SHEATH, 1, 0.0, None, row["sheath"]))
    return found


def note_of(row: dict[str, Any]) -> str:
    """What a row says that has no other place."""
    said = [row.get("note", "")]
    day, slip, wraps = row.get("day"), row.get("first_slip"), row.get("wraps")
    said.append(f"day {day:g}" if isinstance(day, float) else "")
    said.append(f"first slip at {slip:.0f} N" if slip is not None else "")
    said.append(f"{wraps} wraps" if wraps is not None else "")
    return "; ".join(part for part in said if part)
