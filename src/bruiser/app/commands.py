"""What ``bruiser-cli results``, ``trace`` and ``rig`` do."""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path
from typing import Any

from bruiser.core.beyond.across import Across, report_across
from bruiser.core.decimal_sign import DecimalMark
from bruiser.core.errors import InputError
from bruiser.core.memory import Memory
from bruiser.core.performance.report import GroupResult, Report, make_report
from bruiser.core.trace import TRACE_END_WORDS, TraceSettings, analyse_trace
from bruiser.formats.logger_file import LoggerHints, read_logger_file
from bruiser.formats.pull_groups import group_pulls
from bruiser.formats.pull_table import read_pull_table
from bruiser.formats.results_json import across_json, report_json
from bruiser.formats.trace_file import NEEDED, TraceFile, read_trace_file
from bruiser.formats.trace_json import trace_json
from bruiser.store.headers import looks_like_a_database
from bruiser.store.places import Place
from bruiser.store.server.address import ServerAddress
from bruiser.workshop.bench.simulation import serve_bench
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.guide.book import read_limits
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.results.across_sets import across_sets
from bruiser.workshop.results.across_words import note_words
from bruiser.workshop.results.lot_results import all_results, campaign_report


def read_text(path: Path) -> str:
    """A text file's content.

    Raises
    ------
    InputError
        If it cannot be read as UTF-8 text.
    """
    try:
        return path.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise InputError(f"{path.name} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is no UTF-8 text.") from error


def _trace(options: argparse.Namespace) -> TraceFile:
    """A trace under our own headings, or under any a logger writes."""
    try:
        return read_trace_file(read_text(options.file), options.rate)
    except InputError as error:
        if error.where != f"1:{NEEDED}" and not error.headline.endswith("is no UTF-8 text."):
            raise
        try:
            hints = LoggerHints(
                rate_hz=options.rate,
                load_unit=options.unit,
                travel_unit=options.travel_unit,
                decimal=DecimalMark(options.decimal),
            )
            record = read_logger_file(options.file, hints)
        except InputError as other:
            # Where nothing of it is clear, our own headings are what to write.
            raise (other if other.where else error) from other
        return TraceFile(record.trace, record.unused)


def trace_command(options: argparse.Namespace) -> int:
    """Analyse a logger's file and print what it shows."""
    file = _trace(options)
    for column in file.unknown_columns:
        print(f"note: column {column} is not known and was passed over", file=sys.stderr)
    diameter = None if options.diameter_mm is None else options.diameter_mm / 1000
    result = analyse_trace(
        file.trace,
        capacity_n=options.capacity_n,
        settings=TraceSettings(diameter_m=diameter),
    )
    if "implausible_rate" in result.flags:
        print("note: is the time in seconds? The rate cannot be right.", file=sys.stderr)
    if "reversed_columns" in result.flags:
        print("note: travel falls while load rises: are two columns swapped?", file=sys.stderr)
    if options.json:
        print(trace_json(result))
        return 0
    print(f"{TRACE_END_WORDS[result.end]} at {result.end_time_s:.3f} s; peak {result.peak_n:.0f} N")
    for doubt in result.doubts:
        print(f"doubt: {doubt}")
    return 0


def rig_command(options: argparse.Namespace) -> int:
    """Serve the simulated bench until interrupted; prints the path of its line."""
    device = serve_bench(
        options.cord,
        None if options.knot == "none" else options.knot,
        options.diameter_mm,
        options.rate,
        options.channels,
        options.seed,
    )
    print(device.path, flush=True)
    began = time.monotonic()
    try:
        device.serve(
            lambda: options.seconds is not None and time.monotonic() - began > options.seconds
        )
    except KeyboardInterrupt:
        print("stopped", file=sys.stderr)
    finally:
        device.close()
    return 0


def report_of(path: Place) -> tuple[Report, list[dict[str, Any]]]:
    """Rate a campaign or a pull table, told apart by their content; what it says across cordages.

    Raises
    ------
    BruiserError
        If it can be read as neither.
    """
    if isinstance(path, ServerAddress) or looks_like_a_database(path):
        workshop = open_workshop(path, read_only=True)
        try:
            logbook = read_logbook(workshop)
            sets = across_sets(all_results(gather(logbook)), Memory(), read_limits(workshop).across)
            return campaign_report(logbook), [
                {
                    **_across(one.across, one.alike.condition),
                    "method": one.alike.method,
                    "direction": one.alike.direction,
                    "dressing": one.alike.dressing,
                }
                for one in sets
            ]
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
    report = make_report(group_pulls(table))
    found = report_across(report.groups)
    return report, [_across(across, condition) for condition, across in found.items()]


def _across(across: Across, condition: str) -> dict[str, Any]:
    return across_json(across, condition, [note_words(note) for note in across.notes])


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


def results_command(options: argparse.Namespace) -> int:
    """Rate a campaign or a pull table and print what it says."""
    report, across = report_of(options.file)
    print(report_json(report, across) if options.json else "\n".join(map(say_group, report.groups)))
    return 0
