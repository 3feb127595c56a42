"""The headless command line: ``bruiser-cli results FILE --json``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from bruiser.core.errors import BruiserError, InputError
from bruiser.core.report import GroupResult, Report, make_report
from bruiser.formats.pull_table import group_pulls, read_pull_table
from bruiser.formats.results_json import report_json
from bruiser.store.campaign_file import looks_like_a_database
from bruiser.workshop.journal import read_journal
from bruiser.workshop.results import campaign_report
from bruiser.workshop.workshop import open_workshop


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    parser = argparse.ArgumentParser(prog="bruiser-cli", description="Bruiser without a window.")
    commands = parser.add_subparsers(dest="command", required=True)
    results = commands.add_parser(
        "results", help="rate the pulls of a campaign or a pull table (CSV)"
    )
    results.add_argument("file", type=Path)
    results.add_argument("--json", action="store_true", help="print JSON")
    return parser.parse_args(arguments)


def report_of(path: Path) -> Report:
    """Rate a campaign file or a pull table, told apart by their content.

    Raises
    ------
    BruiserError
        If it can be read as neither.
    """
    if looks_like_a_database(path):
        workshop = open_workshop(path, read_only=True)
        try:
            return campaign_report(read_journal(workshop))
        finally:
            workshop.close()
    try:
        text = path.read_text(encoding="utf-8")
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is neither a campaign nor UTF-8 text.") from error
    try:
        table = read_pull_table(text)
    except InputError as error:
        headline = f"{path.name} is not a campaign; as a pull table: {error.headline}"
        raise InputError(headline, error.remedy, where=error.where) from error
    for column in table.unknown_columns:
        print(f"note: column {column} is not known and was passed over", file=sys.stderr)
    return make_report(group_pulls(table))


def say_group(result: GroupResult) -> str:
    """One line for a group."""
    data = result.data
    where = ", ".join(part for part in (data.cordage, data.cordage_b, data.condition) if part)
    if data.knot is None or result.rated is None:
        found = result.estimate
        typical = "no estimate" if found is None else f"typically {found.median_n:.0f} N"
        return f"{where}: plain rope, {typical}, {data.counts.specimens} pulls"
    interval = result.rated.efficiency.interval
    if interval is None:
        why = "; ".join(str(c) for c in result.caveats)
        return f"{where}: {data.knot}, no interval ({why})"
    return (
        f"{where}: {data.knot} keeps between {100 * interval.low:.0f} and "
        f"{100 * interval.high:.0f} %, from {data.counts.specimens} pulls"
    )


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 2 when its input is at fault."""
    options = parse(arguments)
    try:
        report = report_of(options.file)
    except BruiserError as error:
        print(error, file=sys.stderr)
        return 2
    print(report_json(report) if options.json else "\n".join(map(say_group, report.groups)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
