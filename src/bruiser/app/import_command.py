"""``bruiser-cli import``: a Data Package or a table of pulls into a campaign."""

from __future__ import annotations

import argparse
import json

from bruiser.app.terminal import terminal_progress
from bruiser.store.campaign_file import open_campaign
from bruiser.workshop.exchange.packages import package_into


def import_command(options: argparse.Namespace) -> str:
    """Bring in what was named; returns what is printed.

    Raises
    ------
    BruiserError
        If it cannot be read, or the campaign not be written; nothing is stored then.
    """
    with open_campaign(options.file) as file:
        brought = package_into(file, options.source, terminal_progress("traces"))
    if options.json:
        said = {"rows": brought.rows, "traces": brought.traces, "changed": list(brought.changed)}
        return json.dumps(said, ensure_ascii=False)
    rows = sum(brought.rows.values())
    lines = [f"{options.file.name}: {rows} rows, {brought.traces} traces"]
    lines += [f"changed since it was exported: {name}" for name in brought.changed]
    return "\n".join(lines)
