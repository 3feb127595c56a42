"""``bruiser-cli export`` and ``merge``."""

from __future__ import annotations

import argparse
import json
from typing import Any

from bruiser.app.terminal import terminal_progress
from bruiser.core.errors import InputError
from bruiser.formats.package_traces import TraceKind
from bruiser.formats.pull_table import COLUMNS
from bruiser.formats.table_files import table_bytes, write_new_file
from bruiser.store.places import create_at, open_place
from bruiser.workshop.exchange.merge_files import look_at_merge, merge_into, opened_other
from bruiser.workshop.exchange.merging import Choices, Merged, MergeSide
from bruiser.workshop.exchange.packages import export_package
from bruiser.workshop.exchange.pull_table_out import LOT_COLUMNS, pull_rows
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

MOST_SAID = 20


def export_command(options: argparse.Namespace) -> str:
    """Write a campaign as a Data Package; returns what is printed.

    Raises
    ------
    BruiserError
        If the campaign cannot be read, or the folder not be written.
    """
    if options.pull_table:
        return _pull_table(options)
    with open_place(options.file, read_only=True) as file:
        kind = TraceKind[options.traces.upper()]
        count = export_package(file, options.folder, kind, terminal_progress("traces"))
    if options.json:
        return json.dumps({"folder": str(options.folder), "files": count}, ensure_ascii=False)
    return f"{options.folder}: {count} files"


def copy_command(options: argparse.Namespace) -> str:
    """Copy a whole campaign to a new place; returns what is printed.

    Raises
    ------
    BruiserError
        If it cannot be read, or the place is not new and empty.
    """
    with open_place(options.file, read_only=True) as file:
        create_at(options.to, file)
        name = file.name
    if options.json:
        return json.dumps({"from": str(options.file), "to": str(options.to)}, ensure_ascii=False)
    return f"{options.to}: all of {name}"


def _pull_table(options: argparse.Namespace) -> str:
    """The strength pulls as one plain table; OUT is its file."""
    workshop = open_workshop(options.file, read_only=True)
    try:
        rows, left = pull_rows(read_logbook(workshop))
    finally:
        workshop.close()
    headings = (*COLUMNS, *LOT_COLUMNS)
    cells = [[row[name] for name in headings] for row in rows]
    content = table_bytes(options.folder.suffix or ".csv", headings, cells)
    write_new_file(options.folder, content)
    if options.json:
        said = {"file": str(options.folder), "pulls": len(rows), "left_out": left}
        return json.dumps(said, ensure_ascii=False)
    return f"{options.folder}: {len(rows)} pulls, {left} of other kinds or excluded left out"


def _prefer(merged: Merged, side: str | None) -> Choices:
    """Whose word holds, as asked for."""
    return {} if side is None else {fact.key: MergeSide(side) for fact in merged.differing}


def merge_command(options: argparse.Namespace) -> str:
    """Merge another campaign into one, or only say what that would give.

    Raises
    ------
    BruiserError
        If one cannot be read, or this one not be written.
    """
    with (
        opened_other(options.other) as other,
        open_place(options.file, read_only=options.preview) as file,
    ):
        if file.read_only and not options.preview:
            raise InputError(f"{file.name} cannot be written. {file.why_read_only}")
        merged = look_at_merge(file, other, apart=options.apart)
        choices = _prefer(merged, options.prefer)
        if options.preview:
            merged = look_at_merge(file, other, choices, options.apart)
        else:
            tell = terminal_progress("traces")
            merged = merge_into(file, other, choices, options.apart, tell)
    if options.json:
        return json.dumps(merged_json(merged), ensure_ascii=False)
    return "\n".join(merged_lines(merged))


def merged_json(merged: Merged) -> dict[str, Any]:
    """What a merge brought, for others to read."""
    return {
        "format": "bruiser-merge-1",
        "added": {table: n for table, n in merged.added.items() if n},
        "differing": [
            {
                "table": f.table,
                "row": f.row,
                "about": f.about,
                "field": f.field,
                "mine": f.mine,
                "theirs": f.theirs,
                "taken": f.taken.value,
            }
            for f in merged.differing
        ],
        "renamed": [list(r) for r in merged.renamed],
        "corrected_twice": list(merged.corrected_twice),
    }


def merged_lines(merged: Merged) -> list[str]:
    """The same in words."""
    lines = [f"comes in: {merged.words}"]
    lines += [
        f"differs: {f.about}, {f.field}: mine {f.mine}, theirs {f.theirs}; taken: {f.taken.value}"
        for f in merged.differing[:MOST_SAID]
    ]
    if len(merged.differing) > MOST_SAID:
        lines.append(f"and {len(merged.differing) - MOST_SAID} more that differ (--json has all)")
    lines += [f"renamed: {before} is now {after}" for _, before, after in merged.renamed]
    lines += [
        f"corrected on both sides: {code}; the later correction holds"
        for code in merged.corrected_twice
    ]
    return lines
