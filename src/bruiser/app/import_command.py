"""``bruiser-cli import``: a Data Package or a table of pulls into a campaign."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from bruiser.app.terminal import terminal_progress
from bruiser.core.errors import InputError
from bruiser.formats.column_mapping import TableMapping, read_mapping
from bruiser.formats.sheets import SheetRows, read_sheets
from bruiser.store.places import open_place
from bruiser.workshop.exchange.bring_in_command import bring_in, look_at_table, recognised
from bruiser.workshop.exchange.bringing_in import ImportPlan
from bruiser.workshop.exchange.packages import package_into
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

_MOST_SAID = 20


def import_command(options: argparse.Namespace) -> str | tuple[str, int]:
    """Bring in what was named; returns what is printed, and the status where it is not 0.

    Raises
    ------
    BruiserError
        If it cannot be read, or the campaign not be written; nothing is stored then.
    """
    if options.source.is_dir():
        return _package(options)
    sheet = _sheet(read_sheets(options.source), options.sheet, options.source)
    workshop = open_workshop(options.file, read_only=options.preview)
    try:
        logbook = read_logbook(workshop)
        mapping = recognised(sheet, logbook) if options.mapping is None else _mapping(options)
        plan = look_at_table(workshop, logbook, sheet, mapping, options.source.name)
        if not options.preview and not plan.problems and (plan.rows or not plan.already):
            bring_in(workshop, plan, options.source)
    finally:
        workshop.close()
    code = 2 if plan.problems else 0
    if options.json:
        return json.dumps(_said(plan, mapping), ensure_ascii=False), code
    if code and not options.preview:
        raise InputError("\n".join(_lines(plan, options.preview)))
    return "\n".join(_lines(plan, options.preview)), code


def _package(options: argparse.Namespace) -> str:
    if options.preview or options.mapping is not None:
        raise InputError("A package comes in whole: neither a preview nor a mapping.")
    with open_place(options.file) as file:
        brought = package_into(file, options.source, terminal_progress("traces"))
    if options.json:
        said = {"rows": brought.rows, "traces": brought.traces, "changed": list(brought.changed)}
        return json.dumps(said, ensure_ascii=False)
    rows = sum(brought.rows.values())
    lines = [f"{file.name}: {rows} rows, {brought.traces} traces"]
    lines += [f"changed since it was exported: {name}" for name in brought.changed]
    return "\n".join(lines)


def _sheet(sheets: list[SheetRows], wanted: str, source: Path) -> SheetRows:
    if not wanted:
        return sheets[0]
    for sheet in sheets:
        if sheet.name == wanted:
            return sheet
    names = ", ".join(sheet.name for sheet in sheets)
    raise InputError(f"{source.name} has no sheet “{wanted}”.", f"There are: {names}.")


def _mapping(options: argparse.Namespace) -> TableMapping:
    path: Path = options.mapping
    try:
        return read_mapping(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is no UTF-8 text.") from error


def _said(plan: ImportPlan, mapping: TableMapping) -> dict[str, Any]:
    return {
        "format": "bruiser-import-1",
        "pulls": len(plan.rows),
        "already": plan.already,
        "lots": [lot.name for lot in plan.lots],
        "structures": [s.key for s in plan.structures],
        "knots": [k.structure for k in plan.knots],
        "lots_as": plan.lots_as,
        "knots_as": plan.knots_as,
        "columns": mapping.columns,
        "units": mapping.units,
        "decimal": mapping.decimal.value,
        "problems": [
            {"row": p.line, "column": p.column, "said": p.said, "remedy": p.remedy}
            for p in plan.problems
        ],
        "problem_count": plan.count,
    }


def _lines(plan: ImportPlan, preview: bool) -> list[str]:
    lines = [str(problem) for problem in plan.problems[:_MOST_SAID]]
    if plan.count > _MOST_SAID:
        lines.append(f"and {plan.count - _MOST_SAID} more (--json has the first hundreds)")
    if lines and not preview:
        return [*lines, "Nothing was stored."]
    verb = "would come in" if preview else "came in"
    lines.append(f"{len(plan.rows)} pulls {verb}, {plan.already} were there already")
    lines += [f"new lot: {lot.name}" for lot in plan.lots]
    lines += [f"new knot, only its name known: {s.key}" for s in plan.structures]
    lines += [f"“{name}” is {meant}" for name, meant in plan.knots_as.items()]
    return lines
