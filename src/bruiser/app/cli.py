"""The headless command line: ``bruiser-cli results FILE --json``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from bruiser.core.errors import BruiserError
from bruiser.formats.results_json import group_json, results_text
from bruiser.workshop.journal import Journal, read_journal
from bruiser.workshop.results import lot_results, say_result
from bruiser.workshop.workshop import open_workshop


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    parser = argparse.ArgumentParser(prog="bruiser-cli", description="Bruiser without a window.")
    commands = parser.add_subparsers(dest="command", required=True)
    results = commands.add_parser("results", help="rate the pulls of a campaign")
    results.add_argument("file", type=Path)
    results.add_argument("--json", action="store_true", help="print JSON")
    return parser.parse_args(arguments)


def campaign_groups(journal: Journal) -> list[dict[str, Any]]:
    """Every baseline and knot of a campaign."""
    groups = []
    for lot in journal.lots:
        found = lot_results(journal, lot)
        base = found.baseline
        rows: list[tuple[Any, ...]] = [
            (None, base.counts, base.estimate, None, base.sample.pull_ids)
        ]
        rows += [
            (r.knot.name, r.efficiency.counts, r.estimate, r.efficiency, r.sample.pull_ids)
            for r in found.knots
        ]
        groups += [group_json(lot.name, lot.condition, *row) for row in rows]
    return groups


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 2 when its input is at fault."""
    options = parse(arguments)
    try:
        workshop = open_workshop(options.file, read_only=True)
    except BruiserError as error:
        print(error, file=sys.stderr)
        return 2
    journal = read_journal(workshop)
    workshop.close()
    if options.json:
        print(results_text(campaign_groups(journal)))
        return 0
    for lot in journal.lots:
        print(f"{lot.name}, {lot.condition}")
        for row in lot_results(journal, lot).knots:
            print(f"  {say_result(row)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
