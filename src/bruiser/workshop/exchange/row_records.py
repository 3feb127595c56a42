"""What a row of a table says of the end of a pull, as places, inspections, draws and a note."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from typing import Any

from bruiser.core.records.layouts import End, Layout, PlaceKind
from bruiser.core.records.records import JamLevel, KnotInspection, Role, Specimen, TailDraw

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


def note_of(row: dict[str, Any]) -> str:
    """What a row says that has no other place."""
    said = [row.get("note", "")]
    day, slip, wraps = row.get("day"), row.get("first_slip"), row.get("wraps")
    said.append(f"day {day:g}" if isinstance(day, float) else "")
    said.append(f"first slip at {slip:.0f} N" if slip is not None else "")
    said.append(f"{wraps} wraps" if wraps is not None else "")
    return "; ".join(part for part in said if part)
