"""A table of pulls brought into a campaign: what it would make, then all of it as one step."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from bruiser.core.errors import InputError, Refused
from bruiser.core.records.layouts import End, lay
from bruiser.core.records.methods import RAMP, STRAIGHT, MethodPlan
from bruiser.core.records.outcomes import evidence
from bruiser.core.records.readings import Reading
from bruiser.core.records.records import (
    Finding,
    Gave,
    Knot,
    Lot,
    Pull,
    PullEnd,
    Role,
    Specimen,
)
from bruiser.formats.column_mapping import TableMapping
from bruiser.formats.mapped_table import MOST_PROBLEMS, MappedTable, TableProblem
from bruiser.store.briefs import OwnStructure
from bruiser.workshop.exchange.matching import PIN, SPACE, Matcher
from bruiser.workshop.exchange.row_records import (
    AT_KNOT,
    draws_of,
    inspections_of,
    moment_of,
    note_of,
    place_of,
    readings_of,
)
from bruiser.workshop.logbook.logbook import Logbook

SPAN_M = 0.4
METHOD_KEYS = {
    "ramp": RAMP,
    "stepped": "stepped load",
    "cycles": "cycles",
    "shaking": "shaking under load",
    "hold": "sustained hold",
    "slide": "slide test",
    "release": "release test",
    "advantage": "advantage test",
    "retention": "retention test",
    "seat": "stopper through a plate",
    "bulk": "bulk and snag",
}
"""Methods of a pull table, and as which the campaign knows them."""
WITHOUT_PEAK = ("advantage", "retention", "bulk", "release")
"""Methods that may say nothing of what gave: nothing did."""
_NEEDS = {
    "advantage": ("hand_load", "applied_load"),
    "retention": ("before_load", "after_load"),
    "bulk": ("width_d",),
}
_GAVE = {
    "broke_at_knot": Gave.BROKE,
    "came_out": Gave.CAME_OUT,
    "capsized": Gave.CAPSIZED,
    "slid": Gave.CAME_OUT,
    "broke_elsewhere": Gave.BROKE,
    "broke_clear": Gave.BROKE,
    "broke_at_termination": Gave.BROKE,
    "stopped": Gave.STOPPED,
    "void": Gave.VOID,
}
_OF_PLAIN = ("broke_clear", "broke_at_termination", "stopped", "void")


@dataclass(frozen=True, kw_only=True)
class BroughtRow:
    """A specimen with its pull and finding, as a row of a table made them."""

    specimen: Specimen
    pull: Pull
    finding: Finding
    readings: tuple[Reading, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ImportPlan:
    """What a table would make of a campaign.

    Parameters
    ----------
    lots_as, knots_as : dict
        What the table calls them, to the lot's name, or the structure's, that is meant.
    already : int
        Rows that came in before.
    problems : tuple of TableProblem
        What stands in the way; nothing is stored while there are any.
    """

    lots: tuple[Lot, ...] = ()
    structures: tuple[OwnStructure, ...] = ()
    knots: tuple[Knot, ...] = ()
    rows: tuple[BroughtRow, ...] = ()
    lots_as: dict[str, str] = field(default_factory=dict)
    knots_as: dict[str, str] = field(default_factory=dict)
    already: int = 0
    problems: tuple[TableProblem, ...] = ()
    count: int = 0


def plan_import(
    logbook: Logbook, table: MappedTable, mapping: TableMapping, source: str, now: str
) -> ImportPlan:
    """Look at what a table would make; nothing is stored.

    Parameters
    ----------
    source : str
        Name of the file, kept with every pull.
    now : str
        The time, for what the table says no date of.
    """
    work = _Planner(logbook, table, mapping, source[:120], now)
    work.plan()
    return work.finish()


class _Planner:
    """Makes records of the rows of one table."""

    def __init__(
        self, logbook: Logbook, table: MappedTable, mapping: TableMapping, source: str, now: str
    ) -> None:
        self.logbook, self.table, self.mapping = logbook, table, mapping
        self.source, self.now = source, now
        self.problems = list(table.problems)
        self.count = table.count
        self.matcher = Matcher(logbook, mapping, now, self.add)
        self.rows: list[BroughtRow] = []
        self.already = 0
        codes = logbook.codes()
        self._taken_codes = set(codes)
        self._known_ids = set(codes.values())
        self._place = logbook.last_place() + 1 if codes else 0
        peaks = [p for p in table.values.get("peak", ()) if p]
        self._capacity_n = 2.0 * max(peaks, default=1000.0)

    def add(self, line: int, key: str, said: str, remedy: str = "") -> None:
        """Keep a problem, under what the table calls the column."""
        self.count += 1
        if len(self.problems) < MOST_PROBLEMS:
            column = self.table.headings.get(key, key)
            self.problems.append(TableProblem(line=line, column=column, said=said, remedy=remedy))

    def plan(self) -> None:
        """Go through the rows, those that have a problem left out."""
        for key in ("cordage", "peak", "finding"):
            if key not in self.table.values and len(self.table):
                self.add(0, key, "no column says this.", "Choose one, or say it for all rows.")
        wrong = {p.line for p in self.table.problems}
        keys = list(self.table.values)
        columns = [self.table.values[key] for key in keys]
        codes: set[str] = set()
        for at, (line, *cells) in enumerate(zip(self.table.lines, *columns, strict=True)):
            row: dict[str, Any] = dict(zip(keys, cells, strict=True))
            code = str(row.get("pull") or f"row {line}")
            if code in codes:
                self.add(line, "pull", f"{code} stands there twice.", "Number the pulls.")
                continue
            codes.add(code)
            if line in wrong:
                self.matcher.look(row)
            elif self._sensible(line, row):
                self._bring(at, line, code, row)

    def _sensible(self, line: int, row: dict[str, Any]) -> bool:
        method = row.get("method", "")
        if not row.get("finding") and method in WITHOUT_PEAK:
            row["finding"] = "stopped"
        finding = row.get("finding", "")
        plain = row["role"] == "baseline"
        before = self.count
        if not row.get("cordage"):
            self.add(line, "cordage", "is empty.", "Say which cordage, or one for all rows.")
        if not finding:
            self.add(line, "finding", "is empty.", "Say what gave, or “void”.")
        elif plain and finding not in _OF_PLAIN:
            self.add(line, "finding", "plain rope has no knot that could do this.")
        elif not plain and finding in ("broke_clear", "broke_at_termination"):
            row["finding"] = "broke_elsewhere"
        peak = row.get("peak")
        for needed in _NEEDS.get(method, ()) if finding != "void" else ():
            if row.get(needed) is None:
                self.add(line, needed, "is empty.")
        if plain and method not in ("", "ramp"):
            self.add(line, "method", "a pull of plain rope is a ramp.")
        if finding != "void" and not peak and (peak is not None or method not in _NEEDS):
            self.add(line, "peak", "is empty." if peak is None else "must be above zero.")
        if plain and row.get("knot"):
            self.add(line, "knot", "a pull of plain rope has no knot.")
        if not plain and not row.get("knot"):
            self.add(line, "knot", "is empty.")
        if row.get("ends") not in (None, 1, 2):
            self.add(line, "ends", "is neither 1 nor 2.")
        if row.get("knot_b") and finding in AT_KNOT and not row.get("failed_end"):
            self.add(line, "failed_end", "say which of the two knots gave, A or B.")
        return self.count == before

    def _bring(self, at: int, line: int, code: str, row: dict[str, Any]) -> None:
        lot = self.matcher.lot(line, row, row["cordage"], row.get("condition") or "")
        other = None
        if row.get("cordage_b"):
            other = self.matcher.lot(line, row, row["cordage_b"], row.get("condition") or "")
        knots = [
            self.matcher.knot(line, name) for name in (row.get("knot"), row.get("knot_b")) if name
        ]
        if lot is None or None in knots or (row.get("cordage_b") and other is None):
            return
        made = self._id(code, row)
        if made in self._known_ids:
            self.already += 1
            return
        self._known_ids.add(made)
        try:
            specimen = self._specimen(made, at, row, lot, other, [k for k in knots if k])
            found = self._found(specimen, at, row)
        except (InputError, ValueError) as error:
            where = error.where if isinstance(error, InputError) else "finding"
            self.add(line, where or "finding", str(error))
            return
        unique = code if code not in self._taken_codes else f"{code}/{made[:6]}"
        self._taken_codes.add(unique)
        specimen = replace(specimen, code=unique)
        pull, finding = found
        self.rows.append(
            BroughtRow(
                specimen=specimen,
                pull=pull,
                finding=finding,
                readings=readings_of(row, specimen, pull, finding),
            )
        )

    def _id(self, code: str, row: dict[str, Any]) -> str:
        said = [code, *(f"{key}={row[key]}" for key in sorted(row) if row[key] not in (None, ""))]
        return str(uuid.uuid5(SPACE, "\x1f".join(said)))

    def _specimen(
        self,
        made: str,
        at: int,
        row: dict[str, Any],
        lot: Lot,
        other: Lot | None,
        knots: Sequence[Knot],
    ) -> Specimen:
        layout = "baseline"
        first, second = (*knots, None, None)[:2]
        if first is not None:
            layout = self.matcher.catalogue[first.structure].layout
            if row.get("ends") == 2 and second is None:
                if layout != "loop_pair":
                    raise InputError(f"{first.name} is not tied at both ends.", where="ends")
                second = first
            elif second is not None and {
                self.matcher.catalogue[k.structure].layout for k in (first, second)
            } != {"loop_pair"}:
                said = f"{first.name} and {second.name} are not tied at two ends of one piece."
                raise InputError(said, where="knot_b")
            elif second is None and layout == "loop_pair":
                layout = "loop_single"
        method = MethodPlan(STRAIGHT if first is None else METHOD_KEYS[row.get("method") or "ramp"])
        if row.get("cycles") and method.key in ("cycles", "shaking under load", "retention test"):
            method = replace(method, values=(("count", float(row["cycles"])),))
        return Specimen(
            id=made,
            code="",
            role=Role.BASELINE if first is None else Role.KNOT,
            lot=lot,
            layout_key=layout,
            queue_position=self._place + at,
            span_m=SPAN_M,
            pin_diameter_m=_pin_m(row.get("knot", "")),
            knot_a=first,
            knot_b=second,
            note=f"from {self.source}",
            method=method,
            lot_b=other,
        )

    def _found(self, specimen: Specimen, at: int, row: dict[str, Any]) -> tuple[Pull, Finding]:
        layout = lay(specimen.layout_key)
        finding, peak = row["finding"], row.get("peak") or 0.0
        failed = End(row.get("failed_end") or "A") if specimen.knot_b is not None else End.A
        place = place_of(layout, specimen.role, finding, failed)
        gave = _GAVE[finding]
        evidence(specimen.role, layout, gave, place)
        when = moment_of(row.get("day"), self.now, at)
        technician = row.get("technician", "")
        pull = Pull(
            id=str(uuid.uuid5(SPACE, f"pull {specimen.id}")),
            specimen_id=specimen.id,
            started_at=when,
            instrument=f"table, {self.source}",
            sample_rate_hz=1.0,
            rate_m_s=0.0,
            capacity_n=self._capacity_n,
            resolution_n=1.0,
            technician=technician,
            ended_at=when,
            end=PullEnd.STOPPED if gave is Gave.STOPPED else PullEnd.GAVE,
        )
        found = Finding(
            id=str(uuid.uuid5(SPACE, f"finding {specimen.id}")),
            pull_id=pull.id,
            made_at=when,
            gave=gave,
            place=place,
            peak_load_n=peak,
            inspections=inspections_of(layout, specimen, finding, failed, row),
            draws=draws_of(layout, row),
            note=note_of(row),
            void_reason=(row.get("note") or "void in the table") if gave is Gave.VOID else "",
            by=technician,
        )
        return pull, found

    def finish(self) -> ImportPlan:
        """The plan, its problems in the order of the rows."""
        lots_as = {k[0]: lot.name for k, lot in self.matcher.lots.items() if lot is not None}
        return ImportPlan(
            lots=tuple(self.matcher.new_lots.values()),
            structures=tuple(self.matcher.structures.values()),
            knots=tuple(self.matcher.new_knots.values()),
            rows=tuple(self.rows),
            lots_as=lots_as,
            knots_as={
                name: replace(k, name=self.matcher.catalogue[k.structure].name).title
                for name, k in self.matcher.knots.items()
                if k is not None
            },
            already=self.already,
            problems=tuple(sorted(self.problems, key=lambda p: p.line)),
            count=self.count,
        )


def _pin_m(knot: str) -> float:
    """The pin that stands in brackets behind a knot's name, in metre; none is 0."""
    found = PIN.search(knot)
    return 0.0 if found is None else float(found[1]) / 1000


def refuse_with(plan: ImportPlan) -> None:
    """Raise for the first problem of a plan.

    Raises
    ------
    InputError
        Naming row and column, and how many more there are.
    Refused
        If there is nothing to bring in.
    """
    if plan.problems:
        more = f" ({plan.count - 1} more)" if plan.count > 1 else ""
        first = plan.problems[0]
        raise InputError(f"{first}{more}", where=f"{first.line}:{first.column}")
    if not plan.rows:
        raise Refused(f"Nothing new: {plan.already} rows came in before.")
